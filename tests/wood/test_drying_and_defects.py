"""How long, by which method; and what goes wrong on the way."""

import unittest
from importlib.resources import files

import numpy as np
from scipy.stats import qmc

from wood.air import climate
from wood.drying import defects, field
from wood.drying.answers import WhyNot, answer
from wood.drying.defects import Defect
from wood.drying.diffusivity import of_species
from wood.drying.methods import CHAMBER, LOG, SHED, SHOP, YARD, setting
from wood.drying.questions import Question, as_slab_of_log_m
from wood.errors import NotKnown, OutOfRange
from wood.species import species_named

SPRING, NOVEMBER = 110, 310


def usual_question(
    key="northern_red_oak", thickness=0.0286, start=None, target=0.20, method=YARD, pattern="four_seasons", day=SPRING, **more
):
    figures = of_species(species_named(key))
    where = {name: more.pop(name) for name in ("wind", "temperature_c", "relative_humidity", "air_speed_m_s") if name in more}
    place = setting(method, climate.pattern(pattern).year.starting(day), **where)
    return Question(figures, thickness, figures.green_moisture if start is None else start, target, place, **more)


class EvenPoints(unittest.TestCase):
    def test_they_are_spread_more_evenly_than_any_chance_would(self):
        # A sequence of Sobol's: of so many points each slice of each measure holds just one, whatever power of two they are cut off at.
        with (files("wood") / "data" / "even_points.npy").open("rb") as kept:
            points = np.load(kept)
        self.assertEqual(points.shape, (512, 5))
        for count in (4, 64, 512):
            for measure in points[:count].T:
                self.assertEqual(sorted((measure * count).astype(int)), list(range(count)))
        self.assertLess(qmc.discrepancy(points), qmc.discrepancy(np.random.default_rng(7).random((512, 5))) / 4)


class HowLong(unittest.TestCase):
    def test_red_oak_in_a_yard_takes_its_published_months_with_the_band_about_the_middle(self):
        result = answer(usual_question())
        self.assertTrue(60 <= result.days <= 200, result.days)
        self.assertTrue(result.low < result.days < result.high)
        self.assertLess(result.high / result.low, 3.0)
        self.assertTrue((result.means_low <= result.history.mean + 1e-3).all())
        self.assertTrue((result.means_high >= result.history.mean - 1e-3).all())

    def test_stacking_before_winter_costs_the_winter(self):
        result = answer(usual_question(pattern="cold_winter"))
        months = np.array(result.month_days)
        self.assertEqual(len(months), 12)
        self.assertGreater(months[9:11].min(), 2.0 * months[3:6].min())
        again = answer(usual_question(pattern="cold_winter", day=int(np.cumsum([31, 28, 31, 30])[-1])))
        self.assertAlmostEqual(again.days, result.month_days[4], delta=0.05 * result.month_days[4])

    def test_the_yard_does_not_reach_indoor_moisture_and_says_why(self):
        result = answer(usual_question(pattern="mild_coast", target=0.08))
        self.assertEqual(result.days, np.inf)
        self.assertEqual(result.why_not, WhyNot.BELOW_EVERY_MONTH)
        self.assertGreater(result.lowest_month_emc, 0.08)

    def test_thick_wood_misses_a_short_season_that_would_be_dry_enough(self):
        result = answer(usual_question("white_oak", 0.10, start=0.16, target=0.092, pattern="four_seasons", method=SHOP), runs=32)
        self.assertTrue(result.days == np.inf or result.days > 120)
        if result.days == np.inf:
            self.assertIn(result.why_not, (WhyNot.BELOW_THE_WOOD, WhyNot.TOO_SLOW))

    def test_methods_stand_in_the_order_that_practice_gives_them(self):
        yard, shed = (answer(usual_question(method=method), runs=32).days for method in (YARD, SHED))
        kiln = answer(usual_question(method=CHAMBER, temperature_c=45, relative_humidity=0.7), runs=32).days
        log = answer(usual_question(thickness=as_slab_of_log_m(0.40), method=LOG, length_m=2.4), runs=32).days
        self.assertTrue(kiln < min(yard, shed) and max(yard, shed) < log, (kiln, yard, shed, log))
        self.assertGreater(log, 730)

    def test_shelter_slows_a_yard_and_a_breeze_hurries_it(self):
        days = [answer(usual_question("yellow_poplar", wind=wind), runs=32).days for wind in ("sheltered", "usual", "breezy")]
        self.assertEqual(days, sorted(days, reverse=True))

    def test_a_short_piece_with_open_ends_is_sooner_and_a_narrow_one_too(self):
        long, short, sealed, square = (
            answer(usual_question(thickness=0.08, start=0.5, **how), runs=32).days
            for how in ({}, {"length_m": 0.3}, {"length_m": 0.3, "ends_open": False}, {"width_m": 0.08})
        )
        self.assertLess(short, 0.85 * long)
        self.assertAlmostEqual(sealed, long, delta=0.01 * long)
        self.assertLess(square, 0.75 * long)

    def test_wood_that_is_there_already_takes_no_time_and_drier_wood_comes_up(self):
        self.assertTrue(answer(usual_question(start=0.2, target=0.2), runs=32).already)
        dry_air = usual_question(start=0.05, target=0.15, method=CHAMBER, temperature_c=60, relative_humidity=0.2)
        self.assertTrue(answer(dry_air, runs=32).already)
        rising = answer(usual_question(start=0.08, target=0.11, method=SHED, pattern="mild_coast"), runs=32)
        self.assertTrue(0 < rising.days < 200)

    def test_starts_and_targets_that_touch_have_answers_by_every_method(self):
        for method in (YARD, SHOP, SHED, LOG):
            for start, target in ((0.6, 0.6), (0.0, 0.0), (0.12, 0.1200001), (0.2, 0.1999999), (0.0, 0.3), (1.2, 1.0)):
                with self.subTest(method=method.key, start=start, target=target):
                    result = answer(usual_question(method=method, start=start, target=target), runs=16)
                    self.assertFalse(np.isnan([result.days, result.low, result.high, *result.month_days]).any())
                    self.assertTrue(result.low <= result.days <= result.high)

    def test_answer_drawing_and_start_months_are_one_member_of_one_set(self):
        # Green oak brought into a heated room in winter arrives just before spring or only a winter later: no two figures may differ.
        for day in range(334, 365, 4):
            result = answer(usual_question("white_oak", target=0.10, method=SHOP, day=day), runs=16)
            with self.subTest(day=day):
                self.assertEqual(result.days, result.history.crossed_day)
                self.assertTrue(np.isfinite(result.days))
                # January's first is the next month that begins: its own days plus the wait never undercut the answer's.
                self.assertLessEqual(result.days, result.month_days[0] + 365 - day + 2)

    def test_the_rule_of_thumb_stands_beside_it(self):
        self.assertAlmostEqual(answer(usual_question(thickness=0.0508), runs=32).rule_of_thumb_days, 730)

    def test_absurd_questions_are_refused_by_name(self):
        for name, values in (
            ("thickness_m", {"thickness": 0.0}),
            ("thickness_m", {"thickness": 20.0}),
            ("start", {"start": 9.0}),
            # A wood that can hold 45% is not begun at 250.
            ("start", {"key": "purpleheart", "start": 2.5}),
            ("target", {"target": -0.1}),
            ("length_m", {"length_m": 0.0}),
        ):
            with self.subTest(name), self.assertRaises(OutOfRange) as caught:
                usual_question(**values)
            self.assertEqual(caught.exception.field, name)
        for humidity in (0.0, 1.0):
            result = answer(usual_question(method=CHAMBER, temperature_c=30, relative_humidity=humidity), runs=16)
            self.assertFalse(np.isnan(result.days))


class WhatGoesWrong(unittest.TestCase):
    def risks(self, key: str, thickness=0.0286, method=YARD, pattern="four_seasons", sealed=False, start=None, **where) -> dict:
        question = usual_question(key, thickness, start, method=method, pattern=pattern, day=150, **where)
        days = np.linspace(0, 1, 160) ** 2 * 90
        days = np.where(days > 2, np.round(days) + 0.625, days)
        ran = field.dry(question.figures.wood, thickness, question.start, question.setting.drive(), 91, out_days=days)
        assessment = defects.assess(
            ran, species_named(key), question.figures, thickness, question.start, question.setting.series, ends_sealed=sealed
        )
        return {risk.kind: risk for risk in assessment}

    def test_species_check_in_the_order_that_practice_gives_them(self):
        order = ["white_oak", "black_cherry", "yellow_poplar", "eastern_white_pine"]
        faces = [self.risks(key, wind="breezy")[Defect.FACE_CHECKS].worst for key in order]
        self.assertGreater(faces[0], faces[1])
        self.assertGreater(faces[1], max(faces[2:]))
        ends = [self.risks(key)[Defect.END_CHECKS].worst for key in order]
        self.assertEqual(ends, sorted(ends, reverse=True))
        harsh = [self.risks(key, method=CHAMBER, temperature_c=43, relative_humidity=0.8)[Defect.FACE_CHECKS].worst for key in order]
        self.assertGreater(harsh[0], 1.0)
        self.assertEqual(harsh.index(max(harsh)), 0)

    def test_pine_and_pale_maple_stain_first(self):
        stain = {key: self.risks(key)[Defect.STAIN].worst for key in ("eastern_white_pine", "sugar_maple", "white_oak", "black_walnut")}
        self.assertGreater(min(stain["eastern_white_pine"], stain["sugar_maple"]), 1.0)
        self.assertGreater(min(stain["eastern_white_pine"], stain["sugar_maple"]), 2 * max(stain["white_oak"], stain["black_walnut"]))

    def test_sealing_takes_most_of_the_end_check_away(self):
        self.assertLess(
            self.risks("white_oak", sealed=True)[Defect.END_CHECKS].worst, 0.2 * self.risks("white_oak")[Defect.END_CHECKS].worst
        )

    def test_heat_on_a_wet_core_honeycombs_oak_and_not_poplar_and_a_yard_never_does(self):
        hot = {"method": CHAMBER, "temperature_c": 60, "relative_humidity": 0.6}
        self.assertGreater(self.risks("white_oak", **hot)[Defect.HONEYCOMB].worst, 1.0)
        self.assertLess(self.risks("yellow_poplar", **hot)[Defect.HONEYCOMB].worst, 0.5)
        self.assertEqual(self.risks("white_oak")[Defect.HONEYCOMB].worst, 0.0)
        self.assertEqual(self.risks("white_oak", start=0.15, **hot)[Defect.HONEYCOMB].worst, 0.0)

    def test_a_cause_says_what_shell_and_core_were_and_when(self):
        risk = self.risks("white_oak", method=CHAMBER, temperature_c=43, relative_humidity=0.5)[Defect.FACE_CHECKS]
        self.assertEqual(risk.level, "high")
        self.assertLess(risk.cause["shell"], 0.2)
        self.assertGreater(risk.cause["core"], 0.6)
        self.assertLess(risk.worst_day, 5)
        self.assertIsNotNone(risk.since_day)

    def test_safe_rates_are_the_published_ones_and_estimates_are_marked(self):
        # AH-188: white oak 2.5 and 1.0% a day, soft maple 13.8 and 5.5.
        for key, quarter, eight in (("white_oak", 0.025, 0.010), ("red_maple", 0.138, 0.055)):
            self.assertAlmostEqual(defects.safe_rate(species_named(key), 0.0286).per_day, quarter, places=4)
            self.assertAlmostEqual(defects.safe_rate(species_named(key), 0.0540).per_day, eight, places=4)
        guess = defects.safe_rate(species_named("european_oak"), 0.0286)
        self.assertFalse(guess.published)
        self.assertTrue(0.015 < guess.per_day < 0.06)
        with self.assertRaises(NotKnown):
            defects.safe_rate(species_named("wenge"), 0.027)
