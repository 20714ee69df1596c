"""How figures are written: what is cut reads back as itself at any length, one list has one unit, and nothing is written as less than
nothing.
"""

import re
import unittest

from hypothesis import given
from hypothesis import strategies as st

from wood import units, written
from wood.units import INCH, INCH_M, METRIC, SCALES

LENGTHS = st.floats(-6.0, 6.0)
THIRTY_SECONDS = INCH.as_set("", 32)
SYSTEMS = (INCH, METRIC, THIRTY_SECONDS)


class ToCut(unittest.TestCase):
    @given(LENGTHS)
    def test_it_reads_back_within_half_a_step_at_any_length(self, metres):
        for system, step in ((INCH, INCH_M / 64), (THIRTY_SECONDS, INCH_M / 32), (METRIC, 1e-4)):
            text = written.cut_length(metres, system)
            self.assertLessEqual(abs(units.length_m(text, system) - metres), step / 2 + 1e-9, text)
            self.assertNotIn("ft", text)
            self.assertTrue(text.endswith((" in", " mm")), text)

    @given(st.floats(1e-5, INCH_M / 64 - 1e-9))
    def test_what_is_smaller_than_a_step_is_never_nothing(self, metres):
        for system, step in ((INCH, INCH_M / 1000), (METRIC, 1e-5)):
            text = written.cut_length(metres, system)
            self.assertLessEqual(abs(units.length_m(text, system) - metres), step / 2 + 1e-12)
            if metres > step:
                self.assertNotIn(text.split()[0], ("0", "-0"))

    def test_known_sizes(self):
        for metres, inch, metric in (
            (72.375 * INCH_M, "72 3/8 in", "1838.3 mm"),
            (60.625 * INCH_M, "60 5/8 in", "1539.9 mm"),
            (0.0, "0 in", "0 mm"),
            (-0.0381, "-1 1/2 in", "-38.1 mm"),
            (0.0001, "0.004 in", "0.1 mm"),
            (0.00025, "0.01 in", "0.25 mm"),
            (6.0, "236 7/32 in", "6000 mm"),
        ):
            self.assertEqual((written.cut_length(metres, INCH), written.cut_length(metres, METRIC)), (inch, metric))
        self.assertEqual(written.cut_length(61 / 64 * INCH_M, THIRTY_SECONDS), "15/16 in")
        self.assertEqual(written.cut_length(INCH_M / 64, THIRTY_SECONDS), "0.016 in")

    def test_sizes_name_their_unit_once(self):
        self.assertEqual(written.cut_sizes((72.375 * INCH_M, 2.5 * INCH_M, 0.875 * INCH_M), INCH), "72 3/8 × 2 1/2 × 7/8 in")
        self.assertEqual(written.cut_sizes((1.8383, 0.0635, 0.0222), METRIC), "1838.3 × 63.5 × 22.2 mm")


class BothWays(unittest.TestCase):
    @given(st.floats(0.0, 0.1), st.floats(0.0, 0.1))
    def test_each_way_reads_back_and_nothing_has_a_sign(self, growth, shrinkage):
        for system in (INCH, METRIC):
            text = written.both_ways(growth, shrinkage, system)
            self.assertNotRegex(text, r"[+−]0 (?:mm|in)\b")
            for sign, metres in (("+", growth), ("−", shrinkage)):
                if written.cut_length(metres, system) != written.cut_length(0.0, system):
                    self.assertIn(f"{sign}{written.cut_length(metres, system)}", text)
                else:
                    self.assertNotIn(sign, text)

    def test_what_does_not_move_at_all(self):
        self.assertEqual((written.both_ways(0.0, 0.0, METRIC), written.both_ways(0.0, 0.0, INCH)), ("0 mm", "0 in"))


class ToHandleAndToSay(unittest.TestCase):
    @given(LENGTHS)
    def test_what_is_handled_reads_back_within_half_a_step(self, metres):
        for system, step in ((INCH, INCH_M / 16), (METRIC, 1e-3)):
            text = written.handled_length(metres, system)
            sign, text = (-1, text[1:]) if text.startswith("-") else (1, text)
            self.assertLessEqual(abs(sign * units.length_m(text, system) - metres), step / 2 + 1e-9, text)

    @given(LENGTHS, st.floats(-80, 300), st.floats(-5.0, 2000.0))
    def test_nothing_has_a_sign_of_its_own_and_none_overflows_its_unit(self, metres, celsius, kilograms):
        for system in (*SYSTEMS, *(INCH.as_set(key, 64) for key in SCALES)):
            texts = (
                written.cut_length(metres, system),
                written.handled_length(metres, system),
                written.said_length(metres, system),
                written.written_temperature(celsius, system),
                written.weighed_mass(kilograms, system),
                written.rough_mass(abs(kilograms), system),
            )
            for text in texts:
                self.assertIsNone(
                    re.search(r"-0(?:\.0+)? |\b12 in$|\b16(?:\.0)? oz$" if "ft" in text or "lb" in text else r"-0(?:\.0+)? ", text), text
                )
            self.assertNotIn("1000 g", texts[-1])

    def test_small_things_are_said(self):
        self.assertEqual(written.said_length(0.0001, INCH), "0.004 in")
        self.assertEqual(written.handled_length(0.0005, INCH), "0.02 in")
        self.assertEqual(written.written_temperature(-17.8, INCH), "0°F")
        self.assertEqual(written.written_temperature(-0.04, METRIC), "0°C")


class Weighed(unittest.TestCase):
    def test_each_scale_has_its_own_unit_whatever_the_size(self):
        for scale, small, large in (
            ("g", "412 g", "2400 g"),
            ("kg", "0.412 kg", "2.4 kg"),
            ("oz", "14.5 oz", "84.7 oz"),
            ("lb", "0.91 lb", "5.29 lb"),
            ("lb_oz", "14.5 oz", "5 lb 4.7 oz"),
        ):
            system = METRIC.as_set(scale, 64)
            self.assertEqual((written.weighed_mass(0.412, system), written.weighed_mass(2.4, system)), (small, large))

    @given(st.floats(0.0, 200.0), st.sampled_from(sorted(SCALES)))
    def test_what_is_written_reads_back(self, kilograms, scale):
        system = INCH.as_set(scale, 64)
        self.assertAlmostEqual(units.mass_kg(written.typed_mass(kilograms, system), system), kilograms, delta=1e-8)
        self.assertAlmostEqual(units.mass_kg(written.weighed_mass(kilograms, system), system), kilograms, delta=0.003)

    def test_pounds_and_ounces_are_read_and_a_bare_number_is_asked_back(self):
        both = INCH.as_set("lb_oz", 64)
        for text in ("2 lb 3 oz", "2lb3oz", "2 lbs 3", "2lb 3 oz", "35 oz"):
            for system in (both, METRIC, INCH):
                self.assertAlmostEqual(units.mass_kg(text, system), 35 * units.OUNCE_KG, places=9)
        for text, why in (
            ("2.5", "pounds or ounces"),
            ("2 lb 16 oz", "sixteen are a pound"),
            ("2 lb oz", "not a weight"),
            ("lb 3 oz", "not a weight"),
        ):
            with self.assertRaisesRegex(units.CannotRead, why):
                units.mass_kg(text, both)

    def test_limits_are_round_and_lie_inside(self):
        self.assertEqual(written.mass_limits(0.001, 200.0, INCH), ("0.0353 oz", "440 lb"))
        self.assertEqual(written.mass_limits(0.001, 200.0, METRIC), ("1 g", "200 kg"))
        self.assertEqual(written.length_limits(0.002, 1.2, INCH), ("3/32 in", "47 15/64 in"))
        self.assertEqual(written.length_limits(0.05, 12.0, METRIC), ("50 mm", "12.00 m"))

    @given(st.floats(1e-4, 1.0), st.floats(1.5, 2000.0), st.sampled_from(sorted(SCALES)))
    def test_any_limit_that_is_named_is_allowed(self, low, high, scale):
        for system in (INCH.as_set(scale, 64), METRIC.as_set(scale, 64)):
            for kind, read in ((written.mass_limits, units.mass_kg), (written.length_limits, units.length_m)):
                first, last = kind(low, high, system)
                self.assertGreaterEqual(read(first, system), low * (1 - 1e-5))
                self.assertLessEqual(read(last, system), high * (1 + 1e-5))
