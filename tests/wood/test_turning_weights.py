"""Weight logs of bowls that are made by a finer shell with its own pace, uneven walls, noise, forgotten days and slips."""

import math
from dataclasses import dataclass

import numpy as np
from django.test import SimpleTestCase

from wood.air import rooms
from wood.air.climate import AirSeries, constant, pattern
from wood.air.levels import level_through
from wood.drying import field
from wood.drying.diffusivity import Figures
from wood.drying.diffusivity import of_species as figures_of
from wood.errors import OutOfRange
from wood.species import species_named
from wood.turning.bowls import Bowl, parts
from wood.turning.drying import SHELF, rest_day, wood_of
from wood.turning.weight_logs import Slip, Weights, slip
from wood.turning.weights import State, weighed

SPECIES = ("sugar_maple", "black_cherry", "white_oak", "black_walnut", "white_ash", "american_beech", "yellow_birch", "eastern_white_pine")
ROOM = constant(18, 0.5)


@dataclass
class Made:
    """A bowl as it really is: its weight by the day, when it comes to rest, and at what."""

    bowl: Bowl
    figures: Figures
    air: AirSeries
    masses: np.ndarray
    rest: float
    final: float


def made(chance: np.random.Generator) -> Made:
    species = species_named(SPECIES[chance.integers(len(SPECIES))])
    figures = figures_of(species)
    diameter = chance.uniform(0.18, 0.4)
    wall = float(np.clip(diameter * chance.uniform(0.07, 0.12), 0.015, 0.045))
    bowl = Bowl(diameter, diameter * chance.uniform(0.3, 0.5), wall, foot_m=wall * chance.uniform(1, 1.3))
    air = constant(chance.uniform(12, 21), chance.uniform(0.4, 0.65))
    if chance.random() < 0.5:
        outdoors = pattern("mild_inland").year.starting(chance.uniform(0, 365))
        air = rooms.room(outdoors, rooms.Room(chance.uniform(15, 20), 0.001))
    wood = field.Wood(
        figures.wood.specific_gravity,
        figures.wood.factor * math.exp(chance.normal(0, figures.spread)),
        figures.wood.permeability * math.exp(chance.normal(0, figures.permeability_spread)),
        figures.wood.fibre_saturation,
    )
    start = min(figures.green_moisture * math.exp(chance.normal(0, 0.15)), 0.9 * wood.greatest_moisture)
    shell = parts(bowl, 12.0 * chance.uniform(0.85, 1.15), tuple(np.arange(1, 16) / 16))
    days = np.arange(0, 1100.0)
    drive = field.driven(air, SHELF)
    mean = np.average(
        [field.dry(wood_of(part, wood), part.slab_m, start, drive, 1100, out_days=days).mean for part in shell],
        axis=0,
        weights=[part.share for part in shell],
    )
    level = level_through(air, 1099, mean)
    rest = rest_day(days, mean, level)
    dry = figures.wood.density * math.exp(chance.normal(0, 0.09)) * bowl.volume_m3
    return Made(bowl, figures, air, dry * (1 + mean), rest, dry * (1 + float(np.interp(rest, days, mean))))


def log_of(made_kind: Made, chance: np.random.Generator, until: float, slips: bool) -> tuple[np.ndarray, np.ndarray]:
    days = np.concatenate([[0], np.cumsum(chance.choice([1, 1, 2, 3], size=600))])
    days = days[days <= max(until, 3)]
    if days.size > 30:
        days = np.concatenate([[0], np.sort(chance.choice(days[1:], 29, replace=False))])
    masses = np.round(np.interp(days, np.arange(made_kind.masses.size), made_kind.masses) * (1 + chance.normal(0, 0.0015, days.size)), 3)
    if slips and days.size > 7:
        masses[chance.integers(2, days.size)] *= chance.choice([10, 0.1, 1.4])
    return days, masses


class ForecastsFromTheFirstThird(SimpleTestCase):
    @classmethod
    def setUpClass(cls):
        super().setUpClass()
        chance = np.random.default_rng(20)
        cls.results = []
        for number in range(28):
            first = made(chance)
            days, masses = log_of(first, chance, first.rest / 3, slips=number % 3 == 0)
            if days.size >= 6:
                cls.results.append((first, weighed(Weights(days, masses, bowl=first.bowl), first.figures, first.air)))

    def test_the_final_weight_is_right_within_three_per_cent(self):
        off = np.array([abs(answer.rest_kg.best / item.final - 1) for item, answer in self.results])
        self.assertGreaterEqual(np.mean(off <= 0.03), 0.9, off)

    def test_the_day_it_comes_to_rest_is_mostly_right_within_fifteen_per_cent(self):
        off = np.array([abs(answer.rest_day.best / item.rest - 1) for item, answer in self.results])
        self.assertLess(np.median(off), 0.11, off)
        self.assertGreaterEqual(np.mean(off <= 0.15), 0.6, off)

    def test_the_bands_hold_what_they_promise(self):
        final = np.mean([answer.rest_kg.low <= item.final <= answer.rest_kg.high for item, answer in self.results])
        day = np.mean([answer.rest_day.low <= item.rest <= answer.rest_day.high for item, answer in self.results])
        self.assertGreaterEqual(final, 0.65)
        self.assertGreaterEqual(day, 0.65)

    def test_no_green_bowl_is_ever_said_to_be_dry(self):
        for item, answer in self.results:
            self.assertEqual(answer.state, State.FALLING)
            self.assertGreater(answer.start.low, 0.3, item.figures.stands_on)


class WhatAWeightLogSays(SimpleTestCase):
    def setUp(self):
        self.one = made(np.random.default_rng(4))

    def weighed(self, days, masses=None, **besides):
        days = np.asarray(days, float)
        masses = np.interp(days, np.arange(self.one.masses.size), self.one.masses) if masses is None else masses
        return weighed(Weights(days, masses, bowl=self.one.bowl, **besides), self.one.figures, self.one.air)

    def test_one_weighing_gives_a_wide_band_and_each_further_one_narrows_it(self):
        rest = self.one.rest
        widths = []
        for days in ([0.0], np.linspace(0, rest / 4, 5).round(), np.linspace(0, rest, 16).round()):
            answer = self.weighed(np.unique(days))
            widths.append((answer.rest_kg.high - answer.rest_kg.low) / answer.rest_kg.best)
        self.assertGreater(widths[0], 0.10)
        self.assertLess(widths[2], 0.03)
        self.assertEqual(sorted(widths, reverse=True), widths)

    def test_a_green_blank_never_reads_dry_or_below_nothing(self):
        answer = self.weighed([0.0, 1.0])
        self.assertGreater(answer.moisture.low, 0.3)
        self.assertLess(answer.moisture.low, answer.moisture.best)

    def test_flat_at_its_place_is_done(self):
        days = np.concatenate([np.linspace(0, self.one.rest, 12).round(), self.one.rest + np.array([20, 30, 45])])
        answer = self.weighed(np.unique(days.round()))
        self.assertEqual(answer.state, State.FLAT)
        self.assertAlmostEqual(answer.last_kg / answer.rest_kg.best, 1.0, delta=0.02)

    def test_a_bowl_at_rest_follows_its_room_and_stays_at_rest(self):
        outdoors = pattern("four_seasons").year.starting(120)
        air = rooms.room(outdoors, rooms.Room(19.0, 0.001))
        figures, bowl = figures_of(species_named("white_ash")), Bowl(0.25, 0.1, 0.02)
        days = np.arange(0, 330.0, 9)
        shell = parts(bowl, 12.0)
        drive = field.driven(air, SHELF)
        means = [field.dry(wood_of(part, figures.wood), part.slab_m, 0.45, drive, 330, out_days=days).mean for part in shell]
        masses = figures.wood.density * bowl.volume_m3 * (1 + np.average(means, axis=0, weights=[part.share for part in shell]))
        states = {}
        for upto in (150, 200, 250, 300):
            there = days <= upto
            answer = weighed(Weights(days[there], np.round(masses[there], 3), bowl=bowl), figures, air)
            states[upto] = answer.state
            self.assertAlmostEqual(answer.rest_kg.best / answer.last_kg, 1.0, delta=0.02)
        self.assertEqual(set(states.values()), {State.FLAT}, states)

    def test_still_falling_is_not_flat_because_two_weighings_agree(self):
        days = np.linspace(0, self.one.rest / 3, 8).round()
        self.assertEqual(self.weighed(np.unique([*days, days[-1] + 1])).state, State.FALLING)

    def test_a_rise_after_a_warm_box_is_named(self):
        days = np.unique(np.linspace(0, self.one.rest, 10).round())
        masses = np.interp(days, np.arange(self.one.masses.size), self.one.masses)
        back = masses[-1] * np.array([0.955, 0.965, 0.975, 0.985])
        answer = self.weighed([*days, *(days[-1] + np.array([4, 7, 11, 16]))], [*masses, *back])
        self.assertEqual(answer.state, State.RISING)

    def test_a_bowl_that_stands_still_while_it_is_wet_has_stalled(self):
        wet = self.one.masses[0] * 0.93
        days = [0, 2, 4, 6, *range(10, 60, 7)]
        masses = [self.one.masses[0], self.one.masses[0] * 0.97, wet * 1.01, wet, *[wet * 0.999] * 8]
        answer = self.weighed(days, masses, dry_mass_kg=float(self.one.final / 1.1))
        self.assertEqual(answer.state, State.STALLED)

    def test_slips_are_named_and_do_not_count(self):
        days = np.linspace(0, self.one.rest * 0.7, 14).round()
        masses = np.interp(days, np.arange(self.one.masses.size), self.one.masses)
        right = self.weighed(days, masses)
        for position, factor in ((6, 10.0), (9, 0.1), (13, 10.0), (4, 1.5), (0, 10.0)):
            slipped = masses.copy()
            slipped[position] *= factor
            answer = self.weighed(days, slipped)
            self.assertEqual(answer.absurd, (position,), (position, factor))
            self.assertAlmostEqual(answer.rest_kg.best / right.rest_kg.best, 1.0, delta=0.02)

    def test_size_unknown_it_still_says_something_that_holds(self):
        days = np.unique(np.linspace(0, self.one.rest / 2, 12).round())
        answer = weighed(Weights(days, np.interp(days, np.arange(self.one.masses.size), self.one.masses)), self.one.figures, self.one.air)
        self.assertAlmostEqual(answer.rest_kg.best / self.one.final, 1.0, delta=0.05)

    def test_the_order_of_the_log_does_not_matter(self):
        days = np.linspace(0, self.one.rest / 2, 9).round()
        masses = np.interp(days, np.arange(self.one.masses.size), self.one.masses)
        first, other = self.weighed(days, masses), self.weighed(days[::-1], masses[::-1])
        self.assertAlmostEqual(first.rest_kg.best, other.rest_kg.best, places=9)

    def test_what_an_absurd_weight_may_come_from(self):
        for mass, expected, result in (
            (8.15, 0.815, Slip.DECIMAL),
            (0.0815, 0.815, Slip.DECIMAL),
            (28.3 * 0.815, 0.815, Slip.UNIT),
            (0.815 / 28.3, 0.815, Slip.UNIT),
            (1.2, 0.815, Slip.TARE),
            (0.80, 0.815, None),
            (0.5, 0.815, Slip.OTHER),
        ):
            self.assertEqual(slip(mass, expected), result, mass)

    def test_nothing_and_nonsense_are_refused(self):
        for days, masses in (([], []), ([0.0], [0.0]), ([0.0], [math.nan]), ([0.0, 1.0], [1.0])):
            with self.assertRaises(OutOfRange):
                Weights(days, masses)
