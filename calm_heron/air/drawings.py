"""The air chart: temperature across, relative humidity up, equilibrium moisture as contour lines."""

from dataclasses import dataclass

import numpy as np

from calm_heron.site.drawing import Scale, Tick, path
from calm_heron.site.ramp import colour
from wood import sorption
from wood.units import INCH, System, from_fahrenheit

WIDE, NARROW, HEIGHT = 640, 380, 400
LEFT, RIGHT, TOP, BOTTOM = 34, 46, 14, 40
LEVELS = (4, 6, 8, 10, 12, 14, 16, 18, 20, 24)
LOWEST_HUMIDITY, HIGHEST_HUMIDITY = 0.10, 1.0


@dataclass(frozen=True)
class Contour:
    """One line of equal EMC with the place of its label."""

    label: str
    path: str
    colour: str
    label_x: float
    label_y: float


@dataclass(frozen=True)
class Point:
    """A place's air now. ``text_anchor`` keeps the name inside the drawing."""

    name: str
    x: float
    y: float
    text_x: float
    text_y: float
    text_anchor: str
    colour: str
    emc: str


@dataclass(frozen=True)
class AirChart:
    width: int
    height: int
    left: float
    right: float
    top: float
    bottom: float
    contours: list[Contour]
    points: list[Point]
    trail: list[tuple[float, float]]
    temperature_ticks: list[Tick]
    humidity_ticks: list[Tick]
    summary: str


def air_charts(places: list[tuple[str, float, float]], system: System, trail: list[tuple[float, float]] | None = None) -> list:
    """The chart for a wide and for a narrow screen, each with the class that shows it there."""
    return [("wide-only", air_chart(places, system, trail)), ("narrow-only", air_chart(places, system, trail, NARROW))]


def air_chart(
    places: list[tuple[str, float, float]], system: System, trail: list[tuple[float, float]] | None = None, width: int = WIDE
) -> AirChart:
    """Geometry of the air chart for places given as (name, °C, relative humidity), and a trail of earlier air."""
    temperatures = [t for _, t, _ in places] + [t for t, _ in trail or []]
    low = min([0.0, *temperatures]) - (2 if min([0.0, *temperatures]) < 0 else 0)
    high = max([35.0, *temperatures])
    x = Scale(low, high, LEFT, width - RIGHT)
    y = Scale(LOWEST_HUMIDITY, HIGHEST_HUMIDITY, HEIGHT - BOTTOM, TOP)
    return AirChart(
        width=width,
        height=HEIGHT,
        left=LEFT,
        right=width - RIGHT,
        top=TOP,
        bottom=HEIGHT - BOTTOM,
        contours=[contour for level in LEVELS if (contour := _contour(level, low, high, x, y))],
        points=_points(places, x, y, width),
        trail=[(round(x(t), 1), round(y(max(h, LOWEST_HUMIDITY)), 1)) for t, h in trail or []],
        temperature_ticks=_temperature_ticks(low, high, x, system),
        humidity_ticks=[Tick(y(h / 100), f"{h}") for h in range(20, 101, 20)],
        summary="; ".join(f"{name}: EMC {sorption.emc(t, h) * 100:.1f} %" for name, t, h in places) or "No air was read yet.",
    )


def _contour(level: int, low: float, high: float, x: Scale, y: Scale) -> Contour | None:
    temperatures = np.linspace(low, high, 36)
    reachable = np.asarray(sorption.emc(temperatures, np.ones_like(temperatures))) >= level / 100
    temperatures = temperatures[reachable]
    if len(temperatures) < 2:
        return None
    humidity = np.asarray(sorption.relative_humidity_for(temperatures, level / 100))
    shown = humidity >= LOWEST_HUMIDITY
    points = [(x(t), y(h)) for t, h in zip(temperatures[shown], humidity[shown], strict=True)]
    if len(points) < 2:
        return None
    return Contour(f"{level} %", path(points), colour(level / 100), *points[-1])


def _points(places: list[tuple[str, float, float]], x: Scale, y: Scale, width: int) -> list[Point]:
    made = []
    for name, t, h in places:
        at_x, at_y = x(t), y(min(max(h, LOWEST_HUMIDITY), HIGHEST_HUMIDITY))
        rightmost = at_x > width * 0.58
        emc = sorption.emc(t, h)
        # A name that would lie on a neighbour's goes below its point instead of above.
        crowded = any(abs(at_y - other.y) < 16 and abs(at_x - other.x) < 120 for other in made)
        made.append(
            Point(
                name,
                at_x,
                at_y,
                at_x + (-10 if rightmost else 10),
                at_y + (18 if crowded else -8),
                "end" if rightmost else "start",
                colour(emc),
                f"{emc * 100:.1f}",
            )
        )
    return made


def _temperature_ticks(low: float, high: float, x: Scale, system: System) -> list[Tick]:
    if system is INCH:
        return [Tick(x(from_fahrenheit(f)), str(f)) for f in range(-40, 260, 20) if low <= from_fahrenheit(f) <= high]
    return [Tick(x(c), str(c).replace("-", "−")) for c in range(-40, 125, 10 if high - low < 70 else 20) if low <= c <= high]
