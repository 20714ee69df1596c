"""Milling in steps: for each board the first pass, the rest by what its inside still holds, and the last; what resawing would do; and
legs.
"""

from dataclasses import dataclass

import numpy as np

from calm_heron.builds.models import BuildPart
from calm_heron.builds.readiness import UNREADY, BuildState, BuildWood, Sizing
from calm_heron.drying import forecasts
from calm_heron.measuring.models import PieceMoisture
from calm_heron.site.memory import Memory, digest_of
from calm_heron.workshops.models import Membership
from wood.builds import legs, milling
from wood.builds.legs import RouteStage
from wood.builds.milling import Leaf, Rest
from wood.drying.speeding_up import MOST_SKIMMED
from wood.errors import NotKnown, OutOfRange
from wood.movement import shrinkage

MOST_SHOWN = 12
_rests: Memory[Rest] = Memory(128)
_leaves: Memory[Leaf] = Memory(128)


@dataclass(frozen=True)
class MilledBoard:
    """One board and those of its parts that have one thickness: thicknesses now, after the first pass and finished (metres), how long it
    rests between, and what a resawn leaf would do where it is thick enough for two. ``waits`` says that it is not ready for the first pass;
    ``why`` why nothing can be told."""

    wood: BuildWood
    parts: tuple[BuildPart, ...]
    now_m: float
    rough_m: float
    finished_m: float
    rest: Rest | None
    leaf: Leaf | None
    waits: bool
    gradient_read: bool
    why: str = ""


def boards(state: BuildState, membership: Membership) -> list[MilledBoard]:
    """The boards of a build, those that rest longest first."""
    moistures = {row.piece_id: row for row in PieceMoisture.objects.filter(piece__in=[wood.piece for wood in state.woods])}
    result = [
        _board(state, wood, parts, moistures.get(wood.piece.pk), membership)
        for wood in state.woods[:MOST_SHOWN]
        for parts in _by_thickness(state, wood)
    ]
    return sorted(result, key=lambda item: -(item.rest.days if item.rest else -1))


def _by_thickness(state: BuildState, wood: BuildWood) -> list[tuple[BuildPart, ...]]:
    """The parts of a board, those of one thickness together: each is roughed to its own."""
    parts = [part.part for part in state.parts if any(own.piece.pk == wood.piece.pk for own in part.woods)]
    by_thickness: dict[float, list[BuildPart]] = {}
    for part in sorted(parts, key=lambda part: -part.thickness_m):
        by_thickness.setdefault(round(part.thickness_m, 5), []).append(part)
    return [tuple(alike) for alike in by_thickness.values()]


def _board(
    state: BuildState, wood: BuildWood, parts: tuple[BuildPart, ...], known: PieceMoisture | None, membership: Membership
) -> MilledBoard:
    thickest = parts[0]
    now = wood.piece.thickness_m
    # Half of what is left on the thickness goes in the last pass.
    rough = min(now, thickest.thickness_m + thickest.extra_thickness_m / 2)

    def milled_board(rest: Rest | None, leaf: Leaf | None, why: str = "") -> MilledBoard:
        read = known is not None and known.gradient is not None
        return MilledBoard(wood, parts, now, rough, thickest.thickness_m, rest, leaf, wood.state in UNREADY, read, why)

    if known is None or known.bound:
        return milled_board(None, None, "It was not read yet." if known is None else "It is beyond what the meter can read.")
    question = forecasts.usual_question(wood.piece, known, state.about, membership)
    if question is None:
        return milled_board(None, None, "How fast this wood moves, or its air, is not known.")
    off = min(max((now - rough) / 2, 0.0), 0.99 * MOST_SKIMMED * now / 2)
    rest = _rests.get(digest_of((question.question, off)), lambda: milling.rest(question.question, off))
    leaf = None
    if now >= 2 * (thickest.thickness_m + thickest.extra_thickness_m) + state.build.kerf_m:
        try:
            figures = shrinkage.of_species(wood.piece.species)
            width = min(thickest.rough_m[1], wood.piece.width_m)
            leaf = _leaves.get(
                digest_of((question.question, state.build.kerf_m, width, wood.piece.ring_angle_deg)),
                lambda: milling.resawn(question.question, state.build.kerf_m, figures, wood.piece.ring_angle_deg, width),
            )
        except (NotKnown, OutOfRange):
            leaf = None
    return milled_board(rest, leaf)


@dataclass(frozen=True)
class LegWords:
    """A leg with its rings along its faces, between, and corner to corner, from today's moisture to the driest of its year."""

    part: BuildPart
    ways: tuple[tuple[str, RouteStage], ...]


ANGLES = (("Rings along two faces", 0.0), ("Between", 25.0), ("Rings from corner to corner", 45.0))


def legs_of(state: BuildState) -> list[LegWords]:
    """The parts that are to show straight grain on four faces, or are square and stand."""
    result = []
    sizing = Sizing(state.build, state.about)
    for each_part in state.parts:
        part = each_part.part
        if part.figure != "leg":
            continue
        year = sizing.year_of(part.species, part.thickness_m)
        try:
            figures = shrinkage.of_species(part.species)
        except NotKnown:
            continue
        if year is None:
            continue
        read = [wood.piece.moisture.mean for wood in each_part.woods if getattr(wood.piece, "moisture", None) is not None]
        now = min(float(np.mean(read)), 0.4) if read else year.high
        ways = tuple((words, legs.leg(min(max(part.thickness_m, 0.01), 0.5), angle, figures, now, year.low)) for words, angle in ANGLES)
        result.append(LegWords(part, ways))
    return result
