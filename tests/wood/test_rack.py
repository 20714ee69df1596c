"""Advice at the rack: what a buyer with thirty years at the bench would say, and its limits."""

import math
import unittest

from wood.errors import OutOfRange
from wood.judging.rack import AIR_DRY, DRIED_TOGETHER, Advice, Why, advise, read_together, sorted_out
from wood.measuring.estimates import Spot
from wood.measuring.readings import Bound, Layer
from wood.uses import FINE, GENERAL

SOON, LATE, NEVER = (10.0, 20.0, 40.0), (60.0, 100.0, 200.0), (math.inf, math.inf, math.inf)


def judged(*moistures, days=SOON, home=0.08, use=GENERAL, thickness_m=0.027, patience=56.0, spots=None):
    spots = spots or [Spot(moisture, 0.01) for moisture in moistures]
    return advise(read_together(spots, sorted_out(spots)), home, 0.01, use, thickness_m, days, patience)


class Rack(unittest.TestCase):
    def test_dry_wood_is_taken_and_wet_wood_left(self):
        for said, advice, why in (
            (judged(0.085, 0.09), Advice.TAKE, Why.THERE),
            (judged(0.12, 0.125), Advice.TAKE, Why.IN_TIME),
            (judged(0.12, 0.125, days=LATE), Advice.WAIT, Why.TOO_LONG),
            (judged(0.12, 0.125, days=LATE, patience=182.0), Advice.TAKE, Why.IN_TIME),
            (judged(0.14, days=(400.0, 500.0, 900.0)), Advice.WALK_AWAY, Why.NEVER),
            (judged(0.23, 0.24), Advice.WAIT, Why.NOT_AIR_DRY),
            (judged(0.06, home=0.14, days=LATE), Advice.TAKE, Why.DRIER),
            (judged(0.12, days=NEVER), Advice.TAKE, Why.SWINGS),
            (judged(0.12, days=None), Advice.WAIT, Why.TOO_LONG),
            (judged(0.09, 0.16, 0.12), Advice.WALK_AWAY, Why.MIXED),
        ):
            with self.subTest(why):
                self.assertEqual((said.advice, said.why), (advice, why))

    def test_closer_work_asks_for_drier_wood(self):
        self.assertIs(judged(0.097, use=GENERAL).why, Why.THERE)
        self.assertIs(judged(0.097, use=FINE).why, Why.IN_TIME)

    def test_a_wet_core_decides_however_dry_the_faces_are(self):
        spots = [Spot(0.09, 0.01)] * 5 + [Spot(0.28, 0.02, Layer.CORE, bound=Bound.ABOVE)]
        self.assertEqual(sorted_out(spots), [])
        self.assertIs(judged(spots=spots).why, Why.WET)

    def test_one_board_that_does_not_belong_is_named_and_a_mixed_pile_has_none(self):
        self.assertEqual(sorted_out([Spot(m, 0.01) for m in (0.11, 0.112, 0.108, 0.111, 0.17)]), [4])
        self.assertEqual(sorted_out([Spot(m, 0.01) for m in (0.11, 0.112, 0.17)]), [])
        wet = Spot(0.28, 0.02, bound=Bound.ABOVE)
        dry = [Spot(0.11, 0.01)] * 5
        self.assertEqual(sorted_out([*dry, wet]), [5])
        self.assertEqual(sorted_out([*dry, wet, wet, wet]), [])
        self.assertIs(judged(spots=[*dry, wet, wet, wet]).why, Why.WET)

    def test_thick_wood_read_outside_is_told_to_be_unknown_inside(self):
        self.assertFalse(judged(0.09, thickness_m=0.027).inside_unknown)
        self.assertTrue(judged(0.09, thickness_m=0.052).inside_unknown)
        core = [Spot(0.09, 0.01), Spot(0.10, 0.01, Layer.CORE)]
        self.assertFalse(judged(spots=core, thickness_m=0.052).inside_unknown)

    def test_framing_is_dry_enough_only_where_that_is_sure(self):
        self.assertTrue(judged(0.16).framing)
        self.assertFalse(judged(0.188).framing)
        self.assertFalse(judged(spots=[Spot(0.28, 0.02, bound=Bound.ABOVE)]).framing)

    def test_advice_never_softens_as_wood_gets_wetter(self):
        gravity = {Advice.TAKE: 0, Advice.WAIT: 1, Advice.WALK_AWAY: 2}
        got = [gravity[judged(k / 1000, days=(k / 4, k / 2, k)).advice] for k in range(80, 270, 5)]
        self.assertEqual(got, sorted(got))
        self.assertGreater(AIR_DRY, DRIED_TOGETHER)

    def test_what_cannot_be_is_refused(self):
        for wrong in ({"days": (-1.0, 2.0, 3.0)}, {"patience": -1.0}, {"home": 0.6}, {"thickness_m": 9.0}):
            with self.subTest(wrong), self.assertRaises(OutOfRange):
                judged(0.12, **wrong)
