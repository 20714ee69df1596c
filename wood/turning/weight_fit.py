"""The inside of :mod:`wood.turning.weights`: a bowl's log as a problem of least squares, solved with damping, weighings that are far off
giving way.

Source: damped least squares with weights that give way (Huber 1964); priors of our own judgement.
"""

import math
from dataclasses import dataclass

import numpy as np

from wood.air.climate import AirSeries
from wood.arrays import Array
from wood.drying import field
from wood.drying.diffusivity import Figures
from wood.turning.bowls import Bowl, parts
from wood.turning.drying import CELLS, TOLERANCE, drive_of, sealed_as
from wood.turning.own_pace import PaceLearnt
from wood.turning.weight_logs import SLIP, Weights
from wood.turning.weight_shapes import evidence_of, noise

FITTED = 40
# One standard deviation, in ln, of what the shell's slabs leave open of a bowl's pace, beside its species' own; and where nobody said how
# thick it is.
SHAPE_SPREAD, UNKNOWN_WALL_SPREAD = 0.20, 0.60
# What stands for a bowl of which no size is known.
USUAL_BOWL = Bowl(0.25, 0.10, 0.025)
# How much farther apart than its shape says the slow and the quick parts of a shell are, in ln, for a part one step from the middle: walls
# are uneven.
UNEVENNESS, UNEVENNESS_SPREAD = 0.03, 0.06
FREE_SPREAD, GREEN_SPREAD, NOT_GREEN_SPREAD, NOT_GREEN = 0.30, 0.25, 0.50, 0.25
# Of an ovendry mass by size and species: gravity differs by a tenth, and between the shell of an ellipsoid, which a bowl is taken for, and
# that of a cylinder of the same three measures lie four tenths.
BY_VOLUME_SPREAD, BY_OVEN_SPREAD, UNKNOWN_MASS_SPREAD = 0.30, 0.01, 3.0
PLATEAU_SPREAD = 0.008
# What a weighing may be off by beside the scale's step: the air of the last days, a thumb on the pan; as a share of the mass.
WEIGHING_SPREAD = 0.002
GIVES_WAY, FEWEST = 2.0, 3
# A shell is never quite as it was taken to be: bands are so much wider than the fit alone would have them.
MODEL_UNCERTAINTY = 1.3
ITERATIONS, LONGEST_STEP = 12, 0.7
# A step that gains less than this of χ² moves nothing that a band would show.
ENOUGH = 0.02
STEPS = (0.06, 0.08, 0.04, 0.08)
PACE, FREE, START, SPREAD, DRY, SHIFT = range(6)
# How many of these the field must be run for.
RUN_FOR = 4


@dataclass(frozen=True)
class Problem:
    """A log in order and everything that a run of its bowl needs."""

    days: Array
    masses: Array
    sigma: Array
    figures: Figures
    slab_m: float
    shares: Array
    faster: Array
    # Where each part stands between the slow and the quick, in standard deviations.
    place: Array
    drive: field.Drive
    prior: Array
    spread: Array
    greatest: float

    def means(self, rows: Array, out_days: Array) -> Array:
        """Mean moisture of the bowl at ``out_days`` for each row of (ln pace, ln free, ln start, unevenness)."""
        count = rows.shape[0]
        ran = field.dry_many(
            self.figures.wood,
            self.slab_m,
            np.repeat(np.minimum(np.exp(rows[:, START]), self.greatest), self.shares.size),
            self.drive,
            max(float(out_days[-1]), 0.01),
            target=-1.0,
            factor_shares=np.clip(
                (np.exp(rows[:, PACE])[:, None] * self.faster * np.exp(rows[:, SPREAD][:, None] * self.place)).ravel(), 1e-3, 1e3
            ),
            permeability_shares=np.repeat(np.clip(np.exp(rows[:, FREE]), 1e-2, 1e2), self.shares.size),
            out_days=out_days,
            cells=CELLS,
            tolerance=TOLERANCE,
        )
        return np.einsum("kpt,p->kt", ran.means.reshape(count, self.shares.size, -1), self.shares)

    def shifted(self, means: Array, x: Array) -> Array:
        """A mean with what its room is really off by: none of it at the start, all of it once the start is forgotten."""
        return means + x[SHIFT] * _gone(means)

    def weigh(self, x: Array, out_days: Array) -> Array:
        """Mass at ``out_days`` under figures ``x``."""
        means = self.means(x[None, :RUN_FOR], out_days)[0]
        return np.exp(x[DRY]) * (1 + self.shifted(means, x))

    def misfit(self, x: Array) -> tuple[Array, Array]:
        """Misfits by weighing and by prior, and their slopes."""
        rows = np.tile(x[:RUN_FOR], (RUN_FOR + 1, 1))
        for k, step in enumerate(STEPS):
            rows[k + 1, k] += step
        means = self.means(rows, self.days)
        dry = math.exp(x[DRY])
        masses = dry * (1 + np.array([self.shifted(mean, x) for mean in means]))
        slopes = np.empty((self.days.size, x.size))
        slopes[:, :RUN_FOR] = ((masses[1:] - masses[0]) / np.array(STEPS)[:, None]).T
        slopes[:, DRY] = masses[0]
        slopes[:, SHIFT] = dry * _gone(means[0])
        off = (masses[0] - self.masses) / self.sigma
        held = (x - self.prior) / self.spread
        return np.concatenate([off, held]), np.concatenate([slopes / self.sigma[:, None], np.diag(1 / self.spread)])


def _gone(means: Array) -> Array:
    """How much of the way to its end a mean has come, 0…1."""
    way = means[0] - means.min()
    return np.clip((means[0] - means) / max(way, 0.02), 0.0, 1.0) if way > 0.005 else np.ones(means.size)


def sigma_of(log: Weights, masses: Array) -> Array:
    """What each weighing may be off by, kg, one standard deviation."""
    return np.hypot(log.step_kg / 2, WEIGHING_SPREAD * masses)


def slips(days: Array, masses: Array) -> Array:
    """Positions of weighings far off those beside them in time, the worst first looked at, then what is left once more."""
    out: list[int] = []
    left, logs = np.arange(days.size), np.log(masses)
    while left.size >= FEWEST and len(out) < days.size // 3:
        off = np.empty(left.size)
        for i in range(left.size):
            near = np.delete(left, i)[np.argsort(np.abs(days[np.delete(left, i)] - days[left[i]]), kind="stable")[:4]]
            off[i] = abs(logs[left[i]] - np.median(logs[near])) - np.ptp(logs[near]) * (1.0 if i in (0, left.size - 1) else 0.0)
        # Of two that differ it is the one that stands alone.
        worst = int(np.argmax(off))
        if off[worst] <= SLIP or (worst == 0 and logs[left[0]] - logs[left[1]] < 0.45 and logs[left[0]] > logs[left[1]]):
            break
        out.append(int(left[worst]))
        left = np.delete(left, worst)
    return np.array(sorted(out), int)


def _shell(log: Weights, figures: Figures) -> tuple[float, Array, Array]:
    """The slab all parts are taken as, their shares, and how fast each then is."""
    shell = [sealed_as(part, log.way) for part in parts(log.bowl or USUAL_BOWL, figures.wood.along_grain)]
    shares = np.array([part.share for part in shell])
    slab = float(np.average([part.slab_m for part in shell], weights=shares))
    return slab, shares, np.array([part.faster * (slab / part.slab_m) ** 2 for part in shell])


def _place(shares: Array) -> Array:
    """Where parts stand from the slowest to the quickest, by their shares: mean 0, standard deviation 1."""
    middle = np.cumsum(shares) - shares / 2
    off = middle - np.average(middle, weights=shares)
    return off / math.sqrt(float(np.average(off**2, weights=shares)))


def _problem(log: Weights, figures: Figures, series: AirSeries, days: Array, masses: Array) -> Problem:
    slab, shares, faster = _shell(log, figures)
    sigma = sigma_of(log, masses)
    if days.size > FITTED:
        groups = np.array_split(np.arange(days.size), FITTED)
        days, masses = (np.array([column[group].mean() for group in groups]) for column in (days, masses))
        sigma = np.array([sigma[group].mean() / math.sqrt(group.size) for group in groups])
        # The curve begins where the log begins.
        days[0] = 0.0
    volume = log.volume_m3 if log.volume_m3 is not None else log.bowl.volume_m3 if log.bowl is not None else None
    green, start_spread = green_of(log, figures)
    if log.dry_mass_kg:
        dry, dry_spread = math.log(log.dry_mass_kg), BY_OVEN_SPREAD
    elif volume is not None:
        dry, dry_spread = math.log(figures.wood.density * volume), BY_VOLUME_SPREAD
    else:
        dry, dry_spread = math.log(masses[0] / (1 + green)), UNKNOWN_MASS_SPREAD
    # What this workshop's own bowls say of their pace, else the species' figures alone.
    own = log.pace if log.pace is not None and log.pace.count else PaceLearnt(1.0, figures.spread, 0)
    shape = SHAPE_SPREAD if log.bowl is not None else UNKNOWN_WALL_SPREAD
    return Problem(
        days,
        masses,
        sigma,
        figures,
        slab,
        shares,
        faster,
        _place(shares),
        drive_of(log.way, series),
        np.array([math.log(own.share), 0.0, math.log(green), UNEVENNESS, dry, 0.0]),
        np.array(
            [
                math.hypot(own.spread, shape),
                math.hypot(figures.permeability_spread, FREE_SPREAD),
                start_spread,
                UNEVENNESS_SPREAD,
                dry_spread,
                PLATEAU_SPREAD,
            ]
        ),
        min(0.98 * figures.wood.greatest_moisture, field.GREATEST_MOISTURE),
    )


def green_of(log: Weights, figures: Figures) -> tuple[float, float]:
    """What is usual of a bowl's moisture when it was turned, a fraction, and how far (ln) that is off."""
    return (figures.green_moisture, GREEN_SPREAD) if log.green else (NOT_GREEN, NOT_GREEN_SPREAD)


@dataclass(frozen=True)
class Fit:
    """The best figures of the field for a log, their covariance, and the ln of the evidence that the log gives the field (by Laplace)."""

    best: Array
    covariance: Array
    problem: Problem
    evidence: float


def _evidence(problem: Problem, x: Array, off: Array, covariance: Array) -> float:
    """The weighings as they are off its best, what it cost to leave the prior, and how much of that the log leaves open."""
    count = problem.days.size
    together = evidence_of(off[:count] * problem.sigma, noise(problem.days, problem.masses, problem.sigma))
    held = -0.5 * float(np.sum(off[count:] ** 2)) - float(np.log(problem.spread).sum())
    return together + held + 0.5 * float(np.linalg.slogdet(covariance)[1])


def fitted(log: Weights, figures: Figures, series: AirSeries, days: Array, masses: Array) -> Fit:
    """Damped least squares, weighings that are far off giving way."""
    problem = _problem(log, figures, series, days, masses)
    x = problem.prior.copy()
    # Size and weight together already say how wet it was.
    x[START] = math.log(float(np.clip(masses[0] / math.exp(x[DRY]) - 1, 0.06, 0.9 * problem.greatest)))
    x[START] = (x[START] + problem.prior[START]) / 2
    off, slopes = problem.misfit(x)
    damping = 1e-3
    for _ in range(ITERATIONS):
        weight = _giving_way(off, problem.days.size)
        weighted = slopes * weight[:, None]
        normal, right = weighted.T @ slopes, weighted.T @ off
        step = np.linalg.solve(normal + damping * np.diag(np.diag(normal)), -right)
        step = np.clip(step, -0.7, 0.7)
        further_off, further_slopes = problem.misfit(x + step)
        if _cost(further_off, problem.days.size) <= _cost(off, problem.days.size):
            gain = _cost(off, problem.days.size) - _cost(further_off, problem.days.size)
            x, off, slopes, damping = x + step, further_off, further_slopes, max(damping / 6, 1e-6)
            if gain < ENOUGH:
                break
        else:
            damping *= 8
            if damping > 1e4:
                break
    weight = _giving_way(off, problem.days.size)
    covariance = np.linalg.pinv((slopes * weight[:, None]).T @ slopes)
    # A log that scatters more than it should leaves more open.
    scatter = float(np.sqrt(np.mean((np.minimum(np.abs(off[: problem.days.size]), 3.0)) ** 2)))
    wider = np.asarray(covariance, float) * (MODEL_UNCERTAINTY * max(1.0, scatter)) ** 2
    return Fit(x, wider, problem, _evidence(problem, x, off, np.asarray(covariance, float)))


def _giving_way(off: Array, count: int) -> Array:
    """Huber's weights for the weighings; the priors keep theirs."""
    weight = np.ones(off.size)
    weight[:count] = np.minimum(1.0, GIVES_WAY / np.maximum(np.abs(off[:count]), 1e-9))
    return weight


def _cost(off: Array, count: int) -> float:
    far = np.abs(off[:count])
    huber = np.where(far <= GIVES_WAY, far**2, 2 * GIVES_WAY * far - GIVES_WAY**2)
    return float(huber.sum() + np.sum(off[count:] ** 2))
