"""Boards and their cuts in words."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from urllib.parse import urlencode

from django.urls import reverse

from calm_heron.builds.kinds import MarkKind, PointsKind
from calm_heron.builds.layouts import allocation
from calm_heron.builds.layouts.allocation import END, Plank, Saw
from calm_heron.builds.models import BuildPart, Held
from calm_heron.builds.words import listed
from calm_heron.site.numbers import counted, percent
from wood.builds import thickness
from wood.builds.cut_order import Sawn
from wood.units import INCH_M, System
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
        return LayoutWords("No parts yet", "", "Parts are placed once there are boards.")
    if not known.cuts:
        return LayoutWords("Nothing placed yet", "", f"{counted(sum(part.pieces for part in known.parts), 'part')} still to place.")
    left = len(known.unlaid)
    beside = f"for {counted(len(known.cuts), 'piece')}" + (f", {left} still to place" if left else "")
    face = sum(known.planks[held.pk].board.area_m2 for held in known.held)
    whole = sum(known.planks[held.pk].board.area_m2 * held.piece.thickness_m for held in known.held)
    parts = sum(cut.rect.area_m2 * known.part_of(cut).rough_m[2] for cut in known.cuts)
    laid = sum(blank[0].rect.area_m2 for held in known.held for blank in known.blanks_on(held))
    good = sum(sawn_board.offcuts_m2 for sawn_board in sawn if sawn_board is not None)
    reason = (
        f"By volume {percent(parts / whole, 0)} of the wood becomes parts at their rough size, and {percent(laid / face, 0)} of its face is"
        " under them"
    )
    reason += (
        f"; {percent(good / face, 0)} of the face is left as offcuts worth keeping. The rest is ends, defects, kerf, slivers and shavings."
        if good
        else "."
    )
    if any(sawn_board is None for sawn_board in sawn):
        reason += " On one board no straight through-cut frees its parts: move one there."
    return LayoutWords(counted(len(known.held), "board"), beside, reason)


def cuts(sawn: Sawn, system: System) -> list[str]:
    """The cuts in their order, as they are measured off."""
    return [
        f"{'Across' if cut.across else 'Along'} at {cut_length(cut.at_m, system)} from its {'left end' if cut.across else 'lower edge'}"
        for cut in sawn.cuts
    ]


def resaws(known: Saw, held: Held, system: System) -> list[str]:
    """Which blanks of a board are resawn, and how thick their leaves come from the saw; which squares are sawn askew in theirs."""
    lines, plank = [], known.planks[held.pk]
    for blank in known.blanks_on(held):
        part = known.part_of(blank[0])
        if allocation.is_askew(part, plank):
            lines.append(
                f"Saw the square of {known.name_of(blank)} askew in its blank, along its grain: {cut_length(part.rough_m[1], system)} wide,"
                f" {cut_length(abs(plank.slope) * part.rough_m[0], system)} off from end to end"
            )
    for blank in known.blanks_on(held):
        cut = blank[0]
        if cut.leaves < 2:
            continue
        part = known.part_of(cut)
        leaf = cut_length(thickness.leaf_m(held.piece.thickness_m, cut.leaves, known.build.kerf_m), system)
        names = listed([part.piece_name(leaf_cut.nth) for leaf_cut in blank])
        spare = f", and {counted(cut.leaves - len(blank), 'leaf')} to spare" if len(blank) < cut.leaves else ""
        lines.append(
            f"Resaw the blank of {names} into {cut.leaves} leaves of {leaf}{spare}; let them lie a night, and plane each to"
            f" {cut_length(part.rough_m[2], system)}"
        )
    return lines


@dataclass(frozen=True)
class ToBuy:
    """What is missing of one wood in one sawn thickness: what it is called, how much with the usual waste (m³), and where to ask at the
    rack."""

    wood: str
    size: str
    volume_m3: float
    pieces: int
    rack: str


def to_buy(known: Saw, system: System) -> list[ToBuy]:
    """What is to be bought for the pieces that lie on no board: by species and sawn thickness."""
    volumes: dict[tuple[str, int | None], list[BuildPart]] = {}
    for part, _ in known.unlaid:
        volumes.setdefault((part.species_key, thickness.quarters_for(part.rough_m[2])), []).append(part)
    bought = []
    for (_, quarters), parts in volumes.items():
        sawn_m = quarters * INCH_M / 4 if quarters else max(part.rough_m[2] for part in parts)
        volume = sum(part.rough_m[0] * part.rough_m[1] for part in parts) * sawn_m * thickness.BOUGHT_WITH
        size = f"{quarters}/4" if quarters and system.is_inch else handled_length(sawn_m, system)
        asked = urlencode(
            {"species_key": parts[0].species.common_name, "thickness_m": f"{quarters}/4" if quarters else f"{sawn_m * 1000:.0f} mm"}
        )
        rack = f"{reverse('ask_wood', args=[known.build.workshop.slug])}?{asked}"
        bought.append(ToBuy(parts[0].species.spoken_name, size, volume, len(parts), rack))
    return sorted(bought, key=lambda item: (item.wood, item.size))


def offcuts(sawn: Sawn, system: System) -> list[str]:
    return [
        f"{handled_length(offcut.x1 - offcut.x0, system)} × {handled_length(offcut.y1 - offcut.y0, system)}" for offcut in sawn.offcuts[:6]
    ]


def marks(plank: Plank, system: System) -> list[tuple[int | None, str]]:
    """What is kept out of a board besides its ends, and what the eye sees on it: the mark's id (None: only assumed) and where it lies."""
    results: list[tuple[int | None, str]] = []
    for look in plank.looks:
        what = "rising" if look.kind == MarkKind.ASKEW else "its tip"
        points = f", {what} {PointsKind(look.points).label}" if look.points else ""
        along = f"{cut_length(look.x0_m, system)} to {cut_length(look.x1_m, system)} along"
        across = f"{cut_length(look.y0_m, system)} to {cut_length(look.y1_m, system)} across"
        results.append((look.pk, f"{MarkKind(look.kind).label.capitalize()}{points}: {along}, {across}"))
    for keep_out in plank.kept_out:
        if keep_out.kind == END:
            continue
        r = keep_out.rect
        where = (
            f"{cut_length(r.x0, system)} to {cut_length(r.x1, system)} along, {cut_length(r.y0, system)} to {cut_length(r.y1, system)}"
            " across"
        )
        words = f"{MarkKind(keep_out.kind).label.capitalize()}: {where}"
        results.append((keep_out.mark, f"{words}. Assumed: mark where it really is." if keep_out.assumed else words))
    return results


def unlaid(known: Saw, system: System) -> list[str]:
    """Which pieces still to place, part by part."""
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
        f"No board has room for {listed(names)}. It takes a free board in stock, of that wood, thick and wide enough and clear of "
        "marked defects; a wide part can be glued from several."
    )
