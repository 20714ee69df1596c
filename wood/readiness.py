"""Ready or not: a board's moisture against the level it will settle to, with everything that is unsure about both.

The rule, in one place. With *d* the difference between the board and the place's EMC, *tol* the tolerance of the use, and *U*
the combined 95 % uncertainty of meter, sampling and hygrometer:

- **ready** when |d| ≤ tol − U/2: inside by at least half the uncertainty, which is about eight chances in ten or better;
- **wait** / **too dry** when |d| > tol + U/2: as surely outside;
- **close** between the two;
- **cannot tell** when U > 1.5·tol and the doubt reaches into the tolerance: no board could pass such instruments;
- **too uneven** instead of ready, close or cannot tell when core and shell differ by more than the use allows (tol, unless it says
  otherwise), or places on the board by more than 2·tol.

A reading beyond the meter's range is evidence and never left out: where any spot is wetter than the meter can measure, the wood is
wetter than that there, however many dry spots stand beside it; the verdict waits and names the place (core, skin, some places).

For a lot the spots are boards. Framing has a limit instead: only what lies above it is outside, and unevenness does not count.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np

from wood import lots
from wood.errors import check_range
from wood.profile import SHELL_DEPTH, USUAL_DEPTH, Profile, profile_from

RULE_VERSION = "2026-11c"


class State(StrEnum):
    READY = "ready"
    CLOSE = "close"
    WAIT = "wait"
    TOO_DRY = "too dry"
    TOO_UNEVEN = "too uneven"
    CANNOT_TELL = "cannot tell"


# What a use is judged against: the level of its place, the subfloor that lies there, or a moisture it may not exceed.
LEVEL, SUBFLOOR, LIMIT = "level", "subfloor", "limit"


@dataclass(frozen=True)
class Use:
    """What the wood is for, and how close it must be; fractions.

    ``tolerance`` is how far it may be from what it is judged ``against``; for a ``LIMIT`` it is how much doubt still tells
    something. ``evenness`` is how far core and shell may differ, infinite where it does not matter. ``rule`` says whose rule it is.
    """

    key: str
    name: str
    tolerance: float
    against: str = LEVEL
    limit: float = 0.0
    evenness: float | None = None
    rule: str = ""

    @property
    def allowed_gradient(self) -> float:
        return self.tolerance if self.evenness is None else self.evenness


FINE = Use("fine", "Fine work", 0.01, rule="Furniture practice: within one point of where it will live.")
GENERAL = Use("general", "General work", 0.02, rule="General joinery: within two points.")
STRIP_FLOOR = Use(
    "strip", "Strip floor", 0.04, SUBFLOOR, rule="Flooring practice: boards under 3 in wide within four points of a wooden subfloor."
)
PLANK_FLOOR = Use(
    "plank", "Plank floor", 0.02, SUBFLOOR, rule="Flooring practice: boards of 3 in and wider within two points of a wooden subfloor."
)
FRAMING = Use("framing", "Framing", 0.03, LIMIT, 0.19, math.inf, "Dry framing lumber: at most 19 % when it is surfaced or built in.")
OUTDOORS = Use("outdoors", "Outdoor work", 0.03, evenness=0.05, rule="Outdoor joinery: within three points of the air it will stand in.")
TURNING = Use("turning", "Finish turning", 0.02, rule="A rough-turned blank within two points of the room it is turned and kept in.")
INSTRUMENT = Use(
    "instrument",
    "Instruments",
    0.01,
    evenness=0.005,
    rule="Instrument practice: within one point of the built piece's room, and even to half a point.",
)
USES = {use.key: use for use in (FINE, GENERAL, STRIP_FLOOR, PLANK_FLOOR, FRAMING, OUTDOORS, TURNING, INSTRUMENT)}


@dataclass(frozen=True)
class Spot:
    """One corrected reading as the verdict sees it; fractions.

    ``layer`` is ``""`` (the usual reading), ``"shell"``, ``"core"`` or ``"whole"`` (by weight: the mean of the piece). ``depth`` is the
    share of the thickness that a usual reading stands for, where it is not a fifth (:func:`wood.profile.pinless_depth`).
    """

    moisture: float
    uncertainty: float
    layer: str = ""
    near_end: bool = False
    counts: bool = True
    bound: str = ""
    depth: float | None = None


@dataclass(frozen=True)
class Estimate:
    """What the readings of one session say about a board; fractions.

    ``instrument`` is the meter's own uncertainty, ``sampling`` that of few and scattered spots (both 95 %); ``reach`` the
    difference between the wettest and driest spot; ``gradient`` core minus outer reading where both were read.

    ``bound`` ``"above"`` means that some of the wood is wetter than ``mean``, the edge of the meter's range; ``wet`` then says where:
    ``"all"`` that was read, the ``"core"``, the ``"skin"``, ``"places"`` on the board or ``"boards"`` of a lot. ``least`` is the lowest
    that the mean of the whole can then be; it is ``mean`` where nothing lies beyond the range.
    """

    mean: float
    instrument: float
    sampling: float
    spread: float
    count: int
    reach: float
    gradient: float | None = None
    bound: str = ""
    left_out: int = 0
    profile: Profile | None = None
    by_weight: bool = False
    wet: str = ""
    least: float | None = None

    @property
    def uncertainty(self) -> float:
        return math.hypot(self.instrument, self.sampling)


# A weighing that leaves more open than this gives way to spots.
ROUGH = 0.05


# How deep each layer lies, to tell a wet core from a wet skin.
LAYER_DEPTHS = {"shell": SHELL_DEPTH, "": USUAL_DEPTH, "core": 0.5}


def estimate(spots: Sequence[Spot], *, round: bool = False) -> Estimate | None:
    """Bring the readings of one session together, or ``None`` where none of them says anything; ``round`` for logs.

    A weighing of the whole piece outranks spots, unless its doubt is so large (an ovendry weight that was only estimated) that any
    measured spot tells more. Readings near an end are left out when others were taken. A core reading
    turns the outer ones into a profile. A reading that is wetter than the meter can measure decides, wherever it lies and
    however many dry ones stand beside it; one that is drier decides only where nothing else was read.

    >>> found = estimate([Spot(0.09, 0.01, "shell")] * 3 + [Spot(0.28, 0.02, "core", bound="above")])
    >>> found.bound, found.wet
    ('above', 'core')
    """
    telling = [spot for spot in spots if spot.counts]
    if not telling:
        return None
    wet = [spot for spot in telling if spot.bound == "above"]
    whole = [spot for spot in telling if spot.layer == "whole"]
    spotted = [spot for spot in telling if spot.layer != "whole" and not spot.bound]
    clear = [spot for spot in spotted if not spot.near_end] or spotted
    best = min(whole, key=lambda spot: spot.uncertainty, default=None)
    weighed = best is not None and (best.uncertainty <= ROUGH or not spotted)
    if wet and not (weighed and best.moisture >= wet[0].moisture):
        return _beyond(wet, clear, len(spots), round=round)
    if weighed:
        return Estimate(best.moisture, best.uncertainty, 0.0, 0.0, 1, 0.0, left_out=len(spots) - 1, by_weight=True)
    if not clear:
        edge = telling[0]
        return Estimate(edge.moisture, edge.uncertainty, 0.0, 0.0, len(telling), 0.0, bound=edge.bound, left_out=len(spots) - len(telling))
    core = [spot.moisture for spot in clear if spot.layer == "core"]
    outer, outer_depth = _outer(clear)
    interval = lots.t_interval(outer or core, lots.USUAL_SPREAD)
    mean, gradient, profile = interval.mean, None, None
    if core and outer:
        profile = profile_from(interval.mean, float(np.mean(core)), outer_depth, round=round)
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
    )


def _outer(spots: Sequence[Spot]) -> tuple[list[float], float]:
    """The moistures read outside the core and the depth they stand for: the usual readings, else those of the shell."""
    usual = [spot for spot in spots if spot.layer == ""]
    if usual:
        depth = float(np.mean([USUAL_DEPTH if spot.depth is None else spot.depth for spot in usual]))
        return [spot.moisture for spot in usual], depth
    return [spot.moisture for spot in spots if spot.layer == "shell"], SHELL_DEPTH


def _beyond(wet: Sequence[Spot], measured: Sequence[Spot], count: int, *, round: bool) -> Estimate:
    """Wood of which some spot is wetter than the meter can measure: a bound, and where it lies."""
    edge = max(wet, key=lambda spot: LAYER_DEPTHS.get(spot.layer, 0.0))
    depth = LAYER_DEPTHS.get(edge.layer, 0.0)
    outer, outer_depth = _outer(measured)
    core = [spot.moisture for spot in measured if spot.layer == "core"]
    values = [spot.moisture for spot in measured]
    where, gradient, profile, least = "all", None, None, edge.moisture
    if edge.layer == "core" and outer:
        where, gradient = "core", edge.moisture - float(np.mean(outer))
        profile = profile_from(float(np.mean(outer)), edge.moisture, outer_depth, round=round)
        least = profile.mean
    elif measured and all(LAYER_DEPTHS.get(spot.layer, 0.0) > depth for spot in measured):
        where, gradient = "skin", (float(np.mean(core)) - edge.moisture if core else None)
        least = float(np.mean(values))
    elif measured:
        where, least = "places", float(np.mean([*values, *(spot.moisture for spot in wet)]))
    return Estimate(
        edge.moisture, edge.uncertainty, 0.0, 0.0, len(wet), 0.0, gradient, "above", count - len(wet) - len(measured), profile,
        wet=where, least=least,
    )  # fmt: skip


@dataclass(frozen=True)
class Verdict:
    """The answer. ``difference`` is board minus place; ``margin`` is how far inside (+) or outside (−) the tolerance it lies.

    ``cause`` is a code for the sentence: ``"difference"``, ``"gradient"``, ``"reach"``, ``"instruments"``, ``"few_readings"``,
    ``"beyond_range"`` (``board.wet`` says where). ``more_readings`` is how many more would settle it, 0 if settled, ``None`` if readings cannot.
    """

    state: State
    cause: str
    difference: float
    uncertainty: float
    margin: float
    tolerance: float
    target: float
    target_uncertainty: float
    more_readings: int | None
    version: str = RULE_VERSION


SIDE = {"": 0, "above": 1, "below": -1}
CODES = (State.READY, State.CLOSE, State.WAIT, State.TOO_DRY, State.TOO_UNEVEN, State.CANNOT_TELL)


def codes(difference, uncertainty, use: Use | float, gradient, reach, bound=0, target_uncertainty: float = 0.0) -> np.ndarray:
    """The rule over arrays: positions in :data:`CODES`.

    Args:
        difference, uncertainty, gradient, reach: fractions, one per board; ``gradient`` is NaN where no core was read.
        use: the use, or a tolerance above zero.
        bound: +1 where the board is only known to be wetter than the difference says, −1 drier, 0 measured.
        target_uncertainty: the place's, for those bounds.
    """
    use = use if isinstance(use, Use) else Use("", "", float(use))
    tolerance, one_sided = use.tolerance, use.against == LIMIT
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
    result = np.where((u > 1.5 * tolerance) & (np.abs(excess) < u if one_sided else excess < u), 5, result)
    # Differences on one board are read with one meter: they stand even where the level cannot be told.
    result = np.where(uneven & ((result < 2) | (result == 5)), 4, result)
    # A bound decides only when it lies clearly outside the tolerance on its own side.
    side = np.asarray(bound)
    beyond = side * d > (0 if one_sided else tolerance) + target_uncertainty / 2
    decided = np.where(beyond, np.where(side > 0, 2, 0 if one_sided else 3), 5)
    return np.where(side == 0, result, decided)


def judge(board: Estimate, target: float, target_uncertainty: float, use: Use | float) -> Verdict:
    """Whether a board may be worked for a place.

    Args:
        board: from :func:`estimate`.
        target: the EMC of the place (fraction, 0…0.4); target_uncertainty: what the hygrometer leaves open (95 %).
        use: the use, or a tolerance as a fraction.
    Raises:
        OutOfRange.

    >>> dry = Estimate(mean=0.103, instrument=0.008, sampling=0.003, spread=0.004, count=6, reach=0.008)
    >>> judge(dry, 0.10, 0.004, FINE).state.value
    'ready'
    """
    check_range("target", target, 0.0, 0.4)
    check_range("target_uncertainty", target_uncertainty, 0.0, 0.4)
    use = use if isinstance(use, Use) else Use("", "", float(use))
    settled = _settle(board, target, target_uncertainty, use)
    if settled.state in (State.READY, State.WAIT, State.TOO_DRY, State.TOO_UNEVEN) or settled.cause == "beyond_range":
        return settled
    return replace(settled, more_readings=_more_readings(board, target, target_uncertainty, use))


def _settle(board: Estimate, target: float, target_uncertainty: float, use: Use) -> Verdict:
    tolerance = use.tolerance
    difference = board.mean - target
    uncertainty = math.hypot(board.uncertainty, target_uncertainty)
    gradient = math.nan if board.gradient is None else board.gradient
    side = SIDE[board.bound]
    state = CODES[int(codes(difference, uncertainty, use, gradient, board.reach, side, target_uncertainty))]
    cause = "difference"
    if side:
        cause = "beyond_range"
    elif state is State.TOO_UNEVEN:
        cause = "gradient" if abs(gradient) > use.allowed_gradient else "reach"
    elif state is State.CANNOT_TELL:
        without_sampling = math.hypot(board.instrument, target_uncertainty)
        cause = "instruments" if without_sampling > 1.5 * tolerance else "few_readings"
    margin = -difference if use.against == LIMIT else tolerance - abs(difference)
    return Verdict(state, cause, difference, uncertainty, margin, tolerance, target, target_uncertainty, more_readings=0)


def _more_readings(board: Estimate, target: float, target_uncertainty: float, use: Use, limit: int = 20) -> int | None:
    """The fewest further readings, scattering as these do, after which the verdict is neither close nor open."""
    for more in range(1, limit + 1):
        sampling = lots.half_width_with(board.spread, board.count + more)
        state = _settle(replace(board, sampling=sampling), target, target_uncertainty, use).state
        if state not in (State.CLOSE, State.CANNOT_TELL):
            return more
    return None


@dataclass(frozen=True)
class Board:
    """One board read in a lot: its estimate, and where in the stack it lay (from :data:`wood.lots.STRATA`, or ``""``)."""

    estimate: Estimate
    part: str = ""


def estimate_lot(boards: Sequence[Board], size: int | None = None) -> Estimate | None:
    """Bring the boards read in a lot together as one estimate, or ``None`` where none says anything.

    Boards that are wetter than the meter can measure decide, however few they are; boards drier than it can measure only where they
    are the most, else they are left out and counted. The meter's doubt is not lessened by more boards; that of few boards is.
    """
    measured = [board for board in boards if not board.estimate.bound]
    bounded = [board for board in boards if board.estimate.bound]
    wet = [board.estimate for board in bounded if board.estimate.bound == "above"]
    if wet:
        where = "boards" if len(wet) < len(boards) else wet[0].wet
        least = float(np.mean([board.estimate.mean if board.estimate.least is None else board.estimate.least for board in boards]))
        left_out = len(bounded) - len(wet)
        return replace(wet[0], count=len(wet), left_out=left_out, profile=None, gradient=None, wet=where, least=least)
    if len(bounded) > len(measured):
        edge = bounded[0].estimate
        return replace(edge, count=len(bounded), left_out=len(measured), profile=None, gradient=None)
    if not measured:
        return None
    means = [board.estimate.mean for board in measured]
    found = lots.lot_mean(means, [board.part for board in measured], FINE.tolerance, size)
    gradients = [board.estimate.gradient for board in measured if board.estimate.gradient is not None]
    return Estimate(
        mean=found.mean,
        instrument=float(np.mean([board.estimate.instrument for board in measured])),
        sampling=found.half_width,
        spread=found.spread,
        count=found.count,
        reach=float(np.ptp(means)),
        gradient=max(gradients, key=abs, default=None),
        left_out=len(bounded),
    )


@dataclass(frozen=True)
class Alike:
    """Whether two boards or lots are close enough to be joined. ``state`` is READY (alike), CLOSE, WAIT (apart) or CANNOT_TELL."""

    state: State
    difference: float
    uncertainty: float
    tolerance: float


def alike(one: Estimate, other: Estimate, tolerance: float, *, same_meter: bool = False) -> Alike:
    """Compare two estimates as the verdict compares a board with its place.

    With ``same_meter`` (one meter, one species) its error is in both readings alike and falls out of the difference.

    >>> a = Estimate(mean=0.10, instrument=0.008, sampling=0.003, spread=0.004, count=6, reach=0.008)
    >>> alike(a, replace(a, mean=0.103), 0.01, same_meter=True).state.value
    'ready'
    """
    check_range("tolerance", tolerance, 1e-6, 1.0)
    instruments = 0.0 if same_meter else math.hypot(one.instrument, other.instrument)
    uncertainty = math.hypot(one.sampling, other.sampling, instruments)
    difference = one.mean - other.mean
    if one.bound or other.bound:
        # One bound tells something where the other board lies on its dry side, two nothing.
        bound = SIDE[one.bound] - SIDE[other.bound]
        apart = bool(one.bound) != bool(other.bound) and bound * difference > tolerance + uncertainty / 2
        return Alike(State.WAIT if apart else State.CANNOT_TELL, difference, uncertainty, tolerance)
    state = CODES[int(codes(difference, uncertainty, tolerance, math.nan, 0.0))]
    return Alike(State.WAIT if state is State.TOO_DRY else state, difference, uncertainty, tolerance)
