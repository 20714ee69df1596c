"""Several readings, or several boards: their mean, how sure it is, how many more are needed, and the odd one.

Sources: t-intervals and stratified samples, Cochran, Sampling Techniques; usual spreads are our own judgement.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np
from scipy.special import stdtrit

from wood.errors import check_range

# Readings on one board of settled stock scatter by about this (one standard deviation); it stands in for the sample's own
# scatter while there are few readings, with the weight of three of them.
USUAL_SPREAD = 0.006
PRIOR_READINGS = 3
# Boards of one lot that lay together scatter by about this, once they are dry.
BOARD_SPREAD = 0.010


class Stratum(StrEnum):
    """Where in the stack a board lay. A stack dries from outside in, so each part has to speak."""

    OUTER = "outer"
    MIDDLE = "middle"
    DEEP = "deep"


STRATA = tuple(Stratum)
MOST_TRIED = 60


@dataclass(frozen=True)
class Interval:
    """A mean with its t-interval: ``mean`` ± ``half_width`` at 95%, from ``count`` values scattering by ``spread``."""

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
    check_range("usual_spread", usual_spread or 0.0, 0.0, 1e6)
    check_range("confidence", confidence, 0.01, 0.9999)
    prior = PRIOR_READINGS if usual_spread else 0
    degrees = sample.size - 1 + prior
    squares = float(((sample - sample.mean()) ** 2).sum()) + prior * (usual_spread or 0.0) ** 2
    spread = math.sqrt(squares / degrees)
    half_width = float(stdtrit(degrees, 0.5 + confidence / 2)) * spread / math.sqrt(sample.size)
    return Interval(float(sample.mean()), spread, int(sample.size), half_width)


@dataclass(frozen=True)
class LotMean:
    """The mean of a lot: ``mean`` ± ``half_width`` (95%) from ``count`` boards scattering by ``spread`` within a part of the stack.

    ``unread`` names the parts of the stack that nobody read, ``part_means`` the mean of each that was; ``more`` is how many
    further boards would bring the half width down to what was wanted (0: sure enough; ``None``: more than were tried).
    """

    mean: float
    spread: float
    count: int
    half_width: float
    unread: tuple[str, ...]
    part_means: dict[Stratum, float]
    more: int | None


def lot_mean(values: Sequence[float], parts: Sequence[str], wanted_half_width: float, boards: int | None = None) -> LotMean:
    """The mean of a lot from boards read in it, each part of the stack with the same weight once all were read.

    Args:
        values: moisture of each board read, at least one; wanted_half_width: of the mean; both fractions.
        parts: where each lay, from :data:`STRATA`, or ``""`` where nobody said.
        boards: how many the lot holds; a lot read whole leaves nothing open.
    Source: stratified sampling with a pooled spread (Cochran, Sampling Techniques, ch. 5); the usual spread of boards joins
    with the weight of three, as for :func:`t_interval`, so that stopping early on a lucky pair is not rewarded.
    Raises:
        OutOfRange: values 0…10, count 1…∞, parts as many as values, wanted_half_width 10⁻⁹…10, boards 1…10⁷.

    >>> round(lot_mean([0.10, 0.11, 0.12, 0.13, 0.15, 0.16], ["outer", "outer", "middle", "middle", "deep", "deep"], 0.01).mean, 4)
    0.1283
    """
    sample = check_range("values", values, 0.0, 10.0)
    check_range("count", sample.size, 1, math.inf)
    check_range("parts", len(parts), sample.size, sample.size)
    check_range("wanted_half_width", wanted_half_width, 1e-9, 10.0)
    if boards is not None:
        check_range("boards", boards, 1, 1e7)
    names = np.array([part if part in STRATA else "" for part in parts])
    read = [part for part in STRATA if (names == part).any()]
    known = (names != "").all()
    stratified = known and len(read) == len(STRATA)
    groups = [sample[names == part] for part in read] if stratified else [sample]
    mean = float(np.mean([group.mean() for group in groups]))
    squares = sum(float(((group - group.mean()) ** 2).sum()) for group in groups) + PRIOR_READINGS * BOARD_SPREAD**2
    degrees = sample.size - len(groups) + PRIOR_READINGS
    spread = math.sqrt(squares / degrees)

    def half_width(counts: list[int], free: int) -> float:
        total = sum(counts)
        left = 1.0 if boards is None else max(0.0, 1 - total / boards)
        weighted = sum(1 / len(counts) ** 2 / count for count in counts)
        return float(stdtrit(free, 0.975)) * spread * math.sqrt(weighted * left)

    counts = [group.size for group in groups]
    more, then = None, list(counts)
    for tried in range(MOST_TRIED + 1):
        if half_width(then, degrees + tried) <= wanted_half_width:
            more = tried
            break
        then[then.index(min(then))] += 1
    part_means = {part: float(sample[names == part].mean()) for part in read}
    unread = tuple(part for part in STRATA if part not in read) if read else ()
    return LotMean(mean, spread, int(sample.size), half_width(counts, degrees), unread, part_means, more)


def read_next_in(parts: Sequence[str]) -> Stratum:
    """The part of the stack to read next: the one read least, the deep ones first, for they dry last.

    >>> read_next_in(["outer", "outer", "middle"]).value
    'deep'
    """
    return min(reversed(STRATA), key=lambda part: (list(parts).count(part), STRATA[::-1].index(part)))


def half_width_with(spread: float, count: int, prior: int = PRIOR_READINGS, confidence: float = 0.95) -> float:
    """The half width that ``count`` readings would give if they scatter by ``spread``.

    Raises:
        OutOfRange: spread 0…10⁶, count 1…∞, degrees_of_freedom 1…∞, confidence 0.01…0.9999.
    """
    check_range("spread", spread, 0.0, 1e6)
    check_range("count", count, 1, math.inf)
    check_range("degrees_of_freedom", count - 1 + prior, 1, math.inf)
    check_range("confidence", confidence, 0.01, 0.9999)
    return float(stdtrit(count - 1 + prior, 0.5 + confidence / 2)) * spread / math.sqrt(count)


def more_needed(interval: Interval, wanted_half_width: float, prior: int = 0, limit: int = 200) -> int | None:
    """How many more values bring the half width down to what is wanted; 0 if it is there; ``None`` if ``limit`` are not enough.

    Half widths are in the unit of the values, fractions for moistures.

    Raises:
        OutOfRange: wanted_half_width 10⁻⁹…∞.

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

    Raises:
        OutOfRange: values −10⁶…10⁶, least_distance 0…10⁶.

    >>> odd_ones([0.112, 0.115, 0.110, 0.114, 0.171])
    [4]
    """
    sample = check_range("values", values, -1e6, 1e6)
    check_range("least_distance", least_distance, 0.0, 1e6)
    if sample.size < 4:
        return []
    distance = np.abs(sample - np.median(sample))
    robust = 1.4826 * np.median(distance)
    return [int(i) for i in np.nonzero((distance > 3.5 * robust) & (distance >= least_distance))[0]]
