"""Readings brought together: what those of one session say of a board, and the boards read in a lot of the lot.

A reading beyond the meter's range is evidence and never left out: where any spot is wetter than the meter can measure, the wood is
wetter than that there, however many dry spots stand beside it.

Sources: the profile through two readings, FPL-GTR-6 and AH-188; what decides is a rule of our own.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np

from wood.measuring import lots
from wood.measuring.profile import SHELL_DEPTH, USUAL_DEPTH, Profile, profile_from
from wood.measuring.readings import Bound, Layer
from wood.uses import FINE


class Wet(StrEnum):
    """Where wood lies that is wetter than the meter can measure."""

    NOWHERE = ""
    ALL = "all"
    CORE = "core"
    SURFACE = "skin"
    PLACES = "places"
    BOARDS = "boards"


@dataclass(frozen=True)
class Spot:
    """One corrected reading as the verdict sees it; fractions.

    ``depth`` is the share of the thickness that a usual reading stands for, where it is not a fifth
    (:func:`wood.measuring.profile.pinless_depth`).
    ``inside`` says that it tells of the inside: of the core, of the whole, or of a fresh cut.
    """

    moisture: float
    uncertainty: float
    layer: str = Layer.USUAL
    near_end: bool = False
    counts: bool = True
    bound: str = Bound.NONE
    depth: float | None = None
    inside: bool = False


@dataclass(frozen=True)
class Estimate:
    """What the readings of one session say about a board; fractions.

    ``instrument`` is the meter's own uncertainty, ``sampling`` that of few and scattered spots (both 95%); ``reach`` the
    difference between the wettest and driest spot; ``gradient`` core minus outer reading where both were read.

    A ``bound`` above means that some of the wood is wetter than ``mean``, the edge of the meter's range; ``wet`` then says where.
    ``least`` is the lowest that the mean of the whole can then be; it is ``mean`` where nothing lies beyond the range.
    ``inside`` says that some reading tells of the inside of the wood.
    """

    mean: float
    instrument: float
    sampling: float
    spread: float
    count: int
    reach: float
    gradient: float | None = None
    bound: str = Bound.NONE
    left_out: int = 0
    profile: Profile | None = None
    by_weight: bool = False
    wet: str = Wet.NOWHERE
    least: float | None = None
    inside: bool = False

    @property
    def uncertainty(self) -> float:
        return math.hypot(self.instrument, self.sampling)


# A weighing that leaves more open than this gives way to spots.
ROUGH = 0.05


# How deep each layer lies, to tell a wet core from a wet skin.
LAYER_DEPTHS: dict[str, float] = {Layer.SHELL: SHELL_DEPTH, Layer.USUAL: USUAL_DEPTH, Layer.CORE: 0.5}


def estimate(spots: Sequence[Spot], *, is_round: bool = False) -> Estimate | None:
    """Bring the readings of one session together, or ``None`` where none of them says anything; ``is_round`` for logs.

    A weighing of the whole piece outranks spots, unless its doubt is so large (an ovendry weight that was only estimated) that any
    measured spot tells more. Readings near an end are left out when others were taken. A core reading
    turns the outer ones into a profile. A reading that is wetter than the meter can measure decides, wherever it lies and
    however many dry ones stand beside it; one that is drier decides only where nothing else was read.

    >>> result = estimate([Spot(0.09, 0.01, Layer.SHELL)] * 3 + [Spot(0.28, 0.02, Layer.CORE, bound=Bound.ABOVE)])
    >>> str(result.bound), str(result.wet)
    ('above', 'core')
    """
    telling = [spot for spot in spots if spot.counts]
    if not telling:
        return None
    inside = any(spot.inside or spot.layer in (Layer.CORE, Layer.WHOLE) for spot in telling)
    wet = [spot for spot in telling if spot.bound == Bound.ABOVE]
    whole = [spot for spot in telling if spot.layer == Layer.WHOLE]
    spotted = [spot for spot in telling if spot.layer != Layer.WHOLE and not spot.bound]
    clear = [spot for spot in spotted if not spot.near_end] or spotted
    best = min(whole, key=lambda spot: spot.uncertainty, default=None)
    if best is not None and best.uncertainty > ROUGH and spotted:
        best = None
    if wet and not (best and best.moisture >= wet[0].moisture):
        return replace(_beyond(wet, clear, len(spots), is_round=is_round), inside=inside)
    if best:
        return Estimate(best.moisture, best.uncertainty, 0.0, 0.0, 1, 0.0, left_out=len(spots) - 1, by_weight=True, inside=True)
    if not clear:
        edge, left_out = telling[0], len(spots) - len(telling)
        return Estimate(edge.moisture, edge.uncertainty, 0.0, 0.0, len(telling), 0.0, bound=edge.bound, left_out=left_out, inside=inside)
    core = [spot.moisture for spot in clear if spot.layer == Layer.CORE]
    outer, outer_depth = _outer(clear)
    interval = lots.t_interval(outer or core, lots.USUAL_SPREAD)
    mean, gradient, profile = interval.mean, None, None
    if core and outer:
        profile = profile_from(interval.mean, float(np.mean(core)), outer_depth, is_round=is_round)
        mean, gradient = profile.mean, float(np.mean(core)) - interval.mean
    return Estimate(
        mean=mean,
        # A meter's error is the same at every spot: averaging does not lessen it.
        instrument=float(np.mean([spot.uncertainty for spot in clear])),
        sampling=interval.half_width,
        spread=interval.spread,
        count=interval.count,
        reach=float(np.ptp(outer or core)),
        gradient=gradient,
        left_out=len(spots) - len(clear),
        profile=profile,
        inside=inside,
    )


def _outer(spots: Sequence[Spot]) -> tuple[list[float], float]:
    """The moistures read outside the core and the depth they stand for: the usual readings, else those of the shell."""
    usual = [spot for spot in spots if spot.layer == Layer.USUAL]
    if usual:
        depth = float(np.mean([USUAL_DEPTH if spot.depth is None else spot.depth for spot in usual]))
        return [spot.moisture for spot in usual], depth
    return [spot.moisture for spot in spots if spot.layer == Layer.SHELL], SHELL_DEPTH


def _beyond(wet: Sequence[Spot], measured: Sequence[Spot], count: int, *, is_round: bool) -> Estimate:
    """Wood of which some spot is wetter than the meter can measure: a bound, and where it lies."""
    edge = max(wet, key=lambda spot: LAYER_DEPTHS.get(spot.layer, 0.0))
    depth = LAYER_DEPTHS.get(edge.layer, 0.0)
    outer, outer_depth = _outer(measured)
    core = [spot.moisture for spot in measured if spot.layer == Layer.CORE]
    values = [spot.moisture for spot in measured]
    where, gradient, profile, least = Wet.ALL, None, None, edge.moisture
    if edge.layer == Layer.CORE and outer:
        where, gradient = Wet.CORE, edge.moisture - float(np.mean(outer))
        profile = profile_from(float(np.mean(outer)), edge.moisture, outer_depth, is_round=is_round)
        least = profile.mean
    elif measured and all(LAYER_DEPTHS.get(spot.layer, 0.0) > depth for spot in measured):
        where, gradient = Wet.SURFACE, (float(np.mean(core)) - edge.moisture if core else None)
        least = float(np.mean(values))
    elif measured:
        where, least = Wet.PLACES, float(np.mean([*values, *(spot.moisture for spot in wet)]))
    return Estimate(
        edge.moisture,
        edge.uncertainty,
        0.0,
        0.0,
        len(wet),
        0.0,
        gradient,
        Bound.ABOVE,
        count - len(wet) - len(measured),
        profile,
        wet=where,
        least=least,
    )


@dataclass(frozen=True)
class Board:
    """One board read in a lot: its estimate, and where in the stack it lay (from :data:`wood.measuring.lots.STRATA`, or ``""``)."""

    estimate: Estimate
    part: str = ""


def estimate_lot(boards: Sequence[Board], size: int | None = None) -> Estimate | None:
    """Bring the boards read in a lot together as one estimate, or ``None`` where none says anything.

    Boards that are wetter than the meter can measure decide, however few they are; boards drier than it can measure only where they
    are the most, else they are left out and counted. The meter's doubt is not lessened by more boards; that of few boards is.
    """
    measured = [board for board in boards if not board.estimate.bound]
    bounded = [board for board in boards if board.estimate.bound]
    wet = [board.estimate for board in bounded if board.estimate.bound == Bound.ABOVE]
    if wet:
        where = Wet.BOARDS if len(wet) < len(boards) else wet[0].wet
        least = float(np.mean([board.estimate.mean if board.estimate.least is None else board.estimate.least for board in boards]))
        left_out = len(bounded) - len(wet)
        return replace(wet[0], count=len(wet), left_out=left_out, profile=None, gradient=None, wet=where, least=least)
    if len(bounded) > len(measured):
        edge = bounded[0].estimate
        return replace(edge, count=len(bounded), left_out=len(measured), profile=None, gradient=None)
    if not measured:
        return None
    means = [board.estimate.mean for board in measured]
    result = lots.lot_mean(means, [board.part for board in measured], FINE.tolerance, size)
    gradients = [board.estimate.gradient for board in measured if board.estimate.gradient is not None]
    return Estimate(
        mean=result.mean,
        instrument=float(np.mean([board.estimate.instrument for board in measured])),
        sampling=result.half_width,
        spread=result.spread,
        count=result.count,
        reach=float(np.ptp(means)),
        gradient=max(gradients, key=abs, default=None),
        left_out=len(bounded),
        inside=any(board.estimate.inside for board in measured),
    )
