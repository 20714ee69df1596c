"""Sizes of wood: nominal quarter sizes, board feet, and the volume of boards, logs, rounds and hollowed bowls.

Sources: usual North American practice for nominal sizes and board feet; Huber's formula for logs. Sizes in metres.
"""

import math
import re
from enum import Enum

from wood.errors import CannotRead, NotKnown, check_range
from wood.units import FOOT_M, INCH_M

# What is left of a rough quarter size when both faces are planed, in inches (usual North American hardwood practice).
DRESSED_IN = {3: 9 / 16, 4: 13 / 16, 5: 17 / 16, 6: 21 / 16, 7: 25 / 16, 8: 7 / 4, 10: 9 / 4, 12: 11 / 4, 16: 15 / 4}
# One board foot: a square foot, one inch thick.
BOARD_FOOT_M3 = FOOT_M * FOOT_M * INCH_M
LARGEST_M = 30.0
# What is called 4/4 and 8/4 is sawn an eighth of an inch over, so that an inch and two are left when it is dry.
FOUR_QUARTER_GREEN_M, EIGHT_QUARTER_GREEN_M = 0.0286, 0.0540


class Shape(Enum):
    """The shape of a piece: sawn square, a log as it lies, a solid round standing on its face, or a hollowed round."""

    BOARD = "board"
    LOG = "log"
    ROUND = "round"
    BOWL = "bowl"

    @property
    def is_round(self) -> bool:
        """Round seen from the end or from above; its width is a diameter."""
        return self is not Shape.BOARD

    @property
    def is_disc(self) -> bool:
        """Round seen from above, as it lies on the bench."""
        return self in (Shape.ROUND, Shape.BOWL)


def quarters(nominal: str) -> int | None:
    """How many quarters of an inch a nominal size names, or ``None`` where the text is no quarter size.

    >>> quarters("5/4"), quarters("8/4"), quarters("1 1/4")
    (5, 8, None)
    """
    result = re.fullmatch(r"(\d{1,2})/4", nominal.strip())
    return int(result[1]) if result else None


def rough_thickness_m(nominal_quarters: int) -> float:
    """The thickness a rough quarter size has: 4/4 is one inch.

    Raises:
        OutOfRange: nominal_quarters 1…40.

    >>> round(rough_thickness_m(5), 5)
    0.03175
    """
    return float(check_range("nominal_quarters", nominal_quarters, 1, 40)) / 4 * INCH_M


def dressed_thickness_m(nominal_quarters: int) -> float:
    """The thickness that stays of a quarter size once both faces are planed: 4/4 leaves 13/16 in.

    Raises:
        NotKnown: no usual dressed size goes with it.

    >>> round(dressed_thickness_m(4) / INCH_M, 4)
    0.8125
    """
    if nominal_quarters not in DRESSED_IN:
        raise NotKnown("dressed thickness", f"{nominal_quarters}/4")
    return DRESSED_IN[nominal_quarters] * INCH_M


# What is left of nominal softwood sizes once they are planed and dry, in inches (American Softwood Lumber Standard, PS 20).
DRESSED_THICKNESS_IN = {1: 3 / 4, 2: 3 / 2, 3: 5 / 2, 4: 7 / 2, 6: 11 / 2}
DRESSED_WIDTH_IN = {2: 3 / 2, 3: 5 / 2, 4: 7 / 2, 5: 9 / 2, 6: 11 / 2, 8: 29 / 4, 10: 37 / 4, 12: 45 / 4}


def section_m(text: str) -> tuple[float, float] | None:
    """Thickness and width (m) of a softwood section by its nominal size, ``2x4``, ``1 x 8`` or ``2 by 6``; ``None`` where it is not one.

    Raises:
        CannotRead: it is written as one, and no such size is sold planed.

    >>> [round(size / INCH_M, 2) for size in section_m("2 by 6")], section_m("5/4")
    ([1.5, 5.5], None)
    """
    result = re.fullmatch(r"(\d{1,2})\s*(?:x|×|by)\s*(\d{1,2})", text.strip().casefold())
    if not result:
        return None
    thickness, width = sorted((int(result[1]), int(result[2])))
    if thickness not in DRESSED_THICKNESS_IN or width not in DRESSED_WIDTH_IN:
        raise CannotRead("thickness", text, f"no {thickness}x{width} is sold planed; write thickness and width as they are")
    return DRESSED_THICKNESS_IN[thickness] * INCH_M, DRESSED_WIDTH_IN[width] * INCH_M


def planed_m(typed: str) -> float:
    """The thickness of wood that was planed from the nominal size as it was typed.

    Raises:
        CannotRead: it is no nominal size, or none that is usually sold planed.

    >>> round(planed_m("4/4") / INCH_M, 4)
    0.8125
    """
    named = quarters(typed)
    if named not in DRESSED_IN:
        usual = ", ".join(f"{size}/4" for size in DRESSED_IN)
        raise CannotRead("thickness", typed, f"a dressed size goes with {usual}")
    return dressed_thickness_m(named)


def board_feet(thickness_m: float, width_m: float, length_m: float, nominal: str = "") -> float:
    """Board feet as lumber is counted: by the nominal thickness where there is one, and never thinner than an inch.

    Planed 4/4 still counts as one inch, and thin stock as one inch, too (usual North American practice).

    Raises:
        OutOfRange: thickness_m 0…30 m.

    >>> round(board_feet(0.0206, 8 * 0.0254, 96 * 0.0254, "4/4"), 2)
    5.33
    """
    check_range("thickness_m", thickness_m, 0.0, LARGEST_M, " m")
    named = quarters(nominal)
    counted = max(rough_thickness_m(named) if named else thickness_m, INCH_M)
    return counted * box_volume_m3(1.0, width_m, length_m) / BOARD_FOOT_M3


def box_volume_m3(thickness_m: float, width_m: float, length_m: float) -> float:
    """Volume of a board, slab or square blank.

    Raises:
        OutOfRange: length_m 0…30 m, thickness_m 0…30 m, width_m 0…30 m.
    """
    return float(
        check_range("thickness_m", thickness_m, 0.0, LARGEST_M, " m")
        * check_range("width_m", width_m, 0.0, LARGEST_M, " m")
        * check_range("length_m", length_m, 0.0, LARGEST_M, " m")
    )


def round_volume_m3(diameter_m: float, length_m: float) -> float:
    """Volume of a round: a blank by its diameter and height, a log by its middle diameter and length (Huber's formula).

    Raises:
        OutOfRange: diameter_m 0…30 m, length_m 0…30 m.

    >>> round(round_volume_m3(0.5, 2.0), 4)
    0.3927
    """
    check_range("diameter_m", diameter_m, 0.0, LARGEST_M, " m")
    check_range("length_m", length_m, 0.0, LARGEST_M, " m")
    return math.pi / 4 * diameter_m**2 * length_m


def bowl_volume_m3(diameter_m: float, height_m: float, wall_m: float) -> float:
    """Volume of the wood in a rough-turned bowl: half an ellipsoid, hollowed to an even wall.

    V = 2π/3 · (r²h − (r − w)²(h − w)); a wall as thick as the bowl leaves it solid.

    Raises:
        OutOfRange: height_m 0…30 m, wall_m 0…30 m, diameter_m 0…30 m.

    >>> solid = bowl_volume_m3(0.3, 0.15, 0.15)
    >>> round(solid / (2 / 3 * math.pi * 0.15**3), 6)
    1.0
    """
    radius = float(check_range("diameter_m", diameter_m, 0.0, LARGEST_M, " m")) / 2
    check_range("height_m", height_m, 0.0, LARGEST_M, " m")
    check_range("wall_m", wall_m, 0.0, LARGEST_M, " m")
    inside = max(radius - wall_m, 0.0) ** 2 * max(height_m - wall_m, 0.0)
    return 2 / 3 * math.pi * (radius**2 * height_m - inside)


def volume_m3(shape: Shape, thickness_m: float, width_m: float, length_m: float) -> float:
    """Volume (m³) of the wood in a piece; of a round one the width is its diameter, of a bowl the thickness its wall and the length its
    height.

    >>> round(volume_m3(Shape.LOG, 0.5, 0.5, 2.0), 4), round(volume_m3(Shape.BOARD, 0.025, 0.2, 2.0), 4)
    (0.3927, 0.01)
    """
    if shape is Shape.BOWL:
        return bowl_volume_m3(width_m, length_m, thickness_m)
    if shape is Shape.LOG:
        return round_volume_m3(width_m, length_m)
    if shape is Shape.ROUND:
        return round_volume_m3(width_m, thickness_m)
    return box_volume_m3(thickness_m, width_m, length_m)
