"""Units as people type and read them."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from wood import units, written
from wood.errors import CannotRead
from wood.units import INCH, METRIC, length_m, mass_kg, temperature
from wood.written import inches, said_length


class Lengths(unittest.TestCase):
    def test_what_people_write_on_boards(self):
        for text, system, millimetres in (
            ("5/4", METRIC, 31.75),
            ("4/4", INCH, 25.4),
            ("1 3/8", INCH, 34.925),
            ("1⅜", INCH, 34.925),
            ("2 ¾ in", METRIC, 69.85),
            ("1-3/8", METRIC, 34.925),
            ("3/4", METRIC, 19.05),
            ("27", METRIC, 27),
            ("27 mm", INCH, 27),
            ("2,4 m", METRIC, 2400),
            ("8 ft", METRIC, 2438.4),
            ("8' 6\"", INCH, 2590.8),
            ("1.25", INCH, 31.75),
            ("−3 mm", METRIC, -3),
            ("-1 3/8", INCH, -34.925),
            ("1⁄2", INCH, 12.7),
            ("2 cm", INCH, 20),
            ("8 ft 6", INCH, 2590.8),
        ):
            with self.subTest(text):
                self.assertAlmostEqual(length_m(text, system) * 1000, millimetres)

    def test_what_is_no_length_is_named(self):
        for text, why in (
            ("1 3/0", "under the line"),
            ("5//4", "not a fraction"),
            ("", "needed"),
            ("abc", "not a size"),
            ("1/3", "2, 4, 8"),
            ("1 3/8 mm", "fractions are of an inch"),
            ("<b>1</b>", "not a size"),
            ("1e9", "not a size"),
            ("1 2 3", "not a number"),
            ("∞", "not a size"),
            ("9" * 300, "not a number"),
            ("5/4/4", "not a fraction"),
        ):
            with self.subTest(text), self.assertRaises(CannotRead) as refused:
                length_m(text, INCH)
            self.assertIn(why, refused.exception.why)

    @given(st.text(max_size=40))
    def test_any_text_is_a_length_or_a_typed_error(self, text):
        for read in (
            lambda: length_m(text, INCH),
            lambda: temperature(text, METRIC),
            lambda: mass_kg(text, METRIC),
            lambda: units.percent(text),
        ):
            try:
                read()
            except CannotRead as refused:
                self.assertTrue(refused.why)

    @given(st.floats(-5, 5))
    def test_a_length_in_a_field_reads_back_as_itself_on_either_side_of_nothing(self, metres):
        for system in (INCH, METRIC):
            self.assertAlmostEqual(length_m(written.typed_length(metres, system), system), metres, delta=1e-9)

    @given(st.floats(0, 3))
    def test_written_lengths_read_back_to_the_same_sixty_fourth(self, metres):
        for system, step in ((INCH, units.INCH_M / 64), (METRIC, 0.0001)):
            if metres < 1.5:
                self.assertAlmostEqual(length_m(said_length(metres, system), system), metres, delta=step / 2 + 1e-12)

    def test_inches_are_written_in_lowest_terms(self):
        self.assertEqual(inches(0.0254 * 1.5), "1 1/2")
        self.assertEqual(inches(-0.0254 / 64), "-1/64")
        self.assertEqual(said_length(2.4384, INCH), "8 ft")


class OtherUnits(unittest.TestCase):
    def test_a_written_unit_wins_over_the_workshops(self):
        self.assertAlmostEqual(temperature("68 F", METRIC).celsius, 20)
        self.assertAlmostEqual(temperature("20°C", INCH).celsius, 20)
        self.assertTrue(temperature("20c", INCH).unit_given)
        self.assertFalse(temperature("68", INCH).unit_given)
        self.assertAlmostEqual(mass_kg("1 lb", METRIC), 0.45359237)
        self.assertAlmostEqual(mass_kg("16", INCH), 0.45359237)

    def test_nonsense_is_refused_with_a_sentence(self):
        for read in (
            lambda: temperature("warm", METRIC),
            lambda: mass_kg("12 stone", INCH),
            lambda: units.percent("dry"),
            lambda: units.number("--1"),
        ):
            with self.assertRaises(CannotRead):
                read()

    def test_a_long_text_is_repeated_short(self):
        self.assertLessEqual(len(units.shortened("x" * 500)), 24)
