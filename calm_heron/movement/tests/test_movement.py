"""Movement of a board: figures, drawing, dragging, and what is not known."""

from django.test import TestCase

from calm_heron.movement import drawings, queries
from calm_heron.stock.models import Piece
from tests.factories import make_board, make_shop, read_board
from wood.errors import NotKnown
from wood.movement.section import pith_for
from wood.units import METRIC


class MovementCase(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.owner, cls.place, cls.meter, _ = make_shop()
        cls.board = make_board(cls.owner, "black_cherry", width_m=0.2, thickness_m=0.025, ring_angle_deg=0.0, pith_distance_m=1.5)
        cls.address = f"/w/{cls.owner.workshop.slug}/stock/{cls.board.tag}/movement/"

    def setUp(self):
        self.client.force_login(self.owner.person)


class Figures(MovementCase):
    def test_a_flat_board_far_from_the_pith_moves_by_the_tangential_figure(self):
        moved = queries.movement(self.board, 0.30, 0.0, pith_for(0, 1.5))
        self.assertAlmostEqual(moved.width_change_m, -0.071 * 0.2, delta=0.0001)
        self.assertAlmostEqual(moved.thickness_change_m, -0.037 * 0.025, delta=1e-6)

    def test_the_published_coefficient_is_shown_beside_where_it_holds(self):
        moved = queries.movement(self.board, 0.12, 0.08, pith_for(0, 1.5))
        self.assertAlmostEqual(moved.by_coefficient_m, -0.2 * 0.00248 * 4, delta=1e-6)
        self.assertAlmostEqual(moved.width_change_m, moved.by_coefficient_m, delta=abs(moved.by_coefficient_m) * 0.05)
        self.assertIsNone(queries.movement(self.board, 0.25, 0.08, pith_for(0, 1.5)).by_coefficient_m)

    def test_swelling_is_the_way_back(self):
        shrunk = queries.movement(self.board, 0.14, 0.08, pith_for(0, 1.5))
        there = self.board.width_m + shrunk.width_change_m
        board = Piece(species_key="black_cherry", width_m=there, thickness_m=0.0245, length_m=2.4)
        self.assertAlmostEqual(queries.movement(board, 0.08, 0.14, pith_for(0, 1.5)).width_change_m, -shrunk.width_change_m, delta=2e-6)

    def test_a_species_without_figures_is_said_not_to_be_known(self):
        wenge = make_board(self.owner, "wenge")
        with self.assertRaises(NotKnown):
            queries.movement(wenge, 0.12, 0.08, (0, -0.1))
        read_board(self.owner, wenge, 12, meter=self.meter)
        page = self.client.get(f"/w/{self.owner.workshop.slug}/stock/{wenge.tag}/movement/")
        self.assertContains(page, "Not known")


class Page(MovementCase):
    def test_it_goes_from_the_boards_moisture_to_the_places_level(self):
        self.assertContains(self.client.get(self.address), "Its moisture is not known yet")
        read_board(self.owner, self.board, 13, 13, 13, meter=self.meter)
        self.assertContains(self.client.get(self.address), "From 13.0% to 9.2%")

    def test_typed_moistures_and_a_dragged_pith_are_used(self):
        fragment = self.client.get(
            self.address, {"from_moisture": "20", "to_moisture": "8", "pith_x": "-100 mm", "pith_y": "0 mm", "fragment": "moved"}
        )
        self.assertContains(fragment, "From 20.0% to 8.0%")
        self.assertContains(fragment, "Rings at 90°")
        self.assertNotContains(fragment, "<html")

    def test_bad_numbers_get_their_error_and_the_rest_still_answers(self):
        read_board(self.owner, self.board, 13, meter=self.meter)
        page = self.client.get(self.address, {"from_moisture": "-3", "to_moisture": "dry", "pith_x": "9 km", "pith_y": "∞"})
        self.assertEqual(set(page.context["form"].errors), {"from_moisture", "to_moisture", "pith_x", "pith_y"})
        self.assertContains(page, "From 13.0% to 9.2%")

    def test_the_place_in_the_log_is_kept_unless_somebody_else_was_first(self):
        sent = {"pith_x": "-90 mm", "pith_y": "-120 mm", "version": "1"}
        self.client.post(f"{self.address}keep/", sent)
        self.board.refresh_from_db()
        self.assertEqual((self.board.ring_angle_deg, self.board.pith_distance_m), (36.87, 0.15))
        again = self.client.post(f"{self.address}keep/", {**sent, "pith_x": "10 mm"}, follow=True)
        self.assertContains(again, "was first: “")
        self.assertContains(self.client.post(f"{self.address}keep/", {**sent, "pith_x": "4 m"}, follow=True), "cannot be kept")


class Drawing(MovementCase):
    def test_dimensions_and_both_outlines_stay_inside_the_drawing(self):
        for pith in ((0, -0.1), (-0.15, -0.02), (0.0, -0.003), (0.3, 0.3)):
            moved = queries.movement(self.board, 0.28, 0.08, pith)
            for width in (drawings.WIDE, drawings.NARROW):
                drawn = drawings.section_drawing(self.board, moved, METRIC, width)
                numbers = [float(number) for number in drawn.after.strip("MZ").replace("L", " ").split()]
                self.assertTrue(all(-1 <= x <= drawn.width + 1 for x in numbers[::2]))
                self.assertTrue(all(-1 <= y <= drawn.height + 1 for y in numbers[1::2]))

    def test_a_split_is_never_drawn_larger_than_it_is(self):
        moved = queries.movement(self.board, 0.12, 0.11, (0.0, -0.003))
        self.assertTrue(moved.section.split_rad)
        self.assertEqual(drawings.section_drawing(self.board, moved, METRIC).exaggeration, 1)

    def test_small_movement_is_drawn_larger_and_says_so(self):
        moved = queries.movement(self.board, 0.12, 0.10, (0, -0.1))
        drawn = drawings.section_drawing(self.board, moved, METRIC)
        self.assertGreater(drawn.exaggeration, 1)

    def test_the_board_lies_in_the_log_where_its_pith_says(self):
        drawn = drawings.log_drawing(self.board, (0.0, -0.1))
        middle = drawn.board_x + drawn.board_width / 2, drawn.board_y + drawn.board_height / 2
        self.assertAlmostEqual(middle[0], drawn.pith)
        self.assertAlmostEqual((drawn.pith - middle[1]) * drawn.metres_per_unit, 0.1)
