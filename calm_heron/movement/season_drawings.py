"""A year as a ring, and two years as a waterline."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from calm_heron.site.drawing import Scale, Tick, path
from calm_heron.site.numbers import points
from calm_heron.site.ramp import colour
from wood.air.climate import MONTH_BEGINS, MONTH_DAYS, MONTHS, YEAR_DAYS
from wood.movement.course import Course
from wood.movement.seasons import Season
from wood.units import System
from wood.written import cut_length

DIAL_SIZE, INNER, OUTER = 300, 42.0, 112.0
HEIGHT, LEFT, ABOVE, BELOW, RIGHT = 190, 34, 14, 26, 12


@dataclass(frozen=True)
class Dial:
    """A year going round: January at the top, moisture outwards.

    ``level`` is what the air alone would make, ``mean`` what the wood comes to.
    """

    size: int
    centre: float
    level: str
    mean: str
    fill: str
    rings: list[tuple[float, str]]
    months: list[tuple[float, float, str]]
    summary: str


def dial(course: Course) -> Dial:
    """The last year of a course that began in January."""
    level, mean = course.level[-YEAR_DAYS:], course.mean[-YEAR_DAYS:]
    low, high = math.floor(min(level.min(), mean.min()) * 100), math.ceil(max(level.max(), mean.max()) * 100)
    out = Scale(low / 100, max(high, low + 1) / 100, INNER, OUTER)
    centre = DIAL_SIZE / 2
    # A course begins on its first day; its last 365 days begin on the same.
    turn = (np.arange(YEAR_DAYS) + course.first_day) / YEAR_DAYS * 2 * np.pi

    def ring(moistures: np.ndarray) -> str:
        radius = np.array([out(value) for value in moistures])
        return path(np.column_stack([centre + radius * np.sin(turn), centre - radius * np.cos(turn)]).tolist(), closed=True)

    begins = np.array(MONTH_BEGINS) + np.array(MONTH_DAYS) / 2
    months = [
        (
            centre + (OUTER + 19) * math.sin(day / YEAR_DAYS * 2 * math.pi),
            centre - (OUTER + 19) * math.cos(day / YEAR_DAYS * 2 * math.pi),
            name,
        )
        for day, name in zip(begins.tolist(), MONTHS, strict=True)
    ]
    step = max(1, round((high - low) / 4))
    return Dial(
        DIAL_SIZE,
        centre,
        ring(level),
        ring(mean),
        colour(float(mean.mean())),
        [(out(percent / 100), str(percent)) for percent in range(low, high + 1, step)],
        months,
        f"Through the year its air would take it from {points(float(level.min()))} to {points(float(level.max()))} percent; it comes to "
        f"{points(float(mean.min()))} to {points(float(mean.max()))}.",
    )


# A wheel of woods: as wide as a sheet of paper, on which its letters are 12 points high; its bars begin and end so far from its middle.
WHEEL, HUB, RIM, NAMED = 760, 48.0, 150.0, 162.0
# So many letters have room outside it; a longer name is set closer.
LETTERS, LONGEST = 25, 212
# As many as stand apart there.
MOST_ON_WHEEL = 48


@dataclass(frozen=True)
class Spoke:
    """A wood on the wheel: which way it points, degrees from the top; how far from the middle its two bars reach, and how long they are;
    its name and whether that is read from the rim inwards, so that it does not stand on its head."""

    turn_deg: float
    flat: float
    quarter: float
    flat_long: float
    quarter_long: float
    name: str
    inwards: bool
    chosen: bool

    @property
    def squeezed_to(self) -> int | None:
        """How long its name may be, where it would be longer."""
        return LONGEST if len(self.name) > LETTERS else None


@dataclass(frozen=True)
class Wheel:
    """Woods going round, in their order from the top; each bar outwards is what it moves."""

    size: int
    hub: float
    named: float
    rings: list[float]
    spokes: list[Spoke]
    summary: str


def wheel(lines: Sequence[tuple[Season, bool]], system: System) -> Wheel:
    """Woods as spokes, each with whether it is the one that is looked at."""
    most = max((season.flat_m for season, _ in lines), default=1e-3)
    out = Scale(0.0, most, HUB, RIM)
    spokes = []
    for n, (season, chosen) in enumerate(lines):
        turn = (n + 0.5) / len(lines) * 360
        name = f"{season.species.common_name}, {cut_length(season.flat_m, system)}"
        flat, quarter = out(season.flat_m), out(season.quarter_m)
        spokes.append(Spoke(turn, flat, quarter, flat - HUB, quarter - HUB, name, turn > 180, chosen))
    rings = [out(most * share) for share in (0.5, 1.0)]
    words = f"{len(lines)} woods going round, each with a bar as long as it moves flat-sawn, and a thin one quarter-sawn."
    return Wheel(WHEEL, HUB, NAMED, rings, spokes, words)


@dataclass(frozen=True)
class CourseChart:
    """Two years as a waterline: the air's level, and the wood that follows it."""

    width: int
    height: int
    water: str
    surface: str
    thread: str
    across: list[Tick]
    up: list[Tick]
    left: float
    right: float
    bottom: float
    start: tuple[float, float]
    summary: str


def chart(course: Course, first_day: float, width: int) -> CourseChart:
    """A course from its first day on."""
    level, mean = course.level, course.mean
    low, high = min(level.min(), mean.min()) - 0.005, max(level.max(), mean.max()) + 0.005
    x, y = Scale(0, course.days[-1], LEFT, width - RIGHT), Scale(low, high, HEIGHT - BELOW, ABOVE)
    every = np.arange(0, course.days.size, 5)
    surface = [(x(day), y(level[day])) for day in every.tolist()]
    bottom = HEIGHT - BELOW
    ticks, day = [], -first_day
    months = 3 if width > 500 else 6
    for turn in range(36):
        if turn % months == 0 and 0 <= day <= course.days[-1]:
            ticks.append(Tick(x(day), MONTHS[turn % 12]))
        day += MONTH_DAYS[turn % 12]
    step = 1 if high - low < 0.08 else 2
    up = [Tick(y(percent / 100), str(percent)) for percent in range(math.ceil(low * 100), math.floor(high * 100) + 1, step)]
    return CourseChart(
        width,
        HEIGHT,
        path([*surface, (surface[-1][0], bottom), (surface[0][0], bottom)], closed=True),
        path(surface),
        path([(x(day), y(mean[day])) for day in every.tolist()]),
        ticks,
        up,
        LEFT,
        width - RIGHT,
        bottom,
        (x(0), y(mean[0])),
        f"From {points(course.built)} percent on the first day to between {points(course.low)} and {points(course.high)} over two years.",
    )
