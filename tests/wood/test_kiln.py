"""The kiln: schedules, chambers, loads, stress, sharing, heat, samples, against published figures, balances and what practice says."""

import math
import unittest
from dataclasses import replace

import numpy as np

from wood.air.climate import constant, pattern
from wood.air.psychrometrics import saturation_concentration
from wood.drying import field
from wood.drying.defects import Defect
from wood.drying.diffusivity import of_species
from wood.errors import NotKnown, OutOfRange
from wood.kiln import chambers, finish, heat, loads, plans, programs, samples, sharing, stress
from wood.kiln.chamber_kernel import saturation
from wood.kiln.chambers import Kind
from wood.kiln.finish import Ending
from wood.kiln.programs import Care, Phase
from wood.kiln.samples import Doubt, Sample
from wood.kiln.schedules import steps
from wood.kiln.sharing import Lot, Verdict
from wood.kiln.stress import Prongs
from wood.species import species_named
from wood.stacks.air import Stack
from wood.tables import rows
from wood.units import to_fahrenheit

SPRING = pattern("four_seasons").year.starting(105)
KILN, DRIER = chambers.usual(Kind.VENTED, 5.0), chambers.usual(Kind.DEHUMIDIFIER, 5.0)
FOUR_QUARTER = 0.0286


def lot(key: str, thickness_m: float = FOUR_QUARTER, start: float | None = None) -> Lot:
    species = species_named(key)
    return Lot(key, species, thickness_m, of_species(species).green_moisture if start is None else start, 5.0)


def planned(key: str, wanted: float = 0.08, chamber=KILN, **more) -> plans.Planned:
    return plans.plan([lot(key)], wanted, chamber, SPRING, **more)


class Schedules(unittest.TestCase):
    # Dry and wet bulb, °F, at each step as AH-188 prints them; wet bulbs below 90°F are not asked for.
    PRINTED = {
        "northern_red_oak": ("T4-D2", [(110, 106), (110, 105), (110, 102), (110, 96), (120, 90), (130, 90), (140, 90), (180, 130)]),
        "white_oak": ("T4-C2", [(110, 106), (110, 105), (110, 102), (120, 106), (130, 100), (140, 90), (180, 130)]),
        "sugar_maple": ("T8-C3", [(130, 125), (130, 123), (130, 119), (140, 121), (150, 115), (160, 110), (180, 130)]),
        "yellow_poplar": ("T11-D4", [(150, 143), (150, 140), (150, 135), (150, 125), (160, 120), (160, 110), (170, 120), (180, 130)]),
        "black_walnut": ("T6-D4", [(120, 113), (120, 110), (120, 105), (120, 95), (130, 90), (140, 90), (150, 100), (180, 130)]),
        "white_ash": ("T8-B4", [(130, 123), (130, 120), (140, 125), (150, 125), (160, 120), (180, 130)]),
        "american_beech": ("T8-C2", [(130, 126), (130, 125), (130, 122), (140, 126), (150, 120), (160, 110), (180, 130)]),
        "american_basswood": (
            "T12-E7",
            [(160, 140), (160, 130), (160, 120), (160, 110), (160, 110), (170, 120), (170, 120), (180, 130), (180, 130)],
        ),
        "black_cherry": ("T8-B4", [(130, 123), (130, 120), (140, 125), (150, 125), (160, 120), (180, 130)]),
        "red_maple": ("T8-D4", [(130, 123), (130, 120), (130, 115), (130, 105), (140, 100), (150, 100), (160, 110), (180, 130)]),
    }

    def test_ten_species_have_their_printed_steps(self):
        for key, (code, expected) in self.PRINTED.items():
            result, relative = programs.schedule_of(species_named(key), FOUR_QUARTER)
            self.assertEqual((result, relative), (code, ""))
            made = [(round(to_fahrenheit(step.dry_bulb_c)), round(to_fahrenheit(step.wet_bulb_c))) for step in steps(code)]
            self.assertEqual([dry for dry, _ in made], [dry for dry, _ in expected], key)
            for (_, wet), (_, printed) in zip(made, expected, strict=True):
                self.assertLessEqual(abs(wet - printed), 1, (key, made))

    def test_a_relative_lends_its_schedule_and_is_named(self):
        code, whose = programs.schedule_of(species_named("european_beech"), FOUR_QUARTER)
        self.assertEqual((code, whose), ("T8-C2", "american_beech"))
        with self.assertRaises(NotKnown):
            programs.schedule_of(species_named("wenge"), FOUR_QUARTER)

    def test_care_is_a_depression_softer_or_harsher_and_a_cooler_chamber_keeps_the_emc(self):
        days = [planned("sugar_maple", care=care).ran.days for care in (Care.GENTLE, Care.USUAL, Care.FAST)]
        self.assertGreater(days[0], days[1])
        self.assertGreater(days[1], days[2])
        published, cooler = (planned("yellow_poplar", chamber=chamber).program for chamber in (KILN, DRIER))
        self.assertTrue(cooler.cooler and not published.cooler)
        for item, other in zip(published.drying, cooler.drying, strict=False):
            self.assertLessEqual(other.dry_bulb_c, DRIER.hottest_c)
            self.assertAlmostEqual(item.emc, other.emc, delta=0.003)

    def test_equalising_and_conditioning_follow_the_rule(self):
        program = planned("sugar_maple", 0.07).program
        even, condition = program.settings[-2:]
        self.assertEqual((even.kind, condition.kind), (Phase.EQUALISING, Phase.CONDITIONING))
        self.assertAlmostEqual(even.emc, 0.05, places=3)
        self.assertAlmostEqual(condition.emc, 0.11, places=3)
        self.assertAlmostEqual(program.driest_begins, 0.05)
        self.assertFalse(planned("sugar_maple", 0.07, DRIER).program.has(Phase.CONDITIONING))
        pine = planned("eastern_white_pine", 0.10).program.settings[-1]
        self.assertAlmostEqual(pine.emc, 0.13, places=3)
        self.assertLess(pine.hours, 6)

    def test_air_dried_wood_is_warmed_and_begins_at_its_own_step(self):
        ran = plans.plan([lot("northern_red_oak", start=0.22)], 0.08, KILN, SPRING).ran
        self.assertIs(ran.program.settings[0].kind, Phase.WARMING)
        at = [number for number, days in enumerate(ran.step_days()) if days > 0]
        self.assertEqual(at[0], 0)
        self.assertGreater(ran.program.settings[at[1]].dry_bulb_c, 48)
        self.assertLess(ran.days, 12)


class Chambers(unittest.TestCase):
    def test_a_small_dehumidifier_takes_as_long_as_practice_says(self):
        # 22 litres a day for a cubic metre in air of 38°C and 60%, 50°C at most.
        white, red, pine = (
            planned(key, wanted, DRIER).ran
            for key, wanted in (("white_oak", 0.08), ("northern_red_oak", 0.08), ("eastern_white_pine", 0.10))
        )
        self.assertTrue(35 <= white.days <= 45, white.days)
        self.assertTrue(white.days - 15 < red.days < white.days - 4, red.days)
        self.assertTrue(16 <= pine.days <= 24, pine.days)
        for ran in (white, red, pine):
            self.assertTrue(0.3 <= ran.kwh_a_kg <= 0.8, ran.kwh_a_kg)
            self.assertLessEqual(ran.temperature_c.max(), 50.01)

    def test_a_vented_kiln_takes_the_published_energy(self):
        for key in ("northern_red_oak", "sugar_maple", "yellow_poplar"):
            self.assertTrue(1.0 <= planned(key).ran.kwh_a_kg <= 1.9, key)

    def test_published_kiln_periods_are_met_within_a_tenth(self):
        inside = close = 0
        table = list(rows("kiln_days"))
        for row in table:
            days = planned(row["key"], 0.07).ran.days
            low, high = row.number("days_low"), row.number("days_high")
            inside += low <= days <= high
            close += 0.9 * low <= days <= 1.1 * high
        # The dense ones come out slow, as they do on every route (docs/science.md).
        self.assertGreaterEqual(inside, 12)
        self.assertGreaterEqual(close, 16)
        self.assertEqual(len(table), 20)

    def test_a_weak_compressor_holds_pine_up_and_its_air_stays_damper_than_set(self):
        weak = replace(DRIER, litres_a_day=DRIER.litres_a_day / 3, compressor_kw=DRIER.compressor_kw / 3)
        strong, held_up = (planned("eastern_white_pine", 0.10, chamber).ran for chamber in (DRIER, weak))
        self.assertGreater(held_up.days, strong.days + 4)
        wet = slice(60, 150)
        self.assertGreater(held_up.humidity[wet].mean(), strong.humidity[wet].mean() + 0.01)
        taken = held_up.by_day(held_up.water_kg_h[:, 1])
        # What it takes grows with the damp of its air, never beyond what air at the limit gives it.
        self.assertLess(taken.max(), 3 * weak.litres_a_day)

    def test_water_and_heat_balance(self):
        for chamber in (KILN, DRIER, chambers.usual(Kind.BOX, 2.0)):
            ran = planned("sugar_maple", 0.08, chamber).ran
            given, taken, sprayed, out = ran.water_kg_h.sum(axis=0)
            self.assertLess(abs(ran.imbalance), 1e-6)
            self.assertLess(ran.disagreed, 1e-5)
            self.assertAlmostEqual((given + sprayed) / (taken + out), 1.0, delta=1e-5)
            lost = ran.dry_mass_kg * (ran.boards[0].start * 0 + np.mean([board.start for board in ran.boards]) - ran.mean[-1])
            self.assertAlmostEqual(given / lost, 1.0, delta=1e-6)

    def test_compiled_saturation_is_that_of_the_core(self):
        for t in (-15.0, 0.5, 20.0, 82.0):
            self.assertAlmostEqual(saturation(t) / float(saturation_concentration(t)), 1.0, places=5)

    def test_one_board_in_air_that_is_held_dries_as_the_field_has_it(self):
        oak = of_species(species_named("northern_red_oak")).wood
        air = constant(45.0, 0.6, 1.8)
        alone = field.dry(oak, FOUR_QUARTER, 0.5, field.driven(air, Stack(1.0, 1.5, 0.019, forced=True)), 20, out_days=[5, 10, 20])
        board = replace(loads.boards("a", species_named("northern_red_oak"), FOUR_QUARTER, 0.5, count=1)[0])
        hours = np.full((2, 24 * 20), 1.0)
        program = programs.Program((programs.Setting(Phase.DRYING, 0.05, 45.0, 0.6),), 0.05, "", "", False, -1.0, 0.05)
        ran = loads.run([board], program, KILN, SPRING, imposed=loads.Imposed(45.0 * hours, 0.6 * hours), days=20, wood_c=45.0)
        np.testing.assert_allclose(ran.means[0, [119, 239, 479]], alone.mean, rtol=0.015)

    def test_what_cannot_be_is_refused(self):
        for wrong in ({"hottest_c": 200.0}, {"load_m3": 0.0}, {"air_speed_m_s": math.nan}, {"litres_a_day": -1.0}):
            with self.assertRaises(OutOfRange):
                replace(KILN, **wrong)
        with self.assertRaises(OutOfRange):
            chambers.limited(DRIER, 93.0)
        with self.assertRaises(OutOfRange):
            planned("white_oak", 0.50)


class Stress(unittest.TestCase):
    def test_stresses_sum_to_nothing_at_every_hour(self):
        ran = planned("white_oak").ran
        dx = field.grid(FOUR_QUARTER / 2)
        self.assertLess(np.abs(ran.stresses @ dx / dx.sum()).max(), 1e-12)

    def test_the_skin_is_stretched_first_and_pressed_in_the_end(self):
        ran = planned("northern_red_oak", condition=False).ran
        shell, core = ran.shell_and_core(4)
        at = ran.kept_hours
        self.assertGreater(shell[at < 240].max(), 0.2)
        turned = next(k for k in range(at.size) if at[k] > 240 and shell[k] < 0)
        # McMillen: about when the mean is near 30% in stock of 25 to 50 mm.
        self.assertTrue(0.18 < ran.means[4, at[turned]] < 0.34)
        self.assertGreater(core[-1], 0)

    def test_prongs_pinch_unconditioned_and_stand_straight_conditioned(self):
        bare, good = (planned("northern_red_oak", 0.07, condition=condition).ran for condition in (False, True))
        self.assertTrue(all(bare.prongs(board).later > 0.5 for board in range(8)))
        self.assertIs(bare.prongs(0).reading, Prongs.TOUCH)
        leans = [good.prongs(board) for board in range(8)]
        self.assertGreaterEqual(sum(lean.reading is Prongs.STRAIGHT for lean in leans), 5)
        self.assertLess(abs(np.mean([lean.later for lean in leans])), 0.2)
        self.assertFalse(any(lean.reading is Prongs.TOUCH for lean in leans))

    def conditioned(self, **changes) -> float:
        """The mean lean after a day, conditioned otherwise than by the rule."""
        program = planned("northern_red_oak", 0.07).program
        last = replace(program.settings[-1], **changes)
        ran = loads.run(
            sharing.boards_of([lot("northern_red_oak")]), replace(program, settings=(*program.settings[:-1], last)), KILN, SPRING
        )
        return float(np.mean([ran.prongs(board).later for board in range(8)]))

    def test_it_cannot_be_conditioned_well_at_43_degrees_and_can_be_overdone(self):
        usual = self.conditioned()
        self.assertGreater(self.conditioned(dry_bulb_c=43.3, humidity=programs.held_at(43.3, 0.11)), usual + 0.25)
        self.assertLess(self.conditioned(humidity=programs.held_at(77.0, 0.15)), usual - 0.4)
        self.assertIs(stress.lean(-0.6), Prongs.OUT)

    def test_white_oak_run_as_if_it_were_pine_checks_and_honeycombs(self):
        boards = sharing.boards_of([lot("white_oak")])
        pine = programs.program(species_named("white_oak"), FOUR_QUARTER, 0.72, 0.08, KILN, code="T11-C5")
        harsh = plans.Planned((lot("white_oak"),), loads.run(boards, pine, KILN, SPRING), 0.0, 0.0)
        worst = {risk.kind: risk.worst for _, risk in harsh.risks}
        usual = {risk.kind: risk.worst for _, risk in planned("white_oak").risks}
        for defect in (Defect.FACE_CHECKS, Defect.HONEYCOMB):
            self.assertGreater(worst[defect], 1.0)
            self.assertGreater(worst[defect], usual[defect])


class Overdried(unittest.TestCase):
    """Wood drier than is wanted takes water up again."""

    def moistened(self, start: float, wanted: float, thickness_m: float = FOUR_QUARTER, chamber=KILN) -> plans.Planned:
        oak = replace(lot("northern_red_oak"), start=start, thickness_m=thickness_m)
        return plans.plan([oak], wanted, chamber, SPRING)

    def test_it_comes_to_what_is_wanted_and_takes_up_that_much_water(self):
        for start, wanted, thickness_m in ((0.04, 0.08, FOUR_QUARTER), (0.06, 0.09, 2 * FOUR_QUARTER), (0.05, 0.06, FOUR_QUARTER)):
            run = self.moistened(start, wanted, thickness_m)
            with self.subTest(start=start):
                self.assertEqual([setting.kind for setting in run.program.settings], [Phase.MOISTENING])
                self.assertAlmostEqual(float(run.ran.mean[-1]), wanted, delta=0.006)
                # Eight boards about the middle: the dry wood of the load times what it gained.
                dry_kg = 1000 * species_named("northern_red_oak").basic_specific_gravity * run.volume_m3
                gained = float(run.ran.mean[-1]) - start
                self.assertLess(run.ran.water_kg, 0.0)
                self.assertAlmostEqual(-run.ran.water_kg / (dry_kg * gained), 1.0, delta=0.25)
                self.assertLess(abs(run.ran.imbalance), 1.0)

    def test_thicker_boards_take_longer_by_more_than_their_thickness(self):
        thin, thick = (self.moistened(0.05, 0.08, thickness_m).ran.days for thickness_m in (FOUR_QUARTER, 2 * FOUR_QUARTER))
        self.assertGreater(thick, 2.0 * thin)

    def test_a_chamber_that_only_dries_says_so(self):
        with self.assertRaises(NotKnown):
            self.moistened(0.04, 0.08, chamber=replace(KILN, spray_kg_h=0.0))

    def test_what_is_there_already_is_no_moistening(self):
        run = self.moistened(0.082, 0.08)
        self.assertNotIn(Phase.MOISTENING, [setting.kind for setting in run.program.settings])


class Sharing(unittest.TestCase):
    def test_practice_comes_out_of_the_figures(self):
        for pair, expected in (
            (("eastern_white_pine", "yellow_poplar"), Verdict.TOGETHER),
            (("black_cherry", "sugar_maple"), Verdict.TOGETHER),
            (("black_cherry", "red_maple"), Verdict.TOGETHER),
            (("northern_red_oak", "sugar_maple"), Verdict.APART),
            (("white_oak", "black_cherry"), Verdict.APART),
            (("eastern_white_pine", "white_oak"), Verdict.APART),
        ):
            self.assertIs(sharing.together([lot(key) for key in pair], 0.07, KILN, SPRING).verdict, expected, pair)
        oaks = sharing.together([lot("northern_red_oak"), lot("white_oak")], 0.07, KILN, SPRING)
        self.assertIs(oaks.verdict, Verdict.AT_A_PRICE)
        self.assertEqual(oaks.leads, 1)

    def test_dry_boards_are_made_wetter_by_green_ones(self):
        result = sharing.together([lot("northern_red_oak", start=0.10), lot("white_oak")], 0.07, KILN, SPRING)
        self.assertGreater(result.shares[0].rewetted, 0.03)
        self.assertIs(result.verdict, Verdict.APART)


class Heat(unittest.TestCase):
    def test_the_derived_times_of_the_series_are_repeated(self):
        for inches, warm, minutes in (
            ((1, 6), 71.1, 10),
            ((1.5, 6), 71.1, 22),
            ((2, 6), 71.1, 38),
            ((3, 3), 71.1, 50),
            ((4, 4), 71.1, 89),
            ((6, 6), 71.1, 201),
            ((12, 12), 71.1, 804),
            ((8, 8), 82.2, 283),
        ):
            result = heat.minutes_to_core(inches[0] * 0.0254, inches[1] * 0.0254, 15.6, warm, 56.0, film=False)
            self.assertAlmostEqual(result / minutes, 1.0, delta=0.05, msg=str(inches))

    def test_wet_wood_hangs_at_the_wet_bulb_and_ice_takes_longer(self):
        aim = heat.AIMS["packing"]
        self.assertFalse(heat.treated(aim, 0.05, 0.2, 15.0, 70.0, 50.0, 0.6).is_reached)
        self.assertTrue(heat.treated(aim, 0.05, 0.2, 15.0, 70.0, 50.0, 0.10).is_reached)
        frozen, cold = (heat.minutes_to_core(0.05, 0.2, start, 70.0, 56.0, 0.8) for start in (-1.0, 0.5))
        self.assertGreater(frozen, 1.1 * cold)
        # A dehumidifier kiln of 50°C never gets there.
        self.assertFalse(heat.treated(aim, FOUR_QUARTER, 0.2, 15.0, 50.0, 45.0, 0.08).is_reached)

    def test_beetles_go_by_their_table(self):
        np.testing.assert_allclose([heat.powderpost_hours(0.0254 * inches, 60.0) for inches in (1, 1.5, 2, 3)], [3, 4, 5, 7])
        self.assertEqual(heat.powderpost_hours(0.0508, 54.4), 12)
        self.assertIsNone(heat.powderpost_hours(0.1, 60.0))


class Finish(unittest.TestCase):
    def test_core_shell_and_mean_each_keep_a_load_in(self):
        for shell, core, wanted, what in (
            (0.078, 0.084, 0.08, Ending.DONE),
            (0.07, 0.09, 0.08, Ending.CORE_WET),
            (0.10, 0.08, 0.08, Ending.SHELL_WET),
            (0.10, 0.13, 0.08, Ending.WET),
            (0.05, 0.055, 0.08, Ending.DRY),
            (0.095, 0.10, 0.08, Ending.DONE),
        ):
            self.assertIs(finish.ended(shell, core, wanted).ending, what, (shell, core))
        # A mean in between is told by the profile, nearer the core; one that was read counts, but not where it cannot lie.
        self.assertTrue(0.08 < finish.ended(0.07, 0.09, 0.08).mean < 0.084)
        self.assertIs(finish.ended(0.07, 0.09, 0.06, mean=0.081).ending, Ending.WET)
        for wrong in ({"mean": 0.14}, {"shell": 0.9}, {"wanted": 0.3}):
            with self.assertRaises(OutOfRange):
                finish.ended(**({"shell": 0.07, "core": 0.09, "wanted": 0.08} | wrong))

    def test_loads_of_the_model_are_told_as_they_are(self):
        results = {}
        for evened, conditioned in ((False, False), (True, False), (True, True)):
            ran = planned("sugar_maple", equalise=evened, condition=conditioned).ran
            ends = [finish.ended(shell, core, 0.08) for shell, core in zip(ran.shells[:, -1], ran.cores[:, -1], strict=True)]
            # The mean told from shell and core is what the board holds.
            np.testing.assert_allclose([end.mean for end in ends], ran.means[:, -1], atol=0.003)
            results[evened, conditioned] = [end.ending for end in ends]
        self.assertNotIn(Ending.DONE, results[False, False])
        self.assertIs(results[False, False][0], Ending.CORE_WET)
        self.assertGreaterEqual(results[True, False].count(Ending.DONE), 4)
        # Fresh from the damp its skin is the wetter.
        self.assertEqual(set(results[True, True]), {Ending.SHELL_WET})


class Samples(unittest.TestCase):
    def sample(self, tag: str, *masses: float, dry: float = 1.0) -> Sample:
        return Sample(tag, dry, tuple((float(day), mass) for day, mass in enumerate(masses)))

    def test_sections_tell_the_ovendry_mass_and_the_wettest_half_drives(self):
        self.assertAlmostEqual(samples.from_sections([(0.18, 0.10), (0.172, 0.10)]), 0.76)
        with self.assertRaises(OutOfRange):
            samples.from_sections([(0.18, 0.10), (0.13, 0.10)])
        result = samples.load([self.sample(tag, mass + 0.03, mass) for tag, mass in zip("abcd", (1.5, 1.4, 1.3, 1.2), strict=True)])
        self.assertAlmostEqual(result.wettest_half, 0.45)
        self.assertEqual((round(result.wettest, 3), round(result.driest, 3), result.doubts), (0.5, 0.2, {}))

    def test_what_cannot_be_right_is_named_and_does_not_drive(self):
        usual = [self.sample(tag, 1.60, 1.57, 1.54) for tag in "abc"]
        self.assertIs(samples.load([*usual, self.sample("d", 1.5, 1.2, 0.95)]).doubts["d"], Doubt.LIGHTER)
        self.assertIs(samples.load([*usual, self.sample("d", 1.60, 1.57, 1.72)]).doubts["d"], Doubt.GAINED)
        self.assertIs(samples.load([*usual, self.sample("d", 1.60, 1.57, 1.20)]).doubts["d"], Doubt.OUT_OF_LINE)
        self.assertIs(samples.load([*usual, self.sample("d", 1.60, 1.57)]).doubts["d"], Doubt.MISSING)
        swapped = [self.sample("d", 2.40, 2.36, 1.78, dry=1.5), self.sample("e", 1.86, 1.82, 2.32, dry=1.2)]
        self.assertEqual(samples.load([*usual, *swapped]).doubts, {"d": Doubt.SWAPPED, "e": Doubt.SWAPPED})
        self.assertAlmostEqual(samples.load([*usual, self.sample("d", 1.60, 1.57, 1.20)]).wettest_half, 0.54)
        self.assertIsNone(samples.load([self.sample("a")]))
