"""The few shapes that every drawing is made of: scales, ticks and paths. Numbers in, plain values for a template out."""

import itertools
import math
import unicodedata
from collections.abc import Iterable, Sequence
from dataclasses import dataclass


@dataclass(frozen=True)
class Scale:
    """A straight line from values to drawing units; ``low`` maps to ``start`` and ``high`` to ``end``."""

    low: float
    high: float
    start: float
    end: float

    def __call__(self, value: float) -> float:
        return self.start + (value - self.low) * (self.end - self.start) / (self.high - self.low)


@dataclass(frozen=True)
class Tick:
    """A place on an axis and what is written there."""

    at: float
    label: str


def tenth(value: float) -> str:
    """A coordinate as it is written into a drawing; the hundreds of marks of a chart are formatted here, not in its template."""
    return f"{value:.1f}"


def shortened(name: str, room: int) -> str:
    """A name in a drawing that has room for so many letters, with … where more of it follows; letters of East Asia take up two.

    >>> shortened("Bench room", 10), shortened("Bench room, upstairs", 12), shortened("木工房の小屋", 8)
    ('Bench room', 'Bench room,…', '木工房…')
    """
    wide = [2 if unicodedata.east_asian_width(letter) in "WF" else 1 for letter in name]
    if sum(wide) <= room:
        return name
    end = sum(1 for so_far in itertools.accumulate(wide) if so_far < room)
    return f"{name[:end].rstrip()}…"


def path(points: Iterable[Sequence[float]], *, closed: bool = False) -> str:
    """SVG path data through points, to a tenth of a unit."""
    data = "".join(f"{'L' if i else 'M'}{x:.1f} {y:.1f}" for i, (x, y) in enumerate(points))
    return data + ("Z" if closed and data else "")


def band(upper: Sequence[Sequence[float]], lower: Sequence[Sequence[float]]) -> str:
    """SVG path data of the area between two lines that run the same way."""
    return path([*upper, *reversed(lower)], closed=True)


def spread_labels(positions: Sequence[float], gap: float, low: float, high: float) -> list[float]:
    """Move label positions apart until neighbours keep ``gap``, as little as needed, inside low…high; the order is kept."""
    order = sorted(range(len(positions)), key=lambda i: positions[i])
    placed = list(positions)
    edge = -math.inf
    for i in order:
        placed[i] = max(positions[i], edge + gap, low)
        edge = placed[i]
    edge = high + gap
    for i in reversed(order):
        placed[i] = min(placed[i], edge - gap)
        edge = placed[i]
    return placed


# Moisture is drawn true up to here; above it, where wood only loses free water, the scale is pressed together.
BREAK = 0.30


class MoistureScale:
    """Moisture upwards: straight to fibre saturation, pressed above it. ``top`` and ``bottom`` are drawing units, downwards."""

    def __init__(self, lowest: float, highest: float, top: float, bottom: float) -> None:
        self.highest = highest
        knee = top + (0.22 * (bottom - top) if highest > BREAK else 0)
        self.below = Scale(lowest, min(BREAK, max(highest, lowest + 0.02)), bottom, knee)
        self.above = Scale(BREAK, max(highest, BREAK + 0.01), knee, top)

    def __call__(self, moisture: float) -> float:
        return self.below(moisture) if moisture <= BREAK or self.highest <= BREAK else self.above(min(moisture, self.highest))


def moisture_ticks(lowest: float, highest: float, y: MoistureScale) -> list[Tick]:
    """Round percentages along a moisture scale, few above the break."""
    steps = [percent for percent in range(4, 31, 2 if highest <= BREAK else 4) if lowest <= percent / 100 <= min(highest, BREAK)]
    steps += [percent for percent in (60, 90, 120) if percent / 100 <= highest]
    return [Tick(y(percent / 100), str(percent)) for percent in steps]


@dataclass(frozen=True)
class Text:
    """Words at a place of a drawing."""

    x: float
    y: float
    words: str
    css: str = "small"
    anchor: str = "middle"


@dataclass(frozen=True)
class Shape:
    """A path and how it is drawn."""

    d: str
    css: str
    fill: str = ""


@dataclass(frozen=True)
class Picture:
    """Shapes with words on them."""

    width: float
    height: float
    shapes: list[Shape]
    texts: list[Text]
    summary: str = ""
