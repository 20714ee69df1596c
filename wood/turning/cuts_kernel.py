"""The compiled inside of :mod:`wood.turning.cuts`: how large shapes may grow beside checks. Source: geometry."""

import math

import numpy as np
from numba import njit

compiled = njit(cache=True, nogil=True, error_model="numpy")


@compiled
def up_to(points, begins, pith_x, pith_y, turns, offsets, places, normals, distances, margin, far, result):
    """Fill ``result`` (obstacle, angle, half, slab, place): the size a shape may grow to until one of its edges is a margin away from a
    point.

    ``points`` (n, 2) lie obstacle after obstacle, each from ``begins[k]`` to ``begins[k + 1]``. A point below the cut line by more than the
    margin hinders nothing above it.
    """
    edges = distances.size
    for a in range(turns.size):
        cos, sin = math.cos(turns[a]), math.sin(turns[a])
        for k in range(begins.size - 1):
            for half in range(2):
                side = 1.0 if half == 0 else -1.0
                for slab in range(offsets.shape[2]):
                    for place in range(places.shape[3]):
                        size = far
                        for n in range(begins[k], begins[k + 1]):
                            x, y = points[n, 0] - pith_x, points[n, 1] - pith_y
                            up = (-x * sin + y * cos) * side - offsets[a, half, slab]
                            if up < -margin:
                                continue
                            across = x * cos + y * sin - places[a, half, slab, place]
                            grown = 0.0
                            for e in range(edges):
                                along = (normals[e, 0] * across + normals[e, 1] * up - margin) / distances[e]
                                if along > grown:
                                    grown = along
                                    if grown >= size:
                                        break
                            if grown < size:
                                size = grown
                        result[k, a, half, slab, place] = size


def warm() -> None:
    """Compile, or load from the cache."""
    first = np.zeros((1, 2, 1, 1))
    up_to(
        np.zeros((1, 2)),
        np.array([0, 1]),
        0.0,
        0.0,
        np.zeros(1),
        first[..., 0],
        first,
        np.ones((1, 2)),
        np.ones(1),
        0.0,
        1.0,
        np.zeros((1, 1, 2, 1, 1)),
    )
