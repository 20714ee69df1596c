"""Ready or not: a board's moisture against the level it will settle to, with everything that is unsure about both.

The rule, in one place. With *d* the difference between the board and the place's EMC, *tol* the tolerance of the use, and *U*
the combined 95 % uncertainty of meter, sampling and hygrometer:

- **ready** when |d| ≤ tol − U/2: inside by at least half the uncertainty, which is about eight chances in ten or better;
- **wait** / **too dry** when |d| > tol + U/2: as surely outside;
- **close** between the two;
- **cannot tell** instead of ready or close when U > 1.5·tol; what lies outside by more than its doubt is never hidden by it;
- **too uneven** instead of ready, close or cannot tell when core and shell differ by more than the use allows (tol, unless it says
  otherwise), or places on the board by more than 2·tol.

A reading beyond the meter's range is evidence and never left out: where any spot is wetter than the meter can measure, the wood is
wetter than that there, however many dry spots stand beside it; the verdict waits and names the place (core, skin, some places).

Wood thicker than :data:`INSIDE_FROM_M` of whose inside no reading tells is at best **close**: thick wood is dry outside long before it is
dry within.

Where two levels count (a floor: its subfloor, and the room it lies in), the stricter answer stands (:func:`stricter`).

For a lot the spots are boards. Framing has a limit instead: only what lies above it is outside, and unevenness does not count.

Source: a rule of our own; docs/science.md tells where it differs from usual practice.
"""

import math
from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from wood.arrays import Values
from wood.errors import check_range
from wood.measuring import lots
from wood.measuring.estimates import Estimate
from wood.measuring.readings import Bound
from wood.uses import Against, Use

VERDICT_RULE = "2026-11d"
# Up to here a reading at a fifth of the thickness is held to tell of the whole (6/4 stock is the first beyond it).
INSIDE_FROM_M = 0.035


class State(StrEnum):
    READY = "ready"
    CLOSE = "close"
    WAIT = "wait"
    TOO_DRY = "too dry"
    TOO_UNEVEN = "too uneven"
    CANNOT_TELL = "cannot tell"


class Cause(StrEnum):
    """What decided a verdict."""

    DIFFERENCE = "difference"
    GRADIENT = "gradient"
    REACH = "reach"
    INSTRUMENTS = "instruments"
    FEW_READINGS = "few_readings"
    BEYOND_RANGE = "beyond_range"
    INSIDE = "inside"


@dataclass(frozen=True)
class Verdict:
    """The answer. ``difference`` is board minus place; ``margin`` is how far inside (+) or outside (−) the tolerance it lies.

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
    more_readings: int | None
    rule: str = VERDICT_RULE


CODES = (State.READY, State.CLOSE, State.WAIT, State.TOO_DRY, State.TOO_UNEVEN, State.CANNOT_TELL)
# How much each of CODES stands in the way of working the wood.
_GRAVITY = np.array([0, 1, 4, 4, 3, 2])


def codes(
    difference: Values,
    uncertainty: Values,
    use: Use | float,
    gradient: Values,
    reach: Values,
    bound: Values = 0,
    target_uncertainty: float = 0.0,
    inside_unknown: Values = False,
) -> NDArray[np.int64]:
    """The rule over arrays: positions in :data:`CODES`.

    Args:
        difference, uncertainty, gradient, reach: fractions, one per board; ``gradient`` is NaN where no core was read.
        use: the use, or a tolerance above zero.
        bound: +1 where the board is only known to be wetter than the difference says, −1 drier, 0 measured.
        target_uncertainty: the place's, for those bounds.
        inside_unknown: whether the board is thick and no reading tells of its inside (:func:`is_inside_unknown`).
    Raises:
        OutOfRange: tolerance 10⁻⁶…1, difference −10…10, uncertainty 0…10, reach 0…10, target_uncertainty 0…10.
    """
    use = use if isinstance(use, Use) else Use("", "", float(use))
    tolerance, one_sided = use.tolerance, use.against is Against.LIMIT
    check_range("tolerance", tolerance, 1e-6, 1.0)
    check_range("difference", difference, -10.0, 10.0)
    check_range("uncertainty", uncertainty, 0.0, 10.0)
    check_range("reach", reach, 0.0, 10.0)
    check_range("target_uncertainty", target_uncertainty, 0.0, 10.0)
    d, u = np.asarray(difference, float), np.asarray(uncertainty, float)
    # How far outside what is allowed; below a limit there is nothing to be outside of.
    excess = d if one_sided else np.abs(d) - tolerance
    inside, outside = excess <= -u / 2, excess > u / 2
    result = np.where(inside, 0, np.where(outside, np.where(d > 0, 2, 3), 1))
    with np.errstate(invalid="ignore"):
        uneven = np.abs(np.asarray(gradient, float)) > use.allowed_gradient
        uneven |= np.asarray(reach, float) > (np.inf if one_sided else 2 * tolerance)
    vague = (u > 1.5 * tolerance) & ~outside
    result = np.where(vague & (excess > -u) if one_sided else vague, 5, result)
    result = np.where((result == 0) & np.asarray(inside_unknown, bool) & np.isfinite(use.allowed_gradient), 1, result)
    # Differences on one board are read with one meter: they stand even where the level cannot be told.
    result = np.where(uneven & ((result < 2) | (result == 5)), 4, result)
    # A bound decides only when it lies clearly outside the tolerance on its own side.
    side = np.asarray(bound)
    beyond = side * d > (0 if one_sided else tolerance) + target_uncertainty / 2
    decided = np.where(beyond, np.where(side > 0, 2, 0 if one_sided else 3), 5)
    return np.where(side == 0, result, decided)


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


def judge(board: Estimate, target: float, target_uncertainty: float, use: Use | float, thickness_m: float = 0.0) -> Verdict:
    """Whether a board may be worked for a place.

    Args:
        board: from :func:`estimate`.
        target: the EMC of the place (fraction, 0…0.4); target_uncertainty: what the hygrometer leaves open (95 %).
        use: the use, or a tolerance as a fraction.
        thickness_m: of the piece, 0…3 m; 0 asks nothing about its inside.
    Raises:
        OutOfRange.

    >>> from wood.uses import FINE
    >>> dry = Estimate(mean=0.103, instrument=0.008, sampling=0.003, spread=0.004, count=6, reach=0.008)
    >>> judge(dry, 0.10, 0.004, FINE).state.value
    'ready'
    """
    check_range("target", target, 0.0, 0.4)
    check_range("target_uncertainty", target_uncertainty, 0.0, 0.4)
    use = use if isinstance(use, Use) else Use("", "", float(use))
    check_range("thickness_m", thickness_m, 0.0, 3.0, " m")
    unknown = bool(is_inside_unknown(thickness_m, board.inside))
    settled = _settle(board, target, target_uncertainty, use, unknown)
    if settled.state in (State.READY, State.WAIT, State.TOO_DRY, State.TOO_UNEVEN) or settled.cause in (Cause.BEYOND_RANGE, Cause.INSIDE):
        return settled
    return replace(settled, more_readings=_more_readings(board, target, target_uncertainty, use))


def _settle(board: Estimate, target: float, target_uncertainty: float, use: Use, inside_unknown: bool = False) -> Verdict:
    tolerance = use.tolerance
    difference = board.mean - target
    uncertainty = math.hypot(board.uncertainty, target_uncertainty)
    gradient = math.nan if board.gradient is None else board.gradient
    side = Bound(board.bound).side
    question = (difference, uncertainty, use, gradient, board.reach, side, target_uncertainty)
    state = CODES[int(codes(*question, inside_unknown))]
    cause = Cause.DIFFERENCE
    if side:
        cause = Cause.BEYOND_RANGE
    elif state is State.TOO_UNEVEN:
        cause = Cause.GRADIENT if abs(gradient) > use.allowed_gradient else Cause.REACH
    elif state is State.CANNOT_TELL:
        # What leaves most open is named: settling instruments does not help where too few places were read, nor the other way round.
        without_sampling = math.hypot(board.instrument, target_uncertainty)
        few = board.sampling > max(board.instrument, target_uncertainty) or without_sampling <= 1.5 * tolerance
        cause = Cause.FEW_READINGS if few else Cause.INSTRUMENTS
    elif state is State.CLOSE and inside_unknown and CODES[int(codes(*question))] is State.READY:
        cause = Cause.INSIDE
    margin = -difference if use.against is Against.LIMIT else tolerance - abs(difference)
    return Verdict(state, cause, difference, uncertainty, margin, tolerance, target, target_uncertainty, more_readings=0)


def _more_readings(board: Estimate, target: float, target_uncertainty: float, use: Use, limit: int = 20) -> int | None:
    """The fewest further readings, scattering as these do, after which the verdict is neither close nor open."""
    for more in range(1, limit + 1):
        sampling = lots.half_width_with(board.spread, board.count + more)
        state = _settle(replace(board, sampling=sampling), target, target_uncertainty, use).state
        if state not in (State.CLOSE, State.CANNOT_TELL):
            return more
    return None
