"""When wood has arrived: not when it first touches what is wanted, but when it may be worked.

The first day from which the mean stays within what is wanted for a month, core and outside agreeing. What is wanted may move with the
season; it is looked up day by day. Wood that follows a room in and out of what is wanted has arrived in no season that is shorter.

Source: a rule of our own, after the practice of waiting until weights stand still; docs/science.md.
"""

from dataclasses import dataclass

import numpy as np

from wood.arrays import Array, Values
from wood.errors import check_range
from wood.measuring.profile import USUAL_DEPTH

STAY_DAYS = 28.0
# What a reading in the middle shows over one at the usual depth, against the middle over the mean: a parabola's (1 − 2·0.2)² over a third.
READ_PER_MEAN = 3 * (1 - 2 * USUAL_DEPTH) ** 2
# Arrivals farther apart than this, with a share of the runs on either side, are two seasons and told as two chances.
APART_DAYS, LEAST_SHARE = 60.0, 0.1


@dataclass(frozen=True)
class Wanted:
    """What wood must come to and stay at: between ``low`` and ``high`` (fractions; one value, or one for each day from the question's day
    on, going round), core and outside within ``evenness`` as readings in the middle and at the usual depth would show them.

    Raises:
        OutOfRange: low and high of different lengths, outside −1…10; evenness not above zero; stay_days 0…365.
    """

    low: Array
    high: Array
    evenness: float = np.inf
    stay_days: float = STAY_DAYS

    def __post_init__(self) -> None:
        check_range("low", self.low, -1.0, 10.0)
        check_range("high", self.high, -1.0, 10.0)
        check_range("days_wanted", self.high.size, max(self.low.size, 1), max(self.low.size, 1))
        check_range("evenness", min(self.evenness, 10.0), 1e-6, 10.0)
        check_range("stay_days", self.stay_days, 0.0, 365.0, " days")

    def at(self, days: Values) -> tuple[Array, Array]:
        """The edges so many days after the question's day."""
        position = np.floor(np.asarray(days, float)).astype(int) % self.low.size
        return self.low[position], self.high[position]

    @property
    def moves(self) -> bool:
        return bool(np.ptp(self.low) > 1e-9 or np.ptp(self.high) > 1e-9)


def around(level: Values, tolerance: float, evenness: float = np.inf) -> Wanted:
    """Within a tolerance of a level, which may be one value or one for each day.

    >>> edges = around(0.09, 0.01)
    >>> round(float(edges.low[0]), 3), round(float(edges.high[0]), 3)
    (0.08, 0.1)
    """
    middle = np.atleast_1d(np.asarray(level, float))
    return Wanted(middle - tolerance, middle + tolerance, evenness)


def at_most(limit: float) -> Wanted:
    """Under a limit, however uneven."""
    return Wanted(np.array([-1.0]), np.array([float(limit)]))


def both(wanted: Wanted, other: Wanted) -> Wanted:
    """What meets two wishes at once; where they leave nothing between them nothing meets it."""
    size = int(np.lcm(wanted.low.size, other.low.size))
    low, high = (
        pick(np.resize(getattr(wanted, name), size), np.resize(getattr(other, name), size))
        for name, pick in (("low", np.maximum), ("high", np.minimum))
    )
    return Wanted(low, high, min(wanted.evenness, other.evenness), max(wanted.stay_days, other.stay_days))


def arrivals(wanted: Wanted, days: Values, means: Values, cores: Values, begin: float = 0.0) -> Array:
    """The day of arrival of each run; infinite where it does not arrive, or not for long enough, within the days looked at.

    Args:
        days: moments looked at, in order, from 0; means, cores: a row per run; begin: days from the question's day to the runs' own.
    Raises:
        OutOfRange: no moments, or not a moisture for each.
    """
    days = np.atleast_1d(check_range("days", days, 0.0, 1e6, " days"))
    means, cores = (np.atleast_2d(check_range("moistures", column, 0.0, 10.0)) for column in (means, cores))
    check_range("moments", days.size, 1, 1_000_000)
    for column in (means, cores):
        check_range("moistures_of_each", column.shape[1], days.size, days.size)
    check_range("begin", begin, 0.0, 1e6, " days")
    low, high = wanted.at(days + begin)
    # What lies on the edge is inside, whatever rounding says.
    inside = (means >= low - 1e-9) & (means <= high + 1e-9)
    if np.isfinite(wanted.evenness):
        inside &= READ_PER_MEAN * np.abs(cores - means) <= wanted.evenness
    # When each moment's stay ends: the next one outside, or the end of what is looked at.
    outside_at = np.where(inside, np.inf, days)
    ends = np.minimum(np.minimum.accumulate(outside_at[:, ::-1], axis=1)[:, ::-1], days[-1])
    stays = inside & (ends - days >= wanted.stay_days - 1e-9)
    return np.where(stays.any(axis=1), days[np.argmax(stays, axis=1)], np.inf)


@dataclass(frozen=True)
class Chance:
    """A season in which some of the runs arrive: their share, and the day by which half of them have."""

    share: float
    day: float


def chances(days: Values) -> tuple[Chance, ...]:
    """Arrivals told apart by seasons; one where they lie together.

    Shares are of all runs, those that never arrive (infinite) among them.
    """
    days = np.atleast_1d(np.asarray(days, float))
    arrived = np.sort(days[np.isfinite(days)])
    if not arrived.size:
        return ()
    groups = np.split(arrived, np.flatnonzero(np.diff(arrived) > APART_DAYS) + 1)
    lines = [group for group in groups if group.size >= LEAST_SHARE * days.size]
    return tuple(Chance(group.size / days.size, float(np.median(group))) for group in lines)
