"""Fastening what moves: where the slots go, how long they are, and what fixing the middle or an edge does to the gaps.

Lengths in metres, places counted from the near edge on the day it is built. Every allowance is made for the far end of the band.
Sources: arithmetic on :class:`wood.movement.widths.Swing`; lengths of buttons and offsets of draw-bored pegs are bench practice.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

from wood.errors import OutOfRange, check_range
from wood.movement.widths import Swing

# A screw's shank, and what stays of a button's tongue in its groove when it is out the farthest.
SHANK_M, TONGUE_LEFT_M = 0.005, 0.004
# How far the hole through the tenon lies nearer the shoulder than those through the cheeks.
DRAW_BORE_M = 0.0012
# What a figure-of-eight plate swings to either side before it binds.
FIGURE_EIGHT_M = 0.005
SPAN_M = (0.001, 60.0)


class Fixed(StrEnum):
    """Where a panel is held fast: its middle, or one of its edges."""

    MIDDLE = "middle"
    NEAR = "near"
    FAR = "far"

    def place(self, width_m: float) -> float:
        """How far from the near edge that is.

        Raises:
            OutOfRange: width_m 1 mm…60 m.
        """
        check_range("width_m", width_m, *SPAN_M, " m")
        return {Fixed.MIDDLE: width_m / 2, Fixed.NEAR: 0.0, Fixed.FAR: width_m}[self]


@dataclass(frozen=True)
class Slot:
    """One fastener across the width: its place, how far the wood above it travels away from the fixed line and towards it, and how long its
    slot must be with the screw's shank in it. The screw stands ``from_inner_m`` from the slot's end nearest the fixed line."""

    place_m: float
    outward_m: float
    inward_m: float
    fixed: bool

    @property
    def travel_m(self) -> float:
        return self.outward_m + self.inward_m

    @property
    def length_m(self) -> float:
        """The length of the slot; a round hole where it is fixed."""
        return SHANK_M + self.travel_m

    @property
    def from_inner_m(self) -> float:
        # As the slot is in what does not move and the screw goes with the wood.
        return SHANK_M / 2 + self.inward_m

    @property
    def button_gap_m(self) -> float:
        """What to leave between a button's shoulder and an apron that lies across this travel."""
        return self.inward_m

    @property
    def button_tongue_m(self) -> float:
        """How long the button's tongue must be not to leave its groove."""
        return self.outward_m + self.inward_m + TONGUE_LEFT_M

    @property
    def figure_eight_is_enough(self) -> bool:
        return max(self.outward_m, self.inward_m) <= FIGURE_EIGHT_M


def slots(swing: Swing, places_m: Sequence[float], fixed: Fixed) -> list[Slot]:
    """The slots of fasteners that stand at these places (metres from the near edge).

    Raises:
        OutOfRange: a place that is not on the panel.

    >>> wide = Swing(0.9, 0.89, 0.906, 0.001, 0.001, 0.002)
    >>> [round(item.travel_m * 1000, 1) for item in slots(wide, [0.0, 0.45, 0.9], Fixed.MIDDLE)]
    [9.0, 0.0, 9.0]
    """
    line = fixed.place(swing.built_m)
    result = []
    for place in places_m:
        check_range("places_m", place, 0.0, swing.built_m, " m")
        share = abs(place - line) / swing.built_m
        result.append(Slot(place, share * swing.growth_at_most_m, share * swing.shrink_at_most_m, share < 1e-6))
    return result


def spread_evenly(width_m: float, count: int, margin_m: float) -> list[float]:
    """Places of so many fasteners across a width, the outer ones a margin from the edges; one stands in the middle.

    Raises:
        OutOfRange: width_m 1 mm…60 m, count 1…200, a margin that leaves nothing between.
    """
    check_range("width_m", width_m, *SPAN_M, " m")
    check_range("count", count, 1, 200)
    if count == 1:
        return [width_m / 2]
    if not 0 <= margin_m < width_m / 2:
        raise OutOfRange("margin_m", margin_m, 0.0, width_m / 2, " m")
    step = (width_m - 2 * margin_m) / (count - 1)
    return [margin_m + position * step for position in range(int(count))]


@dataclass(frozen=True)
class Edges:
    """What both edges of a panel do, by where it is fixed: metres outward (growth) and inward (shrinkage), near edge first."""

    near_out_m: float
    near_in_m: float
    far_out_m: float
    far_in_m: float


def edges(swing: Swing, fixed: Fixed) -> Edges:
    """How far each edge goes: half each from a fixed middle, all at the other one from a fixed edge."""
    near = {Fixed.MIDDLE: 0.5, Fixed.NEAR: 0.0, Fixed.FAR: 1.0}[fixed]
    growth, shrink = swing.growth_m, swing.shrink_m
    return Edges(near * growth, near * shrink, (1 - near) * growth, (1 - near) * shrink)
