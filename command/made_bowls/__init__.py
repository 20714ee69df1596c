"""Weight logs of bowls that other arithmetic than ours made, with their truth: for trying forecasts, never as demo data or as proof.

``bowls.csv`` and ``bowl_weights.csv`` hold ten (single and double exponential, two phases, the series of a slab, stretched exponential; a
room's season, a scale's step and noise, forgotten days). :func:`others` makes more, of shapes that are not among these; they were written
down before the forecast was fitted to anything.
"""

import csv
import math
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from wood.air.climate import AirSeries, constant
from wood.air.sorption import relative_humidity_for
from wood.arrays import Array
from wood.drying.diffusivity import Figures
from wood.drying.diffusivity import of_species as figures_of
from wood.species import species_named
from wood.turning.bowls import Bowl
from wood.turning.weight_logs import Weights
from wood.turning.weights import Weighed, weighed

HERE = Path(__file__).parent
# Settled: from then on so near to what its room brings it to, for so many days.
AT_REST, STAYS = 0.01, 14
# The course of every made bowl is followed so far.
FAR = 900


@dataclass(frozen=True)
class MadeBowl:
    """A bowl's log with its truth: when it comes to rest (day) and at what weight (kg)."""

    name: str
    family: str
    species: str
    bowl: Bowl
    air: AirSeries
    days: Array
    masses: Array
    step_kg: float
    rest: float
    rest_kg: float

    @property
    def figures(self) -> Figures:
        return figures_of(species_named(self.species))

    def asked(self, share: float) -> Weighed:
        """What is said of it at a share of its way to rest."""
        seen = self.days <= self.rest * share
        log = Weights(self.days[seen].tolist(), self.masses[seen].tolist(), self.step_kg, self.bowl)
        return weighed(log, self.figures, self.air)


def reference() -> list[MadeBowl]:
    """The ten that are kept as they came."""
    with (HERE / "bowl_weights.csv").open(newline="") as file:
        weights = [(row["id"], float(row["day"]), float(row["grams"]) / 1000) for row in csv.DictReader(file)]
    bowls = []
    with (HERE / "bowls.csv").open(newline="") as file:
        for row in csv.DictReader(file):
            own = [(day, mass) for key, day, mass in weights if key == row["id"]]
            masses = np.array([mass for _, mass in own])
            grams = np.diff(np.unique(np.round(masses * 1000)))
            temperature = float(row["room_temperature_c"])
            bowls.append(
                MadeBowl(
                    row["id"],
                    row["family"],
                    row["species"],
                    Bowl(float(row["diameter_mm"]) / 1000, float(row["height_mm"]) / 1000, float(row["wall_mm"]) / 1000),
                    constant(temperature, float(relative_humidity_for(temperature, float(row["room_emc_pct"]) / 100))),
                    np.array([day for day, _ in own]),
                    masses,
                    float(np.gcd.reduce(grams.astype(int))) / 1000,
                    float(row["rest_day"]),
                    float(row["rest_g"]) / 1000,
                )
            )
    return bowls


SPECIES = ("black_cherry", "white_ash", "yellow_birch", "sugar_maple", "black_walnut", "red_alder", "white_oak", "american_beech")
Course = Callable[[np.random.Generator, Array, float, float], Array]


def scattered_rates(chance: np.random.Generator, days: Array, start: float, level: float) -> Array:
    """Parts whose rates are scattered as a gamma distribution has it: a power of time, with a long tail."""
    bent = chance.uniform(1.5, 5.0)
    return level + (start - level) * (1 + days / (bent * chance.uniform(12, 40))) ** -(bent + 1)


def slow_to_begin(chance: np.random.Generator, days: Array, start: float, level: float) -> Array:
    """Gompertz's curve: slow to begin, as in a closed bag that is opened more and more."""
    pace, lag = 1 / chance.uniform(15, 45), chance.uniform(0.2, 1.0)
    share = 1 - np.exp(-np.exp(pace * days * 1.2 - lag) + math.exp(-lag))
    return start - (start - level) * share


def diffused(chance: np.random.Generator, days: Array, start: float, level: float) -> Array:
    """A slab in cells whose water moves the more easily the wetter it is, or the less, through a skin of still air."""
    from scipy.integrate import solve_ivp

    cells, bent, skin, pace = 20, chance.uniform(-3.0, 3.0), chance.uniform(0.5, 6.0), chance.uniform(0.006, 0.02)

    def change(_: float, moist: Array) -> Array:
        between = pace * cells**2 * np.exp(bent * (0.5 * (moist[1:] + moist[:-1]) - 0.3)) * np.diff(moist)
        out = pace * cells * skin * (moist[0] - level)
        return np.concatenate([[between[0] - out], np.diff(between), [-between[-1]]])

    ran = solve_ivp(change, (0, float(days[-1])), np.full(cells, start), "BDF", t_eval=days, rtol=1e-5, atol=1e-7)
    return np.asarray(ran.y.mean(axis=0))


def three_parts(chance: np.random.Generator, days: Array, start: float, level: float) -> Array:
    """Foot, wall and end grain, each by itself by the law of Newton's cooling: three exponentials."""
    shares, middle = chance.dirichlet([3.0, 3.0, 2.0]), chance.uniform(15, 35)
    paces = np.array([middle * chance.uniform(1.5, 2.5), middle, middle * chance.uniform(0.2, 0.6)])
    return level + (start - level) * (shares[:, None] * np.exp(-days / paces[:, None])).sum(axis=0)


def in_a_season(chance: np.random.Generator, days: Array, start: float, level: float) -> Array:
    """One rate, in a room whose level goes up and down with the year by a point and a half either way."""
    pace, phase = chance.uniform(18, 45), chance.uniform(0, 2 * math.pi)
    levels = level + 0.015 * np.sin(2 * math.pi * days / 365 + phase)
    moist = [start]
    for day in range(1, days.size):
        moist.append(levels[day] + (moist[-1] - levels[day]) * math.exp(-1 / pace))
    return np.array(moist)


def disturbed(chance: np.random.Generator, days: Array, start: float, level: float) -> Array:
    """One rate, but for a week in a warm box, or a damp week, of which nobody told."""
    pace, begins = chance.uniform(18, 45), chance.uniform(6, 30)
    is_box = chance.random() < 0.5
    moist = [start]
    for day in range(1, days.size):
        there = begins <= day < begins + 7
        toward = level + (0.0 if not there else -0.04 if is_box else 0.06)
        rate = pace / (3.0 if there and is_box else 1.0)
        moist.append(toward + (moist[-1] - toward) * math.exp(-1 / rate))
    return np.array(moist)


SHAPES: tuple[Course, ...] = (scattered_rates, slow_to_begin, diffused, three_parts, in_a_season, disturbed)


def others(each: int = 4, seed: int = 32) -> list[MadeBowl]:
    """Logs of shapes that are not in the reference: so many of each, always the same ones for one seed."""
    chance = np.random.default_rng(seed)
    return [_made(chance, course, number) for course in SHAPES for number in range(each)]


def _made(chance: np.random.Generator, course: Course, number: int) -> MadeBowl:
    species = SPECIES[int(chance.integers(len(SPECIES)))]
    diameter = chance.uniform(0.16, 0.36)
    bowl = Bowl(diameter, diameter * chance.uniform(0.32, 0.45), diameter * chance.uniform(0.085, 0.115))
    emc, temperature = chance.uniform(0.075, 0.115), 18.0
    days = np.arange(float(FAR))
    figures = figures_of(species_named(species))
    moist = course(chance, days, figures.green_moisture * chance.uniform(0.75, 1.1), emc)
    dry = figures.wood.density * bowl.volume_m3 * math.exp(chance.normal(0, 0.08))
    masses = dry * (1 + moist)
    # What the room brings it to: that of the day, which a bowl's slowness smooths by itself.
    off = np.abs(moist - emc) > AT_REST * (1 + emc) if course is not in_a_season else _off_its_season(masses)
    rest = next(int(day) for day in days[:-STAYS] if not off[int(day) : int(day) + STAYS + 1].any())
    step = float(chance.choice([0.001, 0.002, 0.005]))
    looks = np.unique(np.concatenate([[0], np.cumsum(chance.choice([1, 2, 3, 4], size=400))]))
    looks = looks[(looks <= 1.3 * rest) & ((looks == 0) | (chance.random(looks.size) > 0.15))]
    shown = np.round(masses[looks] * (1 + chance.normal(0, 0.0012, looks.size)) / step) * step
    air = constant(temperature, float(relative_humidity_for(temperature, emc)))
    name = f"{course.__name__.replace('_', ' ')} {number + 1}"
    return MadeBowl(name, course.__name__, species, bowl, air, looks.astype(float), shown, step, float(rest), float(masses[rest]))


def _off_its_season(masses: Array) -> Array:
    """Whether a weight is further from its course of the same day a year on than rest allows: what then is left is the year's alone."""
    later = np.concatenate([masses[365:730], masses[365:730], masses[365:730]])[: masses.size]
    return np.asarray(np.abs(masses - later) > AT_REST * later)


@dataclass(frozen=True)
class Score:
    """How forecasts came true: how many of how many days and weights lay in their bands, and the medians of the day's error (a share, at a
    third and at half of the way) and of its band's width (high to low, at both)."""

    asked: int
    days: int
    weights: int
    error_third: float
    error_half: float
    width_third: float
    width_half: float


def score(bowls: list[MadeBowl]) -> Score:
    """Every bowl asked at a third and at half of its way."""
    inside_days = inside_weights = 0
    errors: dict[float, list[float]] = {1 / 3: [], 1 / 2: []}
    widths: dict[float, list[float]] = {1 / 3: [], 1 / 2: []}
    for bowl in bowls:
        for share in errors:
            said = bowl.asked(share)
            inside_days += said.rest_day.low <= bowl.rest <= said.rest_day.high
            inside_weights += said.rest_kg.low <= bowl.rest_kg <= said.rest_kg.high
            errors[share].append(abs(said.rest_day.best / bowl.rest - 1))
            widths[share].append(said.rest_day.high / said.rest_day.low)
    middle = [float(np.median(errors[share])) for share in errors] + [float(np.median(widths[share])) for share in widths]
    return Score(2 * len(bowls), inside_days, inside_weights, *middle)
