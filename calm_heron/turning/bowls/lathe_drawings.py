"""A bowl's rim from above: as it was, as its rings say it is now, as it was traced, and its cracks."""

import math

from calm_heron.site.drawing import Picture, Shape, Text, path
from calm_heron.site.numbers import counted
from calm_heron.turning.bowls.finishing import Finish
from wood.units import System
from wood.written import handled_length

WIDTH, RADIUS, TOP = 640, 110.0, 26.0
# So many tracings are laid over each other.
MOST_LAID = 8


def rim(finish: Finish, system: System) -> Picture | None:
    """The rim, where its shape is known and something was traced or found in it; a rim as it is predicted is drawn where it is roughed."""
    if finish.shape is None or not (finish.tracings or finish.cracks):
        return None
    shown, green = finish.shape, finish.piece.width_m
    scale, x0, y0 = 2 * RADIUS / green, RADIUS + 20, RADIUS + TOP
    middle = (shown.rim.max(axis=0) + shown.rim.min(axis=0)) / 2
    shapes = [
        Shape(_oval(x0, y0, RADIUS, RADIUS), "green"),
        Shape(path([(x0 + (x - middle[0]) * scale, y0 - (y - middle[1]) * scale) for x, y, _ in shown.rim], closed=True), "wood"),
    ]
    words = [
        Text(2 * RADIUS + 60, y0 - 40, "dashed: as it was turned", "small", "start"),
        Text(2 * RADIUS + 60, y0 - 22, "filled: by its rings", "small", "start"),
    ]
    # Those before it, laid beneath the newest.
    for older in finish.tracings[1:MOST_LAID]:
        shapes.append(Shape(_oval(x0, y0, older.along_m / 2 * scale, older.across_m / 2 * scale), "thread thin"))
    if len(finish.tracings) > 1:
        before = counted(len(finish.tracings[1:MOST_LAID]), "tracing")
        words.append(Text(2 * RADIUS + 60, y0 + 14, f"thin: {before} before it", "small", "start"))
    if finish.tracings:
        newest = finish.tracings[0]
        shapes.append(Shape(_oval(x0, y0, newest.along_m / 2 * scale, newest.across_m / 2 * scale), "thread main"))
        said = f"line: traced, {handled_length(newest.along_m, system)} by {handled_length(newest.across_m, system)}"
        words.append(Text(2 * RADIUS + 60, y0 - 4, said, "small", "start"))
    for crack in finish.cracks:
        if crack.hour is None:
            continue
        angle = math.pi / 2 - crack.hour * math.pi / 6
        inward = max(RADIUS - crack.length_m * scale, 0.1 * RADIUS)
        ends = [(x0 + r * math.cos(angle), y0 - r * math.sin(angle)) for r in (RADIUS * 0.97, inward)]
        shapes.append(Shape(path(ends), "broken"))
    return Picture(WIDTH, round(2 * RADIUS + 2 * TOP), shapes, words, "The rim from above, with its tracing and its cracks.")


def _oval(x: float, y: float, along: float, across: float) -> str:
    return f"M{x - along:.1f} {y:.1f}a{along:.1f} {across:.1f} 0 1 0 {2 * along:.1f} 0a{along:.1f} {across:.1f} 0 1 0 {-2 * along:.1f} 0Z"
