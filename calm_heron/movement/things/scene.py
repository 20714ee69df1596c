"""A thing drawn to scale: its shapes in metres on the day it is built and now, the way between them drawn larger where it would not
show.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from calm_heron.site.drawing import path
from calm_heron.site.ramp import colour

WIDE, NARROW, MOST_HEIGHT = 620, 380, 330
ABOVE, BELOW = 52, 46
# Room on either side, and where a size is written there, by the width of the drawing.
SIDES, WRITTEN_ON = {WIDE: 40, NARROW: 24}, {WIDE: 86, NARROW: 98}
# A movement shows from so many drawing units on.
SHOWS = 9.0
STEPS = (1.0, 2.0, 5.0, 10.0, 20.0)
MOST_DRAWN = 50.0


@dataclass(frozen=True)
class SceneShape:
    """A line or an area in metres, x across and y up.

    ``wet`` ones are filled with the moisture's colour, others look as their ``css`` says.
    """

    css: str
    points: np.ndarray
    closed: bool = True
    wet: bool = False


@dataclass(frozen=True)
class Dimension:
    """A size written beside two points, ``off`` drawing units away from them (downwards, or to the right)."""

    start: tuple[float, float]
    end: tuple[float, float]
    text: str
    off: float = 18.0


@dataclass(frozen=True)
class Note:
    """A word at a point."""

    at: tuple[float, float]
    text: str
    anchor: str = "middle"
    css: str = "small"


@dataclass(frozen=True)
class Scene:
    """Everything of a thing at one moisture; scenes of one thing have their shapes in the same order. Drawn more than ``most_drawn`` times
    larger than life, gaps would close that stay open."""

    shapes: Sequence[SceneShape]
    dimensions: Sequence[Dimension] = ()
    notes: Sequence[Note] = ()
    most_drawn: float = MOST_DRAWN


@dataclass(frozen=True)
class DrawnShape:
    css: str
    d: str
    fill: str = ""


@dataclass(frozen=True)
class DrawnDimension:
    """A dimension line with its end ticks, and its text beside it."""

    d: str
    x: float
    y: float
    text: str
    anchor: str


@dataclass(frozen=True)
class DrawnScene:
    width: int
    height: int
    shapes: list[DrawnShape]
    dimensions: list[DrawnDimension]
    notes: list[tuple[float, float, Note]]
    times: float

    @property
    def middle(self) -> float:
        return self.width / 2


def rectangle(left: float, bottom: float, right: float, top: float) -> np.ndarray:
    """A rectangle's corners."""
    return np.array([(left, bottom), (right, bottom), (right, top), (left, top)])


def line(*points: tuple[float, float]) -> np.ndarray:
    return np.array(points, float)


def draw(now: Scene, built: Scene, ends: Sequence[Scene], moisture: float, wanted: float | None, width: int = WIDE) -> DrawnScene:
    """The thing as it is now, over what it was on the day. ``ends`` are its driest and dampest, which the drawing has room for, so that
    nothing jumps while the months go by."""
    every = [*ends, now]
    flat = np.concatenate([shape.points for shape in built.shapes])
    written = any(abs(dimension.end[1] - dimension.start[1]) > abs(dimension.end[0] - dimension.start[0]) for dimension in built.dimensions)
    side = (WRITTEN_ON if written else SIDES)[width]
    shift = max(float(np.abs(_moves(scene, built)).max()) for scene in every)
    # By the wide drawing, so that both are drawn as much larger.
    times = wanted or _times(shift * _scale(flat, WIDE, SIDES[WIDE]), min(scene.most_drawn for scene in every))
    reach = np.concatenate([flat, *(_larger(shape.points, was.points, times) for scene in every for shape, was in _pairs(scene, built))])
    scale = _scale(reach, width, side)
    (left, low), (right, high) = reach.min(axis=0), reach.max(axis=0)
    middle = (left + right) / 2
    height = ABOVE + (high - low) * scale + BELOW

    def place(points: np.ndarray) -> np.ndarray:
        return np.column_stack([width / 2 + (points[:, 0] - middle) * scale, height - BELOW - (points[:, 1] - low) * scale])

    shapes = [
        DrawnShape(
            shape.css,
            path(place(_larger(shape.points, was.points, times)).tolist(), closed=shape.closed),
            colour(moisture) if shape.wet else "",
        )
        for shape, was in _pairs(now, built)
    ]
    dimensions = [
        _dimension(place(_larger(line(item.start, item.end), line(was.start, was.end), times)), item)
        for item, was in zip(now.dimensions, built.dimensions, strict=True)
    ]
    notes = [
        (*place(_larger(line(item.at), line(was.at), times))[0].tolist(), item) for item, was in zip(now.notes, built.notes, strict=True)
    ]
    return DrawnScene(width, round(height), shapes, dimensions, notes, times)


def _scale(points: np.ndarray, width: int, side: float) -> float:
    across, up = np.ptp(points, axis=0)
    return min((width - 2 * side) / max(across, 1e-6), (MOST_HEIGHT - ABOVE - BELOW) / max(up, 1e-6))


def _pairs(scene: Scene, built: Scene) -> Any:
    return zip(scene.shapes, built.shapes, strict=True)


def _moves(scene: Scene, built: Scene) -> np.ndarray:
    return np.concatenate([(shape.points - was.points).reshape(-1) for shape, was in _pairs(scene, built)])


def _times(shows: float, most: float) -> float:
    """How many times larger than life: as it is where it shows, else as much as it needs, never so much that gaps would close."""
    if shows <= 0:
        return 1.0
    return max(step for step in STEPS if step <= max(1.0, most) and (step == 1.0 or shows * step < 3 * SHOWS))


def _larger(points: np.ndarray, was: np.ndarray, times: float) -> np.ndarray:
    return was + (points - was) * times


def _dimension(ends: np.ndarray, dimension: Dimension) -> DrawnDimension:
    """A line beside two points that lie side by side or one above the other."""
    (ax, ay), (bx, by) = ends.tolist()
    if abs(bx - ax) >= abs(by - ay):
        y = (max(ay, by) if dimension.off > 0 else min(ay, by)) + dimension.off
        return DrawnDimension(
            f"M{ax:.1f} {y - 5:.1f}v10m0 -5H{bx:.1f}m0 -5v10",
            (ax + bx) / 2,
            y + (17 if dimension.off > 0 else -8),
            dimension.text,
            "middle",
        )
    x = (max(ax, bx) if dimension.off > 0 else min(ax, bx)) + dimension.off
    return DrawnDimension(
        f"M{x - 5:.1f} {ay:.1f}h10m-5 0V{by:.1f}m-5 0h10",
        x + (9 if dimension.off > 0 else -9),
        (ay + by) / 2 + 5,
        dimension.text,
        "start" if dimension.off > 0 else "end",
    )
