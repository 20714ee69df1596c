"""The pages of builds: what they say, what they refuse beside which field, and that nothing typed is lost."""

import io
from datetime import timedelta

from django.urls import reverse
from django.utils import timezone
from pypdf import PdfReader

from calm_heron.builds import actions, parts_table
from calm_heron.builds.bench import sheet
from calm_heron.builds.layouts import layout_words
from calm_heron.builds.models import Build, BuildPart, Cut, GlueUp, Mark
from calm_heron.builds.tests.bench import Bench, part
from calm_heron.stock.models import Piece
from calm_heron.stock.tables import NotATable, TypedTable
from tests.pages import text_of
from wood.written import cut_sizes


def pdf_text(content: bytes) -> str:
    """The words of a PDF, its pages one after the other."""
    return " ".join(" ".join(page.extract_text().split()) for page in PdfReader(io.BytesIO(content)).pages)


class Pages(Bench):
    def setUp(self):
        super().setUp()
        self.client.force_login(self.owner.person)

    def at(self, name: str, *more) -> str:
        return reverse(name, args=[self.owner.workshop.slug, self.build.pk, *more])

    def version(self) -> int:
        return Build.objects.get(pk=self.build.pk).version


class Beginning(Pages):
    def test_a_first_build_is_begun_from_nothing(self):
        Build.objects.all().delete()
        page = self.client.get(reverse("builds", args=[self.owner.workshop.slug]))
        self.assertContains(page, "Nothing is being built yet")
        typed = {"name": "Stool", "place": self.room.pk, "use_key": "fine", "kerf_m": "3", "end_m": "25", "sapwood_out": "on"}
        made = self.client.post(reverse("new_build", args=[self.owner.workshop.slug]), typed, follow=True)
        self.assertContains(made, "What is Stool made of?")
        added = self.client.post(
            made.redirect_chain[-1][0],
            {
                "name": "Leg",
                "count": "4",
                "species_key": "white oak",
                "length_m": "450",
                "width_m": "30",
                "thickness_m": "30",
                "staves": "1",
            },
            follow=True,
        )
        self.assertContains(added, "Leg added.")
        self.assertContains(added, "1 part so far")

    def test_a_day_that_is_past_is_told_beside_it_and_the_rest_stays(self):
        past = (timezone.localdate() - timedelta(days=2)).isoformat()
        page = self.client.post(
            reverse("new_build", args=[self.owner.workshop.slug]),
            {"name": "Cradle", "place": self.room.pk, "use_key": "fine", "due": past, "kerf_m": "3", "end_m": "25"},
        )
        self.assertEqual(page.status_code, 422)
        self.assertIn("That day is past", str(page.context["form"].errors["due"]))
        self.assertContains(page, 'value="Cradle"', status_code=422)

    def test_absurd_fields_are_told_beside_them(self):
        for field, value, words in (
            ("kerf_m", "80", "is out of range"),
            ("end_m", "x", ""),
            ("due", "31.2.2027", "That isn’t a date"),
            ("coats", "3.5", "whole number"),
        ):
            typed = {"name": "Cradle", "place": self.room.pk, "use_key": "fine", "kerf_m": "3", "end_m": "25"} | {field: value}
            page = self.client.post(reverse("new_build", args=[self.owner.workshop.slug]), typed)
            self.assertIn(words, str(page.context["form"].errors[field]))
        page = self.client.post(reverse("new_build", args=[self.owner.workshop.slug]), typed | {"coats": "6", "finish": "paraffin_dipped"})
        self.assertIn("tested with", str(page.context["form"].errors["coats"]))

    def test_deleted_while_it_holds_wood_it_asks_first(self):
        self.board()
        self.add(part())
        self.lay()
        page = self.client.post(self.at("delete_build"))
        self.assertEqual(page.status_code, 422)
        self.assertContains(page, "Say that its wood may go back", status_code=422)
        self.client.post(self.at("delete_build"), {"let_go": "on"})
        self.assertFalse(Build.objects.filter(pk=self.build.pk).exists())

    def test_a_part_of_a_species_without_figures_is_kept_and_says_what_is_not_known(self):
        odd = self.board(0.1, species="live_oak")
        self.add(part("Peg", species_key="live_oak", stock=odd))
        page = text_of(self.client.get(self.at("build")))
        self.assertIn("Peg", page)


class Tables(Pages):
    HEAD = "part\tcount\tlength\twidth\tthickness\tspecies\n"

    def read(self, text: str) -> TypedTable:
        return parts_table.read(text, self.build)

    def test_rows_copied_from_a_spreadsheet_are_read(self):
        result = self.read(self.HEAD + "Leg\t4\t700\t45\t45\twhite oak\nRail\t2\t1200\t70\t20\twhite oak\n")
        self.assertEqual([len(row.errors) for row in result.rows], [0, 0])
        self.assertEqual([row.values["count"] for row in result.rows], [4, 2])
        self.assertAlmostEqual(result.rows[1].values["length_m"], 1.2)

    def test_names_of_columns_in_other_words_and_order_and_none_at_all(self):
        row = self.read("Qty;Wood;Name;L;W;T\n2;white oak;Rail;1200;70;20\n").rows[0]
        two = self.read("Rail,2,1200,70,20,white oak\n").rows[0]
        self.assertEqual(row.values, two.values)

    def test_what_cannot_be_read_is_told_row_by_row(self):
        board = self.board()
        result = self.read(
            "part,count,length,width,thickness,species,grain,glued from,from\n,1,700,45,45,white oak,,,\nA,0,700,45,45,white"
            " oak,,,\nB,1,x,45,45,white oak,,,\nC,1,700,45,45,moon oak,,,\nD,1,700,45,45,white oak,wild,,\nE,1,700,45,45,white"
            f" oak,,99,\nF,1,700,45,45,white oak,,,nothing-01\nG,1,99999,45,45,white oak,,,\nH,1,700,45,45,white oak,flat,2,{board.tag}\n"
        )
        self.assertEqual(
            [next(iter(row.errors), "") for row in result.rows],
            ["part", "count", "length", "species", "grain", "glued from", "from", "length", ""],
        )
        self.assertEqual(result.rows[-1].values["stock"], board)

    def test_formulas_are_not_carried_out(self):
        result = self.read(
            self.HEAD + '=HYPERLINK("x")\t1\t700\t45\t45\twhite oak\n\'=A1\t1\t700\t45\t45\twhite oak\nB\t=2+2\t700\t45\t45\twhite oak\n'
        )
        self.assertIn("formula", result.rows[0].errors["part"])
        self.assertEqual(result.rows[1].values["name"], "=A1")
        self.assertIn("formula", result.rows[2].errors["count"])

    def test_a_count_of_any_digits_is_refused(self):
        read = self.read("part\tcount\tlength\twidth\tthickness\tspecies\nSide\t0000000099999999999\t400\t200\t20\twhite oak")
        self.assertIn("count", read.rows[0].errors)

    def test_five_hundred_rows_are_too_many_and_it_says_so(self):
        text = self.HEAD + "Rail\t1\t700\t45\t20\twhite oak\n" * 500
        with self.assertRaisesMessage(NotATable, "These are 500 rows"):
            self.read(text)
        page = self.client.post(self.at("build_parts"), {"table": "1", "text": text})
        self.assertEqual(page.status_code, 422)
        self.assertEqual(page.content.decode().count("Rail\t1\t700"), 500)
        self.assertFalse(BuildPart.objects.exists())

    def test_what_is_no_table_is_told(self):
        for text, words in (
            ("", "no rows"),
            ("part,length\nx,1", "is not among them"),
            ("a\0b", "null characters"),
            ('part,count,length\n"x', "quotation mark"),
        ):
            with self.subTest(text), self.assertRaises(NotATable) as refusal:
                self.read(text)
            self.assertTrue(words in str(refusal.exception) or "not among" in str(refusal.exception), refusal.exception)

    def test_a_table_is_looked_at_first_and_kept_when_it_is_meant(self):
        typed = {"table": "1", "text": self.HEAD + "Leg\t4\t700\t45\t45\twhite oak\n"}
        looked = self.client.post(self.at("build_parts"), typed)
        self.assertContains(looked, "Add these parts?")
        self.assertFalse(BuildPart.objects.exists())
        self.client.post(self.at("build_parts"), typed | {"keep": "1", "once": "a"})
        self.client.post(self.at("build_parts"), typed | {"keep": "1", "once": "a"})
        self.assertEqual([part.count for part in BuildPart.objects.all()], [4])

    def test_a_file_is_read_as_well_and_rows_that_are_wrong_keep_all_out(self):
        file = io.BytesIO(
            ("part,count,length,width,thickness,species\nLeg,4,700,45,45,white oak\nRail,2,700,oops,20,white oak\n").encode("utf-8-sig")
        )
        file.name = "parts.csv"
        page = self.client.post(self.at("build_parts"), {"table": "1", "keep": "1", "file": file})
        self.assertContains(page, "cannot be read yet")
        self.assertContains(page, "oops")
        self.assertFalse(BuildPart.objects.exists())


class Boards(Pages):
    def setUp(self):
        super().setUp()
        self.plank = self.board(self.mean)
        self.rail = self.add(part())[0]

    def test_the_page_lays_and_draws(self):
        page = self.client.get(self.at("build_layout"))
        self.assertContains(page, "Nothing placed yet")
        page = self.client.post(self.at("lay_out"), {"version": self.version()}, follow=True)
        self.assertContains(page, "1 board")
        self.assertContains(page, f'data-piece="{self.rail.pk}.0"')
        self.assertContains(page, "Across at")

    def test_parts_without_room_are_named(self):
        self.add(part("Long one", length_m=5.0))
        page = self.client.post(self.at("lay_out"), {"version": self.version()}, follow=True)
        self.assertContains(page, "No board has room for 2 of Long one")
        self.assertContains(page, "still to place")

    def test_one_laid_by_hand_in_a_wrong_place_keeps_what_was_typed(self):
        page = self.client.post(
            self.at("place_piece"),
            {"piece": f"{self.rail.pk}.0", "board": f"{self.plank.pk}.1", "x_m": "2350", "y_m": "10", "version": self.version()},
        )
        self.assertEqual(page.status_code, 422)
        self.assertIn("over the edge", str(page.context["form_hand"].errors["x_m"]))
        self.assertContains(page, 'value="2350"', status_code=422)

    def test_a_mark_drawn_over_a_piece_takes_it_off(self):
        self.client.post(self.at("lay_out"), {"version": self.version()})
        held = self.build.held.get()
        page = self.client.post(
            self.at("mark_board"), {"board": held.key, "kind": "knot", "x0_m": "10", "x1_m": "900", "y0_m": "0", "y1_m": "190"}, follow=True
        )
        self.assertContains(page, "came off")
        wrong = self.client.post(
            self.at("mark_board"), {"board": held.key, "kind": "knot", "x0_m": "10", "x1_m": "9000", "y0_m": "0", "y1_m": "190"}
        )
        self.assertIn(wrong.status_code, (404, 422))
        self.assertEqual(Mark.objects.count(), 1)

    def test_a_mark_that_ends_before_it_begins_is_told(self):
        self.client.post(self.at("lay_out"), {"version": self.version()})
        page = self.client.post(
            self.at("mark_board"),
            {"board": self.build.held.get().key, "kind": "knot", "x0_m": "90", "x1_m": "20", "y0_m": "0", "y1_m": "50"},
        )
        self.assertContains(page, "It ends before it begins", status_code=422)

    def test_pressed_twice_it_is_laid_once(self):
        typed = {"version": self.version(), "once": "same"}
        self.client.post(self.at("lay_out"), typed)
        self.client.post(self.at("lay_out"), typed)
        self.assertEqual(Cut.objects.count(), 2)

    def test_the_piece_says_for_what_it_is_held(self):
        self.client.post(self.at("lay_out"), {"version": self.version()})
        page = text_of(self.client.get(reverse("piece", args=[self.owner.workshop.slug, self.plank.tag])))
        self.assertIn("Held for Bench", page)

    def test_the_build_and_the_board_say_the_same(self):
        wet = self.board(0.15)
        self.add(part("Top", stock=wet, count=1))
        result = self.client.get(self.at("build"))
        drying = self.client.get(reverse("piece_drying", args=[self.owner.workshop.slug, wet.tag]), self.build.purpose_in_address)
        self.assertAlmostEqual(result.context["state"].latest.days if result.context["state"].latest else -1, -1)
        self.rail.delete()
        again = self.client.get(self.at("build"))
        self.assertAlmostEqual(again.context["state"].latest.days, drying.context["answer"].days, 6)


class Sheets(Pages):
    def setUp(self):
        super().setUp()
        for _ in range(4):
            self.board(self.mean, length_m=0.9, width_m=0.12)
        self.board(self.mean, length_m=1.5, width_m=0.12)
        self.add(
            part("Top", count=1, length_m=0.8, width_m=0.3, staves=3, fit="fixed"),
            part("Panel", count=1, fit="groove"),
            part("Front", count=1, fit="inset"),
        )
        self.lay()

    def test_the_sheet_has_sizes_gaps_joints_and_each_board_with_its_cuts_in_order(self):
        answer = self.client.get(self.at("build_sheet"))
        self.assertEqual((answer.status_code, answer["Content-Type"]), (200, "application/pdf"))
        state = self.stands()
        words = [sheet._words(part, self.owner.workshop.system) for part in state.parts]
        self.assertIn("slots", words[0].beside)
        text = pdf_text(answer.content)
        for said in words:
            self.assertIn(said.name.replace("  ", " "), text)
            self.assertIn(said.cut, text)
        for held in state.saw.held:
            for n, cut in enumerate(layout_words.cuts(state.saw.sawn(held), self.owner.workshop.system), 1):
                self.assertIn(f"{n} {cut}", text)
        joints = sheet._panels(state)
        self.assertIn("|1-1|", joints[0])
        self.assertIn("|2-2|", joints[0])

    def test_each_place_has_a_sheet_of_its_own_on_the_paper_that_is_chosen(self):
        self.assertContains(self.client.get(self.at("build_sheets")), "for the rack")
        held = self.stands().saw.held[0]
        wanted = {"bench": "Cut today to", "saw": "Across at", "glue": "|1-1|", "rack": f"{held.name}"}
        for kind, words in wanted.items():
            for paper, turned, size in (("a4", "portrait", (595, 842)), ("letter", "landscape", (792, 612))):
                answer = self.client.get(self.at("build_sheet"), {"kind": kind, "paper": paper, "turned": turned})
                first = PdfReader(io.BytesIO(answer.content)).pages[0]
                self.assertEqual((round(float(first.mediabox.width)), round(float(first.mediabox.height))), size)
                self.assertIn(words, pdf_text(answer.content))
        self.assertNotIn("Across at", pdf_text(self.client.get(self.at("build_sheet"), {"kind": "rack"}).content))
        wrong = self.client.get(self.at("build_sheet"), {"kind": "wall"})
        self.assertContains(wrong, "What do I print?", status_code=422)

    def test_sizes_are_read_back_from_sheet_labels_and_cut_list_as_they_are_cut(self):
        """Long ones above all: nothing is rounded to feet or metres, and none is cut short to fit its column."""
        for units, cut_to, wanted in (
            ("metric", 64, "1838.3 × 60.3 × 20.6 mm"),
            ("inch", 64, "72 3/8 × 2 3/8 × 13/16 in"),
            ("inch", 32, "72 3/8 × 2 3/8 × 13/16 in"),
        ):
            shop = self.owner.workshop
            shop.units, shop.cut_to = units, cut_to
            shop.save()
            self.build.parts.filter(name="Long rail").delete()
            self.add(part("Long rail", count=2, length_m=1.838325, width_m=0.060325, thickness_m=0.0206375))
            sheet_text, label_text = (pdf_text(self.client.get(self.at(name)).content) for name in ("build_sheet", "build_labels"))
            self.assertIn(wanted, sheet_text)
            rail = BuildPart.objects.get(name="Long rail")
            self.assertIn(f"rough {cut_sizes(rail.rough_m, shop.system)}", label_text)
            for text in (sheet_text, label_text):
                self.assertNotRegex(text, r"\d ft\b|\d\.\d\d m\b")
            page = text_of(self.client.get(self.at("build")))
            self.assertIn(wanted.split(" × ")[0], page)

    def test_many_parts_go_on_to_another_page(self):
        self.add(*[part(f"Part number {n}", count=1) for n in range(120)])
        answer = self.client.get(self.at("build_sheet"))
        self.assertGreater(answer.content.count(b"/Type /Page\n"), 1)

    def test_each_piece_has_a_label(self):
        answer = self.client.get(self.at("build_labels"))
        self.assertEqual(answer.content[:5], b"%PDF-")

    def test_the_glue_up_is_drawn_and_kept(self):
        top = BuildPart.objects.get(name="Top")
        page = self.client.get(self.at("build_glue", top.pk))
        self.assertContains(page, "Alike")
        self.assertContains(page, "By turns")
        saved = {"order": "[[2,true,false],[1,false,false],[0,true,true]]", "pairs": "1 2", "note": "cathedral on top"}
        self.client.post(self.at("build_glue", top.pk), saved)
        self.assertEqual(GlueUp.objects.get().order[0], [2, True, False])
        fragment = self.client.get(
            self.at("build_glue", top.pk), {"fragment": "panel", "order": "[[0,true,false],[1,true,false],[2,true,false]]"}
        )
        self.assertContains(fragment, "as they lie")
        self.assertNotContains(fragment, "<html")

    def test_an_order_that_is_none_is_told(self):
        top = BuildPart.objects.get(name="Top")
        for order in ("", "x", "[[0,1,1]]", "[[0,1,1],[0,1,1],[0,1,1]]", "[" * 900, "[[1e400,1,1]]"):
            page = self.client.post(self.at("build_glue", top.pk), {"order": order})
            self.assertEqual(page.status_code, 422, order)
        page = self.client.post(self.at("build_glue", top.pk), {"order": "[[0,true,false],[1,true,false],[2,true,false]]", "pairs": "1 9"})
        self.assertIn("is no pair", str(page.context["form"].errors["pairs"]))
        self.assertFalse(GlueUp.objects.exists())

    def test_milling_says_how_long_it_rests(self):
        page = text_of(self.client.get(self.at("build_milling")))
        self.assertIn("A night after the first pass", page)

    def test_when_it_can_be_begun_is_answered_for_what_waits(self):
        self.assertContains(self.client.get(self.at("build_begin")), "start sooner")
        wet = self.board(0.15)
        self.add(part("Shelf", stock=wet, count=1))
        page = self.client.get(self.at("build_begin"), {"skim_m": "1", "ends_m": "40"})
        self.assertContains(page, "On stickers, air all round")
        self.assertContains(page, wet.tag)
        wrong = self.client.get(self.at("build_begin"), {"skim_m": "900"})
        self.assertIn("is out of range", str(wrong.context["form"].errors["skim_m"]))


class WhichWood(Pages):
    def test_outdoors_heartwood_decides(self):
        page = text_of(self.client.get(reverse("anybody_wood_for"), {"stands": "rain"}))
        self.assertIn("Black cherry yes resistant", page)
        self.assertIn("feet off the wet ground", page)

    def test_hardness_and_stock_narrow_it(self):
        self.board()
        page = self.client.get(reverse("ask_wood_for", args=[self.owner.workshop.slug]), {"stands": "indoors", "stock": "on"})
        self.assertEqual([choice.species.key for choice in page.context["worked"].choices], ["white_oak"])
        none = self.client.get(reverse("ask_wood_for", args=[self.owner.workshop.slug]), {"stands": "indoors", "hard": "29000"})
        self.assertContains(none, "No wood")

    def test_nonsense_is_told(self):
        page = self.client.get(reverse("anybody_wood_for"), {"stands": "moon", "hard": "-3"})
        self.assertEqual(set(page.context["form"].errors), {"stands", "hard"})


class Gone(Pages):
    def test_what_is_not_there_is_not_found(self):
        for address in (self.at("edit_part", 999), self.at("build_glue", 999), reverse("build", args=[self.owner.workshop.slug, 999])):
            self.assertEqual(self.client.get(address).status_code, 404)
        self.assertEqual(self.client.post(self.at("delete_part", 999)).status_code, 404)

    def test_boards_of_a_lot_split_away_are_still_told(self):
        self.board(self.mean)
        rail = self.add(part())[0]
        self.lay()
        Piece.objects.update(status="used")
        self.assertContains(self.client.get(self.at("build")), "No longer in stock")
        actions.delete_part(self.owner, rail)
        self.assertContains(self.client.get(self.at("build")), "No parts yet")
