"""Stickers: how thick, how wide, how far apart, by what is stacked; and where they lie along a board.

Sources: Dry Kiln Operator's Manual (AH-188), Drying Hardwood Lumber (FPL-GTR-118), Air Drying of Lumber (AH-402, FPL-GTR-117), all with
medium
confidence: the ranges are as recorded, which end of them is taken for what wood is our own judgement and stands beside each rule.
"""

import math
from dataclasses import dataclass, replace

from wood.errors import OutOfRange, check_range
from wood.species import Species
from wood.units import INCH_M

# Woods that warp: closer stickers for them (AH-188, FPL-GTR-117).
WARPS = frozenset(["Liquidambar", "Nyssa", "Ulmus", "Fagus", "Platanus", "Populus"])
# Pale woods that show a mark under a wet sticker, or one of another wood.
PALE = frozenset(["Acer", "Betula", "Tilia", "Liriodendron", "Fraxinus", "Pinus", "Ilex", "Picea", "Carpinus"])
# Above this wood is wet to the saw: it sags and stains between stickers that lie far apart.
WET = 0.30
# Stickers lie at the ends, or within this of them.
AT_THE_END_M = INCH_M
# What stickers themselves may hold: wetter ones mark the wood (FPL-GTR-118).
STICKERS_DRY = 0.12
LENGTH_M = (0.1, 15.0)
# Three quarters of an inch and an inch; an inch and a quarter, and a half.
USUAL_M, THICK_M, NARROW_M, WIDE_M, PALE_WIDTH_M = 0.019, 0.0254, 0.032, 0.038, 0.0254


@dataclass(frozen=True)
class Stickers:
    """Stickers for a stack: their section and how far apart their middles lie (metres), between which limits practice has them
    (``closest_m``,
    ``farthest_m``), and by which rule (a code)."""

    thickness_m: float
    width_m: float
    spacing_m: float
    closest_m: float
    farthest_m: float
    rule: str


def usual(species: Species, thickness_m: float, moisture: float) -> Stickers:
    """The stickers for boards of a wood, by their thickness and by how wet they are.

    Args:
        thickness_m: of the boards, 3 mm…0.3 m; moisture: fraction, 0…3.
    Raises:
        OutOfRange.

    >>> from wood.species import species_named
    >>> green = usual(species_named("white_oak"), 0.0286, 0.8)
    >>> round(green.spacing_m / INCH_M), round(green.thickness_m / INCH_M, 2)
    (16, 0.75)
    >>> round(usual(species_named("american_elm"), 0.0286, 0.8).spacing_m / INCH_M)
    12
    """
    check_range("thickness_m", thickness_m, 0.003, 0.3, " m")
    check_range("moisture", moisture, 0.0, 3.0)
    quarters = thickness_m / INCH_M * 4
    wet = moisture > WET
    if wet and species.group == "hardwood" and shows_marks(species):
        # Narrow under pale wood: the less is covered, the less is marked.
        made = _usual(species, quarters, wet)
        return replace(made, width_m=PALE_WIDTH_M)
    return _usual(species, quarters, wet)


def _usual(species: Species, quarters: float, wet: bool) -> Stickers:
    """The stickers of practice for boards so many quarters of an inch thick."""
    if species.group == "softwood":
        if quarters >= 7:
            return _in_inches(THICK_M, WIDE_M, 36 if wet else 48, 24, 48, "thick_softwood")
        return _in_inches(USUAL_M, WIDE_M, 18 if wet else 24, 16, 24, "softwood")
    warps = species.botanical_name.partition(" ")[0] in WARPS
    if quarters < 2.5:
        return _in_inches(USUAL_M, NARROW_M, 8 if wet or warps else 12, 8, 12, "thin")
    if quarters < 3.6:
        return _in_inches(USUAL_M, NARROW_M, 12, 8, 12, "under_four_quarter")
    if warps:
        return _in_inches(
            USUAL_M if quarters < 7 else THICK_M, NARROW_M if quarters < 7 else WIDE_M, 12 if quarters < 5.7 else 16, 12, 18, "warps"
        )
    if quarters < 5.7:
        return _in_inches(USUAL_M, NARROW_M, 16, 12, 16 if wet else 24, "four_and_five_quarter")
    if quarters < 7.2:
        return _in_inches(USUAL_M, NARROW_M, 16 if wet else 20, 16, 24, "six_quarter")
    return _in_inches(THICK_M, WIDE_M, 24, 16, 24, "eight_quarter")


def _in_inches(thickness_m: float, width_m: float, spacing: float, closest: float, farthest: float, rule: str) -> Stickers:
    return Stickers(thickness_m, width_m, spacing * INCH_M, closest * INCH_M, farthest * INCH_M, rule)


def lines(length_m: float, stickers_width_m: float, spacing_m: float) -> list[float]:
    """Where the middles of the stickers lie along a stack, from one end: one within an inch of each end, the others evenly, none farther
    apart.

    Args:
        length_m: 0.1…15 m; stickers_width_m: 5…150 mm; spacing_m: 0.1…2 m.
    Raises:
        OutOfRange: stickers that have no room beside each other.

    >>> [round(place, 2) for place in lines(2.4, 0.032, 0.4)]
    [0.02, 0.41, 0.81, 1.2, 1.59, 1.99, 2.38]
    """
    check_range("length_m", length_m, *LENGTH_M, " m")
    check_range("stickers_width_m", stickers_width_m, 0.005, 0.15, " m")
    check_range("spacing_m", spacing_m, 0.1, 2.0, " m")
    if 2 * stickers_width_m > length_m:
        raise OutOfRange("stickers_width_m", stickers_width_m, 0.005, length_m / 2, " m")
    first = stickers_width_m / 2
    between = length_m - 2 * first
    gaps = max(1, math.ceil(between / spacing_m - 1e-9))
    return [first + between * position / gaps for position in range(gaps + 1)]


def shows_marks(species: Species) -> bool:
    """Whether a wood is pale enough to keep the mark of a wet sticker."""
    return species.botanical_name.partition(" ")[0] in PALE
