"""What the growth rings draw on a board's face: straight lines where it was sawn on the quarter, cathedrals where it was sawn flat.

A tree's rings are taken as cones about a straight pith, and the face as a plane through them: it cuts them in hyperbolas, whose tips are
the cathedrals. Metres along the board from its left end and across it from its lower edge. It is geometry of an even tree, not a
picture of this one; which end of a board grew upward is not known, so cathedrals point to the right. Source: plane sections of cones; the
taper is our own round figure of what sawlogs have.
"""

import math

import numpy as np

from wood.arrays import Array
from wood.errors import check_range
from wood.movement.section import pith_for

LENGTH_M, WIDTH_M, THICKNESS_M = (0.01, 20.0), (0.005, 2.0), (0.001, 2.0)
# How much thinner a ring's cone is for each metre up the stem: the usual taper of sawlogs, a centimetre of diameter a metre.
TAPER = 0.005
LINES, POINTS = 9, 11


def lines(length_m: float, width_m: float, thickness_m: float, ring_angle_deg: float, pith_distance_m: float = 0.15) -> list[Array]:
    """The rings as they cross a board's upper face, each an array of points, shape (n, 2): m along and m across.

    Args:
        length_m, width_m, thickness_m: 10 mm…20 m, 5 mm…2 m, 1 mm…2 m.
        ring_angle_deg: of the rings to the face at its middle, 0 (flat)…90 (quarter).
        pith_distance_m: of the pith from the board's middle, 0 (it runs through it)…5 m.
    Raises:
        OutOfRange.

    >>> quarter = lines(2.4, 0.15, 0.027, 90.0)
    >>> max(float(np.ptp(line[:, 1])) for line in quarter) < 0.013
    True
    """
    check_range("length_m", length_m, *LENGTH_M, " m")
    check_range("width_m", width_m, *WIDTH_M, " m")
    check_range("thickness_m", thickness_m, *THICKNESS_M, " m")
    pith_x, pith_y = pith_for(ring_angle_deg, pith_distance_m)
    deep, half = thickness_m / 2 - pith_y, width_m / 2
    nearest = max(abs(pith_x) - half, 0.0)
    least, most = math.hypot(nearest, deep), math.hypot(abs(pith_x) + half, deep) + TAPER * length_m
    butts = least + (np.arange(LINES)[:, None] + 0.5) / LINES * (most - least)
    tips = np.clip((butts - deep) / TAPER, 0.0, length_m)
    # Closer together near the tip, where the curve is sharp.
    along = tips * (1 - np.linspace(1.0, 0.0, POINTS) ** 2)
    off = np.sqrt(np.maximum((butts - TAPER * along) ** 2 - deep**2, 0.0))
    # Either side of the pith, a row for each; a row comes on to the face and leaves it where this changes.
    points = np.stack([np.concatenate([along, along]), np.concatenate([pith_x + off, pith_x - off]) + half], axis=2)
    on = np.abs(points[:, :, 1] - half) <= half
    changes = np.argwhere(np.diff(np.pad(on, ((0, 0), (1, 1))).astype(int), axis=1))
    pairs = zip(changes[::2], changes[1::2], strict=True)
    return [points[row, start:end] for (row, start), (_, end) in pairs if end - start > 1]
