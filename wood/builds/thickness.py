"""Which thickness of board a part is cut from: one near its own, one that is resawn into leaves, or a thicker one that is planed away.

Metres. Source: our own judgement of bench practice: a quarter of an inch or a third of a board is planed away without a second thought;
each leaf is left so much more, for the cup that comes as stress goes.
"""

import math

from wood.errors import check_range

PLANED_M, PLANED_SHARE = 0.00635, 1 / 3
LEAF_EXTRA_M = 0.0016
# As thick as a piece of the stock may be.
THICKNESS_M, KERF_M = (0.001, 2.0), (0.0, 0.02)
MOST_LEAVES = 6
NEAR = 1e-6


def gives(board_m: float, part_m: float) -> bool:
    """Whether a board is thick enough for a part at its rough thickness.

    Raises:
        OutOfRange: 1 mm…2 m.
    """
    check_range("board_m", board_m, *THICKNESS_M, " m")
    check_range("part_m", part_m, *THICKNESS_M, " m")
    return board_m >= part_m - NEAR


def is_near(board_m: float, part_m: float) -> bool:
    """Whether a board gives a part without more planed away than practice would.

    Args:
        board_m, part_m: thicknesses, 1 mm…2 m.
    Raises:
        OutOfRange.

    >>> is_near(0.0254, 0.019), is_near(0.0635, 0.019)
    (True, False)
    """
    return gives(board_m, part_m) and board_m - part_m <= max(PLANED_M, board_m * PLANED_SHARE) + NEAR


def leaves(board_m: float, part_m: float, kerf_m: float) -> int:
    """Into how many leaves a board is resawn for parts of a rough thickness; 1 where it does not give two, 0 where it is too thin.

    Raises:
        OutOfRange: kerf 0…20 mm.

    >>> leaves(0.0635, 0.022, 0.0032), leaves(0.0254, 0.022, 0.0032), leaves(0.019, 0.022, 0.0032)
    (2, 1, 0)
    """
    check_range("kerf_m", kerf_m, *KERF_M, " m")
    if not gives(board_m, part_m):
        return 0
    each = part_m + LEAF_EXTRA_M
    return max(1, min(math.floor((board_m + kerf_m + NEAR) / (each + kerf_m)), MOST_LEAVES))


def leaf_m(board_m: float, count: int, kerf_m: float) -> float:
    """How thick each of so many leaves comes from the saw, metres.

    Args:
        board_m: 1 mm…2 m; count: 1…6; kerf_m: 0…20 mm.
    Raises:
        OutOfRange.

    >>> round(leaf_m(0.0635, 2, 0.0035), 4)
    0.03
    """
    check_range("board_m", board_m, *THICKNESS_M, " m")
    check_range("count", count, 1, MOST_LEAVES)
    check_range("kerf_m", kerf_m, *KERF_M, " m")
    return (board_m - (count - 1) * kerf_m) / count


# Sawn thicknesses as they are bought, in quarters of an inch, and how much more of a wood is bought than its parts come to.
QUARTERS, BOUGHT_WITH = (4, 5, 6, 8, 10, 12, 16), 1.3
INCH_M = 0.0254


def quarters_for(part_m: float) -> int | None:
    """The thinnest sawn size, in quarters of an inch, that gives a part of a rough thickness; None where none does.

    Raises:
        OutOfRange.

    >>> quarters_for(0.0238), quarters_for(0.030), quarters_for(0.2)
    (4, 5, None)
    """
    check_range("part_m", part_m, *THICKNESS_M, " m")
    return next((quarters for quarters in QUARTERS if quarters * INCH_M / 4 >= part_m - NEAR), None)
