"""A load drawn over its days: chamber, wood and stress on one axis, dots where samples were weighed, prongs as they stand."""

import itertools
import re
from datetime import date, timedelta
from functools import cache
from types import SimpleNamespace

from django.test import SimpleTestCase

from calm_heron.kiln import drawings
from wood.air.climate import pattern
from wood.drying.diffusivity import of_species
from wood.kiln import chambers, plans
from wood.kiln.chambers import Kind
from wood.kiln.sharing import Lot
from wood.kiln.stress import Prongs
from wood.species import species_named
from wood.units import INCH, METRIC

BEGUN = date(2026, 4, 16)
WOODS = (("sugar_maple", 0.30, Kind.DEHUMIDIFIER), ("eastern_white_pine", 0.60, Kind.VENTED))


@cache
def planned(key: str, start: float, kind: Kind) -> plans.Planned:
    """Four-quarter boards from spring on."""
    species = species_named(key)
    lot = Lot(key, species, 0.0286, start or of_species(species).green_moisture, 5.0)
    return plans.plan([lot], 0.08, chambers.usual(kind, 5.0), pattern("four_seasons").year.starting(105))


def load() -> SimpleNamespace:
    return SimpleNamespace(wanted=0.08, day=lambda days: BEGUN + timedelta(days=float(days)))


def points(d: str) -> list[tuple[float, float]]:
    numbers = [float(number) for number in re.findall(r"-?\d+(?:\.\d+)?", d)]
    return list(zip(numbers[::2], numbers[1::2], strict=True))


class OverItsDays(SimpleTestCase):
    def drawn(self, wood=WOODS[0], width=drawings.WIDE, system=METRIC, **more) -> drawings.LoadDrawing:
        return drawings.drawing(load(), planned(*wood), system, width, **more)

    def test_panels_lie_under_each_other_inside_the_drawing(self):
        for wood in WOODS:
            for width in (drawings.WIDE, drawings.NARROW):
                drawn = self.drawn(wood, width)
                edges = [edge for panel in drawn.panels for edge in (panel.top, panel.bottom)]
                with self.subTest(f"{wood[0]} {width}"):
                    self.assertEqual(edges, sorted(edges))
                    self.assertLess(edges[-1], drawn.height)
                    self.assertEqual(len(drawn.panels), 3)

    def test_every_line_stays_in_its_panel(self):
        for wood in WOODS:
            for panel in self.drawn(wood).panels:
                for line in panel.lines:
                    for x, y in points(line.d):
                        with self.subTest(f"{wood[0]} {panel.name} {line.css}"):
                            self.assertTrue(drawings.LEFT - 1 <= x <= drawings.WIDE)
                            self.assertTrue(panel.top - 2 <= y <= panel.bottom + 2, y)

    def test_the_wood_comes_down(self):
        for wood in WOODS:
            panel = self.drawn(wood).panels[1]
            line = points(max((line.d for line in panel.lines), key=len))
            self.assertGreater(line[-1][1], line[0][1])

    def test_steps_and_days_run_from_left_to_right(self):
        drawn = self.drawn()
        self.assertEqual(drawn.steps, sorted(drawn.steps))
        self.assertTrue(all(drawn.left <= step <= drawn.right for step in drawn.steps))
        self.assertTrue(all(a.at < b.at for a, b in itertools.pairwise(drawn.across)))
        self.assertEqual(drawn.across[0].label, "16 Apr")

    def test_weights_are_dots_on_the_curve_of_moistures(self):
        drawn = self.drawn(dots=[(0.0, 0.30), (5.0, 0.20), (8.0, 0.12)])
        self.assertEqual(len(drawn.dots), 3)
        self.assertEqual([dot.x for dot in drawn.dots], sorted(dot.x for dot in drawn.dots))
        self.assertEqual([dot.y for dot in drawn.dots], sorted(dot.y for dot in drawn.dots))
        wood = drawn.panels[1]
        self.assertTrue(all(wood.top - 1 <= dot.y <= wood.bottom + 1 for dot in drawn.dots))

    def test_today_stands_where_it_is_and_only_for_a_load_at_work(self):
        first, later = self.drawn(today=1.0), self.drawn(today=5.0)
        self.assertLess(first.today, later.today)
        self.assertIsNone(self.drawn().today)

    def test_a_load_that_runs_over_its_plan_gets_a_longer_axis(self):
        long = self.drawn(today=400.0)
        self.assertLessEqual(long.today, long.right + 0.1)
        self.assertIn("400 days", long.summary)

    def test_what_happened_is_marked_on_its_day(self):
        drawn = self.drawn(happened=[(2.0, "the power was cut"), (9_999.0, "never")])
        self.assertEqual([tick.label for tick in drawn.happened], ["the power was cut"])

    def test_the_chamber_is_told_in_the_readers_degrees(self):
        metric, inch = (self.drawn(system=system).panels[0] for system in (METRIC, INCH))
        self.assertNotEqual(str(metric), str(inch))


class TheProngs(SimpleTestCase):
    def test_each_reading_has_a_shape_of_its_own(self):
        shapes = {drawings.prongs(reading) for reading in Prongs}
        self.assertEqual(len(shapes), len(Prongs))

    def test_prongs_that_lean_in_come_nearer_to_each_other(self):
        def gap(reading: Prongs) -> float:
            tips = re.findall(r"30 [\d.]+ 10 ([\d.]+)", drawings.prongs(reading))
            return float(tips[1]) - float(tips[0])

        self.assertGreater(gap(Prongs.OUT), gap(Prongs.STRAIGHT))
        self.assertGreater(gap(Prongs.STRAIGHT), gap(Prongs.IN))
        self.assertGreater(gap(Prongs.IN), gap(Prongs.TOUCH))
