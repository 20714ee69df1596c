"""Cut sizes, the day of the latest board, panels, rests between millings, legs, and wood for a use."""

import math
import unittest

import numpy as np

from wood.air.climate import pattern
from wood.air.rooms import DWELLING, room
from wood.builds import choosing, dates, glueups, legs, milling, sizes
from wood.builds.choosing import Durability, Exposure, Suits
from wood.builds.dates import Ready
from wood.builds.glueups import PanelBoard, RingApproach
from wood.builds.sizes import Fit, Size, Year
from wood.drying.answers import answer
from wood.drying.arrival import around
from wood.drying.diffusivity import of_species as pace_of
from wood.drying.methods import SMALL_STACK, Setting
from wood.drying.questions import Question
from wood.errors import OutOfRange
from wood.movement import section, shrinkage
from wood.movement.shrinkage import Shrinkage
from wood.species import all_species, species_named
from wood.units import INCH, length_m
from wood.written import inches

OAK = shrinkage.of_species(species_named("white_oak"))
SIXTY_FOURTH_M = 0.0254 / 64
YEAR = Year(0.085, 0.062, 0.112)


class CutSizes(unittest.TestCase):
    def test_a_part_cut_today_comes_back_to_its_size_at_the_years_mean(self):
        """Through the section model, which knows nothing of this module, and after the size was written in 64ths and read again."""
        for key in ("white_oak", "sugar_maple", "eastern_white_pine", "black_walnut"):
            figures = shrinkage.of_species(species_named(key))
            for angle in (0.0, 45.0, 90.0):
                for now in (0.05, 0.085, 0.14, 0.24):
                    for width in (0.04, 0.15, 0.3):
                        sized = sizes.sized(Size(0.9, width, 0.022), figures, angle, now, YEAR)
                        for wanted, cut, at in ((width, sized.cut.width_m, angle), (0.022, sized.cut.thickness_m, 90 - angle)):
                            written = length_m(f"{inches(cut)} in", INCH)
                            radial, tangential = section.size_ratios(figures, now, YEAR.mean)
                            across = written * self.ratio(figures, at, now, radial, tangential)
                            self.assertLess(abs(across - wanted), SIXTY_FOURTH_M, (key, angle, now, width))

    def ratio(self, figures: Shrinkage, angle: float, now: float, radial: float, tangential: float) -> float:
        """How a narrow board far from its pith changes in width, by the section."""
        if angle == 0:
            return tangential
        if angle == 90:
            return radial
        moved = section.settled_board(0.01, 0.001, *section.pith_for(angle, 4.0), radial, tangential)
        return moved.width_m / 0.01

    def test_wood_that_will_shrink_is_cut_larger_and_wood_that_will_swell_smaller(self):
        wet, dry = (sizes.sized(Size(0.9, 0.3, 0.022), OAK, 0, now, YEAR) for now in (0.12, 0.06))
        self.assertGreater(wet.added_m, 0.002)
        self.assertLess(dry.added_m, -0.001)
        self.assertEqual(sizes.sized(Size(0.9, 0.3, 0.022), OAK, 0, YEAR.mean, YEAR).added_m, 0.0)

    def test_what_is_inset_has_its_gap_at_the_damp_extreme(self):
        for now in (0.06, 0.085, 0.13):
            sized = sizes.sized(Size(0.5, 0.2, 0.02), OAK, 0, now, YEAR, Fit.INSET, 0.002)
            self.assertAlmostEqual(sized.width_high_m, 0.198, 9)
            damp = sized.cut.width_m * shrinkage.size_ratio(OAK.tangential, now, YEAR.high, OAK.fibre_saturation)
            self.assertAlmostEqual(damp, 0.198, 9)
            self.assertGreater(sized.gap_m, 0.002)

    def test_a_panel_stays_in_its_grooves_and_never_fills_them(self):
        sized = sizes.sized(Size(0.5, 0.35, 0.012), OAK, 0, 0.1, YEAR, Fit.GROOVE)
        overlap = sized.groove_m - sized.gap_m
        self.assertGreater(sized.groove_m - overlap - (sized.width_high_m - 0.35) / 2, 0.0)
        self.assertGreaterEqual(overlap - (0.35 - sized.width_low_m) / 2, 0.003 - 1e-9)

    def test_slots_are_counted_from_the_wanted_size_and_not_from_the_cut_one(self):
        slots = {sizes.sized(Size(1.5, 0.9, 0.022), OAK, 0, now, YEAR, Fit.FIXED).slot_m for now in (0.06, 0.10, 0.16)}
        self.assertEqual(len({round(slot, 9) for slot in slots}), 1)
        self.assertGreater(slots.pop(), (0.9 - 0.9 * (1 - 0.105 * 0.023 / 0.30)) / 2)

    def test_what_cannot_be_is_refused(self):
        for wrong in (
            lambda: Year(0.1, 0.12, 0.2),
            lambda: Year(0.1, 0.08, 0.09),
            lambda: Size(0.0, 0.1, 0.1),
            lambda: sizes.sized(Size(1, 0.1, 0.02), OAK, 91, 0.1, YEAR),
            lambda: sizes.sized(Size(1, 0.1, 0.02), OAK, 0, 0.9, YEAR),
            lambda: sizes.sized(Size(1, 0.0015, 0.02), OAK, 0, 0.1, YEAR, Fit.INSET, 0.01),
        ):
            with self.assertRaises(OutOfRange):
                wrong()


def ready(days) -> Ready:
    members = np.asarray(days, float)
    return Ready(members, float(np.median(members)), *(float(edge) for edge in np.percentile(members, [10, 90], method="nearest")))


class LatestBoard(unittest.TestCase):
    def setUp(self):
        chance = np.random.default_rng(5)
        self.sets = [ready(np.exp(chance.normal(math.log(middle), 0.25, 129))) for middle in (40, 55, 60, 62)]

    def test_one_board_keeps_its_own_day_and_band(self):
        first = self.sets[0]
        self.assertEqual(dates.latest([first]), dates.Latest(first.days, first.low, first.high, 0))

    def test_it_is_the_median_of_the_latest_as_drawing_lots_has_it(self):
        chance = np.random.default_rng(11)
        drawn = np.max([chance.choice(each_set.members, 40_000) for each_set in self.sets], axis=0)
        latest = dates.latest(self.sets)
        for got, wanted in zip((latest.low, latest.days, latest.high), np.percentile(drawn, [10, 50, 90]), strict=True):
            self.assertAlmostEqual(got, wanted, delta=0.03 * wanted)

    def test_it_is_later_than_the_latest_median_and_never_earlier(self):
        self.assertGreater(dates.latest(self.sets).days, max(each_set.days for each_set in self.sets) + 1)
        early = ready(np.linspace(1, 3, 9))
        late = ready(np.linspace(100, 110, 9))
        self.assertEqual(dates.latest([early, late]).days, late.days)

    def test_more_boards_are_never_sooner(self):
        days = [dates.latest(self.sets[:n]).days for n in range(1, 5)]
        self.assertEqual(days, sorted(days))

    def test_what_never_comes_holds_up_everything(self):
        never = Ready(np.full(9, np.inf), np.inf, np.inf, np.inf)
        self.assertTrue(math.isinf(dates.latest([self.sets[0], never]).days))
        some = Ready(np.array([10.0] * 6 + [np.inf] * 3), 10.0, 10.0, np.inf)
        latest = dates.latest([some, some])
        self.assertTrue(math.isinf(latest.high))

    def test_what_is_there_already_delays_nothing(self):
        there = Ready(np.zeros(1), 0.0, 0.0, 0.0)
        latest = dates.latest([there, self.sets[0]])
        self.assertEqual((latest.days, latest.which), (dates.latest([self.sets[0]]).days, 1))

    def test_an_answer_tells_the_days_of_its_members(self):
        series = room(pattern("mild_coast").year.starting(270), DWELLING)
        question = Question(
            pace_of(species_named("white_oak")), 0.027, 0.14, 0.1, Setting(series, SMALL_STACK), wanted=around(0.095, 0.01, 0.01)
        )
        result = answer(question)
        self.assertEqual((len(result.member_days), result.member_days[0]), (result.runs, result.days))
        low, high = np.percentile(result.member_days[1:], [10, 90], method="nearest")
        self.assertEqual((min(low, result.days), max(high, result.days)), (result.low, result.high))

    def test_what_cannot_be_is_refused(self):
        for wrong in (
            lambda: dates.latest([]),
            lambda: Ready(np.array([]), 1, 1, 1),
            lambda: Ready(np.array([-1.0]), 1, 1, 1),
            lambda: Ready(np.array([math.nan]), 1, 1, 1),
        ):
            with self.assertRaises(OutOfRange):
                wrong()


class Panels(unittest.TestCase):
    def staves(self, count: int = 5, **more) -> list[PanelBoard]:
        return [
            PanelBoard(str(n), OAK, 0.09 + 0.01 * (n % 3), 0.022, 5.0 + 12 * (n % 4), 0.1 + 0.03 * (n % 2), **more) for n in range(count)
        ]

    def test_each_board_is_its_own_section_moved_and_turned_and_no_more(self):
        """For every school: distances within a board are those of the section model, board by board."""
        for approach in RingApproach:
            staves = glueups.by_approach(self.staves(), approach)
            panel = glueups.panel(staves, 0.10, 0.06)
            ratios = section.size_ratios(OAK, 0.10, 0.06)
            for stave, laid in zip(staves, panel.laid, strict=True):
                x, y = section.pith_for(stave.ring_angle_deg, stave.pith_m)
                alone = section.settled_board(stave.width_m, stave.thickness_m, x, y if stave.bark_up else -y, *ratios).after
                for first, second in ((0, 96), (48, 144), (10, 100), (30, 170)):
                    self.assertAlmostEqual(
                        float(np.hypot(*(laid.outline[first] - laid.outline[second]))), float(np.hypot(*(alone[first] - alone[second]))), 12
                    )

    def test_boards_meet_edge_to_edge(self):
        for approach in RingApproach:
            panel = glueups.panel(glueups.by_approach(self.staves(), approach), 0.10, 0.06)
            for placement, other in zip(panel.laid[:-1], panel.laid[1:], strict=True):
                right, left = placement.outline[[48, 96]].mean(axis=0), other.outline[[144, 0]].mean(axis=0)
                self.assertLess(float(np.hypot(*(right - left))), 1e-9)
                # Both edges stand alike: the joint neither opens above nor below.
                lean = [np.arctan2(*(points[1] - points[0])) for points in (placement.outline[[48, 96]], other.outline[[0, 144]])]
                self.assertAlmostEqual(*lean, 6)

    def test_the_approaches_do_what_their_names_say(self):
        alike = [PanelBoard(str(n), OAK, 0.11, 0.022, 0.0, 0.09) for n in range(6)]
        bark, heart, turns = (
            glueups.panel(glueups.by_approach(alike, item), 0.10, 0.06)
            for item in (RingApproach.BARK_UP, RingApproach.HEART_UP, RingApproach.BY_TURNS)
        )
        # Drying, a board is hollow on its bark side.
        self.assertLess(bark.bow_m, -0.0001)
        self.assertGreater(heart.bow_m, 0.0001)
        self.assertLess(abs(turns.bow_m), min(abs(bark.bow_m), abs(heart.bow_m)))
        self.assertAlmostEqual(bark.bow_m, -heart.bow_m, 4)

    def test_nothing_moves_where_the_moisture_does_not(self):
        panel = glueups.panel(self.staves(), 0.09, 0.09)
        self.assertAlmostEqual(panel.width_m, sum(stave.width_m for stave in self.staves()), 9)
        self.assertLess(max(abs(panel.bow_m), abs(panel.wave_m)), 1e-9)
        self.assertAlmostEqual(panel.flat_m, 0.022, 9)

    def test_the_width_is_that_of_its_boards(self):
        staves = [PanelBoard(str(n), OAK, 0.1, 0.02, 90.0, 0.5) for n in range(4)]
        shrunk = glueups.panel(staves, 0.12, 0.06).width_m
        self.assertAlmostEqual(shrunk, 0.4 * shrinkage.size_ratio(OAK.radial, 0.12, 0.06), delta=1e-4)

    def test_boards_within_a_point_may_be_glued(self):
        self.assertTrue(glueups.alike([0.08, 0.089], [0.0, 0.0]).may)
        apart = glueups.alike([0.08, 0.11, 0.09], [0.002, 0.002, 0.002])
        self.assertEqual((apart.may, apart.may_not, apart.wettest, apart.driest), (False, True, 1, 0))
        doubtful = glueups.alike([0.08, 0.092], [0.008, 0.008])
        self.assertEqual((doubtful.may, doubtful.may_not), (False, False))


def question(thickness: float, start: float, gradient: float, key: str = "white_oak") -> Question:
    series = room(pattern("mild_coast").year.starting(270), DWELLING)
    return Question(
        pace_of(species_named(key)),
        thickness,
        start,
        0.1,
        Setting(series, SMALL_STACK),
        width_m=0.2,
        length_m=2.4,
        gradient=gradient,
        wanted=around(0.095, 0.01, 0.01),
    )


class MillingInSteps(unittest.TestCase):
    def test_even_wood_rests_a_night_and_uneven_wood_longer(self):
        days = [milling.rest(question(0.027, 0.10, gradient), 0.002).days for gradient in (0.0, 0.02, 0.04)]
        self.assertEqual(days[0], milling.LEAST_DAYS)
        self.assertEqual(days, sorted(days))
        self.assertGreater(days[2], 2)

    def test_thick_wood_rests_longer(self):
        thin, thick = (milling.rest(question(thickness, 0.10, 0.02), 0.002).days for thickness in (0.027, 0.052))
        self.assertGreater(thick, 2 * thin)

    def test_a_leaf_bends_as_a_strip_whose_faces_shrink_unlike(self):
        """Against the strip with a straight slope: κ = Δε/t, for a slight parabola taken off its middle half nearly the same."""
        leaf = milling.resawn(question(0.05, 0.10, 0.01), 0.0, OAK, 0, 0.2)
        strain = OAK.tangential * (leaf.core - leaf.face) / OAK.fibre_saturation
        self.assertAlmostEqual(leaf.cup_m, strain / leaf.thickness_m * 0.2**2 / 8, delta=0.15 * leaf.cup_m)
        self.assertAlmostEqual(leaf.mean, 0.10, delta=0.002)

    def test_a_wet_core_makes_the_new_face_hollow_and_a_dry_one_the_old(self):
        self.assertGreater(milling.resawn(question(0.05, 0.10, 0.02), 0.002, OAK, 0, 0.2).cup_m, 0.001)
        self.assertLess(milling.resawn(question(0.05, 0.10, -0.02), 0.002, OAK, 0, 0.2).cup_m, -0.001)
        self.assertAlmostEqual(milling.resawn(question(0.05, 0.10, 0.0), 0.002, OAK, 0, 0.2).cup_m, 0.0, 9)

    def test_a_quarter_sawn_leaf_bends_less(self):
        flat, quarter = (milling.resawn(question(0.05, 0.10, 0.02), 0.002, OAK, angle, 0.2).cup_m for angle in (0, 90))
        self.assertAlmostEqual(quarter / flat, OAK.radial / OAK.tangential, delta=0.02)

    def test_glued_joints_wait_days_and_no_months(self):
        """Benches say a few days to a week for ordinary panels; a day for thin pine."""
        oak = pace_of(species_named("white_oak")).wood
        days = [milling.glue_days(oak, thickness, OAK, 10, 0.09) for thickness in (0.012, 0.019, 0.022, 0.030)]
        self.assertEqual(days, sorted(days))
        self.assertTrue(1 <= days[0] <= 4, days)
        self.assertTrue(3 <= days[2] <= 10, days)
        pine = milling.glue_days(
            pace_of(species_named("eastern_white_pine")).wood, 0.019, shrinkage.of_species(species_named("eastern_white_pine")), 10, 0.09
        )
        self.assertLess(pine, days[1])

    def test_what_cannot_be_is_refused(self):
        for wrong in (
            lambda: milling.rest(question(0.027, 0.1, 0), 0.02),
            lambda: milling.resawn(question(0.027, 0.1, 0), 0.02, OAK, 0, 0.2),
            lambda: milling.resawn(question(0.027, 0.1, 0), 0.002, OAK, 100, 0.2),
            lambda: milling.glue_days(pace_of(species_named("white_oak")).wood, 1.0, OAK, 0, 0.1),
        ):
            with self.assertRaises(OutOfRange):
                wrong()


class Legs(unittest.TestCase):
    def test_rings_from_corner_to_corner_give_four_alike_faces_and_a_diamond(self):
        rift, flat = legs.leg(0.05, 45, OAK, 0.12, 0.06), legs.leg(0.05, 0, OAK, 0.12, 0.06)
        self.assertTrue(rift.alike)
        self.assertLess(rift.out_of_square_m, 2e-5)
        self.assertGreater(rift.diamond_m, 3 * flat.diamond_m)
        self.assertEqual([face.value for face in flat.faces], ["flat", "quarter"])
        self.assertAlmostEqual(
            flat.width_m / flat.depth_m, shrinkage.size_ratio(OAK.tangential, 0.12, 0.06) / shrinkage.size_ratio(OAK.radial, 0.12, 0.06), 3
        )


class WoodForAUse(unittest.TestCase):
    def test_sapwood_and_beech_stay_indoors(self):
        results = {choice.species.key: choice for choice in choosing.choices(all_species().values(), Exposure.RAIN)}
        for key, suits in (
            ("white_oak", Suits.YES),
            ("northern_red_oak", Suits.NO),
            ("american_beech", Suits.NO),
            ("western_redcedar", Suits.YES),
            ("western_larch", Suits.WITH_CARE),
        ):
            self.assertIs(results[key].suits, suits, key)

    def test_the_ground_asks_for_the_very_best(self):
        results = {choice.species.key: choice.suits for choice in choosing.choices(all_species().values(), Exposure.GROUND)}
        self.assertIs(results["black_locust"], Suits.YES)
        self.assertIs(results["white_oak"], Suits.WITH_CARE)

    def test_what_is_not_known_is_not_guessed(self):
        self.assertIs(choosing.suits(Durability.NOT_KNOWN, Exposure.RAIN), Suits.NOT_KNOWN)
        hard = choosing.choices(all_species().values(), Exposure.INDOORS, 5000.0)
        self.assertTrue(all(item.hardness_n is not None and item.hardness_n >= 5000 for item in hard))
        self.assertGreater(len(hard), 10)

    def test_what_suits_stands_first_and_then_what_moves_least(self):
        choices = choosing.choices(all_species().values(), Exposure.RAIN)
        good = [item for item in choices if item.suits is Suits.YES and item.moves is not None]
        self.assertEqual(choices[: len(good)], good)
        self.assertEqual([reading.moves for reading in good], sorted(reading.moves for reading in good))
