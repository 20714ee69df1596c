"""Where a log is cut: two halves with the pith out, a slab with the pith between them, bowls in the halves, quartered planks in the slab,
or squares.

The cuts run along the log. Seen on its end they are two lines on either side of the pith, at an angle; what lies between is a slab with the
pith in its middle, and from each half comes a row of bowl blanks, their rims on the cut (or, for a natural edge, their feet). A blank is a
convex shape that stands on its cut line; the largest one that holds no check with a margin, and stays within the wood, has a closed form:
for each point of a check the shape may grow until one of its edges is a margin away, and until one of its corners reaches the bark. That is
asked for many angles, slabs, places along the cut and heights at once, then finer about the best. What a line costs when it is moved is
asked in the same way, for that line alone.

Checks that end short of the middle of the log can be cut off with the end instead of being gone round: both are tried.

Sources: geometry. How far a blank keeps from a check, what a saw takes and which shape is worth more are our own judgement.
"""

import math
from collections.abc import Iterable
from dataclasses import replace
from typing import Any

import numpy as np

from wood.arrays import Array
from wood.errors import check_range
from wood.turning.blanks import (
    BARK_M,
    FAR,
    KERF_M,
    LEAST_BOWL_M,
    MARGIN_M,
    OVER_M,
    PITH_M,
    SAFE_MARGIN_M,
    Blank,
    Cuts,
    Kind,
    Plan,
    Plank,
    Shape,
    Wanted,
    profile,
)
from wood.turning.growing import Grown, edges, grown
from wood.turning.logs import Flags, LogEnd

ANGLES, PLACES, SLABS_M = 24, 17, (0.0, 0.008, 0.018, 0.034)
# A cutter of a coring tool takes so much, and leaves a wall of a tenth.
CORER_M, CORED_FROM_M = 0.010, 0.26
MOST_CUT_OFF = 4


def _cut_off_choices(log: LogEnd, least_m: float) -> list[tuple[float, Flags]]:
    """What may be cut off each end first, and which obstacles are then left to go round: all, or all but the shallow ones."""
    obstacles = log.obstacles()
    depths = np.array([np.inf if depth is None else depth for _, depth in obstacles])
    choices = {least_m} | {float(depth) for depth in np.unique(depths[np.isfinite(depths)]) if least_m < depth < 0.4 * log.length_m}
    return [(choice, log.left(choice)) for choice in sorted(choices)[:MOST_CUT_OFF]]


def _row(usable_m: float, largest_m: float, least_m: float) -> tuple[int, float]:
    """How many bowls of one size come from a half of a length, and how wide: the more wood in all, the better."""
    best = (0, 0.0)
    worth = 0.0
    for count in range(1, 40):
        width = min(largest_m, usable_m / count - OVER_M)
        if width < least_m:
            break
        if count * width**3 > worth * 1.02:
            best, worth = (count, width), count * width**3
    return best


def _planks(log: LogEnd, cuts: Cuts, left: Iterable[int]) -> tuple[Plank, ...]:
    """The quartered planks of the slab on both sides of the pith, each from its tight rings to the bark or to the first check."""
    turn = math.radians(cuts.angle_deg)
    cos, sin = math.cos(turn), math.sin(turn)
    half_w, half_h = log.width_m / 2 - BARK_M, log.height_m / 2 - BARK_M
    clear = max(log.soft_m, PITH_M) + MARGIN_M
    result = []
    obstacles = log.obstacles()
    for way in (1.0, -1.0):
        reach = FAR
        # The plank is as wide as its narrower face.
        for off in (cuts.upper_m, -cuts.lower_m, 0.0):
            x, y = log.pith_x_m - sin * off, log.pith_y_m + cos * off
            dx, dy = way * cos, way * sin
            a = (dx / half_w) ** 2 + (dy / half_h) ** 2
            b = x * dx / half_w**2 + y * dy / half_h**2
            c = (x / half_w) ** 2 + (y / half_h) ** 2 - 1
            reach = min(reach, (-b + math.sqrt(max(b * b - a * c, 0.0))) / a)
        blocked = []
        for k in left:
            points = obstacles[k][0] - [log.pith_x_m, log.pith_y_m]
            along, above = way * (points @ [cos, sin]), points @ [-sin, cos]
            within = (above < cuts.upper_m + MARGIN_M) & (above > -cuts.lower_m - MARGIN_M) & (along > 0)
            if within.any():
                blocked.append((float(along[within].min()) - MARGIN_M, float(along[within].max()) + MARGIN_M))
        start, best = clear, (0.0, 0.0)
        for low, high in [*sorted(blocked), (reach, FAR)]:
            if min(low, reach) - start > best[1] - best[0]:
                best = (start, min(low, reach))
            start = max(start, high)
        if best[1] - best[0] >= 0.04 and cuts.slab_m >= 0.015:
            result.append(Plank(way * best[0], way * best[1], cuts.slab_m))
    return tuple(result)


def _blank(
    log: LogEnd, wanted: Wanted, cuts: Cuts, upper: bool, place_m: float, size: float, height: float, count: int, left: Flags
) -> Blank:
    turn = math.radians(cuts.angle_deg)
    side = 1.0 if upper else -1.0
    offset = cuts.upper_m if upper else cuts.lower_m
    along = np.array([math.cos(turn), math.sin(turn)])
    away = np.array([-math.sin(turn), math.cos(turn)]) * side
    shape = profile(wanted.shape, height, wanted.rim)
    base = np.array([log.pith_x_m, log.pith_y_m]) + away * offset + along * place_m
    outline = base + size * (shape[:, :1] * along + shape[:, 1:] * away)
    crosses, clear = [], FAR
    normals, distances = edges(shape)
    for k, (points, _) in enumerate(log.obstacles()):
        if not left[k]:
            continue
        seen = points - base
        u, v = seen @ along, seen @ away
        off = np.max(normals[:, 0, None] * u + normals[:, 1, None] * v - size * distances[:, None], axis=0)
        off = np.maximum(off, -v)
        nearest = float(off.min())
        clear = min(clear, nearest)
        if nearest < 0:
            crosses.append(k)
    deep = float(shape[:, 1].max()) * size
    cores = _cores(size, deep) if wanted.shape is Shape.BOWL else ()
    return Blank(upper, size, deep, place_m, offset, count, outline, clear, wanted.rim, tuple(crosses), cores)


def _cores(diameter_m: float, height_m: float) -> tuple[float, ...]:
    """The bowls that come out of the inside of a wide one, each as much smaller as two walls of a tenth and the cutter take."""
    result = []
    width, depth = diameter_m, height_m
    while width >= CORED_FROM_M:
        taken = 0.1 * width + CORER_M
        width, depth = width - 2 * taken, depth - taken
        if width < LEAST_BOWL_M or depth < 0.04:
            break
        result.append(width)
    return tuple(result)


def _pith_offsets(log: LogEnd, wanted: Wanted) -> Array:
    least = max(log.soft_m, PITH_M) + KERF_M / 2
    return np.array(sorted({max(least, wanted.plank_m / 2) + more for more in SLABS_M}))


def plans(log: LogEnd, wanted: Wanted | None = None, cut_off_m: float = 0.0) -> tuple[Plan, ...]:
    """The best ways to cut a log into bowls: the largest, the most, the safest; those that come to the same are given once. None where no
    bowl comes out.

    Args:
        cut_off_m: what each end is to lose in any case, in metres (:func:`wood.turning.logs.lost_at_end_m`).
    Raises:
        OutOfRange: nothing is left of the log.

    >>> result = plans(LogEnd(0.4, 0.4, 0.5))
    >>> result[0].kind.value, len(result[0].blanks), 0.28 < result[0].largest_m < 0.4
    ('largest', 2, True)
    """
    wanted = wanted or Wanted()
    check_range("cut_off_m", cut_off_m, 0.0, max(log.length_m / 2 - 0.005, 0.0), " m")
    result: list[Plan] = []
    for kind in (Kind.LARGEST, Kind.MOST, Kind.SAFEST):
        sought = replace(wanted, margin_m=max(SAFE_MARGIN_M, 2 * wanted.margin_m)) if kind is Kind.SAFEST else wanted
        if kind is not Kind.MOST:
            coarse = grown(
                log,
                sought,
                np.arange(ANGLES) * 180.0 / ANGLES,
                np.tile(_pith_offsets(log, sought), (2, 1))[None],
                np.linspace(-0.8, 0.8, PLACES),
            )
        best = _best(log, sought, coarse, kind, cut_off_m)
        if best is None:
            continue
        fine_angles = (best.cuts.angle_deg + np.array([-4.0, -2.0, 0.0, 2.0, 4.0])) % 180.0
        offsets = np.array([[best.cuts.upper_m], [best.cuts.lower_m]])[None]
        fine = grown(log, sought, fine_angles, offsets, np.linspace(-0.85, 0.85, 2 * PLACES + 1))
        better = _best(log, sought, fine, kind, cut_off_m)
        best = better or best
        if not any(_alike(best, other) for other in result):
            result.append(best)
    return tuple(result)


def _alike(plan: Plan, other: Plan) -> bool:
    turned = abs(plan.cuts.angle_deg - other.cuts.angle_deg) % 180
    return (
        min(turned, 180 - turned) < 3
        and plan.bowls == other.bowls
        and abs(plan.largest_m - other.largest_m) < 0.004
        and plan.cut_off == other.cut_off
    )


def _best(log: LogEnd, wanted: Wanted, growth: Grown, kind: Kind, cut_off_m: float) -> Plan | None:
    """The best plan of a search, over what is cut off first."""
    best: tuple[float, float] = (0.0, 0.0)
    chosen: tuple[Any, ...] | None = None
    for cut_off, left in _cut_off_choices(log, cut_off_m):
        usable = log.length_m - 2 * cut_off
        size = growth.bare
        if left.any():
            size = np.minimum(size, growth.by_check[left].min(axis=0))
        size = np.minimum(size, max(usable - OVER_M, 0.0))
        worth = np.where(size >= wanted.least_m, size**3 * np.array([_depth(wanted, height) for height in growth.heights]), 0.0)
        # The best place, height and slab in each half at each angle.
        flat = worth.reshape(worth.shape[0], 2, -1)
        where = flat.argmax(axis=2)
        most = np.take_along_axis(flat, where[..., None], axis=2)[..., 0]
        for k in range(most.shape[0]):
            row = [
                _row(usable, float(size[k, half].ravel()[where[k, half]]), wanted.least_m) if most[k, half] > 0 else (0, 0.0)
                for half in (0, 1)
            ]
            counts = sum(count for count, _ in row)
            if not counts:
                continue
            score = (
                (float(most[k].max()), float(most[k].sum()))
                if kind is Kind.LARGEST
                else ((float(counts), float(most[k].sum())) if kind is Kind.MOST else (float(most[k].sum()), float(counts)))
            )
            if score > best:
                best, chosen = score, (cut_off, left, usable, k, where[k], row, size)
    if chosen is None:
        return None
    cut_off, left, usable, k, where, rows, size = chosen
    shape = size.shape[2:]
    spots = [np.unravel_index(int(where[half]), shape) for half in (0, 1)]
    cuts = Cuts(float(growth.angles[k]), *(float(growth.offsets[k, half, spots[half][0]]) for half in (0, 1)))
    blanks = []
    for half in (0, 1):
        count, width = rows[half]
        if kind is Kind.LARGEST and count:
            width = float(size[k, half][spots[half]])
            count = max(1, int((usable + 1e-9) // (width + OVER_M)))
        if count:
            v, p, h = spots[half]
            blanks.append(_blank(log, wanted, cuts, half == 0, float(growth.places[k, half, v, p]), width, growth.heights[h], count, left))
    removed = tuple(int(n) for n in np.flatnonzero(~left))
    return Plan(kind, cuts, tuple(blanks), _planks(log, cuts, np.flatnonzero(left)), cut_off, usable, removed)


def _depth(wanted: Wanted, height: float) -> float:
    return float(profile(wanted.shape, height, wanted.rim)[:, 1].max())


def along_cuts(log: LogEnd, cuts: Cuts, wanted: Wanted | None = None, cut_off_m: float = 0.0) -> Plan:
    """What comes out of a log along given cuts: the largest blanks there, or those of the size insisted on, with the checks they would
    hold.

    Args:
        cuts: angle 0…180°, each cut −1…1 m from the pith; cut_off_m: from each end, as it is to be.
    Raises:
        OutOfRange.

    >>> log = LogEnd(0.4, 0.4, 0.5)
    >>> across = along_cuts(log, Cuts(0.0, 0.03, 0.03))
    >>> across.bowls, across.blanks[0].is_dangerous
    (2, False)
    """
    wanted = wanted or Wanted()
    check_range("angle_deg", cuts.angle_deg, -360.0, 360.0, "°")
    check_range("upper_m", cuts.upper_m, -1.0, 1.0, " m")
    check_range("lower_m", cuts.lower_m, -1.0, 1.0, " m")
    check_range("slab_m", cuts.slab_m, 0.0, 2.0, " m")
    check_range("cut_off_m", cut_off_m, 0.0, max(log.length_m / 2 - 0.005, 0.0), " m")
    result = grown(
        log, wanted, np.array([cuts.angle_deg]), np.array([[cuts.upper_m], [cuts.lower_m]])[None], np.linspace(-0.9, 0.9, 2 * PLACES + 1)
    )
    left = log.left(cut_off_m)
    usable = log.length_m - 2 * cut_off_m
    size = np.minimum(result.bare, result.by_check[left].min(axis=0)) if left.any() else result.bare
    size = np.minimum(size, max(usable - OVER_M, 0.0))
    blanks = []
    for half in (0, 1):
        free = size[0, half, 0]
        worth = free**3 * np.array([_depth(wanted, height) for height in result.heights])
        p, h = (int(item) for item in np.unravel_index(int(worth.argmax()), worth.shape))
        width = float(free[p, h])
        if wanted.diameter_m is not None:
            width, p, h = _insisted(wanted, result.bare[0, half, 0], free)
        if width < (wanted.least_m if wanted.diameter_m is None else 0.03):
            continue
        count = max(1, int((usable + 1e-9) // (width + OVER_M)))
        blanks.append(_blank(log, wanted, cuts, half == 0, float(result.places[0, half, 0, p]), width, result.heights[h], count, left))
    removed = tuple(int(n) for n in np.flatnonzero(~left))
    return Plan(Kind.OWN, cuts, tuple(blanks), _planks(log, cuts, np.flatnonzero(left)), cut_off_m, usable, removed)


def _insisted(wanted: Wanted, bare: Array, free: Array) -> tuple[float, int, int]:
    """A blank of the size insisted on where it fits the wood, as free of checks as there is a place for it; else the largest that fits at
    all.
    """
    assert wanted.diameter_m is not None
    fits = bare >= wanted.diameter_m
    if not fits.any():
        p, h = np.unravel_index(int(bare.argmax()), bare.shape)
        return float(bare[p, h]), int(p), int(h)
    p, h = np.unravel_index(int(np.where(fits, free, -1.0).argmax()), free.shape)
    return wanted.diameter_m, int(p), int(h)
