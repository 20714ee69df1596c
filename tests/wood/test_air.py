"""Psychrometrics and salts against known figures and round trips."""

import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from wood.air import psychrometrics
from wood.air.psychrometrics import Air
from wood.errors import NotKnown, OutOfRange

INDEPENDENT = ((-30, 0.5, -30.308), (-10, 0.8, -10.648), (35, 0.2, 18.870), (60, 0.2, 34.920), (90, 0.05, 38.450))


class Psychrometrics(unittest.TestCase):
    def test_saturation_pressures_are_those_of_the_steam_tables(self):
        # kPa over water at 0.01, 20, 50 and 100°C.
        for temperature, kilopascals in ((0.01, 0.6117), (20, 2.339), (50, 12.352), (100, 101.42)):
            self.assertAlmostEqual(Air(temperature, 1.0).vapour_pressure_pa / 1000, kilopascals, delta=kilopascals * 0.002)

    def test_the_worked_example_of_the_handbook_comes_out(self):
        # ASHRAE Fundamentals 2017, ch. 1, example 1: 40°C dry and 20°C wet bulb at sea level.
        moist = psychrometrics.from_wet_bulb(40, 20)
        self.assertAlmostEqual(moist.humidity_ratio, 0.0065, delta=0.0001)
        self.assertAlmostEqual(moist.dew_point_c, 7.0, delta=0.5)
        self.assertAlmostEqual(moist.relative_humidity, 0.14, delta=0.005)

    def test_wet_bulbs_are_those_of_the_psychrometric_tables(self):
        # Dry bulb, humidity, wet bulb (°C): two of the usual charts, then those of an independent library (PsychroLib 2.5).
        for dry, humidity, wet in ((30, 0.5, 22.0), (20, 0.5, 13.8), *INDEPENDENT):
            self.assertAlmostEqual(Air(dry, humidity).wet_bulb_c, wet, delta=0.05)
        self.assertLess(Air(-40, 0.5).wet_bulb_c, -40)

    @given(st.floats(-10, 60), st.floats(0.05, 1.0))
    def test_wet_bulb_and_dew_point_lead_back_to_the_humidity(self, temperature, humidity):
        moist = Air(temperature, humidity)
        self.assertLessEqual(moist.dew_point_c, moist.wet_bulb_c + 0.02)
        self.assertAlmostEqual(
            psychrometrics.from_dew_point(temperature, min(moist.dew_point_c, temperature)).relative_humidity, humidity, delta=0.0005
        )
        # Below freezing the wet bulb is an ice bulb, and the two sides of 0°C do not join to the last digit.
        if moist.wet_bulb_c > 0.5:
            self.assertAlmostEqual(psychrometrics.from_wet_bulb(temperature, moist.wet_bulb_c).relative_humidity, humidity, delta=0.005)

    @given(st.floats(-10, 25), st.floats(0.2, 0.95), st.floats(1, 20))
    def test_heating_keeps_the_water_and_lowers_the_humidity(self, temperature, humidity, warmer):
        outdoors = Air(temperature, humidity)
        indoors = outdoors.brought_to(temperature + warmer)
        self.assertAlmostEqual(indoors.humidity_ratio, outdoors.humidity_ratio, places=6)
        self.assertLess(indoors.relative_humidity, humidity)

    def test_cooling_below_the_dew_point_leaves_saturated_air(self):
        self.assertEqual(Air(25, 0.8).brought_to(10).relative_humidity, 1.0)

    def test_impossible_air_is_refused(self):
        for make in (
            lambda: Air(20, 1.2),
            lambda: Air(400, 0.5),
            lambda: psychrometrics.from_wet_bulb(20, 22),
            lambda: psychrometrics.from_wet_bulb(40, -20),
            lambda: psychrometrics.from_dew_point(20, 21),
            lambda: Air(20, 0.0).dew_point_c,
        ):
            with self.assertRaises(OutOfRange):
                make()


class Salts(unittest.TestCase):
    def test_tabulated_temperatures_are_met_and_between_them_it_is_linear(self):
        # Greenspan 1977: sodium chloride 75.47 at 20°C and 75.29 at 25°C.
        self.assertAlmostEqual(psychrometrics.salt_relative_humidity("NaCl", 20), 0.7547)
        self.assertAlmostEqual(psychrometrics.salt_relative_humidity("NaCl", 22.5), 0.7538)

    def test_an_unknown_salt_or_temperature_is_not_invented(self):
        with self.assertRaises(NotKnown):
            psychrometrics.salt_relative_humidity("sugar", 20)
        with self.assertRaises(OutOfRange):
            psychrometrics.salt_relative_humidity("LiCl", 10)


class SmoothYears(unittest.TestCase):
    @given(st.lists(st.floats(-30, 40), min_size=12, max_size=12))
    def test_each_month_keeps_its_mean_and_the_year_closes(self, means):
        share = (np.arange(12_000) + 0.5) / 12_000
        year = psychrometrics.smooth_year(means, share)
        np.testing.assert_allclose(year.reshape(12, 1000).mean(axis=1), means, atol=1e-4)
        self.assertAlmostEqual(psychrometrics.smooth_year(means, 0.0), psychrometrics.smooth_year(means, 1.0), places=9)

    def test_a_year_that_does_not_change_stays_as_it_is_and_a_single_wave_stays_a_wave(self):
        np.testing.assert_allclose(psychrometrics.smooth_year([8.0] * 12, np.linspace(0, 1, 50)), 8.0)
        share = np.linspace(0, 1, 200)
        edges = np.arange(13) / 12
        wave = 10 - 6 * np.cos(2 * np.pi * share)
        means = 10 - 6 * np.diff(np.sin(2 * np.pi * edges)) / (2 * np.pi) * 12
        np.testing.assert_allclose(psychrometrics.smooth_year(means, share), wave, atol=1e-9)

    def test_eleven_months_or_a_time_outside_the_year_are_refused(self):
        for means, share in (([1.0] * 11, 0.5), ([1.0] * 11 + [float("nan")], 0.5), ([1.0] * 12, 1.5)):
            with self.assertRaises(OutOfRange):
                psychrometrics.smooth_year(means, share)
