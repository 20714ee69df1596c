"""A bowl's weights: how much of one is water, how fast that goes, and when and at what weight it comes to rest, from a scale alone.

No oven weight is needed, and nothing else. The shell of :mod:`wood.turning.bowls` is run through the moisture field, and five figures are
found together: how fast this bowl dries beside its species, how freely its free water moves, how wet it was at the first weighing, what it
would weigh without any water, and where its room really brings it. Beside the field stand five plain shapes
(:mod:`wood.turning.weight_shapes`), each weighed by how well it foretold this log. What is usual of the species, of the room, and of a bowl
of its size weighs in as a prior, so that one weighing gives a forecast with a wide band and each further one narrows it. Every band is of
whole runs, of the field and of the shapes, with figures drawn from what the log leaves open.

Sources: the field of :mod:`wood.drying.field`; damped least squares with weights that give way (Huber 1964); Kass and Raftery 1995; the
priors are our own judgement.
"""

import math
from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from types import MappingProxyType

import numpy as np

from wood.air.climate import AirSeries
from wood.air.levels import level_through
from wood.arrays import Array
from wood.drying.diffusivity import Figures
from wood.turning.drying import AT_REST
from wood.turning.weight_fit import FEWEST, Fit, fitted, sigma_of, slips
from wood.turning.weight_logs import Weights
from wood.turning.weight_runs import Between, Runs, pace_of, runs_of

ABSURD, ABSURD_SHARE = 6.0, 0.012
FLAT_SHARE, SPACED_DAYS, FLAT_OVER_DAYS, STALLED_ABOVE = 0.006, 2.0, 14.0, 0.03
STALLED_DAYS, STALLED_PART = 14.0, 0.25
WEIGH_AT_SHARE, WEIGH_DAYS = 0.015, (2.0, 28.0)


class State(StrEnum):
    """What the newest weighings say."""

    FALLING = "falling"
    FLAT = "flat"
    RISING = "rising"
    STALLED = "stalled"


@dataclass(frozen=True)
class Weighed:
    """What a weight log says. Masses in kilograms, days from the first weighing, moistures as fractions; bands hold four times in five.

    ``curve_days``, ``curve``, ``low`` and ``high`` are the weight before and after today; ``rest_day`` when it comes to rest (infinite if
    not within four years), ``rest_kg`` at what. ``moisture`` is that at the last weighing and ``start`` that at the first. ``absurd`` are
    positions, in the order of the log, of weighings that were left out. ``next_day`` is when it is worth weighing again; ``dips`` says that
    it went below what its room brings it to and comes back.
    """

    curve_days: Array
    curve: Array
    low: Array
    high: Array
    rest_day: Between
    rest_kg: Between
    dry_mass_kg: Between
    start: Between
    moisture: Between
    pace: Between
    state: State
    absurd: tuple[int, ...]
    next_day: float
    last_day: float
    last_kg: float
    count: int
    level: float
    dips: bool = False
    reckonings: Mapping[str, float] = field(default_factory=dict)

    def expected_kg(self, day: float) -> float:
        """What it is to weigh on a day."""
        return float(np.interp(day, self.curve_days, self.curve))


def weighed(log: Weights, figures: Figures, series: AirSeries, earlier: Mapping[str, float] = MappingProxyType({})) -> Weighed:
    """What a weight log says.

    Args:
        series: the room's air from the first weighing on; it goes round after its end; earlier: of earlier bowls of this shelf that came to
            rest, the sums of their ``reckonings``, 0…10⁶ each.
    Raises:
        OutOfRange.

    >>> from wood.air.climate import constant
    >>> from wood.drying.diffusivity import of_species
    >>> from wood.species import species_named
    >>> from wood.turning.bowls import Bowl
    >>> maple = of_species(species_named("sugar_maple"))
    >>> item = weighed(Weights([0.0], [1.6], bowl=Bowl(0.25, 0.1, 0.025)), maple, constant(18, 0.5))
    >>> 0.8 < item.rest_kg.low < item.rest_kg.high < 1.3
    True
    """
    order = np.argsort(np.asarray(log.days, float), kind="stable")
    days, masses = np.asarray(log.days, float)[order], np.asarray(log.masses_kg, float)[order]
    days = days - days[0]
    out = slips(days, masses)
    remaining = np.setdiff1d(np.arange(days.size), out)
    fit = fitted(log, figures, series, days[remaining], masses[remaining])
    runs = runs_of(log, fit, figures, series, earlier)
    # Single weighings that the rest does not explain are named, and the rest speaks without them. One that is far off may have drawn all to
    # itself; the field's fit gives less way to it.
    wild = remaining[
        _alone(log, masses[remaining], _far(log, np.interp(days[remaining], runs.looks, runs.along(0.5)), masses[remaining], 0.5))
    ]
    if not wild.size:
        wild = remaining[_alone(log, masses[remaining], _far(log, fit.problem.weigh(fit.best, days[remaining]), masses[remaining]))]
    if 0 < wild.size <= max(1, remaining.size // 4) and remaining.size - wild.size >= FEWEST:
        without = np.setdiff1d(remaining, wild)
        fit_without = fitted(log, figures, series, days[without], masses[without])
        runs_without = runs_of(log, fit_without, figures, series, earlier)
        wild = wild[_far(log, np.interp(days[wild], runs_without.looks, runs_without.along(0.5)), masses[wild])]
        if wild.size:
            remaining, out = np.setdiff1d(remaining, wild), np.union1d(out, wild)
            fit, runs = fit_without, runs_without
            if remaining.size > without.size:
                fit = fitted(log, figures, series, days[remaining], masses[remaining])
                runs = runs_of(log, fit, figures, series, earlier)
    return _told(log, fit, runs, days[remaining], masses[remaining], tuple(sorted(int(order[k]) for k in out)), series)


def _far(log: Weights, expected: Array, masses: Array, part: float = 1.0) -> Array:
    """Which weighings are farther off what is expected of them than so large a ``part`` of what a scale and a room explain; one that is off
    has drawn some of what is expected to itself."""
    off = np.abs(expected - masses) / part
    return np.asarray((off > ABSURD * sigma_of(log, masses)) & (off > ABSURD_SHARE * masses))


def _alone(log: Weights, masses: Array, far: Array) -> Array:
    """Those that are off by themselves: two beside each other are no slip, something happened; and what agrees with the weighing beside it
    was seen twice."""
    alike = np.abs(np.diff(masses)) <= 2 * np.minimum(*(sigma_of(log, end) for end in (masses[1:], masses[:-1])))
    beside = np.zeros(far.size, bool)
    for pair in (np.logical_and(far[1:], far[:-1]), alike):
        beside[1:] |= pair
        beside[:-1] |= pair
    return np.asarray(far & ~beside)


def _told(log: Weights, fit: Fit, runs: Runs, days: Array, masses: Array, absurd: tuple[int, ...], series: AirSeries) -> Weighed:
    last, curve = float(days[-1]), runs.along(0.5)
    at = int(np.searchsorted(runs.looks, last))
    moisture, rest = runs.between(runs.moist[:, at]), runs.between(runs.rest)
    level = float(level_through(series, max(last, 1.0), max(moisture.best, 0.0))[-1])
    lowest = int(np.argmin(curve))
    return Weighed(
        runs.looks,
        curve,
        runs.along(0.1),
        runs.along(0.9),
        rest,
        runs.between(runs.final),
        runs.between(runs.dry),
        runs.between(runs.moist[:, 0]),
        moisture,
        pace_of(fit),
        _state(log, days, masses, moisture, level, curve, runs.looks, rest.best),
        absurd,
        _next(log, runs.looks, curve, last, rest.best),
        last,
        float(masses[-1]),
        int(days.size),
        level,
        dips=bool(lowest < runs.looks.size - 1 and curve[-1] > curve[lowest] * 1.01 and runs.looks[lowest] < 30),
        reckonings=runs.reckonings,
    )


def _spaced(days: Array) -> list[int]:
    """Positions of the newest three weighings that lie apart, oldest first."""
    chosen = [days.size - 1]
    for k in range(days.size - 2, -1, -1):
        if days[chosen[-1]] - days[k] >= SPACED_DAYS:
            chosen.append(k)
        if len(chosen) == FEWEST:
            break
    return chosen[::-1]


def _weeks(days: Array) -> slice | None:
    """The weighings of the last two weeks and the one they began from, three that lie apart at the least; None where it is no two weeks."""
    before = np.flatnonzero(days <= days[-1] - FLAT_OVER_DAYS)
    return slice(min(int(before[-1]), _spaced(days)[0]), days.size) if before.size else None


def _state(log: Weights, days: Array, masses: Array, now: Between, level: float, curve: Array, looks: Array, rest_day: float) -> State:
    newest = _spaced(days)
    last = float(days[-1])
    if len(newest) < FEWEST:
        return State.FALLING
    three = masses[newest]
    resolution = max(log.step_kg, FLAT_SHARE * float(three.mean()))
    weeks = _weeks(days)
    moved = math.inf if weeks is None else float(np.ptp(masses[weeks]))
    # A bowl that was wet throughout and has hardly lost anything is slow to begin, not done.
    still = (float(np.interp(last, looks, curve)) - float(np.interp(last + 21, looks, curve))) / float(three.mean())
    # At rest it goes up and down with its room, by less than it would after a warm box.
    if last >= rest_day and abs(now.best - level) <= AT_REST * (1 + level) and moved <= 2 * resolution:
        return State.FLAT
    if three[2] - three[0] > resolution and three[2] >= three[1] > three[0]:
        return State.RISING
    if moved <= resolution and (last >= rest_day or (still < AT_REST and now.best < level + STALLED_ABOVE)):
        return State.FLAT
    # A slow bowl may look still between two looks; stalled is what has not moved for a good part of its log.
    window = masses[days >= last - max(STALLED_DAYS, STALLED_PART * last)]
    if window.size >= FEWEST and float(np.ptp(window)) <= resolution and now.low > level + STALLED_ABOVE:
        return State.STALLED
    return State.FALLING


def _next(log: Weights, looks: Array, curve: Array, last: float, rest: float) -> float:
    """When it will have changed so much that weighing is worth it; near its rest soon enough to see it stand still."""
    now = float(np.interp(last, looks, curve))
    enough = max(WEIGH_AT_SHARE * now, 3 * log.step_kg)
    ahead = looks[looks > last]
    changed = np.abs(np.interp(ahead, looks, curve) - now) >= enough
    day = float(ahead[np.argmax(changed)]) if changed.any() else last + WEIGH_DAYS[1]
    if rest < day:
        day = max(rest, last + FLAT_OVER_DAYS / 2)
    return float(np.clip(day, last + WEIGH_DAYS[0], last + WEIGH_DAYS[1]))
