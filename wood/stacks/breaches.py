"""What breaks a rule of stacking, where, and what comes of it.

Sources: Dry Kiln Operator's Manual (AH-188) and Air Drying of Lumber (AH-402, FPL-GTR-117): stickers in one upright line, every tier over a
bearer, at both ends, all of one thickness, dry; clear height; roof. Steadiness is our own judgement.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

from wood.errors import check_range
from wood.stacks.pile import CLEAR_PACK_M, Pile
from wood.stacks.stickers import AT_THE_END_M, STICKERS_DRY, WET, shows_marks

# A line this far from its bearer is no longer over it.
OVER_M = 0.06
# Two feet to the next stack or to a wall, and more (AH-402, low).
NEXT_M = 0.61
# Oak is shaded in spring and summer (GTR-118): while it is wet, in months as warm as this.
SHADED = frozenset(["Quercus"])
SUNNY_FROM_C = 10.0
# Stickers under wet pale wood are three quarters of an inch high; thinner ones slow its air, and it stains (AH-188; medium). Dark woods
# mark it so deep; boards thicker than this are planed clear of it (medium).
FULL_HEIGHT_M, MARK_M, PLANED_CLEAR_M = 0.019, 0.003, 0.0318
# Sag of a board between stickers that lie farther apart than practice has them shows from this much beyond.
TOO_FAR = 1.02


class Breach(StrEnum):
    """A rule that is broken."""

    TOO_FAR_APART = "too_far_apart"
    ENDS_HANG_OVER = "ends_hang_over"
    NOT_OVER_A_BEARER = "not_over_a_bearer"
    STICKERS_WET = "stickers_wet"
    STICKER_STAIN = "sticker_stain"
    STICKERS_TOO_THICK = "stickers_too_thick"
    STICKERS_THIN = "stickers_thin"
    DARK_STICKERS = "dark_stickers"
    TOO_LOW = "too_low"
    NOT_STEADY = "not_steady"
    NO_ROOF = "no_roof"
    MIXED_SPECIES = "mixed_species"
    CHIMNEY = "chimney"
    UNSHADED = "unshaded"
    CLOSE_TO_NEXT = "close_to_next"


@dataclass(frozen=True)
class FoundBreach:
    """A breach, and the places along the stack (metres) where it is, empty where it is everywhere."""

    breach: Breach
    places_m: tuple[float, ...] = ()


def breaches(
    pile: Pile,
    bearers_m: Sequence[float],
    stickers_moisture: float,
    *,
    overhang_m: float = 0.0,
    roofed: bool = True,
    shaded: bool = False,
    outdoors_c: float | None = None,
    next_m: float | None = None,
    dark_stickers: bool = False,
) -> list[FoundBreach]:
    """Everything about a pile that breaks a rule, the gravest first.

    Args:
        bearers_m: where bearers lie along it, in metres from one end; stickers_moisture: fraction, 0…2; overhang_m: how far boards' ends
            reach beyond the last stickers, 0…2 m; shaded: whether cloth hangs on its sides; outdoors_c: how warm its first weeks outdoors
            are, None where it stands indoors; next_m: how far the next stack or wall is, 0…100 m, None where nobody said;
            dark_stickers: whether they are of oak, walnut or another dark wood.
    Raises:
        OutOfRange.
    """
    check_range("stickers_moisture", stickers_moisture, 0.0, 2.0)
    check_range("overhang_m", overhang_m, 0.0, 2.0, " m")
    check_range("bearers_m", bearers_m, -1.0, pile.length_m + 1.0, " m")
    results = []
    bare = tuple(place for place in pile.lines_m if not any(abs(place - bearer) <= OVER_M for bearer in bearers_m))
    if bare:
        results.append(FoundBreach(Breach.NOT_OVER_A_BEARER, bare))
    if not pile.is_steady:
        results.append(FoundBreach(Breach.NOT_STEADY))
    if stickers_moisture > STICKERS_DRY:
        pale = any(shows_marks(load.species) for load in pile.loads)
        results.append(FoundBreach(Breach.STICKER_STAIN if pale else Breach.STICKERS_WET))
    pale_boards = [load for load in pile.loads if shows_marks(load.species) and load.moisture > WET]
    if dark_stickers and pale_boards:
        results.append(FoundBreach(Breach.DARK_STICKERS))
    if pale_boards and pile.stickers.thickness_m < FULL_HEIGHT_M - 1e-3:
        results.append(FoundBreach(Breach.STICKERS_THIN))
    if pile.stickers.spacing_m > pile.stickers.farthest_m * TOO_FAR:
        results.append(FoundBreach(Breach.TOO_FAR_APART))
    if overhang_m > AT_THE_END_M:
        results.append(FoundBreach(Breach.ENDS_HANG_OVER, (0.0, pile.length_m)))
    if pile.stickers.thickness_m > 2 * min(load.thickness_m for load in pile.loads):
        results.append(FoundBreach(Breach.STICKERS_TOO_THICK))
    if pile.clear_m < CLEAR_PACK_M - 1e-6:
        results.append(FoundBreach(Breach.TOO_LOW))
    if not roofed:
        results.append(FoundBreach(Breach.NO_ROOF))
    if next_m is not None and check_range("next_m", next_m, 0.0, 100.0, " m") < NEXT_M:
        results.append(FoundBreach(Breach.CLOSE_TO_NEXT))
    oak_is_wet = any(load.moisture > WET and load.species.botanical_name.partition(" ")[0] in SHADED for load in pile.loads)
    if oak_is_wet and not shaded and outdoors_c is not None and outdoors_c > SUNNY_FROM_C:
        results.append(FoundBreach(Breach.UNSHADED))
    if len({load.species.key for load in pile.loads}) > 1:
        results.append(FoundBreach(Breach.MIXED_SPECIES))
    if pile.needs_chimney:
        results.append(FoundBreach(Breach.CHIMNEY))
    return results
