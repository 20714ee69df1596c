"""Thickness of boards and parts: what is near, how many leaves, what is bought; and a pile that is resawn against one cut by hand."""

import math
import random
from unittest import TestCase

from wood.builds import thickness
from wood.builds.thickness import is_near, leaf_m, leaves, quarters_for
from wood.errors import OutOfRange
from wood.units import INCH_M

KERF = 0.003175


class Near(TestCase):
    def test_an_apron_comes_from_a_four_quarter_board_and_not_from_a_slab(self):
        apron, slab = 0.75 * INCH_M + 0.0047625, 2.5 * INCH_M
        self.assertTrue(is_near(1.0 * INCH_M, apron))
        self.assertTrue(is_near(1.25 * INCH_M, apron))
        self.assertFalse(is_near(slab, apron))
        self.assertEqual(leaves(slab, apron, KERF), 2)

    def test_what_is_too_thin_gives_nothing(self):
        self.assertFalse(is_near(0.020, 0.0238))
        self.assertEqual(leaves(0.020, 0.0238, KERF), 0)
        with self.assertRaises(OutOfRange):
            is_near(math.nan, 0.02)

    def test_leaves_and_kerfs_are_never_more_than_the_board(self):
        chance = random.Random(31)
        for _ in range(500):
            board, part, kerf = chance.uniform(0.01, 0.3), chance.uniform(0.003, 0.1), chance.uniform(0.0, 0.006)
            count = leaves(board, part, kerf)
            if count > 1:
                self.assertGreaterEqual(leaf_m(board, count, kerf), part + thickness.LEAF_EXTRA_M - 1e-9)
                if count < thickness.MOST_LEAVES:
                    self.assertLess(leaf_m(board, count + 1, kerf), part + thickness.LEAF_EXTRA_M)

    def test_what_is_bought_is_the_thinnest_that_gives_it(self):
        self.assertEqual([quarters_for(inches * INCH_M) for inches in (0.9, 1.0, 1.01, 1.3, 1.9, 4.0, 4.5)], [4, 4, 5, 6, 8, 16, None])
