"""The end-grain section: how a piece changes shape as it dries, from the geometry of its growth rings.

In polar coordinates about the pith a point (r, φ) goes to (r·k_R, φ·k_T/k_R), with k_R and k_T the radial and tangential
size ratios. Locally that stretches by k_R along the radius and by k_T along the ring, everywhere, so it is the exact
stress-free shape of any piece that does not enclose the pith; cup, diamond and oval follow from it. A piece that encloses the pith cannot
close again: it opens a split from the pith to its nearest face, 2π·(1 − k_T/k_R) in total. When such a piece swells there is nothing to
open and the rings press on each other: it is drawn grown by √(k_R·k_T) all round, which keeps its area (our judgement).

Coordinates in metres: x along the width, y through the thickness, the origin in the middle of the green piece.
"""

import itertools
import math
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from wood.arrays import Array
from wood.errors import check_range
from wood.movement.shrinkage import Shrinkage, remaining

SIZE_M = (0.0005, 3.0)
PITH_M = 5.0
# Enough for a smooth arc, few enough to be drawn at every move of a hand.
RING_POINTS = 48


@dataclass(frozen=True)
class Section:
    """A piece before and after. Outlines and rings are (n, 2) arrays in metres; ``after`` lies with its centre on the origin.

    ``width_m``, ``thickness_m`` are measured across the middle after settling; ``flat_thickness_m`` is what stays when both faces
    are flattened; ``cup_m`` is the hollow over the width, positive on the bark side; ``diamond_m`` the difference of the
    diagonals; ``split_rad`` the total angle of the split (0 where the pith lies outside).
    """

    green: np.ndarray
    after: np.ndarray
    green_rings: tuple[np.ndarray, ...]
    rings: tuple[np.ndarray, ...]
    width_m: float
    thickness_m: float
    flat_thickness_m: float
    cup_m: float
    diamond_m: float
    split_rad: float
    ring_angle_deg: float
    encloses_pith: bool
    bark_side_up: bool


def ring_angle_deg(pith_x_m: float, pith_y_m: float) -> float:
    """The angle between the rings and the wide face at the middle of the piece: 0 flat-sawn … 90 quarter-sawn.

    Raises:
        OutOfRange: pith_x_m −PITH_M…PITH_M m, pith_y_m −PITH_M…PITH_M m.

    >>> ring_angle_deg(0.0, -0.2), ring_angle_deg(0.2, 0.0)
    (0.0, 90.0)
    """
    check_range("pith_x_m", pith_x_m, -PITH_M, PITH_M, " m")
    check_range("pith_y_m", pith_y_m, -PITH_M, PITH_M, " m")
    return math.degrees(math.atan2(abs(pith_x_m), abs(pith_y_m)))


def pith_for(ring_angle: float, distance_m: float) -> tuple[float, float]:
    """Where the pith lies for a ring angle (0…90°) and a distance from the middle: below the piece, to the left.

    Raises:
        OutOfRange: ring_angle_deg 0…90°, distance_m 0…PITH_M m.

    >>> x, y = pith_for(90, 0.15)
    >>> round(x, 3), abs(round(y, 3))
    (-0.15, 0.0)
    """
    check_range("ring_angle_deg", ring_angle, 0.0, 90.0, "°")
    check_range("distance_m", distance_m, 0.0, PITH_M, " m")
    angle = math.radians(ring_angle)
    return -distance_m * math.sin(angle), -distance_m * math.cos(angle)


def size_ratios(shrinkage: Shrinkage, moisture_from: float, moisture_to: float) -> tuple[float, float]:
    """(k_R, k_T): radial and tangential size after over size before."""
    radial, tangential = (
        float(remaining(s, moisture_to, shrinkage.fibre_saturation) / remaining(s, moisture_from, shrinkage.fibre_saturation))
        for s in (shrinkage.radial, shrinkage.tangential)
    )
    return radial, tangential


def total_split_rad(k_radial: float, k_tangential: float) -> float:
    """The split that a round with its pith opens: 2π·(1 − k_T/k_R), which is 2π·(s_T − s_R)/(1 − s_R) from green. 0 on swelling.

    Raises:
        OutOfRange: k_radial 0.5…1.5, k_tangential 0.5…1.5.
    """
    check_range("k_radial", k_radial, 0.5, 1.5)
    check_range("k_tangential", k_tangential, 0.5, 1.5)
    return max(0.0, 2 * math.pi * (1 - k_tangential / k_radial))


def _turn(points: np.ndarray, pith: complex, axis: complex) -> tuple[np.ndarray, np.ndarray]:
    """Radius and angle of points about the pith, the angle counted from ``axis``."""
    z = (points[:, 0] + 1j * points[:, 1] - pith) / axis
    return np.abs(z), np.angle(z)


def _place(r: np.ndarray, phi: np.ndarray, frame: "_Frame") -> np.ndarray:
    z = frame.k_radial * r * np.exp(1j * phi * frame.turn) * frame.axis - frame.origin
    return np.column_stack([z.real, z.imag])


def rectangle(width_m: float, thickness_m: float, points_per_side: int = 48) -> np.ndarray:
    """The outline of a board, anticlockwise from its lower left corner, corners included, dense enough for a smooth bend.

    Raises:
        OutOfRange: width_m :data:`SIZE_M` m, thickness_m :data:`SIZE_M` m, points_per_side 1…10000.
    """
    check_range("width_m", width_m, *SIZE_M, " m")
    check_range("thickness_m", thickness_m, *SIZE_M, " m")
    check_range("points_per_side", points_per_side, 1, 10_000)
    w, t = width_m / 2, thickness_m / 2
    corners = np.array([(-w, -t), (w, -t), (w, t), (-w, t), (-w, -t)])
    steps = np.linspace(0, 1, points_per_side, endpoint=False)[:, None]
    return np.concatenate([a + (b - a) * steps for a, b in itertools.pairwise(corners)])


def disc(diameter_m: float, points: int = 256) -> np.ndarray:
    """The outline of a round.

    Args:
        diameter_m: 0.5 mm…3 m; points: 3…100 000.
    Raises:
        OutOfRange: diameter_m :data:`SIZE_M` m, points 3…100000.
    """
    check_range("diameter_m", diameter_m, *SIZE_M, " m")
    check_range("points", points, 3, 100_000)
    angle = np.linspace(0, 2 * math.pi, points, endpoint=False)
    return diameter_m / 2 * np.column_stack([np.cos(angle), np.sin(angle)])


def settle_outline(outline: np.ndarray, pith_x_m: float, pith_y_m: float, k_radial: float, k_tangential: float) -> tuple[np.ndarray, float]:
    """Any convex outline about the origin after settling, and the angle of the split it opens.

    Args:
        outline: (n, 2), anticlockwise; k_radial, k_tangential: size ratios, 0.5…1.5.
    Returns:
        The outline afterwards, its centre on the origin; where the pith lies inside and the piece shrinks, it runs
        from the split's one lip round to the other and back through the pith.
    Raises:
        OutOfRange: k_radial 0.5…1.5, k_tangential 0.5…1.5, pith_x_m −PITH_M…PITH_M m, pith_y_m −PITH_M…PITH_M m.
    """
    check_range("k_radial", k_radial, 0.5, 1.5)
    check_range("k_tangential", k_tangential, 0.5, 1.5)
    check_range("pith_x_m", pith_x_m, -PITH_M, PITH_M, " m")
    check_range("pith_y_m", pith_y_m, -PITH_M, PITH_M, " m")
    if pith_x_m == 0 and pith_y_m == 0:
        # A pith exactly in the middle has no direction; a hair beside it has.
        pith_y_m = -1e-9
    frame = _frame(outline, pith_x_m, pith_y_m, k_radial, k_tangential)
    r, phi = _turn(outline, frame.pith, frame.axis)
    if not frame.split_rad:
        return _place(r, phi, frame), 0.0
    order = np.argsort(phi)
    r, phi = r[order], phi[order]
    # Both lips of the split start at the same point of the face, which lies on the cut ray behind the axis.
    lip = np.interp(math.pi, [phi[-1], phi[0] + 2 * math.pi], [r[-1], r[0]])
    r, phi = np.concatenate([[lip], r, [lip, 0.0]]), np.concatenate([[-math.pi], phi, [math.pi, 0.0]])
    return _place(r, phi, frame), frame.split_rad


@dataclass(frozen=True)
class _Frame:
    """How a piece moves: the pith, the unit direction from which angles are counted, the radial ratio, the ratio of angles, the angle of
    the split, and the point that comes to lie on the origin."""

    pith: complex
    axis: complex
    k_radial: float
    turn: float
    split_rad: float
    origin: complex


def _frame(outline: np.ndarray, pith_x_m: float, pith_y_m: float, k_radial: float, k_tangential: float) -> _Frame:
    """Outside the piece angles count from the line pith-centre. Inside, they count from opposite the nearest face, so that the
    cut, at ±180°, runs the shortest way out, where real wood splits."""
    pith = complex(pith_x_m, pith_y_m)
    if not _inside(outline, pith):
        return _Frame(pith, -pith / abs(pith), k_radial, k_tangential / k_radial, 0.0, -k_radial * pith)
    edges = outline[:, 0] + 1j * outline[:, 1] - pith
    nearest = edges[np.argmin(np.abs(edges))]
    axis, split = -nearest / abs(nearest), total_split_rad(k_radial, k_tangential)
    if not split:
        k_radial = k_tangential = math.sqrt(k_radial * k_tangential)
    return _Frame(pith, axis, k_radial, k_tangential / k_radial, split, -k_radial * pith)


def _inside(outline: np.ndarray, point: complex) -> bool:
    z = outline[:, 0] + 1j * outline[:, 1] - point
    following = np.roll(z, -1)
    # Anticlockwise and convex: a point inside lies to the left of every edge.
    return bool(np.all((z.conj() * following).imag > 0))


def settled_board(
    width_m: float, thickness_m: float, pith_x_m: float, pith_y_m: float, k_radial: float, k_tangential: float, rings: int = 24
) -> Section:
    """A board's section before and after.

    Args:
        width_m, thickness_m: 0.5 mm…3 m; pith_x_m, pith_y_m: the pith seen from the middle of the piece, up to 5 m away.
        k_radial, k_tangential: size ratios from :func:`size_ratios`.
        rings: about how many growth rings to draw.
    Raises:
        OutOfRange.

    >>> board = settled_board(0.2, 0.025, 0, -0.1, 0.98, 0.95)
    >>> board.cup_m > 0, board.width_m < 0.2
    (True, True)
    """
    check_range("width_m", width_m, *SIZE_M, " m")
    check_range("thickness_m", thickness_m, *SIZE_M, " m")
    check_range("pith_x_m", pith_x_m, -PITH_M, PITH_M, " m")
    check_range("pith_y_m", pith_y_m, -PITH_M, PITH_M, " m")
    if pith_x_m == 0 and pith_y_m == 0:
        # A pith exactly in the middle has no direction; a hair beside it has.
        pith_y_m = -1e-9
    green = rectangle(width_m, thickness_m)
    after, split = settle_outline(green, pith_x_m, pith_y_m, k_radial, k_tangential)
    frame = _frame(green, pith_x_m, pith_y_m, k_radial, k_tangential)
    bark_side_up = pith_y_m <= 0

    def moved(points: Array | list[tuple[float, float]]) -> Array:
        return _place(*_turn(np.asarray(points, float), frame.pith, frame.axis), frame)

    w, t = width_m / 2, thickness_m / 2
    left, right, top, bottom = moved([(-w, 0), (w, 0), (0, t), (0, -t)])
    a, b, c, d = moved([(-w, -t), (w, -t), (w, t), (-w, t)])
    across = np.column_stack([np.linspace(-w, w, 41), np.full(41, t)])
    upper, lower = moved(across), moved(across * (1, -1))
    upper_height, lower_height = _heights(upper, b - a), _heights(lower, b - a)
    hollow_up = float((upper_height[0] + upper_height[-1]) / 2 - upper_height[20])
    green_rings = tuple(_ring_arcs(width_m, thickness_m, frame.pith, rings))
    return Section(
        green=green,
        after=after,
        green_rings=green_rings,
        rings=tuple(moved(arc) for arc in green_rings),
        width_m=float(np.hypot(*(right - left))),
        thickness_m=float(np.hypot(*(top - bottom))),
        flat_thickness_m=max(0.0, float(upper_height.min() - lower_height.max())),
        cup_m=hollow_up if bark_side_up else -hollow_up,
        diamond_m=float(abs(np.hypot(*(c - a)) - np.hypot(*(d - b)))),
        split_rad=split,
        ring_angle_deg=ring_angle_deg(pith_x_m, pith_y_m),
        encloses_pith=_inside(green, frame.pith),
        bark_side_up=bark_side_up,
    )


def _heights(points: np.ndarray, direction: np.ndarray) -> np.ndarray:
    """Height of points above a line in ``direction``, so that a piece that leans is measured on its own base."""
    x, y = direction / np.hypot(*direction)
    return points @ np.array([-y, x])


def _ring_arcs(width_m: float, thickness_m: float, pith: complex, rings: int) -> Iterator[Array]:
    """Growth rings as arcs about the pith, cut off at the board's edges."""
    corners = np.abs(np.array([complex(x, y) for x in (-width_m / 2, width_m / 2) for y in (-thickness_m / 2, thickness_m / 2)]) - pith)
    nearest = max(0.0, abs(pith.real) - width_m / 2) ** 2 + max(0.0, abs(pith.imag) - thickness_m / 2) ** 2
    first, last = math.sqrt(nearest), float(corners.max())
    spacing = (last - first) / rings
    angle = np.linspace(-math.pi, math.pi, 1441)
    for radius in np.arange(1, rings) * spacing + first:
        z = pith + radius * np.exp(1j * angle)
        within = (np.abs(z.real) <= width_m / 2) & (np.abs(z.imag) <= thickness_m / 2)
        edges = np.flatnonzero(np.diff(np.concatenate([[0], within.astype(int), [0]])))
        for start, end in zip(edges[::2], edges[1::2], strict=True):
            if end - start > 1:
                picked = np.linspace(start, end - 1, min(RING_POINTS, end - start)).round().astype(int)
                yield np.column_stack([z.real[picked], z.imag[picked]])
