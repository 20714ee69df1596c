"""Boards: what is kept, tags, search, bad input, two people at one board."""

from concurrent.futures import ThreadPoolExecutor

from django.db import connection
from django.test import TestCase

from calm_heron.stock import queries
from calm_heron.stock.actions import add_piece, change_piece
from calm_heron.stock.drawings import grain_pictures
from calm_heron.stock.models import Piece
from calm_heron.stock.search import parse_search
from calm_heron.workshops.refusals import Refused
from tests.cases import Committing
from tests.counting import query_count
from tests.factories import make_board, make_owner, make_place, read_board

BOARD = {"species_key": "white oak", "thickness_m": "5/4", "width_m": "200", "length_m": "2.4 m", "grain": "rift", "seasoning": "air"}


class BoardCase(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.owner = make_owner()
        cls.stock = f"/w/{cls.owner.workshop.slug}/stock/"

    def setUp(self):
        self.client.force_login(self.owner.person)

    def send(self, **changes):
        return self.client.post(f"{self.stock}new/", {**BOARD, **changes})

    def errors(self, **changes):
        answer = self.send(**changes)
        self.assertEqual(answer.status_code, 422)
        for name, typed in changes.items():
            if isinstance(typed, str) and len(typed) < 30 and "<" not in typed and typed and name != "grain":
                self.assertContains(answer, f'value="{typed}"', status_code=422)
        return answer.context["form"].errors


class Adding(BoardCase):
    def test_sealed_ends_are_kept_and_can_be_unsaid(self):
        self.send(ends_sealed="on")
        piece = Piece.objects.latest("id")
        self.assertTrue(piece.ends_sealed)
        address = f"/w/{self.owner.workshop.slug}/stock/{piece.tag}/change/"
        self.assertContains(self.client.get(address), 'name="ends_sealed" id="f-ends_sealed" checked')
        self.client.post(address, {**BOARD, "version": str(piece.version)})
        self.assertFalse(Piece.objects.get(pk=piece.pk).ends_sealed)

    def test_a_board_gets_the_next_tag_of_its_kind_and_keeps_its_nominal_size(self):
        answer = self.send()
        self.assertTrue(answer.headers["Location"].endswith("/oak-01/measure/"))
        self.send(species_key="northern red oak")
        self.send(species_key="tulip poplar")
        self.assertEqual(list(Piece.objects.order_by("id").values_list("tag", flat=True)), ["oak-01", "oak-02", "poplar-01"])
        board = Piece.objects.get(tag="oak-01")
        self.assertEqual((board.nominal, board.grain, board.ring_angle_deg), ("5/4", "Rift", 45))
        self.assertAlmostEqual(board.thickness_m, 0.03175)

    def test_a_ring_angle_wins_over_the_picture(self):
        self.send(ring_angle_deg="72")
        self.assertEqual(Piece.objects.get().ring_angle_deg, 72)

    def test_sizes_that_cannot_be_are_refused_beside_their_field(self):
        for name, typed, words in (
            ("thickness_m", "1 3/0", "under the line"),
            ("thickness_m", "5//4", "not a fraction"),
            ("thickness_m", "123456789", "is out of range"),
            ("width_m", "-200", "is out of range"),
            ("width_m", "10", "less than the thickness"),
            ("length_m", "", "still empty"),
            ("length_m", "1e5", "is not a size"),
        ):
            with self.subTest(typed):
                errors = self.errors(**{name: typed})
                self.assertEqual(list(errors), [name])
                self.assertIn(words, " ".join(errors[name]))
        self.assertEqual(self.errors(ring_angle_deg="95").keys(), {"ring_angle_deg"})
        self.assertEqual(self.errors(ring_angle_deg="nan").keys(), {"ring_angle_deg"})
        self.assertEqual(self.errors(pith_distance_m="9 m").keys(), {"pith_distance_m"})
        self.assertEqual(Piece.objects.count(), 0)

    def test_an_unclear_species_is_asked_back_with_the_choices(self):
        self.assertIn("may be any of", self.errors(species_key="oak")["species_key"][0])
        self.assertIn("No species is called", self.errors(species_key="plastic")["species_key"][0])
        self.assertContains(self.client.get(f"{self.stock}species/found/?species_key=hard maple"), "Sugar maple")
        self.assertContains(self.client.get(f"{self.stock}species/found/?species_key=xyzzy"), "No species is called that")

    def test_markup_in_a_note_stays_text(self):
        self.send(note="<script>alert(1)</script>")
        self.assertContains(self.client.get(f"{self.stock}?q=script"), "oak-01")
        page = self.client.get(f"{self.stock}oak-01/change/")
        self.assertNotContains(page, "<script>alert")
        self.assertContains(page, "&lt;script&gt;alert")

    def test_the_same_form_sent_twice_makes_one_board(self):
        first, second = self.send(once="x"), self.send(once="x")
        self.assertEqual(first.headers["Location"], second.headers["Location"])
        self.assertEqual(Piece.objects.count(), 1)


class Finding(BoardCase):
    def test_every_word_must_be_met_by_tag_species_place_or_note(self):
        place = make_place(self.owner, name="North loft")
        make_board(self.owner, "white_oak", place=place, note="for doors")
        make_board(self.owner, "black_cherry", place=place)
        for text, tags in (
            ("oak", ["oak-01"]),
            ("loft", ["cherry-01", "oak-01"]),
            ("loft cherry", ["cherry-01"]),
            ("doors", ["oak-01"]),
            ("quercus", ["oak-01"]),
            ("ebony", []),
        ):
            with self.subTest(text):
                self.assertEqual(sorted(queries.pieces(self.owner.workshop, parse_search(text)).values_list("tag", flat=True)), tags)

    def test_tags_are_found_however_their_letters_are_typed(self):
        make_board(self.owner)
        self.assertEqual(self.client.get(f"{self.stock}OAK-01/").status_code, 200)
        self.assertEqual(self.client.get(f"{self.stock}oak-99/").status_code, 404)

    def test_the_list_asks_the_same_number_of_queries_for_one_and_for_fifty(self):
        read_board(self.owner, make_board(self.owner), 9)
        first = query_count(self.client, self.stock)
        for _ in range(49):
            make_board(self.owner)
        self.assertEqual(query_count(self.client, self.stock), first)

    def test_hostile_searches_and_pages_are_just_answers(self):
        make_board(self.owner)
        for question in ("?q=%27%3B--", "?q=" + "x" * 500, "?page=-1", "?page=zebra", "?q=(((.*"):
            self.assertEqual(self.client.get(self.stock + question).status_code, 200, question)
        self.assertEqual(self.client.get(f"{self.stock}?q=%00").status_code, 400)
        self.assertEqual(self.client.get(f"{self.stock}a%00b/").status_code, 400)


class TwoPeople(BoardCase):
    def test_the_second_to_keep_a_board_is_told_and_keeps_what_they_typed(self):
        board = make_board(self.owner)
        change_piece(self.owner, board, 1, width_m=0.19)
        with self.assertRaises(Refused):
            change_piece(self.owner, board, 1, width_m=0.15)
        address = f"{self.stock}{board.tag}/change/"
        answer = self.client.post(address, {**BOARD, "width_m": "150", "version": "1"})
        self.assertContains(answer, "was first: “oak-01 changed: width”", status_code=422)
        self.assertContains(answer, 'value="150"', status_code=422)
        board.refresh_from_db()
        self.assertEqual(board.width_m, 0.19)
        self.assertEqual(
            self.client.post(address, {**BOARD, "width_m": "150", "version": answer.context["piece"].version}).status_code, 302
        )
        board.refresh_from_db()
        self.assertEqual(board.width_m, 0.15)


class Unchanged(BoardCase):
    def test_opening_and_keeping_a_board_changes_nothing_in_either_system(self):
        for units in ("metric", "inch"):
            self.owner.workshop.units = units
            self.owner.workshop.save()
            for sizes in (
                {"thickness_m": 0.03175, "nominal": "5/4"},
                {"thickness_m": 0.0301234, "width_m": 0.2345678, "ring_angle_deg": 33.3},
            ):
                board = make_board(self.owner, **sizes)
                before = Piece.objects.filter(pk=board.pk).values().get()
                address = f"{self.stock}{board.tag}/change/"
                form = self.client.get(address).context["form"]
                answer = self.client.post(address, {field.name: field.value() if field.value() is not None else "" for field in form})
                self.assertEqual(answer.status_code, 302)
                after = Piece.objects.filter(pk=board.pk).values().get()
                for name in before:
                    if isinstance(before[name], float):
                        self.assertAlmostEqual(after[name], before[name], places=9, msg=f"{name} in {units}")
                    elif name != "version":
                        self.assertEqual(after[name], before[name], name)


class AtOnce(Committing):
    def test_boards_added_at_the_same_moment_get_different_tags(self):
        owner = make_owner()

        def add(_):
            try:
                return add_piece(owner, "white_oak", thickness_m=0.03, width_m=0.2, length_m=2.0).tag
            finally:
                connection.close()

        with ThreadPoolExecutor(4) as pool:
            tags = list(pool.map(add, range(8)))
        self.assertEqual(sorted(tags), [f"oak-{i:02d}" for i in range(1, 9)])


class Pictures(TestCase):
    def test_the_three_grains_are_drawn_from_real_rings(self):
        flat, rift, quarter = grain_pictures()
        self.assertTrue(all(len(picture.rings) > 8 for picture in (flat, rift, quarter)))

        def lean(picture):
            ring = [tuple(map(float, pair.split())) for pair in max(picture.rings, key=len)[1:].split("L")]
            return abs(ring[0][1] - ring[-1][1]) / (abs(ring[0][0] - ring[-1][0]) + 1e-9)

        self.assertLess(lean(flat), lean(rift))
        self.assertLess(lean(rift), lean(quarter))
