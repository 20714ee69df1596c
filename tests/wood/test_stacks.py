"""Stacks: the published spacing, piles counted by hand, weights by hand, rules that are broken, air by place, and what to saw."""

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.walks import far
from wood.air.climate import constant, pattern
from wood.drying import field
from wood.drying.diffusivity import of_species
from wood.errors import OutOfRange
from wood.movement import shrinkage
from wood.species import species_named
from wood.stacks import breaches, saw_thickness
from wood.stacks.air import Stack, through
from wood.stacks.breaches import Breach
from wood.stacks.by_place import dry_by_place
from wood.stacks.pile import BOLSTER_M, EDGE_GAP_M, Load, mass_of, pile, shares
from wood.stacks.stickers import AT_THE_END_M, lines, usual
from wood.units import FOOT_M, INCH_M

OAK, PINE, MAPLE, ELM = (species_named(key) for key in ("white_oak", "eastern_white_pine", "sugar_maple", "american_elm"))


def load(species=OAK, thickness_m=0.0286, width_m=0.2, length_m=2.44, count=60, moisture=0.8) -> Load:
    return Load("a lot", species, thickness_m, width_m, length_m, count, moisture)


def built(*loads: Load, width_m: float = 1.2, **more):
    main = loads[0]
    return pile(loads, width_m, usual(main.species, main.thickness_m, main.moisture), **more)


class Stickers(unittest.TestCase):
    def test_the_published_table_of_spacing_is_repeated_by_the_rules(self):
        # AH-188, GTR-118, AH-402 (medium): inches between, by wood and thickness, from green.
        table = (
            (OAK, 3, (8, 12)),
            (OAK, 4, (12, 16)),
            (OAK, 5, (12, 16)),
            (OAK, 6, (16, 24)),
            (OAK, 8, (16, 24)),
            (OAK, 12, (16, 24)),
            (ELM, 4, (12, 16)),
            (ELM, 8, (12, 18)),
            (species_named("sweetgum"), 5, (12, 16)),
            (PINE, 4, (16, 24)),
            (PINE, 8, (24, 48)),
            (OAK, 2, (8, 12)),
        )
        for species, quarters, (low, high) in table:
            with self.subTest(species.key, quarters=quarters):
                result = usual(species, quarters * INCH_M / 4 * 1.08, 0.8).spacing_m / INCH_M
                self.assertTrue(low - 1e-6 <= result <= high + 1e-6, result)

    def test_wetter_and_thinner_boards_have_them_closer(self):
        for species in (OAK, PINE, MAPLE):
            for quarters in (3, 4, 6, 8):
                wet, dry = (usual(species, quarters * INCH_M / 4, moisture).spacing_m for moisture in (0.8, 0.2))
                self.assertLessEqual(wet, dry)
            by_thickness = [usual(species, quarters * INCH_M / 4, 0.8).spacing_m for quarters in (2, 3, 4, 6, 8)]
            self.assertEqual(by_thickness, sorted(by_thickness))

    @given(st.floats(0.4, 12), st.floats(0.2, 1.2))
    @settings(max_examples=far(60, 1200), deadline=None)
    def test_lines_lie_at_the_ends_and_never_farther_apart(self, length, spacing):
        places = lines(length, 0.032, spacing)
        self.assertLessEqual(places[0], AT_THE_END_M)
        self.assertLessEqual(length - places[-1], AT_THE_END_M)
        apart = np.diff(places)
        self.assertLessEqual(apart.max(), spacing + 1e-9)
        self.assertLess(np.ptp(apart), 1e-9)


class Piles(unittest.TestCase):
    def test_a_pile_counted_by_hand(self):
        # 1.2 m hold five boards of 200 mm with 10 mm between; sixty boards make twelve courses.
        stack = built(load())
        self.assertEqual((len(stack.courses), stack.courses[0].boards, stack.boards), (12, 5, 60))
        self.assertAlmostEqual(stack.height_m, 12 * 0.0286 + 11 * stack.stickers.thickness_m)
        self.assertEqual(stack.sticker_count, 12 * len(stack.lines_m))
        self.assertAlmostEqual(stack.board_feet, 60 * 0.0286 * 0.2 * 2.44 / 0.002359737, delta=0.01)

    def test_every_board_lies_in_it_once_and_no_course_is_too_wide(self):
        stack = built(load(count=37), load(PINE, 0.054, 0.15, 1.2, 23), width_m=0.9)
        self.assertEqual(stack.boards, 60)
        for course in stack.courses:
            ends = max(1, int(stack.length_m / course.load.length_m + 1e-9))
            beside = -(-course.boards // ends)
            self.assertLessEqual(beside * course.load.width_m + (beside - 1) * EDGE_GAP_M, 0.9 + 1e-9)
        # The thick ones lie below, and short ones two to the length.
        self.assertEqual(stack.courses[0].load.thickness_m, 0.054)
        self.assertEqual(stack.courses[0].boards, 10)

    def test_a_tall_load_is_parted_into_packs(self):
        stack = built(load(count=300))
        self.assertGreater(stack.packs, 1)
        for lower, upper in zip(stack.courses, stack.courses[1:], strict=False):
            gap = upper.bottom_m - lower.bottom_m - lower.thickness_m
            self.assertAlmostEqual(gap, BOLSTER_M if upper.pack != lower.pack else stack.stickers.thickness_m)

    def test_a_thousand_board_feet_weigh_what_paper_says(self):
        # By hand: 2.3597 m³ of green volume, times basic gravity, times 1000; water is that times the moisture (above fibre saturation).
        for key, moisture in (
            ("white_oak", 0.64),
            ("northern_red_oak", 0.80),
            ("sugar_maple", 0.65),
            ("black_walnut", 0.90),
            ("yellow_poplar", 0.83),
            ("eastern_white_pine", 0.60),
        ):
            species = species_named(key)
            mass = mass_of([Load("", species, INCH_M, FOOT_M, FOOT_M, 1000, moisture)])
            dry = 2.359737 * species.basic_specific_gravity * 1000
            with self.subTest(key):
                self.assertAlmostEqual(mass.wood_kg, dry, delta=dry * 1e-3)
                self.assertAlmostEqual(mass.water_kg, dry * moisture, delta=dry * 1e-3)
        self.assertIsNone(
            mass_of([load(species_named("wenge")), load()]) if species_named("wenge").basic_specific_gravity is None else None
        )

    def test_bearers_bear_all_of_it(self):
        stack = built(load())
        self.assertAlmostEqual(sum(stack.per_line_kg), stack.mass.total_kg)
        self.assertEqual(shares([1.22], 2.44), [1.0])
        self.assertLess(stack.per_line_kg[0], stack.per_line_kg[1])

    def test_what_cannot_be_piled_is_refused(self):
        for wrong in (
            lambda: built(load(count=0)),
            lambda: built(load(width_m=1.4), width_m=1.2),
            lambda: built(load(), width_m=9.0),
            lambda: pile([], 1.2, usual(OAK, 0.027, 0.8)),
        ):
            with self.assertRaises(OutOfRange):
                wrong()


class Rules(unittest.TestCase):
    def breaches(self, stack, bearers=None, moisture=0.10, **more) -> set[Breach]:
        return {breach.breach for breach in breaches.breaches(stack, stack.lines_m if bearers is None else bearers, moisture, **more)}

    def test_a_stack_as_it_should_be_breaks_none(self):
        self.assertEqual(self.breaches(built(load())), set())

    def test_each_fault_is_named_where_it_is(self):
        stack = built(load())
        three = [stack.lines_m[0], stack.lines_m[3], stack.lines_m[-1]]
        missing = breaches.breaches(stack, three, 0.10)[0]
        self.assertEqual((missing.breach, len(missing.places_m)), (Breach.NOT_OVER_A_BEARER, len(stack.lines_m) - 3))
        self.assertEqual(self.breaches(stack, overhang_m=0.1), {Breach.ENDS_HANG_OVER})
        self.assertEqual(self.breaches(stack, roofed=False), {Breach.NO_ROOF})
        self.assertEqual(self.breaches(stack, moisture=0.4), {Breach.STICKERS_WET})
        self.assertEqual(self.breaches(built(load(MAPLE)), moisture=0.4), {Breach.STICKER_STAIN})
        self.assertEqual(self.breaches(built(load(), clear_m=0.1)), {Breach.TOO_LOW})
        self.assertIn(Breach.NOT_STEADY, self.breaches(built(load(count=300), width_m=0.6)))
        self.assertIn(Breach.MIXED_SPECIES, self.breaches(built(load(), load(PINE))))
        self.assertIn(Breach.CHIMNEY, self.breaches(built(load(), width_m=3.0)))
        self.assertEqual(self.breaches(stack, next_m=0.5), {Breach.CLOSE_TO_NEXT})
        self.assertEqual(self.breaches(stack, next_m=0.7), set())

    def test_wet_oak_wants_shade_in_the_warm_months_and_no_other_wood_or_month_does(self):
        oak = built(load())
        self.assertEqual(self.breaches(oak, outdoors_c=18.0), {Breach.UNSHADED})
        self.assertEqual(self.breaches(oak, outdoors_c=18.0, shaded=True), set())
        self.assertEqual(self.breaches(oak, outdoors_c=4.0), set())
        self.assertEqual(self.breaches(built(load(MAPLE)), outdoors_c=18.0), set())


class ByPlace(unittest.TestCase):
    YEAR = pattern("four_seasons").year.starting(120)
    RED_OAK = of_species(species_named("northern_red_oak")).wood

    def dried(self, stack: Stack, days: float = 130.0):
        return dry_by_place(self.RED_OAK, 0.0286, 0.75, self.YEAR, stack, days)

    def test_all_places_together_dry_as_the_mean_board_does(self):
        # Two ways of one physics: resistances in a row for the mean board, and segments that moisten each other's air.
        for stack in (
            Stack(0.13, width_m=0.6),
            Stack(0.13, width_m=1.6),
            Stack(0.13, width_m=2.4, sticker_m=0.025),
            Stack(0.34, width_m=1.6),
        ):
            mean = field.dry(self.RED_OAK, 0.0286, 0.75, field.driven(self.YEAR, stack), 400, target=0.20).crossed_day
            places = self.dried(stack)
            whole = float(np.interp(-0.20, -places.whole, places.days))
            with self.subTest(stack):
                self.assertAlmostEqual(whole / mean, 1.0, delta=0.06)

    def test_the_middle_is_last_and_more_so_the_wider_the_stack_and_the_thinner_its_stickers(self):
        def behind(stack: Stack) -> float:
            there = self.dried(stack).arrival(0.30)
            np.testing.assert_allclose(there, there[::-1])
            self.assertTrue((np.diff(there[: there.size // 2 + 1]) >= -1e-6).all())
            return float(there[there.size // 2] - there[0])

        narrow, wide = behind(Stack(0.13, width_m=0.8)), behind(Stack(0.13, width_m=2.4))
        thin, thick = (behind(Stack(0.13, width_m=1.6, sticker_m=size)) for size in (0.013, 0.025))
        self.assertTrue(0 < narrow < wide)
        self.assertGreater(thin, thick)

    def test_water_goes_out_and_none_is_made(self):
        ran = self.dried(Stack(0.13))
        self.assertTrue((np.diff(ran.whole) < 1e-3).all())
        self.assertTrue(((ran.humidity > 0) & (ran.humidity < 1)).all())
        # Until it begins to give off water the air inside is that outside; then the heart's is the dampest.
        self.assertEqual(int(ran.humidity[5].argmax()), ran.places.size // 2)

    def test_air_takes_up_what_the_boards_give(self):
        air = constant(18.0, 0.6, 3.0)
        wet, dry = (through(Stack(0.13, width_m=1.6), air, moisture) for moisture in (0.6, 0.15))
        for flow in (wet, dry):
            self.assertAlmostEqual(flow.humidity[0], 0.6)
            self.assertTrue((np.diff(flow.humidity) > 0).all())
            self.assertLessEqual(flow.humidity[-1], 1.0)
        self.assertGreater(wet.gained, dry.gained)
        self.assertLess(through(Stack(0.13), air, 0.06).gained, 0)


class Sawing(unittest.TestCase):
    FIGURES = shrinkage.of_species(OAK)

    def test_what_is_sawn_leaves_what_is_wanted(self):
        sawn = saw_thickness.green_thickness(self.FIGURES, 0.0, 0.2, 0.0206, 0.08)
        left = sawn.green_m - sawn.variation_m - sawn.shrinks_m - sawn.warp_m - sawn.planing_m
        self.assertAlmostEqual(left, sawn.wanted_m, places=6)
        # Called 4/4 and sawn an eighth over: 28.6 mm give 13/16 in surfaced, with a little to spare.
        self.assertTrue(0.0235 < sawn.green_m < 0.0286)

    def test_wide_flat_boards_and_wandering_saws_want_more(self):
        usual_ = {"ring_angle_deg": 0.0, "width_m": 0.2, "wanted_m": 0.02, "moisture": 0.08}

        def green(**more) -> float:
            return saw_thickness.green_thickness(self.FIGURES, **(usual_ | more)).green_m

        self.assertGreater(green(width_m=0.35), green())
        self.assertGreater(green(variation_m=0.0015), green())
        self.assertGreater(green(moisture=0.06), green(moisture=0.12))
        with self.assertRaises(OutOfRange):
            green(wanted_m=0.24, planing_m=0.02, width_m=1.5, pith_m=0.03)
