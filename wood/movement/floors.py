"""A floor through the year: what it does to the walls, the gaps that open, and the hollow that one damp side makes.

Source: Wood Handbook (FPL-GTR-282) ch. 13 for shrinkage and moisture at installation; the curve of a strip whose two sides stretch by
different amounts is geometry. Limits against subfloors are flooring practice (wood.uses).
"""

from dataclasses import dataclass

from wood.errors import check_range
from wood.movement.restraint import GREATEST_PRESSURE_MPA
from wood.movement.shrinkage import Shrinkage
from wood.movement.widths import Swing

# What is left at a wall at the very least, and boards that stick together and open one wide gap for all of them.
LEAST_WALL_M, STUCK_TOGETHER = 0.006, 5
ROOM_M, BOARD_M = (0.3, 60.0), (0.02, 0.5)
# Nails of strip floors: how far apart, and what each bears sideways in the long run (the handbook's lateral loads of such nails are 300 to
# 570 N, ch. 8); and what practice leaves at a wall, however little they would slide.
NAILS_APART_M, NAIL_HOLDS_N, NAILED_PRACTICE_M = 0.25, 400.0, 0.019
# Boards narrower than this may differ by four points from a wooden subfloor, wider ones by two (flooring practice).
NARROW_M, NARROW_MAY, WIDE_MAY = 0.076, 0.04, 0.02


@dataclass(frozen=True)
class Floor:
    """A floor of boards that fill a room's width on the day it is laid, fastened from its middle or floating.

    ``wall_gap_m`` is the room to leave along each of the two walls, ``per_board_m`` the gap at every joint at the driest if all share it,
    ``stuck_gap_m`` the one gap where :data:`STUCK_TOGETHER` boards hold together and open as one. ``wall_gap_m`` is of boards that are
    free; ``nailed_gap_m`` of strips that are each nailed to what lies below, where only those near a wall slide and the others are pressed.
    """

    boards: int
    swing: Swing
    wall_gap_m: float
    per_board_m: float
    stuck_gap_m: float
    subfloor_may_differ: float
    nailed_gap_m: float


def floor(swing: Swing, board_m: float, thickness_m: float) -> Floor:
    """The allowances of a floor whose whole width goes through this swing.

    Args:
        swing: of the whole width, 0.3…60 m; board_m, thickness_m: of one board, 20…500 mm and 3…60 mm.
    Raises:
        OutOfRange.

    >>> laid = floor(Swing(4.0, 3.96, 4.02, 0.004, 0.006, 0.01), 0.08, 0.019)
    >>> laid.boards, round(laid.wall_gap_m * 1000), round(laid.per_board_m * 1000, 2)
    (50, 12, 0.8)
    """
    check_range("room_m", swing.built_m, *ROOM_M, " m")
    check_range("board_m", board_m, *BOARD_M, " m")
    boards = max(1, round(swing.built_m / board_m))
    each = swing.shrink_m / boards
    nailed_m = slides_when_nailed_m(min(swing.growth_at_most_m / swing.built_m, 0.2), board_m, thickness_m, swing.built_m)
    return Floor(
        boards,
        swing,
        max(LEAST_WALL_M, swing.growth_at_most_m / 2),
        each,
        each * STUCK_TOGETHER,
        NARROW_MAY if board_m < NARROW_M else WIDE_MAY,
        max(LEAST_WALL_M, min(swing.growth_at_most_m / 2, max(NAILED_PRACTICE_M, nailed_m))),
    )


def slides_when_nailed_m(growth: float, board_m: float, thickness_m: float, room_m: float) -> float:
    """How far the edge of a floor of nailed strips slides to its wall when it swells; metres.

    Every strip is held by its nails. Those far from the wall would have to push all strips before them, and are pressed instead; only over
    the width whose nails together hold less than the pressure of the swelling do they slide, by less and less inwards. The pressure is
    that of swelling that is held all round (:data:`wood.movement.restraint.GREATEST_PRESSURE_MPA`).

    Args:
        growth: what a free strip would grow by, a share of its width, 0…0.2; board_m: 20…500 mm; thickness_m: 3…60 mm; room_m: 0.3…60 m.
    Raises:
        OutOfRange.

    >>> round(slides_when_nailed_m(0.01, 0.083, 0.019, 5.0) * 1000, 1)
    17.1
    """
    check_range("growth", growth, 0.0, 0.2)
    check_range("board_m", board_m, *BOARD_M, " m")
    check_range("thickness_m", thickness_m, 0.003, 0.06, " m")
    check_range("room_m", room_m, *ROOM_M, " m")
    pressed_n_m = GREATEST_PRESSURE_MPA * 1e6 * thickness_m
    held_n_m2 = NAIL_HOLDS_N / NAILS_APART_M / board_m
    reach = min(pressed_n_m / held_n_m2, room_m / 2)
    return growth * reach * (1 - reach * held_n_m2 / pressed_n_m / 2)


def cup_from_one_side(shrinkage: Shrinkage, ring_angle_deg: float, width_m: float, thickness_m: float, wetter: float) -> float:
    """The hollow of a board whose underside is wetter than its face by ``wetter`` (a fraction), if nothing holds it down; metres.

    The moisture is taken to run straight from side to side, so the strip bends to a circle of curvature (difference in stretch)/thickness.
    Sanded flat while it is cupped, the same board crowns by as much when it dries even.

    Args:
        width_m: 5 mm…2 m; thickness_m: 0.5 mm…1.5 m; wetter: −0.3…0.3; a wetter face gives a crown, below nothing.
    Raises:
        OutOfRange.

    >>> oak = Shrinkage(0.056, 0.105, 0.30, "published")
    >>> round(cup_from_one_side(oak, 0, 0.15, 0.02, 0.04) * 1000, 1)
    2.0
    """
    check_range("width_m", width_m, 0.005, 2.0, " m")
    check_range("thickness_m", thickness_m, 0.0005, 1.5, " m")
    check_range("wetter", wetter, -0.3, 0.3)
    stretch = shrinkage.at_ring_angle(ring_angle_deg) * wetter / shrinkage.fibre_saturation
    return stretch / thickness_m * width_m**2 / 8
