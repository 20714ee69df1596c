"""Boards by ranges, lists and tallies: nothing is lost in counting, and what cannot be is refused."""

import random
from unittest import TestCase

from wood.errors import CannotRead
from wood.species import species_named
from wood.stacks import breaches, pile, tally
from wood.stacks.breaches import Breach
from wood.stacks.stickers import Stickers, usual
from wood.stacks.tally import Size, boards, sizes
from wood.units import INCH, INCH_M, METRIC

MAPLE, OAK = species_named("sugar_maple"), species_named("white_oak")


class Sizes(TestCase):
    def test_one_a_range_a_list_or_counted(self):
        for text, inches in (
            ("8", [8]),
            ("1 3/8 in", [1.375]),
            ("6-10", [6.67, 8, 9.33]),
            ("6 to 10", [6.67, 8, 9.33]),
            ("6, 7, 8 in", [6, 7, 8]),
            ("12 at 8 in, 20 at 6", [8, 6]),
        ):
            with self.subTest(text):
                self.assertEqual([round(size.metres / INCH_M, 2) for size in sizes(text, INCH)], [round(number, 2) for number in inches])
        self.assertEqual([round(size.metres / 0.3048, 2) for size in sizes("7-10 ft", INCH)], [7.5, 8.5, 9.5])
        self.assertEqual([round(size.metres * 1000) for size in sizes("150–250", METRIC)], [167, 200, 233])
        self.assertEqual([size.count for size in sizes("12 at 200, 3 at 150", METRIC)], [12, 3])

    def test_what_is_none_of_these_is_refused(self):
        for text in ("ten", "10-6", "6,,x", "12 at 8, 6", "5 at ", "-", ",", "1-", "6 to"):
            with self.subTest(text), self.assertRaises(CannotRead):
                sizes(text, INCH)

    def test_no_board_is_lost_or_made_in_counting(self):
        chance = random.Random(30)
        for _ in range(200):
            count = chance.randint(1, 500)
            wide = [Size(chance.uniform(0.1, 0.4)) for _ in range(chance.randint(1, 6))]
            long = [Size(chance.uniform(1, 5)) for _ in range(chance.randint(1, 4))]
            self.assertEqual(sum(row.count for row in boards(wide, long, count)), count)
            counted = [Size(size.metres, chance.randint(1, 60)) for size in wide]
            rows = boards(counted, long, 7)
            self.assertEqual(sum(row.count for row in rows), sum(size.count for size in counted))

    def test_two_counts_that_differ_are_refused(self):
        with self.assertRaises(CannotRead):
            boards([Size(0.2, 12)], [Size(3.0, 10)], 100)

    def test_a_tally_has_its_grades(self):
        rows = tally.tally("12 at 8 in x 10 ft, select\n\n20 6 x 8 ft; common\n5 at 6 x 8 ft, common", INCH)
        grades = tally.by_grade(rows, INCH_M)
        self.assertEqual({grade: count for grade, (count, _) in grades.items()}, {"select": 12, "common": 25})
        self.assertAlmostEqual(grades["select"][1], 80.0)
        for text in ("", "eight boards", "0 at 8 x 10", "12 at 8", "3 at x x 9"):
            with self.subTest(text), self.assertRaises(CannotRead):
                tally.tally(text, INCH)


class Stained(TestCase):
    def breaches(self, species, thickness_m=0.0286, sticker_m=0.019, moisture=0.7, **more):
        load = pile.Load("a", species, thickness_m, 0.2, 2.4, 60, moisture)
        made = usual(species, thickness_m, moisture)
        taken = Stickers(sticker_m, made.width_m, made.spacing_m, made.closest_m, made.farthest_m, made.rule)
        stack = pile.pile([load], 1.2, taken)
        return {found.breach for found in breaches.breaches(stack, stack.lines_m, 0.10, **more)}

    def test_white_maple_lies_on_dry_narrow_full_height_stickers(self):
        self.assertLess(usual(MAPLE, 0.0286, 0.7).width_m, usual(OAK, 0.0286, 0.7).width_m)
        self.assertGreaterEqual(usual(MAPLE, 0.0286, 0.7).thickness_m, 0.019)
        self.assertIn(Breach.STICKERS_THIN, self.breaches(MAPLE, sticker_m=0.0127))
        self.assertNotIn(Breach.STICKERS_THIN, self.breaches(MAPLE))
        self.assertNotIn(Breach.STICKERS_THIN, self.breaches(MAPLE, sticker_m=0.0127, moisture=0.15))
        self.assertNotIn(Breach.STICKERS_THIN, self.breaches(OAK, sticker_m=0.0127))

    def test_oak_under_pale_wood_marks_it(self):
        self.assertIn(Breach.DARK_STICKERS, self.breaches(MAPLE, dark_stickers=True))
        self.assertNotIn(Breach.DARK_STICKERS, self.breaches(OAK, dark_stickers=True))


class InnerEnds(TestCase):
    def test_short_boards_that_end_between_lines_are_told_of(self):
        made = usual(OAK, 0.0286, 0.7)
        long, short = (pile.Load("a", OAK, 0.0286, 0.2, length, 30, 0.7) for length in (3.0, 2.55))
        stack = pile.pile([long, short], 1.2, made)
        self.assertEqual(stack.inner_ends_m, (2.55,))
        even = pile.Load("a", OAK, 0.0286, 0.2, stack.lines_m[-2] + 0.02, 30, 0.7)
        self.assertEqual(pile.pile([long, even], 1.2, made).inner_ends_m, ())
        half = pile.Load("a", OAK, 0.0286, 0.2, 1.5, 30, 0.7)
        self.assertEqual(pile.pile([long, half], 1.2, made).inner_ends_m, ())
