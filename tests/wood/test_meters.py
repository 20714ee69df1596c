"""Meters: published corrections, ranges, warnings; weighing; the parabola through the thickness."""

import math
import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from wood.errors import OutOfRange
from wood.measuring import meters, weighing
from wood.measuring.meters import correct_pin, correct_pinless, resistor_reading
from wood.measuring.profile import Profile, pinless_depth, profile_from
from wood.measuring.readings import StepKind
from wood.species import all_species, species_named
from wood.tables import rows

ASH, OAK, CHERRY = species_named("white_ash"), species_named("white_oak"), species_named("black_cherry")
FIR = species_named("douglas_fir_coast")


def on_scale_of(reading: float, key: str) -> float:
    """What an unset pin meter's reading means for a species, by its row of the resistance table alone."""
    return correct_pin(reading, species_named(key), 24.0, temperature_set_on_meter=True).moisture


class PinMeters(unittest.TestCase):
    def test_temperature_correction_is_small_where_meters_are_calibrated(self):
        # Pfaff and Garrahan 1986: 12 reads 12.07 at 22°C and 11.98 at 23°C; cold wood reads low, warm wood high.
        self.assertAlmostEqual(meters.temperature_correction(0.12, 22) * 100, 12.07, delta=0.01)
        self.assertAlmostEqual(meters.temperature_correction(0.12, 23) * 100, 11.98, delta=0.01)
        self.assertAlmostEqual(meters.temperature_correction(0.12, 0) * 100, 14.3, delta=0.05)
        self.assertAlmostEqual(meters.temperature_correction(0.12, 30) * 100, 11.4, delta=0.05)

    @given(st.floats(0.07, 0.25), st.floats(-10, 50), st.floats(1, 10))
    def test_the_same_reading_on_warmer_wood_means_less_water(self, reading, temperature, warmer):
        self.assertLess(meters.temperature_correction(reading, temperature + warmer), meters.temperature_correction(reading, temperature))

    def test_douglas_fir_needs_no_species_correction(self):
        for percent in range(7, 26):
            self.assertAlmostEqual(on_scale_of(percent / 100, "douglas_fir_coast") * 100, percent, places=6)

    def test_equal_resistance_means_equal_current_in_both_species(self):
        # GTR-6: white ash has 28 megohm at 13%; Douglas-fir has 33 at 14 and 18.6 at 15. Log-linear between those.
        fir = 14 + (math.log(28) - math.log(33)) / (math.log(18.6) - math.log(33))
        self.assertAlmostEqual(on_scale_of(fir / 100, "white_ash") * 100, 13.0, places=6)

    def test_no_row_of_the_resistance_table_rises_with_moisture(self):
        for row in rows("pin_resistance"):
            values = [value for m in range(7, 26) if (value := row.maybe(f"at_{m}")) is not None]
            self.assertEqual(values, sorted(values, reverse=True), row["key"])

    @given(st.sampled_from(sorted(all_species())), st.floats(0.07, 0.22))
    def test_a_higher_reading_never_means_drier_wood(self, key, reading):
        first = species_named(key)
        lower, higher = correct_pin(reading, first, 20), correct_pin(reading + 0.01, first, 20)
        self.assertLessEqual(lower.moisture, higher.moisture)

    def test_doubt_grows_without_a_species_figure_and_away_from_calibration(self):
        known, unknown = correct_pin(0.12, OAK, 20), correct_pin(0.12, CHERRY, 20)
        self.assertGreater(unknown.uncertainty, known.uncertainty + 0.005)
        self.assertIn("no_species_figure", unknown.warnings)
        self.assertGreater(correct_pin(0.12, OAK, -10).uncertainty, known.uncertainty)
        self.assertGreater(correct_pin(0.20, OAK, 20).uncertainty, known.uncertainty)

    def test_beyond_fibre_saturation_the_number_means_only_wet(self):
        wet = correct_pin(0.45, OAK, 20)
        self.assertEqual((wet.bound, wet.moisture), ("above", 0.28))
        self.assertIn("beyond_range", wet.warnings)
        dry = correct_pin(0.04, FIR, 24)
        self.assertEqual((dry.bound, dry.moisture), ("below", 0.06))

    def test_frozen_wood_and_borrowed_figures_are_flagged(self):
        self.assertIn("frost", correct_pin(0.14, OAK, -5).warnings)
        self.assertIn("relative_figure", correct_pin(0.12, species_named("european_oak"), 20).warnings)

    def test_what_the_meter_has_corrected_is_not_corrected_again(self):
        done = correct_pin(0.12, ASH, 0, species_set_on_meter=True, temperature_set_on_meter=True)
        self.assertEqual(done.moisture, 0.12)
        self.assertEqual(len(done.steps), 1)

    def test_the_working_is_shown_step_by_step(self):
        corrected = correct_pin(0.12, ASH, 10)
        self.assertEqual(corrected.steps[0].moisture, 0.12)
        self.assertEqual(corrected.steps[-1].moisture, corrected.moisture)
        self.assertEqual([step.kind for step in corrected.steps], [StepKind.SHOWN, StepKind.WOOD_TEMPERATURE, StepKind.SPECIES_SCALE])

    def test_impossible_readings_are_refused(self):
        for bad in (-0.03, 0.004, 2.5, float("nan")):
            with self.assertRaises(OutOfRange):
                correct_pin(bad, OAK, 20)
        with self.assertRaises(OutOfRange):
            correct_pin(0.12, OAK, 150)


class PinlessMeters(unittest.TestCase):
    def test_dense_wood_reads_high_on_a_light_setting(self):
        # Reading × setting / specific gravity.
        self.assertAlmostEqual(correct_pinless(0.12, OAK, 0.50, 0.02, 0.05).moisture, 0.12 * 0.50 / 0.68)
        self.assertAlmostEqual(correct_pinless(0.12, OAK, 0.68, 0.02, 0.05).moisture, 0.12)

    def test_a_board_thinner_than_the_sensing_depth_does_not_count(self):
        thin = correct_pinless(0.12, OAK, 0.5, 0.02, 0.012)
        self.assertFalse(thin.counts)
        self.assertIn("thinner_than_depth", thin.warnings)
        barely = correct_pinless(0.12, OAK, 0.5, 0.02, 0.025)
        self.assertTrue(barely.counts)
        self.assertIn("air_gap", barely.warnings)
        self.assertEqual(correct_pinless(0.12, OAK, 0.5, 0.02, 0.05).warnings, ())

    def test_set_to_the_species_itself_the_reading_stands(self):
        self.assertEqual(correct_pinless(0.11, OAK, None, 0.02, 0.05).moisture, 0.11)

    def test_without_a_density_the_doubt_is_doubled_and_said(self):
        wenge = correct_pinless(0.10, species_named("wenge"), 0.5, 0.02, 0.05)
        self.assertEqual(wenge.moisture, 0.10)
        self.assertIn("no_species_figure", wenge.warnings)
        self.assertGreater(wenge.uncertainty, correct_pinless(0.10, OAK, 0.5, 0.02, 0.05).uncertainty)


class Through(unittest.TestCase):
    @given(st.floats(0.05, 0.25), st.floats(0.05, 0.5))
    def test_the_mean_of_the_parabola_is_its_integral(self, surface, core):
        profile = Profile(surface, core)
        steps = 2000
        integral = sum(profile.at((i + 0.5) / steps) for i in range(steps)) / steps
        self.assertAlmostEqual(profile.mean, integral, places=5)

    def test_the_mean_is_met_at_a_fifth_of_the_thickness(self):
        # (1 − 1/√3)/2 = 0.211: why pins are driven to a fifth.
        profile = Profile(0.10, 0.16)
        self.assertAlmostEqual(profile.at((1 - 1 / math.sqrt(3)) / 2), profile.mean)

    @given(st.floats(0.08, 0.2), st.floats(0.08, 0.3))
    def test_the_inferred_profile_passes_through_both_readings(self, outer, core):
        profile = profile_from(outer, core, 0.2)
        self.assertEqual(profile.core, core)
        if profile.surface > 0:
            self.assertAlmostEqual(profile.at(0.2), outer)

    def test_a_pinless_meter_feels_the_shell_of_thick_stock_and_the_mean_of_a_board(self):
        # Its weight falls from the face to its depth; the parabola's mean lies at 0.211.
        self.assertAlmostEqual(pinless_depth(0.019, 0.025), 0.2, delta=0.012)
        self.assertLess(pinless_depth(0.019, 0.054), 0.12)
        # By hand: the mean of a parabola under that weight, against the parabola at the depth given.
        for depth, thickness in ((0.019, 0.054), (0.010, 0.030), (0.030, 0.030)):
            x = np.linspace(0, min(depth / thickness, 1.0), 20001)
            weights = 1 - x / x[-1]
            drying = Profile(0.10, 0.20)
            felt = float(np.average(0.20 - 0.10 * (1 - 2 * x) ** 2, weights=weights))
            self.assertAlmostEqual(drying.at(pinless_depth(depth, thickness)), felt, delta=2e-5)

    @given(st.floats(0.02, 0.6), st.floats(0.02, 1.2), st.sampled_from([0.05, 0.2, 0.35]), st.booleans())
    def test_a_profile_passes_through_both_readings_it_was_made_from(self, outer, core, depth, round_):
        profile = profile_from(outer, core, depth, is_round=round_)
        self.assertAlmostEqual(profile.at(depth), outer, places=9)
        self.assertAlmostEqual(profile.at(0.5), core, places=9)
        self.assertGreaterEqual(profile.surface, 0)
        self.assertTrue(min(profile.surface, core) - 1e-12 <= profile.mean <= max(profile.surface, core) + 1e-12)

    def test_drying_equalised_and_rewetted_are_told_apart(self):
        self.assertEqual(Profile(0.08, 0.14).state(), "drying")
        self.assertEqual(Profile(0.12, 0.125).state(), "equalised")
        self.assertEqual(Profile(0.16, 0.12).state(), "rewetted")


class Scales(unittest.TestCase):
    @given(st.floats(0, 2.5))
    def test_the_two_bases_turn_into_each_other(self, moisture):
        self.assertAlmostEqual(weighing.dry_basis(weighing.wet_basis(moisture)), moisture, places=10)

    @given(st.floats(0.01, 100), st.floats(0, 2))
    def test_ovendry_mass_and_moisture_belong_together(self, dry, moisture):
        wet = dry * (1 + moisture)
        self.assertAlmostEqual(weighing.moisture_from_masses(wet, dry), moisture, places=9)
        self.assertAlmostEqual(weighing.ovendry_mass_kg(wet, moisture), dry, places=9)

    def test_half_water_is_a_hundred_percent_dry_and_fifty_wet(self):
        self.assertAlmostEqual(weighing.moisture_from_masses(2.0, 1.0), 1.0)
        self.assertAlmostEqual(weighing.wet_basis(1.0), 0.5)

    def test_weights_that_cannot_be_are_refused(self):
        for wet, dry in ((0.9, 1.0), (1.0, 0.0), (1.0, -1.0), (float("nan"), 1.0)):
            with self.assertRaises(OutOfRange):
                weighing.moisture_from_masses(wet, dry)
        with self.assertRaises(OutOfRange):
            weighing.dry_basis(1.0)

    def test_a_coarser_scale_leaves_more_open(self):
        fine, coarse = (weighing.weighing_uncertainty(1.1, 1.0, step) for step in (0.001, 0.05))
        self.assertLess(fine, 0.001)
        self.assertGreater(coarse, 0.03)


class SettingsAndSurfaces(unittest.TestCase):
    """Each thing that makes a reading lie, tried."""

    def test_a_setting_for_another_species_is_taken_back(self):
        # Set to ash, laid on oak: the resistance is the same, so going by way of it must give what an unset meter gives.
        shown_unset = 0.12
        shown_on_ash = on_scale_of(shown_unset, "white_ash")
        set_wrong = correct_pin(shown_on_ash, OAK, 24.0, species_set_on_meter=True, set_to="white_ash", temperature_set_on_meter=True)
        unset = correct_pin(shown_unset, OAK, 24.0, temperature_set_on_meter=True)
        self.assertAlmostEqual(set_wrong.moisture, unset.moisture, places=4)
        self.assertIn("other_species_set", set_wrong.warnings)
        self.assertNotIn("other_species_set", correct_pin(0.12, OAK, 24.0, species_set_on_meter=True, set_to=OAK.key).warnings)

    def test_a_setting_whose_scale_is_not_known_leaves_more_doubt(self):
        unknown = correct_pin(0.12, OAK, 24.0, species_set_on_meter=True, set_to="wenge")
        self.assertIn("setting_not_known", unknown.warnings)
        self.assertGreater(unknown.uncertainty, correct_pin(0.12, OAK, 24.0, species_set_on_meter=True).uncertainty)

    def test_a_pinless_meter_set_for_much_lighter_wood_is_named(self):
        self.assertIn("setting_far", correct_pinless(0.12, OAK, 0.35, 0.02, 0.05).warnings)
        self.assertNotIn("setting_far", correct_pinless(0.12, OAK, 0.65, 0.02, 0.05).warnings)

    def test_a_wet_skin_speaks_to_bare_pins_and_plates_but_not_to_insulated_pins(self):
        self.assertFalse(correct_pin(0.2, OAK, 20.0, condition="wet").counts)
        self.assertFalse(correct_pinless(0.2, OAK, 0.65, 0.02, 0.05, condition="wet").counts)
        self.assertTrue(correct_pin(0.2, OAK, 20.0, condition="wet", insulated=True).counts)

    def test_a_hand_behind_a_thin_board_is_read_too(self):
        self.assertFalse(correct_pinless(0.12, OAK, 0.65, 0.02, 0.025, condition="backed").counts)
        self.assertTrue(correct_pinless(0.12, OAK, 0.65, 0.02, 0.05, condition="backed").counts)
        self.assertEqual(correct_pin(0.12, OAK, 20.0, condition="backed").warnings, correct_pin(0.12, OAK, 20.0).warnings)

    def test_weathered_wood_is_less_sure_and_a_fresh_cut_is_not(self):
        plain = correct_pin(0.12, OAK, 20.0)
        self.assertGreater(correct_pin(0.12, OAK, 20.0, condition="weathered").uncertainty, plain.uncertainty)
        self.assertEqual(correct_pin(0.12, OAK, 20.0, condition="fresh"), plain)

    def test_pins_across_the_grain_leave_more_open_the_wetter_the_wood(self):
        # Twice the resistance: little in dry wood, about two points at 20% (FPL-GTR-6).
        widened = []
        for reading in (0.10, 0.20):
            plain, across = (correct_pin(reading, OAK, 24.0, temperature_set_on_meter=True, across_grain=way) for way in (False, True))
            self.assertEqual(across.moisture, plain.moisture)
            widened.append(math.sqrt(across.uncertainty**2 - plain.uncertainty**2))
        self.assertLess(widened[0], widened[1])
        self.assertTrue(0.01 < widened[1] < 0.03)

    def test_metal_near_makes_a_reading_worthless(self):
        self.assertFalse(correct_pin(0.12, OAK, 20.0, condition="metal", insulated=True).counts)
        self.assertFalse(correct_pinless(0.12, OAK, 0.68, 0.02, 0.05, condition="metal").counts)

    def test_the_offset_of_a_check_is_added_first_and_shown(self):
        result = correct_pin(0.12, OAK, 24.0, offset=-0.01, temperature_set_on_meter=True)
        self.assertAlmostEqual(result.moisture, correct_pin(0.11, OAK, 24.0, temperature_set_on_meter=True).moisture)
        self.assertAlmostEqual(result.steps[1].moisture, 0.11)

    def test_a_resistor_shows_the_published_moisture(self):
        # FPL-GTR-6: coast Douglas-fir, 120 MΩ at 12%, 0.46 MΩ at 25%.
        for megohm, moisture in ((22_400 * 0.98, 0.07), (120, 0.12), (4.6, 0.18), (0.46, 0.25)):
            self.assertAlmostEqual(resistor_reading(megohm), moisture, delta=0.0004)
        for megohm in (0, 1e9, math.nan):
            with self.assertRaises(OutOfRange):
                resistor_reading(megohm)

    def test_over_a_round_the_outside_counts_for_half(self):
        # The mean of a parabola over a disc, by adding up rings.
        profile = profile_from(0.2, 0.6, 0.0, is_round=True)
        rings = [(i + 0.5) / 4000 for i in range(4000)]
        mean = sum((0.6 - 0.4 * r * r) * 2 * r for r in rings) / 4000
        self.assertAlmostEqual(profile.mean, mean, places=5)


if __name__ == "__main__":
    unittest.main()
