"""Squares for spindles and boxes in a log: the most of a size, pith and checks left out.

Source: geometry, tried at nine angles and sixteen places of the grid.
"""

import math
from collections.abc import Sequence

import numpy as np

from wood.arrays import Array
from wood.errors import check_range
from wood.turning.blanks import BARK_M, KERF_M, LEAST_SQUARE_M, MARGIN_M, PITH_M, Square
from wood.turning.logs import SPACING_M, LogEnd, Trunk, along


def squares(
    log: LogEnd,
    side_m: float,
    margin_m: float = MARGIN_M,
    cut_off_m: float = 0.0,
    taken: Sequence[Array] = (),
    angle_deg: float | None = None,
) -> tuple[float, tuple[Square, ...]]:
    """The most squares of a size that a log gives for spindles or boxes, pith and checks left out: the angle they lie at (degrees) and
    their middles.

    Args:
        side_m: 10 mm…0.5 m, with a saw's kerf between them; taken: outlines on the end, convex, (n, 2), that they keep a kerf away from;
        angle_deg: the only angle they may lie at, where it is given.
    Raises:
        OutOfRange.

    >>> angle, result = squares(LogEnd(0.3, 0.3, 0.5), 0.06)
    >>> len(result) >= 8
    True
    """
    check_range("side_m", side_m, 0.01, 0.5, " m")
    pitch = side_m + KERF_M / 2
    half_w, half_h = log.width_m / 2 - BARK_M, log.height_m / 2 - BARK_M
    reach = math.ceil(max(log.width_m, log.height_m) / pitch) + 1
    grid = np.arange(-reach, reach + 1) * pitch
    left = log.left(cut_off_m)
    points = [obstacle for (obstacle, _), stays in zip(log.obstacles(), left, strict=True) if stays]
    kept = [(item, margin_m) for item in points] + [(np.array([pith]), max(log.soft_m, PITH_M)) for pith in log.piths]
    kept += [(_filled(outline, min(side_m, LEAST_SQUARE_M) / 2), KERF_M / 2) for outline in taken]
    if log.trunk is Trunk.BURL:
        # There is nothing below its flat.
        flat = np.arange(-half_w, half_w, SPACING_M)
        kept.append((np.column_stack([flat, np.zeros(flat.size)]), 0.0))
    flaws = np.concatenate([item for item, _ in kept]) if kept else np.empty((0, 2))
    clear = np.concatenate([np.full(item.shape[0], off) for item, off in kept]) if kept else np.empty(0)
    best: tuple[int, float, tuple[Square, ...]] = (0, 0.0, ())
    corners = np.array([(-1, -1), (1, -1), (1, 1), (-1, 1)]) * side_m / 2
    for angle in range(0, 90, 10) if angle_deg is None else (angle_deg % 90.0,):
        cos, sin = math.cos(math.radians(angle)), math.sin(math.radians(angle))
        turned = np.column_stack([flaws[:, 0] * cos + flaws[:, 1] * sin, -flaws[:, 0] * sin + flaws[:, 1] * cos])
        pith = (log.pith_x_m * cos + log.pith_y_m * sin, -log.pith_x_m * sin + log.pith_y_m * cos)
        for du in (0.0, 0.25, 0.5, 0.75):
            for dv in (0.0, 0.25, 0.5, 0.75):
                u, v = (axis.ravel() for axis in np.meshgrid(grid + du * pitch + pith[0], grid + dv * pitch + pith[1]))
                fits = np.ones(u.size, bool)
                for a, b in corners:
                    x, y = (u + a) * cos - (v + b) * sin, (u + a) * sin + (v + b) * cos
                    fits &= (x / half_w) ** 2 + (y / half_h) ** 2 <= 1
                    if log.trunk is Trunk.BURL:
                        fits &= y >= 0
                u, v = u[fits], v[fits]
                if u.size <= best[0]:
                    continue
                away_u = np.maximum(np.abs(turned[:, 0] - u[:, None]) - side_m / 2, 0.0)
                away_v = np.maximum(np.abs(turned[:, 1] - v[:, None]) - side_m / 2, 0.0)
                good = np.all(np.hypot(away_u, away_v) >= clear, axis=1)
                if good.sum() > best[0]:
                    middles = tuple(
                        Square(float(p * cos - q * sin), float(p * sin + q * cos)) for p, q in zip(u[good], v[good], strict=True)
                    )
                    best = (int(good.sum()), float(angle), middles)
    return best[1], best[2]


def _filled(outline: Array, spacing_m: float) -> Array:
    """A convex outline as points all over it, not farther apart than a spacing."""
    closed = along(tuple(map(tuple, np.concatenate([outline, outline[:1]]))))
    low, high = outline.min(axis=0), outline.max(axis=0)
    x, y = (axis.ravel() for axis in np.meshgrid(*(np.arange(low[k], high[k], spacing_m) for k in (0, 1))))
    edge = np.roll(outline, -1, axis=0) - outline
    side = edge[:, 0] * (y[:, None] - outline[:, 1]) - edge[:, 1] * (x[:, None] - outline[:, 0])
    inside = np.all(side >= 0, axis=1) | np.all(side <= 0, axis=1)
    return np.concatenate([closed, np.column_stack([x, y])[inside]])
