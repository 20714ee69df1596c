"""How much of the wood that is begun becomes parts: the layout beside what a hand does that crosscuts long parts first and rips what is
left beside them. Seven piles, written down before the layout was measured on them: three of few long boards, three of many short ones,
and one that is resawn.
"""

from dataclasses import dataclass
from typing import Any

from wood.builds import thickness

KERF_M, END_M = 0.003175, 0.0254


@dataclass(frozen=True)
class PileOfParts:
    """Boards of one species (length, width, thickness, how many) and the parts that are wanted from them (the same, as they are sawn),
    metres."""

    name: str
    species: str
    boards: tuple[tuple[float, float, float, int], ...]
    parts: tuple[tuple[float, float, float, int], ...]


PILES = (
    PileOfParts(
        "long: table",
        "white_oak",
        ((3.0, 0.20, 0.030, 4), (2.7, 0.17, 0.030, 3)),
        ((1.75, 0.15, 0.025, 5), (1.45, 0.09, 0.025, 2), (0.65, 0.09, 0.025, 2), (0.72, 0.06, 0.025, 4)),
    ),
    PileOfParts(
        "long: bookcase",
        "black_cherry",
        ((3.6, 0.24, 0.029, 3), (3.0, 0.20, 0.029, 2)),
        ((1.85, 0.23, 0.024, 2), (0.84, 0.19, 0.024, 5), (0.86, 0.07, 0.024, 3)),
    ),
    PileOfParts(
        "long: bed",
        "sugar_maple",
        ((4.0, 0.22, 0.034, 4),),
        ((2.05, 0.16, 0.028, 2), (1.5, 0.10, 0.028, 4), (0.9, 0.075, 0.028, 4), (0.36, 0.05, 0.028, 12)),
    ),
    PileOfParts(
        "short: boxes",
        "black_walnut",
        ((0.9, 0.14, 0.027, 8), (0.7, 0.11, 0.027, 8)),
        ((0.38, 0.10, 0.022, 8), (0.25, 0.10, 0.022, 8), (0.20, 0.045, 0.022, 12)),
    ),
    PileOfParts(
        "short: chairs", "white_ash", ((1.2, 0.13, 0.034, 12),), ((0.48, 0.055, 0.030, 12), (0.42, 0.07, 0.030, 8), (0.95, 0.05, 0.030, 4))
    ),
    PileOfParts(
        "short: frames",
        "yellow_birch",
        ((1.0, 0.16, 0.027, 7), (0.8, 0.12, 0.027, 7)),
        ((0.62, 0.06, 0.022, 8), (0.46, 0.06, 0.022, 8), (0.33, 0.035, 0.022, 10)),
    ),
    PileOfParts(
        "resawn: panels",
        "american_sycamore",
        ((2.4, 0.20, 0.060, 2),),
        ((0.55, 0.17, 0.016, 8), (0.42, 0.09, 0.016, 6), (0.30, 0.06, 0.016, 9)),
    ),
)


@dataclass
class _Section:
    """A length that was crosscut off a board, and how much of its width is left."""

    length: float
    wide: float


def by_hand(pile: PileOfParts) -> float:
    """The share of the wood begun that becomes parts, by volume, as a hand lays it: the longest part first, on the first board that takes
    it, ripped beside one that was crosscut where it fits there. What is resawn is counted by its leaves."""
    boards = [(length - 2 * END_M, width, thick) for length, width, thick, count in pile.boards for _ in range(count)]
    blanks = []
    for length, width, thick, count in sorted(pile.parts, key=lambda part: (-part[0], -part[1])):
        leaves = 1 if thickness.is_near(boards[0][2], thick) else thickness.leaves(boards[0][2], thick, KERF_M)
        blanks += [(length, width)] * -(-count // leaves)
    sections: list[list[_Section]] = [[] for _ in boards]
    for length, width in blanks:
        if not _laid(sections, boards, length, width):
            raise ValueError(f"by hand {pile.name} does not fit its boards")
    begun = sum((length + 2 * END_M) * width * thick for (length, width, thick), cut in zip(boards, sections, strict=True) if cut)
    return sum(length * width * thick * count for length, width, thick, count in pile.parts) / begun


def _laid(sections: list[list[_Section]], boards: list[tuple[float, float, float]], length: float, width: float) -> bool:
    for board, cut in zip(boards, sections, strict=True):
        for section in cut:
            if section.length >= length and section.wide >= width:
                section.wide -= width + KERF_M
                return True
        used = sum(section.length + KERF_M for section in cut)
        if board[0] - used >= length and board[1] >= width:
            cut.append(_Section(length, board[1] - width - KERF_M))
            return True
    return False


def by_layout(pile: PileOfParts, owner: Any, place: Any) -> tuple[float, int]:
    """The same of the layout, on boards of its own in a workshop; and how many parts found no room."""
    from calm_heron.builds import actions
    from calm_heron.builds.layouts import allocation, laying
    from calm_heron.stock.actions import add_piece
    from calm_heron.stock.models import Piece, Status

    Piece.objects.of(owner.workshop).filter(species_key=pile.species).update(status=Status.USED)
    for length, width, thick, count in pile.boards:
        for _ in range(count):
            add_piece(owner, pile.species, thickness_m=thick, width_m=width, length_m=length, place=place)
    build = actions.make_build(owner, name=pile.name, place=place, kerf_m=KERF_M, end_m=END_M)
    bare = {"extra_length_m": 0.0, "extra_width_m": 0.0, "extra_thickness_m": 0.0, "species_key": pile.species}
    rows = [
        {"name": f"Part {n}", "count": count, "length_m": length, "width_m": width, "thickness_m": thick, **bare}
        for n, (length, width, thick, count) in enumerate(pile.parts)
    ]
    actions.add_parts(owner, build, rows)
    build.refresh_from_db()
    missing = laying.lay_out(owner, build, build.version)
    known = allocation.saw(build)
    begun = sum(known.planks[held.pk].board.area_m2 * held.piece.thickness_m for held in known.held)
    laid = sum(cut.rect.area_m2 * known.part_of(cut).rough_m[2] for cut in known.cuts)
    return laid / begun, sum(missing.values())
