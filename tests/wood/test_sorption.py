"""Sorption against the printed table, its limits, and its inverse."""

import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from wood.air import sorption
from wood.errors import OutOfRange
from wood.tables import rows
from wood.units import from_fahrenheit

TEMPERATURES = st.floats(-1, 130)
HUMIDITIES = st.floats(0, 1)


class PrintedTable(unittest.TestCase):
    def test_every_cell_of_the_printed_table_is_met_to_a_tenth_of_a_point(self):
        # Wood Handbook (FPL-GTR-282) table 4-2; printed to 0.1%.
        for row in rows("equilibrium_moisture"):
            temperature, humidity = from_fahrenheit(float(row["temperature"])), float(row["relative_humidity"]) / 100
            with self.subTest(**row):
                self.assertAlmostEqual(sorption.emc(temperature, humidity) * 100, float(row["equilibrium_moisture"]), delta=0.1)

    def test_the_fahrenheit_coefficients_of_the_same_handbook_agree(self):
        # Eq. 4-5 is printed a second time with its own coefficients for °F: an independent record of the same fit.
        for fahrenheit in (30, 70, 110, 150, 210):
            for humidity in (0.1, 0.3, 0.5, 0.7, 0.9):
                w = 330 + 0.452 * fahrenheit + 0.00415 * fahrenheit**2
                k = 0.791 + 0.000463 * fahrenheit - 0.000000844 * fahrenheit**2
                k1 = 6.34 + 0.000775 * fahrenheit - 0.0000935 * fahrenheit**2
                k2 = 1.09 + 0.0284 * fahrenheit - 0.0000904 * fahrenheit**2
                kh = k * humidity
                top = k1 * kh + 2 * k1 * k2 * kh**2
                percent = 1800 / w * (kh / (1 - kh) + top / (1 + k1 * kh + k1 * k2 * kh**2))
                self.assertAlmostEqual(sorption.emc(from_fahrenheit(fahrenheit), humidity) * 100, percent, delta=0.02)


class Properties(unittest.TestCase):
    @given(TEMPERATURES, st.floats(0, 0.99), st.floats(0.001, 0.01))
    def test_wetter_air_always_means_wetter_wood(self, temperature, humidity, more):
        self.assertGreater(sorption.emc(temperature, humidity + more), sorption.emc(temperature, humidity))

    @given(st.floats(10, 120), st.floats(0.02, 0.9), st.floats(1, 10))
    def test_warmer_air_of_the_same_humidity_means_drier_wood(self, temperature, humidity, warmer):
        self.assertLess(sorption.emc(temperature + warmer, humidity), sorption.emc(temperature, humidity))

    @given(TEMPERATURES, st.floats(0.001, 0.999))
    def test_the_inverse_comes_back_to_the_same_humidity(self, temperature, humidity):
        moisture = sorption.emc(temperature, humidity)
        self.assertAlmostEqual(sorption.relative_humidity_for(temperature, moisture), humidity, places=9)

    @given(TEMPERATURES, st.floats(0.01, 0.99))
    def test_the_slope_is_the_difference_quotient(self, temperature, humidity):
        step = 1e-6
        quotient = (sorption.emc(temperature, humidity + step) - sorption.emc(temperature, humidity - step)) / (2 * step)
        self.assertAlmostEqual(sorption.slope(temperature, humidity) / quotient, 1, places=4)

    @given(TEMPERATURES, HUMIDITIES)
    def test_the_hysteresis_band_lies_about_the_table_and_closes_at_the_ends(self, temperature, humidity):
        band = sorption.hysteresis_band(temperature, humidity)
        self.assertLessEqual(band.regaining, band.mean)
        self.assertLessEqual(band.mean, band.drying)
        for end in (0.0, 1.0):
            closed = sorption.hysteresis_band(temperature, end)
            self.assertAlmostEqual(closed.regaining, closed.drying)

    def test_dry_air_dries_wood_out_whole(self):
        self.assertEqual(sorption.emc(20, 0.0), 0.0)
        self.assertEqual(sorption.relative_humidity_for(20, 0.0), 0.0)


class Arrays(unittest.TestCase):
    def test_long_arrays_computed_in_blocks_equal_single_values(self):
        chance = np.random.default_rng(1)
        temperatures, humidities = chance.uniform(-1, 130, 40_000), chance.uniform(0, 1, 40_000)
        whole = sorption.emc(temperatures, humidities)
        for i in chance.integers(0, 40_000, 50):
            self.assertAlmostEqual(whole[i], sorption.emc(temperatures[i], humidities[i]), places=14)

    def test_scalars_and_arrays_broadcast_in_any_shape(self):
        humidities = np.linspace(0, 1, 20_000).reshape(100, 200)
        self.assertEqual(sorption.emc(20.0, humidities).shape, (100, 200))
        self.assertEqual(sorption.emc([[10.0], [20.0]], [0.3, 0.5, 0.7]).shape, (2, 3))
        self.assertIsInstance(sorption.emc(20, 0.5), float)

    def test_the_inverse_takes_arrays(self):
        relative_humidity = sorption.relative_humidity_for([0.0, 20.0, 60.0], 0.08)
        np.testing.assert_allclose(sorption.emc([0.0, 20.0, 60.0], relative_humidity), 0.08, atol=1e-9)


class Refusals(unittest.TestCase):
    def test_values_out_of_range_carry_field_value_and_range(self):
        for temperature, humidity, field in ((20, 1.4, "relative_humidity"), (20, -0.1, "relative_humidity"), (400, 0.5, "temperature_c")):
            with self.assertRaises(OutOfRange) as refused:
                sorption.emc(temperature, humidity)
            self.assertEqual(refused.exception.field, field)
            self.assertLess(refused.exception.low, refused.exception.high)

    def test_not_a_number_is_refused_not_passed_on(self):
        for bad in (float("nan"), [0.5, float("nan")]):
            with self.assertRaises(OutOfRange):
                sorption.emc(20, bad)

    def test_a_moisture_beyond_saturated_air_has_no_humidity(self):
        with self.assertRaises(OutOfRange):
            sorption.relative_humidity_for(20, 0.35)

    def test_frost_is_computed_and_flagged_as_extrapolated(self):
        self.assertTrue(sorption.measured_emc(-15, 0.8).extrapolated)
        self.assertFalse(sorption.measured_emc(15, 0.8).extrapolated)


class Hygrometers(unittest.TestCase):
    def test_tolerance_is_worth_more_in_damp_air(self):
        dry, damp = sorption.measured_emc(20, 0.4, 0.03), sorption.measured_emc(20, 0.85, 0.03)
        self.assertGreater(damp.tolerance, 1.5 * dry.tolerance)

    def test_a_perfect_hygrometer_leaves_only_the_thermometer(self):
        self.assertLess(sorption.measured_emc(20, 0.5, 0.0, 0.5).tolerance, 0.0005)
        self.assertEqual(sorption.measured_emc(20, 0.5, 0.0, 0.0).tolerance, 0.0)
