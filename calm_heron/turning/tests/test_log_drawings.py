"""A log's end drawn: its checks, the cuts and what comes of them, where a finger finds them; and the same told in words."""

import re
from dataclasses import replace
from functools import cache

from django.test import SimpleTestCase

from calm_heron.turning.logs import cut_drawings, cut_words, cutting
from calm_heron.turning.logs.cutting import LogCut, LogToCut
from tests.sentences import Sentences
from wood.species import species_named
from wood.turning.blanks import Cuts, Kind, Wanted
from wood.turning.logs import LogEnd, Stroke
from wood.units import INCH, METRIC

BOTH = (INCH, METRIC)
WIDTHS = (cut_drawings.WIDE, cut_drawings.NARROW)
LOGS = {
    "sound": LogEnd(0.40, 0.38, 0.6),
    "checked": LogEnd(0.40, 0.38, 0.6, 0.01, 0.0, 0.0, (Stroke(((0.02, 0.02), (0.1, 0.1)), 0.03), Stroke(((-0.02, 0.0), (-0.15, -0.03))))),
    "off its pith": LogEnd(0.45, 0.40, 0.9, 0.08, -0.05),
    "slim": LogEnd(0.16, 0.15, 0.3),
}


def question(name: str = "sound", **more) -> LogToCut:
    """A cherry log as it is asked about."""
    return replace(LogToCut(LOGS[name], species_named("black_cherry"), Wanted(), 0.02, 5, False, None, None, None, None), **more)


@cache
def cut(name: str, kind: Kind | None = None, side_m: float | None = None) -> LogCut:
    return cutting.answered(question(name, kind=kind, side_m=side_m))


def numbers(drawn: cut_drawings.LogDrawing) -> list[float]:
    return [float(number) for shape in drawn.shapes for number in re.findall(r"(?<![a-z])-?\d+(?:\.\d+)?", shape.d)]


class Drawn(SimpleTestCase):
    def test_the_log_fills_its_frame_and_stays_in_it(self):
        for name, log in LOGS.items():
            for width in WIDTHS:
                drawn = cut_drawings.log_end(cut(name), METRIC, width)
                with self.subTest(f"{name} {width}"):
                    self.assertEqual(drawn.width, width)
                    self.assertLessEqual(drawn.cx + log.width_m / 2 * drawn.scale, width)
                    self.assertGreaterEqual(drawn.cx - log.width_m / 2 * drawn.scale, 0)
                    self.assertLessEqual(drawn.cy + log.height_m / 2 * drawn.scale, drawn.height)

    def test_nothing_is_drawn_at_no_place(self):
        for name in LOGS:
            for kind in (None, *Kind):
                drawn = cut_drawings.log_end(cut(name, kind), INCH)
                text = str(drawn.shapes) + str(drawn.texts) + str(drawn.handles)
                self.assertNotIn("nan", text)
                self.assertNotIn("inf", text)
                self.assertTrue(all(abs(number) < 4000 for number in numbers(drawn)))

    def test_the_pith_is_where_it_was_said_to_lie(self):
        drawn = cut_drawings.log_end(cut("off its pith"), METRIC)
        self.assertGreater(drawn.pith[0], drawn.cx)
        self.assertGreater(drawn.pith[1], drawn.cy)

    def test_checks_are_drawn(self):
        sound, checked = (len(cut_drawings.log_end(cut(name), METRIC).shapes) for name in ("sound", "checked"))
        self.assertGreater(checked, 0)
        self.assertNotEqual(sound, 0)

    def test_lines_are_held_by_named_handles_inside_the_drawing(self):
        for width in WIDTHS:
            drawn = cut_drawings.log_end(cut("sound"), METRIC, width)
            self.assertGreaterEqual(len(drawn.handles), 2)
            self.assertEqual(len({handle.moves for handle in drawn.handles}), len(drawn.handles))
            for handle in drawn.handles:
                self.assertTrue(handle.label)
                self.assertTrue(0 <= handle.x <= width, handle)
                self.assertTrue(0 <= handle.y <= drawn.height, handle)

    def test_squares_are_drawn_where_no_bowl_is(self):
        with_squares = cut("sound", side_m=0.05)
        self.assertGreater(len(with_squares.squares), 3)
        bare = replace(with_squares, chosen=None)
        more = len(cut_drawings.log_end(bare, METRIC).shapes) - len(cut_drawings.log_end(replace(bare, squares=()), METRIC).shapes)
        self.assertEqual(more, len(with_squares.squares))

    def test_it_can_be_told(self):
        for name in LOGS:
            self.assertRegex(cut_drawings.log_end(cut(name), METRIC).summary, r"\w.*\.$")


class InWords(Sentences, SimpleTestCase):
    def test_every_log_has_an_answer_in_both_systems(self):
        for name in LOGS:
            for kind in (None, *Kind):
                for system in BOTH:
                    large, beside, reason = cut_words.answer(cut(name, kind), system)
                    self.assert_clean(large, beside)
                    self.assert_readable(reason)

    def test_the_order_of_cuts_is_told_step_by_step(self):
        for name in ("sound", "checked", "off its pith"):
            for system in BOTH:
                steps = cut_words.order(cut(name), system)
                self.assertGreater(len(steps), 1)
                self.assert_readable(*steps)

    def test_plans_stand_beside_each_other(self):
        for system in BOTH:
            rows = cut_words.rows(cut("sound"), system)
            self.assertGreaterEqual(len(rows), 2)
            for row in rows:
                self.assert_clean(*(cell.text for cell in row.all_cells), *(cell.small for cell in row.all_cells))

    def test_a_line_of_ones_own_is_held_against_the_best(self):
        own = cutting.answered(question(own=Cuts(25.0, 0.06, 0.05), kind=Kind.OWN))
        said = cut_words.cost(own, METRIC)
        self.assertTrue(said)
        self.assert_readable(said)
        self.assertEqual(cut_words.cost(cut("sound"), METRIC), "")

    def test_units_are_the_readers_alone(self):
        for name in LOGS:
            inch = " ".join(cut_words.order(cut(name), INCH))
            metric = " ".join(cut_words.order(cut(name), METRIC))
            self.assertNotRegex(inch, r"\d (?:mm|cm)\b")
            self.assertNotRegex(metric, r"\d in\b")


class WhatComesOfIt(SimpleTestCase):
    def test_a_larger_log_gives_no_smaller_bowl(self):
        small, large = (cut(name).best.largest_m for name in ("slim", "sound"))
        self.assertLess(small, large)

    def test_no_blank_is_larger_than_its_log(self):
        for name, log in LOGS.items():
            for plan in cut(name).plans:
                for blank in plan.blanks:
                    self.assertLessEqual(blank.diameter_m, max(log.width_m, log.height_m, log.length_m))

    def test_the_plan_that_is_asked_for_is_the_one_looked_at(self):
        for plan in cut("sound").plans:
            self.assertIs(cut("sound", plan.kind).chosen.kind, plan.kind)

    def test_the_gist_is_of_the_chosen_plan(self):
        for name in LOGS:
            gist = cutting.gist(cut(name))
            self.assertTrue(gist.code)
            self.assertTrue(all(bound.usual is None or bound.usual >= 0 for bound in gist.figures.values()))
