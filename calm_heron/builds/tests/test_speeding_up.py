"""A build hurried, and its panels glued up."""

from unittest import mock

import numpy as np

from calm_heron.builds import actions, readiness
from calm_heron.builds.bench import beginning
from calm_heron.builds.glueups import gluing
from calm_heron.builds.layouts import allocation, laying
from calm_heron.builds.models import Build, BuildPart
from calm_heron.builds.tests.bench import Bench, part
from calm_heron.drying import forecasts, queries
from calm_heron.drying import speed_up as speeding_up
from calm_heron.measuring.models import PieceMoisture
from calm_heron.workshops.refusals import Refused
from calm_heron.workshops.versions import Overtaken
from tests.factories import make_board, read_board
from wood.drying.speeding_up import Step


class SpedUp(Bench):
    def setUp(self):
        super().setUp()
        self.wet = self.board(0.15, thickness_m=0.03)
        self.add(part("Top", stock=self.wet, count=1, length_m=1.0, width_m=0.15))

    def test_the_plans_days_are_those_of_the_acclimation_question(self):
        state = self.stands()
        start = beginning.begun(state, self.owner, 0.0015, 0.05)
        board = start.boards[0]
        question = forecasts.usual_question(self.wet, PieceMoisture.objects.get(piece=self.wet), state.about, self.owner)
        ways = {way.step: way.days for way in speeding_up.speeding_up.ways(question.question, board.skim_m, board.rough_m)}
        self.assertEqual(set(board.days), set(ways))
        for step, days in board.days.items():
            self.assertAlmostEqual(days, ways[step], 6, step)

    def test_a_build_of_one_board_can_be_begun_when_that_board_can(self):
        state = self.stands()
        start = beginning.begun(state, self.owner, 0.0015, 0.05)
        for way in start.ways:
            self.assertAlmostEqual(way.latest.days, start.boards[0].days[way.step], 6)
        usual = next(way for way in start.ways if way.step is Step.STICKERED)
        self.assertAlmostEqual(usual.latest.days, state.latest.days, 6)

    def test_no_more_is_skimmed_than_the_part_can_spare(self):
        state = self.stands()
        board = beginning.begun(state, self.owner, 0.02, 0.05).boards[0]
        self.assertGreaterEqual(board.left_m, board.part_m + beginning.LAST_PASS_M - 1e-9)
        self.assertAlmostEqual(board.rough_m, 1.0 + 0.0254 + 0.1, 6)

    def test_wet_wood_is_not_hurried(self):
        Build.objects.all().delete()
        build = actions.make_build(self.owner, name="Wet", place=self.room)
        actions.add_parts(self.owner, build, [part(stock=self.board(0.24))])
        start = beginning.begun(readiness.state_of(allocation.saw(build), self.owner), self.owner, 0.0015, 0.05)
        self.assertEqual((start.word, start.ways), ("Not yet", []))

    def test_a_floor_is_not_cut_nor_skimmed(self):
        Build.objects.filter(pk=self.build.pk).update(use_key="strip")
        subfloor = make_board(self.owner, "douglas_fir_coast", kind="subfloor", place=self.room)
        read_board(self.owner, subfloor, 10, 10, 10, meter=self.meter)
        start = beginning.begun(self.stands(), self.owner, 0.0015, 0.05)
        self.assertIn("house’s yearly average", start.reason)
        self.assertFalse({Step.CUT, Step.SKIMMED} & set(start.boards[0].days))

    def test_nothing_is_hurried_where_nothing_waits(self):
        Build.objects.all().delete()
        build = actions.make_build(self.owner, name="Dry", place=self.room)
        actions.add_parts(self.owner, build, [part(stock=self.board(self.mean))])
        self.assertIsNone(beginning.begun(readiness.state_of(allocation.saw(build), self.owner), self.owner, 0.0015, 0.05))

    def test_the_same_answers_are_those_of_the_drying_pages(self):
        """Each way is answered by the very runs that any page of a drying would ask."""
        start = beginning.begun(self.stands(), self.owner, 0.0015, 0.05)
        with mock.patch.object(queries, "answer", side_effect=AssertionError("asked anew")):
            again = beginning.begun(self.stands(), self.owner, 0.0015, 0.05)
        self.assertEqual([way.when for way in start.ways], [way.when for way in again.ways])


class Gluing(Bench):
    def panel(self, *moistures: float, **more) -> tuple[BuildPart, readiness.BuildState]:
        for moisture in moistures:
            self.board(moisture, length_m=0.75, width_m=0.12)
        top = self.add(part("Top", count=1, staves=len(moistures), width_m=0.1 * len(moistures), **more))[0]
        self.lay()
        return top, self.stands()

    def describe(self, top: BuildPart, state: readiness.BuildState) -> gluing.GlueUpWords:
        staves = gluing.staves_of(top, 0, state.saw)
        return gluing.describe(top, staves, gluing.usual_order(top, staves), state, self.owner.workshop.system)

    def test_boards_within_a_point_are_alike(self):
        answer = self.describe(*self.panel(self.mean, self.mean + 0.003, self.mean))
        self.assertEqual(answer.word, "Alike enough")
        self.assertEqual(len(answer.approaches), 3)
        self.assertTrue(1 <= answer.glue_days <= 20)

    def test_wood_that_must_wait_is_not_glued_however_alike(self):
        self.assertEqual(self.describe(*self.panel(0.16, 0.16)).word, "Not yet")

    def test_unread_boards_cannot_be_told(self):
        top, result = self.panel(self.mean, self.mean)
        PieceMoisture.objects.filter(piece=result.saw.held[0].piece).delete()
        self.assertEqual(self.describe(top, self.stands()).word, "Cannot tell")

    def test_its_order_is_kept_and_whoever_is_second_is_told(self):
        top, _ = self.panel(self.mean, self.mean, self.mean)
        order = [[2, True, False], [0, False, True], [1, True, False]]
        saved = laying.glue(self.owner, top, 0, None, order, [[0, 2]], note="runs on")
        self.assertEqual(saved.order, order)
        again = laying.glue(self.owner, top, 0, saved.version, order[::-1], [])
        with self.assertRaises(Overtaken):
            laying.glue(self.owner, top, 0, again.version - 1, order, [])

    def test_a_bookmatched_pair_stays_side_by_side(self):
        top, _ = self.panel(self.mean, self.mean, self.mean)
        with self.assertRaisesMessage(Refused, "bookmatched pair"):
            laying.glue(self.owner, top, 0, None, [[0, True, False], [1, True, False], [2, True, False]], [[0, 2]])
        with self.assertRaisesMessage(Refused, "is in it once"):
            laying.glue(self.owner, top, 0, None, [[0, True, False]] * 3, [])

    def test_the_drawn_section_is_that_of_its_boards(self):
        top, result = self.panel(self.mean, self.mean)
        answer = self.describe(top, result)
        for stave, laid in zip(answer.staves, answer.section.laid, strict=True):
            core = gluing.core_stave(top, stave, laid.section.bark_side_up, False)
            alone = core.settled(min(answer.now, 0.4), answer.then)
            self.assertAlmostEqual(float(np.ptp(laid.section.after[:, 0])), float(np.ptp(alone.after[:, 0])), 9)
