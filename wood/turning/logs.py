"""The end of a log as it lies: its outline, pith, checks, knots, included bark and soft heart, and how far in its ends are lost.

Coordinates in metres, the origin in the middle of the end, x to the right, y up.

Source for what is lost: moisture along the grain by the field, dried from the open end; an end checks as deep as it has come below fibre
saturation (our judgement; benches report checks within a week in cherry, an inch of them in a month or two).
"""

import itertools
import math
from dataclasses import dataclass
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from wood.air.climate import AirSeries
from wood.arrays import Array
from wood.drying import field
from wood.drying.diffusivity import Figures
from wood.errors import CannotRead, OutOfRange, check_range
from wood.stacks.air import OpenBoard

# Yes or no for each obstacle of a log.
Flags = NDArray[np.bool_]
DIAMETER_M, LENGTH_M = (0.04, 2.0), (0.02, 12.0)
MOST_CHECKS, MOST_POINTS = 40, 30
# Checks are followed by points this far apart; with their margin nothing slips between.
SPACING_M = 0.004
SEALED_SHARE, END_CELLS = 0.15, 60
LONGEST_DAYS = 1500.0


class Flaw(StrEnum):
    """What a stroke on a log's end stands for."""

    CHECK = "check"
    BARK = "bark"


@dataclass(frozen=True)
class Stroke:
    """A check or split, or bark that has grown in, as points from its beginning to its end. ``depth_m`` is how far along the log it goes
    from the nearer end; ``None`` where nobody knows, so that it is taken to go right through."""

    points: tuple[tuple[float, float], ...]
    depth_m: float | None = None
    flaw: Flaw = Flaw.CHECK


@dataclass(frozen=True)
class Knot:
    """A knot that reaches through the end, by its middle and radius."""

    x_m: float
    y_m: float
    radius_m: float


class Trunk(StrEnum):
    """What sort of log it is: round, a crotch with two piths, or a burl that was cut off flat and has none."""

    ROUND = "round"
    CROTCH = "crotch"
    BURL = "burl"


# How far beside the first the second pith of a crotch lies where nobody says, as a share of the width.
FORKED = 0.3


@dataclass(frozen=True)
class LogEnd:
    """A log by its end. ``width_m`` and ``height_m`` are its two diameters without bark; ``soft_m`` is the radius of heart about the pith
    that is no good. Checks and knots lie in one end or, ``both_ends``, in both alike. A crotch has a second pith, ``second_x_m`` and
    ``second_y_m``; of a burl the half above its flat is there, ``height_m`` twice as high as it stands.

    Raises:
        OutOfRange: a size beyond :data:`DIAMETER_M` or :data:`LENGTH_M`; a pith or a stroke outside the log; a check that goes deeper than
        the log is long; more than 40 strokes. CannotRead: a stroke of fewer than two points.
    """

    width_m: float
    height_m: float
    length_m: float
    pith_x_m: float = 0.0
    pith_y_m: float = 0.0
    soft_m: float = 0.0
    strokes: tuple[Stroke, ...] = ()
    knots: tuple[Knot, ...] = ()
    both_ends: bool = True
    trunk: Trunk = Trunk.ROUND
    second_x_m: float = 0.0
    second_y_m: float = 0.0

    def __post_init__(self) -> None:
        check_range("width_m", self.width_m, *DIAMETER_M, " m")
        check_range("height_m", self.height_m, *DIAMETER_M, " m")
        check_range("length_m", self.length_m, *LENGTH_M, " m")
        check_range("soft_m", self.soft_m, 0.0, min(self.width_m, self.height_m) / 2, " m")
        if not self.holds(self.pith_x_m, self.pith_y_m):
            raise OutOfRange("pith", float(self.share_of(self.pith_x_m, self.pith_y_m)), 0.0, 1.0)
        if self.trunk is Trunk.CROTCH:
            if not self.holds(self.second_x_m, self.second_y_m):
                raise OutOfRange("second_pith", float(self.share_of(self.second_x_m, self.second_y_m)), 0.0, 1.0)
            apart = math.hypot(self.second_x_m - self.pith_x_m, self.second_y_m - self.pith_y_m)
            check_range("second_pith", apart, 0.005, 2.0, " m")
        check_range("strokes", len(self.strokes) + len(self.knots), 0, MOST_CHECKS)
        for stroke in self.strokes:
            if not 2 <= len(stroke.points) <= MOST_POINTS:
                raise CannotRead("strokes", str(len(stroke.points)), f"a stroke has from two to {MOST_POINTS} points")
            for x, y in stroke.points:
                if not self.holds(x, y, 1.1):
                    raise OutOfRange("strokes", float(self.share_of(x, y)), 0.0, 1.1)
            if stroke.depth_m is not None:
                check_range("depth_m", stroke.depth_m, 0.0, self.length_m, " m")
        for knot in self.knots:
            check_range("knots", self.share_of(knot.x_m, knot.y_m), 0.0, 1.1)
            check_range("radius_m", knot.radius_m, 0.001, min(self.width_m, self.height_m) / 2, " m")

    def share_of(self, x: float, y: float) -> float:
        """How far out a point lies: 0 in the middle, 1 on the bark."""
        return math.hypot(2 * x / self.width_m, 2 * y / self.height_m)

    def holds(self, x: float, y: float, share: float = 1.0) -> bool:
        """Whether a point lies in the log."""
        return self.share_of(x, y) <= share

    def outline(self, points: int = 96) -> Array:
        """The bark's line."""
        angle = np.linspace(0, 2 * math.pi, points, endpoint=False)
        return np.column_stack([self.width_m / 2 * np.cos(angle), self.height_m / 2 * np.sin(angle)])

    def obstacles(self) -> list[tuple[Array, float | None]]:
        """What no blank may hold, each as points (n, 2) close together and how deep it goes."""
        result: list[tuple[Array, float | None]] = [(along(stroke.points), stroke.depth_m) for stroke in self.strokes]
        for knot in self.knots:
            angle = np.linspace(0, 2 * math.pi, max(8, int(2 * math.pi * knot.radius_m / SPACING_M)), endpoint=False)
            ring = np.column_stack([knot.x_m + knot.radius_m * np.cos(angle), knot.y_m + knot.radius_m * np.sin(angle)])
            result.append((np.concatenate([ring, [[knot.x_m, knot.y_m]]]), None))
        if self.trunk is Trunk.CROTCH:
            result.append((np.array([[self.second_x_m, self.second_y_m]]), None))
        return result

    @property
    def piths(self) -> tuple[tuple[float, float], ...]:
        """Where its piths lie: one, two in a crotch, none in a burl."""
        first = (self.pith_x_m, self.pith_y_m)
        if self.trunk is Trunk.BURL:
            return ()
        return (first, (self.second_x_m, self.second_y_m)) if self.trunk is Trunk.CROTCH else (first,)

    @property
    def crotch_deg(self) -> float:
        """The angle of the line through both piths of a crotch, degrees from x, 0…180."""
        return math.degrees(math.atan2(self.second_y_m - self.pith_y_m, self.second_x_m - self.pith_x_m)) % 180.0

    @property
    def off_centre(self) -> float:
        """How far its pith lies out, as a share of the way to the bark; 0 where it has none or two."""
        return self.share_of(self.pith_x_m, self.pith_y_m) if self.trunk is Trunk.ROUND else 0.0

    @property
    def volume_m3(self) -> float:
        """The wood in it, without bark."""
        whole = math.pi / 4 * self.width_m * self.height_m * self.length_m
        return whole / 2 if self.trunk is Trunk.BURL else whole

    def left(self, cut_off_m: float) -> Flags:
        """Which obstacles are still there once so much of each checked end is cut off."""
        return np.array([depth is None or depth > cut_off_m + 1e-9 for _, depth in self.obstacles()], bool)


def along(points: tuple[tuple[float, float], ...], spacing_m: float = SPACING_M) -> Array:
    """A stroke as points not farther apart than a spacing (0.1 mm…1 m).

    Raises:
        OutOfRange. CannotRead: no row of points.

    >>> along(((0.0, 0.0), (0.0, 0.01)), 0.005).shape
    (3, 2)
    """
    check_range("spacing_m", spacing_m, 1e-4, 1.0, " m")
    corners = np.asarray(points, float)
    if corners.ndim != 2 or corners.shape[0] < 1 or corners.shape[1] != 2:
        raise CannotRead("points", str(corners.shape), "a stroke is a row of points, each of two numbers")
    check_range("points", corners, -10.0, 10.0, " m")
    made = [corners[:1]]
    for corner, other in itertools.pairwise(corners):
        count = max(1, math.ceil(float(np.hypot(*(other - corner))) / spacing_m))
        made.append(corner + (other - corner) * (np.arange(1, count + 1) / count)[:, None])
    return np.concatenate(made)


def lost_at_end_m(figures: Figures, start: float, days: float, series: AirSeries, *, sealed: bool) -> float:
    """How far in from each end a log is likely to have checked.

    Args:
        start: its green moisture, 0.1…3; days: since it was felled or last cut back, 0…1500; series: the air outdoors from that day on.
    Raises:
        OutOfRange.

    >>> from wood.air.climate import constant
    >>> from wood.drying.diffusivity import of_species
    >>> from wood.species import species_named
    >>> cherry, air = of_species(species_named("black_cherry")), constant(15, 0.65, 1.0)
    >>> month, year = (lost_at_end_m(cherry, 0.58, days, air, sealed=False) for days in (30, 365))
    >>> 0.01 < month < year < 0.4
    True
    """
    check_range("start", start, 0.1, 3.0)
    check_range("days", days, 0.0, LONGEST_DAYS, " days")
    if days < 0.5 or start <= figures.wood.fibre_saturation:
        return 0.0
    wood = field.Wood(
        figures.wood.specific_gravity,
        min(figures.wood.factor * figures.wood.along_grain, 100.0),
        figures.wood.permeability,
        figures.wood.fibre_saturation,
    )
    ran = field.dry(wood, 1.4, start, field.driven(series, OpenBoard()), days, out_days=[days], tolerance=1e-3, cells=END_CELLS)
    depth = float(np.interp(figures.wood.fibre_saturation, np.maximum.accumulate(ran.profiles[0]), ran.depths_m, left=0.0))
    return depth * (SEALED_SHARE if sealed else 1.0)
