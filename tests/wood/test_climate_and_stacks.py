"""Climate series, published places, logs, and the air inside a stack."""

import unittest

import numpy as np

from wood.air import climate, psychrometrics
from wood.air.climate import Climate
from wood.drying import field
from wood.errors import NotKnown, OutOfRange, WoodError
from wood.stacks import air as stacks


def months(values: np.ndarray) -> np.ndarray:
    return np.array([part.mean() for part in np.array_split(values, 12)])


class Saturation(unittest.TestCase):
    def test_pressures_over_ice_and_water_are_the_tabulated_ones(self):
        # ASHRAE Fundamentals 2017, ch. 1, table 2: kPa of saturated vapour.
        published = {-40: 0.01285, -20: 0.10326, -10: 0.25991, 0: 0.61115, 20: 2.3392, 40: 7.3844, 60: 19.946, 90: 70.182}
        pressures = psychrometrics.saturation_pressure_pa(np.array(list(published), float)) / 1000
        np.testing.assert_allclose(pressures, list(published.values()), rtol=1e-3)

    def test_a_cubic_metre_of_saturated_air_holds_what_steam_tables_say(self):
        # Steam tables: density of saturated vapour 17.3 g/m³ at 20°C, 83.0 at 50°C.
        self.assertAlmostEqual(psychrometrics.saturation_concentration(20.0), 0.0173, delta=0.0001)
        self.assertAlmostEqual(psychrometrics.saturation_concentration(50.0), 0.0830, delta=0.0005)


class SmoothYear(unittest.TestCase):
    def test_every_pattern_keeps_its_monthly_means_and_has_nights_and_days(self):
        self.assertEqual(len(climate.patterns()), 12)
        for key, pattern in climate.patterns().items():
            with self.subTest(key):
                np.testing.assert_allclose(months(pattern.year.temperature_c), pattern.temperature_c, atol=0.15)
                np.testing.assert_allclose(months(pattern.year.settling), pattern.monthly_emc, atol=0.003)
                july = pattern.year.temperature_c.reshape(-1, 24)[195]
                self.assertAlmostEqual(np.ptp(july), pattern.daily_swing_c[6], delta=1.0)
                self.assertIn(int(july.argmax()), (14, 15))
                day = pattern.year.relative_humidity.reshape(-1, 24)[195]
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


class PublishedPlaces(unittest.TestCase):
    def test_all_places_of_the_table_are_there_and_their_months_stand(self):
        # FPL-RN-0268: Madison, Wisconsin 14.5 in January and 13.4 in July; Las Vegas 4.0 in June.
        places = climate.published_places()
        self.assertEqual(len(places), 48)
        self.assertEqual((places["madison_wi"].monthly_emc[0], places["las_vegas_nv"].monthly_emc[5]), (0.145, 0.04))
        for key, place in places.items():
            with self.subTest(key):
                np.testing.assert_allclose(place.climate.monthly_emc, place.monthly_emc, atol=1e-6)
                np.testing.assert_allclose(months(place.climate.year.settling), place.monthly_emc, atol=4e-3)

    def test_typed_moistures_stand_and_impossible_ones_are_refused(self):
        typed = climate.with_emc(climate.pattern("mild_inland"), [0.12] * 12)
        np.testing.assert_allclose(typed.monthly_emc, 0.12, atol=1e-9)
        for moistures in ([0.12] * 11, [0.12] * 11 + [0.34], [0.0] * 12, [float("nan")] * 12):
            with self.assertRaises(OutOfRange):
                climate.with_emc(climate.pattern("mild_inland"), moistures)

    def test_wood_settles_where_the_day_says_and_not_where_the_mean_of_its_hours_does(self):
        # The same July day for ever: a thin piece in it comes to the level that charts and verdicts show.
        hot = climate.pattern("warm_humid")
        july = Climate(*((getattr(hot, name)[6],) * 12 for name in ("temperature_c", "relative_humidity", "wind_m_s", "daily_swing_c")))
        level, gap = (float(part[180]) for part in july.year.loop)
        drive = field.driven(july.year, stacks.Stack(0.15), 0.0, 1.0)
        ran = field.dry(field.Wood(0.4), 0.012, level * 1.3, drive, 200, out_days=np.arange(190, 200, 1 / 24))
        self.assertAlmostEqual(float(ran.mean.mean()), level * (1 + july.year.hysteresis_share * gap), delta=0.004)
        self.assertGreater(float(july.year.emc.mean()), level + 0.01)


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
        passing = stack.speed_m_s(self.summer)[0] * stack.sticker_m / (2 * stack.width_m) + stacks.LEAKAGE_M_S
        self.assertLess(float(stack.surface(self.summer).vapour[0]), float(passing))
        chamber = stacks.Stack(1.0, width_m=3.0, forced=True)
        calm = climate.constant(22.0, 0.65, 0.1)
        self.assertAlmostEqual(float(chamber.surface(calm).vapour[0]) / (0.1 * 0.019 / 6.0), 1.0, delta=0.02)

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

    def test_air_sinks_out_of_a_stack_without_any_wind_and_more_of_it_where_it_is_dry(self):
        damp, dry = (climate.constant(22.0, humidity, 0.0) for humidity in (0.95, 0.5))
        stack = stacks.Stack(0.15)
        self.assertGreater(float(stack.speed_m_s(dry)[0]), 1.3 * float(stack.speed_m_s(damp)[0]))
        self.assertGreaterEqual(float(stack.speed_m_s(damp)[0]), stacks.LEAST_SPEED_M_S)

    def test_a_stack_turned_well_or_badly_gains_or_loses_within_bounds(self):
        along, all_round, across = (self.carried(turned=name) for name in ("along", "all", "across"))
        self.assertTrue(0.75 * all_round < along < all_round < across < 1.25 * all_round)

    def test_between_boards_the_day_swings_less_and_leads_wood_to_the_same_moisture(self):
        year = climate.pattern("four_seasons").year
        inside = stacks.Stack(0.15).felt(year)
        self.assertLess(np.ptp(inside.temperature_c[4800:4824]), 0.45 * np.ptp(year.temperature_c[4800:4824]))
        np.testing.assert_allclose(inside.settling, year.settling, atol=2e-3)
        self.assertIs(stacks.OpenBoard().felt(year), year)

    def test_impossible_stacks_are_refused(self):
        for name, values in (
            ("sticker_m", {"sticker_m": 0.0}),
            ("width_m", {"width_m": 40.0}),
            ("wind_share", {"wind_share": 2.0}),
            ("length_m", {"width_m": 2.0, "length_m": 1.5}),
            ("turned", {"turned": "upside down"}),
        ):
            with self.subTest(name), self.assertRaises(WoodError) as caught:
                stacks.Stack(**{"wind_share": 0.1, **values})
            self.assertEqual(caught.exception.field, name)
