"""The oval to come: what shape a rough-turned bowl dries to, and the round bowl that can still be turned from it.

Every cross section of a bowl square to the grain is a piece of the log's end grain and moves as :mod:`wood.movement.section` has it: about
the pith, by k_R along the radius and k_T round the ring, while along the grain hardly anything moves. Put side by side the sections are the
dried bowl, exactly and without stress, for wood that does not enclose its pith. Seen from above the rim is narrower across the grain than
along it; seen from the side the ends of the grain stand higher than the sides where the rim faced the pith, and lower where it faced the
bark.

Source: ring geometry as there; that a wall bends freely with it, and what it takes to clean up a wall, are our own judgement.
"""

import math
from dataclasses import dataclass

import numpy as np

from wood.arrays import Array
from wood.errors import check_range
from wood.movement.section import size_ratios
from wood.movement.shrinkage import Shrinkage, remaining
from wood.turning.bowls import ROUND, WALL_M, Bowl, Grain

HEIGHTS = 24
# What a tool takes off beyond the thinnest place until a surface is clean, on each side.
CLEAN_M = 0.0008
DRIED_TO = (0.0, 0.30)


@dataclass(frozen=True)
class Ratios:
    """New size over old along the grain, along the radius and round the ring."""

    along: float
    radial: float
    tangential: float


def ratios(shrinkage: Shrinkage, moisture_from: float, moisture_to: float) -> Ratios:
    """How wood moves between two moistures (fractions, 0…3).

    Raises:
        OutOfRange.
    """
    radial, tangential = size_ratios(shrinkage, moisture_from, moisture_to)
    after, before = (float(remaining(shrinkage.longitudinal, item, shrinkage.fibre_saturation)) for item in (moisture_to, moisture_from))
    return Ratios(after / before, radial, tangential)


@dataclass(frozen=True)
class Oval:
    """A bowl dried.

    ``rim`` is the rim's outside in plan and height, (n, 3) in metres: along the grain, across it, up from the lowest place of the foot.
    ``along_m`` and ``across_m`` are its width with and across the grain, ``rise_m`` how much higher the ends of the grain stand than the
    sides. ``profile_along`` and ``profile_across`` are the outside and inside seen from the two sides, from one rim over the foot to the
    other. ``tenon_along_m``, ``tenon_across_m`` are what a foot of :data:`~wood.turning.bowls.FOOT_SHARE` of the diameter becomes,
    ``foot_hollow_m`` by how much it is no longer flat.
    """

    rim: Array
    along_m: float
    across_m: float
    rise_m: float
    profile_along: tuple[Array, Array]
    profile_across: tuple[Array, Array]
    tenon_along_m: float
    tenon_across_m: float
    foot_hollow_m: float

    @property
    def out_of_round_m(self) -> float:
        """Longer less shorter width of the rim."""
        return abs(self.along_m - self.across_m)


def encloses_pith(bowl: Bowl) -> bool:
    """Whether the pith runs through the bowl's wood or its hollow: then it cracks from there."""
    if bowl.grain is Grain.ALONG:
        return math.hypot(*bowl.pith_at) < bowl.diameter_m / 2
    return bowl.pith_m <= 0 and abs(bowl.aside_m) < bowl.diameter_m / 2


def _moved(points: Array, bowl: Bowl, k: Ratios) -> Array:
    """Points (n, 3) of the green bowl where they come to lie; x along the grain where that lies across the axis, z up the axis."""
    aside, away = bowl.pith_at
    across = bowl.grain is Grain.ACROSS
    first, second = (points[..., 1], points[..., 2]) if across else (points[..., 0], points[..., 1])
    seen = (first - aside) + 1j * (second - away)
    # Angles count from the line that leads from the pith to the middle of the bowl.
    middle = complex(-aside, (bowl.height_m / 2 if across else 0.0) - away)
    axis = middle / abs(middle) if abs(middle) > 1e-9 else 1j
    turned = seen / axis
    placed = k.radial * np.abs(turned) * np.exp(1j * np.angle(turned) * k.tangential / k.radial) * axis
    single, other = placed.real + aside, placed.imag + away
    if across:
        return np.stack([k.along * points[..., 0], single, other], axis=-1)
    return np.stack([single, other, k.along * points[..., 2]], axis=-1)


def _turned(profile: Array, count: int = ROUND) -> Array:
    """A profile turned about the axis: (points of the profile, count, 3)."""
    angle = np.arange(count) * 2 * math.pi / count
    r, z = profile[:, 0][:, None], profile[:, 1][:, None]
    return np.stack([r * np.cos(angle), r * np.sin(angle), np.broadcast_to(z, (profile.shape[0], count))], axis=-1)


def dried(bowl: Bowl, k: Ratios) -> Oval:
    """The shape that a bowl dries to.

    >>> from wood.movement.shrinkage import of_species
    >>> from wood.species import species_named
    >>> oval = dried(Bowl(0.2, 0.08, 0.02), ratios(of_species(species_named("sugar_maple")), 0.6, 0.08))
    >>> oval.across_m < oval.along_m, oval.rise_m > 0
    (True, True)
    """
    outer, inner = (_moved(_turned(profile), bowl, k) for profile in (bowl.outside(), bowl.inside()))
    rim = outer[-1]
    quarter, half = ROUND // 4, ROUND // 2
    angle = np.arange(ROUND) * 2 * math.pi / ROUND
    foot_at = bowl.diameter_m * 0.35 / 2
    foot = np.stack([foot_at * np.cos(angle), foot_at * np.sin(angle), np.zeros(ROUND)], axis=-1)
    tenon = _moved(foot, bowl, k)
    lowest = float(tenon[:, 2].min())
    shift = np.array([0.0, 0.0, lowest])
    rim, outer, inner, tenon = rim - shift, outer - shift, inner - shift, tenon - shift

    def seen(item: int, axis: int) -> tuple[Array, Array]:
        made = []
        for shell in (outer, inner):
            there, back = shell[::-1, (item + half) % ROUND], shell[1:, item]
            both = np.concatenate([there, back])
            made.append(np.column_stack([both[:, axis], both[:, 2]]))
        return made[0], made[1]

    return Oval(
        rim=rim,
        along_m=float(np.ptp(rim[:, 0])),
        across_m=float(np.ptp(rim[:, 1])),
        rise_m=float((rim[0, 2] + rim[half, 2] - rim[quarter, 2] - rim[quarter + half, 2]) / 2),
        profile_along=seen(0, 0),
        profile_across=seen(quarter, 1),
        tenon_along_m=float(np.ptp(tenon[:, 0])),
        tenon_across_m=float(np.ptp(tenon[:, 1])),
        foot_hollow_m=float(np.ptp(tenon[:, 2])),
    )


@dataclass(frozen=True)
class Fits:
    """The round bowl that can still be turned from a dried one: ``outside`` and ``inside`` as (radius, height) from the foot up, the
    thinnest wall that both leave, its diameter and its height; the wall is below zero where the dried inside reaches beyond the dried
    outside.
    """

    outside: Array
    inside: Array
    thinnest_m: float
    diameter_m: float
    height_m: float


def fits(bowl: Bowl, k: Ratios) -> Fits:
    """The largest round bowl in a dried one, on its best axis: all of its outside within the dried outside, all of its inside beyond the
    dried inside.

    >>> calm = fits(Bowl(0.2, 0.08, 0.02), Ratios(1.0, 1.0, 1.0))
    >>> abs(calm.thinnest_m - (0.02 - 2 * CLEAN_M)) < 2e-4
    True
    """
    outer, inner = (_moved(_turned(profile), bowl, k) for profile in (bowl.outside(), bowl.inside()))
    rim = outer[-1]
    axis = (rim.max(axis=0) + rim.min(axis=0))[:2] / 2
    lowest, top = float(outer[0, :, 2].max()), float(rim[:, 2].min())
    heights = np.linspace(max(float(inner[0, :, 2].max()), lowest), top, HEIGHTS + 1)[1:]
    fine = np.linspace(lowest, top, 3 * HEIGHTS)
    # The smallest radius left all round outside, the largest inside, and what a tool takes to clean both.
    beyond, hollow = _radii(outer, fine, axis).min(axis=1) - CLEAN_M, _radii(inner, heights, axis).max(axis=1) + CLEAN_M
    outside = np.interp(heights, fine, beyond)
    upper = heights >= heights[0] + (top - heights[0]) * 0.25
    # How thick it is left square to the wall: from each place inside to the nearest outside, less where the one lies beyond the other.
    nearest = np.sqrt((hollow[upper, None] - beyond) ** 2 + (heights[upper, None] - fine) ** 2).min(axis=1)
    wall = np.where(outside[upper] > hollow[upper], nearest, outside[upper] - hollow[upper])
    return Fits(
        np.column_stack([outside, heights - lowest]),
        np.column_stack([hollow, heights - lowest]),
        float(wall.min()),
        float(2 * outside.max()),
        top - lowest,
    )


def _radii(shell: Array, heights: Array, axis: Array) -> Array:
    """How far each meridian of a shell lies from an axis at given heights: (heights, meridians)."""
    result = np.empty((heights.size, shell.shape[1]))
    for j in range(shell.shape[1]):
        # A meridian rises from foot to rim; where sections tilt it a little, its order is kept.
        up = np.maximum.accumulate(shell[:, j, 2])
        x, y = np.interp(heights, up, shell[:, j, 0]), np.interp(heights, up, shell[:, j, 1])
        result[:, j] = np.hypot(x - axis[0], y - axis[1])
    return result


def least_wall_m(bowl: Bowl, k: Ratios, end_wall_m: float) -> float:
    """The thinnest rough wall from which a bowl can still be turned true to an end wall; infinite where no wall would do.

    Args:
        end_wall_m: 1 mm…0.1 m.
    Raises:
        OutOfRange.

    >>> still = least_wall_m(Bowl(0.2, 0.08, 0.02), Ratios(1.0, 1.0, 1.0), 0.006)
    >>> 0.0072 < still < 0.0082
    True
    """
    check_range("end_wall_m", end_wall_m, 0.001, 0.1, " m")
    low, high = max(WALL_M[0], 0.5 * end_wall_m), 0.9 * min(bowl.diameter_m / 2, bowl.height_m)
    if fits(bowl.with_wall(high), k).thinnest_m < end_wall_m:
        return math.inf
    for _ in range(18):
        middle = (low + high) / 2
        if fits(bowl.with_wall(middle), k).thinnest_m < end_wall_m:
            low = middle
        else:
            high = middle
    return high
