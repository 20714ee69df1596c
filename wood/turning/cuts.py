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
from wood.turning.logs import Flags, LogEnd, Trunk
from wood.turning.squares import squares

ANGLES, PLACES, SLABS_M = 24, 17, (0.0, 0.008, 0.018, 0.034)
# A cutter of a coring tool takes so much, and leaves a wall of a tenth.
CORER_M, CORED_FROM_M = 0.010, 0.26
MOST_CUT_OFF, MOST_IN_A_ROW = 4, 39
ORDINARY_HEIGHT, BAND, ROW_SIZES = 0.36, 0.04, 600
# From where on a pith counts as off centre, as a share of the way to the bark; squares that are looked for beside bowls.
OFF_CENTRE, REST_SQUARE_M = 0.15, 0.04


def _cut_off_choices(log: LogEnd, least_m: float) -> list[tuple[float, Flags]]:
    """What may be cut off each checked end first, and which obstacles are then left to go round: all, or all but the shallow ones."""
    obstacles = log.obstacles()
    depths = np.array([np.inf if depth is None else depth for _, depth in obstacles])
    choices = {least_m} | {float(depth) for depth in np.unique(depths[np.isfinite(depths)]) if least_m < depth < 0.4 * log.length_m}
    return [(choice, log.left(choice)) for choice in sorted(choices)[:MOST_CUT_OFF]]


def _other_off(log: LogEnd, cut_off_m: float, least_m: float) -> float:
    """What is cut off the other end: as much where it is checked as well, else what it has lost in any case."""
    return cut_off_m if log.both_ends else min(least_m, cut_off_m)


def _most(usable_m: float, largest_m: float, least_m: float) -> tuple[int, float]:
    """How many bowls no smaller than the least come from a half of a length, and how wide they may be."""
    if largest_m < least_m:
        return 0, 0.0
    count = max(int((usable_m + 1e-9) // (least_m + OVER_M)), 0)
    return count, min(largest_m, usable_m / count - OVER_M) if count else 0.0


def _row(usable_m: float, largest_m: float, least_m: float) -> tuple[int, float]:
    """How many bowls of one size come from a half of a length, and how wide: the more wood in all, the better."""
    best = (0, 0.0)
    worth = 0.0
    for count in range(1, MOST_IN_A_ROW + 1):
        width = min(largest_m, usable_m / count - OVER_M)
        if width < least_m:
            break
        if count * width**3 > worth:
            best, worth = (count, width), count * width**3
    return best


def _planks(log: LogEnd, cuts: Cuts, left: Iterable[int]) -> tuple[Plank, ...]:
    """The quartered planks of the slab on both sides of the pith, each from its tight rings to the bark or to the first check."""
    turn = math.radians(cuts.angle_deg)
    cos, sin = math.cos(turn), math.sin(turn)
    half_w, half_h = log.width_m / 2 - BARK_M, log.height_m / 2 - BARK_M
    if log.trunk is not Trunk.ROUND:
        return ()
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
    if log.trunk is Trunk.BURL:
        return np.array([0.0])
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
    across = min(log.width_m, log.height_m)
    for kind in (Kind.LARGEST, Kind.MOST, Kind.SAFEST, *([Kind.BALANCED] if log.off_centre > OFF_CENTRE else [])):
        sought = replace(wanted, margin_m=max(SAFE_MARGIN_M, 2 * wanted.margin_m)) if kind is Kind.SAFEST else wanted
        if kind is not Kind.MOST:
            angles = _angles(log, kind)
            coarse = grown(log, sought, angles, np.tile(_pith_offsets(log, sought), (2, 1))[None], np.linspace(-0.8, 0.8, PLACES))
        best = _best(log, sought, coarse, kind, cut_off_m)
        if best is None:
            continue
        fine_angles = (best.cuts.angle_deg + (np.array([-4.0, -2.0, 0.0, 2.0, 4.0]) if angles.size > 1 else np.zeros(1))) % 180.0
        offsets = np.array([[best.cuts.upper_m], [best.cuts.lower_m]])[None]
        fine = grown(log, sought, fine_angles, offsets, np.linspace(-0.85, 0.85, 2 * PLACES + 1))
        better = _best(log, sought, fine, kind, cut_off_m)
        best = _with_squares(log, better if better is not None and _value(better, kind, across) >= _value(best, kind, across) else best)
        if not any(_alike(best, other) for other in result):
            result.append(best)
    return tuple(result)


def _angles(log: LogEnd, kind: Kind) -> Array:
    """The angles that are tried: all round, but a crotch is cut through both its piths, a burl along its flat, and rings lie alike on both
    sides of a bowl where the cut runs square to the line from the middle to the pith.
    """
    if log.trunk is Trunk.CROTCH:
        return np.array([log.crotch_deg])
    if log.trunk is Trunk.BURL:
        return np.zeros(1)
    if kind is Kind.BALANCED:
        return np.array([(math.degrees(math.atan2(log.pith_y_m, log.pith_x_m)) + 90.0) % 180.0])
    return np.arange(ANGLES) * 180.0 / ANGLES


def _value(plan: Plan, kind: Kind, band_of_m: float = 0.4) -> tuple[float, float]:
    """What a plan is worth by what it is to be best at."""
    volume = sum(blank.volume_m3 for blank in plan.blanks)
    if kind is Kind.MOST:
        return float(plan.bowls), volume
    return (volume, float(plan.bowls)) if kind is Kind.SAFEST else (plan.largest_m // (BAND * band_of_m), volume)


def _with_squares(log: LogEnd, plan: Plan, side_m: float = REST_SQUARE_M) -> Plan:
    """A plan with the squares that are left beside its bowls and its planks."""
    turn = math.radians(plan.cuts.angle_deg)
    along, up = np.array([math.cos(turn), math.sin(turn)]), np.array([-math.sin(turn), math.cos(turn)])
    pith = np.array([log.pith_x_m, log.pith_y_m])
    taken = [blank.outline for blank in plan.blanks]
    low, high = -plan.cuts.lower_m, plan.cuts.upper_m
    for plank in plan.planks:
        corners = ((plank.from_m, low), (plank.to_m, low), (plank.to_m, high), (plank.from_m, high))
        taken.append(np.array([pith + u * along + v * up for u, v in corners]))
    _angle, found = squares(log, side_m, cut_off_m=plan.cut_off_m, taken=taken, angle_deg=plan.cuts.angle_deg)
    return replace(plan, squares=found, side_m=side_m)


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
    # Bowls that differ by less count as equally wide.
    band = BAND * min(log.width_m, log.height_m)
    for cut_off, left in _cut_off_choices(log, cut_off_m):
        usable = log.length_m - cut_off - _other_off(log, cut_off, cut_off_m)
        size = growth.bare
        if left.any():
            size = np.minimum(size, growth.by_check[left].min(axis=0))
        size = np.minimum(size, max(usable - OVER_M, 0.0))
        if kind is Kind.MOST:
            # As many as there are of the least; where there is room for more of each, they grow to what their length leaves them.
            size = np.minimum(size, _most(usable, FAR, wanted.least_m)[1])
        worth = np.where(size >= wanted.least_m, _worth(wanted, growth, kind, size, usable), 0.0)
        if log.trunk is Trunk.BURL:
            worth[:, 1] = 0.0
        # The best place, height and slab in each half at each angle.
        flat = worth.reshape(worth.shape[0], 2, -1)
        where = flat.argmax(axis=2)
        most = np.take_along_axis(flat, where[..., None], axis=2)[..., 0]
        for k in range(most.shape[0]):
            row = [
                _count(kind, usable, float(size[k, half].ravel()[where[k, half]]), wanted.least_m, band) if most[k, half] > 0 else (0, 0.0)
                for half in (0, 1)
            ]
            counts, whole = float(sum(count for count, _ in row)), float(most[k].sum())
            if not counts:
                continue
            wide = float(most[k].max() // band), sum(count * width**3 for count, width in row)
            score = {Kind.MOST: (counts, whole), Kind.SAFEST: (whole, counts)}.get(kind, wide)
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
        if count:
            v, p, h = spots[half]
            # As deep as the half itself is there.
            deeper = [int(item) for item in np.flatnonzero(size[k, half, v, p] >= width - 1e-9) if item > h]
            height = growth.heights[max([int(h), *deeper])]
            blanks.append(_blank(log, wanted, cuts, half == 0, float(growth.places[k, half, v, p]), width, height, count, left))
    removed = tuple(int(n) for n in np.flatnonzero(~left))
    planks, other = _planks(log, cuts, np.flatnonzero(left)), _other_off(log, cut_off, cut_off_m)
    return Plan(kind, cuts, tuple(blanks), planks, cut_off, usable, removed, other)


def _worth(wanted: Wanted, growth: Grown, kind: Kind, size: Array, usable_m: float) -> Array:
    """What blanks that may grow so large are worth, by what a plan is to be best at: how wide they are, or how much wood they hold."""
    depths = np.array([_depth(wanted, height) for height in growth.heights])
    if kind in (Kind.LARGEST, Kind.BALANCED):
        # A bowl of ordinary depth, and the deeper of two as wide.
        worth = np.where(np.array(growth.heights) >= min(ORDINARY_HEIGHT, max(growth.heights)), size * (1 + 1e-6 * depths), 0.0)
        # Right over the pith, and nowhere else, the rings lie alike on both sides.
        return worth if kind is Kind.LARGEST else np.where(np.abs(growth.places)[..., None] < 0.02, worth, 0.0)
    if kind is Kind.MOST:
        return size**3 * depths
    # What a row holds hangs on the size alone: looked up.
    sizes = np.linspace(0.0, usable_m, ROW_SIZES)
    rows = np.zeros(sizes.size)
    for count in range(1, min(int(usable_m / wanted.least_m), MOST_IN_A_ROW) + 1):
        rows = np.maximum(rows, count * np.maximum(np.minimum(sizes, usable_m / count - OVER_M), 0.0) ** 3)
    return np.interp(size, sizes, rows) * depths


def _count(kind: Kind, usable_m: float, size_m: float, least_m: float, band_m: float) -> tuple[int, float]:
    """How many blanks come from a half, and how wide they are; of the largest one more where a band of width buys it."""
    if kind is Kind.MOST:
        return _most(usable_m, size_m, least_m)
    if kind is Kind.SAFEST:
        return _row(usable_m, size_m, least_m)
    count = max(1, int((usable_m + 1e-9) // (max(size_m - band_m, least_m) + OVER_M)))
    return count, min(size_m, usable_m / count - OVER_M)


def _depth(wanted: Wanted, height: float) -> float:
    return float(profile(wanted.shape, height, wanted.rim)[:, 1].max())


def along_cuts(log: LogEnd, cuts: Cuts, wanted: Wanted | None = None, cut_off_m: float = 0.0, other_off_m: float = 0.0) -> Plan:
    """What comes out of a log along given cuts: the largest blanks there, or those of the size insisted on, with the checks they would
    hold.

    Args:
        cuts: angle 0…180°, each cut −1…1 m from the pith; cut_off_m: from the checked end, as it is to be; other_off_m: from the
        other, where that is not checked.
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
    other = cut_off_m if log.both_ends else min(other_off_m, cut_off_m)
    usable = log.length_m - cut_off_m - other
    size = np.minimum(result.bare, result.by_check[left].min(axis=0)) if left.any() else result.bare
    size = np.minimum(size, max(usable - OVER_M, 0.0))
    blanks = []
    for half in (0,) if log.trunk is Trunk.BURL else (0, 1):
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
    return _with_squares(
        log, Plan(Kind.OWN, cuts, tuple(blanks), _planks(log, cuts, np.flatnonzero(left)), cut_off_m, usable, removed, other)
    )


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
