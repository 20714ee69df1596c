"""A year of wood drawn: the dial of its seasons and its two years on a waterline."""

import itertools
import math
import re

from django.test import SimpleTestCase

from calm_heron.movement import season_drawings as drawings
from wood.builds.choosing import looks
from wood.movement import seasons
from wood.movement.course import between
from wood.species import species_named
from wood.units import INCH

COURSES = {name: between(*moistures) for name, moistures in {"wide": (0.09, 0.06, 0.12), "narrow": (0.10, 0.095, 0.105)}.items()}


def points(d: str) -> list[tuple[float, float]]:
    numbers = [float(number) for number in re.findall(r"-?\d+(?:\.\d+)?", d)]
    return list(zip(numbers[::2], numbers[1::2], strict=True))


class TheDial(SimpleTestCase):
    def test_both_rings_go_round_the_centre_inside_the_dial(self):
        for name, course in COURSES.items():
            dial = drawings.dial(course)
            for d in (dial.level, dial.mean):
                ring = points(d)
                with self.subTest(name):
                    self.assertGreater(len(ring), 300)
                    for x, y in ring:
                        radius = math.hypot(x - dial.centre, y - dial.centre)
                        self.assertTrue(drawings.INNER - 1 <= radius <= drawings.OUTER + 1, radius)

    def test_the_wood_swings_less_than_its_air(self):
        dial = drawings.dial(COURSES["wide"])

        def spread(d: str) -> float:
            radii = [math.hypot(x - dial.centre, y - dial.centre) for x, y in points(d)]
            return max(radii) - min(radii)

        self.assertLessEqual(spread(dial.mean), spread(dial.level) + 1)

    def test_january_is_at_the_top_and_the_months_go_with_the_clock(self):
        dial = drawings.dial(COURSES["wide"])
        self.assertEqual(len(dial.months), 12)
        (x, y, _), (_, _, _), (_, _, _), (april_x, _, _) = dial.months[:4]
        self.assertLess(y, dial.centre)
        self.assertLess(abs(x - dial.centre), 60)
        self.assertGreater(april_x, dial.centre)

    def test_rings_are_whole_percents_from_the_inside_out(self):
        for course in COURSES.values():
            rings = drawings.dial(course).rings
            self.assertGreaterEqual(len(rings), 2)
            self.assertEqual([radius for radius, _ in rings], sorted(radius for radius, _ in rings))
            self.assertTrue(all(label.isdigit() for _, label in rings))

    def test_it_is_told_in_figures(self):
        self.assertRegex(drawings.dial(COURSES["wide"]).summary, r"from \d+\.\d to \d+\.\d percent; it comes to \d+\.\d to \d+\.\d\.")


class TheWheel(SimpleTestCase):
    def test_bars_are_as_long_as_woods_move_and_names_stay_on_the_sheet(self):
        book = [species_named(key) for key in looks()]
        known, _ = seasons.dial(book, 0.3, 0.06, 0.11)
        wheel = drawings.wheel([(season, False) for season in known], INCH)
        longest = max(spoke.flat_long for spoke in wheel.spokes)
        for season, spoke in zip(known, wheel.spokes, strict=True):
            self.assertAlmostEqual(spoke.flat_long / longest, season.flat_m / known[-1].flat_m)
            self.assertAlmostEqual(spoke.quarter_long / spoke.flat_long, season.quarter_m / season.flat_m)
            # Letters 17 high are about eight and a half wide.
            self.assertLess(wheel.named + (spoke.squeezed_to or 8.5 * len(spoke.name)), wheel.size / 2, spoke.name)
        self.assertEqual([spoke.inwards for spoke in wheel.spokes].index(True), math.ceil(len(known) / 2))


class TheWaterline(SimpleTestCase):
    def test_both_lines_run_through_the_whole_chart(self):
        for course in COURSES.values():
            for width in (760, 380):
                chart = drawings.chart(course, 100.0, width)
                for d in (chart.surface, chart.thread):
                    line = points(d)
                    self.assertAlmostEqual(line[0][0], chart.left, delta=1)
                    self.assertTrue(all(a[0] < b[0] for a, b in itertools.pairwise(line)))
                    self.assertTrue(all(0 <= y <= chart.bottom for _, y in line))

    def test_it_begins_where_it_was_built(self):
        course = COURSES["wide"]
        chart = drawings.chart(course, 0.0, 760)
        self.assertAlmostEqual(chart.start[0], chart.left)
        self.assertIn(f"{course.built * 100:.1f} percent on the first day", chart.summary)

    def test_months_are_named_in_their_order_and_fewer_on_a_phone(self):
        wide, narrow = (drawings.chart(COURSES["wide"], 45.0, width).across for width in (760, 380))
        self.assertGreater(len(wide), len(narrow))
        for ticks in (wide, narrow):
            self.assertEqual([tick.at for tick in ticks], sorted(tick.at for tick in ticks))

    def test_percents_rise(self):
        up = drawings.chart(COURSES["wide"], 0.0, 760).up
        self.assertEqual([int(tick.label) for tick in up], sorted(int(tick.label) for tick in up))
        self.assertEqual([tick.at for tick in up], sorted((tick.at for tick in up), reverse=True))
