"""The course of a finished thing: its moisture from the day it is built through its first two years where it will live.

Two lines: what its air would take it to if it had for ever (the four-week EMC), and what it really comes to, damped and late by its
thickness and its finish. Everything that is said of a thing that is built is read off one course.

Source: the field of :mod:`wood.drying.field` with the resistances of :mod:`wood.movement.finishes` (Wood Handbook ch. 16).
"""

from dataclasses import dataclass, field, replace

import numpy as np

from wood.air.climate import YEAR_DAYS, AirSeries
from wood.air.levels import LEVEL_DAYS, level_through
from wood.arrays import Array
from wood.drying import field as moisture_field
from wood.drying.diffusivity import Figures
from wood.errors import OutOfRange, check_range
from wood.stacks.air import OpenBoard

YEARS = 2
COURSE_DAYS = YEARS * YEAR_DAYS
# Two years that end this close to each other (a fraction of moisture) are the same year again.
SAME_YEAR = 0.003
MOISTURE = (0.0, 0.8)


@dataclass(frozen=True)
class Course:
    """Moistures (fractions) day by day from the day something is built, the day itself first.

    ``level`` is what its air alone would bring it to, ``mean`` what it comes to. ``paced`` is false where the species' pace is not known,
    or where moistures were named instead of air: ``mean`` is then ``level``. ``climate_uncertainty`` is what the air leaves open,
    ``built_uncertainty`` what the meter left open on the day (fractions, two standard deviations).
    """

    built: float
    level: np.ndarray
    mean: np.ndarray
    paced: bool
    first_day: float = 0.0
    built_uncertainty: float = 0.0
    climate_uncertainty: float = 0.0
    days: np.ndarray = field(init=False, repr=False)

    def __post_init__(self) -> None:
        object.__setattr__(self, "days", np.arange(self.mean.size, dtype=float))

    @property
    def low(self) -> float:
        """The driest it is, the day it was built included."""
        return float(self.mean.min())

    @property
    def high(self) -> float:
        return float(self.mean.max())

    @property
    def low_day(self) -> int:
        """Days after it was built until it is driest."""
        return int(self.mean.argmin())

    @property
    def high_day(self) -> int:
        return int(self.mean.argmax())

    @property
    def level_low(self) -> float:
        """The driest that its air alone would make it, or the moisture it was built at, if that is lower."""
        return min(self.built, float(self.level.min()))

    @property
    def level_high(self) -> float:
        return max(self.built, float(self.level.max()))

    @property
    def second_year(self) -> tuple[float, float]:
        """The driest and the dampest of its second year, when the day it was built is forgotten."""
        year = self.mean[YEAR_DAYS:]
        return float(year.min()), float(year.max())

    @property
    def share(self) -> float:
        """The swing of the last year as a share of what its air alone would make it."""
        mean, level = self.mean[-YEAR_DAYS:], self.level[-YEAR_DAYS:]
        reach = float(np.ptp(level))
        return float(np.ptp(mean)) / reach if reach > 1e-6 else 1.0

    @property
    def lag_days(self) -> float:
        """How long after its air's driest weeks the wood is driest, in its last year."""
        late = float(self.mean[-YEAR_DAYS:].argmin()) - float(self.level[-YEAR_DAYS:].argmin())
        return (late + YEAR_DAYS / 2) % YEAR_DAYS - YEAR_DAYS / 2

    @property
    def settled(self) -> bool:
        """Whether it ends its second year where it ended its first."""
        return abs(float(self.mean[-1] - self.mean[-1 - YEAR_DAYS])) <= SAME_YEAR

    @property
    def uncertainty(self) -> float:
        """What a difference from the day it was built leaves open (a fraction of moisture, two standard deviations)."""
        return float(np.hypot(self.built_uncertainty, self.climate_uncertainty))

    def at(self, day: float) -> float:
        """Its moisture so many days after it was built.

        Raises:
            OutOfRange: day 0…730.
        """
        check_range("day", day, 0.0, COURSE_DAYS, " days")
        return float(np.interp(day, self.days, self.mean))


def in_air(
    figures: Figures | None,
    thickness_m: float,
    built: float,
    series: AirSeries,
    coating_s_m: float = 0.0,
    *,
    built_uncertainty: float = 0.0,
    climate_uncertainty: float = 0.0,
) -> Course:
    """Two years of a part that is built at a moisture and lives in the air of a series, from its first day on.

    Args:
        figures: the species' pace, ``None`` where it is not known; thickness_m: 0.5 mm…1.5 m; built: 0…0.8.
        series: a whole year (365 days) that begins on the day of building; coating_s_m: the finish, on both faces alike.
        built_uncertainty, climate_uncertainty: what the meter and the air leave open, 0…0.3.
    Raises:
        OutOfRange.

    >>> from wood.air.climate import pattern
    >>> from wood.air.rooms import Room, room
    >>> from wood.drying.diffusivity import of_species
    >>> from wood.species import species_named
    >>> house = room(pattern("cold_winter").year, Room())
    >>> top = in_air(of_species(species_named("white_oak")), 0.022, 0.09, house)
    >>> bool(top.low < 0.07 and top.level_low <= top.low)
    True
    """
    check_range("thickness_m", thickness_m, *moisture_field.THICKNESS_M, " m")
    check_range("built", built, *MOISTURE)
    _check_uncertainties(built_uncertainty, climate_uncertainty)
    if abs(series.days - YEAR_DAYS) > 0.5:
        raise OutOfRange("series_days", series.days, YEAR_DAYS, YEAR_DAYS, " days")
    level = level_of(series)
    if figures is None:
        return Course(built, level, _from(built, level), False, series.start_day, built_uncertainty, climate_uncertainty)
    drive = moisture_field.driven(series, OpenBoard(wind_share=1.0), coating_s_m)
    days = np.arange(COURSE_DAYS + 1, dtype=float)
    ran = moisture_field.dry(figures.wood, thickness_m, built, drive, COURSE_DAYS, out_days=days, longest_step_days=1.0)
    mean = ran.mean.copy()
    mean[0] = built
    return Course(built, level, mean, True, series.start_day, built_uncertainty, climate_uncertainty)


def between(built: float, low: float, high: float, *, built_uncertainty: float = 0.0, uncertainty: float = 0.0) -> Course:
    """A course between two given moistures, for use without a year of air: driest after three months, dampest after nine. The two are
    taken as the moistures that the wood itself comes to.

    Args:
        built, low, high: 0…0.8, ``low`` not above ``high``; built_uncertainty, doubt: 0…0.3.
    Raises:
        OutOfRange.

    >>> between(0.09, 0.06, 0.11).low
    0.06
    """
    for name, value in (("built", built), ("low", low), ("high", high)):
        check_range(name, value, *MOISTURE)
    check_range("low", low, MOISTURE[0], high)
    _check_uncertainties(built_uncertainty, uncertainty)
    # From the middle down, up and back, so that both ends are met whatever it was built at.
    days = np.arange(COURSE_DAYS + 1, dtype=float)
    level = (low + high) / 2 - (high - low) / 2 * np.sin(2 * np.pi * days / YEAR_DAYS)
    level = np.clip(level, low, high)
    quarter = int(np.argmin(level[:YEAR_DAYS]))
    level[quarter], level[int(np.argmax(level[:YEAR_DAYS]))] = low, high
    return Course(built, level, _from(built, level), False, 0.0, built_uncertainty, uncertainty)


def level_of(series: AirSeries) -> Array:
    """The four-week EMC of a year about each day of a course: what its air alone would make of wood."""
    # A round before and one after, so that the four weeks about each day are whole.
    trailing = level_through(series, COURSE_DAYS + YEAR_DAYS + LEVEL_DAYS)
    first = YEAR_DAYS + LEVEL_DAYS // 2
    return trailing[first : first + COURSE_DAYS + 1]


def _from(built: float, level: Array) -> Array:
    mean = level.copy()
    mean[0] = built
    return mean


def rained_on(course: Course, wet: float) -> Course:
    """The same course of boards that lie in the rain: its damp season is raised until it comes to this moisture, its dry one stays.

    Args:
        wet: 0…0.8; nothing changes where the course is as damp already.
    Raises:
        OutOfRange.

    >>> round(rained_on(between(0.14, 0.12, 0.16), 0.20).high, 3)
    0.2
    """
    check_range("wet", wet, *MOISTURE)

    def raised(moistures: Array) -> Array:
        # Measured by the second year: what was built wetter than the rain makes it dries down to that first.
        low, high = float(moistures[YEAR_DAYS:].min()), float(moistures[YEAR_DAYS:].max())
        if high >= wet or high - low < 1e-9:
            return moistures
        more = (wet - high) * np.clip((moistures - low) / (high - low), 0.0, 1.0)
        result = np.maximum(moistures, np.minimum(moistures + more, wet))
        result[0] = moistures[0]
        return result

    return replace(course, level=raised(course.level), mean=raised(course.mean))


def _check_uncertainties(built_uncertainty: float, climate_uncertainty: float) -> None:
    check_range("built_doubt", built_uncertainty, 0.0, 0.3)
    check_range("climate_doubt", climate_uncertainty, 0.0, 0.3)
