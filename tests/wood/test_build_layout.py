"""Parts on boards: nothing is cut twice or out of what is kept out, every plan can be sawn, and the wood adds up."""

import random
import unittest

import numpy as np

from wood.builds import cut_order, layout
from wood.builds.cut_order import Fault
from wood.builds.layout import Board, Need, Placed, Rect
from wood.errors import OutOfRange

KERF = 0.003


def some_boards(chance: random.Random, count: int) -> list[Board]:
    boards = []
    for n in range(count):
        length, width = chance.uniform(0.9, 3.0), chance.uniform(0.1, 0.4)
        bad = [Rect(0.0, 0.03, 0.0, width), Rect(length - 0.03, length, 0.0, width)]
        for _ in range(chance.randint(0, 4)):
            x, y = chance.uniform(0, length * 0.9), chance.uniform(0, width * 0.8)
            bad.append(Rect(x, min(x + chance.uniform(0.01, 0.2), length), y, min(y + chance.uniform(0.01, 0.08), width)))
        if chance.random() < 0.2:
            bad.append(Rect(0.0, length, width * 0.45, width * 0.6))
        boards.append(Board(f"board {n}", length, width, tuple(bad)))
    return boards


def some_needs(chance: random.Random, count: int) -> list[Need]:
    return [Need(f"part {n}", chance.uniform(0.1, 1.2), chance.uniform(0.03, 0.15), chance.randint(1, 5)) for n in range(count)]


def shared(rect: Rect, other: Rect) -> float:
    """The area two rectangles have in common, by nothing but its definition."""
    wide = min(rect.x1, other.x1) - max(rect.x0, other.x0)
    high = min(rect.y1, other.y1) - max(rect.y0, other.y0)
    return max(wide, 0.0) * max(high, 0.0)


class AnyPlan(unittest.TestCase):
    """Over many made-up piles of boards."""

    @classmethod
    def setUpClass(cls):
        cls.tried = []
        for seed in range(40):
            chance = random.Random(seed)
            boards, needs = some_boards(chance, chance.randint(1, 9)), some_needs(chance, chance.randint(1, 8))
            cls.tried.append((boards, needs, layout.suggest(boards, needs, KERF)))

    def test_no_part_lies_in_what_is_kept_out_or_over_the_edge(self):
        for boards, _, plan in self.tried:
            for board in boards:
                for item in plan.on(board.key):
                    self.assertLess(sum(shared(item.rect, bad) for bad in board.kept_out), 1e-9)
                    self.assertAlmostEqual(shared(item.rect, board.whole), item.rect.area_m2, 9)

    def test_no_board_is_cut_twice_and_the_kerf_is_left_between(self):
        for boards, _, plan in self.tried:
            for board in boards:
                self.assertEqual(cut_order.faults(board, plan.on(board.key), KERF), {})
                placed = plan.on(board.key)
                for n, placement in enumerate(placed):
                    grown = Rect(placement.rect.x0, placement.rect.x1 + KERF - 1e-6, placement.rect.y0, placement.rect.y1 + KERF - 1e-6)
                    for other in placed[n + 1 :]:
                        beside = Rect(other.rect.x0, other.rect.x1 + KERF - 1e-6, other.rect.y0, other.rect.y1 + KERF - 1e-6)
                        self.assertLess(shared(grown, beside), 1e-9)

    def test_parts_keep_their_size_and_all_are_counted(self):
        for _, needs, plan in self.tried:
            for need in needs:
                own = [placement for placement in plan.placed if placement.need == need.key]
                self.assertEqual(len(own) + plan.missing.get(need.key, 0), need.count)
                for item in own:
                    self.assertAlmostEqual(item.rect.x1 - item.rect.x0, need.length_m, 9)
                    self.assertAlmostEqual(item.rect.y1 - item.rect.y0, need.width_m, 9)

    def test_every_board_can_be_sawn_and_its_wood_adds_up(self):
        for boards, _, plan in self.tried:
            for board in boards:
                placed = plan.on(board.key)
                if not placed:
                    continue
                done = cut_order.sawn(board, placed, KERF)
                self.assertIsNotNone(done, placed)
                self.assertAlmostEqual(done.parts_m2, sum(placement.rect.area_m2 for placement in placed), 9)
                whole = done.parts_m2 + done.kerf_m2 + done.offcuts_m2 + done.scrap_m2 + done.kept_out_m2
                self.assertAlmostEqual(whole, board.area_m2, 9)
                for share in (done.kerf_m2, done.offcuts_m2, done.scrap_m2, done.kept_out_m2):
                    self.assertGreaterEqual(share, -1e-9)

    def test_offcuts_are_clear_of_parts_and_of_what_is_kept_out(self):
        for boards, _, plan in self.tried:
            for board in boards:
                done = cut_order.sawn(board, plan.on(board.key), KERF)
                for offcut in done.offcuts if done else ():
                    for other in [*(item.rect for item in plan.on(board.key)), *board.kept_out]:
                        self.assertLess(shared(offcut, other), 1e-9)

    def test_each_cut_runs_right_through_and_through_no_part(self):
        for boards, _, plan in self.tried:
            for board in boards:
                placed = plan.on(board.key)
                done = cut_order.sawn(board, placed, KERF)
                for cut in done.cuts if done else ():
                    inside = [placement.rect for placement in placed if shared(placement.rect, cut.within) > 1e-9]
                    for rect in inside:
                        low, high = (rect.x0, rect.x1) if cut.across else (rect.y0, rect.y1)
                        self.assertTrue(high <= cut.at_m + 1e-6 or low >= cut.at_m - 1e-6)

    def test_the_same_question_has_the_same_answer(self):
        boards, needs, plan = self.tried[3]
        self.assertEqual(layout.suggest(boards, needs, KERF), plan)


class GoodPlans(unittest.TestCase):
    def test_parts_that_just_fill_a_board_are_found(self):
        board = Board("a", 4 * 0.5 + 3 * KERF, 2 * 0.1 + KERF)
        plan = layout.suggest([board], [Need("part", 0.5, 0.1, 8)], KERF)
        self.assertEqual((len(plan.placed), plan.missing), (8, {}))
        self.assertAlmostEqual(cut_order.sawn(board, plan.placed, KERF).scrap_m2, 0.0, 6)

    def test_a_hair_too_long_is_not_cut(self):
        board = Board("a", 4 * 0.5 + 3 * KERF - 0.001, 0.1)
        self.assertEqual(layout.suggest([board], [Need("part", 0.5, 0.1, 4)], KERF).missing, {"part": 1})

    def test_a_knot_in_the_middle_leaves_the_lanes_beside_it(self):
        board = Board("a", 2.0, 0.2, (Rect(0.9, 1.1, 0.08, 0.12),))
        plan = layout.suggest([board], [Need("rail", 1.9, 0.07, 2)], KERF)
        self.assertEqual(plan.missing, {})

    def test_one_board_is_taken_where_one_will_do(self):
        boards = [Board(f"{n}", 2.0, 0.2) for n in range(5)]
        plan = layout.suggest(boards, [Need("part", 0.45, 0.09, 8)], KERF)
        self.assertEqual(len({placement.board for placement in plan.placed}), 1)

    def test_dear_wood_is_left_alone_while_there_is_other(self):
        boards = [Board("wet", 2.0, 0.2, dear=4.0), Board("ready", 2.0, 0.25)]
        plan = layout.suggest(boards, [Need("part", 0.45, 0.09, 6)], KERF)
        self.assertEqual({placement.board for placement in plan.placed}, {"ready"})

    def test_a_part_keeps_to_its_own_boards(self):
        boards = [Board("oak", 2.0, 0.2), Board("ash", 2.0, 0.2)]
        needs = [Need("leg", 0.7, 0.05, 3, frozenset({"ash"})), Need("rail", 0.7, 0.05, 3, frozenset({"oak"}))]
        plan = layout.suggest(boards, needs, KERF)
        self.assertEqual({(placement.need, placement.board) for placement in plan.placed}, {("leg", "ash"), ("rail", "oak")})

    def test_little_is_wasted_of_ordinary_stock(self):
        """Sixty parts of twenty sizes from fifteen boards with knots: three quarters of what is begun becomes parts."""
        boards = [
            Board(
                f"b{n}",
                2.4 + 0.1 * (n % 3),
                0.2 + 0.01 * (n % 4),
                (Rect(1.0, 1.1, 0.05, 0.1), Rect(0, 0.03, 0, 0.2), Rect(0.5, 0.52, 0, 0.02)),
            )
            for n in range(15)
        ]
        needs = [Need(f"n{n}", 0.3 + 0.11 * (n % 7), 0.05 + 0.02 * (n % 5), 3) for n in range(20)]
        plan = layout.suggest(boards, needs, KERF)
        self.assertEqual(plan.missing, {})
        begun = {placement.board for placement in plan.placed}
        used = sum(placement.rect.area_m2 for placement in plan.placed) / sum(board.area_m2 for board in boards if board.key in begun)
        self.assertGreater(used, 0.72)

    def test_what_is_laid_stays_and_its_board_is_left_to_it(self):
        boards = [Board("a", 2.0, 0.2), Board("b", 2.0, 0.2)]
        begun = [Placed("part", "a", Rect(0.3, 0.8, 0.0, 0.09))]
        plan = layout.suggest(boards, [Need("part", 0.5, 0.09, 5)], KERF, begun)
        self.assertEqual(plan.on("a"), begun)
        self.assertEqual((len(plan.on("b")), plan.missing), (4, {}))


class ByHand(unittest.TestCase):
    def setUp(self):
        self.board = Board("a", 1.0, 0.2, (Rect(0.4, 0.5, 0.0, 0.05),))

    def fault(self, *rects: Rect):
        return cut_order.faults(self.board, [Placed("p", "a", rect) for rect in rects], KERF).get(len(rects) - 1)

    def test_each_fault_is_told(self):
        self.assertIs(self.fault(Rect(0.7, 1.1, 0.0, 0.1)), Fault.OUTSIDE)
        self.assertIs(self.fault(Rect(0.3, 0.45, 0.0, 0.1)), Fault.KEPT_OUT)
        self.assertIs(self.fault(Rect(0.0, 0.3, 0.0, 0.1), Rect(0.2, 0.35, 0.0, 0.1)), Fault.OVERLAPS)
        self.assertIs(self.fault(Rect(0.0, 0.3, 0.0, 0.1), Rect(0.301, 0.39, 0.0, 0.1)), Fault.NO_KERF)
        self.assertIsNone(self.fault(Rect(0.0, 0.3, 0.0, 0.1), Rect(0.303, 0.39, 0.0, 0.1)))

    def test_a_pinwheel_cannot_be_sawn(self):
        """Four parts round a middle: no cut runs right through."""
        board = Board("a", 0.305, 0.305)
        wheel = [Rect(0.0, 0.2, 0.0, 0.1), Rect(0.205, 0.305, 0.0, 0.2), Rect(0.105, 0.305, 0.205, 0.305), Rect(0.0, 0.1, 0.105, 0.305)]
        placed = [Placed("p", "a", rect) for rect in wheel]
        self.assertEqual(cut_order.faults(board, placed, KERF), {})
        self.assertIsNone(cut_order.sawn(board, placed, KERF))

    def test_a_saw_wider_than_what_is_left_takes_it_whole(self):
        board = Board("a", 0.5015, 0.1)
        done = cut_order.sawn(board, [Placed("p", "a", Rect(0.0, 0.5, 0.0, 0.1))], KERF)
        self.assertAlmostEqual(done.kerf_m2, 0.0015 * 0.1, 9)
        self.assertAlmostEqual(done.scrap_m2, 0.0, 9)

    def test_what_cannot_be_is_refused(self):
        for wrong in (
            lambda: Board("a", 0.0, 0.1),
            lambda: Need("a", 0.1, 4.0),
            lambda: Need("a", 0.1, 0.1, 0),
            lambda: Rect(0.2, 0.1, 0.0, 0.1),
            lambda: layout.suggest([self.board], [Need("a", 0.1, 0.1)], 0.05),
            lambda: Board("a", 1.0, 0.1, dear=0.5),
            lambda: layout.suggest([Board(str(n), 1.0, 0.1) for n in range(201)], [Need("a", 0.1, 0.1)], KERF),
        ):
            with self.assertRaises(OutOfRange):
                wrong()

    def test_the_area_of_overlapping_marks_is_counted_once(self):
        board = Board("a", 1.0, 0.2, (Rect(0.1, 0.3, 0.0, 0.2), Rect(0.2, 0.4, 0.0, 0.2)))
        done = cut_order.sawn(board, [], KERF)
        self.assertAlmostEqual(done.kept_out_m2, 0.3 * 0.2, 9)
        self.assertTrue(np.isclose(done.offcuts_m2, 0.6 * 0.2))
