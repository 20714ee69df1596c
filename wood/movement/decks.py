"""Boards outdoors: the gap to lay them with, which face goes up, and how to fasten them.

Source: ring geometry of :mod:`wood.movement.section`; gaps by arithmetic. Which face: both approaches are worked, the choice follows from
the cup.
"""

from dataclasses import dataclass
from enum import StrEnum

from wood.errors import check_range
from wood.movement.section import Section

# Rain keeps boards that lie open wetter than the air under a roof would: what they come to in the wet season where nobody
# says better (our judgement; 19…25% is read on decks after weeks of rain).
RAINED_ON = 0.20
# A gap that lets water and leaves through at the dampest; one that heels catch in.
DRAINS_M, CATCHES_M = 0.003, 0.010
# Cupping that is no more than sawing leaves.
FLAT_M = 0.0003


class Up(StrEnum):
    """Which face lies up: the bark side, the pith side, or either."""

    BARK = "bark"
    PITH = "pith"
    EITHER = "either"


@dataclass(frozen=True)
class Laid:
    """Boards laid with a gap: ``gap_now_m`` today, ``gap_wet_m`` in the wet seasons to come, ``gap_dry_m`` in the dry ones. ``tight`` says
    that boards laid without a gap end up farther apart in the wet season than was wished."""

    gap_now_m: float
    gap_wet_m: float
    gap_dry_m: float
    tight: bool


def lay(now_m: float, wet_m: float, dry_m: float, wish_m: float) -> Laid:
    """The gap to lay boards with today so that in the wet season this one is left.

    Args:
        now_m, wet_m, dry_m: a board's width today, in the wet season and in the dry one, 5 mm…2 m; wish_m: 0…50 mm.
    Raises:
        OutOfRange.

    >>> kiln_dried = lay(0.140, 0.143, 0.139, 0.003)
    >>> round(kiln_dried.gap_now_m * 1000, 1), round(kiln_dried.gap_dry_m * 1000, 1)
    (6.0, 7.0)
    >>> wet = lay(0.146, 0.143, 0.139, 0.003)
    >>> wet.gap_now_m, round(wet.gap_wet_m * 1000, 1)
    (0.0, 3.0)
    """
    for name, width in (("now_m", now_m), ("wet_m", wet_m), ("dry_m", dry_m)):
        check_range(name, width, 0.005, 2.0, " m")
    check_range("wish_m", wish_m, 0.0, 0.05, " m")
    wanted = wish_m + wet_m - now_m
    gap = max(0.0, wanted)
    return Laid(gap, gap + now_m - wet_m, gap + now_m - dry_m, wanted <= 0)


@dataclass(frozen=True)
class Face:
    """Which face goes up, and the hollow that would stand upward (holding water) with each: metres, below nothing where it crowns."""

    up: Up
    hollow_bark_up_m: float
    hollow_pith_up_m: float

    @property
    def water_m(self) -> float:
        """How deep water stands on the worse choice."""
        return max(self.hollow_bark_up_m, self.hollow_pith_up_m, 0.0)


def face_up(driest: Section, dampest: Section, dries: float, swells: float) -> Face:
    """The face to lay up, from what the rings will make of it: the one that is hollow upward for less.

    Args:
        driest, dampest: the board's section there, from the day it is laid; dries, swells: how many points (fractions) it goes down and up
            from that day, 0…1.
    Raises:
        OutOfRange.
    """
    check_range("dries", dries, 0.0, 1.0)
    check_range("swells", swells, 0.0, 1.0)
    # The cup it mostly has is that of the longer way; a section's cup is positive where the bark side is hollow.
    cup = driest.cup_m if dries >= swells else dampest.cup_m
    up = Up.EITHER if abs(cup) < FLAT_M else Up.PITH if cup > 0 else Up.BARK
    return Face(up, cup, -cup)
