"""Heats, tracings and the verdict at the lathe: by energy, by geometry, and by what must never be turned."""

import math

import numpy as np
from django.test import SimpleTestCase

from wood.air.climate import constant
from wood.drying.diffusivity import of_species as figures_of
from wood.errors import CannotRead, OutOfRange
from wood.species import species_named
from wood.turning.bowls import Bowl
from wood.turning.drying import Way, course
from wood.turning.lathe import Crack, May, Remedy, Where, remedy, speeds, verdict
from wood.turning.microwave import (
    Felt,
    Heat,
    Session,
    Step,
    TooMuch,
    Why,
    longest_s,
    next_step,
    pace,
    plan,
    rest_minutes,
    shelf_of,
    too_much,
)
from wood.turning.tracing import from_diameters, from_points, learnt

ROOM_C, ROOM_KG_M3 = 20.0, 0.0087


class Oven:
    """An oven and a bowl of hidden truth, by arithmetic of its own in steps of ten seconds: what it takes in, how hot it gets, what leaves
    it in the oven and in its rest. Vapour is by Tetens here.
    """

    def __init__(self, first_kg: float, dry_kg: float, watts: float, share: float, film: float, wall_m: float) -> None:
        self.mass, self.dry, self.watts, self.share, self.film = first_kg, dry_kg, watts, share, film
        self.area = 2 * dry_kg / (600 * wall_m)
        self.hottest_c = self.now_c = ROOM_C
        self.hours = 0.0

    def vapour(self) -> float:
        """What leaves it in a second, kg."""
        full = 0.0022 * 610.78 * math.exp(17.27 * self.now_c / (self.now_c + 237.3)) / (self.now_c + 273.15)
        wet = min(1.0, (self.mass / self.dry - 1) / 0.24)
        return max(self.area * self.film / 2 / 1206 * (full * wet**0.5 - ROOM_KG_M3), 0.0) * (1.0 if self.now_c > ROOM_C + 1 else 0.12)

    def heat(self, seconds: float, level: float, gap_hours: float) -> Heat:
        for step in range(int(gap_hours * 360)):
            water = max(self.mass - self.dry, 0.001)
            capacity = self.dry * 1400 + water * 4190
            taken = self.watts * level * self.share * water / (water + 0.08) if step * 10 < seconds else 0.0
            gone = min(self.vapour() * 10, 0.02 * water)
            self.now_c += (taken * 10 - gone * 2.4e6 - self.film * self.area * (self.now_c - ROOM_C) * 10) / capacity
            self.now_c = max(self.now_c, ROOM_C)
            self.mass -= gone
            if step * 10 < seconds + 10:
                self.hottest_c = max(self.hottest_c, self.now_c)
                after_c = self.now_c
        self.hours += gap_hours
        felt = Felt.STEAM if after_c > 88 else Felt.HOT if after_c > 58 else Felt.WARM if after_c > 33 else Felt.COOL
        return Heat(seconds, level, round(self.mass, 4), felt, self.hours)


class Microwave(SimpleTestCase):
    def through(self, first: float, dry: float, watts: float, share: float, film: float) -> tuple[Oven, list[Heat], Step]:
        oven, heats = Oven(first, dry, watts, share, film, 0.016), []
        while True:
            step = next_step(Session(watts, first, dry, dry * 1.09, 0.016, 0.001, tuple(heats)))
            if step.step in (Step.STOP_FLAT, Step.STOP_THERE) or len(heats) > 150:
                return oven, heats, step.step
            # Ten heats a day, an hour apart, and a night between.
            heats.append(oven.heat(step.seconds, step.level, 15.0 if len(heats) % 10 == 9 else max(1.0, step.rest_minutes / 60)))

    def test_a_small_bowl_takes_days_of_heats_and_stops_itself_before_it_chars(self):
        for first, dry, watts, share, film in (
            (0.35, 0.21, 700, 0.9, 9.0),
            (0.9, 0.55, 800, 1.0, 7.0),
            (0.9, 0.55, 800, 0.7, 12.0),
            (1.4, 0.85, 1000, 0.8, 9.0),
        ):
            with self.subTest(first=first, share=share):
                oven, heats, end = self.through(first, dry, watts, share, film)
                self.assertIn(end, (Step.STOP_FLAT, Step.STOP_THERE))
                self.assertTrue(12 <= len(heats) <= 60, len(heats))
                self.assertLess(oven.hottest_c, 90)
                self.assertAlmostEqual(oven.mass / (dry * 1.09), 1.0, delta=0.02)

    def test_a_third_of_an_ordinary_bowl_goes_in_twenty_to_forty_five_heats_over_three_to_five_days(self):
        """What practised turners report of 200 mm with a wall of a tenth, by species, ovens of 700 to 1000 W and the room as it is."""
        for key in ("sugar_maple", "yellow_birch", "white_ash", "black_cherry", "black_walnut"):
            species = species_named(key)
            figures, bowl = figures_of(species), Bowl(0.2, 0.09, 0.02)
            dry = figures.wood.density * bowl.volume_m3
            air = constant(20.0, 0.5)
            ran = course(bowl, species, figures, figures.green_moisture, air, Way.SHELF, 120.0)
            for watts in (700, 1000):
                session = Session(
                    watts, dry * (1 + figures.green_moisture), dry, dry * 1.095, 0.02, shelf=shelf_of(ran, constant(20.0, 0.5))
                )
                coming = plan(session)
                with self.subTest(key, watts=watts):
                    self.assertTrue(20 <= coming.heats <= 45, coming)
                    self.assertTrue(3 <= math.ceil(coming.days) <= 5, coming)
                    self.assertTrue(30 <= coming.seconds <= 75, coming)
                    self.assertIsNone(too_much(session, 0.2))

    def test_what_is_foretold_moves_with_how_it_goes(self):
        base = {"watts": 800, "first_kg": 0.9, "dry_kg": 0.55, "rest_kg": 0.6}
        usual = pace(Session(**base))
        slow = Session(**base, heats=tuple(Heat(60, 1.0, 0.9 - 0.002 * k) for k in range(1, 9)))
        fast = Session(**base, heats=tuple(Heat(60, 1.0, 0.9 - 0.02 * k) for k in range(1, 9)))
        self.assertEqual(usual, 1.0)
        self.assertLess(pace(slow), 0.6)
        self.assertGreater(pace(fast), 1.2)
        self.assertGreater(plan(slow).heats, plan(fast).heats)

    def test_rests_dry_too_and_a_longer_one_more(self):
        """From warm wood more leaves than a room takes from cold wood."""
        short, long = (pace(Session(800, 0.9, 0.55, 0.6, heats=(Heat(60, 1.0, 0.88, hours=hours),))) for hours in (0.5, 3.0))
        self.assertGreater(short, long)

    def test_what_does_not_fit_or_takes_weeks_is_refused(self):
        session = Session(800, 0.9, 0.55, 0.6)
        self.assertEqual(too_much(session, 0.35), TooMuch.WIDE)
        self.assertEqual(too_much(Session(800, 0.9, 0.55, 0.6, wall_m=0.05), 0.2), TooMuch.THICK)
        self.assertEqual(too_much(Session(800, 6.0, 3.6, 4.0), 0.28), TooMuch.HEAVY)
        self.assertEqual(too_much(Session(300, 3.2, 1.9, 2.1, wall_m=0.03, level=0.2), 0.28), TooMuch.LONG)

    def test_it_stops_where_the_room_would_bring_it(self):
        self.assertEqual(next_step(Session(800, 0.9, 0.55, 0.6, heats=(Heat(60, 1.0, 0.602),))).step, Step.STOP_THERE)
        self.assertEqual(next_step(Session(800, 0.9, 0.55, 0.6, heats=(Heat(60, 1.0, 0.62),))).step, Step.HEAT)

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
        # What a quarter of a litre takes in of an oven that is tested with a litre is some eight tenths.
        self.assertAlmostEqual(longest_s(session, 0.4), capacity * 45 / (800 * 0.4 * 0.78), delta=4)
        self.assertGreater(longest_s(session, 0.2), longest_s(session, 0.4))

    def test_a_thick_wall_rests_longer(self):
        thin, thick = (rest_minutes(Session(800, 0.6, 0.37, 0.40, wall)) for wall in (0.02, 0.04))
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
