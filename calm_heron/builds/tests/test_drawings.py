"""Builds drawn and worded: what is drawn lies where it was laid, and sentences say what the figures do."""

import doctest
import re
from datetime import date

import numpy as np

from calm_heron.builds import drawings, models, words
from calm_heron.builds.glueups import gluing
from calm_heron.builds.layouts import allocation, laying, layout_words
from calm_heron.builds.models import Held
from calm_heron.builds.tests.bench import Bench, part
from tests.factories import make_lot, read_board
from wood.builds import glueups
from wood.builds.glueups import PanelBoard, RingApproach
from wood.builds.legs import leg
from wood.movement.shrinkage import Shrinkage
from wood.units import INCH, METRIC

OAK = Shrinkage(0.056, 0.105, 0.30, "published")


class Boards(Bench):
    def setUp(self):
        super().setUp()
        self.plank = self.board(has_pith=True)
        laying.mark(self.owner, self.plank, 1, "knot", 1.0, 1.2, 0.0, 0.05)
        self.add(part(count=1, width_m=0.05), part("Top", count=1, length_m=0.9, width_m=0.05))
        self.lay()
        self.saw = allocation.saw(self.build)
        self.held = self.saw.held[0]

    def drawn(self) -> drawings.BoardDrawing:
        scale = drawings.scale_of(self.saw.planks.values())
        return drawings.board(self.saw, self.held, self.saw.sawn(self.held), scale, METRIC)

    def test_each_piece_is_drawn_where_it_lies(self):
        drawing = self.drawn()
        by_pk = {cut.pk: cut for cut in self.saw.cuts}
        self.assertEqual(len(drawing.blocks), 2)
        for block in drawing.blocks:
            cut = by_pk[block.cut]
            self.assertAlmostEqual((block.x - drawing.left) / drawing.scale, cut.x_m, 6)
            self.assertAlmostEqual((drawing.bottom - block.y - block.height) / drawing.scale, cut.y_m, 6)
            self.assertAlmostEqual(block.width / drawing.scale, cut.length_m, 6)

    def test_the_longest_board_fills_the_drawing_and_no_more(self):
        drawing = self.drawn()
        self.assertAlmostEqual(self.plank.length_m * drawing.scale, drawings.WIDE - 2 * drawings.EDGE, 6)
        numbers = [float(item) for shape in drawing.shapes for item in re.findall(r"M(-?[\d.]+)", shape.d)]
        self.assertTrue(all(0 <= number <= drawings.WIDE for number in numbers))

    def test_on_a_narrow_screen_a_board_is_as_wide_as_a_finger_needs_and_is_walked_along(self):
        plank = self.saw.planks[self.held.pk]
        scale, width = drawings.walked(plank)
        drawing = drawings.board(self.saw, self.held, self.saw.sawn(self.held), scale, METRIC, width)
        self.assertGreaterEqual(plank.piece.width_m * scale, drawings.WALKED_WIDE - 1e-9)
        self.assertAlmostEqual(drawing.width, plank.piece.length_m * scale + 2 * drawings.EDGE)
        # A rail 50 mm wide can be hit.
        self.assertGreaterEqual(min(block.height for block in drawing.blocks), 17)

    def test_its_grain_is_drawn_on_it_and_not_beyond(self):
        drawing = self.drawn()
        points = re.findall(r"(-?[\d.]+) (-?[\d.]+)", drawing.grain)
        self.assertGreater(len(points), 50)
        wide = self.plank.width_m * drawing.scale
        for x, y in points:
            self.assertTrue(drawings.EDGE - 0.1 <= float(x) <= drawings.WIDE - drawings.EDGE + 0.1)
            self.assertTrue(drawings.EDGE - 0.1 <= float(y) <= drawings.EDGE + wide + 0.1)

    def test_what_is_kept_out_is_hatched_and_named(self):
        drawing = self.drawn()
        self.assertGreaterEqual(sum(shape.css == "zone" for shape in drawing.shapes), 4)
        self.assertIn("knot", [text.words for text in drawing.texts])

    def test_names_too_long_for_their_piece_are_left_to_its_title(self):
        tiny = drawings.Block(0, 0, 12, 8, "", 1, "1.0", "A1, Rail: 600 mm by 50 mm")
        self.assertEqual(tiny.name, "")
        self.assertIn("Rail", tiny.words)

    def test_cuts_are_told_in_their_order_in_both_systems(self):
        sawn = self.saw.sawn(self.held)
        for system, unit in ((METRIC, " mm"), (INCH, " in")):
            cuts = layout_words.cuts(sawn, system)
            self.assertEqual(len(cuts), len(sawn.cuts))
            self.assertTrue(all(line.startswith(("Across at", "Along at")) for line in cuts))
            self.assertTrue(any(unit in line for line in cuts))

    def test_marks_are_told_and_what_is_only_assumed_says_so(self):
        marks = layout_words.marks(self.saw.planks[self.held.pk], METRIC)
        self.assertEqual([mark is None for mark, _ in marks], [False, True])
        self.assertIn("Assumed", marks[1][1])

    def test_what_lies_nowhere_is_listed_with_its_rough_size(self):
        self.add(part("Shelf", length_m=4.0))
        self.build.refresh_from_db()
        lines = layout_words.unlaid(allocation.saw(self.build), METRIC)
        self.assertEqual(len(lines), 1)
        self.assertIn("C1 and C2 (Shelf)", lines[0])
        self.assertIn("white oak", lines[0])

    def test_the_wood_is_told_in_shares_of_the_whole(self):
        answer = layout_words.describe(self.saw, [self.saw.sawn(self.held)], METRIC)
        self.assertEqual((answer.word, answer.beside), ("1 board", "for 2 pieces"))
        whole = self.plank.length_m * self.plank.width_m
        share = sum(cut.rect.area_m2 for cut in self.saw.cuts) / whole
        self.assertIn(f"{round(100 * share)}%", answer.reason)


class Panels(Bench):
    def staves(self) -> list[PanelBoard]:
        return [PanelBoard(f"{n + 1} oak", OAK, 0.1, 0.022, 5.0, 0.1) for n in range(4)]

    def test_a_panel_is_drawn_with_its_joints_numbered_on_both_sides(self):
        panel = glueups.panel(self.staves(), 0.10, 0.07)
        drawn = drawings.panel(panel, ["a", "b", "c", "d"])
        numbers = [text.words for text in drawn.texts if text.words.isdigit()]
        self.assertEqual(sorted(numbers), ["1", "1", "2", "2", "3", "3"])
        self.assertEqual(sum(shape.css == "wood" for shape in drawn.shapes), 4)

    def test_movement_is_drawn_larger_and_says_how_much(self):
        panel = glueups.panel(self.staves(), 0.10, 0.09)
        self.assertRegex(drawings.panel(panel, list("abcd")).summary, r"drawn \d+ times as large")
        still = glueups.panel(self.staves(), 0.10, 0.10)
        heights = [float(y) for shape in drawings.panel(still, list("abcd")).shapes for y in re.findall(r"[ML][\d.]+ ([\d.]+)", shape.d)]
        self.assertTrue(np.isfinite(heights).all())

    def test_a_board_turned_end_for_end_has_its_arrow_the_other_way(self):
        plain, turned = (drawings.face(["1 a", "2 b"], [False, back], []) for back in (False, True))
        self.assertEqual(plain.shapes[1], turned.shapes[1])
        self.assertNotEqual(plain.shapes[3], turned.shapes[3])

    def test_a_bookmatched_pair_is_joined_by_a_line(self):
        self.assertEqual(sum(shape.css == "edge" for shape in drawings.face(["1", "2", "3"], [False] * 3, [[0, 1]]).shapes), 1)

    def test_approaches_are_told_with_what_is_left_of_them(self):
        panel = glueups.panel(glueups.by_approach(self.staves(), RingApproach.BARK_UP), 0.14, 0.06)
        approach_words = gluing._approach_words(panel, METRIC)
        self.assertIn("planed flat", approach_words)
        self.assertRegex(approach_words, r"cups by up to 0\.\d mm")
        still = gluing._approach_words(glueups.panel(self.staves(), 0.1, 0.1), INCH)
        self.assertIn("stays flat", still)
        self.assertIn("no board cups", still)

    def test_boards_of_a_lot_that_differ_cannot_be_told(self):
        lot = make_lot(self.owner, count=12, length_m=0.75, width_m=0.12, place=self.room)
        read_board(self.owner, lot, *(100 * (self.mean + off) for off in (-0.012, 0.0, 0.013, -0.004, 0.006)), meter=self.meter)
        top = self.add(part("Top", count=1, staves=3, width_m=0.3, stock=lot))[0]
        self.lay()
        state = self.stands()
        staves = gluing.staves_of(top, 0, state.saw)
        answer = gluing.describe(top, staves, gluing.usual_order(top, staves), state, METRIC)
        self.assertIn(answer.word, ("Cannot tell", "Not yet"))
        if answer.word == "Cannot tell":
            self.assertIn("through samples", answer.reason)

    def test_turned_over_as_a_approach_has_it_the_order_stays(self):
        order = [[2, True, False], [0, True, True], [1, False, False]]
        turned = gluing.turned_over(order, RingApproach.BY_TURNS)
        self.assertEqual([board[0] for board in turned], [2, 0, 1])
        self.assertEqual([board[1] for board in turned], [True, False, True])
        self.assertEqual([board[2] for board in turned], [False, True, False])


class Words(Bench):
    def test_examples_in_the_words_hold(self):
        for module in (words, models):
            self.assertEqual(doctest.testmod(module).failed, 0, module.__name__)

    def test_a_leg_names_its_faces(self):
        self.assertIn("rift", drawings.leg(leg(0.04, 45, OAK, 0.12, 0.07)).summary)

    def test_grain_that_runs_out_is_called_short(self):
        self.assertIn("short grain", drawings.grain_through(True).texts[0].words)

    def test_bands_name_the_year_once(self):
        self.assertEqual(words.between(date(2026, 3, 1), 10, float("inf")), "from 11 March, with no end in sight")

    def test_boards_held_by_a_lot_have_numbers(self):
        lot = make_lot(self.owner, count=4)
        held = Held.objects.create(workshop=self.owner.workshop, build=self.build, piece=lot, nth=3)
        self.assertEqual(held.name, f"{lot.tag} no. 3")
