"""Cuts through a log: what they give is checked by an independent geometry library, never crosses a check or the pith, and by bare
integration.
"""

import math
import random

import numpy as np
from django.test import SimpleTestCase
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely.geometry import LineString, Point, Polygon
from shapely.geometry import box as rectangle

from tests.walks import far
from wood.air.climate import constant, pattern
from wood.drying.diffusivity import of_species as figures_of
from wood.errors import CannotRead, OutOfRange
from wood.species import species_named
from wood.turning.blanks import MARGIN_M, Blank, Cuts, Kind, Plan, Shape, Wanted, profile
from wood.turning.bowls import Rim
from wood.turning.cuts import along_cuts, plans
from wood.turning.logs import Knot, LogEnd, Stroke, Trunk, lost_at_end_m
from wood.turning.squares import squares


def a_log(seed: int, strokes: int = 10, length: float = 0.9) -> LogEnd:
    chance = np.random.default_rng(seed)
    made = []
    for _ in range(strokes):
        angle, bend = chance.uniform(0, 2 * math.pi), chance.uniform(-0.4, 0.4)
        near, far = sorted(chance.uniform(0.01, 0.17, 2))
        points = tuple(
            (0.02 + r * math.cos(angle + bend * s), -0.02 + r * math.sin(angle + bend * s))
            for s, r in ((0, near), (0.5, (near + far) / 2), (1, far))
        )
        made.append(Stroke(points, chance.choice([None, 0.03, 0.06, 0.2, None])))
    return LogEnd(0.46, 0.42, length, 0.02, -0.02, chance.uniform(0, 0.03), tuple(made))


def outline_of(blank: Blank) -> Polygon:
    return Polygon(blank.outline)


class CutsThatHold(SimpleTestCase):
    def check(self, log: LogEnd, plan: Plan, margin: float = MARGIN_M):
        bark, pith = Polygon(log.outline(400)), Point(log.pith_x_m, log.pith_y_m)
        self.assertTrue(plan.blanks)
        for blank in plan.blanks:
            shape = outline_of(blank)
            self.assertTrue(bark.buffer(1e-6).contains(shape), blank)
            self.assertGreater(shape.distance(pith), log.soft_m)
            for number, stroke in enumerate(log.strokes):
                if number not in plan.cut_off:
                    self.assertGreater(shape.distance(LineString(stroke.points)), 0.8 * margin, (number, blank))
                else:
                    self.assertLessEqual(stroke.depth_m, plan.cut_off_m + 1e-9)
            self.assertLessEqual(blank.count * blank.diameter_m, plan.usable_m)
        if len(plan.blanks) == 2:
            self.assertEqual(outline_of(plan.blanks[0]).intersection(outline_of(plan.blanks[1])).area, 0.0)

    @settings(max_examples=far(25, 500), deadline=None)
    @given(st.integers(0, 10_000), st.integers(0, 14), st.sampled_from([Rim.PITH, Rim.BARK]))
    def test_no_plan_crosses_a_check_or_the_pith(self, seed, strokes, rim):
        log = a_log(seed, strokes)
        for plan in plans(log, Wanted(rim=rim)):
            self.check(log, plan, 0.018 if plan.kind is Kind.SAFEST else MARGIN_M)

    @settings(max_examples=far(25, 500), deadline=None)
    @given(st.integers(0, 10_000), st.floats(0, 180), st.floats(0.016, 0.06), st.floats(0.016, 0.06))
    def test_nor_do_cuts_that_somebody_drags(self, seed, angle, upper, lower):
        log = a_log(seed, 6)
        log = LogEnd(log.width_m, log.height_m, log.length_m, log.pith_x_m, log.pith_y_m, 0.0, log.strokes)
        plan = along_cuts(log, Cuts(angle, upper, lower))
        if plan.blanks:
            self.check(log, plan)

    def test_a_sound_log_gives_two_wide_bowls_and_the_quiet_planks_between(self):
        best = plans(LogEnd(0.4, 0.4, 0.45))[0]
        self.assertEqual([blank.count for blank in best.blanks], [1, 1])
        self.assertGreater(min(blank.diameter_m for blank in best.blanks), 0.3)
        self.assertEqual(len(best.planks), 2)
        self.assertTrue(all(plank.width_m > 0.12 for plank in best.planks))

    def test_the_first_cut_goes_through_the_worst_split(self):
        for angle in (20.0, 75.0, 140.0):
            turn = math.radians(angle)
            split = Stroke(tuple((s * 0.19 * math.cos(turn), s * 0.19 * math.sin(turn)) for s in (-1, 0, 1)))
            cut = plans(LogEnd(0.4, 0.4, 0.45, strokes=(split,)))[0].cuts.angle_deg
            off = abs(cut - angle) % 180
            self.assertLess(min(off, 180 - off), 12, angle)

    def test_shallow_checks_are_cut_off_where_that_gives_more(self):
        star = tuple(
            Stroke(((0.03 * math.cos(a), 0.03 * math.sin(a)), (0.19 * math.cos(a), 0.19 * math.sin(a))), 0.03) for a in np.arange(0, 6, 0.5)
        )
        best = plans(LogEnd(0.4, 0.4, 0.6, strokes=star))[0]
        self.assertAlmostEqual(best.cut_off_m, 0.03)
        self.assertGreater(best.largest_m, 0.3)

    def test_a_ruined_log_is_firewood(self):
        star = tuple(
            Stroke(((0.01 * math.cos(a), 0.01 * math.sin(a)), (0.12 * math.cos(a), 0.12 * math.sin(a)))) for a in np.arange(0, 6.28, 0.25)
        )
        log = LogEnd(0.26, 0.26, 0.3, strokes=star)
        self.assertEqual(plans(log), ())
        self.assertEqual(squares(log, 0.05)[1], ())

    def test_more_is_worth_more_and_safer_is_farther_from_checks(self):
        log = a_log(2)
        results = {plan.kind: plan for plan in plans(log)}
        self.assertGreaterEqual(results[Kind.MOST].bowls, results[Kind.LARGEST].bowls)
        self.assertGreater(results[Kind.SAFEST].clear_m, results[Kind.LARGEST].clear_m)
        self.assertGreaterEqual(results[Kind.LARGEST].largest_m, results[Kind.SAFEST].largest_m)

    def test_a_size_insisted_on_is_marked_where_it_holds_a_check(self):
        log = a_log(2)
        plan = along_cuts(log, Cuts(30.0, 0.03, 0.03), Wanted(diameter_m=0.3))
        for blank in plan.blanks:
            hit = {k for k, stroke in enumerate(log.strokes) if outline_of(blank).intersects(LineString(stroke.points))}
            self.assertTrue(hit <= set(blank.crosses))
            self.assertEqual(blank.is_dangerous, bool(blank.crosses))
        self.assertTrue(any(blank.is_dangerous for blank in plan.blanks))

    def test_moving_a_line_towards_the_pith_never_makes_its_bowl_smaller_in_sound_wood(self):
        log = LogEnd(0.4, 0.36, 0.5)
        sizes = [along_cuts(log, Cuts(0.0, upper, 0.03)).blanks[0].volume_m3 for upper in (0.09, 0.06, 0.03)]
        self.assertEqual(sizes, sorted(sizes))

    def test_the_largest_of_each_shape_against_bare_geometry(self):
        log = LogEnd(0.4, 0.4, 1.0)
        cuts, r, off = Cuts(0.0, 0.02, 0.02), 0.196, 0.02
        self.assertAlmostEqual(along_cuts(log, cuts, Wanted(shape=Shape.SPHERE)).blanks[0].diameter_m, r - off, delta=0.002)
        # A cylinder H = h·D on a chord: (D/2)² + (off + hD)² = r².
        cylinder = along_cuts(log, cuts, Wanted(shape=Shape.CYLINDER)).blanks[0]
        self.assertAlmostEqual(math.hypot(cylinder.diameter_m / 2, off + cylinder.height_m), r, delta=0.002)
        hemisphere = along_cuts(log, cuts, Wanted(shape=Shape.HEMISPHERE)).blanks[0]
        self.assertAlmostEqual(off + hemisphere.diameter_m / 2, r, delta=0.002)

    def test_volumes_of_blanks_are_those_of_bare_integration(self):
        for blank in plans(a_log(5))[0].blanks:
            grid = (np.arange(400) + 0.5) / 400 - 0.5
            x, y = np.meshgrid(grid, grid)
            area = float(np.mean(np.hypot(x, y) <= 0.5)) * blank.diameter_m**2
            self.assertAlmostEqual(blank.count * area * blank.height_m / blank.volume_m3, 1.0, delta=0.005)

    def test_a_natural_edge_has_its_rim_at_the_bark(self):
        for blank in plans(LogEnd(0.4, 0.4, 0.45), Wanted(rim=Rim.BARK))[0].blanks:
            shape = profile(Shape.BOWL, 0.4, Rim.BARK)
            self.assertLess(np.ptp(shape[shape[:, 1] == 0, 0]), 0.7)
            self.assertIs(blank.rim, Rim.BARK)

    def test_squares_hold_no_pith_no_check_and_do_not_overlap(self):
        for seed in range(4):
            log = a_log(seed, 5)
            angle, result = squares(log, 0.055)
            turn = math.radians(angle)
            made = []
            for square in result:
                u, v = square.x_m * math.cos(turn) + square.y_m * math.sin(turn), -square.x_m * math.sin(turn) + square.y_m * math.cos(turn)
                made.append(rectangle(u - 0.0275, v - 0.0275, u + 0.0275, v + 0.0275))
            lines = [
                LineString([(x * math.cos(turn) + y * math.sin(turn), -x * math.sin(turn) + y * math.cos(turn)) for x, y in stroke.points])
                for stroke in log.strokes
            ]
            for position, item in enumerate(made):
                self.assertTrue(all(item.distance(line) > 0.8 * MARGIN_M for line in lines))
                self.assertTrue(all(item.intersection(other).area < 1e-12 for other in made[:position]))

    def test_a_knot_is_gone_round(self):
        log = LogEnd(0.4, 0.4, 0.45, knots=(Knot(0.0, 0.1, 0.02),))
        for blank in plans(log)[0].blanks:
            self.assertGreater(outline_of(blank).distance(Point(0.0, 0.1)), 0.02)


class TheLogAsItLies(SimpleTestCase):
    def test_what_cannot_be_is_refused(self):
        for wrong in (
            {"pith_x_m": 0.3},
            {"width_m": 0.0},
            {"length_m": math.nan},
            {"soft_m": 0.3},
            {"strokes": (Stroke(((0.0, 0.0), (0.9, 0.0))),)},
            {"strokes": (Stroke(((0.0, 0.0), (0.1, 0.0)), 2.0),)},
        ):
            with self.assertRaises(OutOfRange, msg=wrong):
                LogEnd(**{"width_m": 0.4, "height_m": 0.4, "length_m": 0.5, **wrong})
        with self.assertRaises(CannotRead):
            LogEnd(0.4, 0.4, 0.5, strokes=(Stroke(((0.0, 0.0),)),))

    def test_an_open_end_is_lost_deeper_with_time_and_a_sealed_one_hardly(self):
        figures, air = figures_of(species_named("black_cherry")), constant(15, 0.65, 1.0)
        lost = [lost_at_end_m(figures, 0.58, days, air, sealed=False) for days in (0, 14, 60, 240)]
        self.assertEqual(lost, sorted(lost))
        self.assertEqual(lost[0], 0.0)
        self.assertTrue(0.02 < lost[2] < 0.25, lost)
        self.assertLess(lost_at_end_m(figures, 0.58, 240, air, sealed=True), 0.25 * lost[3])


class MoreChecksNeverGiveMore(SimpleTestCase):
    def best(self, log: LogEnd) -> tuple[int, float]:
        """The most bowls that any plan gives, and the widest."""
        found = plans(log)
        return max((plan.bowls for plan in found), default=0), max((plan.largest_m for plan in found), default=0.0)

    def test_check_after_check_neither_more_nor_larger_blanks(self):
        """Random logs, each with one check more than before; bowls within a twenty-fifth of its width count as equally wide."""
        chance = random.Random(11)
        for number in range(6):
            width = chance.uniform(0.2, 0.6)
            sizes = {"width_m": width, "height_m": width * chance.uniform(0.85, 1.0), "length_m": chance.uniform(0.3, 1.2)}
            strokes: list[Stroke] = []
            before = self.best(LogEnd(**sizes, both_ends=number % 2 == 0))
            for _ in range(4):
                angle, begin, end = chance.uniform(0, 2 * math.pi), chance.uniform(0, 0.5), chance.uniform(0.5, 0.95)
                way = np.array([sizes["width_m"], sizes["height_m"]]) / 2 * [math.cos(angle), math.sin(angle)]
                depth = None if chance.random() < 0.5 else chance.uniform(0.01, 0.2 * sizes["length_m"])
                strokes.append(Stroke((tuple(begin * way), tuple(end * way)), depth))
                now = self.best(LogEnd(**sizes, both_ends=number % 2 == 0, strokes=tuple(strokes)))
                with self.subTest(number, checks=len(strokes)):
                    self.assertLessEqual(now[0], before[0])
                    self.assertLessEqual(now[1], before[1] + 0.04 * width)
                before = now

    def test_a_clean_log_is_crosscut_too(self):
        """Eighteen by thirty-six inches of cherry: a split one was said to give eight, the clean one four."""
        inch = 0.0254
        sizes = {"width_m": 18 * inch, "height_m": 18 * inch, "length_m": 36 * inch}
        clean = self.best(LogEnd(**sizes))
        across = Stroke(((0.0, -8.5 * inch), (0.0, 8.5 * inch)))
        self.assertGreaterEqual(clean, self.best(LogEnd(**sizes, strokes=(across,))))
        self.assertGreaterEqual(clean[0], 8)


class OtherLogs(SimpleTestCase):
    def test_checks_in_one_end_cost_that_end_alone(self):
        star = tuple(Stroke(((0.0, 0.02 * side), (0.0, 0.18 * side)), 0.06) for side in (1, -1))
        both, one = (plans(LogEnd(0.4, 0.4, 0.6, strokes=star, both_ends=ends)) for ends in (True, False))
        cut_back = [next((plan for plan in found if plan.cut_off_m > 0.05), None) for found in (both, one)]
        for plan, usable in zip(cut_back, (0.48, 0.54), strict=True):
            if plan is not None:
                self.assertAlmostEqual(plan.usable_m, usable, places=6)
        self.assertGreaterEqual(max(plan.usable_m for plan in one), max(plan.usable_m for plan in both))

    def test_a_crotch_is_cut_through_both_its_piths(self):
        log = LogEnd(0.42, 0.36, 0.5, pith_x_m=-0.05, trunk=Trunk.CROTCH, second_x_m=0.08, second_y_m=0.03)
        for plan in plans(log):
            self.assertAlmostEqual(plan.cuts.angle_deg, log.crotch_deg, places=6)
            for blank in plan.blanks:
                for pith in log.piths:
                    inside = all(
                        np.cross(other - corner, np.array(pith) - corner) * (1 if blank.upper else -1) > 0
                        for corner, other in zip(blank.outline, np.roll(blank.outline, -1, axis=0), strict=True)
                    )
                    self.assertFalse(inside)
        with self.assertRaises(OutOfRange):
            LogEnd(0.4, 0.4, 0.5, trunk=Trunk.CROTCH)

    def test_a_burl_gives_a_bowl_above_its_flat_and_none_below(self):
        log = LogEnd(0.4, 0.36, 0.4, trunk=Trunk.BURL)
        for plan in plans(log):
            self.assertTrue(plan.blanks)
            for blank in plan.blanks:
                self.assertTrue(blank.upper)
                self.assertGreaterEqual(float(blank.outline[:, 1].min()), -1e-9)
        self.assertAlmostEqual(log.volume_m3, math.pi / 8 * 0.4 * 0.36 * 0.4)

    def test_where_the_pith_lies_off_centre_rings_can_lie_alike_on_both_sides(self):
        balanced = next(plan for plan in plans(LogEnd(0.45, 0.45, 0.6, pith_x_m=0.06, pith_y_m=0.02)) if plan.kind is Kind.BALANCED)
        for blank in balanced.blanks:
            self.assertAlmostEqual(blank.aside_m, 0.0, delta=0.02)
        self.assertFalse(any(plan.kind is Kind.BALANCED for plan in plans(LogEnd(0.45, 0.45, 0.6))))

    def test_what_is_left_beside_bowls_gives_squares_and_no_more_wood_than_the_log_has(self):
        for seed in range(4):
            log = LogEnd(0.3 + 0.06 * seed, 0.3 + 0.05 * seed, 0.4 + 0.1 * seed)
            for plan in plans(log):
                self.assertLess(sum(plan.volumes_m3), log.volume_m3)
                turn = math.radians(plan.cuts.angle_deg)
                half = plan.side_m / 2
                for square in plan.squares:
                    u, v = half * np.array([math.cos(turn), math.sin(turn)]), half * np.array([-math.sin(turn), math.cos(turn)])
                    corners = [np.array([square.x_m, square.y_m]) + a * u + b * v for a, b in ((-1, -1), (1, -1), (1, 1), (-1, 1))]
                    self.assertTrue(all(log.holds(*corner) for corner in corners))
                    for blank in plan.blanks:
                        self.assertTrue(Polygon(corners).disjoint(Polygon(blank.outline)))

    def test_open_ends_check_within_the_first_week(self):
        """Benches: within a week in cherry, an inch of it in a month or two, in any season."""
        cherry = figures_of(species_named("black_cherry"))
        for day in (152.0, 335.0):
            air = pattern("four_seasons").year.starting(day)
            week, two_months = (lost_at_end_m(cherry, 0.58, days, air, sealed=False) for days in (7, 60))
            self.assertGreater(week, 0.004)
            self.assertTrue(0.018 < two_months < 0.07, two_months)
