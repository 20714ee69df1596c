"""Blocks cut out of boards: nothing is lost, nothing is cut twice, and whatever is laid so can be sawn."""

import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from wood.builds import cut_order, wishes
from wood.builds.layout import Board, Placed, Rect

KERF = 0.003


def lengths(low: float, high: float):
    return st.floats(low, high, allow_nan=False)


class Blocks(unittest.TestCase):
    @settings(max_examples=80, deadline=None)
    @given(lengths(0.5, 4.0), lengths(0.1, 0.5), lengths(0.05, 0.9), lengths(0.2, 0.9), lengths(0.0, 1.0), lengths(0.0, 1.0))
    def test_what_is_left_about_a_block_meets_neither_it_nor_itself_and_fills_the_board(self, long, wide, share, tall, x, y):
        block_long, block_wide = share * long, tall * wide
        x0, y0 = x * (long - block_long), y * (wide - block_wide)
        board, block = Rect(0.0, long, 0.0, wide), Rect(x0, x0 + block_long, y0, y0 + block_wide)
        rest = wishes.rest_of(board, block, KERF)
        for n, one in enumerate(rest):
            self.assertFalse(one.meets(block, KERF - 1e-6))
            self.assertTrue(wishes.inside(one, board))
            self.assertFalse(any(one.meets(other) for other in rest[n + 1 :]))
        # The saw takes at most four cuts.
        lost = board.area_m2 - block.area_m2 - sum(one.area_m2 for one in rest)
        self.assertTrue(-1e-9 <= lost <= 2 * KERF * (long + wide) + 1e-9)

    @settings(max_examples=60, deadline=None)
    @given(st.integers(1, 6), lengths(0.1, 0.5), lengths(0.03, 0.15), lengths(0.0, 0.4))
    def test_a_row_and_what_is_laid_beside_it_can_be_sawn(self, count, length, width, knot):
        board = Board("a", 4.0, 0.25, (Rect(knot, knot + 0.05, 0.0, 0.1),))
        block = wishes.first_clear(board.whole, board.kept_out, wishes.row_length_m(length, count, KERF), width)
        assert block is not None
        row = wishes.in_a_row(block, count, KERF)
        self.assertTrue(wishes.lie_in_a_row(row, KERF))
        self.assertAlmostEqual(row[-1].x1, block.x1)
        laid = [Placed(str(n), "a", part) for n, part in enumerate(row)]
        for n, rest in enumerate(wishes.rest_of(board.whole, block, KERF)):
            there = wishes.first_clear(rest, board.kept_out, 0.06, 0.02)
            if there is not None:
                laid.append(Placed(f"r{n}", "a", there))
        self.assertEqual(cut_order.faults(board, laid, KERF), {})
        self.assertIsNotNone(cut_order.sawn(board, laid, KERF))

    def test_the_first_clear_place_is_beside_what_is_kept_out(self):
        board = Board("a", 2.0, 0.2, (Rect(0.0, 0.5, 0.0, 0.12), Rect(1.9, 2.0, 0.0, 0.2)))
        self.assertEqual(wishes.first_clear(board.whole, board.kept_out, 0.4, 0.08), Rect(0.0, 0.4, 0.12, 0.2))
        self.assertEqual(wishes.first_clear(board.whole, board.kept_out, 1.3, 0.15), Rect(0.5, 1.8, 0.0, 0.15))
        self.assertIsNone(wishes.first_clear(board.whole, board.kept_out, 1.5, 0.15))
        self.assertIsNone(wishes.first_clear(Rect(0.0, 0.5, 0.0, 0.12), board.kept_out, 0.1, 0.1))

    def test_parts_that_lie_apart_or_askew_are_in_no_row(self):
        one = Rect(0.0, 0.4, 0.0, 0.1)
        self.assertTrue(wishes.lie_in_a_row([Rect(0.41, 0.8, 0.005, 0.105), one], KERF))
        self.assertFalse(wishes.lie_in_a_row([one, Rect(0.5, 0.9, 0.0, 0.1)], KERF))
        self.assertFalse(wishes.lie_in_a_row([one, Rect(0.41, 0.8, 0.05, 0.15)], KERF))
