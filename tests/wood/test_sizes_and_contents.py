"""Sizes, volumes and the weight of wood against textbook figures."""

import math
import unittest

from hypothesis import given
from hypothesis import strategies as st

from wood import sizes
from wood.errors import NotKnown, OutOfRange
from wood.measuring import weighing
from wood.units import INCH_M


class Sizes(unittest.TestCase):
    def test_board_feet_as_a_yard_counts_them(self):
        for quarters, width_in, length_ft, wanted in (("4/4", 12, 1, 1.0), ("4/4", 6, 8, 4.0), ("8/4", 6, 8, 8.0), ("5/4", 9.6, 10, 10.0)):
            thickness = sizes.rough_thickness_m(sizes.quarters(quarters))
            self.assertAlmostEqual(sizes.board_feet(thickness, width_in * INCH_M, length_ft * 12 * INCH_M, quarters), wanted)

    def test_planing_takes_no_board_feet_away_and_thin_stock_counts_as_an_inch(self):
        planed = sizes.board_feet(sizes.dressed_thickness_m(4), 0.2, 2.0, "4/4")
        self.assertAlmostEqual(planed, sizes.board_feet(INCH_M, 0.2, 2.0))
        self.assertAlmostEqual(sizes.board_feet(0.010, 0.2, 2.0), planed)

    def test_a_dressed_size_is_less_than_the_rough_one_and_unusual_ones_are_not_made_up(self):
        for quarters in sizes.DRESSED_IN:
            self.assertLess(sizes.dressed_thickness_m(quarters), sizes.rough_thickness_m(quarters))
        with self.assertRaises(NotKnown):
            sizes.dressed_thickness_m(9)

    def test_a_bowl_holds_less_than_its_solid_and_more_than_nothing(self):
        solid = sizes.bowl_volume_m3(0.3, 0.12, 0.15)
        self.assertAlmostEqual(solid, 2 / 3 * math.pi * 0.15**2 * 0.12)
        self.assertTrue(0 < sizes.bowl_volume_m3(0.3, 0.12, 0.03) < solid)

    def test_a_thin_walled_bowl_is_its_skin_times_its_wall(self):
        # Half a sphere: dV/dw at the outside is its surface, 2πr².
        self.assertAlmostEqual(sizes.bowl_volume_m3(0.4, 0.2, 1e-5) / (2 * math.pi * 0.2**2 * 1e-5), 1, places=3)

    def test_impossible_sizes_are_refused(self):
        for act in (
            lambda: sizes.box_volume_m3(-0.1, 1, 1),
            lambda: sizes.round_volume_m3(math.nan, 1),
            lambda: sizes.board_feet(1, 1, 99),
        ):
            with self.assertRaises(OutOfRange):
                act()


class Weights(unittest.TestCase):
    def test_a_cubic_foot_of_white_oak_weighs_what_the_handbook_says(self):
        # Wood Handbook ch. 4: density = 62.4 lb/ft³ · G · (1 + M), with G on the volume at that moisture; 60% is green.
        cubic_foot = 0.3048**3
        self.assertAlmostEqual(weighing.contents(cubic_foot, 0.60, 0.60).mass_kg / 0.45359237, 62.4 * 0.60 * 1.60, delta=0.2)

    def test_specific_gravity_at_twelve_percent_of_published_pairs(self):
        # Wood Handbook table 5-3: green and 12% figures of the same species.
        for green, at_12 in ((0.60, 0.68), (0.56, 0.63), (0.47, 0.50), (0.45, 0.48), (0.55, 0.60)):
            self.assertAlmostEqual(weighing.specific_gravity_at(green, 0.12), at_12, delta=0.026)

    @given(st.floats(0.001, 5), st.floats(0.2, 1.0), st.floats(0, 2))
    def test_water_and_wood_add_up(self, volume, gravity, moisture):
        contents = weighing.contents(volume, gravity, moisture)
        self.assertAlmostEqual(contents.mass_kg, contents.ovendry_kg + contents.water_kg, places=6)
        self.assertAlmostEqual(weighing.moisture_from_masses(contents.mass_kg, contents.ovendry_kg), moisture, places=9)
