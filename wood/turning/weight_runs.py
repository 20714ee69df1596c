"""What a bowl's log leaves open, as whole runs with their shares: of the moisture field with figures drawn from what it leaves open, and of
the shapes of :mod:`wood.turning.weight_shapes`. All that is said of a log is read off these runs, so that a band, a curve and a day agree.

Source: each reckoning has the share that its evidence gives it; beforehand the field has half of all, and no shape is preferred (Kass and
Raftery 1995), but for what earlier bowls of the same shelf have shown: their shares are counted in, as of so many draws from an urn
(Dirichlet).
"""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np

from wood.air.climate import AirSeries
from wood.air.levels import level_through
from wood.arrays import Array
from wood.drying.diffusivity import Figures
from wood.errors import check_range
from wood.turning import weight_shapes
from wood.turning.drying import AT_REST, HORIZON_DAYS, rest_day
from wood.turning.weight_fit import DRY, PACE, PLATEAU_SPREAD, RUN_FOR, SHIFT, Fit, Problem, green_of
from wood.turning.weight_logs import Weights
from wood.turning.weight_shapes import Known, Shaped

DRAWS = 24
FIELD = "field"
# Before its log is looked at a bowl dries as likely by the field, which knows its wood and its size, as by any of the shapes; in how many
# bowls' worth of doubt, until so many have come to rest (our judgement).
BELIEVED = {FIELD: float(len(weight_shapes.FAMILIES))} | {family.name: 1.0 for family in weight_shapes.FAMILIES}
# A share below this moves no band.
LEAST_SHARE = 1e-3
# Moments at which a shape is looked at for the day it comes to rest.
LONG = np.concatenate([np.arange(0.0, 400.0), np.arange(400.0, HORIZON_DAYS + 1, 4.0)])


@dataclass(frozen=True)
class Between:
    """A figure with its 80% band."""

    best: float
    low: float
    high: float


@dataclass(frozen=True)
class Runs:
    """Runs of a bowl: the share of each, and by run (rows) its moisture and its mass (kg) at ``looks`` (days), its ovendry mass, the day it
    comes to rest (infinite: not within what is looked at) and what it then weighs. ``reckonings``: the share of each way of reckoning."""

    looks: Array
    shares: Array
    moist: Array
    dry: Array
    rest: Array
    final: Array
    reckonings: Mapping[str, float] = field(default_factory=dict)

    @property
    def curves(self) -> Array:
        return np.asarray(self.dry[:, None] * (1 + self.moist))

    def between(self, values: Array) -> Between:
        """The middle of a figure that each run has, with the band that holds four in five."""
        low, best, high = quantiles(values, self.shares, (0.1, 0.5, 0.9))
        return Between(float(best), float(low), float(high))

    def along(self, part: float) -> Array:
        """The mass that so large a part of the runs lies below, day by day."""
        curves = self.curves
        order = np.argsort(curves, axis=0)
        summed = np.cumsum(self.shares[order], axis=0)
        at = np.argmax(summed >= part * summed[-1] - 1e-12, axis=0)
        return np.asarray(np.take_along_axis(curves, np.take_along_axis(order, at[None, :], axis=0), axis=0)[0])


def quantiles(values: Array, shares: Array, parts: Sequence[float]) -> list[float]:
    """Values that so large parts of all lie below, each value with its share; infinite ones stay what they are."""
    order = np.argsort(values, kind="stable")
    summed = np.cumsum(shares[order])
    return [float(values[order][min(int(np.searchsorted(summed, part * summed[-1] - 1e-12)), values.size - 1)]) for part in parts]


def room_of(series: AirSeries, days: Array) -> Array:
    """What a settled bowl weighs on days beside its mean in this room: shares about 1."""
    level = level_through(series, float(math.ceil(days[-1])))
    mean = float(np.mean(series.settling))
    return np.asarray(1 + (np.interp(days, np.arange(level.size), level) - mean) / (1 + mean))


def settles_at(series: AirSeries) -> float:
    """The moisture that a bowl that dries comes to in a room, in the mean of its year."""
    return float(np.mean(series.settling) + np.mean(series.half_loop))


def known_of(log: Weights, problem: Problem, series: AirSeries, figures: Figures) -> Known:
    """What is known of a bowl before its weights are looked at but for the first: by its size, by what is green, and by the field."""
    settled, green, green_spread = settles_at(series), *green_of(log, figures)
    guesses = [(math.log(problem.masses[0] / (1 + green)), green_spread * green / (1 + green))]
    guesses.append((float(problem.prior[DRY]), float(problem.spread[DRY])))
    surely = np.array([1 / spread**2 for _, spread in guesses])
    dry = float(np.average([guess for guess, _ in guesses], weights=surely))
    mean = problem.means(problem.prior[None, :RUN_FOR], np.linspace(0.0, 400.0, 201))[0]
    part = mean[0] - (mean[0] - min(settled, 0.9 * mean[0])) * (1 - math.exp(-1))
    pace = float(np.interp(-part, -mean, np.linspace(0.0, 400.0, 201)))
    spread = math.hypot(float(surely.sum()) ** -0.5, PLATEAU_SPREAD)
    return Known(math.exp(dry) * (1 + settled), spread, max(pace, 1.0), (1 + figures.wood.greatest_moisture) / (1 + settled))


def runs_of(log: Weights, fit: Fit, figures: Figures, series: AirSeries, earlier: Mapping[str, float]) -> Runs:
    """All runs that a log leaves open; ``earlier``: how many earlier bowls of this shelf came to rest by each way of reckoning.

    Raises:
        OutOfRange: fewer of these than none.
    """
    problem = fit.problem
    known = known_of(log, problem, series, figures)
    shapes = weight_shapes.shaped(problem.days, problem.masses, problem.sigma, room_of(series, problem.days), known)
    seen = check_range("earlier", [earlier.get(name, 0.0) for name in BELIEVED], 0.0, 1e6, " bowls")
    believed = {name: count + more for (name, count), more in zip(BELIEVED.items(), seen.tolist(), strict=True)}
    ways = {FIELD: fit.evidence} | {shape.family.name: shape.evidence for shape in shapes}
    evidence = np.array([told + math.log(believed[name]) for name, told in ways.items()])
    shares = np.exp(evidence - evidence.max())
    shares = np.where(shares / shares.sum() > LEAST_SHARE, shares, 0.0) / shares.sum()
    kept = [(shape, share, _rests(shape, known)) for shape, share in zip(shapes, shares[1:], strict=True) if share > 0]
    last = float(problem.days[-1])
    # How far to look: well beyond the day that most come to rest.
    field_rest = _field_rest(fit, series) if shares[0] > 0 else math.inf
    every = np.concatenate([[field_rest], *(rest for _, _, rest in kept)])
    weights = np.concatenate([[shares[0]], *(np.full(rest.size, share / rest.size) for _, share, rest in kept)])
    middle = quantiles(every, weights, (0.5,))[0]
    reached = middle if math.isfinite(middle) else HORIZON_DAYS
    horizon = float(min(HORIZON_DAYS, max(1.7 * reached + 10, 1.15 * last + 14, 45.0)))
    looks = np.unique(np.concatenate([np.linspace(0.0, horizon, 150), [last]]))
    parts = [_field_runs(fit, series, looks, last, shares[0])] if shares[0] > 0 else []
    parts += [_shape_runs(log, shape, share, rest, known, series, looks, last) for shape, share, rest in kept]
    columns = {name: np.concatenate([getattr(part, name) for part in parts]) for name in ("shares", "moist", "dry", "rest", "final")}
    return Runs(looks, reckonings=dict(zip(ways, shares.tolist(), strict=True)), **columns)


def _rests(shape: Shaped, known: Known) -> Array:
    """When each draw of a shape comes to rest; infinite: not within what is looked at."""
    there = shape.excess(LONG / known.pace_days) <= AT_REST * shape.final[:, None]
    return np.where(there.any(axis=1), LONG[there.argmax(axis=1)], math.inf)


def _shape_runs(log: Weights, shape: Shaped, share: float, rest: Array, known: Known, series: AirSeries, looks: Array, last: float) -> Runs:
    chance = np.random.default_rng(7)
    count = shape.final.size
    room = room_of(series, np.append(looks, looks[-1] + 28))[:-1]
    curves = shape.final[:, None] * room + shape.excess(looks / known.pace_days)
    if log.dry_mass_kg:
        dry = np.full(count, log.dry_mass_kg)
    else:
        dry = shape.final / (1 + settles_at(series) + PLATEAU_SPREAD * chance.standard_normal(count))
    # At rest it follows its room.
    when = np.where(np.isfinite(rest), np.maximum(rest, last), looks[-1])
    final = np.array([np.interp(day, looks, curve) for day, curve in zip(when, curves, strict=True)])
    final = np.where(when > looks[-1], shape.final * (1 + AT_REST), final)
    return Runs(looks, np.full(count, share / count), curves / dry[:, None] - 1, dry, rest, final)


def _draws() -> Array:
    """Standard normal draws for the five figures, in pairs of opposites, the same every time."""
    half = np.random.default_rng(5).standard_normal((DRAWS // 2, SHIFT + 1))
    return np.concatenate([half, -half])


def _field_rest(fit: Fit, series: AirSeries) -> float:
    looks = np.linspace(0.0, HORIZON_DAYS, 380)
    mean = fit.problem.means(fit.best[None, :RUN_FOR], looks)[0]
    return _rest(looks, mean, fit.best, series, 0.0)[0]


def _field_runs(fit: Fit, series: AirSeries, looks: Array, last: float, share: float) -> Runs:
    values, vectors = np.linalg.eigh((fit.covariance + fit.covariance.T) / 2)
    rows = fit.best + _draws() @ (vectors * np.sqrt(np.maximum(values, 0.0))).T
    rows = np.concatenate([fit.best[None, :], rows])
    means = fit.problem.means(rows[:, :RUN_FOR], looks)
    moist = np.array([fit.problem.shifted(mean, x) for mean, x in zip(means, rows, strict=True)])
    rest, final = (
        np.array(column) for column in zip(*(_rest(looks, mean, x, series, last) for mean, x in zip(means, rows, strict=True)), strict=True)
    )
    return Runs(looks, np.full(rows.shape[0], share / rows.shape[0]), moist, np.exp(rows[:, DRY]), rest, final)


def _rest(looks: Array, mean: Array, x: Array, series: AirSeries, last: float) -> tuple[float, float]:
    """When a bowl comes to rest, and its weight then; one that is at rest follows its room, so it is the weight in the four weeks from its
    last weighing.
    """
    by_day = np.interp(np.arange(int(np.ceil(looks[-1])) + 1), looks, mean)
    level = level_through(series, float(looks[-1]), np.maximum(by_day, 0.0))[: by_day.size]
    day = rest_day(np.arange(by_day.size, dtype=float), by_day, level)
    if math.isfinite(day) and day > last:
        return day, math.exp(x[DRY]) * (1 + float(np.interp(day, looks, mean)) + x[SHIFT])
    where = int(min(last, level.size - 1)) if math.isfinite(day) else level.size - 1
    return day, math.exp(x[DRY]) * (1 + float(np.mean(level[where : where + 28])) + x[SHIFT])


def pace_of(fit: Fit) -> Between:
    """How fast a bowl dries beside what is usual of its wood and size, by the field."""
    best, spread = float(fit.best[PACE]), 1.2816 * math.sqrt(max(float(fit.covariance[PACE, PACE]), 0.0))
    return Between(math.exp(best), math.exp(best - spread), math.exp(best + spread))
