"""Finding wood by what people type; tables out and in; labels; a workshop's own species."""

import csv
import io
import re

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import SimpleTestCase

from calm_heron.stock import actions, labels, queries, table, tables, urls, woods
from calm_heron.stock.kinds import PieceKind
from calm_heron.stock.models import OwnSpecies, Piece
from calm_heron.stock.search import parse_search
from calm_heron.stock.tests.test_kinds_and_lots import StockCase
from tests.factories import make_board, make_lot, make_place
from tests.pages import text_of
from wood.species import species_named
from wood.units import INCH, METRIC


class Understanding(SimpleTestCase):
    def test_signs_are_told_from_words(self):
        for text, expected in (
            ("oak yard", {"words": ["oak", "yard"]}),
            ("8/4 lots", {"nominal": "8/4", "lots": True}),
            ("bowls oak", {"kinds": (PieceKind.BOWL,), "words": ["oak"]}),
            ("blanks", {"kinds": (PieceKind.BLANK, PieceKind.SPINDLE)}),
            (">x", {"words": [">x"]}),
            ("", {"words": [], "meanings": {}}),
        ):
            result = parse_search(text)
            for name, value in expected.items():
                with self.subTest(text):
                    self.assertEqual(getattr(result, name), value)


class Tables(StockCase):
    def send(self, text="", content=None, **more):
        sent = {"text": text, **more}
        if content is not None:
            sent["file"] = SimpleUploadedFile("stock.csv", content)
        return self.client.post(f"{self.stock}table/", sent)

    def test_pasted_text_that_is_no_table_stays_to_be_mended(self):
        page = self.send("colour,weight\nred,3")
        self.assertContains(page, "colour,weight", status_code=422)

    def test_a_table_goes_out_and_comes_back_the_same_in_both_systems(self):
        make_board(
            self.owner,
            "black_cherry",
            nominal="5/4",
            thickness_m=0.03175,
            place=make_place(self.owner, name="Höhe, Nord"),
            note='=1+1 "quoted"; ok',
        )
        make_lot(self.owner, 12, ring_angle_deg=61.5, has_pith=True, ends_sealed=True, source="the copse")
        make_board(self.owner, kind=PieceKind.LOG, thickness_m=0.4, width_m=0.4, length_m=3.2)
        names = [
            name
            for name in (field.name for field in Piece._meta.concrete_fields)
            if name not in ("id", "added_at", "version", "pith_distance_m")
        ]
        for system in (METRIC, INCH):
            self.owner.workshop.units = system.key
            self.owner.workshop.save()
            before = list(Piece.objects.order_by("tag").values(*names))
            text = "".join(table.write(queries.pieces(self.owner.workshop, parse_search("")), system))
            Piece.objects.all().delete()
            read = table.read(text, self.owner.workshop)
            self.assertEqual(([row.errors for row in read.wrong], read.ignored), ([], []))
            table.keep(self.owner, read.right)
            for item, other in zip(before, Piece.objects.order_by("tag").values(*names), strict=True):
                for name in names:
                    with self.subTest(f"{system.key} {name}"):
                        (self.assertAlmostEqual if name.endswith("_m") else self.assertEqual)(item[name], other[name])

    def test_no_cell_that_goes_out_is_a_formula(self):
        make_board(self.owner, note="=HYPERLINK(1)", source="@SUM(A1)", defects="-2+3")
        sent = self.client.get(f"{self.stock}table/stock.csv").getvalue().decode("utf-8-sig")
        rows = list(csv.reader(io.StringIO(sent)))
        for cell in rows[1]:
            self.assertFalse(cell.startswith(("=", "+", "-", "@")), cell)

    def test_nor_for_a_reader_that_goes_by_semicolons_and_what_comes_back_is_what_went(self):
        notes = ("dry;=1+1", "a; @SUM(A1);-2", "one\n=2", "'=quoted", "'';=x", "\t\t=", "plain; text", "-", "=;=;=", "5 - 3 = 2")
        for number, note in enumerate(notes):
            make_board(self.owner, tag=f"n-{number}", note=note)
        sent = self.client.get(f"{self.stock}table/stock.csv").getvalue().decode("utf-8-sig")
        for separator in ",;\t":
            for line in sent.splitlines():
                # As a reader does it whose quotation marks stand elsewhere: at every separator a cell begins.
                for cell in re.split(f"[{separator}]", line):
                    self.assertNotRegex(cell.strip(' "'), r"^[=+\-@]", line)
        self.assertEqual([tables.meant(tables.harmless(note)) for note in notes], list(notes))

    def test_a_column_that_holds_no_species_is_told_at_once(self):
        text = "species,width,thickness,length\n" + "".join(f"word{number},200,27,2 m\n" for number in range(10_000))
        with self.assertRaisesRegex(tables.NotATable, "More than 500 different species"):
            table.read(text, self.owner.workshop)

    def test_it_is_looked_at_before_anything_is_kept(self):
        text = "species;thickness;width;length;count\nwhite oak;5/4;200;2.4 m;3\nblack cherry;27;150;1800;\n"
        page = self.send(text, look="1")
        self.assertContains(page, "Add 2 pieces")
        self.assertEqual(Piece.objects.count(), 0)
        self.assertEqual(self.send(text, keep="1", once="k").status_code, 302)
        self.send(text, keep="1", once="k")
        self.assertEqual(list(Piece.objects.order_by("tag").values_list("tag", "count")), [("cherry-01", 1), ("oak-lot-01", 3)])

    def test_each_wrong_row_says_what_is_wrong_and_the_good_ones_can_go_first(self):
        text = (
            "tag,species,thickness,width,length,place,felled\n"
            "a-1,oak,27,200,2 m,,\n"
            "a-2,white oak,27,10,2 m,,\n"
            "a-3,white oak,27,200,2 m,Moon,\n"
            "=cmd,white oak,27,200,2 m,,\n"
            "a-5,white oak,27,200,2 m,,2999-01-01\n"
            "new,white oak,27,200,2 m,,\n"
            "a-7,white oak,27,200,2 m,,\n"
            "A-7,white oak,27,200,2 m,,\n"
        )
        page = self.send(text, look="1")
        for words in (
            "may be any of",
            "the wrong way round",
            "no place is called “Moon”",
            "begins like a formula",
            "in the future",
            "word of this application",
            "is there already",
        ):
            self.assertContains(page, words)
        self.assertEqual(len(page.context["read"].wrong), 7)
        after = self.send(text, keep="1", some="1")
        self.assertEqual([piece.tag for piece in Piece.objects.all()], ["a-7"])
        # What could not be taken is still there to be mended.
        self.assertContains(after, "Moon")
        self.assertNotContains(after, "\na-7,")

    def test_no_tag_hides_a_page(self):
        pages = {str(urlpattern.pattern).split("/")[0] for urlpattern in urls.urlpatterns if not str(urlpattern.pattern).startswith("<")}
        self.assertEqual(pages, set(table.NO_TAGS))
        for tag in (*table.NO_TAGS, "a/b", "..", "a b", "a?b", "x" * 33):
            with self.subTest(tag):
                self.assertIn(
                    "tag",
                    table.read(f"tag,species,thickness,width,length\n{tag},white oak,27,200,2 m\n", self.owner.workshop).wrong[0].errors,
                )

    def test_a_count_of_any_digits_is_read_or_refused(self):
        for count, wrong in (("0000000099999999999", True), ("9" * 5000, True), ("0", True), ("٣", True), ("007", False), ("", False)):
            with self.subTest(count[:20]):
                read = table.read(f"species,thickness,width,length,count\nwhite oak,27,200,2 m,{count}\n", self.owner.workshop)
                self.assertEqual("count" in read.rows[0].errors, wrong)

    def test_a_lot_whose_tag_holds_signs_is_taken_apart(self):
        lot = make_lot(self.owner, 40, tag="oak(2")
        self.assertEqual(actions.next_tag(self.owner.workshop, "oak(2-s"), "oak(2-s-01")
        actions.add_piece(self.owner, "white_oak", tag="OAK(2-S-07", thickness_m=0.03, width_m=0.2, length_m=2.0)
        self.assertEqual(actions.next_tag(self.owner.workshop, f"{lot.tag}-s"), "oak(2-s-08")

    def test_other_encodings_and_other_files_get_a_clear_answer(self):
        header = "species,thickness,width,length,note\n"
        good = f"{header}white oak,27,200,2 m,Größe\n"
        self.assertContains(self.send(content=good.encode("cp1252")), "Western European")
        self.assertContains(self.send(content=good.encode("utf-16")), "Add 1 piece")
        self.assertContains(self.send(content=good.encode("utf-8-sig")), "Add 1 piece")
        for content, words in (
            (b"PK\x03\x04rest", "a workbook"),
            (b"\x00\x01\x02", "no CSV file"),
            (b"", "The submitted file is empty"),
            (b"one,two\n1,2\n", "must name the columns"),
            (header.encode() + b'"white oak,27', "quotation mark"),
            (b"species,width,width\n", "Two columns"),
            (b"x" * 4_300_000, "larger than 4 MB"),
        ):
            with self.subTest(words):
                self.assertContains(self.send(content=content), words, status_code=422)
        self.assertContains(self.send("   "), "Choose a file", status_code=422)
        many = header + "white oak,27,200,2 m,\n" * 10_001
        self.assertContains(self.send(many), "more than 10000 rows", status_code=422)
        self.assertEqual(Piece.objects.count(), 0)


class Labels(StockCase):
    def test_labels_lie_inside_their_sheet_and_carry_the_address(self):
        pieces = [make_board(self.owner) for _ in range(3)]
        for sheet in labels.SHEETS.values():
            width, height = {"A4": (210, 297), "letter": (215.9, 279.4)}[sheet.paper]
            laid = labels.pages(pieces * 20, sheet, skip=2)
            self.assertEqual(sum(len(page) for page in laid), 60)
            self.assertEqual(len(laid[0]), sheet.each - 2)
            for label in laid[0]:
                self.assertLessEqual(label.left + sheet.width, width + 0.2)
                self.assertLessEqual(label.top + sheet.height, height + 0.2)

    def test_the_sheet_is_a_pdf_of_the_right_number_of_pages(self):
        for _ in range(12):
            make_board(self.owner)
        answer = self.client.get(f"{self.stock}labels/labels.pdf?sheet=a4-10&first=2")
        self.assertEqual((answer.headers["Content-Type"], answer.content[:5]), ("application/pdf", b"%PDF-"))
        pieces = queries.pieces(self.owner.workshop, parse_search(""))
        document = labels.pdf(pieces, labels.SHEETS["a4-10"], METRIC, lambda piece: piece.tag, skip=1)
        self.assertEqual((len(document.pages), round(document.w), round(document.h)), (2, 210, 297))
        self.assertEqual(self.client.get(f"{self.stock}labels/labels.pdf?sheet=moon").status_code, 422)
        self.assertContains(self.client.get(f"{self.stock}labels/?q=nothing"), "no piece to print")


class OwnFigures(StockCase):
    def send(self, key="new", **figures):
        path = "species/new/" if key == "new" else f"species/{key}/"
        return self.client.post(f"{self.stock}{path}", {"common_name": "Laburnum", "group": "hardwood", **figures})

    def test_own_figures_go_before_the_published_everywhere_and_can_be_dropped(self):
        board = make_board(self.owner)
        self.assertEqual(self.send("white_oak", shrinkage_tangential="9.2").status_code, 302)
        woods.forget()
        self.assertEqual(
            (board.species.shrinkage_tangential, board.species.shrinkage_radial), (0.092, species_named("white_oak").shrinkage_radial)
        )
        page = self.client.get(f"{self.stock}{board.tag}/")
        self.assertIn("used instead of the published 10.5", text_of(page))
        self.assertContains(self.client.get(f"{self.stock}species/"), "(published 10.5)")
        self.client.post(f"{self.stock}species/white_oak/drop/")
        woods.forget()
        self.assertEqual(board.species, species_named("white_oak"))

    def test_a_species_of_ones_own_is_found_used_and_not_dropped_while_it_is(self):
        self.send(specific_gravity_12="0.82")
        key = OwnSpecies.objects.get().key
        self.client.post(
            f"{self.stock}new/", {"species_key": "laburnum", "thickness_m": "30", "width_m": "150", "length_m": "1 m", "seasoning": "air"}
        )
        piece = Piece.objects.get()
        self.assertEqual((piece.species_key, piece.tag), (key, "laburnum-01"))
        for page in ("", "measure/", "movement/", "drying/"):
            self.assertEqual(self.client.get(f"{self.stock}{piece.tag}/{page}").status_code, 200, page)
        self.assertContains(self.client.post(f"{self.stock}species/{key}/drop/", follow=True), "give them another species first")

    def test_radial_above_tangential_is_asked_back_and_allowed(self):
        figures = {"shrinkage_radial": "9", "shrinkage_tangential": "6"}
        question = self.send(**figures)
        self.assertContains(question, "the wrong way round", status_code=422)
        self.assertContains(question, 'value="9"', status_code=422)
        self.assertEqual(self.send(**figures, surely="on").status_code, 302)
        self.assertEqual(OwnSpecies.objects.get().shrinkage_radial, 0.09)

    def test_impossible_figures_are_refused_beside_their_field(self):
        for sent, field in (
            ({"specific_gravity_12": "7"}, "specific_gravity_12"),
            ({"specific_gravity_12": "nan"}, "specific_gravity_12"),
            ({"shrinkage_radial": "40"}, "shrinkage_radial"),
            ({"fibre_saturation": "5"}, "fibre_saturation"),
            ({}, "specific_gravity_12"),
            ({"specific_gravity_green": "0.8", "specific_gravity_12": "0.7"}, "specific_gravity_12"),
            ({"common_name": "", "specific_gravity_12": "0.7"}, "common_name"),
        ):
            with self.subTest(sent):
                self.assertEqual(list(self.send(**sent).context["form"].errors), [field])
        self.assertEqual(self.client.get(f"{self.stock}species/no_such_wood/").status_code, 404)
