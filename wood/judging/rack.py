"""At the rack: what to do about wood that somebody might buy, before anything of it is known but some numbers off a meter.

The advice, in one place. Readings that do not belong to the others are named and left out (:func:`sorted_out`). Of the rest:

- **walk away** when some of it is wetter than a meter can measure, when its boards lie farther apart than :data:`DRIED_TOGETHER`, or
  when it would need longer than a year;
- **wait** when it is not air dry (:data:`AIR_DRY`) or would need longer than the buyer can wait;
- **take it** otherwise: it is there, will be in time, or is drier than its home, which dry wood may be.

Nothing is promised of the inside of thick wood that was not read (:func:`wood.judging.readiness.is_inside_unknown`).

Source: a rule of our own, after the practice of buying under 20% for indoor work and leaving a mixed pile alone; docs/science.md.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from wood.errors import check_range
from wood.judging.readiness import MAY_BE_WORKED, Edges, Verdict, is_inside_unknown, judge
from wood.measuring import lots
from wood.measuring.estimates import Estimate, Spot, estimate
from wood.measuring.readings import Bound, Layer
from wood.uses import FRAMING, Use

RACK_RULE = "2026-12a"
# Wood above this has not been dried, wherever it lies.
AIR_DRY = 0.20
# Boards of one stack that dried together lie within this of each other (six of their usual standard deviations).
DRIED_TOGETHER = 0.06
# What nobody waits for who could buy dry wood.
LONGEST_WAIT_DAYS = 365.0
# Fewer readings than this have no odd one.
FEWEST_TO_SORT = 4


class Advice(StrEnum):
    """What a buyer had better do."""

    TAKE = "take it"
    WAIT = "wait"
    WALK_AWAY = "walk away"


class Why(StrEnum):
    """What decided."""

    THERE = "there"
    DRIER = "drier"
    IN_TIME = "in_time"
    WET = "wet"
    MIXED = "mixed"
    NOT_AIR_DRY = "not_air_dry"
    TOO_LONG = "too_long"
    NEVER = "never"
    SWINGS = "swings"


@dataclass(frozen=True)
class AtTheRack:
    """Advice with what it stands on. ``days`` is low, usual and high until it’s ready to work at home (infinite: never stays there), None
    where no figure of the wood is known; ``inside_unknown`` that thick wood was read outside only; ``framing`` that all of it lies under
    the limit of framing lumber."""

    advice: Advice
    why: Why
    estimate: Estimate
    verdict: Verdict
    days: tuple[float, float, float] | None
    inside_unknown: bool
    framing: bool
    rule: str = RACK_RULE


def sorted_out(spots: Sequence[Spot]) -> list[int]:
    """Positions of readings that do not belong to the others: of one in a core or beyond the range where most are measured, or far off.

    >>> sorted_out([Spot(m, 0.01) for m in (0.112, 0.115, 0.110, 0.114, 0.171)])
    [4]
    """
    outer = [k for k, spot in enumerate(spots) if spot.counts and spot.layer != Layer.CORE]
    if len(outer) < FEWEST_TO_SORT:
        return []
    odd = {outer[k] for k in lots.odd_ones([spots[k].moisture for k in outer], least_distance=0.02)}
    beyond = {k for k in outer if spots[k].bound == Bound.ABOVE}
    result = sorted(odd | beyond)
    # Where a third and more are odd, none of them is: the pile is mixed.
    return result if len(result) * 3 < len(outer) else []


def read_together(spots: Sequence[Spot], odd: Sequence[int] = ()) -> Estimate | None:
    """What the readings say without the odd ones, None where nothing counts."""
    return estimate([spot for k, spot in enumerate(spots) if k not in odd])


def advise(
    wood: Estimate,
    home: Edges | float,
    home_uncertainty: float,
    use: Use,
    thickness_m: float,
    days: tuple[float, float, float] | None,
    patience_days: float,
) -> AtTheRack:
    """What to do about wood at the rack.

    Args:
        wood: what its readings say, from :func:`read_together`.
        home: what its use asks of it there today, or a moisture to be about (fraction, 0…0.4), ± ``home_uncertainty``.
        use: how close it must be; thickness_m: 0…3 m.
        days: low, usual and high until it’s ready to work there (not below zero), None where that is not known.
        patience_days: how long the buyer can wait, 0…3650.
    Raises:
        OutOfRange.
    """
    check_range("patience_days", patience_days, 0.0, 3650.0, " days")
    if days is not None:
        check_range("days", np.minimum(days, 1e9), 0.0, 1e9, " days")
    verdict = judge(wood, home, home_uncertainty, use, thickness_m)
    advice, why = _decide(wood, verdict, days, patience_days)
    unknown = bool(is_inside_unknown(thickness_m, wood.inside))
    framing = wood.bound != Bound.ABOVE and wood.mean + wood.uncertainty / 2 <= FRAMING.limit
    return AtTheRack(advice, why, wood, verdict, days, unknown, framing)


def _decide(wood: Estimate, verdict: Verdict, days: tuple[float, float, float] | None, patience_days: float) -> tuple[Advice, Why]:
    if wood.bound == Bound.ABOVE:
        return Advice.WALK_AWAY, Why.WET
    if wood.reach > DRIED_TOGETHER:
        return Advice.WALK_AWAY, Why.MIXED
    if wood.mean > AIR_DRY:
        return Advice.WAIT, Why.NOT_AIR_DRY
    if verdict.state in MAY_BE_WORKED or abs(verdict.difference) <= verdict.tolerance:
        return Advice.TAKE, Why.THERE
    if verdict.difference < 0:
        return Advice.TAKE, Why.DRIER
    if days is None:
        return Advice.WAIT, Why.TOO_LONG
    usual = days[1]
    if not np.isfinite(usual):
        # A home whose own year is wider than the tolerance carries the wood in and out.
        return Advice.TAKE, Why.SWINGS
    if usual <= patience_days:
        return Advice.TAKE, Why.IN_TIME
    return (Advice.WAIT, Why.TOO_LONG) if usual <= LONGEST_WAIT_DAYS else (Advice.WALK_AWAY, Why.NEVER)
