"""Boards and their cuts in words."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from calm_heron.builds.kinds import MarkKind
from calm_heron.builds.layouts.allocation import END, Plank, Saw
from calm_heron.builds.models import BuildPart
from calm_heron.builds.words import listed
from calm_heron.site.numbers import counted, percent
from wood.builds.cut_order import Sawn
from wood.units import System
from wood.written import cut_length, cut_sizes, handled_length


@dataclass(frozen=True)
class LayoutWords:
    """The large answer, what stands beside it, and the reason."""

    word: str
    beside: str
    reason: str


def describe(known: Saw, sawn: Sequence[Sawn | None], system: System) -> LayoutWords:
    """How much wood a build takes, and what becomes of it."""
    if not known.parts:
        return LayoutWords("No parts yet", "", "Parts are laid on boards once there are some.")
    if not known.cuts:
        return LayoutWords("Not laid yet", "", f"{counted(sum(part.pieces for part in known.parts), 'piece')} lie on no board yet.")
    left = len(known.unlaid)
    beside = f"for {counted(len(known.cuts), 'piece')}" + (f", {left} still to lay" if left else "")
    whole = sum(item.area_m2 for item in (known.planks[held.pk].board for held in known.held))
    parts = sum(cut.rect.area_m2 for cut in known.cuts)
    good = sum(sawn_board.offcuts_m2 for sawn_board in sawn if sawn_board is not None)
    reason = f"{percent(parts / whole, 0)} of the wood becomes parts at their rough size"
    reason += (
        f", {percent(good / whole, 0)} is left as offcuts worth keeping; the rest is ends, what is kept out, kerf and slivers."
        if good
        else "."
    )
    if any(sawn_board is None for sawn_board in sawn):
        reason += " Of one board no cut that runs right through frees what lies on it: move a piece there."
    return LayoutWords(counted(len(known.held), "board"), beside, reason)


def cuts(sawn: Sawn, system: System) -> list[str]:
    """The cuts in their order, as they are measured off."""
    return [
        f"{'Across' if cut.across else 'Along'} at {cut_length(cut.at_m, system)} from its {'left end' if cut.across else 'lower edge'}"
        for cut in sawn.cuts
    ]


def offcuts(sawn: Sawn, system: System) -> list[str]:
    return [
        f"{handled_length(offcut.x1 - offcut.x0, system)} × {handled_length(offcut.y1 - offcut.y0, system)}" for offcut in sawn.offcuts[:6]
    ]


def marks(plank: Plank, system: System) -> list[tuple[int | None, str]]:
    """What is kept out of a board besides its ends: the mark's id (None: only assumed) and where it lies."""
    results = []
    for keep_out in plank.kept_out:
        if keep_out.kind == END:
            continue
        r = keep_out.rect
        where = (
            f"{cut_length(r.x0, system)} to {cut_length(r.x1, system)} along, {cut_length(r.y0, system)} to {cut_length(r.y1, system)}"
            " across"
        )
        words = f"{MarkKind(keep_out.kind).label.capitalize()}: {where}"
        results.append((keep_out.mark, f"{words}. Assumed: mark where it really lies." if keep_out.assumed else words))
    return results


def unlaid(known: Saw, system: System) -> list[str]:
    """Which pieces lie on no board, part by part."""
    lines = []
    for part in known.parts:
        names = [part.piece_name(nth) for item, nth in known.unlaid if item.pk == part.pk]
        if names:
            lines.append(f"{listed(names, 8)} ({part.name}): {cut_sizes(part.rough_m, system)}, {part.species.spoken_name}")
    return lines


def no_room(parts: Sequence[BuildPart], missing: Mapping[str, int]) -> str:
    """Which parts found no room on any board."""
    names = [f"{missing[str(part.pk)]} of {part.name}" for part in parts if str(part.pk) in missing]
    return (
        f"No board had room for {listed(names)}. Boards count that are in stock, free, of that wood, thick and wide enough, and clear of"
        " what is kept out; a wide part can be glued from several."
    )
