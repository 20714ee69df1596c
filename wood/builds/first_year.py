"""What a part does in the first year after it was made, and what a reading or a size measured later says about that.

A part leaves the bench at a moisture and a width. From then on it follows the air of its home (:mod:`wood.movement.course`); its width
follows its moisture by the ratio of sizes. What is found later is held against the day it was found on: a meter's reading against the
moisture, a rule's width against the width, a gap against the opening less the width. Each has a band: what the meter left open when it was
made, what the air's year leaves open, what the species does, and what was measured with.

Sizes in metres, moistures as fractions. Source: shrinkage by :mod:`wood.movement.shrinkage`, course by :mod:`wood.movement.course`; how
closely a rule and a pocket meter read are our own judgement.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from wood.air.climate import MONTH_BEGINS, MONTH_DAYS, MONTH_NAMES, YEAR_DAYS
from wood.arrays import Array
from wood.builds.sizes import Fit, check_positive
from wood.errors import NotKnown, check_range
from wood.movement.course import Course
from wood.movement.shrinkage import Shrinkage
from wood.movement.widths import SPREAD, Strip

# What is open where nobody says with what it was measured, two standard deviations: a pocket meter, a rule, a feeler or a wedge in a gap.
METER_M, RULE_M, GAUGE_M = 0.01, 0.0004, 0.0002
# A size within a week of the day it was made is a size of that day, and later ones are held against it.
SAME_DAY = 7


class Measured(StrEnum):
    """What was measured of a part that was made: its moisture, its width across the grain, or the gap that it leaves in its opening."""

    MOISTURE = "moisture"
    WIDTH = "width"
    GAP = "gap"


class Standing(StrEnum):
    """How something measured stands to what was forecast."""

    AS_FORECAST = "as_forecast"
    DRIER = "drier"
    WETTER = "wetter"


@dataclass(frozen=True)
class MadePart:
    """A part as it was made: its moisture on the day, its width across the grain, the angle of its rings (0 flat-sawn … 90
    quarter-sawn), how it meets the next part, and the opening that an inset one fills.

    Raises:
        OutOfRange: moisture 0…0.6, a width below 1 mm or above 15 m, an angle beyond 0…90.
    """

    shrinkage: Shrinkage
    moisture: float
    width_m: float
    ring_angle_deg: float
    fit: Fit = Fit.FREE
    opening_m: float | None = None

    def __post_init__(self) -> None:
        check_range("moisture", self.moisture, 0.0, 0.6)
        check_range("ring_angle_deg", self.ring_angle_deg, 0.0, 90.0, "°")
        for size in (self.width_m, *(() if self.opening_m is None else (self.opening_m,))):
            check_positive(size)

    @property
    def strip(self) -> Strip:
        """As boards are reckoned with."""
        return Strip(self.shrinkage, self.ring_angle_deg, self.width_m)


@dataclass(frozen=True)
class Month:
    """A month of the first year: its number 1…12, the day of the course in its middle, and what the part is then."""

    month: int
    day: int
    moisture: float
    width_m: float
    gap_m: float | None

    @property
    def name(self) -> str:
        return MONTH_NAMES[self.month - 1]


@dataclass(frozen=True)
class FirstYear:
    """A part day by day, the day it was made first, through the two years of its course: moisture, width, and the band of either (two
    standard deviations). What is told of its first year is of that alone.
    """

    made: MadePart
    course: Course
    moisture: Array
    width_m: Array
    moisture_uncertainty: Array
    width_uncertainty_m: Array

    @property
    def gap_m(self) -> Array | None:
        """What an inset part leaves of its opening; below nothing where it sticks. None for others."""
        return None if self.made.opening_m is None else self.made.opening_m - self.width_m

    @property
    def narrowest_day(self) -> int:
        return int(self.width_m[: YEAR_DAYS + 1].argmin())

    @property
    def widest_day(self) -> int:
        return int(self.width_m[: YEAR_DAYS + 1].argmax())

    @property
    def settled_extremes(self) -> tuple[int, int]:
        """The days of its second year on which it is narrowest and widest, when the day it was made is forgotten."""
        settled = self.width_m[YEAR_DAYS:]
        return YEAR_DAYS + int(settled.argmin()), YEAR_DAYS + int(settled.argmax())

    @property
    def most_moved_m(self) -> float:
        """By how much its width differs most from that of the day it was made; below nothing where it becomes narrower."""
        return float(self.width_m[self.most_moved_day] - self.width_m[0])

    @property
    def most_moved_day(self) -> int:
        return int(np.abs(self.width_m[: YEAR_DAYS + 1] - self.width_m[0]).argmax())

    @property
    def sticks_from(self) -> int | None:
        """The first day on which an inset part fills its opening, None where it never does."""
        gap = self.gap_m
        full = np.flatnonzero(gap[: YEAR_DAYS + 1] <= 0.0) if gap is not None else np.zeros(0, int)
        return int(full[0]) if full.size else None

    def months(self) -> list[Month]:
        """The twelve months after that of the day it was made, each in its middle."""
        gap, rows = self.gap_m, []
        first = self.course.first_day
        for month in range(12):
            # The middle of this month, when it comes next.
            day = round((MONTH_BEGINS[month] + MONTH_DAYS[month] / 2 - first) % YEAR_DAYS)
            rows.append(
                Month(month + 1, day, float(self.moisture[day]), float(self.width_m[day]), None if gap is None else float(gap[day]))
            )
        return sorted(rows, key=lambda row: row.day)


def first_year(made: MadePart, course: Course) -> FirstYear:
    """What a part does from the day it was made on.

    Args:
        course: two years of its home, begun at its moisture on the day it was made.
    Raises:
        OutOfRange: the course begins at another moisture.

    >>> from wood.movement.course import between
    >>> from wood.movement.shrinkage import of_species
    >>> from wood.species import species_named
    >>> front = MadePart(of_species(species_named("white_ash")), 0.08, 0.150, 0.0, Fit.INSET, 0.153)
    >>> year = first_year(front, between(0.08, 0.06, 0.11))
    >>> round(float(year.gap_m.min()) * 1000, 1), year.sticks_from is None
    (1.8, True)
    """
    check_range("course_built", course.built, made.moisture - 1e-9, made.moisture + 1e-9)
    width = np.asarray(made.strip.width_at(made.moisture, course.mean), float)
    per_moisture = made.strip.per_point(made.moisture) / 0.01 * made.width_m
    by_species = 2 * SPREAD * np.abs(width - made.width_m)
    # On the day it was made its size is known; what the meter and the air leave open comes in as it moves to its home's own moisture.
    share = _share_of_the_way(course)
    moisture = np.hypot(course.built_uncertainty * (1.0 - share), course.climate_uncertainty * share)
    return FirstYear(made, course, course.mean, width, moisture, np.hypot(by_species, per_moisture * course.uncertainty * share))


def _share_of_the_way(course: Course) -> Array:
    """How far the wood has come to its home's own moisture by each day: not at all on the first, wholly once it follows its air."""
    return 1.0 - np.exp(-course.days / (max(course.lag_days, 0.0) + SAME_DAY))


def day_of_course(days: int) -> int:
    """The day of a course of two years that stands for so many days (0…) after it was made: later years are like its second.

    Raises:
        OutOfRange: before it was made, or a century after.

    >>> day_of_course(100), day_of_course(900)
    (100, 535)
    """
    check_range("days", days, 0, 36_525, " days")
    return days if days <= 2 * YEAR_DAYS else YEAR_DAYS + (days - YEAR_DAYS) % YEAR_DAYS


@dataclass(frozen=True)
class Against:
    """Something measured, held against the forecast of its day: ``measured``, ``forecast`` and the band between the two
    (``uncertainty``, two standard deviations), in metres or as a fraction; ``moisture`` is what the wood is at if the measurement is right.
    """

    what: Measured
    day: int
    measured: float
    forecast: float
    uncertainty: float
    moisture: float

    @property
    def beyond(self) -> float:
        """By how much it differs."""
        return self.measured - self.forecast

    @property
    def standing(self) -> Standing:
        """Whether it is as it was forecast; a narrow part and a wide gap are of dry wood."""
        if abs(self.beyond) <= self.uncertainty:
            return Standing.AS_FORECAST
        wetter = self.beyond < 0 if self.what is Measured.GAP else self.beyond > 0
        return Standing.WETTER if wetter else Standing.DRIER


@dataclass(frozen=True)
class Finding:
    """A measurement of a part: what, on which day after it was made (0…730), its value (a fraction or metres)."""

    what: Measured
    day: int
    value: float


def held_against(year: FirstYear, found: Finding, others: Sequence[Finding] = (), measured_to: float | None = None) -> Against:
    """A measurement held against the forecast of its day.

    Args:
        found: a moisture, a width or a gap; others: what else was measured of the part, of which the first of the same kind within a week
            of its making stands for what it was made at; measured_to: two standard deviations of the instrument (a fraction or metres).
    Raises:
        OutOfRange: a day beyond 0…730, a moisture beyond 0…0.6, a width below 1 mm, a gap beyond ±50 mm or an instrument beyond 0…1.
    """
    check_range("day", found.day, 0, year.width_m.size - 1, " days")
    if measured_to is not None:
        check_range("measured_to", measured_to, 0.0, 1.0)
    made, day = year.made, found.day
    if found.what is Measured.MOISTURE:
        check_range("moisture", found.value, 0.0, 0.6)
        open_ = np.hypot(year.moisture_uncertainty[day], METER_M if measured_to is None else measured_to)
        return Against(found.what, day, found.value, float(year.moisture[day]), float(open_), found.value)
    if found.what is Measured.GAP:
        check_range("gap_m", found.value, -0.05, 0.05, " m")
        forecast = year.gap_m
        if forecast is None:
            raise NotKnown("opening_m", "a part that fills no opening")
        forecast_now, tool = float(forecast[day]), GAUGE_M
    else:
        forecast_now, tool = float(year.width_m[day]), RULE_M
        check_positive(found.value)
    begun = next((other for other in others if other.what is found.what and other.day <= SAME_DAY and other != found), None)
    tool = tool if measured_to is None else measured_to
    # What it really was on the day, where somebody measured that: the forecast starts from there.
    off = 0.0
    if begun is not None and day > SAME_DAY:
        then = forecast if found.what is Measured.GAP else year.width_m
        off, tool = begun.value - float(then[begun.day]), float(np.hypot(tool, tool))  # type: ignore[index]
    forecast_now += off
    open_ = np.hypot(float(year.width_uncertainty_m[day]), tool)
    narrower = (found.value - forecast_now) * (-1.0 if found.what is Measured.GAP else 1.0)
    return Against(found.what, day, found.value, forecast_now, float(open_), _moisture_at(made, float(year.moisture[day]), narrower))


def _moisture_at(made: MadePart, moisture: float, wider_m: float) -> float:
    """The moisture at which a part is so much wider than at ``moisture``."""
    strip = made.strip
    per = float(strip.width_at(made.moisture, moisture + 0.005)) - float(strip.width_at(made.moisture, moisture - 0.005))
    if per <= 0.0:
        return moisture
    return float(np.clip(moisture + 0.01 * wider_m / per, 0.0, made.shrinkage.fibre_saturation))
