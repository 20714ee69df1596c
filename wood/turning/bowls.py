"""A rough-turned bowl as a shell of revolution: its profile, the wood in it, how its grain lies, and how moisture gets out of its wall.

The outside is part of an ellipsoid. An open bowl, a platter and a goblet's cup end at its widest place; a calabash comes in a little above
it, an enclosed form a lot. The inside follows it at the distance of the wall. A box, or its lid, has straight sides and a flat floor; a
spindle is solid, and dries as the slab whose slowest part fades as fast as that of its cylinder: 0.653 of its diameter (the first root of
the Bessel function J0 against π/2), the ends besides.

*The wall is a slab.* It is thin beside the bowl's radius, so moisture leaves it straight through. What differs round the bowl is how the
grain meets the
wall: at the two ends of the grain it runs out of the wall, and moisture runs a dozen times faster with it than across it,
``D_n = D_T·(1 + (a − 1)·n_L²)`` with n_L the share of the wall's normal along the grain. The shell is therefore cut into a few parts of
like n_L², each a slab of its own. Sources: geometry; the grain ratio of AH-188.
That this comes within a tenth of the whole three-dimensional problem is tested (docs/science.md says where it does not).
"""

import math
from dataclasses import dataclass, replace
from enum import StrEnum
from functools import lru_cache

import numpy as np

from wood.arrays import Array
from wood.errors import OutOfRange, check_range

DIAMETER_M, HEIGHT_M, WALL_M = (0.01, 1.2), (0.01, 0.8), (0.001, 0.3)
# Up and round the shell: how finely it is cut, for drawings and for sums alike.
UP, ROUND = 40, 72
FOOT_SHARE = 0.35
# Where the shell is cut into slabs, as shares of its wood from the slowest on: the slow ones tell when a bowl comes to rest, so they are
# cut finest.
CUTS = (0.08, 0.22, 0.4, 0.6, 0.8)
# How far moisture goes within the wall, along the grain, before that runs out of it, as a share of the diameter: fitted to the finer model
# of the tests.
ROUND_BY = 0.80
# A wall that was meant to be even is not: a third of it is so much thinner, a third so much thicker (our judgement).
UNEVEN = (0.87, 1.0, 1.13)


class Form(StrEnum):
    """How a bowl closes above its widest place."""

    OPEN = "open"
    CALABASH = "calabash"
    ENCLOSED = "enclosed"
    PLATTER = "platter"
    GOBLET = "goblet"
    BOX = "box"
    SOLID = "solid"


# A cylinder as a slab, as a share of its diameter.
SOLID_SLAB = 0.653
STRAIGHT = frozenset({Form.BOX, Form.SOLID})
# How far up its ellipsoid each form goes, in degrees from the foot; 90 is the widest place.
REACHES_DEG = {Form.CALABASH: 112.0, Form.ENCLOSED: 135.0}
OPEN_DEG = 90.0


class Grain(StrEnum):
    """How the grain lies to the lathe's axis: across it as in bowls and platters, or along it as in spindles, boxes and end-grain forms."""

    ACROSS = "across"
    ALONG = "along"


class Rim(StrEnum):
    """What the rim of a bowl from half a log faces."""

    PITH = "pith"
    BARK = "bark"


@dataclass(frozen=True)
class Bowl:
    """A rough-turned bowl. Sizes in metres, as it was turned, green.

    ``diameter_m`` is its widest, ``wall_m`` its even wall, ``foot_m`` the thickness of wood under its inside (the wall's where not given).
    The pith lies
    ``pith_m`` beyond the rim where the rim faces it, else beyond the foot, and ``aside_m`` beside the axis. With the grain along the axis
    the pith runs along it, ``pith_m`` beside it.

    Raises:
        OutOfRange: a size beyond :data:`DIAMETER_M`, :data:`HEIGHT_M`, :data:`WALL_M`; a wall that leaves no hollow; pith_m 0…2 m, aside_m
        −1…1 m.
    """

    diameter_m: float
    height_m: float
    wall_m: float
    form: Form = Form.OPEN
    grain: Grain = Grain.ACROSS
    rim: Rim = Rim.PITH
    pith_m: float = 0.03
    aside_m: float = 0.0
    foot_m: float | None = None

    def __post_init__(self) -> None:
        check_range("diameter_m", self.diameter_m, *DIAMETER_M, " m")
        check_range("height_m", self.height_m, *HEIGHT_M, " m")
        check_range("wall_m", self.wall_m, *WALL_M, " m")
        check_range("pith_m", self.pith_m, 0.0, 2.0, " m")
        check_range("aside_m", self.aside_m, -1.0, 1.0, " m")
        if self.wall_m >= min(self.diameter_m / 2, self.height_m):
            raise OutOfRange("wall_m", self.wall_m, WALL_M[0], min(self.diameter_m / 2, self.height_m), " m")
        if self.foot_m is not None:
            check_range("foot_m", self.foot_m, 0.001, self.height_m, " m")

    @property
    def floor_m(self) -> float:
        """The wood under its inside."""
        return self.wall_m if self.foot_m is None else self.foot_m

    @property
    def reach(self) -> float:
        """How far up its ellipsoid it goes, radians."""
        return math.radians(REACHES_DEG.get(self.form, OPEN_DEG))

    @property
    def rim_diameter_m(self) -> float:
        """The diameter at the rim, outside."""
        return self.diameter_m * math.sin(self.reach)

    @property
    def pith_at(self) -> tuple[float, float]:
        """The pith in the plane it is seen in: beside the axis, and above the foot (grain across) or across it (grain along)."""
        if self.grain is Grain.ALONG:
            return self.aside_m, -self.pith_m
        return self.aside_m, (self.height_m + self.pith_m if self.rim is Rim.PITH else -self.pith_m)

    def with_wall(self, wall_m: float) -> "Bowl":
        """The same bowl with another wall."""
        if self.form is Form.SOLID:
            return self
        return replace(self, wall_m=wall_m, foot_m=None if self.foot_m is None else max(self.foot_m, wall_m))

    def outside(self) -> Array:
        """The outside profile from the middle of the foot to the rim, as (radius, height) in metres, ``UP`` points."""
        if self.form in STRAIGHT:
            return _straight(self.diameter_m / 2, 0.0, self.height_m, UP)
        return _ellipse(self.diameter_m / 2, self._half_height, np.linspace(0.0, self.reach, UP), self._half_height)

    def inside(self) -> Array:
        """The inside profile from its middle to the rim's level, as (radius, height): everywhere a wall away from the outside."""
        if self.form is Form.SOLID:
            return np.column_stack([np.zeros(UP), np.full(UP, self.height_m)])
        if self.form is Form.BOX:
            return _straight(self.diameter_m / 2 - self.wall_m, min(self.floor_m, 0.95 * self.height_m), self.height_m, UP)
        across, up = self.diameter_m / 2, self._half_height
        angle = np.linspace(0.0, self.reach, 4 * UP)
        outer = _ellipse(across, up, angle, up)
        steep = np.column_stack([up * np.sin(angle), -across * np.cos(angle)])
        level = steep[:, 1] ** 2 / np.sum(steep**2, axis=1)
        # Under the inside it is as thick as the floor, up the side as the wall.
        thick = np.where(angle < math.pi / 2, self.wall_m + (self.floor_m - self.wall_m) * level, self.wall_m)
        heights = self.floor_m + (self.height_m - self.floor_m) * np.linspace(0.0, 1.0, UP) ** 2
        # A ball as large as the wall, rolled along the outside, leaves the hollow.
        within = thick**2 - (heights[:, None] - outer[:, 1]) ** 2
        radius = np.where(within > 0, outer[:, 0] - np.sqrt(np.maximum(within, 0.0)), across).min(axis=1)
        return np.column_stack([np.append(0.0, np.clip(radius[1:], 0.0, None)), heights])

    @property
    def _half_height(self) -> float:
        """The ellipsoid's half axis along the lathe: the height it reaches is the bowl's."""
        return self.height_m / (1 - math.cos(self.reach))

    @property
    def volume_m3(self) -> float:
        """The wood in it."""
        return _turned_volume(self.outside()) - _turned_volume(self.inside())


def _straight(radius_m: float, floor_m: float, top_m: float, points: int) -> Array:
    """A flat floor and a straight side, as points of like distance along it."""
    side = top_m - floor_m
    # The corner is one of them.
    along = min(max(round(points * radius_m / (radius_m + side)), 2), points - 1)
    floor = np.column_stack([np.linspace(0.0, radius_m, along), np.full(along, floor_m)])
    up = np.linspace(floor_m, top_m, points - along + 1)[1:]
    return np.concatenate([floor, np.column_stack([np.full(up.size, radius_m), up])])


def _ellipse(across: float, up: float, angle: Array, middle: float) -> Array:
    return np.column_stack([across * np.sin(angle), middle - up * np.cos(angle)])


def _turned_volume(profile: Array) -> float:
    """What a profile encloses when it is turned about the axis: cone after cone."""
    r, z = profile[:, 0], profile[:, 1]
    return float(math.pi / 3 * np.sum(np.diff(z) * (r[1:] ** 2 + r[1:] * r[:-1] + r[:-1] ** 2)))


@dataclass(frozen=True)
class Part:
    """A part of a shell that dries as one slab: its share of the wood, its thickness, and how much faster than across the grain moisture
    passes it.
    """

    share: float
    slab_m: float
    faster: float


@lru_cache(maxsize=512)
def parts(bowl: Bowl, along_grain: float, cuts: tuple[float, ...] = CUTS) -> tuple[Part, ...]:
    """The shell as slabs of like pace, the slowest first.

    Args:
        along_grain: diffusion along over across the grain, 0.1…100; cuts: where they are parted, as rising shares of the wood between 0 and
        1.
    Raises:
        OutOfRange.

    >>> slow, *_, fast = parts(Bowl(0.25, 0.1, 0.025), 12.0)
    >>> slow.faster < 2 < fast.faster, round(sum(part.share for part in parts(Bowl(0.25, 0.1, 0.025), 12.0)), 6)
    (True, 1.0)
    """
    check_range("along_grain", along_grain, 0.1, 100.0)
    check_range("cuts", cuts, 0.0, 1.0)
    if bowl.form is Form.SOLID:
        slab = SOLID_SLAB * bowl.diameter_m
        along, across = (along_grain, 1.0) if bowl.grain is Grain.ALONG else (1.0, (1 + along_grain) / 2)
        return (Part(1.0, slab, across + along * (slab / bowl.height_m) ** 2),)
    middle, normal, length = _wall(bowl)
    if bowl.grain is Grain.ACROSS:
        squares = np.outer(normal[:, 0] ** 2, np.cos(np.arange(ROUND) * 2 * math.pi / ROUND) ** 2)
    else:
        squares = np.outer(normal[:, 1] ** 2, np.ones(ROUND))
    thick = _thickness(bowl, normal)[:, None] * np.array(UNEVEN)
    around = middle[:, 0] * length
    # Where the grain runs within the wall, moisture also goes round by it to where it runs out.
    round_by = along_grain * (_thickness(bowl, normal)[:, None] / (ROUND_BY * bowl.diameter_m)) ** 2 * (1 - squares)
    speed = np.repeat((1 + (along_grain - 1) * squares + round_by)[:, :, None], len(UNEVEN), axis=2).ravel()
    thickness = np.broadcast_to(thick[:, None, :], (around.size, ROUND, len(UNEVEN))).ravel()
    amount = np.broadcast_to((around[:, None] * thick)[:, None, :], (around.size, ROUND, len(UNEVEN))).ravel()
    # What counts is how long a slab takes.
    slowness = thickness**2 / speed
    order = np.argsort(-slowness, kind="stable")
    share = np.cumsum(amount[order])
    result = []
    for chosen in np.split(order, np.searchsorted(share, np.asarray(cuts) * share[-1])):
        if chosen.size:
            weight = amount[chosen]
            slab = float(np.average(thickness[chosen], weights=weight))
            result.append(Part(float(weight.sum() / share[-1]), slab, slab**2 / float(np.average(slowness[chosen], weights=weight))))
    return tuple(result)


def _wall(bowl: Bowl) -> tuple[Array, Array, Array]:
    """Along the middle of the wall from foot to rim: places (radius, height), unit normals (outward, upward) and lengths."""
    if bowl.form is Form.BOX:
        middle = _straight(bowl.diameter_m / 2 - bowl.wall_m / 2, bowl.floor_m / 2, bowl.height_m, UP + 1)
    else:
        across, up = bowl.diameter_m / 2 - bowl.wall_m / 2, bowl._half_height - bowl.floor_m / 2
        middle = _ellipse(across, up, np.linspace(0.0, bowl.reach, UP + 1), bowl._half_height)
    step = np.diff(middle, axis=0)
    length = np.hypot(step[:, 0], step[:, 1])
    unit = step / length[:, None]
    return (middle[1:] + middle[:-1]) / 2, np.column_stack([unit[:, 1], -unit[:, 0]]), length


def _thickness(bowl: Bowl, normal: Array) -> Array:
    """The wall's thickness from foot to rim: from the floor's to the wall's, as the ellipses have it."""
    return bowl.floor_m * normal[:, 1] ** 2 + bowl.wall_m * normal[:, 0] ** 2
