"""Climate series, rooms, logs, and the air inside a stack."""

import unittest

import numpy as np
import psychrolib

from wood import air, climate, stacks
from wood.climate import Climate, Room
from wood.errors import NotKnown, OutOfRange


def months(values: np.ndarray) -> np.ndarray:
    return np.array([part.mean() for part in np.array_split(values, 12)])


class Saturation(unittest.TestCase):
    def test_arrays_agree_with_psychrolib_over_ice_and_water(self):
        temperatures = np.linspace(-39, 149, 90)
        one_by_one = [psychrolib.GetSatVapPres(float(t)) for t in temperatures]
        np.testing.assert_allclose(air.saturation_pressure_pa(temperatures), one_by_one, rtol=1e-6)

    def test_a_cubic_metre_of_saturated_air_holds_what_steam_tables_say(self):
        # Steam tables: density of saturated vapour 17.3 g/m³ at 20 °C, 83.0 at 50 °C.
        self.assertAlmostEqual(air.saturation_concentration(20.0), 0.0173, delta=0.0001)
        self.assertAlmostEqual(air.saturation_concentration(50.0), 0.0830, delta=0.0005)


class SmoothYear(unittest.TestCase):
    def test_every_pattern_keeps_its_monthly_means_and_has_nights_and_days(self):
        self.assertEqual(len(climate.patterns()), 12)
        for key, one in climate.patterns().items():
            with self.subTest(key):
                np.testing.assert_allclose(months(one.year.temperature_c), one.temperature_c, atol=0.15)
                np.testing.assert_allclose(months(one.year.relative_humidity), one.relative_humidity, atol=0.01)
                july = one.year.temperature_c.reshape(-1, 24)[195]
                self.assertAlmostEqual(np.ptp(july), one.daily_swing_c[6], delta=1.0)
                self.assertIn(int(july.argmax()), (14, 15))
                day = one.year.relative_humidity.reshape(-1, 24)[195]
                self.assertGreater(day[4], day[15])

    def test_eleven_months_and_impossible_values_are_refused(self):
        good = climate.pattern("mild_coast")
        with self.assertRaises(OutOfRange) as caught:
            Climate(good.temperature_c[:11], good.relative_humidity, good.wind_m_s, good.daily_swing_c)
        self.assertEqual(caught.exception.field, "months")
        with self.assertRaises(OutOfRange):
            Climate(good.temperature_c, tuple([1.2] * 12), good.wind_m_s, good.daily_swing_c)
        with self.assertRaises(NotKnown):
            climate.pattern("the moon")

    def test_the_same_year_may_begin_on_any_day_and_comes_round(self):
        year = climate.pattern("four_seasons").year
        turned = year.starting(200)
        self.assertEqual(turned.temperature_c[0], year.temperature_c[200 * 24])
        np.testing.assert_array_equal(turned.starting(0).temperature_c, year.temperature_c)


class Rooms(unittest.TestCase):
    def test_a_heated_room_in_a_cold_winter_is_dry_and_keeps_the_outdoor_vapour(self):
        outdoors = climate.pattern("cold_winter").year
        inside = climate.room(outdoors, Room(heated_to_c=21.0, moisture_gain=0.0))
        # Wood Handbook ch. 4 and 13: heated interiors in the northern winter come down to about 4-6 % EMC.
        self.assertLess(inside.emc[: 24 * 59].mean(), 0.05)
        self.assertGreater(inside.emc[24 * 190 : 24 * 240].mean(), 0.10)
        vapour = inside.relative_humidity * air.saturation_pressure_pa(inside.temperature_c)
        outside = outdoors.relative_humidity * air.saturation_pressure_pa(outdoors.temperature_c)
        np.testing.assert_allclose(months(vapour), months(outside), rtol=0.03)

    def test_living_adds_moisture_and_a_humidifier_holds_its_limit(self):
        outdoors = climate.pattern("cold_winter").year
        lived_in = climate.room(outdoors, Room(21.0, moisture_gain=0.003))
        held = climate.room(outdoors, Room(21.0, at_least=0.4, at_most=0.6))
        self.assertGreater(lived_in.emc[:1000].mean(), climate.room(outdoors, Room(21.0, moisture_gain=0.0)).emc[:1000].mean() + 0.01)
        self.assertGreaterEqual(held.relative_humidity.min(), 0.4)
        self.assertLessEqual(held.relative_humidity.max(), 0.6)


class Logs(unittest.TestCase):
    background = climate.constant(10.0, 0.8)

    def test_readings_stand_where_there_are_any_and_the_background_where_there_are_none(self):
        series = climate.from_log([0, 1, 2, 20, 21], [20] * 5, [0.5] * 5, self.background, 30)
        by_day = series.temperature_c.reshape(30, 24).mean(axis=1)
        np.testing.assert_allclose(by_day[:3], 20.0)
        np.testing.assert_allclose(by_day[6:17], 10.0)
        np.testing.assert_allclose(by_day[19:22], 20.0)

    def test_an_empty_log_is_the_background_and_doubled_or_disordered_readings_are_taken_as_they_are_meant(self):
        np.testing.assert_allclose(climate.from_log([], [], [], self.background, 3).temperature_c, 10.0)
        mixed = climate.from_log([1, 0, 1], [24, 20, 20], [0.5, 0.5, 0.7], self.background, 2)
        self.assertAlmostEqual(float(mixed.temperature_c[24]), 22.0, delta=0.3)

    def test_impossible_logs_are_refused_by_name(self):
        for name, act in (
            ("relative_humidity", lambda: climate.from_log([0], [20], [1.4], self.background, 3)),
            ("readings", lambda: climate.from_log([0, 1], [20], [0.5], self.background, 3)),
            ("until_day", lambda: climate.from_log([0], [20], [0.5], self.background, -1)),
            ("days", lambda: climate.from_log([float("inf")], [20], [0.5], self.background, 3)),
        ):
            with self.subTest(name), self.assertRaises(OutOfRange) as caught:
                act()
            self.assertEqual(caught.exception.field, name)


class InsideTheStack(unittest.TestCase):
    summer = climate.constant(22.0, 0.65, 3.5)

    def carried(self, **how) -> float:
        return float(stacks.Stack(**{"wind_share": 0.15, **how}).surface(self.summer).vapour[0])

    def test_wide_stacks_thin_stickers_and_little_wind_carry_less(self):
        self.assertGreater(self.carried(width_m=0.9), self.carried(width_m=2.0))
        self.assertGreater(self.carried(sticker_m=0.025), self.carried(sticker_m=0.012))
        self.assertGreater(self.carried(wind_share=0.3), self.carried(wind_share=0.05))

    def test_no_more_is_carried_than_the_passing_air_can_take(self):
        stack = stacks.Stack(0.02, width_m=3.0)
        passing = stack.speed_m_s(self.summer)[0] * stack.sticker_m / (2 * stack.width_m)
        self.assertAlmostEqual(float(stack.surface(self.summer).vapour[0]), float(passing), delta=0.02 * float(passing))

    def test_a_short_fast_channel_sees_the_laminar_exchange_itself(self):
        windy = climate.constant(22.0, 0.65, 0.8)
        surface = stacks.Stack(1.0, width_m=0.1, forced=True).surface(windy)
        self.assertAlmostEqual(float(surface.heat[0]), 7.5 * stacks.AIR_CONDUCTIVITY / 0.038, delta=0.2)

    def test_boards_inside_meet_damper_air_the_more_they_give_off(self):
        surface = stacks.Stack(0.15).surface(self.summer)
        dry, wet = (float(stacks.air_inside(self.summer, surface, flux)[0]) for flux in (1e-8, 2e-6))
        self.assertAlmostEqual(dry, 0.65, delta=0.01)
        self.assertGreater(wet, dry + 0.05)
        self.assertLessEqual(wet, 1.0)

    def test_impossible_stacks_are_refused(self):
        for name, values in (("sticker_m", {"sticker_m": 0.0}), ("width_m", {"width_m": 40.0}), ("wind_share", {"wind_share": 2.0})):
            with self.subTest(name), self.assertRaises(OutOfRange) as caught:
                stacks.Stack(**{"wind_share": 0.1, **values})
            self.assertEqual(caught.exception.field, name)
