"""Learning from logs whose truth is known: made by the field with a board of its own."""

import unittest

import numpy as np

from wood.air import climate
from wood.drying import field
from wood.drying.diffusivity import of_species
from wood.drying.forecast import forecast
from wood.drying.learning import Flag, Log, TooFew
from wood.drying.methods import SHED, setting
from wood.errors import OutOfRange
from wood.species import species_named

FIGURES = of_species(species_named("white_oak"))
SHED_FROM_APRIL = setting(SHED, climate.pattern("four_seasons").year.starting(100))
SLAB, TARGET = 0.027, 0.21


def truth(share: float, start: float = 0.45) -> field.History:
    wood = field.Wood(FIGURES.wood.specific_gravity, FIGURES.wood.factor * share, FIGURES.wood.permeability)
    return field.dry(wood, SLAB, start, SHED_FROM_APRIL.drive(), 400, out_days=np.arange(400.0), target=TARGET)


def seen(days, moistures=None, target=TARGET, **log):
    return forecast(Log(days, moistures, **log), FIGURES, SLAB, SHED_FROM_APRIL.series, SHED_FROM_APRIL.exposure, target, safe_rate=0.025)


class Learning(unittest.TestCase):
    def test_three_weighings_say_something_and_ten_say_it_surely(self):
        rng = np.random.default_rng(5)
        for share in (0.6, 1.0, 1.6):
            true = truth(share)
            few, many = (seen(14 * np.arange(count), true.mean[14 * np.arange(count)] + rng.normal(0, 0.003, count)) for count in (3, 10))
            with self.subTest(share=share):
                self.assertAlmostEqual(many.factor_share / share, 1.0, delta=0.2)
                self.assertLess(many.factor_spread, few.factor_spread)
                self.assertLess(abs(np.log(many.factor_share / share)), abs(np.log(share)) * 0.6 + 0.15)
                self.assertAlmostEqual(many.reached_day, true.crossed_day, delta=0.06 * true.crossed_day)
                self.assertAlmostEqual(few.reached_day, true.crossed_day, delta=0.2 * true.crossed_day)
                self.assertTrue(many.reached_low <= many.reached_day <= many.reached_high)
                self.assertLess(many.reached_high - many.reached_low, few.reached_high - few.reached_low)

    def test_an_early_plain_exponential_stands_beside_it(self):
        true = truth(1.0)
        result = seen(14 * np.arange(8), true.mean[14 * np.arange(8)])
        self.assertAlmostEqual(result.exponential_days, true.crossed_day, delta=0.15 * true.crossed_day)

    def test_masses_without_an_oven_test_find_their_own_dry_mass(self):
        days = 20 * np.arange(8)
        masses = 1.31 * (1 + truth(1.2).mean[days])
        result = seen(days, masses_kg=masses, uncertainty=0.002)
        self.assertAlmostEqual(result.dry_mass_kg, 1.31, delta=0.04)
        known = seen(days, masses_kg=masses, dry_mass_kg=1.31, uncertainty=0.002)
        self.assertEqual(known.dry_mass_kg, 1.31)
        self.assertAlmostEqual(known.factor_share, 1.2, delta=0.12)

    def test_one_absurd_entry_is_named_and_does_not_move_the_date(self):
        days = 14 * np.arange(8)
        clean = truth(1.0).mean[days]
        for position, value in ((4, 0.9), (2, 0.02), (6, 0.6)):
            spoilt = clean.copy()
            spoilt[position] = value
            result = seen(days, spoilt)
            with self.subTest(position=position):
                self.assertEqual(result.absurd, (position,))
                self.assertAlmostEqual(result.reached_day, seen(days, clean).reached_day, delta=5)
        self.assertEqual(seen(days, clean).absurd, ())

    def test_a_log_of_nothing_but_noise_is_answered_and_not_hung_upon(self):
        rng = np.random.default_rng(2)
        result = seen(np.arange(1200.0) / 4, rng.uniform(0.05, 1.5, 1200))
        self.assertLessEqual(len(result.absurd), 3)
        self.assertFalse(np.isnan(result.reached_day))

    def test_entries_in_any_order_and_thousands_of_them_are_one_log(self):
        true, rng = truth(1.0), np.random.default_rng(1)
        order = rng.permutation(8)
        self.assertAlmostEqual(
            seen((14 * np.arange(8))[order], true.mean[14 * np.arange(8)][order]).reached_day,
            seen(14 * np.arange(8), true.mean[14 * np.arange(8)]).reached_day,
            places=6,
        )
        dense = np.linspace(0, 120, 3000)
        result = seen(dense, np.interp(dense, true.days, true.mean) + rng.normal(0, 0.004, dense.size))
        self.assertAlmostEqual(result.factor_share, 1.0, delta=0.1)
        self.assertTrue(np.isfinite(result.mean).all())


class Flags(unittest.TestCase):
    def test_all_equal_near_the_room_is_flat_and_far_above_it_stalled(self):
        level = float(SHED_FROM_APRIL.series.emc[: 24 * 20].mean())
        flat = seen([0, 7, 14, 21], [level + 0.005] * 4, target=level)
        self.assertIn(Flag.LEVEL, flat.flags)
        self.assertFalse(np.isnan(flat.reached_day))
        stalled = seen([0, 7, 14, 21], [0.24] * 4, target=0.12)
        self.assertIn(Flag.STALLED, stalled.flags)

    def test_rising_wood_was_below_the_room(self):
        self.assertIn(Flag.RISING, seen([0, 4, 8, 12], [0.07, 0.08, 0.09, 0.1], target=0.12).flags)

    def test_faster_than_the_safe_rate_is_said(self):
        self.assertIn(Flag.TOO_FAST, seen([0, 4, 8, 12], [0.8, 0.66, 0.54, 0.45]).flags)
        self.assertNotIn(Flag.TOO_FAST, seen([0, 14, 28], [0.8, 0.66, 0.54]).flags)


class BadInput(unittest.TestCase):
    def test_too_few_impossible_or_unequal_entries_are_refused(self):
        with self.assertRaises(TooFew):
            seen([0, 1], [0.3, 0.29])
        with self.assertRaises(TooFew):
            seen([3, 3, 3], [0.3, 0.3, 0.3])
        for act in (
            lambda: Log([0, 1, 2], [0.3, 0.2]),
            lambda: Log([0, 1, 2], [0.3, float("nan"), 0.2]),
            lambda: Log([0, 1, 2], [0.3, 7.0, 0.2]),
            lambda: Log([0, 1, 2], masses_kg=[1.0, 0.0, 1.0]),
            lambda: Log([0, 1, 2]),
        ):
            with self.assertRaises(OutOfRange):
                act()
