"""When wood has arrived: the first day on which it may be worked, and the first on which it is ready.

*Ready* is a mean within what is wanted and a core as near to its outside as the use asks; *works now*, the same for the edges of the
settled board on that day (:mod:`wood.drying.settled`). What is wanted may move with the season; it is looked up day by day. Nothing has
to stay inside for long: that a room goes through the year is said beside the day, and takes no answer back.

Source: a rule of our own; docs/science.md.
"""

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from wood.arrays import Array, Values
from wood.errors import check_range
from wood.judging.readiness import Edges
from wood.measuring.profile import USUAL_DEPTH

# What a reading in the middle shows over one at the usual depth, against the middle over the mean: a parabola's (1 − 2·0.2)² over a third.
READ_PER_MEAN = 3 * (1 - 2 * USUAL_DEPTH) ** 2
# Arrivals farther apart than this, with a share of the runs on either side, are two seasons and told as two chances.
APART_DAYS, LEAST_SHARE = 60.0, 0.1


# Between these lies nothing.
NO_LOW, NO_HIGH = np.array([np.inf]), np.array([-np.inf])
ZERO = np.zeros(1)


@dataclass(frozen=True)
class Wanted:
    """What wood must come to, day by day from the question's day on, going round (each array one value, or one for each day); fractions.

    It is ready between ``low`` and ``high``; it works now between ``now_low`` and ``now_high`` (infinite, the low above the high: there is
    no such thing), both with the core within ``evenness`` of what lies between ``own_low`` and ``own_high``, as readings in the middle and
    at the usual depth would show it. Below all that and down to ``driest`` it may be worked dry (infinite: it may not).

    Raises:
        OutOfRange: edges outside −1…10; evenness not above zero.
    """

    low: Array
    high: Array
    evenness: float = np.inf
    own_low: Array = field(default_factory=ZERO.copy)
    own_high: Array = field(default_factory=ZERO.copy)
    now_low: Array = field(default_factory=NO_LOW.copy)
    now_high: Array = field(default_factory=NO_HIGH.copy)
    driest: float = np.inf

    def __post_init__(self) -> None:
        for name in ("low", "high", "own_low", "own_high", "now_low", "now_high"):
            values = getattr(self, name)
            check_range(name, np.where(np.isinf(values), 0.0, values), -1.0, 10.0)
            check_range("days_wanted", values.size, 1, 100_000)
        check_range("evenness", min(self.evenness, 10.0), 1e-6, 10.0)

    def at(self, days: Values) -> tuple[Array, Array]:
        """The edges of what is ready, so many days after the question's day."""
        return self._on(self.low, days), self._on(self.high, days)

    def now_at(self, days: Values) -> tuple[Array, Array]:
        """The edges of what works on a day, the low above the high where nothing does."""
        return self._on(self.now_low, days), self._on(self.now_high, days)

    def outer_at(self, days: Values) -> tuple[Array, Array]:
        """The lowest and the highest that is ready or works so many days after the question's day."""
        low, high = self.at(days)
        now_low, now_high = self.now_at(days)
        return np.minimum(low, now_low), np.maximum(high, now_high)

    def on(self, day: float) -> Edges:
        """The edges of one day, for readings."""
        return Edges(*self.rows(np.array([day]))[0].tolist())

    def rows(self, days: Array) -> Array:
        """The edges of many days, a row for each with the fields of :class:`Edges` in order, as :meth:`on` has them for one."""
        own = (READ_PER_MEAN * self._on(item, days) for item in (self.own_low, self.own_high))
        columns = (*self.at(days), *self.now_at(days), np.full(days.shape, self.driest), *own)
        return np.stack(columns, axis=-1)

    def is_even(self, days: Values, means: Array, cores: Array) -> NDArray[np.bool_]:
        """Whether core and outside agree as far as is wanted."""
        if not np.isfinite(self.evenness):
            return np.ones(means.shape, bool)
        beyond = np.maximum(cores - means - self._on(self.own_high, days), self._on(self.own_low, days) - (cores - means))
        return READ_PER_MEAN * beyond <= self.evenness

    @staticmethod
    def _on(values: Array, days: Values) -> Array:
        return values[np.floor(np.asarray(days, float)).astype(int) % values.size]

    @property
    def moves(self) -> bool:
        return bool(np.ptp(self.low) > 1e-9 or np.ptp(self.high) > 1e-9 or self.has_now)

    @property
    def has_now(self) -> bool:
        """Whether a use and a place allow the state "works now" at all."""
        return bool(np.isfinite(self.now_low).any())


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
    """What meets two wishes at once; where they leave nothing between them nothing meets it. What works now by one must be ready, or work,
    by the other too."""
    sizes = [getattr(item, name).size for item in (wanted, other) for name in ("low", "now_low", "own_low")]
    days = np.arange(int(np.lcm.reduce(sizes)))
    ready, outer = ([edges(days) for edges in pair] for pair in ((wanted.at, other.at), (wanted.outer_at, other.outer_at)))
    stricter = min(wanted, other, key=lambda item: item.evenness)
    has_now = wanted.has_now or other.has_now
    return Wanted(
        np.maximum(ready[0][0], ready[1][0]),
        np.minimum(ready[0][1], ready[1][1]),
        stricter.evenness,
        stricter.own_low,
        stricter.own_high,
        np.maximum(outer[0][0], outer[1][0]) if has_now else NO_LOW,
        np.minimum(outer[0][1], outer[1][1]) if has_now else NO_HIGH,
        max(wanted.driest, other.driest),
    )


@dataclass(frozen=True)
class Arrivals:
    """For each run the first day on which it may be worked (ready, or working now) and the first on which it is ready; infinite where it
    never is within the days looked at."""

    first: Array
    ready: Array


def arrivals(wanted: Wanted, days: Values, means: Values, cores: Values, begin: float = 0.0) -> Arrivals:
    """When each run arrives.

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
    even = wanted.is_even(days + begin, means, cores)

    def inside(low: Array, high: Array) -> NDArray[np.bool_]:
        # What lies on the edge is inside, whatever rounding says.
        return even & (means >= low - 1e-9) & (means <= high + 1e-9)

    ready = inside(*wanted.at(days + begin))
    works = ready | inside(*wanted.now_at(days + begin))
    first, then = (np.where(there.any(axis=1), days[np.argmax(there, axis=1)], np.inf) for there in (works, ready))
    return Arrivals(first, then)


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
