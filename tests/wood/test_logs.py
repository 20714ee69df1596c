"""Logs that are left as they are: how long they keep, and what they split."""

import unittest

import numpy as np

from wood.air.climate import constant, pattern
from wood.drying import logs
from wood.drying.defects import STAIN_DAYS
from wood.errors import OutOfRange
from wood.movement import section, shrinkage
from wood.species import all_species, species_named

YEAR = pattern("four_seasons").year
PINE, MAPLE, OAK = (species_named(key) for key in ("eastern_white_pine", "sugar_maple", "white_oak"))


class Keeping(unittest.TestCase):
    def test_in_the_best_air_for_fungi_it_keeps_just_the_days_of_its_class(self):
        warm = constant(27.0, 0.9)
        for species in (PINE, MAPLE, OAK):
            result = logs.keeps(species, warm, sealed=False)
            self.assertEqual(result.stains, np.ceil(STAIN_DAYS[result.susceptible]) - 1)

    def test_frost_keeps_it_for_ever_and_sealed_ends_for_longer(self):
        self.assertEqual(logs.keeps(MAPLE, constant(-5.0, 0.9), sealed=False).stains, np.inf)
        for species in (PINE, MAPLE, OAK):
            sealed, open_ends = (logs.keeps(species, YEAR.starting(120), sealed=ends) for ends in (True, False))
            self.assertGreater(sealed.stains, open_ends.stains)
            self.assertGreaterEqual(sealed.heartwood_rots, open_ends.heartwood_rots)
            self.assertGreater(sealed.sapwood_rots, open_ends.sapwood_rots)

    def test_felled_in_winter_it_keeps_till_spring_and_felled_in_summer_some_weeks(self):
        months = logs.keeps_by_month(PINE, YEAR, sealed=False)
        # Practice: pine in its bark blues within weeks in summer; winter-felled logs are to be sawn before it is warm.
        self.assertTrue(7 < months[6] < 35, months[6])
        self.assertTrue(90 < months[11] < 200, months[11])
        self.assertLess(int(np.argmin(months)), 8)

    def test_pine_before_maple_before_oak_and_oak_heart_lasts(self):
        pine, maple, oak = (logs.keeps(species, YEAR.starting(120), sealed=True) for species in (PINE, MAPLE, OAK))
        self.assertLessEqual(pine.stains, maple.stains)
        self.assertLess(maple.stains, oak.stains)
        self.assertGreater(oak.heartwood_rots, maple.heartwood_rots)

    def test_every_wood_is_answered(self):
        for species in all_species().values():
            self.assertGreater(logs.keeps(species, YEAR, sealed=True).saw_within, 0)


class Splitting(unittest.TestCase):
    def test_the_split_is_what_the_rings_leave_open(self):
        figures = shrinkage.of_species(OAK)
        split = logs.split(figures, 0.4, 0.12)
        radial, tangential = section.size_ratios(figures, figures.fibre_saturation, 0.12)
        by_hand = 2 * np.pi * (1 - tangential / radial)
        self.assertAlmostEqual(split.angle_deg, np.degrees(by_hand))
        self.assertAlmostEqual(split.rim_m, by_hand * 0.2 * radial)

    def test_drier_and_thicker_opens_wider_and_green_wood_not_at_all(self):
        figures = shrinkage.of_species(MAPLE)
        self.assertLess(logs.split(figures, 0.3, 0.15).rim_m, logs.split(figures, 0.3, 0.08).rim_m)
        self.assertAlmostEqual(logs.split(figures, 0.6, 0.10).rim_m, 2 * logs.split(figures, 0.3, 0.10).rim_m)
        self.assertEqual(logs.split(figures, 0.3, 0.30).rim_m, 0.0)
        with self.assertRaises(OutOfRange):
            logs.split(figures, 5.0, 0.1)
