"""The compiled inside of :mod:`wood.builds.layout`: one board sawn up by cuts that run right through, again and again in another order.

Source: geometry.
"""

import numpy as np
from numba import njit

compiled = njit(cache=True, nogil=True, error_model="numpy")

# How a piece is freed from what is left: across first, along first, or whichever leaves the larger rest whole.
ACROSS_FIRST, ALONG_FIRST, LARGER_REST = 0, 1, 2


@compiled
def _clear(bad, x, y, length, width):
    """The first keep-out that a rectangle would cut into, −1 for none."""
    for k in range(bad.shape[0]):
        if x < bad[k, 1] - 1e-9 and x + length > bad[k, 0] + 1e-9 and y < bad[k, 3] - 1e-9 and y + width > bad[k, 2] + 1e-9:
            return k
    return -1


@compiled
def _best_place(bad, region, length, width):
    """The place nearest to the region's beginning, then to its lower edge, where a rectangle fits clear of every keep-out; −1 where
    none.
    """
    found_x, found_y = -1.0, -1.0
    for i in range(bad.shape[0] + 1):
        x = region[0] if i == 0 else bad[i - 1, 1]
        if x < region[0] - 1e-9 or x + length > region[1] + 1e-9 or (found_x >= 0 and x > found_x + 1e-9):
            continue
        for j in range(bad.shape[0] + 1):
            y = region[2] if j == 0 else bad[j - 1, 3]
            if y < region[2] - 1e-9 or y + width > region[3] + 1e-9:
                continue
            if _clear(bad, x, y, length, width) < 0 and (found_x < 0 or x < found_x - 1e-9 or y < found_y):
                found_x, found_y = x, y
    return found_x, found_y


@compiled
def fill(whole, bad, sizes, wanted, order, way, kerf, placed):
    """Saw up one board: parts in the given order, each where it fits first in the region that is next; returns how many were placed.

    ``whole`` is (x0, x1, y0, y1), ``bad`` (k, 4) the keep-outs, ``sizes`` (c, 2) length and width of each class, ``wanted`` how many of
    each may be cut. ``placed`` (n, 3) is filled with class, x, y.
    """
    regions = np.empty((4 * placed.shape[0] + 4, 4))
    regions[0] = whole
    waiting, count = 1, 0
    left = wanted.copy()
    while waiting and count < placed.shape[0]:
        waiting -= 1
        region = regions[waiting].copy()
        for n in range(order.size):
            c = order[n]
            length, width = sizes[c, 0], sizes[c, 1]
            if left[c] <= 0 or length > region[1] - region[0] + 1e-9 or width > region[3] - region[2] + 1e-9:
                continue
            x, y = _best_place(bad, region, length, width)
            if x < 0:
                continue
            placed[count, 0], placed[count, 1], placed[count, 2] = c, x, y
            count += 1
            left[c] -= 1
            after_x, after_y = x + length + kerf, y + width + kerf
            across = way == ACROSS_FIRST
            if way == LARGER_REST:
                across = (region[1] - after_x) * (region[3] - region[2]) >= (region[3] - after_y) * (region[1] - region[0])
            x0, x1, y0, y1 = (x, x + length, region[2], region[3]) if across else (region[0], region[1], y, y + width)
            # What lies before, above, below and after it, each freed by a cut that runs right through what was left.
            rests = (
                (region[0], x - kerf, region[2] if across else y0, region[3] if across else y1),
                (after_x, region[1], region[2] if across else y0, region[3] if across else y1),
                (x0 if across else region[0], x1 if across else region[1], region[2], y - kerf),
                (x0 if across else region[0], x1 if across else region[1], after_y, region[3]),
            )
            for r in range(4):
                a, b, low, high = rests[r]
                if b - a > 1e-6 and high - low > 1e-6 and waiting < regions.shape[0]:
                    regions[waiting, 0], regions[waiting, 1], regions[waiting, 2], regions[waiting, 3] = a, b, low, high
                    waiting += 1
            break
    return count


@compiled
def rounds(seed, boards, begins, bad, may, sizes, wanted, kerf, tries, looked_at, of_board, of_round, counts, placed):
    """Saw up boards one after the other until nothing is wanted any more, round after round, each time the best of some tries by how full
    the board gets for what it costs; returns how many ways of sawing a board were written.

    ``boards`` (b, 3) lengths, widths and how dear they are, ``bad`` their keep-outs from ``begins[b]`` to ``begins[b + 1]``, ``may`` (b, c)
    which classes each may yield. Of each step's boards ``looked_at`` are tried. ``of_board``, ``of_round``, ``counts`` (w,) and ``placed``
    (w, n, 3) are filled.
    """
    np.random.seed(seed)
    written, number, classes = 0, 0, sizes.shape[0]
    area = sizes[:, 0] * sizes[:, 1]
    now, best = np.zeros(placed.shape[1:]), np.zeros(placed.shape[1:])
    allowed = np.zeros(classes, np.int64)
    while written < of_board.size:
        left, unused = wanted.copy(), np.ones(boards.shape[0])
        # Each round has a mind of its own about large parts, long ones and wide ones.
        bent, leaning = np.random.uniform(0.2, 1.3), np.random.uniform(-0.6, 0.6)
        while left.sum() > 0 and unused.sum() > 0 and written < of_board.size:
            most, result, board = 0.0, 0, -1
            for _ in range(looked_at):
                b = np.random.randint(boards.shape[0])
                if unused[b] == 0:
                    continue
                for c in range(classes):
                    allowed[c] = left[c] if may[b, c] else 0
                for _ in range(tries):
                    key = np.empty(classes)
                    for c in range(classes):
                        key[c] = -(area[c] ** bent) * (sizes[c, 0] / sizes[c, 1]) ** leaning * np.random.uniform(0.4, 1.0)
                    whole = np.array([0.0, boards[b, 0], 0.0, boards[b, 1]])
                    n = fill(whole, bad[begins[b] : begins[b + 1]], sizes, allowed, np.argsort(key), np.random.randint(3), kerf, now)
                    got = 0.0
                    for k in range(n):
                        got += area[int(now[k, 0])]
                    full = got / (boards[b, 0] * boards[b, 1] * boards[b, 2])
                    if full > most:
                        most, result, board = full, n, b
                        best[:n] = now[:n]
            if board < 0:
                unused[np.random.randint(boards.shape[0])] *= 0.0
                continue
            unused[board] = 0
            of_board[written], of_round[written], counts[written] = board, number, result
            placed[written, :result] = best[:result]
            for k in range(result):
                left[int(best[k, 0])] -= 1
            written += 1
        number += 1
        if written == 0:
            return 0
    return written


def warm() -> None:
    """Compile, or load from the cache."""
    first = np.array([[0.5, 0.5]])
    rounds(
        1,
        np.array([[1.0, 1.0, 1.0]]),
        np.array([0, 0]),
        np.zeros((0, 4)),
        np.ones((1, 1), np.bool_),
        first,
        np.array([1]),
        0.003,
        1,
        1,
        np.zeros(1, np.int64),
        np.zeros(1, np.int64),
        np.zeros(1, np.int64),
        np.zeros((1, 4, 3)),
    )
