"""Hygrometers: salt checks against Greenspan's figures, drift, and which of several to believe."""

import unittest

from wood.air.hygrometers import Shown, compare, salt_check, tolerance_now
from wood.errors import NotKnown, OutOfRange


class SaltChecks(unittest.TestCase):
    def test_a_check_gives_what_the_salt_does_and_what_to_add(self):
        # Greenspan 1977: NaCl 75.47% at 20°C, MgCl2 33.07%.
        for salt, expected in (("NaCl", 0.7547), ("MgCl2", 0.3307)):
            check = salt_check(salt, 20.0, 0.70, waited_hours=12)
            self.assertAlmostEqual(check.expected, expected, places=4)
            self.assertAlmostEqual(check.offset, expected - 0.70, places=4)

    def test_a_reading_too_far_off_is_not_believed(self):
        self.assertFalse(salt_check("NaCl", 20.0, 0.60).believable)
        self.assertTrue(salt_check("NaCl", 20.0, 0.70).believable)

    def test_too_early_unknown_salts_and_impossible_values_are_refused(self):
        for name, act in (
            ("waited_hours", lambda: salt_check("NaCl", 20.0, 0.75, waited_hours=2)),
            ("shown", lambda: salt_check("NaCl", 20.0, 1.2)),
            ("temperature_c", lambda: salt_check("NaCl", 60.0, 0.75)),
        ):
            with self.subTest(name), self.assertRaises(OutOfRange) as caught:
                act()
            self.assertEqual(caught.exception.field, name)
        with self.assertRaises(NotKnown):
            salt_check("pepper", 20.0, 0.75)

    def test_a_check_makes_surer_and_wears_off(self):
        days = [tolerance_now(0.05, day) for day in (0, 90, 300, 365, 2000)]
        self.assertEqual(days, sorted(days))
        self.assertEqual(days[-2:], [0.05, 0.05])
        self.assertEqual(tolerance_now(0.01, 0.0), 0.01)


class SideBySide(unittest.TestCase):
    def test_instruments_within_their_tolerances_agree_and_are_averaged_by_them(self):
        pair = compare(20.0, [Shown("a", 0.50, 0.03), Shown("b", 0.53, 0.03)])
        self.assertTrue(pair.agree)
        self.assertAlmostEqual(pair.best, 0.515)
        self.assertLess(pair.best_tolerance, 0.03)

    def test_the_checked_one_is_believed_and_equals_leave_it_open(self):
        pair = compare(20.0, [Shown("dial", 0.62, 0.05), Shown("grey", 0.50, 0.016, checked=True)])
        self.assertFalse(pair.agree)
        self.assertEqual(pair.believed, "grey")
        self.assertEqual(compare(20.0, [Shown("a", 0.40, 0.03), Shown("b", 0.53, 0.03)]).believed, "")

    def test_the_difference_is_worth_more_moisture_in_damp_air(self):
        dry, damp = (compare(20.0, [Shown("a", h, 0.03), Shown("b", h + 0.06, 0.03)]).worth_emc for h in (0.40, 0.85))
        self.assertGreater(damp, 2 * dry)
        with self.assertRaises(OutOfRange):
            compare(20.0, [Shown("a", 0.5, 0.03)])
