"""A finished piece through its year: how far it really swings, beside how far its air would take it if it had for ever.

Source: the field of :mod:`wood.drying.field` with the resistances of :mod:`wood.movement.finishes` (Wood Handbook ch. 16).
"""

from dataclasses import dataclass

import numpy as np

from wood.air.climate import YEAR_DAYS, AirSeries
from wood.air.levels import LEVEL_DAYS, level_through
from wood.drying import field
from wood.drying.diffusivity import Figures
from wood.drying.stacks import OpenBoard
from wood.errors import OutOfRange, check_range

# Years until the one shown no longer remembers how it was made.
YEARS_BEFORE = 3
DAYS = np.arange(YEAR_DAYS + 1, dtype=float)


@dataclass(frozen=True)
class Year:
    """A year of a piece. Moistures as fractions; ``days`` from where the series begins.

    ``low`` … ``high`` is the swing of its mean, ``level_low`` … ``level_high`` that of the four-week EMC. ``lag_days`` is how long after
    the level's lowest its own lowest comes; ``share`` its swing against the level's.
    """

    days: np.ndarray
    mean: np.ndarray
    surface: np.ndarray
    level: np.ndarray
    low: float
    high: float
    level_low: float
    level_high: float
    lag_days: float

    @property
    def share(self) -> float:
        reach = self.level_high - self.level_low
        return (self.high - self.low) / reach if reach > 1e-9 else 1.0


def through_year(figures: Figures, thickness_m: float, series: AirSeries, coating_s_m: float = 0.0) -> Year:
    """A piece of furniture, a door, a board on the wall through the year of its place, after three years there.

    Args:
        series: a whole year (365 days); coating_s_m: the finish (:mod:`wood.movement.finishes`).
    Raises:
        OutOfRange.

    >>> from wood.air.climate import pattern
    >>> from wood.air.rooms import Room, room
    >>> from wood.drying.diffusivity import of_species
    >>> from wood.species import species_named
    >>> indoors = room(pattern("cold_winter").year, Room())
    >>> top = through_year(of_species(species_named("northern_red_oak")), 0.022, indoors)
    >>> bool(0.3 < top.share <= 1.05)
    True
    """
    check_range("thickness_m", thickness_m, *field.THICKNESS_M, " m")
    if abs(series.days - YEAR_DAYS) > 0.5:
        raise OutOfRange("series_days", series.days, YEAR_DAYS, YEAR_DAYS, " days")
    start = float(series.settling.mean())
    drive = field.driven(series, OpenBoard(wind_share=1.0), coating_s_m)
    before = YEARS_BEFORE * YEAR_DAYS
    ran = field.dry(figures.wood, thickness_m, start, drive, before + YEAR_DAYS, out_days=before + DAYS, longest_step_days=1.0)
    # The level goes round with the year: two rounds, the second without a beginning.
    level = level_through(series, 2.0 * YEAR_DAYS)[YEAR_DAYS : 2 * YEAR_DAYS + 1]
    # The four weeks before a day lie two weeks behind it.
    centred = np.roll(level[:-1], -LEVEL_DAYS // 2)
    lag = (float(np.argmin(ran.mean[:-1])) - float(np.argmin(centred))) % YEAR_DAYS
    return Year(
        days=DAYS, mean=ran.mean, surface=ran.surface, level=np.append(centred, centred[0]), low=float(ran.mean.min()),
        high=float(ran.mean.max()), level_low=float(level.min()), level_high=float(level.max()),
        lag_days=lag if lag < YEAR_DAYS / 2 else lag - YEAR_DAYS,
    )  # fmt: skip
