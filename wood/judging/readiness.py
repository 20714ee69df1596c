"""Ready or not: a board's moisture against what its place asks of it on the day, with everything that is unsure about both.

The rule, in one place. With *m* the board's mean, :class:`Edges` what its use asks of it there on the day (from the settled board,
:mod:`wood.drying.settled`; from a level, :func:`around`), *tol* the tolerance of the use and *U* the combined 95% uncertainty of meter,
sampling and hygrometer:

- **ready** when m lies between ``low`` and ``high``;
- **works now** when it does not, but lies between ``now_low`` and ``now_high``: it has settled with its room as that is today;
- **close** when it lies outside by no more than U or tol/2, whichever is less;
- **dry, may be worked** when it is drier than all that, but not below ``driest``; **too dry** below it; **wait** when it is wetter;
- **too uneven** instead of ready, works now, close or dry when core and shell differ from what is ``own`` to the settled board by more
  than the use allows, or places on the board by more than 2·tol;
- **cannot tell** only where a reading is off the meter's scale and decides nothing.

The best figure decides; beside it stands the chance that it is so, from *U* taken as two standard deviations. A use that must be sure is
ready, or works, only with the whole of *U* inside, and close between.

An answer once given is not taken back by the season: wood that was ready or worked on the day it was read (``then``) stays so until it
lies outside by more than tol/2.

A reading beyond the meter's range is evidence and never left out: where any spot is wetter than the meter can measure, the wood is
wetter than that there, however many dry spots stand beside it; the verdict waits and names the place (core, skin, some places).

Wood thicker than :data:`INSIDE_FROM_M` of whose inside no reading tells is at best **close**: thick wood is dry outside long before it is
dry within.

Where two levels count (a floor: its subfloor, and the room it lies in), the stricter answer stands (:func:`stricter`).

For a lot the spots are boards. Framing has a limit instead: only what lies above it is outside, and unevenness does not count.

Source: a rule of our own; docs/science.md tells where it differs from usual practice, and on what it was tried.
"""

import math
from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from wood.arrays import Array, Values
from wood.errors import check_range
from wood.measuring import lots
from wood.measuring.estimates import Estimate
from wood.measuring.readings import Bound
from wood.uses import Against, Use

VERDICT_RULE = "2026-12a"
# From this chance on a best figure inside the edges is ready without a word more (7 in 10).
SURE_ENOUGH = 0.7
# Up to here a reading at a fifth of the thickness is held to tell of the whole (6/4 stock is the first beyond it).
INSIDE_FROM_M = 0.035
# Thinner wood follows the air within hours, and lies in no meter's field.
NO_METER_M = 0.003


class State(StrEnum):
    READY = "ready"
    WORKS_NOW = "works now"
    DRY = "workable"
    CLOSE = "close"
    WAIT = "wait"
    TOO_DRY = "too dry"
    TOO_UNEVEN = "too uneven"
    CANNOT_TELL = "cannot tell"
    # No verdict of moisture: what is found dangerous stays so at any.
    CRACKED = "cracked"


class Cause(StrEnum):
    """What decided a verdict."""

    DIFFERENCE = "difference"
    GRADIENT = "gradient"
    REACH = "reach"
    BEYOND_RANGE = "beyond_range"
    INSIDE = "inside"


@dataclass(frozen=True)
class Edges:
    """What a use asks of a board in a place on a day; fractions, one value or one for each of many boards.

    Ready between ``low`` and ``high``, works now between ``now_low`` and ``now_high`` (infinite, the low above the high: there is no such
    thing), worked dry down to ``driest`` (infinite: not at all). A reading in the middle may differ from one at the usual depth by what
    lies between ``own_low`` and ``own_high``, and by what the use allows beyond.
    """

    low: Values
    high: Values
    now_low: Values = math.inf
    now_high: Values = -math.inf
    driest: Values = math.inf
    own_low: Values = 0.0
    own_high: Values = 0.0


def average_near(mean: Values, edges: Edges, use: Use | float) -> Array:
    """The average that is nearest to a board: in air that stands still each sorption curve has its own, and all between them is as good;
    fractions."""
    use = _as_use(use)
    first, last = (np.asarray(edge, float) for edge in (edges.low, edges.high))
    return np.asarray(np.clip(mean, np.minimum(first + use.tolerance, last), np.maximum(last - use.tolerance, first)))


def _as_use(use: Use | float) -> Use:
    return use if isinstance(use, Use) else Use("", "", float(check_range("tolerance", use, 1e-6, 1.0)))


def around(target: float, use: Use | float) -> Edges:
    """The edges of a use about one moisture (fraction); below a limit there is nothing to be outside of.

    Raises:
        OutOfRange: target −10…10.

    >>> from wood.uses import FINE
    >>> around(0.09, FINE).high
    0.1
    """
    use = _as_use(use)
    check_range("target", target, -10.0, 10.0)
    if use.against is Against.LIMIT:
        return Edges(-math.inf, target)
    return Edges(round(target - use.tolerance, 12), round(target + use.tolerance, 12))


@dataclass(frozen=True)
class Verdict:
    """The answer. ``difference`` is board minus ``target``, the nearest average of the settled board; ``margin`` is how far
    inside (+) or outside (−) of the edges that decided it lies, ``chance`` how likely it is that it truly lies between them (0…1).

    ``cause`` is what decided (of one beyond the range ``board.wet`` says where). ``more_readings`` is how many more would settle it, 0 if
    settled, ``None`` if readings cannot.
    """

    state: State
    cause: Cause
    difference: float
    uncertainty: float
    margin: float
    tolerance: float
    target: float
    target_uncertainty: float
    chance: float
    edges: Edges
    allowed_gradient: float
    more_readings: int | None
    rule: str = VERDICT_RULE

    @property
    def has_now(self) -> bool:
        """Whether a use and a place allow the state "works now" at all."""
        return bool(np.asarray(self.edges.now_low) <= np.asarray(self.edges.now_high))

    @property
    def even_low(self) -> float:
        """How much drier a reading in the middle may be than one outside (fraction, mostly below nothing)."""
        return float(np.asarray(self.edges.own_low)) - self.allowed_gradient

    @property
    def even_high(self) -> float:
        """How much wetter it may be."""
        return float(np.asarray(self.edges.own_high)) + self.allowed_gradient

    @property
    def is_just_inside(self) -> bool:
        """Ready or working by its best figure, and not much surer than a toss."""
        return self.state in MAY_BE_WORKED and self.chance < SURE_ENOUGH


CODES = (
    State.READY,
    State.WORKS_NOW,
    State.CLOSE,
    State.DRY,
    State.WAIT,
    State.TOO_DRY,
    State.TOO_UNEVEN,
    State.CANNOT_TELL,
    State.CRACKED,
)
READY, WORKS, CLOSE, DRY, WAIT, TOO_DRY, UNEVEN, OPEN = range(8)
# Wood in these states is at home where it is to live.
MAY_BE_WORKED = (State.READY, State.WORKS_NOW)
# These, and what is dry and has to be left room to swell.
WORKABLE = (*MAY_BE_WORKED, State.DRY)
# How much each of CODES stands in the way of working the wood.
_GRAVITY = np.array([0, 1, 3, 2, 6, 6, 5, 4, 7])


def codes(
    mean: Values,
    uncertainty: Values,
    use: Use | float,
    edges: Edges,
    gradient: Values = math.nan,
    reach: Values = 0.0,
    bound: Values = 0,
    target_uncertainty: float = 0.0,
    inside_unknown: Values = False,
    then: Edges | None = None,
) -> NDArray[np.int64]:
    """The rule over arrays: positions in :data:`CODES`.

    Args:
        mean, uncertainty, gradient, reach: fractions, one per board; ``gradient`` is NaN where no core was read.
        edges: of the day, ``then`` those of the day on which it was read, where that was another.
        bound: +1 where the board is only known to be wetter than its mean says, −1 drier, 0 measured.
        target_uncertainty: the place's, for those bounds.
        inside_unknown: whether the board is thick and no reading tells of its inside (:func:`is_inside_unknown`).
    Raises:
        OutOfRange: tolerance 10⁻⁶…1, mean −10…10, uncertainty 0…10, reach 0…10, target_uncertainty 0…10.
    """
    use = _as_use(use)
    tolerance, one_sided = use.tolerance, use.against is Against.LIMIT
    check_range("tolerance", tolerance, 1e-6, 1.0)
    check_range("mean", mean, -10.0, 10.0)
    check_range("uncertainty", uncertainty, 0.0, 10.0)
    check_range("reach", reach, 0.0, 10.0)
    check_range("target_uncertainty", target_uncertainty, 0.0, 10.0)
    m, u = np.asarray(mean, float), np.asarray(uncertainty, float)
    result, excess = _where(m, u, use, edges)
    if then is not None:
        before, _ = _where(m, u, use, then)
        result = np.where((before <= WORKS) & (result > WORKS) & (excess <= tolerance / 2), before, result)
    with np.errstate(invalid="ignore"):
        slope = np.asarray(gradient, float)
        uneven = np.maximum(slope - np.asarray(edges.own_high), np.asarray(edges.own_low) - slope) > use.allowed_gradient
        uneven |= np.asarray(reach, float) > (np.inf if one_sided else 2 * tolerance)
    thick = np.asarray(inside_unknown, bool) & np.isfinite(use.allowed_gradient)
    result = np.where(((result <= WORKS) | (result == DRY)) & thick, CLOSE, result)
    # Differences on one board are read with one meter: they stand even where the level cannot be told.
    result = np.where(uneven & (result <= DRY), UNEVEN, result)
    # A bound decides only when it lies clearly outside on its own side.
    side = np.asarray(bound)
    half = target_uncertainty / 2
    low, high = np.asarray(edges.low, float), np.maximum(np.asarray(edges.high, float), np.asarray(edges.now_high, float))
    above, below = m > high + half, one_sided | (m < low - half)
    may = m >= np.asarray(edges.driest, float)
    decided = np.where(
        side > 0, np.where(above, WAIT, OPEN), np.where(below, np.where(one_sided, READY, np.where(may, DRY, TOO_DRY)), OPEN)
    )
    return np.where(side == 0, result, decided)


def _where(m: Array, u: Array, use: Use, edges: Edges) -> tuple[NDArray[np.int64], Array]:
    """Where means lie against the edges, by positions in :data:`CODES`, and how far outside of what may be worked."""
    low, high, now_low, now_high, driest = (
        np.asarray(item, float) for item in (edges.low, edges.high, edges.now_low, edges.now_high, edges.driest)
    )
    needs = u if use.must_be_sure else 0.0
    off_ready = np.maximum(low - m, m - high)
    off_now = np.maximum(now_low - m, m - now_high)
    excess = np.minimum(off_ready, off_now)
    # What lies on the edge is inside, whatever rounding says.
    inside = np.where(off_ready <= EDGE - needs, READY, np.where(off_now <= EDGE - needs, WORKS, CLOSE))
    near = excess <= np.minimum(u, use.tolerance / 2)
    may = m >= driest
    wet = m > np.minimum(low, now_low)
    outside = np.where(wet, WAIT, np.where(may, DRY, TOO_DRY))
    return np.where((inside < CLOSE) | (near & (wet | ~may)), inside, outside).astype(np.int64), np.asarray(excess)


EDGE = 1e-9


def stricter(by_first: Values, by_second: Values) -> NDArray[np.int64]:
    """Of two answers each (positions in :data:`CODES`) the one that stands more in the way; of two alike the first.

    Raises:
        OutOfRange: a position that there is not.
    """
    first, second = (check_range("code", code, 0, len(CODES) - 1).astype(int) for code in (by_first, by_second))
    return np.where(_GRAVITY[second] > _GRAVITY[first], second, first)


def is_inside_unknown(thickness_m: Values, inside: Values) -> NDArray[np.bool_]:
    """Whether pieces (thickness in m) are so thick that their inside must be read, and it was not (``inside``: some reading tells of
    it).
    """
    return (np.asarray(thickness_m, float) > INSIDE_FROM_M) & ~np.asarray(inside, bool)


def judge(
    board: Estimate,
    edges: Edges | float,
    target_uncertainty: float,
    use: Use | float,
    thickness_m: float = 0.0,
    then: Edges | None = None,
) -> Verdict:
    """Whether a board may be worked for a place.

    Args:
        board: from :func:`estimate`.
        edges: what its use asks of it there on the day; or one moisture (fraction, 0…0.4) to be about.
        target_uncertainty: what the hygrometer, or what is known of the year, leaves open (95%).
        thickness_m: of the piece, 0…3 m; 0 asks nothing about its inside.
        then: the edges of the day on which it was read, where that was another.
    Raises:
        OutOfRange.

    >>> from wood.uses import FINE
    >>> dry = Estimate(mean=0.103, instrument=0.008, sampling=0.003, spread=0.004, count=6, reach=0.008)
    >>> judge(dry, 0.10, 0.004, FINE).state.value
    'ready'
    """
    use = _as_use(use)
    if not isinstance(edges, Edges):
        check_range("target", edges, 0.0, 0.4)
        edges = around(float(edges), use)
    check_range("target_uncertainty", target_uncertainty, 0.0, 0.4)
    check_range("thickness_m", thickness_m, 0.0, 3.0, " m")
    unknown = bool(is_inside_unknown(thickness_m, board.inside))
    settled = _settle(board, edges, target_uncertainty, use, unknown, then)
    if settled.state is State.CLOSE and settled.cause is Cause.DIFFERENCE:
        return replace(settled, more_readings=_more_readings(board, edges, target_uncertainty, use, then))
    return replace(settled, more_readings=_surer_with(board, settled)) if settled.is_just_inside else settled


def _settle(
    board: Estimate, edges: Edges, target_uncertainty: float, use: Use, inside_unknown: bool = False, then: Edges | None = None
) -> Verdict:
    uncertainty = math.hypot(board.uncertainty, target_uncertainty)
    gradient = math.nan if board.gradient is None else board.gradient
    side = Bound(board.bound).side
    question = (board.mean, uncertainty, use, edges, gradient, board.reach, side, target_uncertainty)
    state = CODES[int(codes(*question, inside_unknown, then))]
    cause = Cause.DIFFERENCE
    if side:
        cause = Cause.BEYOND_RANGE
    elif state is State.TOO_UNEVEN:
        slope = 0.0 if board.gradient is None else board.gradient
        beyond = max(slope - float(np.asarray(edges.own_high)), float(np.asarray(edges.own_low)) - slope)
        cause = Cause.GRADIENT if beyond > use.allowed_gradient else Cause.REACH
    elif state is State.CLOSE and inside_unknown and CODES[int(codes(*question, False, then))] is not State.CLOSE:
        cause = Cause.INSIDE
    low, high = (float(np.asarray(item)) for item in (edges.low, edges.high))
    if state is State.WORKS_NOW:
        low, high = (float(np.asarray(item)) for item in (edges.now_low, edges.now_high))
    one_sided = use.against is Against.LIMIT
    target = high if one_sided else float(average_near(board.mean, edges, use))
    margin = high - board.mean if one_sided else min(board.mean - low, high - board.mean)
    return Verdict(
        state,
        cause,
        board.mean - target,
        uncertainty,
        margin,
        use.tolerance,
        target,
        target_uncertainty,
        _chance(board.mean, uncertainty, low, high),
        edges,
        use.allowed_gradient,
        more_readings=0,
    )


def _chance(mean: float, uncertainty: float, low: float, high: float) -> float:
    """How likely the true mean lies between two edges; the uncertainty is two standard deviations."""
    if uncertainty <= 0:
        return float(low - EDGE <= mean <= high + EDGE)
    return _normal((high - mean) / (uncertainty / 2)) - _normal((low - mean) / (uncertainty / 2))


def _normal(x: float) -> float:
    return 0.5 * (1 + math.erf(x / math.sqrt(2))) if math.isfinite(x) else float(x > 0)


def _more_readings(board: Estimate, edges: Edges, target_uncertainty: float, use: Use, then: Edges | None, limit: int = 20) -> int | None:
    """The fewest further readings, scattering as these do, after which the verdict is not close any more."""
    for more in range(1, limit + 1):
        sampling = lots.half_width_with(board.spread, board.count + more)
        if _settle(replace(board, sampling=sampling), edges, target_uncertainty, use, then=then).state is not State.CLOSE:
            return more
    return None


def _surer_with(board: Estimate, settled: Verdict, limit: int = 20) -> int | None:
    """The fewest further readings, scattering as these do, after which it is surely enough what its best figure says."""
    low, high = settled.edges.low, settled.edges.high
    if settled.state is State.WORKS_NOW:
        low, high = settled.edges.now_low, settled.edges.now_high
    for more in range(1, limit + 1):
        sampling = lots.half_width_with(board.spread, board.count + more)
        uncertainty = math.hypot(replace(board, sampling=sampling).uncertainty, settled.target_uncertainty)
        if _chance(board.mean, uncertainty, float(np.asarray(low)), float(np.asarray(high))) >= SURE_ENOUGH:
            return more
    return None
