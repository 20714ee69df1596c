"""Heats, tracings and the verdict at the lathe: by energy, by geometry, and by what must never be turned."""

import math

import numpy as np
from django.test import SimpleTestCase

from wood.errors import CannotRead, OutOfRange
from wood.turning.lathe import Crack, May, Remedy, Where, remedy, speeds, verdict
from wood.turning.microwave import BOIL_OFF_J_KG, Felt, Heat, Session, Step, Why, longest_s, next_step, rest_minutes
from wood.turning.tracing import from_diameters, from_points, learnt


class Oven:
    """An oven and a bowl of hidden truth: what it takes in, how hot it gets, what leaves it."""

    def __init__(self, first_kg: float, dry_kg: float, watts: float, share: float = 0.5) -> None:
        self.mass, self.dry, self.watts, self.share = first_kg, dry_kg, watts, share
        self.hottest_c = 20.0

    def heat(self, seconds: float, level: float) -> Heat:
        water = self.mass - self.dry
        taken = self.watts * level * seconds * self.share * min(1.0, 0.3 + 1.5 * water / self.dry)
        left = min(taken * 0.6 / BOIL_OFF_J_KG, 0.3 * water)
        inside = 20 + (taken - left * 2.26e6) / (self.dry * 1350 + water * 4180)
        self.hottest_c = max(self.hottest_c, inside)
        self.mass -= left
        felt = Felt.STEAM if inside > 95 else Felt.HOT if inside > 75 else Felt.WARM if inside > 40 else Felt.COOL
        return Heat(seconds, level, round(self.mass, 4), felt)


class Microwave(SimpleTestCase):
    def through(self, first: float, dry: float, watts: float, share: float = 0.5) -> tuple[Oven, list[Heat], list[float], Step]:
        oven, heats, rests = Oven(first, dry, watts, share), [], []
        while True:
            step = next_step(Session(watts, first, dry, dry * 1.09, 0.014, 0.001, tuple(heats)))
            if step.step in (Step.STOP_FLAT, Step.STOP_BELOW) or len(heats) > 150:
                return oven, heats, rests, step.step
            heats.append(oven.heat(step.seconds, step.level))
            rests.append(step.rest_minutes)

    def test_a_small_bowl_takes_days_of_heats_and_stops_itself_before_it_chars(self):
        for first, dry, watts in ((0.35, 0.21, 700), (0.6, 0.37, 900), (0.9, 0.55, 800)):
            oven, heats, rests, end = self.through(first, dry, watts)
            self.assertIn(end, (Step.STOP_FLAT, Step.STOP_BELOW))
            self.assertTrue(15 <= len(heats) <= 90, len(heats))
            self.assertTrue(8 < sum(rests) / 60 < 90, sum(rests))
            self.assertLess(oven.hottest_c, 95)
            self.assertAlmostEqual(oven.mass / (dry * 1.09), 1.0, delta=0.02)

    def test_it_lengthens_while_little_leaves_and_shortens_when_it_is_hot(self):
        base = {"watts": 800, "first_kg": 0.6, "dry_kg": 0.37, "rest_kg": 0.4}
        little = next_step(Session(**base, heats=(Heat(60, 0.3, 0.599, Felt.WARM),)))
        self.assertEqual((little.why, little.seconds > 60), (Why.LONGER, True))
        hot = next_step(Session(**base, heats=(Heat(60, 0.3, 0.58, Felt.HOT),)))
        self.assertEqual((hot.why, hot.seconds < 60), (Why.SHORTER, True))
        steam = next_step(Session(**base, heats=(Heat(60, 0.3, 0.58, Felt.STEAM),)))
        self.assertEqual(steam.step, Step.COOL_DOWN)
        self.assertGreater(steam.rest_minutes, hot.rest_minutes)

    def test_flat_is_three_heats_that_take_nothing_out(self):
        heats = tuple(Heat(60, 0.3, mass) for mass in (0.43, 0.4205, 0.4203, 0.4202, 0.42))
        self.assertEqual(next_step(Session(800, 0.6, 0.37, 0.40, heats=heats)).step, Step.STOP_FLAT)

    def test_a_heat_never_brings_more_than_wood_and_water_can_take(self):
        session = Session(800, 0.6, 0.37, 0.40)
        capacity = 0.37 * 1350 + 0.23 * 4180
        self.assertAlmostEqual(longest_s(session, 0.4), capacity * 58 / (800 * 0.4 * 0.5), delta=1)
        self.assertGreater(longest_s(session, 0.2), longest_s(session, 0.4))

    def test_a_thick_wall_rests_longer(self):
        thin, thick = (rest_minutes(Session(800, 0.6, 0.37, 0.40, wall)) for wall in (0.01, 0.02))
        self.assertAlmostEqual(thick / thin, 2.0)

    def test_what_cannot_be_a_session_is_refused(self):
        for wrong in (
            {"watts": 50},
            {"dry_kg": 0.9},
            {"rest_kg": 0.1},
            {"heats": (Heat(9000, 0.3, 0.5),)},
            {"heats": (Heat(60, 0.3, 5.0),)},
        ):
            with self.assertRaises(OutOfRange):
                Session(**{"watts": 800, "first_kg": 0.6, "dry_kg": 0.37, "rest_kg": 0.40, **wrong})


class Tracings(SimpleTestCase):
    def test_an_oval_is_found_from_any_points_round_it_however_it_lies(self):
        chance = np.random.default_rng(3)
        for turned in (0.0, 0.7, 2.0):
            angles = np.sort(chance.uniform(0, 2 * math.pi, 14))
            x, y = 0.125 * np.cos(angles), 0.118 * np.sin(angles)
            points = np.column_stack([x * math.cos(turned) - y * math.sin(turned) + 0.4, x * math.sin(turned) + y * math.cos(turned) - 0.2])
            result = from_points([tuple(point) for point in points + chance.normal(0, 0.0003, points.shape)])
            self.assertAlmostEqual(result.along_m, 0.25, delta=0.0015)
            self.assertAlmostEqual(result.across_m, 0.236, delta=0.0015)
            self.assertLess(result.off_m, 0.001)

    def test_three_points_a_line_and_one_spot_are_no_rim(self):
        for points in ([(0, 0), (1, 0), (0, 1)], [(0.01 * k, 0.0) for k in range(9)], [(0.1, 0.1)] * 9, []):
            with self.assertRaises(CannotRead):
                from_points(points)

    def test_one_tracing_moves_what_is_known_of_a_species_a_little_and_many_move_it_all_the_way(self):
        first, many = learnt([0.015], [0.010]), learnt([0.015] * 40, [0.010] * 40)
        self.assertTrue(1.1 < first.share < 1.4, first)
        self.assertAlmostEqual(many.share, 1.5, delta=0.03)
        self.assertLess(many.spread, first.spread)
        self.assertEqual(from_diameters(0.2, 0.19).off_m, 0.0)


class AtTheLathe(SimpleTestCase):
    def test_what_may_fly_apart_is_never_turned(self):
        for crack in (
            Crack(Where.FOOT, 0.006, 0.02),
            Crack(Where.RIM, 0.02, 0.02, through=True),
            Crack(Where.INSIDE, 0.002, 0.02, at_pith=True),
            Crack(Where.OUTSIDE, 0.004, 0.12),
            Crack(Where.OUTSIDE, 0.02, 0.02),
        ):
            self.assertEqual(remedy(crack, 0.3, 0.014, 0.008), Remedy.NEVER, crack)
            self.assertEqual(verdict(True, 0.3, 0.014, 0.008, 0.01, (crack,)).may, May.NEVER)

    def test_a_shallow_one_goes_with_the_shavings_and_a_short_one_may_be_filled(self):
        self.assertEqual(remedy(Crack(Where.OUTSIDE, 0.002, 0.02), 0.3, 0.014, 0.008), Remedy.TURN_AWAY)
        self.assertEqual(remedy(Crack(Where.OUTSIDE, 0.005, 0.02), 0.3, 0.014, 0.008), Remedy.FILL)

    def test_the_verdict_goes_by_weight_then_wall(self):
        self.assertEqual(verdict(None, 0.3, 0.014, 0.008, 0.01).may, May.UNKNOWN)
        self.assertEqual(verdict(False, 0.3, 0.014, 0.008, 0.01).may, May.WAIT)
        self.assertEqual(verdict(True, 0.3, 0.006, 0.008, 0.01).may, May.TOO_THIN)
        self.assertEqual(verdict(True, 0.3, 0.014, 0.008, 0.01).may, May.YES)

    def test_wider_and_farther_out_of_round_begins_slower(self):
        self.assertLess(speeds(0.4)[0], speeds(0.2)[0])
        self.assertLess(speeds(0.3, 0.02)[0], speeds(0.3)[0])
