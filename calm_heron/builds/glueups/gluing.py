"""A panel on the bench: which boards are glued together, in which order, and what the panel does then."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

from calm_heron.builds.kinds import ApproachKind, ChalkKind, FigureKind, SapwoodKind
from calm_heron.builds.layouts.allocation import Saw
from calm_heron.builds.models import BuildPart, GlueUp
from calm_heron.builds.readiness import UNREADY, BuildState, PartState, Sizing, wanted_angle
from calm_heron.judging import joining
from calm_heron.measuring.models import PieceMoisture
from calm_heron.site.numbers import distance, percent, points
from calm_heron.stock.models import Piece
from wood.builds import glueups, milling
from wood.builds.glueups import Alike, PanelBoard, PanelSection, RingApproach
from wood.drying.diffusivity import of_species as pace_of
from wood.errors import NotKnown
from wood.judging.comparison import compare_boards
from wood.judging.readiness import State
from wood.movement import shrinkage
from wood.units import System
from wood.written import cut_length

USUAL_PITH_M = 0.15


@dataclass(frozen=True)
class BoardOfPanel:
    """One stave of a panel: its number, the board it comes from (None: not laid yet) and its own moisture, where it was read."""

    number: int
    piece: Piece | None
    moisture: PieceMoisture | None

    @property
    def name(self) -> str:
        return f"{self.number + 1} {self.piece.tag}" if self.piece else f"{self.number + 1}"


@dataclass(frozen=True)
class GlueUpWords:
    """A panel: its staves in order, the section it takes at the driest and the dampest, both approaches beside it, and its words."""

    order: list[list[Any]]
    staves: list[BoardOfPanel]
    section: PanelSection | None
    approaches: list[tuple[str, PanelSection, str, bool]]
    alike: Alike | None
    word: str
    reason: str
    next_step: str
    glue_days: float | None
    notes: list[str]
    now: float | None
    then: float | None


def staves_of(part: BuildPart, copy: int, saw: Saw) -> list[BoardOfPanel]:
    """The staves of one panel, each from the board it is laid on."""
    pieces = {held.pk: held.piece for held in saw.held}
    boards = {cut.nth: pieces[cut.board_id] for cut in saw.cuts if cut.part_id == part.pk}
    results = []
    for number in range(part.staves):
        piece = boards.get(copy * part.staves + number) or part.stock
        moisture = getattr(piece, "moisture", None) if piece is not None else None
        results.append(BoardOfPanel(number, piece, moisture))
    return results


def _uncertainty(stave: BoardOfPanel) -> float:
    """What a stave's moisture leaves open; one of a lot may be any of its boards."""
    assert stave.moisture is not None
    read = stave.moisture.estimate()
    of_a_lot = 2 * read.spread if stave.piece is not None and stave.piece.is_lot else 0.0
    return min(math.hypot(read.uncertainty, of_a_lot), 1.0)


def usual_order(part: BuildPart, staves: Sequence[BoardOfPanel]) -> list[list[Any]]:
    """By turns, from left to right; sapwood and wild grain are for the eye to turn out."""
    return [[item.number, number % 2 == 0, False] for number, item in enumerate(staves)]


def core_stave(part: BuildPart, stave: BoardOfPanel, bark_up: bool, turned: bool) -> PanelBoard:
    """A stave as the core computes with it, at its finished width.

    Raises:
        NotKnown: how much its species moves.
    """
    figures = shrinkage.of_species(part.species)
    angle = stave.piece.ring_angle_deg if stave.piece is not None else wanted_angle(part)
    pith = stave.piece.pith_distance_m if stave.piece is not None else USUAL_PITH_M
    return PanelBoard(stave.name, figures, part.width_m / part.staves, part.thickness_m, angle, pith, bark_up, turned)


def describe(
    part: BuildPart,
    staves: list[BoardOfPanel],
    order: list[list[Any]],
    state: BuildState,
    system: System,
    saved: GlueUp | None = None,
) -> GlueUpWords:
    """What becomes of a panel whose boards lie so; ``saved`` is how it is kept, with how it is chalked and where its sapwood goes."""
    stands = next((each_part for each_part in state.parts if each_part.part.pk == part.pk), None)
    laid = [(staves[int(number)], bool(up), bool(turned)) for number, up, turned in order]
    known = [stave.moisture for stave in staves if stave.moisture is not None and not stave.moisture.bound]
    alike = None
    if len(known) == len(staves):
        alike = glueups.alike([row.mean for row in known], [_uncertainty(stave) for stave in staves])
    sizing = Sizing(state.build, state.about)
    now = sum(row.mean for row in known) / len(known) if known else sizing.mean
    year = sizing.year_of(part.species, part.thickness_m)
    then = None if year is None or now is None else max((year.low, year.high), key=lambda end: abs(end - min(now, 0.4)))
    section, approaches, glue = None, [], None
    try:
        core = [core_stave(part, *placement) for placement in laid]
    except NotKnown:
        core = []
    if core and now is not None and then is not None:
        section = glueups.panel(core, min(now, 0.4), then)
        for kind in ApproachKind:
            turned = glueups.by_approach(core, RingApproach(kind.value))
            is_here = [stave.bark_up for stave in turned] == [stave.bark_up for stave in core]
            first = section if is_here else glueups.panel(turned, min(now, 0.4), then)
            approaches.append((kind.label.capitalize(), first, _approach_words(first, system), is_here))
    if core:
        thickness, at = min(max(part.thickness_m, 0.003), 0.2), min(max(now or 0.09, 0.02), 0.28)
        try:
            glue = milling.glue_days(pace_of(part.species).wood, thickness, core[0].shrinkage, core[0].ring_angle_deg, at)
        except NotKnown:
            glue = None
    word, reason, step = _verdict(staves, alike, stands)
    return GlueUpWords(
        order,
        staves,
        section,
        approaches,
        alike,
        word,
        reason,
        step,
        glue,
        _notes(part, staves, order, saved, state.build.sapwood_out),
        now,
        then,
    )


def _approach_words(panel: PanelSection, system: System) -> str:
    bow, cup = (cut_length(abs(item), system) for item in (panel.bow_m, panel.wave_m))
    # What is written as nothing no hand feels.
    bows = "stays flat as a whole" if bow.startswith("0 ") else f"bows by {bow}"
    cups = "no board cups so that a hand would feel it" if cup.startswith("0 ") else f"each board cups by up to {cup}"
    return f"{bows}, and {cups}; planed flat, {cut_length(panel.flat_m, system)} is left"


def _verdict(staves: Sequence[BoardOfPanel], alike: Alike | None, stands: PartState | None) -> tuple[str, str, str]:
    if stands is not None and stands.state in UNREADY:
        waits = next(wood for wood in stands.woods if wood.state in UNREADY)
        reason = f"{waits.piece.tag} isn’t at its target yet: glued now, every joint would be under strain by the time it is."
        return "Not yet", reason, "Its build’s page says when; until then you can put the boards in order and number them."
    if alike is None:
        missing = sorted(
            {
                stave.piece.tag if stave.piece else "what is still to place"
                for stave in staves
                if stave.moisture is None or stave.moisture.bound
            }
        )
        return (
            "Cannot tell",
            f"{', '.join(missing)} has no usable reading.",
            "Place the panel on boards, and read each of them with one meter on one day.",
        )
    wet, dry = staves[alike.wettest], staves[alike.driest]
    assert wet.moisture is not None
    assert dry.moisture is not None
    lots = sorted({stave.piece.tag for stave in staves if stave.piece is not None and stave.piece.is_lot})
    if lots and not alike.may_not and alike.apart + alike.uncertainty > glueups.TOLERANCE:
        reason = f"The boards of {', '.join(lots)} were read through sample boards, and differ by more than a point."
        return "Cannot tell", reason, "Read each of these boards before gluing, and keep together those within a point."
    if alike.apart < 0.0005:
        return joining.WORDS[State.READY], f"All of its boards are at {points(wet.moisture.mean)}%.", _JOINT
    # The same comparison as that of two boards that are to be joined; of a panel its wettest and its driest count.
    assert wet.piece is not None
    assert dry.piece is not None
    same_meter = joining.read_with_one_meter(wet.piece, dry.piece)
    compared = compare_boards(wet.moisture.estimate(), dry.moisture.estimate(), glueups.TOLERANCE, same_meter=same_meter)
    said = (
        f"{wet.name} is at {points(wet.moisture.mean)}%, {dry.name} at {points(dry.moisture.mean)}%: {distance(compared.difference)}"
        f" points apart, give or take {points(compared.uncertainty)}; a point is allowed."
    )
    steps = {
        State.READY: _JOINT,
        State.WAIT: (
            f"Let {wet.piece.tag} go on drying beside the others, or use another board; glued now, the joint would step or open as it "
            "dries."
        ),
        State.CANNOT_TELL: "Read all of them in more places with one meter: only the differences then count.",
    }
    return (
        joining.WORDS[compared.state],
        said,
        steps.get(compared.state, "Leave them on stickers in one room, and read them again in a week."),
    )


_JOINT = "Joint and glue within a day: planed edges move first. Dry-fit with every clamp before the glue."


def _notes(part: BuildPart, staves: Sequence[BoardOfPanel], order: list[list[Any]], saved: GlueUp | None, sapwood_out: bool) -> list[str]:
    against = [staves[int(number)].name for number, _, turned in order if turned]
    notes = [
        CHALKED[ChalkKind(saved.chalk if saved else ChalkKind.JOINTS)]
        + " Add an arrow on each board the way its grain rises: planed that way, it does not tear."
    ]
    if against and len(against) < len(order):
        notes.append(
            f"{', '.join(against)} lies end for end: its arrow points against the others, and it is planed from the other end, or scraped."
        )
    if not sapwood_out:
        notes += _sapwood(staves, order, SapwoodKind(saved.sapwood if saved else SapwoodKind.OUT))
    if part.figure == FigureKind.UP:
        notes.append("The figure points upward, like flames: mark the top of each board before it is cut.")
    elif part.figure == FigureKind.ALONG:
        notes.append("The figure runs level, and on from front to front: cut all fronts from one board, in order.")
    return notes


CHALKED = {
    ChalkKind.JOINTS: "Chalk each joint’s number on both of its boards.",
    ChalkKind.TRIANGLE: "Chalk a number on each board, and one large triangle across all: when it is whole again, they are in order.",
}


def _sapwood(staves: Sequence[BoardOfPanel], order: list[list[Any]], kind: SapwoodKind) -> list[str]:
    """Which boards with sapwood do not lie as they are to: at an outer edge, or with their bark side down."""
    laid = [(staves[int(number)], bool(up)) for number, up, _ in order]
    with_sapwood = [(n, stave, up) for n, (stave, up) in enumerate(laid) if stave.piece is not None and stave.piece.has_sapwood]
    if not with_sapwood:
        return []
    why = "Sapwood takes a finish differently and rots first"
    if kind == SapwoodKind.BACK:
        wrong = [stave.name for _, stave, up in with_sapwood if up]
        step = f"turn {', '.join(wrong)} pith side up" if wrong else "its boards lie pith side up, as they should"
        return [f"{why}; here it goes to the back: {step}."]
    wrong = [stave.name for n, stave, _ in with_sapwood if 0 < n < len(laid) - 1]
    step = f"{', '.join(wrong)} lies in the middle; cut its sapwood off, or move it" if wrong else "turn it to the outer edges"
    return [f"{why}: {step}."]


def moisture_words(glue_up: GlueUpWords, place: str) -> str:
    """Between which moistures it is drawn."""
    if glue_up.now is None or glue_up.then is None:
        return ""
    return f"Glued at {percent(glue_up.now)} and come to {percent(glue_up.then)}, the farther end of its year in {place}."


def arranged(part: BuildPart, copy: int, staves: list[BoardOfPanel]) -> tuple[GlueUp | None, list[list[Any]]]:
    """How a panel was arranged, or as is usual; what was arranged for other staves does not count."""
    saved = GlueUp.objects.filter(part=part, copy=copy).select_related("photo__piece").first()
    if saved is not None and sorted(int(step[0]) for step in saved.order) == list(range(part.staves)):
        return saved, saved.order
    return saved, usual_order(part, staves)


def turned_over(order: list[list[Any]], approach: RingApproach) -> list[list[Any]]:
    """The same boards in the same order, turned over as an approach has them."""
    sides = glueups.by_approach([_PLAIN] * len(order), approach)
    return [[step[0], side.bark_up, step[2]] for step, side in zip(order, sides, strict=True)]


_PLAIN = replace(PanelBoard("", shrinkage.Shrinkage(0.05, 0.1, 0.3, "published"), 0.1, 0.02))
