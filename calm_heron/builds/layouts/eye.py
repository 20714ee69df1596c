"""Whether pieces lie where the eye wants them, by what was marked on their boards; nothing is read off a picture."""

from calm_heron.builds.kinds import FigureKind, MarkKind, PointsKind
from calm_heron.builds.layouts.allocation import Saw
from calm_heron.builds.layouts.suggesting import REGIONS
from calm_heron.builds.models import BuildPart, Cut, Held, Mark
from calm_heron.builds.words import listed
from wood.builds import wishes
from wood.units import System
from wood.written import cut_length

# From so steep a ring angle on a board's face is straight of itself, degrees.
STRAIGHT_FROM_DEG = 35.0
WANTED = {
    FigureKind.UP: "a cathedral",
    FigureKind.STRAIGHT: "straight grain",
    FigureKind.FIGURED: "figure",
}


def unmet(known: Saw, system: System) -> list[str]:
    """Which parts do not lie as they wish, and why, a sentence each, in the order of the parts."""
    boards = {held.pk: held for held in known.held}
    cuts: dict[int, list[Cut]] = {}
    for cut in known.cuts:
        cuts.setdefault(cut.part_id, []).append(cut)
    lines: list[str] = []
    for part in known.parts:
        own = cuts.get(part.pk, [])
        if not own:
            continue
        if part.is_matched and (why := _not_in_a_row(part, own, boards, known.build.kerf_m, system)):
            lines.append(why)
        if why := _not_in_its_region(part, own, boards, known):
            lines.append(why)
        if why := _runs_out(part, own, boards, known):
            lines.append(why)
    return lines


def _not_in_a_row(part: BuildPart, cuts: list[Cut], boards: dict[int, Held], kerf_m: float, system: System) -> str:
    names = sorted({boards[cut.board_id].name for cut in cuts})
    length, width, _ = part.rough_m
    long = wishes.row_length_m(length, part.pieces, kerf_m)
    takes = f"that takes {cut_length(long, system)} by {cut_length(width, system)} clear on one of its thickness"
    if len(names) > 1:
        return f"{part.name}: its pieces come from {listed(names)}, and not in a row from one board; {takes}."
    if not wishes.lie_in_a_row([cut.rect for cut in cuts], kerf_m):
        return f"{part.name}: its pieces do not lie in a row on {names[0]}; {takes}."
    return ""


def _looks_under(cut: Cut, known: Saw, kind: str) -> list[Mark]:
    """The marks of a kind that a piece lies on wholly."""
    return [look for look in known.planks[cut.board_id].looks if look.kind == kind and wishes.inside(cut.rect, look.rect)]


def _not_in_its_region(part: BuildPart, cuts: list[Cut], boards: dict[int, Held], known: Saw) -> str:
    kind = REGIONS.get(FigureKind(part.figure))
    if kind is None:
        return ""
    off = [cut for cut in cuts if not _looks_under(cut, known, kind)]
    if kind == MarkKind.STRAIGHT:
        off = [cut for cut in off if boards[cut.board_id].piece.ring_angle_deg < STRAIGHT_FROM_DEG]
    if not off:
        return ""
    names = sorted({boards[cut.board_id].name for cut in off})
    pieces = listed(sorted(part.piece_name(cut.nth) for cut in off))
    marked = any(look.kind == kind for plank in known.planks.values() for look in plank.looks)
    why = "lies beside what is marked so" if marked else "nothing of it is marked so"
    return f"{part.name}: {pieces} should show {WANTED[FigureKind(part.figure)]}; on {listed(names)} {why}."


def _runs_out(part: BuildPart, cuts: list[Cut], boards: dict[int, Held], known: Saw) -> str:
    """A front or a straight part that lies on a cathedral: its grain runs out of its line there."""
    off = [cut for cut in cuts if runs_out(cut, known)]
    if not off:
        return ""
    pieces = listed(sorted(part.piece_name(cut.nth) for cut in off))
    names = listed(sorted({boards[cut.board_id].name for cut in off}))
    return f"{part.name}: on {names} the grain of {pieces} runs out of its line, for a cathedral is marked there."


def runs_out(cut: Cut, known: Saw) -> bool:
    """Whether the grain of a piece that is to be level or straight runs out of its line where it lies."""
    if known.part_of(cut).figure not in (FigureKind.ALONG, FigureKind.STRAIGHT):
        return False
    looks = known.planks[cut.board_id].looks
    return any(look.kind == MarkKind.CATHEDRAL and look.rect.meets(cut.rect) for look in looks)


def top_of(cut: Cut, known: Saw) -> str:
    """Which end of a piece is its top by the cathedral that it lies on: an arrow, empty where none says so."""
    if known.part_of(cut).figure != FigureKind.UP:
        return ""
    points = [look.points for look in _looks_under(cut, known, MarkKind.CATHEDRAL)]
    return {PointsKind.RIGHT: "→", PointsKind.LEFT: "←"}.get(points[0], "") if points else ""  # type: ignore[call-overload]
