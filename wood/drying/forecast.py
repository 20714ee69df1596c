"""Looking ahead from a piece's own log: when it will be there, how sure that is, and what a plain exponential would say.

The curve and its band come from the board that :mod:`wood.drying.learning` has fitted to the log.

Source: the field of :mod:`wood.drying.field`; the exponential beside it is the usual one of practice.
"""

import math
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from wood.air.climate import AirSeries
from wood.drying.diffusivity import Figures
from wood.drying.learning import FLAT_POINTS, Log, Problem, learn
from wood.errors import check_range
from wood.stacks.air import OpenBoard, Stack

HORIZON_DAYS = 1500.0
BAND_RUNS = 128


@dataclass(frozen=True)
class Forecast:
    """What the log says.

    ``factor_share`` is this board's factor over its species'; ``plateau_shift`` how much above (+) or below its place's EMC it is
    heading (fraction). ``days``, ``mean``, ``low``, ``high`` is the curve with its 80% band, in the log's days; ``reached_day`` (with
    band) when it comes to the target, infinite if never. ``dry_mass_kg`` is what masses were divided by. ``absurd`` lists positions of
    entries left out.
    ``exponential_days`` is the plain exponential's answer for the same target, ``None`` where it has none.
    """

    factor_share: float
    factor_spread: float
    plateau_shift: float
    dry_mass_kg: float | None
    days: np.ndarray
    mean: np.ndarray
    low: np.ndarray
    high: np.ndarray
    entries: np.ndarray
    final_moisture: float
    reached_day: float
    reached_low: float
    reached_high: float
    scatter: float
    exponential_days: float | None
    absurd: tuple[int, ...] = ()
    flags: tuple[str, ...] = field(default_factory=tuple)


def forecast(
    log: Log,
    figures: Figures,
    slab_m: float,
    series: AirSeries,
    exposure: OpenBoard | Stack,
    target: float,
    *,
    safe_rate: float | None = None,
    coating_s_m: float = 0.0,
) -> Forecast:
    """Fit the log and look ahead.

    Args:
        slab_m: the thickness that dries (a bowl's wall, a board's thickness).
        series: the air from the log's first day on; it goes round after its end.
        target: the moisture to be reached.
        safe_rate: greatest safe loss a day, for the flag.
    Raises:
        TooFew: fewer than three entries at different times. OutOfRange.
    """
    check_range("target", target, 0.0, 1.0)
    known = learn(log, figures, slab_m, series, exposure, safe_rate=safe_rate, coating_s_m=coating_s_m)
    ahead = _ahead(known.problem, known.best, known.covariance, target, float(known.problem.days[-1]))
    out = np.asarray(log.days, float)[list(known.absurd)]
    believed = ~np.isin(known.at, out)
    first = float(known.at[believed][0])
    return Forecast(
        factor_share=known.factor_share,
        factor_spread=known.factor_spread,
        plateau_shift=known.plateau_shift,
        dry_mass_kg=known.dry_mass_kg,
        **{name: value + first if "day" in name else value for name, value in ahead.items()},
        entries=known.moistures,
        scatter=known.scatter,
        exponential_days=_exponential(known.at[believed], known.moistures[believed], target),
        absurd=known.absurd,
        flags=known.flags,
    )


def _ahead(problem: Problem, best: np.ndarray, covariance: np.ndarray, target: float, last_day: float) -> dict[str, Any]:
    """The curve ahead with its band, from draws of the fitted parameters."""
    horizon = HORIZON_DAYS
    rough_days = np.linspace(0, horizon, 400)
    means = problem.run(best, rough_days)
    falling = means[0] > target
    passed = np.flatnonzero(means <= target if falling else means >= target)
    shown = min(horizon, max(1.4 * rough_days[passed[0]] if passed.size else 0.0, 1.5 * last_day, last_day + 60.0))
    days = np.linspace(0, shown, 121)
    rng = np.random.default_rng(11)
    draws = rng.multivariate_normal(best, covariance, size=BAND_RUNS, method="svd")
    curves = np.array([problem.run(draw, days) for draw in draws[:BAND_RUNS]])
    middle = problem.run(best, days)
    crossings = np.array([_crossing(days, curve, target) for curve in curves])
    low, high = np.percentile(crossings, [10, 90], method="nearest")
    reached = _crossing(days, middle, target)
    if not np.isfinite(reached) and passed.size:
        reached = float(rough_days[passed[0]])
    return {
        "days": days,
        "mean": middle,
        "low": np.percentile(curves, 10, axis=0),
        "high": np.percentile(curves, 90, axis=0),
        "final_moisture": float(means[-1]),
        "reached_day": reached,
        "reached_low": min(float(low), reached),
        "reached_high": max(float(high), reached),
    }


def _crossing(days: np.ndarray, means: np.ndarray, target: float) -> float:
    side = means - target
    if side[0] == 0:
        return 0.0
    over = np.flatnonzero(side * np.sign(side[0]) <= 0)
    if not over.size:
        return np.inf
    k = int(over[0])
    return float(days[k - 1] + (days[k] - days[k - 1]) * side[k - 1] / (side[k - 1] - side[k]))


def _exponential(days: np.ndarray, entries: np.ndarray, target: float) -> float | None:
    """When a single exponential through the log reaches the target, in the log's days; ``None`` where it fits none or never does."""
    span = days[-1] - days[0]
    if span <= 0 or np.ptp(entries) < FLAT_POINTS:
        return None
    best = (math.inf, 1.0, np.zeros(2))
    for constant in span * np.geomspace(0.1, 20, 60):
        shape = np.column_stack([np.ones(days.size), np.exp(-(days - days[0]) / constant)])
        coefficients, *_ = np.linalg.lstsq(shape, entries, rcond=None)
        error = float(np.sum((shape @ coefficients - entries) ** 2))
        if error < best[0]:
            best = (error, float(constant), coefficients)
    _, constant, (plateau, drop) = best
    share = (target - plateau) / drop if drop else 0.0
    return float(days[0] - constant * np.log(share)) if 0 < share <= 1 and plateau >= 0 else None
