"""Several readings, or several boards: their mean, how sure it is, how many more are needed, and the odd one."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.special import stdtrit

from wood.errors import check_range

# Readings on one board of settled stock scatter by about this (one standard deviation); it stands in for the sample's own
# scatter while there are few readings, with the weight of three of them.
USUAL_SPREAD = 0.006
PRIOR_READINGS = 3


@dataclass(frozen=True)
class Interval:
    """A mean with its t-interval: ``mean`` ± ``half_width`` at 95 %, from ``count`` values scattering by ``spread``."""

    mean: float
    spread: float
    count: int
    half_width: float


def t_interval(values: Sequence[float], usual_spread: float | None = None, confidence: float = 0.95) -> Interval:
    """The mean of some values and how far the true mean may be from it.

    Args:
        values: at least one; without ``usual_spread`` at least two.
        usual_spread: what such values are known to scatter by; it joins the sample's own scatter with the weight of
            three values, so that even a single reading has an honest interval.
    Raises:
        OutOfRange: too few values, or one that is not a number.

    >>> interval = t_interval([0.10, 0.11, 0.12])
    >>> round(interval.mean, 3), round(interval.half_width, 4)
    (0.11, 0.0248)
    """
    sample = check_range("values", values, -1e6, 1e6)
    check_range("count", sample.size, 1 if usual_spread else 2, math.inf)
    prior = PRIOR_READINGS if usual_spread else 0
    degrees = sample.size - 1 + prior
    squares = float(((sample - sample.mean()) ** 2).sum()) + prior * (usual_spread or 0.0) ** 2
    spread = math.sqrt(squares / degrees)
    half_width = float(stdtrit(degrees, 0.5 + confidence / 2)) * spread / math.sqrt(sample.size)
    return Interval(float(sample.mean()), spread, int(sample.size), half_width)


def half_width_with(spread: float, count: int, prior: int = PRIOR_READINGS, confidence: float = 0.95) -> float:
    """The half width that ``count`` readings would give if they scatter by ``spread``."""
    return float(stdtrit(count - 1 + prior, 0.5 + confidence / 2)) * spread / math.sqrt(count)


def more_needed(interval: Interval, wanted_half_width: float, prior: int = 0, limit: int = 200) -> int | None:
    """How many more values bring the half width down to what is wanted; 0 if it is there; ``None`` if ``limit`` are not enough.

    >>> more_needed(t_interval([0.10, 0.11, 0.12, 0.13]), 0.01)
    5
    """
    check_range("wanted_half_width", wanted_half_width, 1e-9, math.inf)
    for more in range(limit + 1):
        if half_width_with(interval.spread, interval.count + more, prior) <= wanted_half_width:
            return more
    return None


def odd_ones(values: Sequence[float], least_distance: float = 0.01) -> list[int]:
    """Positions of values that do not belong: more than 3.5 robust standard deviations from the median and at least ``least_distance`` off.

    The robust deviation is 1.4826 × the median absolute deviation (Iglewicz and Hoaglin). Fewer than four values have no odd one.

    >>> odd_ones([0.112, 0.115, 0.110, 0.114, 0.171])
    [4]
    """
    sample = np.asarray(values, dtype=float)
    if sample.size < 4:
        return []
    distance = np.abs(sample - np.median(sample))
    robust = 1.4826 * np.median(distance)
    return [int(i) for i in np.nonzero((distance > 3.5 * robust) & (distance >= least_distance))[0]]
