"""A drying drawn: the drawing says what the answer says, on the axes it has, whatever the wood, the air and the screen."""

import itertools
import re
from dataclasses import asdict
from datetime import date, timedelta
from functools import cache

import numpy as np
from django.test import SimpleTestCase

from calm_heron.drying import drawings, methods, queries
from calm_heron.drying.words import RiskDescription
from calm_heron.site.drawing import Tick
from wood.drying.answers import Answer, answer
from wood.drying.defects import RiskLevel
from wood.drying.diffusivity import of_species
from wood.drying.questions import Question
from wood.species import species_named

BEGUN = date(2026, 4, 20)
NUMBER = re.compile(r"-?\d+(?:\.\d+)?")


@cache
def drying(species: str, start: float, target: float, where: str = "four_seasons", method: str = "yard") -> tuple[Question, Answer]:
    """A board an inch thick, by few runs."""
    around = queries.surroundings([], where, methods.named(method), BEGUN)
    question = Question(of_species(species_named(species)), 0.027, start, target, around.setting)
    return question, answer(question, runs=16)


# Green oak and pine, wood brought indoors, wood that takes up, wood that is there, wood that never gets there.
CASES = (
    ("northern_red_oak", 0.75, 0.20, "four_seasons", "yard"),
    ("eastern_white_pine", 0.60, 0.15, "mild_coast", "shed"),
    ("sugar_maple", 0.20, 0.10, "four_seasons", "chamber"),
    ("black_cherry", 0.06, 0.11, "four_seasons", "shed"),
    ("black_cherry", 0.12, 0.12, "four_seasons", "yard"),
    ("northern_red_oak", 0.25, 0.06, "mild_coast", "yard"),
)
FRAMES = (drawings.WIDE, drawings.NARROW)


def course(case, frame=drawings.WIDE, past=(), risks=(), today=BEGUN):
    question, result = drying(*case)
    return drawings.course(result, question, BEGUN, list(past), list(risks), today, frame)


def points(d: str) -> list[tuple[float, float]]:
    """The places that a path of straight lines goes through."""
    numbers = [float(number) for number in NUMBER.findall(d)]
    return list(zip(numbers[::2], numbers[1::2], strict=True))


class Courses(SimpleTestCase):
    def test_every_line_runs_inside_its_frame_from_left_to_right(self):
        for case in CASES:
            for frame in FRAMES:
                drawn = course(case, frame)
                for name in ("mean", "shell", "core", "water_line"):
                    line = points(getattr(drawn, name))
                    with self.subTest(f"{case[0]} {case[1]} {frame.name} {name}"):
                        self.assertGreater(len(line), 3)
                        self.assertEqual([x for x, _ in line], sorted(x for x, _ in line))
                        for x, y in line:
                            self.assertTrue(drawn.left - 1 <= x <= drawn.right + 1, x)
                            self.assertTrue(drawn.top - 2 <= y <= drawn.bottom + 2, y)

    def test_wood_that_dries_comes_down_and_wood_that_takes_up_goes_up(self):
        for case in CASES[:4]:
            line = points(course(case).mean)
            question, _ = drying(*case)
            with self.subTest(case):
                self.assertEqual(line[-1][1] > line[0][1], question.start > question.target)

    def test_the_core_is_wetter_than_the_shell_while_it_dries(self):
        for case in CASES[:3]:
            drawn = course(case)
            core, shell = points(drawn.core), points(drawn.shell)
            middle = len(core) // 3
            with self.subTest(case[0]):
                self.assertLessEqual(core[middle][1], shell[middle][1] + 0.1)

    def test_ticks_stand_on_their_axes_and_do_not_repeat(self):
        for case in CASES:
            for frame in FRAMES:
                drawn = course(case, frame)
                with self.subTest(f"{case[0]} {case[1]} {frame.name}"):
                    for tick in drawn.moistures:
                        self.assertTrue(drawn.top - 1 <= tick.at <= drawn.bottom + 1)
                    for tick in drawn.times:
                        self.assertTrue(drawn.left - 1 <= tick.at <= drawn.right + 1)
                    labels = [tick.label for tick in drawn.moistures]
                    self.assertEqual(len(labels), len(set(labels)))
                    self.assertIsInstance(drawn.moistures[0], Tick)

    def test_labels_at_the_right_do_not_lie_on_each_other(self):
        for case in CASES:
            for frame in FRAMES:
                heights = sorted(float(label.y) for label in course(case, frame).labels)
                with self.subTest(f"{case[0]} {case[1]} {frame.name}"):
                    self.assertTrue(all(after - before > 11 for before, after in itertools.pairwise(heights)), heights)

    def test_the_inside_is_a_mirror_of_cells_in_colours(self):
        drawn = course(CASES[0])
        self.assertGreater(len(drawn.cells), 20)
        self.assertTrue(all(re.fullmatch(r"#[0-9a-f]{6}", colour) for colour, _ in drawn.cells))
        self.assertLess(drawn.inside_top, drawn.middle)
        self.assertLess(drawn.middle, drawn.inside_bottom)
        self.assertAlmostEqual(float(drawn.mirror), 2 * drawn.middle, places=1)

    def test_it_arrives_on_the_day_that_the_answer_names(self):
        question, result = drying(*CASES[0])
        drawn = course(CASES[0])
        self.assertIsNotNone(drawn.arrival)
        x = float(drawn.arrival[0])
        share = (x - drawn.left) / (drawn.right - drawn.left)
        near = drawings._near(result, question)
        self.assertAlmostEqual(share, result.days / float(near.history.days[-1]), delta=0.02)

    def test_what_never_arrives_has_no_arrival(self):
        self.assertIsNone(course(CASES[5]).arrival)

    def test_its_own_readings_stand_before_the_start_and_after_it(self):
        past = [(BEGUN - timedelta(days=9), 0.8), (BEGUN, 0.75), (BEGUN + timedelta(days=5), 0.7)]
        drawn = course(CASES[0], past=past, today=BEGUN + timedelta(days=6))
        self.assertEqual(len(drawn.past), 3)
        places = [float(reading[0]) for reading in drawn.past]
        self.assertEqual(places, sorted(places))
        self.assertGreater(drawn.start_x, places[0])

    def test_readings_from_long_before_are_left_out(self):
        self.assertEqual(course(CASES[0], past=[(BEGUN - timedelta(days=2000), 0.8)]).past, [])

    def test_a_risk_is_marked_on_its_day(self):
        risk = RiskDescription("Checks in the faces", RiskLevel.HIGH, 1.3, "It dries fast.", "Shade it.", 6.0)
        early, late = (course(CASES[0], risks=[risk]).risks, course(CASES[0]).risks)
        self.assertEqual((len(early), len(late)), (1, 0))

    def test_nothing_in_it_is_no_number(self):
        for case in CASES:
            for frame in FRAMES:
                text = str(asdict(course(case, frame))).lower()
                self.assertNotIn("nan", text)
                self.assertNotIn("inf,", text)


class Months(SimpleTestCase):
    def strips(self, case):
        _, result = drying(*case)
        return result, drawings.month_strips(result, BEGUN, BEGUN, FRAMES)

    def test_a_column_for_each_month_as_high_as_its_days(self):
        result, strips = self.strips(CASES[0])
        self.assertEqual(len(strips), 2)
        for strip in strips:
            self.assertEqual(len(strip.months), 12)
            heights = [float(month.height) for month in strip.months]
            days = [days for days in result.month_days if np.isfinite(days)]
            if len(days) == 12:
                self.assertEqual(heights.index(max(heights)), result.month_days.index(max(days)))

    def test_columns_stand_on_one_ground_inside_the_strip(self):
        for case in CASES:
            for strip in self.strips(case)[1]:
                for month in strip.months:
                    self.assertAlmostEqual(float(month.y) + float(month.height), strip.base, delta=0.15)
                    self.assertTrue(0 <= float(month.x) <= strip.width)

    def test_the_month_it_begins_in_is_the_chosen_one(self):
        for strip in self.strips(CASES[0])[1]:
            self.assertEqual([month.start.month for month in strip.months if month.chosen], [BEGUN.month])

    def test_months_gone_by_are_those_of_next_year(self):
        for strip in self.strips(CASES[0])[1]:
            for month in strip.months:
                self.assertGreaterEqual((month.start.year, month.start.month), (BEGUN.year, BEGUN.month))

    def test_what_is_there_needs_no_months(self):
        self.assertEqual(self.strips(CASES[4])[1], [])

    def test_a_month_that_never_gets_there_says_so(self):
        for strip in self.strips(CASES[5])[1]:
            for month in strip.months:
                self.assertEqual(month.never, month.days == "–")
                self.assertEqual(month.never, "not reached" in month.words)


class Numbers(SimpleTestCase):
    def test_the_table_is_the_curve(self):
        _, result = drying(*CASES[0])
        rows = drawings.table(result.history, BEGUN)
        self.assertLessEqual(len(rows), 12)
        self.assertAlmostEqual(rows[0][1], float(result.history.mean[0]))
        self.assertAlmostEqual(rows[-1][3], float(result.history.core[-1]))
        for _, mean, shell, core in rows:
            self.assertTrue(min(shell, core) - 0.02 <= mean <= max(shell, core) + 0.02)
