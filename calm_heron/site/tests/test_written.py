"""Numbers, days and colours as every page writes them."""

import itertools
import re
from datetime import UTC, date, datetime, timedelta

from django.test import SimpleTestCase
from django.utils import timezone

from calm_heron.site import dates, numbers, ramp
from calm_heron.site.templatetags import wood_words
from wood.measuring.readings import Bound
from wood.units import INCH, METRIC

TEATIME = datetime(2026, 11, 6, 14, 5, tzinfo=UTC)


def channels(colour: str) -> tuple[int, ...]:
    """Red, green and blue of #rrggbb."""
    return tuple(int(colour[k : k + 2], 16) for k in (1, 3, 5))


def luminance(colour: str) -> float:
    """How light a colour is (WCAG 2), 0 to 1."""
    linear = [c / 255 / 12.92 if c / 255 <= 0.03928 else ((c / 255 + 0.055) / 1.055) ** 2.4 for c in channels(colour)]
    return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]


class Percentages(SimpleTestCase):
    def test_a_moisture_has_a_decimal_only_where_that_says_something(self):
        written = {
            0.2: "20",
            0.084: "8.4",
            0.0801: "8",
            0.299: "29.9",
            0.305: "30",
            0.612: "61",
            1.2: "120",
            0.0: "0",
        }
        for fraction, text in written.items():
            with self.subTest(fraction):
                self.assertEqual(numbers.percent(fraction), f"{text}%")

    def test_a_number_is_never_parted_from_its_sign(self):
        for fraction in (0.01, 0.123, 0.7):
            self.assertNotIn(" ", numbers.percent(fraction))

    def test_what_is_not_known_is_a_dash(self):
        self.assertEqual(numbers.points(None), numbers.NO_FIGURE)
        self.assertEqual(numbers.bounded(None), numbers.NO_FIGURE)

    def test_differences_have_their_sign_and_a_true_minus(self):
        self.assertEqual(numbers.signed(0.012), "+1.2")
        self.assertEqual(numbers.signed(-0.012), "−1.2")
        self.assertNotIn("-", numbers.signed(-0.3))

    def test_a_distance_has_none(self):
        self.assertEqual(numbers.distance(-0.004), numbers.distance(0.004))

    def test_what_lies_off_the_scale_says_on_which_side(self):
        self.assertEqual(numbers.bounded(0.28, Bound.ABOVE), ">28.0")
        self.assertEqual(numbers.bounded(0.06, Bound.BELOW), "<6.0")
        self.assertEqual(numbers.bounded(0.11), "11.0")

    def test_what_is_typed_comes_back_as_it_was(self):
        for percent in ("9", "9.5", "12.35", "0.1", "100"):
            self.assertEqual(numbers.typed(float(percent) / 100), percent)


class Days(SimpleTestCase):
    def test_as_the_british_write_them(self):
        with dates.as_in(dates.BRITISH, "UTC"):
            self.assertEqual(dates.day(TEATIME), "6 November")
            self.assertEqual(dates.full_day(TEATIME), "6 November 2026")
            self.assertEqual(dates.short_day(TEATIME), "6 Nov")
            self.assertEqual(dates.short_full_day(TEATIME), "6 Nov 2026")
            self.assertEqual(dates.clock(TEATIME), "14:05")
            self.assertEqual(dates.full_moment(TEATIME), "6 Nov 2026, 14:05")

    def test_as_the_americans_write_them(self):
        with dates.as_in(dates.AMERICAN, "UTC"):
            self.assertEqual(dates.day(TEATIME), "November 6")
            self.assertEqual(dates.full_day(TEATIME), "November 6, 2026")
            self.assertEqual(dates.short_day(TEATIME), "Nov 6")
            self.assertEqual(dates.clock(TEATIME), "2:05 PM")
            self.assertEqual(dates.moment(TEATIME), "Nov 6, 2:05 PM")

    def test_a_moment_is_told_at_the_readers_clock_and_a_day_is_a_day_everywhere(self):
        with dates.as_in(dates.BRITISH, "Pacific/Auckland"):
            self.assertEqual(dates.full_moment(TEATIME), "7 Nov 2026, 03:05")
            self.assertEqual(dates.full_day(date(2026, 11, 6)), "6 November 2026")

    def test_language_and_clock_go_with_the_page(self):
        with dates.as_in(dates.AMERICAN, "America/New_York"):
            pass
        self.assertEqual(dates.language(), dates.BRITISH)
        self.assertEqual(dates.clock(TEATIME), "14:05")

    def test_they_go_even_where_the_page_fails(self):
        with self.assertRaises(ZeroDivisionError), dates.as_in(dates.AMERICAN, "America/New_York"):
            raise ZeroDivisionError
        self.assertEqual(dates.language(), dates.BRITISH)

    def test_the_zones_offered_are_places_and_utc_first(self):
        zones = dates.zones()
        self.assertEqual(zones[0], "UTC")
        self.assertIn("Europe/Oslo", zones)
        self.assertFalse([zone for zone in zones[1:] if zone.startswith(("Etc/", "posix/", "right/"))])
        self.assertEqual(zones[1:], sorted(zones[1:]))

    def test_no_day_is_nothing(self):
        for write in ("day", "full_day", "short_day", "short_full_day", "clock", "moment", "full_moment"):
            self.assertEqual(wood_words.register.filters[write](None), "")


class HowLongAgo(SimpleTestCase):
    WRITTEN = {
        timedelta(seconds=-40): ("just now", "now"),
        timedelta(seconds=89): ("just now", "now"),
        timedelta(minutes=2, seconds=5): ("2 minutes ago", "2 m"),
        timedelta(hours=1, minutes=5): ("1 hour ago", "1 h"),
        timedelta(hours=23, minutes=58): ("23 hours ago", "23 h"),
        timedelta(days=1, minutes=5): ("1 day ago", "1 d"),
        timedelta(days=6, hours=23): ("6 days ago", "6 d"),
        timedelta(days=15): ("2 weeks ago", "2 w"),
        timedelta(days=31): ("1 month ago", "1 mo"),
        timedelta(days=360): ("11 months ago", "11 mo"),
        timedelta(days=800): ("2 years ago", "2 y"),
    }

    def test_in_the_largest_unit_that_fits(self):
        for since, (whole, short) in self.WRITTEN.items():
            moment = timezone.now() - since
            with self.subTest(whole):
                self.assertEqual(wood_words.ago(moment), whole)
                self.assertEqual(wood_words.ago_short(moment), short)

    def test_never_is_said(self):
        self.assertEqual((wood_words.ago(None), wood_words.ago_short(None)), ("never", "never"))


class TheRamp(SimpleTestCase):
    MOISTURES = (0.0, 0.04, 0.06, 0.08, 0.10, 0.12, 0.15, 0.18, 0.20, 0.24, 0.28, 0.30, 0.40, 0.60, 0.90, 1.20, 2.0)

    def test_wetter_is_darker_all_the_way(self):
        light = [luminance(ramp.colour(moisture)) for moisture in self.MOISTURES]
        self.assertEqual(light, sorted(light, reverse=True))
        between = [luminance(ramp.colour(moisture)) for moisture in (0.04, 0.12, 0.20, 0.30, 0.60, 1.20)]
        self.assertTrue(all(upper > lower for upper, lower in itertools.pairwise(between)))

    def test_ends_stay_where_they_are(self):
        self.assertEqual(ramp.colour(0.0), ramp.colour(0.04))
        self.assertEqual(ramp.colour(1.2), ramp.colour(3.0))

    def test_dry_and_wet_are_told_apart_where_it_matters(self):
        for dry, wet in ((0.06, 0.09), (0.08, 0.12), (0.12, 0.19), (0.20, 0.30), (0.30, 0.60)):
            apart = sum((a - b) ** 2 for a, b in zip(channels(ramp.colour(dry)), channels(ramp.colour(wet)), strict=True)) ** 0.5
            with self.subTest(f"{dry} to {wet}"):
                self.assertGreater(apart, 15)

    def test_writing_on_it_can_be_read(self):
        for moisture in (*self.MOISTURES, *(k / 200 for k in range(8, 120))):
            back, ink = luminance(ramp.colour(moisture)), luminance(ramp.ink_on(moisture))
            contrast = (max(back, ink) + 0.05) / (min(back, ink) + 0.05)
            with self.subTest(moisture):
                self.assertGreater(contrast, 4.5)

    def test_its_legend_runs_from_dry_to_wet(self):
        legend = wood_words.moisture_ramp()
        shown = [(int(x), int(label)) for x, label in re.findall(r'<text class="small" x="(\d+)"[^>]*>(\d+)<', legend)]
        self.assertEqual([label for _, label in shown], [4, 12, 20, 30, 90])
        self.assertEqual(shown, sorted(shown))
        steps = re.findall(r'<rect x="(\d+)"', legend)
        self.assertEqual([int(x) for x in steps[:-1]], [14 * number for number in range(len(steps) - 1)])
        # The tick of fibre saturation stands at the right edge of its step.
        break_at = next(x for x, label in shown if label == 30)
        self.assertIn(f'd="M{break_at + 7} -2', legend)


class Filters(SimpleTestCase):
    def test_columns_stand_on_their_ground(self):
        self.assertEqual([wood_words.of_hundred(share) for share in (0.0, 33.3, 100.0)], ["100", "67", "0"])

    def test_lengths_go_by_their_purpose(self):
        self.assertEqual(wood_words.cut_length(0.0191, INCH), "3/4 in")
        self.assertEqual(wood_words.cut_length(1.8383, INCH), "72 3/8 in")
        self.assertEqual(wood_words.cut_length(0.01914, METRIC), "19.1 mm")
        self.assertEqual(wood_words.handled_length(0.4064, INCH), "16 in")

    def test_temperature_and_mass_speak_the_readers_units(self):
        self.assertEqual(wood_words.temperature(20.0, METRIC), "20°C")
        self.assertEqual(wood_words.temperature(20.0, INCH), "68°F")
        self.assertIn("oz", wood_words.mass(0.3, INCH))
        self.assertIn("g", wood_words.mass(0.3, METRIC))

    def test_a_text_for_both_is_read_in_one(self):
        text = "About {two metres|six feet} from the wall."
        self.assertEqual(wood_words.in_system(text, METRIC), "About two metres from the wall.")
        self.assertEqual(wood_words.in_system(text, INCH), "About six feet from the wall.")

    def test_moisture_on_the_whole_mass_is_less_than_on_the_dry(self):
        self.assertAlmostEqual(wood_words.wet_basis(1.0), 0.5)
        self.assertAlmostEqual(wood_words.wet_basis(0.25), 0.2)

    def test_ruled_lines_have_their_heads(self):
        self.assertEqual(wood_words.ruled("Day, Weight ,By", 3), {"heads": ["Day", "Weight", "By"], "lines": range(3)})
