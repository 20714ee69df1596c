"""A bowl's rim as it was traced: points, or two diameters, against the oval that was predicted; and what a workshop learns from it.

Source: least squares of an ellipse; how much one tracing weighs against what ring geometry says is our own judgement.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from wood.errors import CannotRead, check_range

FEWEST, MOST = 6, 400
SIZE_M = (0.02, 1.5)
# One standard deviation of a single tracing's share of the predicted, and of how species differ from their published shrinkage.
TRACED_SPREAD, SPECIES_SPREAD = 0.25, 0.20


@dataclass(frozen=True)
class Traced:
    """A rim by its longest and shortest width (m); ``off_m`` is how far its points lie off that oval, 0 for two diameters."""

    along_m: float
    across_m: float
    off_m: float = 0.0

    @property
    def out_of_round_m(self) -> float:
        return self.along_m - self.across_m


def from_points(points: Sequence[tuple[float, float]]) -> Traced:
    """The oval through points of a rim, in metres, in any order.

    Raises:
        CannotRead: fewer than six points, which any number of ovals fit; more than 400; points on a line. OutOfRange: no rim has such a
        size.

    >>> circle = [(0.1 * math.cos(a), 0.09 * math.sin(a)) for a in np.linspace(0, 6, 12)]
    >>> result = from_points(circle)
    >>> round(result.along_m, 4), round(result.across_m, 4)
    (0.2, 0.18)
    """
    if not FEWEST <= len(points) <= MOST:
        raise CannotRead(
            "points", str(len(points)), f"{len(points)} points do not make an oval; tap {FEWEST} or more round the rim, at most {MOST}"
        )
    p = np.asarray(points, float)
    check_range("points", p, -10.0, 10.0, " m")
    middle, scale = p.mean(axis=0), float(np.ptp(p, axis=0).max())
    if scale <= 0:
        raise CannotRead("points", "", "the points all lie on one spot")
    x, y = ((p - middle) / scale).T
    shape = np.column_stack([x * x, x * y, y * y, x, y])
    (a, b, c, d, e), *_ = np.linalg.lstsq(shape, np.ones(x.size), rcond=None)
    quadratic = np.array([[a, b / 2], [b / 2, c]])
    values = np.linalg.eigvalsh(quadratic)
    if values.min() <= 1e-9:
        raise CannotRead("points", "", "the points do not go round an oval")
    centre = np.linalg.solve(2 * quadratic, -np.array([d, e]))
    level = 1 + float(centre @ quadratic @ centre)
    half = np.sqrt(level / values) * scale
    check_range("rim", 2 * half, *SIZE_M, " m")
    seen = np.column_stack([x, y]) - centre
    reach = np.sqrt(np.einsum("ni,ij,nj->n", seen, quadratic, seen) / level)
    off = np.abs(1 - 1 / np.maximum(reach, 1e-6)) * np.hypot(seen[:, 0], seen[:, 1]) * scale
    return Traced(float(2 * half.max()), float(2 * half.min()), float(np.sqrt(np.mean(off**2))))


def from_diameters(along_m: float, across_m: float) -> Traced:
    """The oval by its width with the grain and across it, in metres.

    Raises:
        OutOfRange: a width beyond :data:`SIZE_M` m.

    >>> round(from_diameters(0.2, 0.19).out_of_round_m, 3)
    0.01
    """
    check_range("along_m", along_m, *SIZE_M, " m")
    check_range("across_m", across_m, *SIZE_M, " m")
    return Traced(along_m, across_m)


@dataclass(frozen=True)
class Learnt:
    """How much more or less than predicted a species goes out of round in a workshop, 1 for just as predicted, with one standard
    deviation.
    """

    share: float
    spread: float
    count: int


def learnt(traced: Sequence[float], predicted: Sequence[float]) -> Learnt:
    """What tracings beside their predictions (out of round, m) say together, drawn towards 1 while there are few.

    Raises:
        OutOfRange: different lengths; a prediction that is not above zero.

    >>> learnt([], []).share, round(learnt([0.012] * 8, [0.010] * 8).share, 2)
    (1.0, 1.17)
    """
    check_range("predicted", len(predicted), len(traced), len(traced))
    if not len(traced):
        return Learnt(1.0, SPECIES_SPREAD, 0)
    check_range("predicted", predicted, 1e-5, 1.0, " m")
    check_range("traced", traced, 0.0, 1.0, " m")
    shares = np.clip(np.asarray(traced, float) / np.asarray(predicted, float), 0.1, 4.0)
    own, prior = shares.size / TRACED_SPREAD**2, 1 / SPECIES_SPREAD**2
    return Learnt(float((shares.mean() * own + prior) / (own + prior)), math.sqrt(1 / (own + prior)), int(shares.size))
