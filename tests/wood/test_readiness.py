"""Lots and verdicts: intervals against printed t-tables, the rule at the edges, one rule for one board and for many."""

import math
import unittest
from dataclasses import replace

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from wood.errors import OutOfRange
from wood.judging import readiness
from wood.judging.comparison import compare_boards
from wood.judging.readiness import CODES, Edges, State, around, codes, judge
from wood.measuring import lots
from wood.measuring.estimates import Board, Estimate, Spot, estimate, estimate_lot
from wood.measuring.readings import Bound
from wood.uses import FINE, FRAMING, GENERAL, INSTRUMENT, OUTDOORS, PLANK_FLOOR, STRIP_FLOOR, USES

BOARD = Estimate(mean=0.10, instrument=0.006, sampling=0.004, spread=0.005, count=5, reach=0.008)


class Lots(unittest.TestCase):
    def test_intervals_use_the_printed_t_values(self):
        # Student's t, two-sided 95%: 4.303, 2.776, 2.262 for 2, 4 and 9 degrees of freedom.
        for count, t in ((3, 4.303), (5, 2.776), (10, 2.262)):
            values = [0.10 + 0.01 * (i % 2) for i in range(count)]
            spread = float(np.std(values, ddof=1))
            self.assertAlmostEqual(lots.t_interval(values).half_width, t * spread / math.sqrt(count), delta=1e-5)

    def test_a_single_reading_has_an_honest_interval_from_the_usual_spread(self):
        # Three degrees of freedom: t = 3.182.
        self.assertAlmostEqual(lots.t_interval([0.1], 0.006).half_width, 3.182 * 0.006, delta=1e-5)
        with self.assertRaises(OutOfRange):
            lots.t_interval([0.1])

    @given(st.lists(st.floats(0.05, 0.3), min_size=2, max_size=30))
    def test_the_count_that_is_asked_for_is_enough_and_one_less_is_not(self, values):
        interval = lots.t_interval(values)
        more = lots.more_needed(interval, 0.01)
        if more is not None:
            self.assertLessEqual(lots.half_width_with(interval.spread, interval.count + more, 0), 0.01)
            if more:
                self.assertGreater(lots.half_width_with(interval.spread, interval.count + more - 1, 0), 0.01)

    def test_the_odd_board_is_named_and_ordinary_scatter_is_not(self):
        self.assertEqual(lots.odd_ones([0.112, 0.115, 0.110, 0.171, 0.114]), [3])
        self.assertEqual(lots.odd_ones([0.112, 0.118, 0.110, 0.121, 0.114]), [])
        self.assertEqual(lots.odd_ones([0.10, 0.30]), [])
        # Four alike and one a hair off: not odd, it is not a point away.
        self.assertEqual(lots.odd_ones([0.10, 0.10, 0.10, 0.10, 0.104]), [])


class Estimates(unittest.TestCase):
    def test_ends_bounds_and_readings_that_do_not_count_are_left_out(self):
        spots = [Spot(0.10, 0.01), Spot(0.11, 0.01), Spot(0.07, 0.01, near_end=True), Spot(0.3, 0.01, counts=False)]
        result = estimate(spots)
        self.assertAlmostEqual(result.mean, 0.105)
        self.assertEqual((result.count, result.left_out), (2, 2))

    def test_end_readings_alone_are_better_than_nothing(self):
        self.assertAlmostEqual(estimate([Spot(0.09, 0.01, near_end=True)]).mean, 0.09)

    def test_nothing_that_counts_gives_no_estimate(self):
        self.assertIsNone(estimate([]))
        self.assertIsNone(estimate([Spot(0.1, 0.01, counts=False)]))

    def test_a_weighing_outranks_spots(self):
        result = estimate([Spot(0.14, 0.012), Spot(0.121, 0.004, layer="whole")])
        self.assertEqual((result.mean, result.by_weight), (0.121, True))

    def test_a_core_reading_turns_spots_into_a_profile(self):
        result = estimate([Spot(0.11, 0.01), Spot(0.12, 0.01), Spot(0.145, 0.01, layer="core")])
        self.assertAlmostEqual(result.gradient, 0.03)
        # Taken at a fifth of the depth, the outer readings are nearly the mean already.
        self.assertAlmostEqual(result.mean, 0.117, delta=0.003)

    def test_a_core_beyond_the_meter_decides_however_many_dry_readings_lie_outside(self):
        shell = [Spot(m, 0.01, "shell") for m in (0.090, 0.091, 0.092)]
        usual = [Spot(m, 0.01) for m in (0.092, 0.091, 0.090, 0.092, 0.091, 0.090)]
        core = Spot(0.28, 0.02, "core", bound="above")
        for outer in (shell, usual):
            result = estimate([*outer, core])
            self.assertEqual((result.bound, result.wet, result.left_out), ("above", "core", 0))
            self.assertEqual(judge(result, 0.09, 0.004, FINE).state, State.WAIT)
            self.assertEqual(judge(result, FRAMING.limit, 0.0, FRAMING).state, State.WAIT)
            # What the mean can be at the least: the curve through the dry outside and a core at the edge of the range.
            self.assertTrue(0.10 < result.least < 0.28)
            self.assertAlmostEqual(result.profile.core, 0.28)

    def test_the_heart_of_a_green_log_outranks_its_dry_bark_side(self):
        log = estimate([Spot(0.075, 0.01, "shell"), Spot(0.28, 0.02, "core", bound="above")], is_round=True)
        self.assertEqual(judge(log, 0.08, 0.004, GENERAL).state, State.WAIT)

    def test_a_few_wet_places_among_dry_ones_are_wet_places(self):
        result = estimate([*(Spot(m, 0.01) for m in (0.092, 0.091, 0.090, 0.092)), *[Spot(0.28, 0.02, bound="above")] * 2])
        self.assertEqual((result.bound, result.wet), ("above", "places"))
        self.assertEqual(judge(result, 0.09, 0.004, GENERAL).state, State.WAIT)

    def test_a_wet_skin_over_a_dry_core_is_not_ready_and_called_so(self):
        result = estimate([Spot(0.28, 0.02, "shell", bound="above"), Spot(0.09, 0.01, "core"), Spot(0.09, 0.01, "core")])
        self.assertEqual((result.bound, result.wet), ("above", "skin"))
        self.assertEqual(judge(result, 0.09, 0.004, FINE).state, State.WAIT)

    def test_a_wet_end_counts_though_dry_ends_do_not(self):
        result = estimate([Spot(0.10, 0.01), Spot(0.28, 0.02, near_end=True, bound="above")])
        self.assertEqual(result.bound, "above")

    def test_a_wet_core_outranks_a_weighing_that_says_dry_and_agrees_with_one_that_says_wet(self):
        core = Spot(0.28, 0.02, "core", bound="above")
        self.assertEqual(estimate([Spot(0.10, 0.004, "whole"), core]).bound, "above")
        self.assertEqual(estimate([Spot(0.45, 0.01, "whole"), core]).bound, "")

    def test_readings_below_the_range_give_way_to_measured_ones(self):
        self.assertEqual(estimate([Spot(0.06, 0.01, bound="below"), Spot(0.08, 0.01)]).bound, "")
        self.assertEqual(estimate([Spot(0.06, 0.01, bound="below")] * 2).bound, "below")

    def test_averaging_more_spots_does_not_improve_the_meter(self):
        few, many = estimate([Spot(0.1, 0.01)] * 3), estimate([Spot(0.1, 0.01)] * 30)
        self.assertAlmostEqual(few.instrument, many.instrument)
        self.assertLess(many.sampling, few.sampling)


class Verdicts(unittest.TestCase):
    def state(self, board=BOARD, target=0.10, uncertainty=0.004, use=FINE, **changes) -> State:
        return judge(replace(board, **changes), target, uncertainty, use).state

    def test_each_answer_in_its_plain_case(self):
        self.assertEqual(self.state(), State.READY)
        self.assertEqual(self.state(mean=0.109), State.READY)
        self.assertEqual(self.state(mean=0.114), State.CLOSE)
        self.assertEqual(self.state(mean=0.116), State.WAIT)
        self.assertEqual(self.state(mean=0.14), State.WAIT)
        self.assertEqual(self.state(mean=0.06), State.TOO_DRY)
        self.assertEqual(self.state(gradient=0.02), State.TOO_UNEVEN)
        self.assertEqual(self.state(reach=0.03), State.TOO_UNEVEN)

    def test_settled_with_the_season_is_a_state_of_its_own_and_dry_wood_may_be_worked_down_to_its_place_s_driest(self):
        season = Edges(0.08, 0.10, 0.108, 0.121, 0.05)
        for mean, state in (
            (0.10, State.READY),
            (0.115, State.WORKS_NOW),
            (0.108, State.WORKS_NOW),
            (0.104, State.CLOSE),
            (0.125, State.CLOSE),
            (0.127, State.WAIT),
            (0.07, State.DRY),
            (0.049, State.TOO_DRY),
        ):
            with self.subTest(mean):
                self.assertEqual(judge(replace(BOARD, mean=mean), season, 0.004, FINE).state, state)

    def test_close_is_outside_by_no_more_than_the_doubt_or_half_the_tolerance(self):
        sharp = {"instrument": 0.001, "sampling": 0.0, "uncertainty": 0.0}
        self.assertEqual(self.state(mean=0.1108, **sharp), State.CLOSE)
        self.assertEqual(self.state(mean=0.1112, **sharp), State.WAIT)
        self.assertEqual(self.state(mean=0.1149, instrument=0.03), State.CLOSE)
        self.assertEqual(self.state(mean=0.1151, instrument=0.03), State.WAIT)

    def test_an_answer_is_not_taken_back_by_the_season_until_it_lies_half_the_tolerance_outside(self):
        then, sharp = Edges(0.08, 0.10, 0.11, 0.12), replace(BOARD, instrument=0.001, sampling=0.0)
        for now_low, now_high, state in ((0.099, 0.111, State.WORKS_NOW), (0.10, 0.1085, State.WAIT)):
            now = Edges(0.08, 0.10, now_low, now_high)
            self.assertEqual(judge(replace(sharp, mean=0.115), now, 0.0, FINE, then=then).state, state)
        # What was never in order gains nothing by it.
        self.assertEqual(judge(replace(sharp, mean=0.123), Edges(0.08, 0.10, 0.11, 0.12), 0.0, FINE, then=then).state, State.WAIT)

    def test_the_chance_is_that_of_the_normal_distribution(self):
        # One standard deviation inside an edge that is far from the other: 84 in 100 lie on this side.
        verdict = judge(replace(BOARD, mean=0.109, instrument=0.002, sampling=0.0), 0.10, 0.0, FINE)
        self.assertAlmostEqual(verdict.chance, 0.8413, delta=1e-4)
        self.assertFalse(verdict.is_just_inside)
        at_the_edge = judge(replace(BOARD, mean=0.11, instrument=0.002, sampling=0.0), 0.10, 0.0, FINE)
        self.assertAlmostEqual(at_the_edge.chance, 0.5, delta=1e-6)
        self.assertTrue(at_the_edge.is_just_inside)
        exact = replace(BOARD, mean=0.11, instrument=0.0, sampling=0.0)
        self.assertEqual(judge(exact, 0.10, 0.0, FINE).chance, 1.0)

    def test_uses_that_must_be_sure_ask_for_the_whole_doubt_inside(self):
        for mean, state in ((0.10, State.READY), (0.103, State.CLOSE), (0.108, State.CLOSE), (0.12, State.WAIT)):
            self.assertEqual(judge(replace(BOARD, mean=mean), 0.10, 0.004, INSTRUMENT).state, state)

    def test_fourteen_boards_truly_dry_are_called_so_by_a_new_workshop_with_a_rough_meter(self):
        # Truly within 1.5 points of an 8.6% shop, read at three spots by a pin meter good to a point, no own year: general joinery.
        chance = np.random.default_rng(5)
        ready = []
        for _ in range(200):
            truly = 0.086 + chance.uniform(-0.015, 0.015, 14)
            read = truly + chance.normal(0, 0.005) + chance.normal(0, 0.002, 14)
            boards = [Estimate(mean, instrument=0.011, sampling=0.006, spread=0.005, count=3, reach=0.008) for mean in read]
            states = [judge(board, 0.086, 0.010, GENERAL).state for board in boards]
            ready.append(states.count(State.READY))
        self.assertGreater(np.mean(ready), 12)
        self.assertGreater(np.mean(np.array(ready) >= 10), 0.9)

    def test_a_sodden_board_is_told_to_wait_whatever_the_instruments(self):
        self.assertEqual(self.state(mean=0.24, instrument=0.03), State.WAIT)

    def test_a_wet_board_waits_even_when_it_is_uneven(self):
        self.assertEqual(self.state(mean=0.20, gradient=0.06), State.WAIT)

    def test_bounds_decide_only_on_their_own_side(self):
        self.assertEqual(self.state(mean=0.28, bound="above"), State.WAIT)
        self.assertEqual(self.state(mean=0.06, bound="below"), State.TOO_DRY)
        self.assertEqual(self.state(mean=0.06, bound="below", target=0.065), State.CANNOT_TELL)

    def test_the_readings_it_asks_for_make_it_surer(self):
        few = replace(BOARD, mean=0.106, instrument=0.004, sampling=0.02, count=1, spread=0.004)
        verdict = judge(few, 0.10, 0.002, FINE)
        self.assertTrue(verdict.is_just_inside)
        more = replace(few, sampling=lots.half_width_with(0.004, 1 + verdict.more_readings))
        self.assertFalse(judge(more, 0.10, 0.002, FINE).is_just_inside)

    def test_a_board_at_the_very_edge_cannot_be_settled_by_reading(self):
        verdict = judge(replace(BOARD, mean=0.11, sampling=0.001), 0.10, 0.004, FINE)
        self.assertEqual((verdict.is_just_inside, verdict.more_readings), (True, None))

    @given(
        st.floats(0.04, 0.3),
        st.floats(0.001, 0.03),
        st.floats(0, 0.03),
        st.one_of(st.none(), st.floats(-0.05, 0.05)),
        st.floats(0, 0.05),
        st.sampled_from(["", "above", "below"]),
        st.floats(0.05, 0.18),
        st.floats(0, 0.02),
        st.sampled_from(list(USES.values())),
    )
    def test_the_rule_over_many_boards_is_the_rule_for_one(
        self, mean, instrument, sampling, gradient, reach, bound, target, uncertainty, use
    ):
        board = replace(BOARD, mean=mean, instrument=instrument, sampling=sampling, gradient=gradient, reach=reach, bound=bound)
        combined = math.sqrt(instrument**2 + sampling**2 + uncertainty**2)
        edges = Edges(
            target - use.tolerance, target + use.tolerance, target + 0.5 * use.tolerance, target + 2 * use.tolerance, target - 0.03
        )
        if use is FRAMING:
            edges = around(target, use)
        many = codes(
            [mean] * 2,
            [combined] * 2,
            use,
            edges,
            [math.nan if gradient is None else gradient] * 2,
            [reach] * 2,
            [Bound(bound).side] * 2,
            uncertainty,
        )
        verdict = judge(board, edges, uncertainty, use)
        self.assertEqual(CODES[int(many[1])], verdict.state)
        self.assertTrue(0 <= verdict.chance <= 1)

    @given(st.floats(0.05, 0.2), st.floats(0.0, 0.02))
    def test_wetting_a_board_never_turns_wait_into_ready(self, mean, more):
        order = [State.TOO_DRY, State.READY, State.CLOSE, State.WAIT]
        here, wetter = self.state(mean=mean), self.state(mean=mean + more)
        if mean >= 0.10:
            self.assertLessEqual(order.index(here), order.index(wetter))

    def test_impossible_questions_are_refused(self):
        for target, uncertainty, tolerance in ((0.9, 0.0, 0.01), (0.1, -1, 0.01), (0.1, 0.0, 0.0)):
            with self.assertRaises(OutOfRange):
                judge(BOARD, target, uncertainty, tolerance)
        self.assertEqual(readiness.judge(BOARD, 0.10, 0.004, 0.01).state, State.READY)


class Uses(unittest.TestCase):
    def state(self, use, mean, target, **changes) -> State:
        return judge(replace(BOARD, mean=mean, instrument=0.006, sampling=0.003, **changes), target, 0.0, use).state

    def test_framing_has_a_ceiling_and_no_floor(self):
        for mean, wanted in ((0.23, State.WAIT), (0.195, State.CLOSE), (0.19, State.READY), (0.15, State.READY), (0.07, State.READY)):
            self.assertEqual(self.state(FRAMING, mean, FRAMING.limit), wanted)
        self.assertEqual(self.state(FRAMING, 0.15, 0.19, gradient=0.06, reach=0.09), State.READY)
        self.assertEqual(judge(replace(BOARD, mean=0.28, bound="above"), 0.19, 0.0, FRAMING).state, State.WAIT)
        self.assertEqual(judge(replace(BOARD, mean=0.06, bound="below"), 0.19, 0.0, FRAMING).state, State.READY)

    def test_framing_near_its_limit_is_just_inside_with_a_doubtful_meter(self):
        self.assertTrue(judge(replace(BOARD, mean=0.18, instrument=0.05), 0.19, 0.0, FRAMING).is_just_inside)
        self.assertFalse(judge(replace(BOARD, mean=0.10, instrument=0.05), 0.19, 0.0, FRAMING).is_just_inside)

    def test_strips_may_differ_from_their_subfloor_twice_as_much_as_planks(self):
        self.assertEqual((self.state(STRIP_FLOOR, 0.09, 0.12), self.state(PLANK_FLOOR, 0.09, 0.12)), (State.READY, State.TOO_DRY))

    def test_instruments_ask_for_evenness_that_furniture_does_not(self):
        self.assertEqual(
            (self.state(INSTRUMENT, 0.1, 0.1, gradient=0.008), self.state(FINE, 0.1, 0.1, gradient=0.008)), (State.TOO_UNEVEN, State.READY)
        )
        self.assertEqual(self.state(OUTDOORS, 0.16, 0.16, gradient=0.04), State.READY)


class LotSampling(unittest.TestCase):
    def test_the_parts_of_a_stack_weigh_alike_however_many_boards_were_read_in_each(self):
        lot_mean = lots.lot_mean([0.10] * 8 + [0.13, 0.16], ["outer"] * 8 + ["middle", "deep"], 0.01)
        self.assertAlmostEqual(lot_mean.mean, 0.13)
        self.assertEqual(lot_mean.part_means, {"outer": 0.10, "middle": 0.13, "deep": 0.16})

    def test_a_stack_read_at_its_edge_alone_says_so(self):
        self.assertEqual(lots.lot_mean([0.10, 0.11], ["outer", "outer"], 0.01).unread, ("middle", "deep"))
        self.assertEqual(lots.lot_mean([0.10, 0.11], ["", ""], 0.01).unread, ())

    def test_the_interval_holds_the_truth_about_as_often_as_it_says(self):
        chance = np.random.default_rng(3)
        truths = np.array([0.11, 0.13, 0.15])
        hits = 0
        for _ in range(400):
            boards = np.concatenate([chance.normal(mean, 0.012, 3) for mean in truths])
            lot_mean = lots.lot_mean(boards, np.repeat(lots.STRATA, 3), 0.01)
            hits += abs(lot_mean.mean - truths.mean()) <= lot_mean.half_width
        self.assertGreater(hits / 400, 0.92)

    def test_the_boards_it_asks_for_are_enough_when_they_scatter_alike(self):
        values, parts = [0.10, 0.12, 0.14, 0.11, 0.13, 0.15], ["outer", "middle", "deep"] * 2
        lot_mean = lots.lot_mean(values, parts, 0.007)
        self.assertGreater(lot_mean.more, 0)
        self.assertEqual(lots.lot_mean([0.12] * 40, ["outer"] * 40, 0.01).more, 0)

    def test_next_comes_the_part_read_least_and_of_two_the_deeper(self):
        self.assertEqual(lots.read_next_in([]), "deep")
        self.assertEqual(lots.read_next_in(["deep", "middle"]), "outer")
        self.assertEqual(lots.read_next_in(["deep", "middle", "outer", "outer"]), "deep")


class ByWeight(unittest.TestCase):
    def test_a_rough_weighing_gives_way_to_any_measured_spot_and_a_good_one_does_not(self):
        spots = [Spot(0.12, 0.01), Spot(0.122, 0.01)]
        for uncertainty, by_weight in ((0.01, True), (0.05, True), (0.2, False)):
            self.assertEqual(estimate([Spot(0.15, uncertainty, "whole"), *spots]).by_weight, by_weight)
        self.assertTrue(estimate([Spot(0.8, 0.3, "whole"), Spot(0.28, 0.02, bound="above")]).by_weight)
        self.assertTrue(estimate([Spot(0.8, 0.3, "whole")]).by_weight)


class WholeLots(unittest.TestCase):
    @staticmethod
    def board(mean: float, part: str = "", **changes) -> Board:
        return Board(replace(BOARD, mean=mean, instrument=0.006, sampling=0.003, **changes), part)

    def test_a_lot_is_its_boards_with_the_doubt_of_having_read_only_some(self):
        few = estimate_lot([self.board(m) for m in (0.10, 0.11, 0.12)], 60)
        many = estimate_lot([self.board(m) for m in (0.10, 0.11, 0.12) * 8], 60)
        self.assertAlmostEqual(few.mean, 0.11)
        self.assertLess(many.sampling, few.sampling / 2)
        self.assertAlmostEqual(few.instrument, 0.006)
        self.assertAlmostEqual(few.reach, 0.02)

    def test_a_lot_read_whole_leaves_nothing_open(self):
        self.assertEqual(estimate_lot([self.board(m) for m in (0.10, 0.12, 0.14)], 3).sampling, 0.0)

    def test_one_board_beyond_the_meter_makes_its_lot_wait(self):
        wet, dry = self.board(0.28, bound="above"), self.board(0.12)
        result = estimate_lot([dry] * 9 + [wet])
        self.assertEqual((result.bound, result.wet, result.count), ("above", "boards", 1))
        self.assertAlmostEqual(result.least, (9 * 0.12 + 0.28) / 10)
        self.assertEqual(estimate_lot([self.board(0.06, bound="below"), dry, dry]).left_out, 1)
        self.assertIsNone(estimate_lot([]))

    def test_alike_is_judged_with_the_doubt_of_both(self):
        ash = replace(BOARD, mean=0.10, instrument=0.008, sampling=0.003)
        self.assertEqual(compare_boards(ash, replace(ash, mean=0.104), 0.01, same_meter=True).state, State.READY)
        self.assertNotEqual(compare_boards(ash, replace(ash, mean=0.104), 0.01).state, State.READY)
        self.assertEqual(compare_boards(ash, replace(ash, mean=0.15), 0.01).state, State.WAIT)
        self.assertEqual(compare_boards(replace(ash, mean=0.28, bound="above"), ash, 0.01).state, State.WAIT)
        self.assertEqual(
            compare_boards(replace(ash, mean=0.28, bound="above"), replace(ash, mean=0.28, bound="above"), 0.01).state, State.CANNOT_TELL
        )
