"""What each kind of piece is: its shape, what its sizes are called, how it usually comes, and what can be asked of it.

A new kind is one member and one entry of :data:`TRAITS`; pages, forms, tables, tags and searches read both.
"""

from dataclasses import dataclass

from django.db import models

from wood.sizes import Shape


class Seasoning(models.TextChoices):
    GREEN = "green", "Green"
    AIR = "air", "Air-dried"
    KILN = "kiln", "Kiln-dried"


class PieceKind(models.TextChoices):
    BOARD = "board", "Board"
    SLAB = "slab", "Slab"
    LOG = "log", "Log"
    BLANK = "blank", "Bowl blank"
    SPINDLE = "spindle", "Spindle blank"
    BOWL = "bowl", "Rough-turned bowl"
    FLOORING = "flooring", "Flooring"
    RECLAIMED = "reclaimed", "Reclaimed"
    SUBFLOOR = "subfloor", "Subfloor"


USUAL_SIZE_NAMES = ("Thickness", "Width", "Length")
USUAL_ADVICE = "Three spots at least, away from the hatched ends; for a thick board a core reading too."


@dataclass(frozen=True)
class Traits:
    """What a kind of piece is.

    ``name`` is what a drawing or a sentence calls one of it, ``tag_word`` how its tags name it and ``searched`` the words (in the
    singular) that find it. ``size_names`` are those of thickness, width and length, ``None`` where a round one is measured only
    once. ``inner`` and ``outer`` are the words for core and shell, ``advice`` says where to read it.
    """

    name: str
    tag_word: str
    searched: tuple[str, ...]
    shape: Shape = Shape.BOARD
    size_names: tuple[str | None, str | None, str | None] = USUAL_SIZE_NAMES
    seasoning: Seasoning = Seasoning.AIR
    advice: str = USUAL_ADVICE
    outer: str = "Shell"
    inner: str = "Core"
    surface: str = "face"
    # The kind that need not be named beside its species.
    goes_without_saying: bool = False
    # Grain shows on its end, and it moves in width: what is sawn, and not yet a part of a building.
    has_grain: bool = True
    moves_in_width: bool = True
    may_be_lot: bool = True
    # It is cut to a size that may be thicker than wide.
    any_way_round: bool = False
    may_hold_pith: bool = True
    is_sawn: bool = True
    # It becomes turned work.
    is_turned: bool = False
    # What is cut from it, and what it is once it is roughed out; empty where nothing is.
    gives: str = ""
    becomes: str = ""
    # Its weights alone tell how dry it is: it has a log of its own (the shelf of bowls).
    dries_by_weight: bool = False
    # It is laid where it lies to acclimate.
    is_laid_where_it_lies: bool = False
    # Other wood is judged by it; it is not judged, dried or joined itself.
    is_judged: bool = True

    @property
    def is_round(self) -> bool:
        """Round seen from the end or from above; its width is a diameter."""
        return self.shape.is_round


TRAITS = {
    PieceKind.BOARD: Traits("board", "", ("board",), goes_without_saying=True),
    PieceKind.SLAB: Traits("slab", "slab", ("slab",)),
    PieceKind.LOG: Traits(
        "log",
        "log",
        ("log",),
        Shape.LOG,
        (None, "Diameter at the middle", "Length"),
        Seasoning.GREEN,
        advice="Surface and core, at a fresh cut if you can.",
        outer="Outside",
        inner="Heart",
        surface="bark",
        gives=PieceKind.BLANK,
        has_grain=False,
        moves_in_width=False,
        any_way_round=True,
        may_hold_pith=False,
        is_sawn=False,
    ),
    PieceKind.BLANK: Traits(
        "blank",
        "blank",
        ("blank",),
        Shape.ROUND,
        ("Height", "Diameter", None),
        Seasoning.GREEN,
        has_grain=False,
        moves_in_width=False,
        any_way_round=True,
        is_turned=True,
        becomes=PieceKind.BOWL,
    ),
    PieceKind.SPINDLE: Traits("blank", "spindle", ("blank", "spindle"), seasoning=Seasoning.GREEN, moves_in_width=False, is_turned=True),
    PieceKind.BOWL: Traits(
        "bowl",
        "bowl",
        ("bowl",),
        Shape.BOWL,
        ("Wall", "Diameter at the rim", "Height"),
        Seasoning.GREEN,
        advice="Three spots at least: rim, wall and foot. A scale tells a bowl best: its weight stands still when it is dry.",
        has_grain=False,
        moves_in_width=False,
        may_be_lot=False,
        is_turned=True,
        dries_by_weight=True,
    ),
    PieceKind.FLOORING: Traits("flooring", "floor", ("flooring",), seasoning=Seasoning.KILN, is_laid_where_it_lies=True),
    PieceKind.RECLAIMED: Traits("board", "old", ("reclaimed",)),
    PieceKind.SUBFLOOR: Traits(
        "subfloor",
        "subfloor",
        ("subfloor",),
        seasoning=Seasoning.KILN,
        has_grain=False,
        moves_in_width=False,
        may_be_lot=False,
        is_judged=False,
    ),
}

NOT_JUDGED = tuple(kind for kind, traits in TRAITS.items() if not traits.is_judged)
# The words of a search, singular and plural, and the kinds they find.
KIND_WORDS = {
    form: tuple(kind for kind, traits in TRAITS.items() if word in traits.searched)
    for word in sorted({word for traits in TRAITS.values() for word in traits.searched})
    for form in (word, word + "s")
}


def sizes_apart(kind: str, thickness_m: float | None, width_m: float | None) -> str:
    """What is wrong with two sizes together, empty where nothing is."""
    traits = TRAITS[PieceKind(kind)]
    if not thickness_m or not width_m or thickness_m <= width_m or traits.any_way_round:
        return ""
    if traits.shape is Shape.BOWL:
        return "the wall is thicker than the bowl is wide"
    return "the width is less than the thickness; are they the wrong way round?"
