"""What a part wishes of its board beyond its size: to lie where the eye wants it, or in a row with its like from one board.

A block of alike parts in a row is cut out of a board by cuts that run right through it: two across its ends, then two along its edges. What
is left on all four sides are boards of their own, which are sawn up as any other; so a plan with such blocks can always be sawn.

Lengths in metres; x runs along the board and its grain, y across it. Source: geometry.
"""

import itertools
from collections.abc import Sequence

from wood.builds.layout import KERF_M, LENGTH_M, MOST_PARTS, NEAR, Rect
from wood.errors import check_range

# Parts of a row may lie so much farther apart than the saw's kerf, metres: what a hand adds that lays them by eye.
LOOSE_M = 0.012


def row_length_m(length_m: float, count: int, kerf_m: float) -> float:
    """How long so many parts in a row are, the saw's kerfs between them.

    Args:
        length_m: of one, 5 mm…15 m; count: 1…2000; kerf_m: 0…20 mm.
    Raises:
        OutOfRange.

    >>> round(row_length_m(0.4, 3, 0.003), 3)
    1.206
    """
    check_range("length_m", length_m, *LENGTH_M, " m")
    check_range("count", count, 1, MOST_PARTS)
    check_range("kerf_m", kerf_m, *KERF_M, " m")
    return count * length_m + (count - 1) * kerf_m


def in_a_row(block: Rect, count: int, kerf_m: float) -> list[Rect]:
    """The parts of a block from left to right.

    Args:
        block: of so many parts (1…2000) and their kerfs (0…20 mm), lengthwise.
    Raises:
        OutOfRange.

    >>> [round(part.x0, 3) for part in in_a_row(Rect(0.0, 1.206, 0.0, 0.1), 3, 0.003)]
    [0.0, 0.403, 0.806]
    """
    check_range("count", count, 1, MOST_PARTS)
    check_range("kerf_m", kerf_m, *KERF_M, " m")
    length = (block.x1 - block.x0 - (count - 1) * kerf_m) / count
    check_range("length_m", length, 0.0, LENGTH_M[1], " m")
    begins = [block.x0 + n * (length + kerf_m) for n in range(count)]
    return [Rect(x, x + length, block.y0, block.y1) for x in begins]


def lie_in_a_row(parts: Sequence[Rect], kerf_m: float) -> bool:
    """Whether parts lie one after the other along one line of a board, no farther apart than a saw and a hand need.

    Args:
        parts: of one board, in any order; kerf_m: 0…20 mm.
    Raises:
        OutOfRange.

    >>> lie_in_a_row(in_a_row(Rect(0.0, 1.206, 0.0, 0.1), 3, 0.003), 0.003)
    True
    """
    check_range("kerf_m", kerf_m, *KERF_M, " m")
    row = sorted(parts)
    return all(
        abs(first.y0 - second.y0) <= LOOSE_M and -NEAR <= second.x0 - first.x1 <= kerf_m + LOOSE_M
        for first, second in itertools.pairwise(row)
    )


def first_clear(within: Rect, kept_out: Sequence[Rect], length_m: float, width_m: float) -> Rect | None:
    """The first place for a block inside a board or a part of one, from its left end and lower edge, that touches nothing that is kept out;
    None where there is none.

    Args:
        kept_out: what no block may touch, anywhere; length_m, width_m: of the block, 0…15 m.
    Raises:
        OutOfRange.

    >>> first_clear(Rect(0.0, 2.0, 0.0, 0.2), [Rect(0.0, 0.03, 0.0, 0.2)], 1.0, 0.1)
    Rect(x0=0.03, x1=1.03, y0=0.0, y1=0.1)
    """
    check_range("length_m", length_m, 0.0, LENGTH_M[1], " m")
    check_range("width_m", width_m, 0.0, LENGTH_M[1], " m")
    bad = [r for r in kept_out if r.meets(within)]
    xs = sorted({within.x0, *(r.x1 for r in bad if r.x1 > within.x0)})
    ys = sorted({within.y0, *(r.y1 for r in bad if r.y1 > within.y0)})
    for x in xs:
        for y in ys:
            if x > within.x1 - length_m + NEAR or y > within.y1 - width_m + NEAR:
                continue
            block = Rect(x, x + length_m, y, y + width_m)
            if not any(block.meets(r) for r in bad):
                return block
    return None


def rest_of(board: Rect, block: Rect, kerf_m: float) -> list[Rect]:
    """What is left of a board when a block is cut out of it: left and right of it over the whole width, below and above it.

    Args:
        board: a board or a part of one that holds the block; kerf_m: 0…20 mm.
    Raises:
        OutOfRange.

    >>> [round(r.area_m2, 3) for r in rest_of(Rect(0.0, 2.0, 0.0, 0.2), Rect(0.0, 1.0, 0.0, 0.2), 0.0)]
    [0.2]
    """
    check_range("kerf_m", kerf_m, *KERF_M, " m")
    sides = (
        (board.x0, block.x0 - kerf_m, board.y0, board.y1),
        (block.x1 + kerf_m, board.x1, board.y0, board.y1),
        (block.x0, block.x1, board.y0, block.y0 - kerf_m),
        (block.x0, block.x1, block.y1 + kerf_m, board.y1),
    )
    return [Rect(*side) for side in sides if side[1] - side[0] > NEAR and side[3] - side[2] > NEAR]


def askew_width_m(length_m: float, width_m: float, slope: float) -> float:
    """How wide a blank is out of which a square is sawn along grain that runs askew to its edges.

    Args:
        length_m: of the square, 0…15 m; width_m: 0…3 m; slope: metres across for a metre along, −1…1.
    Raises:
        OutOfRange.

    >>> round(askew_width_m(0.7, 0.045, 0.05), 3)
    0.08
    """
    check_range("length_m", length_m, 0.0, LENGTH_M[1], " m")
    check_range("width_m", width_m, 0.0, LENGTH_M[1], " m")
    check_range("slope", slope, -1.0, 1.0)
    return width_m + length_m * abs(slope)


def inside(part: Rect, region: Rect) -> bool:
    """Whether a part lies wholly in a region, but for a hair.

    >>> inside(Rect(0.1, 0.5, 0.0, 0.1), Rect(0.0, 0.6, 0.0, 0.1))
    True
    """
    return (
        part.x0 >= region.x0 - LOOSE_M
        and part.x1 <= region.x1 + LOOSE_M
        and part.y0 >= region.y0 - LOOSE_M
        and part.y1 <= region.y1 + LOOSE_M
    )


def common(one: Rect, other: Rect) -> Rect | None:
    """What two rectangles have in common; None where they do not meet.

    >>> common(Rect(0.0, 1.0, 0.0, 0.1), Rect(0.5, 2.0, 0.0, 0.1)).x0
    0.5
    """
    if not one.meets(other):
        return None
    return Rect(max(one.x0, other.x0), min(one.x1, other.x1), max(one.y0, other.y0), min(one.y1, other.y1))
