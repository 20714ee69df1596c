"""The air chart: temperature across, relative humidity up, equilibrium moisture as contour lines."""

from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np

from calm_heron.site import numbers
from calm_heron.site.drawing import Scale, Tick, band, path, shortened, tenth
from calm_heron.site.ramp import colour
from wood.air import sorption
from wood.air.climate import MONTHS
from wood.units import System, from_fahrenheit

WIDE, NARROW, HEIGHT = 640, 380, 400
LEFT, RIGHT, TOP, BOTTOM = 34, 46, 14, 40
LEVELS = (4, 6, 8, 10, 12, 14, 16, 18, 20, 24)
# What a letter of a name takes up on the smallest phone.
LETTER = 8.6
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
    loop: str
    temperature_ticks: list[Tick]
    humidity_ticks: list[Tick]
    summary: str


def air_charts(
    places: list[tuple[str, float, float]],
    system: System,
    trail: list[tuple[float, float]] | None = None,
    loop: list[tuple[float, float]] | None = None,
) -> list[Any]:
    """The chart for a wide and for a narrow screen, each with the class that shows it there."""
    return [(name, air_chart(places, system, trail, width, loop)) for name, width in (("wide-only", WIDE), ("narrow-only", NARROW))]


def air_chart(
    places: list[tuple[str, float, float]],
    system: System,
    trail: list[tuple[float, float]] | None = None,
    width: int = WIDE,
    loop: list[tuple[float, float]] | None = None,
) -> AirChart:
    """Geometry of the air chart for places given as (name, °C, relative humidity), a trail of earlier air, and the loop of a year."""
    temperatures = [t for _, t, _ in places] + [t for t, _ in [*(trail or []), *(loop or [])]]
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
        loop=path([(x(t), y(max(h, LOWEST_HUMIDITY))) for t, h in loop or []], closed=True) if loop else "",
        temperature_ticks=_temperature_ticks(low, high, x, system),
        humidity_ticks=[Tick(y(h / 100), f"{h}") for h in range(20, 101, 20)],
        summary="; ".join(f"{name}: EMC {numbers.points(sorption.emc(t, h))}%" for name, t, h in places) or "No air was read yet.",
    )


@lru_cache(maxsize=512)
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
    return Contour(f"{level}%", path(points), colour(level / 100), *points[-1])


def _points(places: list[tuple[str, float, float]], x: Scale, y: Scale, width: int) -> list[Point]:
    made: list[Any] = []
    for name, t, h in places:
        at_x, at_y = x(t), y(min(max(h, LOWEST_HUMIDITY), HIGHEST_HUMIDITY))
        emc = sorption.emc(t, h)
        # The name stands on the right where it has room, else on the left; where it has none, as much of it as fits.
        of_emc = f" {numbers.points(emc)}"
        right, left = (int(room / LETTER) - len(of_emc) for room in (width - RIGHT - at_x - 10, at_x - 10 - LEFT))
        rightmost = shortened(name, right) != name and left > right
        name = shortened(name, max(left, right))
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
                numbers.points(emc),
            )
        )
    return made


def _temperature_ticks(low: float, high: float, x: Scale, system: System) -> list[Tick]:
    if system.is_inch:
        return [Tick(x(from_fahrenheit(f)), str(f)) for f in range(-40, 260, 20) if low <= from_fahrenheit(f) <= high]
    return [Tick(x(c), str(c).replace("-", "−")) for c in range(-40, 125, 10 if high - low < 70 else 20) if low <= c <= high]


@dataclass(frozen=True)
class MonthMark:
    """A month on the year's waterline: where it lies, and what is written there (empty where it is not known)."""

    x: str
    y: str
    label: str
    colour: str
    month: str


@dataclass(frozen=True)
class YearChart:
    """EMC through the twelve months as water."""

    name: str
    width: int
    height: int
    left: float
    right: float
    bottom: float
    water: str
    line: str
    mean_y: str
    mean_x: str
    mean: str
    months: list[MonthMark]
    ticks: list[Tick]
    summary: str


YEAR_HEIGHT, YEAR_TOP, YEAR_BOTTOM = 220, 26, 30
# What a month's figure takes up on the smallest phone.
FIGURE_WIDE, FIGURE_HIGH = 30.0, 15.0


def year_charts(monthly_emc: list[float | None]) -> list[YearChart]:
    """The year for wide and for narrow screens; months that are not known yet are left open."""
    return [year_chart(monthly_emc, name, width) for name, width in (("wide-only", WIDE), ("narrow-only", NARROW))]


def _written(points: list[tuple[float, float | None]]) -> set[int]:
    """Whose figures are written: the wettest and the driest month's first, and of the others those that run into none."""
    known = [(k, at_x, at_y) for k, (at_x, at_y) in enumerate(points) if at_y is not None]
    ends = [pick(known, key=lambda one: one[2]) for pick in (min, max)] if known else []
    placed: list[tuple[int, float, float]] = []
    for one in dict.fromkeys([*ends, *known]):
        if all(abs(one[1] - other[1]) >= FIGURE_WIDE or abs(one[2] - other[2]) >= FIGURE_HIGH for other in placed):
            placed.append(one)
    return {k for k, _, _ in placed}


def year_chart(monthly_emc: list[float | None], name: str, width: int) -> YearChart:
    """Geometry of twelve months of EMC (fractions)."""
    known = [emc for emc in monthly_emc if emc is not None]
    low, high = (max(0.0, min(known) - 0.02), max(known) + 0.02) if known else (0.06, 0.16)
    x, y = Scale(0, 12, LEFT, width - 8), Scale(low, high, YEAR_HEIGHT - YEAR_BOTTOM, YEAR_TOP)
    bottom = YEAR_HEIGHT - YEAR_BOTTOM
    whole = len(known) == 12
    points = [(x(k + 0.5), y(emc)) for k, emc in enumerate(monthly_emc) if emc is not None]
    if whole:
        # The year goes round: it begins and ends between December and January.
        turn = y((monthly_emc[0] + monthly_emc[-1]) / 2)  # type: ignore[operator]
        points = [(x(0), turn), *points, (x(12), turn)]
    mean = sum(known) / len(known) if known else 0.0
    # The mean is written under the wettest month, where the line is farthest above it.
    wettest = max(range(12), key=lambda k: -1.0 if monthly_emc[k] is None else monthly_emc[k])  # type: ignore[arg-type,return-value]
    written = _written([(x(k + 0.5), None if emc is None else y(emc)) for k, emc in enumerate(monthly_emc)])
    return YearChart(
        name=name,
        width=width,
        height=YEAR_HEIGHT,
        left=LEFT,
        right=width - 8,
        bottom=bottom,
        water=band(points, [(points[0][0], bottom), (points[-1][0], bottom)]) if len(points) > 1 else "",
        line=path(points) if len(points) > 1 else "",
        mean_y=tenth(y(mean)) if whole else "",
        mean_x=tenth(x(wettest + 0.5)),
        mean=numbers.points(mean),
        months=[
            MonthMark(
                tenth(x(k + 0.5)),
                tenth(y(emc)) if emc is not None else "",
                numbers.points(emc) if emc is not None and k in written else "",
                colour(emc) if emc is not None else "",
                MONTHS[k],
            )
            for k, emc in enumerate(monthly_emc)
        ],
        ticks=[Tick(y(k / 100), str(k)) for k in range(int(low * 100) + 1, int(high * 100) + 1, 2)],
        summary=", ".join(f"{MONTHS[k]} {numbers.points(emc)}" for k, emc in enumerate(monthly_emc) if emc is not None) or "No month yet.",
    )
