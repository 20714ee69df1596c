"""Two boards or lots beside each other: are they close enough in moisture to be joined?

Alike when their difference lies within the tolerance by at least half its uncertainty, apart when it lies outside by as much, nearly alike
between; nothing is told where the uncertainty is larger than one and a half tolerances and they are not apart.

Source: our own judgement, guarded on both sides: a joint cannot be taken back.
"""

import math
from dataclasses import dataclass

from wood.errors import check_range
from wood.judging.readiness import State
from wood.measuring.estimates import Estimate
from wood.measuring.readings import Bound

# Beyond so many tolerances of uncertainty two boards cannot be called alike.
TOO_VAGUE = 1.5


@dataclass(frozen=True)
class Comparison:
    """Whether two boards or lots are close enough to be joined. ``state`` is READY (alike), CLOSE, WAIT (apart) or CANNOT_TELL."""

    state: State
    difference: float
    uncertainty: float
    tolerance: float


def compare_boards(estimate: Estimate, other: Estimate, tolerance: float, *, same_meter: bool = False) -> Comparison:
    """Compare two estimates as the verdict compares a board with its place.

    With ``same_meter`` (one meter, one species) its error is in both readings alike and falls out of the difference.

    Raises:
        OutOfRange: tolerance 10⁻⁶…1.

    >>> from dataclasses import replace
    >>> a = Estimate(mean=0.10, instrument=0.008, sampling=0.003, spread=0.004, count=6, reach=0.008)
    >>> compare_boards(a, replace(a, mean=0.103), 0.01, same_meter=True).state.value
    'ready'
    """
    check_range("tolerance", tolerance, 1e-6, 1.0)
    instruments = 0.0 if same_meter else math.hypot(estimate.instrument, other.instrument)
    uncertainty = math.hypot(estimate.sampling, other.sampling, instruments)
    difference = estimate.mean - other.mean
    if estimate.bound or other.bound:
        # One bound tells something where the other board lies on its dry side, two nothing.
        bound = Bound(estimate.bound).side - Bound(other.bound).side
        apart = bool(estimate.bound) != bool(other.bound) and bound * difference > tolerance + uncertainty / 2
        return Comparison(State.WAIT if apart else State.CANNOT_TELL, difference, uncertainty, tolerance)
    excess = abs(difference) - tolerance
    if excess > uncertainty / 2:
        state = State.WAIT
    elif uncertainty > TOO_VAGUE * tolerance:
        state = State.CANNOT_TELL
    else:
        state = State.READY if excess <= -uncertainty / 2 else State.CLOSE
    return Comparison(state, difference, uncertainty, tolerance)
