"""A board sawn up: whether parts may lie where they were laid, the cuts that free them in their order, and all that is left over.

Every cut runs right through what is then left of the board, and the wood adds up. Lengths in metres; x runs along the board, y across it.
Source: geometry.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from wood.arrays import Array
from wood.builds.layout import KERF_M, NEAR, Board, Placed, Rect
from wood.errors import check_range

# What is smaller than this is no offcut but scrap.
OFFCUT_LENGTH_M, OFFCUT_WIDTH_M = 0.25, 0.04


class Fault(StrEnum):
    """What is wrong with a part where it lies."""

    OUTSIDE = "outside"
    KEPT_OUT = "kept_out"
    OVERLAPS = "overlaps"
    NO_KERF = "no_kerf"


def faults(board: Board, placed: Sequence[Placed], kerf_m: float) -> dict[int, Fault]:
    """What is wrong with parts on a board, by their position in ``placed``; empty where the board can be cut so.

    Raises:
        OutOfRange: kerf_m 0…20 mm.
    """
    check_range("kerf_m", kerf_m, *KERF_M, " m")
    wrong: dict[int, Fault] = {}
    for n, placement in enumerate(placed):
        r = placement.rect
        if r.x0 < -NEAR or r.y0 < -NEAR or r.x1 > board.length_m + NEAR or r.y1 > board.width_m + NEAR:
            wrong[n] = Fault.OUTSIDE
        elif any(r.meets(bad) for bad in board.kept_out):
            wrong[n] = Fault.KEPT_OUT
        elif any(r.meets(other.rect) for m, other in enumerate(placed) if m != n):
            wrong[n] = Fault.OVERLAPS
        elif any(r.meets(other.rect, kerf_m) for m, other in enumerate(placed) if m != n):
            wrong[n] = Fault.NO_KERF
    return wrong


@dataclass(frozen=True)
class Cut:
    """A cut that runs right through a piece of the board: ``across`` it at x = ``at_m``, or along it at y = ``at_m``; ``within`` is that
    piece. The saw takes the kerf from there on."""

    across: bool
    at_m: float
    within: Rect


@dataclass(frozen=True)
class Sawn:
    """A board sawn up: the cuts in order, and all that is left of it; areas in m² add up to the board's.

    ``offcuts`` are the clear pieces worth keeping, the largest first.
    """

    cuts: tuple[Cut, ...]
    parts_m2: float
    kerf_m2: float
    offcuts_m2: float
    scrap_m2: float
    kept_out_m2: float
    offcuts: tuple[Rect, ...]

    @property
    def waste(self) -> float:
        """What is neither part nor offcut, as a share of all but the offcuts."""
        used = self.parts_m2 + self.kerf_m2 + self.scrap_m2 + self.kept_out_m2
        return 1 - self.parts_m2 / used if used > 0 else 0.0


def sawn(board: Board, placed: Sequence[Placed], kerf_m: float) -> Sawn | None:
    """How a board is sawn so that every part comes free; None where no cut right through frees them, as may happen to parts laid by hand.

    Raises:
        OutOfRange: kerf_m 0…20 mm.
    """
    check_range("kerf_m", kerf_m, *KERF_M, " m")
    cuts: list[Cut] = []
    leaves: list[Rect] = []
    parts = [placement.rect for placement in placed]
    if not _free(board.whole, parts, kerf_m, cuts, leaves):
        return None
    got = sum(part.area_m2 for part in parts)
    bad, pieces = 0.0, []
    for leaf in leaves:
        inside = [_common(leaf, keep_out) for keep_out in board.kept_out if leaf.meets(keep_out)]
        bad += _union_m2(inside)
        clear = _largest_clear(leaf, inside)
        if clear is not None and clear.x1 - clear.x0 >= OFFCUT_LENGTH_M and clear.y1 - clear.y0 >= OFFCUT_WIDTH_M:
            pieces.append(clear)
    rest = sum(leaf.area_m2 for leaf in leaves)
    good = sum(piece.area_m2 for piece in pieces)
    ordered = tuple(sorted(pieces, key=lambda piece: -piece.area_m2))
    return Sawn(tuple(cuts), got, board.area_m2 - got - rest, good, rest - bad - good, bad, ordered)


def _free(piece: Rect, parts: list[Rect], kerf: float, cuts: list[Cut], leaves: list[Rect]) -> bool:
    """Cut a piece until every part in it is free."""
    if not parts:
        if piece.area_m2 > 0:
            leaves.append(piece)
        return True
    if len(parts) == 1 and _same(piece, parts[0]):
        return True
    for across in (True, False):
        for at in _cuts_between(piece, parts, kerf, across):
            low, high = _halves(piece, at, kerf, across)
            first = [part for part in parts if (part.x1 if across else part.y1) <= at + NEAR]
            second = [part for part in parts if (part.x1 if across else part.y1) > at + NEAR]
            cuts.append(Cut(across, at, piece))
            return _free(low, first, kerf, cuts, leaves) and _free(high, second, kerf, cuts, leaves)
    return False


def _cuts_between(piece: Rect, parts: list[Rect], kerf: float, across: bool) -> list[float]:
    """Where a cut may run right through a piece between its parts, the first that frees something first."""
    low, high = (piece.x0, piece.x1) if across else (piece.y0, piece.y1)
    spans = [(part.x0, part.x1) if across else (part.y0, part.y1) for part in parts]
    tried = sorted({end for _, end in spans if end < high - NEAR} | {begin - kerf for begin, _ in spans if begin > low + NEAR})
    return [at for at in tried if all(end <= at + NEAR or begin >= min(at + kerf, high) - NEAR for begin, end in spans)]


def _halves(piece: Rect, at: float, kerf: float, across: bool) -> tuple[Rect, Rect]:
    """Both pieces after a cut. The saw may take what is left beside it whole, and stand partly outside the piece."""
    if across:
        return Rect(piece.x0, max(at, piece.x0), piece.y0, piece.y1), Rect(min(at + kerf, piece.x1), piece.x1, piece.y0, piece.y1)
    return Rect(piece.x0, piece.x1, piece.y0, max(at, piece.y0)), Rect(piece.x0, piece.x1, min(at + kerf, piece.y1), piece.y1)


def _same(rect: Rect, other: Rect) -> bool:
    return max(abs(rect.x0 - other.x0), abs(rect.x1 - other.x1), abs(rect.y0 - other.y0), abs(rect.y1 - other.y1)) < 1e-6


def _common(rect: Rect, other: Rect) -> Rect:
    return Rect(max(rect.x0, other.x0), min(rect.x1, other.x1), max(rect.y0, other.y0), min(rect.y1, other.y1))


def _edges(values: Iterable[float]) -> Array:
    return np.unique(np.fromiter(values, float))


def _union_m2(rects: Sequence[Rect]) -> float:
    """The area that rectangles cover together."""
    if not rects:
        return 0.0
    xs, ys = _edges(x for r in rects for x in (r.x0, r.x1)), _edges(y for r in rects for y in (r.y0, r.y1))
    middle_x, middle_y = (xs[1:] + xs[:-1]) / 2, (ys[1:] + ys[:-1]) / 2
    covered = np.zeros((middle_x.size, middle_y.size), bool)
    for r in rects:
        covered |= ((middle_x > r.x0) & (middle_x < r.x1))[:, None] & ((middle_y > r.y0) & (middle_y < r.y1))[None]
    return float((np.diff(xs)[:, None] * np.diff(ys)[None] * covered).sum())


def _largest_clear(leaf: Rect, bad: Sequence[Rect]) -> Rect | None:
    """The largest rectangle of a piece that no keep-out touches: its edges lie on theirs."""
    if not bad:
        return leaf
    xs, ys = (
        _edges([leaf.x0, leaf.x1, *(x for r in bad for x in (r.x0, r.x1))]),
        _edges([leaf.y0, leaf.y1, *(y for r in bad for y in (r.y0, r.y1))]),
    )
    middle_x, middle_y = (xs[1:] + xs[:-1]) / 2, (ys[1:] + ys[:-1]) / 2
    saved = np.zeros((middle_x.size, middle_y.size), bool)
    for r in bad:
        saved |= ((middle_x > r.x0) & (middle_x < r.x1))[:, None] & ((middle_y > r.y0) & (middle_y < r.y1))[None]
    best, result = 0.0, None
    for a in range(middle_x.size):
        # Rows that are clear over all columns from a on, as the columns are added.
        blocked = np.zeros(middle_y.size, bool)
        for b in range(a, middle_x.size):
            blocked |= saved[b]
            for c, d in _runs(~blocked):
                area = (xs[b + 1] - xs[a]) * (ys[d] - ys[c])
                if area > best:
                    best, result = area, (xs[a], xs[b + 1], ys[c], ys[d])
    return None if result is None else Rect(*(float(edge) for edge in result))


def _runs(clear: np.ndarray) -> list[tuple[int, int]]:
    """Where runs of true begin and end."""
    edges = np.flatnonzero(np.diff(np.concatenate([[0], clear.astype(np.int8), [0]])))
    return list(zip(edges[::2].tolist(), edges[1::2].tolist(), strict=True))
