"""Turning drawn: a bowl before and after, its wall between its limits, weights over the days, a log's end and its cuts."""

import math
from dataclasses import dataclass
from typing import Any

import numpy as np

from calm_heron.site.drawing import Picture, Scale, Shape, Text, Tick, path
from calm_heron.turning.bowls.roughing import Roughed
from wood.arrays import Array
from wood.turning.walls import WallApproach
from wood.units import System
from wood.written import handled_length

WIDE, NARROW = 640, 380


def _dimension(x1: float, y1: float, x2: float, y2: float) -> Shape:
    """A dimension line with its ends."""
    level = abs(y1 - y2) < 1e-6
    ends = f"M{x1:.1f} {y1 - 5:.1f}v10M{x2:.1f} {y2 - 5:.1f}v10" if level else f"M{x1 - 5:.1f} {y1:.1f}h10M{x2 - 5:.1f} {y2:.1f}h10"
    return Shape(f"M{x1:.1f} {y1:.1f}L{x2:.1f} {y2:.1f}{ends}", "dimension")


def oval(rough: Roughed, system: System, width: int = WIDE) -> Picture:
    """The bowl from above and from both sides: dashed as it was turned, filled as it dries, the round bowl that is left as a line."""
    narrow = width == NARROW
    bowl, shown, fits = rough.bowl, rough.oval, rough.fits
    # Beside it stands how wide it is across the grain.
    room = width - 130 if narrow else (width - 130) * 0.46
    scale = room / bowl.diameter_m
    radius = bowl.diameter_m / 2 * scale
    across = (radius + 10, radius + 34) if narrow else (radius + 26, radius + 34)
    # Movement is drawn larger than it is where it would not be seen.
    shapes, texts = _plan(bowl.rim_diameter_m, shown, fits, scale, across, system)
    left = 30.0 if narrow else 2 * radius + 108
    side = (width - left - 30) / bowl.diameter_m
    high = bowl.height_m * side
    top = 2 * radius + 104 if narrow else 30.0
    gap = high + 64
    for number, (profile, name) in enumerate(
        ((shown.profile_along, "seen across the grain"), (shown.profile_across, "seen along the grain"))
    ):
        base = top + number * gap + high
        middle = left + (width - left - 30) / 2
        more, words = _elevation(bowl, profile, fits, side, middle, base, name, is_first=number == 0)
        shapes += more
        texts += words
    height = int(max(top + gap + high + 30, 0 if narrow else 2 * radius + 90))
    summary = (
        f"The bowl dried: {handled_length(shown.along_m, system)} with the grain, {handled_length(shown.across_m, system)} across it, "
        f"from {handled_length(bowl.rim_diameter_m, system)} round."
    )
    return Picture(width, height, shapes, texts, summary)


def _plan(rim_m: float, shown: Any, fits: Any, scale: float, at: tuple[float, float], system: System) -> tuple[list[Shape], list[Text]]:
    x0, y0 = at
    middle = (shown.rim.max(axis=0) + shown.rim.min(axis=0)) / 2
    rim = [(x0 + (x - middle[0]) * scale, y0 - (y - middle[1]) * scale) for x, y, _ in shown.rim]
    r = rim_m / 2 * scale
    inner = max(float(fits.inside[-1, 0]), 0.0) * scale
    outer = max(float(fits.outside[-1, 0]), 0.0) * scale
    shapes = [Shape(_circle(x0, y0, r), "green"), Shape(path(rim, closed=True), "wood")]
    # The grain runs from side to side.
    for k in range(-4, 5):
        y = y0 + k * r / 5
        half = math.sqrt(max(r * r - (y - y0) ** 2, 0.0)) * 0.94
        shapes.append(Shape(f"M{x0 - half:.1f} {y:.1f}H{x0 + half:.1f}", "ring"))
    if outer > inner > 0:
        shapes += _hatched(f"{_circle(x0, y0, outer)}{_circle(x0, y0, inner, back=True)}")
    along, across = shown.along_m / 2 * scale, shown.across_m / 2 * scale
    shapes += [_dimension(x0 - along, y0 + r + 20, x0 + along, y0 + r + 20), _dimension(x0 + r + 20, y0 - across, x0 + r + 20, y0 + across)]
    texts = [
        Text(x0, y0 + r + 40, handled_length(shown.along_m, system), "strong"),
        Text(x0 + r + 28, y0 + 4, handled_length(shown.across_m, system), "strong", "start"),
        Text(x0, y0 - r - 12, "from above, grain left to right"),
    ]
    return shapes, texts


def _circle(x: float, y: float, r: float, *, back: bool = False) -> str:
    """A circle; one that goes back round within another leaves a hole in it."""
    way = int(back)
    return f"M{x - r:.1f} {y:.1f}a{r:.1f} {r:.1f} 0 1 {way} {2 * r:.1f} 0a{r:.1f} {r:.1f} 0 1 {way} {-2 * r:.1f} 0Z"


def _hatched(d: str) -> list[Shape]:
    """What is left of the wood when it is turned: hatched, with its line."""
    return [Shape(d, "zone"), Shape(d, "wanted")]


def _elevation(
    bowl: Any, profile: tuple[Array, Array], fits: Any, scale: float, x0: float, base: float, name: str, *, is_first: bool
) -> Any:
    def placed(points: Array) -> list[tuple[float, float]]:
        return [(x0 + x * scale, base - z * scale) for x, z in points]

    outside, inside = profile
    shift = (outside[:, 0].max() + outside[:, 0].min()) / 2
    outside, inside = outside - [shift, 0.0], inside - [shift, 0.0]
    green_out, green_in = bowl.outside(), bowl.inside()
    both = np.concatenate([green_out[::-1] * [-1, 1], green_out[1:]])
    both_in = np.concatenate([green_in[::-1] * [-1, 1], green_in[1:]])
    shapes = [
        Shape(path([*placed(outside), *reversed(placed(inside))], closed=True), "wood"),
        Shape(path([*placed(both), *reversed(placed(both_in))], closed=True), "green"),
    ]
    if fits.thinnest_m > 0:
        out, hollow = fits.outside, fits.inside
        for side in (1, -1):
            line = [*placed(out * [side, 1])[::-1][:1], *placed(hollow * [side, 1])[::-1]]
            shapes += _hatched(path([*placed(out * [side, 1]), *line]))
    shapes.append(Shape(f"M{x0 - bowl.diameter_m / 2 * scale - 8:.1f} {base:.1f}H{x0 + bowl.diameter_m / 2 * scale + 8:.1f}", "axis"))
    return shapes, [Text(x0, base + 18, name)]


@dataclass(frozen=True)
class WallBand:
    """A wall on its scale: too thin below ``true``, too thick beyond ``crack``, the rules as ticks with their names, the wall that is
    answered.
    """

    width: int
    height: int
    base: float
    left: float
    right: float
    true: float
    crack: float | None
    at: float
    ticks: list[Tick]
    rules: list[Text]
    summary: str


RULE_NAMES = {WallApproach.TENTH: "a tenth", WallApproach.LIVELY: "lively", WallApproach.INCH: "an inch"}


def wall_band(rough: Roughed, system: System, width: int = WIDE) -> WallBand:
    """The wall between its two limits."""
    wall = rough.walls
    known = [
        rough.bowl.wall_m,
        *wall.rules.values(),
        *(item for item in (wall.true_m, wall.crack_m) if item is not None and math.isfinite(item)),
    ]
    most = 1.2 * max(known)
    left, right, base = 8.0, width - 12.0, 66.0
    x = Scale(0.0, most, left, right)
    # As many ticks as have room for their words.
    sizes, room = (
        ((0.003175, 0.00635, 0.0127, 0.0254, 0.0508, 0.1016, 0.3), 72) if system.is_inch else ((0.002, 0.005, 0.01, 0.02, 0.05, 0.1), 58)
    )
    step = next((size for size in sizes if most / size * room <= right - left), sizes[-1])
    ticks = [Tick(x(k * step), handled_length(k * step, system)) for k in range(1, int(most / step) + 1)]
    by_wall = sorted(wall.rules.items(), key=lambda pair: pair[1])
    # Names that would run into each other stand apart, each a line lower.
    placed = [Text(x(value), 10.0 + 15 * (number % 3), RULE_NAMES[approach]) for number, (approach, value) in enumerate(by_wall)]
    true = x(min(wall.true_m, most)) if math.isfinite(wall.true_m) else right
    crack = None if wall.crack_m is None or not math.isfinite(wall.crack_m) else x(min(wall.crack_m, most))
    return WallBand(
        width,
        116,
        base,
        left,
        right,
        true,
        crack,
        x(rough.bowl.wall_m),
        ticks,
        placed,
        f"A wall of {handled_length(rough.bowl.wall_m, system)} on the scale between too thin to true and too thick to dry whole.",
    )
