"""Rooms: their balance of warmth and vapour, published interiors, and settings that contradict each other."""

import unittest

import numpy as np

from wood import checks
from wood.air import climate
from wood.air.psychrometrics import saturation_concentration
from wood.air.rooms import DWELLING, LEAKY, TIGHT, UNHEATED, Room, room
from wood.errors import OutOfRange

COLD = climate.pattern("cold_winter").year
HUMID = climate.pattern("warm_humid").year
JANUARY, JULY = slice(0, 31), slice(181, 212)


def vapour(series: climate.AirSeries) -> np.ndarray:
    return series.relative_humidity * np.asarray(saturation_concentration(series.temperature_c))


class Interiors(unittest.TestCase):
    def test_houses_of_the_published_regions_come_out_as_published(self):
        table = checks.interiors()
        self.assertEqual([check.name for check in table.checks if not check.holds], [])

    def test_a_house_is_never_damper_than_a_shed_beside_it(self):
        for key in climate.patterns():
            year = climate.pattern(key).year
            with self.subTest(key):
                self.assertLess(room(year, DWELLING).settling.mean(), room(year, UNHEATED).settling.mean() + 0.002)

    def test_in_summer_a_house_is_warmer_than_outdoors_and_nobody_heats_it(self):
        inside = room(COLD, DWELLING)
        self.assertGreater(inside.temperature_c[JULY.start * 24 : JULY.stop * 24].mean(), 24.0)


class Balance(unittest.TestCase):
    def test_without_any_source_indoor_vapour_is_outdoor_vapour_over_the_year(self):
        for each_room in (Room(21.0, moisture_gain=0.0), UNHEATED):
            inside = room(COLD, each_room)
            self.assertAlmostEqual(vapour(inside).mean() / vapour(COLD).mean(), 1.0, delta=0.02)

    def test_living_moistens_a_tight_house_more_than_a_leaky_one(self):
        tight, leaky = (room(COLD, Room(21.0, 0.002, air_changes=changes)).settling[JANUARY].mean() for changes in (TIGHT, LEAKY))
        dry = room(COLD, Room(21.0, 0.0)).settling[JANUARY].mean()
        self.assertTrue(dry < leaky <= tight + 1e-9)

    def test_a_cooler_dries_the_air_and_never_below_its_coil(self):
        cooled = room(HUMID, Room(20.0, cooled_to_c=25.0))
        july = slice(JULY.start * 24, JULY.stop * 24)
        self.assertLess(vapour(cooled)[july].mean(), 0.75 * vapour(HUMID)[july].mean())
        self.assertGreater(vapour(cooled)[july].min(), float(saturation_concentration(11.0)) * 0.99)
        self.assertLess(cooled.temperature_c[july].mean(), 25.5)

    def test_machines_hold_their_limits(self):
        held = room(COLD, Room(21.0, at_least=0.4, at_most=0.5))
        self.assertGreater(held.relative_humidity.min(), 0.37)
        self.assertLess(held.relative_humidity.max(), 0.53)

    def test_walls_and_goods_hold_a_damp_week_back(self):
        wet_week = np.full(24 * 60, 0.4)
        wet_week[24 * 30 : 24 * 37] = 0.95
        outdoors = climate.AirSeries(np.full(24 * 60, 18.0), wet_week, np.full(24 * 60, 2.0))
        inside = room(outdoors, Room(None, 0.0, air_changes=TIGHT)).relative_humidity
        self.assertLess(np.ptp(inside), 0.85 * np.ptp(wet_week))
        # It is still damper than before on the day after the rain has gone.
        self.assertGreater(inside[24 * 38], inside[24 * 29] + 0.01)

    def test_a_heated_floor_dries_what_lies_on_it_while_it_heats(self):
        plain, warm = (room(COLD, Room(20.0, floor_warmer_c=extra)) for extra in (0.0, 6.0))
        self.assertLess(warm.settling[JANUARY].mean(), plain.settling[JANUARY].mean() - 0.008)
        self.assertAlmostEqual(warm.settling[JULY].mean(), plain.settling[JULY].mean(), delta=0.002)


class BadInput(unittest.TestCase):
    def test_settings_that_contradict_each_other_are_refused_by_name(self):
        for name, values in (
            ("cooled_to_c", {"heated_to_c": 24.0, "cooled_to_c": 20.0}),
            ("at_most", {"at_least": 0.6, "at_most": 0.4}),
            ("at_least", {"at_least": 1.2}),
            ("heated_to_c", {"heated_to_c": float("nan")}),
            ("moisture_gain", {"moisture_gain": -0.1}),
            ("air_changes", {"air_changes": 0.0}),
        ):
            with self.subTest(name), self.assertRaises(OutOfRange) as caught:
                Room(**values)
            self.assertEqual(caught.exception.field, name)

    def test_air_that_does_not_change_and_a_single_hour_have_answers(self):
        for outdoors in (climate.constant(5.0, 0.9), climate.AirSeries(*(np.array([value] * 7) for value in (5.0, 0.9, 1.0)))):
            self.assertTrue(np.isfinite(room(outdoors, DWELLING).relative_humidity).all())
