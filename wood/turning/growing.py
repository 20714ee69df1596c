"""How large a shape may grow beside checks: for many angles, slabs, places along the cut and heights at once (see the head of
:mod:`wood.turning.cuts`). Source: geometry.
"""

from dataclasses import dataclass, field

import numpy as np

from wood.arrays import Array
from wood.turning.blanks import BARK_M, FAR, Wanted, profile
from wood.turning.cuts_kernel import up_to
from wood.turning.logs import LogEnd


@dataclass(frozen=True)
class Grown:
    """How large a shape may grow: by angle, half, slab, place along the cut and height; without any check, and up to each of them."""

    angles: Array
    offsets: Array
    places: Array
    heights: tuple[float, ...]
    bare: Array
    by_check: Array = field(repr=False)


def grown(log: LogEnd, wanted: Wanted, angles: Array, offsets: Array, places: Array) -> Grown:
    """How large what is wanted may grow in a log.

    Args:
        angles: (A,) degrees; offsets: (A or 1, 2, V) m from the pith; places: (P,) as shares of the chord from its middle, −1…1.
    """
    turn = np.radians(angles)
    cos, sin = np.cos(turn)[:, None], np.sin(turn)[:, None]
    half_w, half_h = log.width_m / 2 - BARK_M, log.height_m / 2 - BARK_M
    shapes = [profile(wanted.shape, height, wanted.rim) for height in wanted.heights]
    offsets = np.broadcast_to(offsets, (angles.size, 2, offsets.shape[-1]))
    side = np.array([1.0, -1.0])[None, :, None]
    # Where each cut line enters and leaves the bark, and so its bases along it: (A, 2, V, P) in x and y.
    along_x, along_y = cos[:, :, None] * np.ones_like(offsets), sin[:, :, None] * np.ones_like(offsets)
    away_x, away_y = -sin[:, :, None] * side, cos[:, :, None] * side
    foot_x, foot_y = log.pith_x_m + away_x * offsets, log.pith_y_m + away_y * offsets
    a = (along_x / half_w) ** 2 + (along_y / half_h) ** 2
    b = along_x * foot_x / half_w**2 + along_y * foot_y / half_h**2
    c = (foot_x / half_w) ** 2 + (foot_y / half_h) ** 2 - 1
    root = np.sqrt(np.maximum(b**2 - a * c, 0.0))
    inside = b**2 - a * c > 0
    middle, reach = -b / a, root / a
    u = middle[..., None] + reach[..., None] * places
    base_x, base_y = foot_x[..., None] + along_x[..., None] * u, foot_y[..., None] + along_y[..., None] * u
    bare = np.empty((*u.shape, len(shapes)))
    obstacles = log.obstacles()
    points = np.ascontiguousarray(np.concatenate([obstacle for obstacle, _ in obstacles])) if obstacles else np.empty((0, 2))
    begins = np.cumsum([0, *(obstacle.shape[0] for obstacle, _ in obstacles)])
    offsets, u = np.array(offsets), np.array(u)
    by_check = np.full((len(obstacles), *u.shape, len(shapes)), FAR)
    for h, shape in enumerate(shapes):
        size = np.full(u.shape, FAR)
        for across, up in shape:
            dx = along_x[..., None] * across + away_x[..., None] * up
            dy = along_y[..., None] * across + away_y[..., None] * up
            aa = (dx / half_w) ** 2 + (dy / half_h) ** 2
            bb = base_x * dx / half_w**2 + base_y * dy / half_h**2
            cc = (base_x / half_w) ** 2 + (base_y / half_h) ** 2 - 1
            if aa.max() > 0:
                size = np.minimum(
                    size, np.where(aa > 1e-12, (-bb + np.sqrt(np.maximum(bb**2 - aa * cc, 0.0))) / np.maximum(aa, 1e-12), FAR)
                )
        bare[..., h] = np.where(inside[..., None], np.maximum(size, 0.0), 0.0)
        normals, distances = edges(shape)
        if obstacles:
            result = np.empty(by_check.shape[:-1])
            up_to(points, begins, log.pith_x_m, log.pith_y_m, turn, offsets, u, normals, distances, wanted.margin_m, FAR, result)
            by_check[..., h] = result
    return Grown(angles, offsets, u, wanted.heights, bare, by_check)


def edges(shape: Array) -> tuple[Array, Array]:
    """Outward unit normals of a shape's edges and their distances from the origin, without the edges that it stands on."""
    edge = np.roll(shape, -1, axis=0) - shape
    normal = np.column_stack([edge[:, 1], -edge[:, 0]]) / np.hypot(edge[:, 0], edge[:, 1])[:, None]
    distance = np.sum(normal * shape, axis=1)
    saved = distance > 1e-3
    return normal[saved], distance[saved]
