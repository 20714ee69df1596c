"""A part's first year, drawn: how its width or its gap goes through the months, with its band and what was measured."""

from dataclasses import dataclass
from datetime import timedelta

import numpy as np

from calm_heron.builds.made.following import BuildYear, FollowedPart
from calm_heron.site.drawing import Scale, Tick, band, path
from wood.air.climate import MONTHS, YEAR_DAYS
from wood.builds.first_year import Against, FirstYear, Measured, Standing
from wood.units import INCH_M, System
from wood.written import inches

WIDTH, HEIGHT, LEFT, RIGHT, ABOVE, BELOW = 720, 250, 64, 16, 16, 30
NARROW_WIDTH = 360
EVERY = 5
# Steps of the scale upwards: 1/64 in and what doubles it, or a tenth of a millimetre and so on.
STEPS_IN = tuple(2.0**power / 64 * INCH_M for power in range(8))
STEPS_MM = tuple(step / 1000 for step in (0.1, 0.2, 0.5, 1.0, 2.0, 5.0, 10.0, 20.0))
MOST_TICKS = 6


@dataclass(frozen=True)
class YearDrawing:
    """``thread`` is what is forecast, ``doubt`` its band, ``dots`` what was measured: where, how large, and whether as forecast."""

    width: int
    height: int
    doubt: str
    thread: str
    zero: float
    right: float
    bottom: float
    left: float
    across: list[Tick]
    up: list[Tick]
    dots: list[tuple[float, float, bool]]
    caption: str
    summary: str


def year_drawing(part: FollowedPart, year: BuildYear, system: System, *, narrow: bool = False) -> YearDrawing:
    """The gap of an inset part, or how much wider or narrower another is than on the day it was made, for a year; longer where something
    was measured later."""
    own = part.year
    assert own is not None
    width = NARROW_WIDTH if narrow else WIDTH
    against = [item for _, item in part.measured if item is not None]
    last = min(max([YEAR_DAYS, *(item.day for item in against)]), own.width_m.size - 1)
    gap = own.gap_m
    values = own.width_m - own.width_m[0] if gap is None else gap
    values, open_ = values[: last + 1], own.width_uncertainty_m[: last + 1]
    dots = [(item.day, _drawn(item, own), item.standing is Standing.AS_FORECAST) for item in against]
    low = min(float((values - open_).min()), 0.0, *(value for _, value, _ in dots))
    high = max(float((values + open_).max()), 0.0, *(value for _, value, _ in dots))
    room = 0.06 * (high - low) + 1e-5
    x, y = Scale(0, last, LEFT, width - RIGHT), Scale(low - room, high + room, HEIGHT - BELOW, ABOVE)
    days = np.unique(np.append(np.arange(0, last + 1, EVERY), last))
    steps = STEPS_IN if system.is_inch else STEPS_MM
    step = next((step for step in steps if (high - low) / step <= MOST_TICKS), steps[-1])
    marks = range(int(np.ceil(low / step)), int(np.floor(high / step)) + 1)
    ticks = [Tick(y(n * step), _tick(n * step, system, signed=gap is None)) for n in marks]
    caption = "Its gap in the opening" if gap is not None else "How much wider or narrower than when it was made"
    return YearDrawing(
        width,
        HEIGHT,
        band([(x(day), y(values[day] + open_[day])) for day in days], [(x(day), y(values[day] - open_[day])) for day in days]),
        path([(x(day), y(values[day])) for day in days]),
        y(0.0),
        width - RIGHT,
        HEIGHT - BELOW,
        LEFT,
        _months(year, last, x, 2 if narrow or last > YEAR_DAYS else 1),
        ticks,
        [(x(day), y(value), good) for day, value, good in dots],
        caption,
        f"{part.part.name}: {caption.lower()}, through {'its first year' if last <= YEAR_DAYS else 'two years'}.",
    )


def _drawn(found: Against, own: FirstYear) -> float:
    """Where something measured is drawn; a reading of its moisture by the width that it means."""
    if found.what is Measured.GAP:
        return found.measured
    wide = found.measured if found.what is Measured.WIDTH else float(own.made.strip.width_at(own.made.moisture, found.moisture))
    return wide - own.made.width_m if own.made.opening_m is None else own.made.opening_m - wide


def _tick(metres: float, system: System, *, signed: bool) -> str:
    """A number of the scale, its unit once at the head of it."""
    if abs(metres) < 1e-7:
        return "0"
    sign = "−" if metres < 0 else "+" if signed else ""
    return sign + (inches(abs(metres)) if system.is_inch else f"{abs(metres) * 1000:g}")


def _months(year: BuildYear, last: int, x: Scale, every: int) -> list[Tick]:
    """The first of each month, by its name."""
    ticks = []
    for day in range(last + 1):
        on = year.since + timedelta(days=day)
        if on.day == 1 and (on.month - 1) % every == 0:
            ticks.append(Tick(x(day), MONTHS[on.month - 1]))
    return ticks
