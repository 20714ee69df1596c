"""Things of solid wood: chart figures, closed forms worked by hand, limits, and what must be true whatever is built."""

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.walks import far
from wood.errors import NotKnown, OutOfRange
from wood.movement import decks, fastenings, floors, framing, seasons, shrinkage, soundboards, widths
from wood.movement.course import between
from wood.movement.decks import Up
from wood.movement.fastenings import Fixed
from wood.movement.section import pith_for, settled_board, size_ratios
from wood.movement.shrinkage import Shrinkage
from wood.movement.widths import Strip, Swing
from wood.species import all_species, species_named
from wood.units import INCH_M

FOOT_M, THIRTY_SECOND_M = 12 * INCH_M, INCH_M / 32
OAK = shrinkage.of_species(species_named("white_oak"))
MOISTURES = st.floats(0.02, 0.28)


def certain(built: float, least: float, most: float) -> Swing:
    """A swing about which nothing is in doubt."""
    return Swing(built, least, most, 0.0, 0.0, 0.0)


class ChartFigures(unittest.TestCase):
    """A foot of flat and of quarter over a season, by the coefficients that are published beside the shrinkages (Wood Handbook ch. 13): two
    tables that were made apart."""

    WOODS = (
        "american_beech",
        "black_cherry",
        "sugar_maple",
        "yellow_poplar",
        "eastern_white_pine",
        "black_walnut",
        "white_ash",
        "douglas_fir_coast",
    )

    def test_a_foot_over_a_season_comes_within_a_thirty_second_of_the_chart(self):
        for key in self.WOODS:
            species = species_named(key)
            figures = shrinkage.of_species(species)
            self.assertEqual(species.coefficient_basis, "own")
            for low, high in ((0.06, 0.10), (0.08, 0.12), (0.06, 0.14)):
                for angle, coefficient in ((0.0, species.coefficient_tangential), (90.0, species.coefficient_radial)):
                    with self.subTest(key, low=low, high=high, angle=angle):
                        chart = FOOT_M * coefficient * (high - low) * 100
                        moved = widths.swing([Strip(figures, angle, FOOT_M)], between((low + high) / 2, low, high)).range_m
                        self.assertLess(abs(moved - chart), THIRTY_SECOND_M)

    def test_oak_comes_near_the_figure_of_the_trade_group(self):
        # Tabulated for all commercial oaks together, so only over the usual four points.
        for key in ("northern_red_oak", "white_oak"):
            species = species_named(key)
            self.assertEqual(species.coefficient_basis, "group")
            moved = widths.swing([Strip(shrinkage.of_species(species), 0.0, FOOT_M)], between(0.08, 0.06, 0.10)).range_m
            self.assertLess(abs(moved - FOOT_M * species.coefficient_tangential * 4), THIRTY_SECOND_M)

    def test_the_dial_has_every_wood_that_is_known_in_order(self):
        known, unknown = seasons.dial(all_species().values(), FOOT_M, 0.06, 0.10)
        self.assertEqual(len(known) + len(unknown), len(all_species()))
        self.assertIn(species_named("wenge"), unknown)
        self.assertEqual([entry.flat_m for entry in known], sorted(entry.flat_m for entry in known))
        for entry in known:
            with self.subTest(entry.species.key):
                self.assertLessEqual(entry.quarter_m, entry.flat_m)
                self.assertAlmostEqual(entry.flat_m, 4 * entry.flat_point_m, delta=0.02 * entry.flat_m)
        with self.assertRaises(OutOfRange):
            seasons.dial([], FOOT_M, 0.10, 0.06)


class Widths(unittest.TestCase):
    @given(MOISTURES, MOISTURES, st.floats(0, 90), st.floats(0.02, 2))
    @settings(max_examples=far(60, 1200), deadline=None)
    def test_there_and_back_is_where_it_was(self, built, moisture, angle, width):
        there = float(Strip(OAK, angle, width).width_at(built, moisture))
        self.assertAlmostEqual(float(Strip(OAK, angle, there).width_at(moisture, built)), width, places=12)

    @given(MOISTURES, MOISTURES, st.floats(0, 90), st.floats(0.02, 2))
    @settings(max_examples=far(60, 1200), deadline=None)
    def test_twice_the_width_moves_twice_and_quarter_less_than_flat(self, built, moisture, angle, width):
        def moved(angle: float, width: float) -> float:
            return float(Strip(OAK, angle, width).width_at(built, moisture)) - width

        self.assertAlmostEqual(moved(angle, 2 * width), 2 * moved(angle, width), places=12)
        self.assertLessEqual(abs(moved(90, width)), abs(moved(0, width)) + 1e-15)

    def test_boards_of_two_woods_move_each_by_its_own(self):
        pine = shrinkage.of_species(species_named("eastern_white_pine"))
        both = [Strip(OAK, 0, 0.2), Strip(pine, 90, 0.1)]
        apart = sum(float(side.width_at(0.08, 0.12)) for side in both)
        self.assertAlmostEqual(float(widths.width_at(both, 0.08, 0.12)), apart)
        with self.assertRaises(OutOfRange):
            widths.width_at([], 0.08, 0.12)

    def test_the_band_grows_with_what_is_not_known(self):
        sure, unsure = (
            widths.swing([Strip(OAK, 0, 0.9)] * 6, between(0.08, 0.06, 0.10, built_uncertainty=d, uncertainty=d)) for d in (0.0, 0.01)
        )
        self.assertEqual((sure.growth_m, sure.shrink_m), (unsure.growth_m, unsure.shrink_m))
        self.assertGreater(unsure.growth_uncertainty_m, sure.growth_uncertainty_m)
        # Alone, the species' spread of 15% is two standard deviations of 30% for one board, and less for six.
        swing = widths.swing([Strip(OAK, 0, 0.9)], between(0.08, 0.06, 0.10))
        self.assertAlmostEqual(swing.range_uncertainty_m, 0.3 * swing.range_m, places=9)
        self.assertLess(sure.range_uncertainty_m / sure.range_m, 0.3)

    def test_length_barely_moves(self):
        moved = float(widths.length_at(2.4, OAK, 0.08, 0.12)) - 2.4
        self.assertAlmostEqual(moved, 2.4 * 0.0015 * 4 / 30, delta=1e-5)

    def test_a_course_that_goes_nowhere_moves_nothing(self):
        still = widths.swing([Strip(OAK, 0, 0.9)], between(0.08, 0.08, 0.08))
        self.assertEqual((still.growth_m, still.shrink_m, still.range_m), (0.0, 0.0, 0.0))


class Fastenings(unittest.TestCase):
    SWING = Swing(0.9, 0.89, 0.906, 0.001, 0.002, 0.003)

    def test_a_slot_is_as_long_as_its_share_of_the_way_and_its_screw(self):
        # By hand: a third of the way out from the middle, 150 of 900 mm: growth 7 mm and shrinkage 12 mm to the far end of the band.
        (slot,) = fastenings.slots(self.SWING, [0.3], Fixed.MIDDLE)
        self.assertAlmostEqual(slot.outward_m, 150 / 900 * 0.007)
        self.assertAlmostEqual(slot.inward_m, 150 / 900 * 0.012)
        self.assertAlmostEqual(slot.length_m, 0.005 + 150 / 900 * 0.019)
        self.assertAlmostEqual(slot.from_inner_m, 0.0025 + 150 / 900 * 0.012)

    def test_a_fixed_edge_puts_all_of_it_at_the_other(self):
        middle, near = (fastenings.edges(self.SWING, fixed) for fixed in (Fixed.MIDDLE, Fixed.NEAR))
        self.assertAlmostEqual(near.far_out_m, 0.006)
        self.assertEqual((near.near_out_m, near.near_in_m), (0.0, 0.0))
        for item in (middle, near):
            self.assertAlmostEqual(item.near_out_m + item.far_out_m, self.SWING.growth_m)
            self.assertAlmostEqual(item.near_in_m + item.far_in_m, self.SWING.shrink_m)

    def test_buttons_keep_their_groove_and_plates_bind_when_it_goes_far(self):
        outer, _, _ = fastenings.slots(self.SWING, [0.0, 0.45, 0.9], Fixed.MIDDLE)
        self.assertAlmostEqual(outer.button_tongue_m - outer.outward_m - outer.inward_m, fastenings.TONGUE_LEFT_M)
        self.assertFalse(outer.figure_eight_is_enough)
        self.assertTrue(fastenings.slots(self.SWING, [0.4], Fixed.MIDDLE)[0].figure_eight_is_enough)

    def test_places_spread_evenly_with_one_in_the_middle(self):
        np.testing.assert_allclose(fastenings.spread_evenly(0.9, 3, 0.05), [0.05, 0.45, 0.85])
        with self.assertRaises(OutOfRange):
            fastenings.spread_evenly(0.9, 3, 0.5)
        with self.assertRaises(OutOfRange):
            fastenings.slots(self.SWING, [1.0], Fixed.MIDDLE)


class Frames(unittest.TestCase):
    @given(st.floats(0.05, 1.5), st.floats(0.004, 0.02), st.floats(0.0, 0.03), st.floats(0.0, 0.03))
    @settings(max_examples=far(80, 1600), deadline=None)
    def test_the_panel_never_presses_and_the_shallowest_groove_just_holds_it(self, opening, groove, grows, shrinks):
        swing = certain(1.0, 1.0 - shrinks, 1.0 + grows)
        fits = framing.panel_in_frame(swing, opening, groove)
        self.assertLessEqual(fits.panel_m * (1 + grows), opening + 2 * groove)
        self.assertAlmostEqual(fits.stays_m, (fits.panel_m * (1 - shrinks) - opening) / 2, places=12)
        least = framing.panel_in_frame(swing, opening, fits.least_groove_m)
        self.assertTrue(least.holds)
        if fits.least_groove_m > framing.STAYS_IN_M:
            self.assertAlmostEqual(least.stays_m, framing.STAYS_IN_M, places=9)

    def test_a_drawer_is_at_its_gap_when_it_is_dampest(self):
        front = framing.in_opening(certain(1.0, 0.985, 1.01), 0.2, 0.001)
        self.assertAlmostEqual(front.size_m * 1.01 + 0.001, 0.2)
        self.assertAlmostEqual(front.widest_gap_m, 0.2 - front.size_m * 0.985)

    def test_boards_between_sides_have_room_with_the_gap_that_is_told(self):
        swing = certain(0.6, 0.592, 0.612)
        tight = framing.between_sides(swing, 5, 0.0)
        self.assertAlmostEqual(tight.overfull_m, 0.012)
        self.assertAlmostEqual(framing.between_sides(swing, 5, tight.gap_now_m).overfull_m, 0.0)
        self.assertGreater(tight.lap_m, tight.gap_driest_m)

    def test_a_drawer_bottom_has_a_slot_for_all_its_way(self):
        bottom = framing.drawer_bottom(certain(0.45, 0.446, 0.453), 0.004)
        self.assertAlmostEqual(bottom.slot_m, 0.004 + 0.007)

    def test_a_groove_deeper_than_its_rail_is_refused(self):
        self.assertEqual(framing.checked_groove(0.01, 0.06), 0.01)
        with self.assertRaises(OutOfRange) as caught:
            framing.checked_groove(0.05, 0.06)
        self.assertEqual(caught.exception.field, "groove_m")


class FloorsAndDecks(unittest.TestCase):
    def test_a_floor_shares_its_way_between_both_walls(self):
        laid = floors.floor(certain(4.0, 3.96, 4.03), 0.08, 0.019)
        self.assertAlmostEqual(laid.wall_gap_m, 0.015)
        self.assertAlmostEqual(laid.per_board_m, 0.04 / 50)
        self.assertAlmostEqual(laid.stuck_gap_m, 5 * laid.per_board_m)
        # Free boards would need less than practice leaves for nailed ones.
        self.assertAlmostEqual(laid.nailed_gap_m, laid.wall_gap_m)
        self.assertEqual((laid.subfloor_may_differ, floors.floor(certain(4.0, 3.9, 4.1), 0.057, 0.019).subfloor_may_differ), (0.02, 0.04))

    def test_nailed_strips_slide_near_the_walls_alone(self):
        def slides(growth=0.01, board=0.083, thickness=0.019, room=10.0):
            return floors.slides_when_nailed_m(growth, board, thickness, room)

        for room in (0.5, 2.0, 5.0, 10.0):
            self.assertLess(slides(room=room), 0.01 * room / 2)
        # A wider room slides no farther once its middle is pressed; narrower strips have more nails, thicker ones press harder.
        self.assertAlmostEqual(slides(room=10.0), slides(room=40.0))
        self.assertLess(slides(board=0.057), slides())
        self.assertGreater(slides(thickness=0.025, room=60.0), slides(room=60.0))
        # In a small room little holds it: nearly as if it were free.
        self.assertAlmostEqual(slides(room=0.5), 0.01 * 0.25, delta=0.0002)
        wide = floors.floor(certain(10.0, 9.9, 10.1), 0.083, 0.019)
        self.assertLess(wide.nailed_gap_m, wide.wall_gap_m)
        self.assertGreaterEqual(wide.nailed_gap_m, 0.019)

    def test_a_damp_side_hollows_by_the_square_of_the_width(self):
        narrow, wide = (floors.cup_from_one_side(OAK, 0, width, 0.02, 0.03) for width in (0.06, 0.12))
        self.assertAlmostEqual(wide, 4 * narrow)
        # By hand: 10.5% over 30 points is 1.05% for three; 0.0105/0.02 m of curvature over 0.12² /8.
        self.assertAlmostEqual(wide, 0.0105 / 0.02 * 0.12**2 / 8)
        self.assertLess(floors.cup_from_one_side(OAK, 0, 0.12, 0.02, -0.03), 0)

    def test_wet_boards_are_laid_tight_and_dry_ones_apart(self):
        # A 140 mm board of flat larch, at 28% and at 12%, in seasons of 13 and 20%.
        larch = shrinkage.of_species(species_named("western_larch"))

        def laid(now: float) -> decks.Laid:
            strip = Strip(larch, 0.0, 0.14)
            return decks.lay(0.14, float(strip.width_at(now, 0.20)), float(strip.width_at(now, 0.13)), 0.003)

        wet, dry = laid(0.28), laid(0.12)
        self.assertEqual(wet.gap_now_m, 0.0)
        self.assertGreater(dry.gap_now_m, 0.005)
        self.assertAlmostEqual(dry.gap_wet_m, 0.003)
        self.assertGreater(dry.gap_dry_m, dry.gap_wet_m)

    def test_which_face_goes_up_follows_the_longer_way(self):
        def section(moisture: float):
            return settled_board(0.14, 0.028, *pith_for(0.0, 0.08), *size_ratios(OAK, 0.16, moisture))

        dries = decks.face_up(section(0.10), section(0.17), 0.06, 0.01)
        swells = decks.face_up(section(0.15), section(0.22), 0.01, 0.06)
        quarter = settled_board(0.14, 0.028, *pith_for(90.0, 0.3), *size_ratios(OAK, 0.16, 0.10))
        self.assertEqual((dries.up, swells.up), (Up.PITH, Up.BARK))
        self.assertLess(dries.hollow_pith_up_m, 0)
        self.assertEqual(decks.face_up(quarter, quarter, 0.06, 0.01).up, Up.EITHER)


class Instruments(unittest.TestCase):
    def test_fret_ends_stand_out_by_half_of_what_the_board_shrinks(self):
        board = Shrinkage(0.03, 0.06, 0.30, "published")
        by_hand = 0.054 * (1 - (1 - 0.03 * 25 / 30) / (1 - 0.03 * 22 / 30)) / 2
        self.assertAlmostEqual(soundboards.fret_ends_m(board, 90, 0.054, 0.08, 0.05), by_hand)
        self.assertLess(soundboards.fret_ends_m(board, 90, 0.054, 0.08, 0.10), 0)

    def test_the_band_ends_where_harm_begins_and_may_be_empty(self):
        band = soundboards.safe_band(lambda m: m < 0.06, lambda m: m > 0.10, 0.08, 20.0)
        self.assertAlmostEqual(band.dry_end, 0.06, delta=0.002)
        self.assertAlmostEqual(band.damp_end, 0.10, delta=0.002)
        self.assertFalse(band.empty)
        self.assertTrue(soundboards.safe_band(lambda m: True, lambda m: True, 0.08, 20.0).empty)

    def test_what_is_not_known_is_said(self):
        with self.assertRaises(NotKnown):
            shrinkage.of_species(species_named("wenge"))
