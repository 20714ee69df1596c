"""Learning from the log: what a piece's own weighings and readings say of how fast it dries.

The moisture field is fitted to the log: the board's own factor, where its place really brings it, its moisture at the first entry and,
for weighings without an oven test, its ovendry mass. What is usual for the species and the place weighs in as a prior, so three
entries suffice and thirty decide by themselves. A single entry that is out of all proportion is named and left out.

Source: the field of :mod:`wood.drying.field`; least squares with priors of our own judgement.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from wood.air.climate import AirSeries
from wood.air.levels import level_through
from wood.arrays import Array
from wood.drying import field
from wood.drying.diffusivity import Figures
from wood.errors import OutOfRange, WoodError, check_range
from wood.stacks.air import OpenBoard, Stack

FEWEST = 3
MOST = 5000
# Fits look at no more than this many entries; denser logs are averaged in equal parts.
FITTED = 60
# How far the place may really bring wood beside its EMC: the sorption table is good to a point or two (one standard deviation).
PLATEAU_SPREAD = 0.010
START_SPREAD = 0.03
DRY_MASS_SPREAD = 0.30
# An entry this many of its own uncertainties (and at least a point and a half) off the entries about it is named.
ABSURD = 5.0
ABSURD_LEAST = 0.015
MOST_ABSURD = 3
# Of ln factor, plateau shift, start and ln dry mass.
SLOPE_STEPS = (0.05, 0.002, 0.005, 0.01)
# A place counts as reached, or a rise as real, beyond this much (fraction of moisture).
FLAT_POINTS = 0.002
PROPER_INTERVAL_DAYS = 2.0
STALLED_ABOVE = 0.015


class TooFew(WoodError):
    """Fewer than three usable entries: a line through two says nothing about where it ends."""

    def __init__(self, count: int) -> None:
        self.field, self.count = "entries", count
        super().__init__(f"{count} usable entries; a forecast needs at least {FEWEST}")


class Flag(StrEnum):
    """What the newest entries of a log say besides its pace."""

    LEVEL = "level"
    RISING = "rising"
    TOO_FAST = "too_fast"
    STALLED = "stalled"


@dataclass(frozen=True)
class Log:
    """Entries of one piece: days since the first moment (any order), and either moistures or masses.

    ``moistures`` are fractions; ``masses_kg`` stand with ``dry_mass_kg`` where it is known, ``None`` where it is to be found out.
    ``uncertainty`` is that of one entry (fraction of moisture, or of the mass for masses), 95%.

    Raises:
        OutOfRange: different lengths, nothing finite, impossible values, more than 5000 entries.
    """

    days: Sequence[float]
    moistures: Sequence[float] | None = None
    masses_kg: Sequence[float] | None = None
    dry_mass_kg: float | None = None
    uncertainty: float = 0.01

    def __post_init__(self) -> None:
        values = self.moistures if self.moistures is not None else self.masses_kg
        if values is None:
            raise OutOfRange("entries", 0, FEWEST, MOST)
        check_range("entries", len(self.days), 0, MOST)
        check_range("values", len(values), len(self.days), len(self.days))
        check_range("days", self.days, -1e5, 1e5, " days")
        if self.moistures is not None:
            check_range("moistures", values, 0.0, field.GREATEST_MOISTURE)
        else:
            check_range("masses_kg", values, 1e-6, 20_000.0, " kg")
            if self.dry_mass_kg is not None:
                check_range("dry_mass_kg", self.dry_mass_kg, 1e-6, 20_000.0, " kg")
                # Nothing weighs less than it does ovendry: one of the two is wrong.
                check_range("masses_kg", values, self.dry_mass_kg, 20_000.0, " kg")
        check_range("uncertainty", self.uncertainty, 1e-5, 0.5)


@dataclass(frozen=True)
class Problem:
    """The log in order and thinned, and everything a run of the field needs."""

    days: np.ndarray
    values: np.ndarray
    weights: np.ndarray
    by_mass: bool
    figures: Figures
    slab_m: float
    drive: field.Drive
    prior: np.ndarray
    prior_spread: np.ndarray
    known_dry: float | None

    def moistures(self, x: np.ndarray) -> np.ndarray:
        """The entries as moistures under the parameters ``x`` (ln factor share, plateau shift, start, ln dry mass)."""
        if not self.by_mass:
            return self.values
        return self.values / (self.known_dry or float(np.exp(x[3]))) - 1

    def run(self, x: np.ndarray, out_days: np.ndarray) -> np.ndarray:
        """Mean moisture of the board at ``out_days`` (from its first entry on)."""
        last = max(float(out_days[-1]), 1e-3)
        start = float(np.clip(x[2], 0.0, field.GREATEST_MOISTURE))
        means = field.dry_many(
            self.figures.wood,
            self.slab_m,
            start,
            self.drive,
            last,
            factor_shares=float(np.clip(np.exp(x[0]), 1e-3, 1e3)),
            target=-1.0,
            out_days=out_days,
        ).means[0]
        # The shift belongs to where it is heading: nothing of it at the start, all of it once the start is forgotten.
        lost_share = np.clip((start - means) / max(start - means[-1], 0.02), 0.0, 1.0) if abs(start - means[-1]) > 0.02 else 1.0
        return means + x[1] * lost_share

    def misfits(self, x: np.ndarray) -> np.ndarray:
        means = self.run(x, self.days)
        entries = self.moistures(x)
        # A mass that is off by a share is off by that share of (1 + M).
        scale = self.weights * (1 + entries) if self.by_mass else self.weights
        return np.concatenate([(means - entries) / scale, (x - self.prior) / self.prior_spread])

    def slopes(self, x: np.ndarray) -> np.ndarray:
        """∂misfits/∂x by steps wide enough that the field's own step control does not show in them."""
        columns = []
        for k, step in enumerate(SLOPE_STEPS):
            ahead, behind = x.copy(), x.copy()
            ahead[k] += step
            behind[k] -= step
            columns.append((self.misfits(ahead) - self.misfits(behind)) / (2 * step))
        return np.column_stack(columns)


@dataclass(frozen=True)
class Learned:
    """What a log says of its board, before anything is foretold: see :class:`Forecast` for the names.

    ``moistures`` are all entries as moistures, in the order of their days ``at``.
    """

    factor_share: float
    factor_spread: float
    plateau_shift: float
    dry_mass_kg: float | None
    at: np.ndarray
    moistures: np.ndarray
    scatter: float
    absurd: tuple[int, ...]
    flags: tuple[str, ...]
    problem: Problem
    best: np.ndarray
    covariance: np.ndarray


def learn(
    log: Log,
    figures: Figures,
    slab_m: float,
    series: AirSeries,
    exposure: OpenBoard | Stack,
    *,
    safe_rate: float | None = None,
    coating_s_m: float = 0.0,
) -> Learned:
    """Fit the log of a slab ``slab_m`` metres thick. Arguments and errors as :func:`wood.drying.forecast.forecast`."""
    check_range("slab_m", slab_m, *field.THICKNESS_M, " m")
    values = np.asarray(log.moistures if log.moistures is not None else log.masses_kg, float)
    order = np.argsort(np.asarray(log.days, float), kind="stable")
    days, values = np.asarray(log.days, float)[order], values[order]
    if np.unique(days).size < FEWEST:
        raise TooFew(int(np.unique(days).size))
    by_mass = log.moistures is None
    absurd = _absurd(days, values, log.uncertainty / 2, by_mass)
    remaining = np.setdiff1d(np.arange(days.size), absurd)
    if np.unique(days[remaining]).size < FEWEST:
        absurd, remaining = np.array([], int), np.arange(days.size)
    problem = _problem(
        log, figures, slab_m, series, exposure, coating_s_m, days[remaining] - days[remaining][0], values[remaining], by_mass
    )
    # Loaded where it is needed: it takes half a second, and no page waits for it (command/serving.py).
    from scipy.optimize import least_squares

    result = least_squares(problem.misfits, problem.prior, jac=problem.slopes, x_scale=problem.prior_spread, max_nfev=25)
    covariance = np.linalg.pinv(result.jac.T @ result.jac)
    moistures = _moistures(values, by_mass, log.dry_mass_kg, result.x)
    return Learned(
        factor_share=float(np.exp(result.x[0])),
        factor_spread=float(np.sqrt(max(covariance[0, 0], 0.0))),
        plateau_shift=float(result.x[1]),
        dry_mass_kg=(log.dry_mass_kg or float(np.exp(result.x[3]))) if by_mass else None,
        at=days,
        moistures=moistures,
        scatter=float(np.std(problem.run(result.x, problem.days) - problem.moistures(result.x))),
        absurd=tuple(int(order[k]) for k in absurd),
        flags=_flags(days[remaining], moistures[remaining], series, log.uncertainty, by_mass, safe_rate, figures),
        problem=problem,
        best=result.x,
        covariance=covariance,
    )


def _moistures(values: np.ndarray, by_mass: bool, dry_mass_kg: float | None, x: np.ndarray) -> np.ndarray:
    return values / (dry_mass_kg or float(np.exp(x[3]))) - 1 if by_mass else values


def _problem(
    log: Log,
    figures: Figures,
    slab_m: float,
    series: AirSeries,
    exposure: OpenBoard | Stack,
    coating_s_m: float,
    days: Array,
    values: Array,
    by_mass: bool,
) -> Problem:
    if days.size > FITTED:
        parts = [part for part in np.array_split(np.arange(days.size), FITTED) if part.size]
        counts = np.array([part.size for part in parts])
        days, values = (np.array([column[part].mean() for part in parts]) for column in (days, values))
    else:
        counts = np.ones(days.size)
    usual_start = figures.green_moisture
    if by_mass and log.dry_mass_kg:
        usual_start = float(values[0] / log.dry_mass_kg - 1)
    elif not by_mass:
        usual_start = float(values[0])
    dry = float(np.log(values[0] / (1 + usual_start))) if by_mass else 0.0
    # Where the ovendry mass is not known, the start is as unsure as green wood is.
    loose = by_mass and not log.dry_mass_kg
    return Problem(
        days=days,
        values=values,
        weights=np.maximum(log.uncertainty / 2 / np.sqrt(counts), 1e-4),
        by_mass=by_mass,
        figures=figures,
        slab_m=slab_m,
        drive=field.driven(series, exposure, coating_s_m),
        prior=np.array([0.0, 0.0, usual_start, dry]),
        prior_spread=np.array(
            [
                figures.spread,
                PLATEAU_SPREAD,
                max(0.3 * usual_start, START_SPREAD) if loose else START_SPREAD,
                DRY_MASS_SPREAD if loose else 1.0,
            ]
        ),
        known_dry=log.dry_mass_kg,
    )


def _absurd(days: np.ndarray, values: np.ndarray, sigma: float, by_mass: bool) -> np.ndarray:
    """Positions of single entries out of all proportion to the four about them; at most a few, since a log full of them is no log."""
    limit = max(ABSURD * sigma * (2.0 if by_mass else 1.0), ABSURD_LEAST) * (np.median(values) if by_mass else 1.0)
    left = np.arange(days.size)
    result: list[int] = []
    # One bad entry spoils its neighbours' neighbours: only the farthest is taken, then one looks again.
    while len(result) < MOST_ABSURD and left.size > FEWEST:
        off = np.array([_off_its_neighbours(days[left], values[left], k) for k in range(left.size)])
        worst = int(np.argmax(off))
        if off[worst] <= limit:
            break
        result.append(int(left[worst]))
        left = np.delete(left, worst)
    return np.sort(np.array(result, int))


def _off_its_neighbours(days: np.ndarray, values: np.ndarray, k: int) -> float:
    """How far an entry lies outside the four nearest in time (in a log in order), beyond what a steep log lets it."""
    around = np.array([i for i in range(max(0, k - 4), min(days.size, k + 5)) if i != k])
    near = around[np.argsort(np.abs(days[around] - days[k]), kind="stable")[:4]]
    if near.size < 3:
        return 0.0
    low, high = values[near].min(), values[near].max()
    # A wet entry at the beginning of a log is steep, not absurd, so the ends may lie farther out.
    return max(low - values[k], values[k] - high, 0.0) - (high - low) * (1.5 if k in (0, days.size - 1) else 0.5)


def _flags(
    days: Array, entries: Array, series: AirSeries, uncertainty: float, by_mass: bool, safe_rate: float | None, figures: Figures
) -> tuple[Flag, ...]:
    result = []
    level = float(level_through(series, max(float(days[-1] - days[0]), 1.0), float(entries[-1]))[-1])
    resolution = max(uncertainty * ((1 + entries[-1]) if by_mass else 1.0) * 0.5, FLAT_POINTS)
    last = _spaced(days)
    if len(last) == 3:
        newest = entries[last]
        if np.ptp(newest) <= resolution:
            above = float(newest.mean()) - level
            result.append(Flag.STALLED if above > max(STALLED_ABOVE, 2 * resolution) and newest.mean() > 0.1 else Flag.LEVEL)
        elif newest[2] - newest[0] > resolution:
            result.append(Flag.RISING)
    if safe_rate is not None and days.size >= 2:
        gaps = np.diff(days)
        wet = entries[:-1] > figures.wood.fibre_saturation * 0.85
        rates = -np.diff(entries) / np.maximum(gaps, 0.5)
        if np.any(rates[wet] > safe_rate):
            result.append(Flag.TOO_FAST)
    return tuple(result)


def _spaced(days: np.ndarray) -> list[int]:
    """Positions of the newest three entries that lie proper intervals apart, oldest first."""
    chosen = [days.size - 1]
    for k in range(days.size - 2, -1, -1):
        if days[chosen[-1]] - days[k] >= PROPER_INTERVAL_DAYS:
            chosen.append(k)
        if len(chosen) == 3:
            break
    return chosen[::-1]
