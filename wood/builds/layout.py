"""Parts laid on boards: where to cut, along and across, with the saw's kerf, clear of knots, checks, pith and sapwood, and what is left
over.

Every plan can be sawn: each cut runs right through what is then left of the board. Many ways of sawing each board up are tried
(:mod:`wood.builds.layout_kernel`), and among them a mixed-integer programme (HiGHS, through SciPy) chooses one for each board: as many of
the parts as can be had, the largest first, from as little wood as will do. A plan is the best of what was tried; it is not proved to be the
best there is.

Lengths in metres; x runs along the board and its grain, y across it. Source: geometry; what is chosen for is our own.
"""

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np

from wood.arrays import Array
from wood.builds import layout_kernel
from wood.errors import check_range

LENGTH_M, WIDTH_M = (0.005, 15.0), (0.003, 3.0)
KERF_M = (0.0, 0.02)
MOST_BOARDS, MOST_PARTS, MOST_KEPT_OUT = 200, 2000, 60
# How many ways of sawing a board up are made in all, from how many orders and of how many boards at each step; how many rounds of them the
# choice is made of.
WAYS, TRIES, BOARDS_A_STEP, BEST_ROUNDS, SEED = 240, 8, 8, 8, 17
MOST_ON_A_BOARD = 200
NEAR = 1e-7
# The programme stops within this share of the best, and a large one after so many seconds, with the best that it has by then.
GAP, SECONDS = 0.005, 0.08


@dataclass(frozen=True, order=True)
class Rect:
    """A rectangle on a board, metres: from x0 to x1 along it, from y0 to y1 across it.

    Raises:
        OutOfRange: an end before its beginning, or beyond 15 m.
    """

    x0: float
    x1: float
    y0: float
    y1: float

    def __post_init__(self) -> None:
        # Thousands are made while a board is sawn up: what is right is let through at once.
        if -LENGTH_M[1] <= self.x0 <= self.x1 <= LENGTH_M[1] and -LENGTH_M[1] <= self.y0 <= self.y1 <= LENGTH_M[1]:
            return
        for name, low, high in (("x1", self.x0, self.x1), ("y1", self.y0, self.y1)):
            check_range(name, low, -LENGTH_M[1], LENGTH_M[1], " m")
            check_range(name, high, low, LENGTH_M[1], " m")

    @property
    def area_m2(self) -> float:
        return (self.x1 - self.x0) * (self.y1 - self.y0)

    def meets(self, other: "Rect", apart: float = 0.0) -> bool:
        """Whether they overlap, or lie nearer than so many metres."""
        return (
            self.x0 < other.x1 + apart - NEAR
            and other.x0 < self.x1 + apart - NEAR
            and self.y0 < other.y1 + apart - NEAR
            and other.y0 < self.y1 + apart - NEAR
        )


@dataclass(frozen=True)
class Board:
    """A board to cut from: its name, sizes in metres, what of it is kept out, and how dear its wood is beside other wood (1…100).

    Raises:
        OutOfRange: length :data:`LENGTH_M`, width :data:`WIDTH_M`, more than 60 keep-outs, dearness outside 1…100.
    """

    key: str
    length_m: float
    width_m: float
    kept_out: tuple[Rect, ...] = ()
    dear: float = 1.0

    def __post_init__(self) -> None:
        check_range("length_m", self.length_m, *LENGTH_M, " m")
        check_range("width_m", self.width_m, *WIDTH_M, " m")
        check_range("kept_out", len(self.kept_out), 0, MOST_KEPT_OUT)
        check_range("dear", self.dear, 1.0, 100.0)

    @property
    def area_m2(self) -> float:
        return self.length_m * self.width_m

    @property
    def whole(self) -> Rect:
        return Rect(0.0, self.length_m, 0.0, self.width_m)


@dataclass(frozen=True)
class Need:
    """So many alike parts at their rough size, metres, and the boards they may be cut from (None: any).

    Raises:
        OutOfRange: length :data:`LENGTH_M`, width :data:`WIDTH_M`, count 1…2000.
    """

    key: str
    length_m: float
    width_m: float
    count: int = 1
    boards: frozenset[str] | None = None

    def __post_init__(self) -> None:
        check_range("length_m", self.length_m, *LENGTH_M, " m")
        check_range("width_m", self.width_m, *WIDTH_M, " m")
        check_range("count", self.count, 1, MOST_PARTS)

    @property
    def area_m2(self) -> float:
        return self.length_m * self.width_m


@dataclass(frozen=True)
class Placed:
    """One part on one board, its lower left corner at (x, y)."""

    need: str
    board: str
    rect: Rect


@dataclass(frozen=True)
class Plan:
    """What is cut from what, and how many of each need found no room."""

    placed: tuple[Placed, ...]
    missing: dict[str, int] = field(default_factory=dict)

    def on(self, board: str) -> list[Placed]:
        return [placement for placement in self.placed if placement.board == board]


def suggest(boards: Sequence[Board], needs: Sequence[Need], kerf_m: float, begun: Sequence[Placed] = ()) -> Plan:
    """A plan for all parts.

    Args:
        boards: at most 200; those given first are taken first where it makes no difference. needs: at most 2000 parts in all.
        kerf_m: of the saw, 0…20 mm; begun: what is laid already and stays: its board is left to it.
    Raises:
        OutOfRange.

    >>> plan = suggest([Board("a", 2.0, 0.2)], [Need("rail", 0.9, 0.09, 4)], 0.003)
    >>> len(plan.placed), plan.missing
    (4, {})
    """
    check_range("boards", len(boards), 0, MOST_BOARDS)
    check_range("parts", sum(need.count for need in needs), 0, MOST_PARTS)
    check_range("kerf_m", kerf_m, *KERF_M, " m")
    taken = {item.board for item in begun}
    free = [board for board in boards if board.key not in taken]
    wanted = {need.key: need.count - sum(item.need == need.key for item in begun) for need in needs}
    open_needs = [need for need in needs if wanted[need.key] > 0]
    if not free or not open_needs:
        return Plan(tuple(begun), {key: count for key, count in wanted.items() if count > 0})
    ways = _ways(free, open_needs, wanted, kerf_m)
    chosen = _choose(free, open_needs, wanted, ways)
    placed, missing = list(begun), dict(wanted)
    for board, way in chosen:
        for c, x, y in way:
            need = open_needs[int(c)]
            if missing[need.key] > 0:
                missing[need.key] -= 1
                placed.append(Placed(need.key, board.key, Rect(x, x + need.length_m, y, y + need.width_m)))
    return Plan(tuple(placed), {key: count for key, count in missing.items() if count > 0})


@dataclass(frozen=True)
class _Way:
    """A way of sawing up one board (its position): classes and their places, how many of each, and the round it stood in."""

    board: int
    parts: list[tuple[float, float, float]]
    yields: np.ndarray
    round: int


def _ways(boards: Sequence[Board], needs: Sequence[Need], wanted: dict[str, int], kerf: float) -> list[_Way]:
    """Ways of sawing up each board that go together: the steps of the best of many rounds in which all parts were laid, those of the very
    best first. The same chance every time, so that the same question has the same answer."""
    sizes = np.array([(need.length_m, need.width_m) for need in needs])
    counts = np.array([wanted[need.key] for need in needs])
    may = np.array([[need.boards is None or board.key in need.boards for need in needs] for board in boards])
    bad = np.array(
        [(keep_out.x0, keep_out.x1, keep_out.y0, keep_out.y1) for board in boards for keep_out in board.kept_out], float
    ).reshape(-1, 4)
    begins = np.cumsum([0, *(len(board.kept_out) for board in boards)])
    shapes = np.array([(board.length_m, board.width_m, board.dear) for board in boards])
    most = int(min(counts.sum(), MOST_ON_A_BOARD))
    of_board, of_round, yields = (np.zeros(WAYS, np.int64) for _ in range(3))
    placed = np.zeros((WAYS, most, 3))
    written = layout_kernel.rounds(
        SEED, shapes, begins, bad, may, sizes, counts, kerf, TRIES, min(len(boards) * 2, BOARDS_A_STEP), of_board, of_round, yields, placed
    )
    results = [
        _Way(
            int(b),
            [(float(c), float(x), float(y)) for c, x, y in way[:n]],
            np.bincount(way[:n, 0].astype(int), minlength=len(needs)),
            int(r),
        )
        for b, r, n, way in zip(of_board[:written], of_round[:written], yields[:written], placed[:written], strict=True)
    ]
    costs = {r: _cost(boards, needs, counts, [way for way in results if way.round == r]) for r in {way.round for way in results}}
    best = sorted(costs, key=costs.__getitem__)[:BEST_ROUNDS]
    answer: dict[tuple[int, bytes], _Way] = {}
    for way in sorted((way for way in results if way.round in best), key=lambda way: best.index(way.round)):
        answer.setdefault((way.board, way.yields.tobytes()), way)
    return list(answer.values())


def _cost(boards: Sequence[Board], needs: Sequence[Need], counts: np.ndarray, ways: Sequence[_Way]) -> float:
    """What a choice costs: the area of the boards begun, by how dear they are, and far more for each part that is not had."""
    had = sum((way.yields for way in ways), np.zeros(len(needs), int))
    return float(_lacking(boards, needs) @ np.maximum(counts - had, 0)) + sum(
        boards[way.board].area_m2 * boards[way.board].dear for way in ways
    )


def _lacking(boards: Sequence[Board], needs: Sequence[Need]) -> Array:
    """What a part of each need costs that is not had: more than any wood, a large one more than a small one."""
    areas = np.array([need.area_m2 for need in needs])
    return max(board.area_m2 * board.dear for board in boards) * 10 * (1 + areas / areas.max())


def _choose(
    boards: Sequence[Board], needs: Sequence[Need], wanted: dict[str, int], ways: list[_Way]
) -> list[tuple[Board, list[tuple[float, float, float]]]]:
    """One way for each board, or none: the best that can be put together from all that were kept, and never worse than the best round."""
    # Loaded where it is needed (command/serving.py).
    from scipy.optimize import Bounds, LinearConstraint, milp
    from scipy.sparse import csr_array, vstack

    if not ways:
        return []
    counts = np.array([wanted[need.key] for need in needs])
    # A hair for boards given later, so that those given first are taken where it makes no difference.
    opened = [boards[way.board].area_m2 * boards[way.board].dear * (1 + 1e-4 * way.board / len(boards)) for way in ways]
    of_board = np.zeros((len(boards), len(ways)))
    of_board[[way.board for way in ways], np.arange(len(ways))] = 1.0
    # Variables: each way taken or not, then how many of each need are lacking.
    enough = csr_array(np.hstack([np.array([way.yields for way in ways]).T, np.eye(len(needs))]))
    once = csr_array(np.hstack([of_board, np.zeros((len(boards), len(needs)))]))
    low = np.concatenate([counts, np.zeros(len(boards))])
    high = np.concatenate([np.full(len(needs), np.inf), np.ones(len(boards))])
    solved = milp(
        np.concatenate([opened, _lacking(boards, needs)]),
        constraints=LinearConstraint(vstack([enough, once]), low, high),
        integrality=np.ones(len(ways) + len(needs)),
        bounds=Bounds(0, np.concatenate([np.ones(len(ways)), counts])),
        options={"mip_rel_gap": GAP, "time_limit": SECONDS},
    )
    choices = [[way for way in ways if way.round == ways[0].round]]
    if solved.x is not None:
        choices.append([way for way, taken in zip(ways, solved.x, strict=False) if taken > 0.5])
    best = min(choices, key=lambda choice: _cost(boards, needs, counts, choice))
    return [(boards[way.board], way.parts) for way in sorted(best, key=lambda way: way.board)]
