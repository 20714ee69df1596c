"""When wood has arrived: it comes to what is wanted on the day, core and outside agree, seasons are told apart, and a route of two
places is one run."""

import unittest
from dataclasses import astuple, replace

import numpy as np

from wood.air.climate import YEAR_DAYS, constant, pattern
from wood.drying import answers, field
from wood.drying.answers import answer
from wood.drying.arrival import READ_PER_MEAN, around, arrivals, at_most, both, chances
from wood.drying.diffusivity import of_species
from wood.drying.methods import SHOP, SMALL_STACK, YARD, Setting, Stage, setting
from wood.drying.questions import Question
from wood.errors import OutOfRange
from wood.measuring.profile import profile_from
from wood.species import species_named

DAYS = np.arange(0.0, 400.0)
ASH, OAK, PINE = (of_species(species_named(key)) for key in ("white_ash", "white_oak", "eastern_white_pine"))


def arrives(mean, wanted, core=None) -> float:
    mean = np.broadcast_to(np.asarray(mean, float), DAYS.shape)
    return float(arrivals(wanted, DAYS, mean, mean if core is None else core).first[0])


class Arriving(unittest.TestCase):
    def test_the_first_day_inside_is_the_day_and_the_season_takes_nothing_back(self):
        down = np.interp(DAYS, [0, 100, 110, 300, 399], [0.16, 0.102, 0.07, 0.07, 0.09])
        self.assertAlmostEqual(arrives(down, around(0.09, 0.01)), 101, delta=1)
        self.assertAlmostEqual(arrives(np.interp(DAYS, [0, 100], [0.16, 0.10]), around(0.09, 0.0101)), 100, delta=1)
        self.assertEqual(arrives(np.full(400, 0.2), around(0.09, 0.01)), np.inf)

    def test_what_works_with_the_season_comes_first_and_ready_beside_it(self):
        season = replace(around(0.09, 0.01), now_low=np.array([0.105]), now_high=np.array([0.115]))
        down = np.interp(DAYS, [0, 100, 300], [0.16, 0.11, 0.09])
        came = arrivals(season, DAYS, down, down)
        self.assertAlmostEqual(came.first[0], 90, delta=1)
        self.assertAlmostEqual(came.ready[0], 200, delta=1)

    def test_a_core_may_differ_by_what_the_settled_boards_own_does(self):
        own = replace(around(0.09, 0.01, 0.005), own_low=np.array([0.0]), own_high=np.array([0.012]))
        self.assertEqual(arrives(0.09, own, np.full(400, 0.105)), 0.0)
        self.assertEqual(arrives(0.09, own, np.full(400, 0.108)), np.inf)
        self.assertEqual(arrives(0.09, own, np.full(400, 0.0842)), np.inf)

    def test_the_edges_of_a_day_are_those_of_many(self):
        days = np.arange(40.0)
        year = replace(
            around(0.09 + 0.01 * np.sin(np.arange(365) / 58), 0.01, 0.01), now_low=0.1 + np.zeros(365), now_high=0.11 + np.zeros(365)
        )
        for day, row in zip(days, year.rows(days), strict=True):
            self.assertEqual(astuple(year.on(day)), tuple(row))

    def test_a_core_that_lags_keeps_it_waiting_as_readings_would_show_it(self):
        core = np.interp(DAYS, [0, 200], [0.15, 0.09])
        there = arrives(0.09, around(0.09, 0.01, 0.01), core)
        # A parabola's middle lies 1.08 times as far from a reading at a fifth of the thickness as from the mean.
        self.assertAlmostEqual(READ_PER_MEAN * (np.interp(there, DAYS, core) - 0.09), 0.01, delta=0.0004)
        profile = profile_from(0.10, 0.12)
        self.assertAlmostEqual(READ_PER_MEAN * (profile.core - profile.mean), 0.02, places=9)

    def test_a_level_that_moves_is_looked_up_by_its_day_going_round(self):
        level = 0.09 + 0.03 * np.cos(2 * np.pi * np.arange(365) / 365)
        self.assertEqual(arrives(np.resize(level, 400), around(level, 0.005)), 0.0)
        standing = arrives(0.09, around(level, 0.01))
        # Going through 9% the level takes 39 days for the two points that are allowed.
        self.assertAlmostEqual(standing, 365 / 4 - 0.01 / (0.03 * 2 * np.pi / 365), delta=3)

    def test_two_wishes_are_met_together_or_not_at_all(self):
        self.assertEqual(arrives(0.105, both(around(0.09, 0.02), around(0.11, 0.02))), 0.0)
        self.assertEqual(arrives(0.10, both(around(0.06, 0.01), around(0.11, 0.01))), np.inf)
        self.assertEqual(arrives(0.05, at_most(0.19)), 0.0)

    def test_seasons_are_told_apart_and_stragglers_are_none(self):
        days = np.concatenate([np.linspace(90, 120, 60), np.linspace(430, 470, 60), [2000.0], np.full(8, np.inf)])
        first, second = chances(days)
        self.assertAlmostEqual(first.share, 60 / 129)
        self.assertAlmostEqual(second.day, 450, delta=1)
        self.assertEqual(chances([np.inf, np.inf]), ())

    def test_moisture_for_each_moment_is_asked_for(self):
        with self.assertRaises(OutOfRange):
            arrivals(around(0.09, 0.01), DAYS, DAYS[:5], DAYS[:5])


class Questions(unittest.TestCase):
    def room(self, day: float = 330.0, **saved):
        return setting(SHOP, pattern("four_seasons").year.starting(day), **saved)

    def question(self, figures, thickness, start, room, tolerance=0.01, **more):
        level = float(room.series.settling.mean())
        wanted = around(level, tolerance, tolerance)
        return Question(figures, thickness, start, level + tolerance, room, width_m=0.2, start_uncertainty=0.04, wanted=wanted, **more)

    def test_everything_is_read_off_one_set(self):
        question = self.question(ASH, 0.027, 0.163, self.room())
        result = answer(question, runs=64)
        self.assertTrue(result.low <= result.days <= result.high)
        at = np.interp(result.days, result.history.days, result.history.mean)
        low, high = question.wanted.at(result.days)
        self.assertTrue(low - 2e-4 <= at <= high + 2e-4)
        self.assertTrue((result.means_low <= result.history.mean + 1e-9).mean() > 0.95)
        self.assertTrue((result.means_high >= result.history.mean - 1e-9).mean() > 0.95)

    def test_in_steady_air_thick_wood_waits_longer_and_oak_longer_than_pine(self):
        room = Setting(constant(21.0, 0.42), SMALL_STACK)

        def days(figures, thickness):
            return answer(Question(figures, thickness, 0.14, 0.095, room, width_m=0.2, wanted=around(0.08, 0.015, 0.01)), runs=16).days

        thin, thick = days(OAK, 0.018), days(OAK, 0.054)
        self.assertTrue(3 < thick / thin < 9, (thin, thick))
        self.assertLess(days(PINE, 0.027), days(OAK, 0.027))

    def test_what_the_room_never_comes_to_is_said_with_how_it_goes_on(self):
        room = self.room()
        wanted = around(0.02, 0.005)
        never = answer(replace(self.question(ASH, 0.027, 0.12, room), wanted=wanted), runs=32)
        self.assertTrue(np.isinf(never.days))
        self.assertEqual(never.chances, ())
        low, high = never.settles
        self.assertTrue(room.series.settling.min() - 0.005 < low < high < room.series.settling.max() + 0.012)
        self.assertAlmostEqual(never.settles_off, low - 0.025, delta=0.002)

    def test_an_uneven_start_has_the_mean_it_was_given(self):
        question = self.question(ASH, 0.05, 0.12, self.room(), gradient=0.03)
        history = answer(question, runs=16).history
        self.assertAlmostEqual(float(history.mean[0]), 0.12, delta=5e-4)
        self.assertAlmostEqual(READ_PER_MEAN * float(history.core[0] - history.mean[0]), 0.03, delta=0.002)

    def test_wood_that_is_there_is_there_today(self):
        room = Setting(constant(21.1, 0.5), SMALL_STACK)
        self.assertTrue(
            answer(Question(ASH, 0.027, 0.095, 0.095, room, start_uncertainty=0.01, wanted=around(0.092, 0.02)), runs=16).already
        )


class Routes(unittest.TestCase):
    def test_a_route_of_two_places_is_the_first_until_then_and_the_second_from_then_on(self):
        yard, shop = setting(YARD, pattern("four_seasons").year.starting(90)), setting(SHOP, pattern("four_seasons").year.starting(90))
        both_ways = replace(yard, then=(Stage(120.0, shop),))
        looks = np.arange(0.0, 300.0, 5.0)
        route, stays = (field.dry(OAK.wood, 0.027, 0.6, item.drive(), 300, out_days=looks) for item in (both_ways, yard))
        np.testing.assert_allclose(route.mean[:24], stays.mean[:24], atol=2e-4)
        self.assertLess(route.mean[-1], stays.mean[-1] - 0.02)
        carried = field.dry(OAK.wood, 0.027, route.profiles[24], shop.drive(), 175, begin_day=120.0, out_days=np.arange(0.0, 176.0, 5.0))
        np.testing.assert_allclose(carried.mean, route.mean[24:60], atol=6e-4)
        level = both_ways.settling(300)
        self.assertAlmostEqual(level[119], yard.series.settling[119], places=12)
        self.assertAlmostEqual(level[200], shop.series.settling[200], places=12)

    def test_a_day_beyond_any_run_is_refused(self):
        yard = setting(YARD, pattern("four_seasons").year)
        with self.assertRaises(OutOfRange):
            yard.drive().carried(-1.0, yard.drive())

    def test_being_carried_in_brings_what_the_yard_never_gives(self):
        yard, shop = setting(YARD, pattern("mild_coast").year.starting(90)), setting(SHOP, pattern("mild_coast").year.starting(90))
        wanted = around(float(shop.series.settling.mean()), 0.01, 0.01)
        question = Question(OAK, 0.027, 0.71, float(wanted.high[0]), yard, width_m=0.2, wanted=wanted)
        self.assertTrue(np.isinf(answer(question, runs=16).days))
        carried = answer(replace(question, setting=replace(yard, then=(Stage(200.0, shop),))), runs=16)
        self.assertTrue(200 < carried.days < 200 + 2 * YEAR_DAYS)
        self.assertIs(carried.why_not, answers.WhyNot.REACHED)
