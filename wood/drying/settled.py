"""The settled board: what the same wood, as thick and in the same place, holds after lying there for years.

Wood is judged by what it still brings with it, not by the season: a room that swings wider than a tolerance carries every board in and out
of any fixed band. Beside the yearly mean stand two edges for each day of the year: what the settled board holds when it is kept to its
drying curve and when it is kept to its regaining one. A board between both has settled with its room as that is on the day, and nobody has
to know which of the curves it is on (hysteresis never closes).

Source: a rule of our own, over the field of :mod:`wood.drying.field`; docs/science.md tells on what it was tried.
"""

from dataclasses import dataclass

import numpy as np

from wood.air import climate
from wood.air.climate import YEAR_DAYS, AirSeries
from wood.air.levels import LEVEL_DAYS, level_through
from wood.arrays import Array, Values
from wood.drying import field, kernel
from wood.drying.arrival import Wanted
from wood.drying.field import Drive, Wood
from wood.errors import check_range
from wood.stacks.air import OpenBoard, Stack
from wood.uses import Use

# Boards within this of an edge are not told from the settled board itself (0.3 point).
NEAR_EDGE = 0.003
# The first year forgets where the run began; the second is the answer.
RUN_DAYS = 2 * YEAR_DAYS
# A half-inch board gets about as dry as anything in a place.
THIN_M = 0.0127
# Sizes are taken to the nearest of a row, each a fiftieth above the one before, so that boards alike share their settled board.
SIZE_STEP = 0.02
# What instruments are built for unless somebody names another moisture: the middle of what makers keep.
INSTRUMENT_C, INSTRUMENT_HUMIDITY = 20.0, 0.45
_ABOVE, _BELOW = 1e-6, 1e6


@dataclass(frozen=True)
class SettledBoard:
    """A year of the settled board, a value for each day from ``start_day`` (days after 1 January) on, going round; fractions.

    ``wet`` and ``dry`` are its edges. ``own_low`` and ``own_high`` are between what its middle differs from its mean. ``above`` and
    ``below`` are its yearly mean having come from wetter and from drier; one where the year's swing closes the loop between both sorption
    curves, two where the air stands still. ``lowest`` and ``highest`` are what it comes to in the year, ``driest`` what a half-inch board
    comes down to, ``least`` the lowest four-week level of the air.
    """

    wet: Array
    dry: Array
    own_low: Array
    own_high: Array
    above: float
    below: float
    lowest: float
    highest: float
    driest: float
    least: float
    start_day: float = 0.0

    @property
    def mean(self) -> float:
        """The middle of its yearly means."""
        return (self.above + self.below) / 2

    def starting(self, day: float) -> "SettledBoard":
        """The same year from another day (of the year) on."""
        shift = -round(day - self.start_day) % YEAR_DAYS
        wet, dry, low, high = (np.roll(item, shift) for item in (self.wet, self.dry, self.own_low, self.own_high))
        return SettledBoard(
            wet, dry, low, high, self.above, self.below, self.lowest, self.highest, self.driest, self.least, float(day % YEAR_DAYS)
        )

    def come_down_to_within(self, within: float) -> Wanted:
        """Wood that comes from wetter and is as near to this as ``within`` (a fraction above zero), day by day."""
        return Wanted(np.zeros(1), self.wet + check_range("within", within, 0.0, 1.0))

    def wanted(self, use: Use) -> Wanted:
        """What a use asks of wood in this place, day by day."""
        above, below = (self.least, self.least) if use.by_driest_weeks else (self.above, self.below)
        zero = np.zeros(1)
        return Wanted(
            np.array([below - use.tolerance]),
            np.array([above + use.tolerance]),
            use.allowed_gradient,
            own_low=zero if use.even_in_itself else self.own_low,
            own_high=zero if use.even_in_itself else self.own_high,
            now_low=self.dry - NEAR_EDGE,
            now_high=self.wet + NEAR_EDGE,
            driest=self.driest - use.tolerance if use.dry_may_be_worked else np.inf,
        )


def sizes_like(slabs_m: Values) -> Array:
    """The sizes of the row that slabs (m) are taken for, as :func:`size_like`.

    Raises:
        OutOfRange: slabs_m 0.5 mm…1.5 m.
    """
    slabs = check_range("slab_m", slabs_m, *field.THICKNESS_M, " m")
    return np.round(np.clip(np.exp(np.round(np.log(slabs) / SIZE_STEP) * SIZE_STEP), *field.THICKNESS_M), 4)


def size_like(slab_m: float) -> float:
    """The size of the row that a slab (m) is taken for.

    Raises:
        OutOfRange: slab_m 0.5 mm…1.5 m.

    >>> size_like(0.0286), size_like(0.0285)
    (0.0284, 0.0284)
    """
    return float(sizes_like(slab_m).item())


@dataclass(frozen=True)
class FeltYear:
    """A year of air, or air that is held, as wood that lies in it feels it: as it is, and with the wood kept to its drying (``damp``) and
    to its regaining curve (``dry``); ``table`` is what the tables bring wood to in the mean, ``least`` the lowest four-week level."""

    drive: Drive
    damp: Drive
    dry: Drive
    table: float
    least: float
    start_day: float


def felt_year(year: AirSeries, exposure: OpenBoard | Stack) -> FeltYear:
    """A year as wood feels it, worked out once for all wood in a place.

    Args:
        year: the air of the place, a year or air that is held.
    Raises:
        OutOfRange.
    """
    drive = field.driven(year, exposure)
    table = float(year.settling.mean())
    least = float(level_through(year, YEAR_DAYS)[LEVEL_DAYS:].min()) if year.days >= YEAR_DAYS - 1 else table
    return FeltYear(drive, _kept_to(drive, _ABOVE), _kept_to(drive, _BELOW), table, least, year.start_day)


def settled_board(wood: Wood, slab_m: float, felt: FeltYear) -> SettledBoard:
    """The settled board of a wood in a place.

    Args:
        slab_m: the slab that dries as fast as the piece (:attr:`wood.drying.questions.Question.as_slab_m`), 0.5 mm…1.5 m.
    Raises:
        OutOfRange.

    >>> from wood.air.climate import constant
    >>> shop = settled_board(Wood(0.56), 0.025, felt_year(constant(20, 0.45), OpenBoard()))
    >>> round(shop.below, 3), round(shop.above, 3)
    (0.078, 0.092)
    """
    check_range("slab_m", slab_m, *field.THICKNESS_M, " m")
    wet, dry = (_second_year(wood, slab_m, drive, felt.table) for drive in (felt.damp, felt.dry))
    above, below = (_second_year(wood, slab_m, felt.drive, float(edge.mean.mean())) for edge in (wet, dry))
    thin = _second_year(wood, THIN_M, felt.dry, felt.table) if slab_m > THIN_M else dry
    own = np.array([run.core - run.mean for run in (wet, dry, above, below)])
    means = sorted((float(above.mean.mean()), float(below.mean.mean())))
    return SettledBoard(
        np.maximum(wet.mean, dry.mean),
        np.minimum(wet.mean, dry.mean),
        own.min(axis=0),
        own.max(axis=0),
        means[1],
        means[0],
        float(min(above.mean.min(), below.mean.min())),
        float(max(above.mean.max(), below.mean.max())),
        float(thin.mean.min()),
        felt.least,
        felt.start_day,
    )


def instrument_air() -> AirSeries:
    """The air that instruments are built for: 45% at 20°C, held."""
    return climate.constant(INSTRUMENT_C, INSTRUMENT_HUMIDITY)


def _kept_to(drive: Drive, level: float) -> Drive:
    """The same climate with the wood always on one side of the loop: whatever it holds lies above, or below, what the air asks for."""
    sums = drive.sums.copy()
    sums[:, kernel.LEVEL] = level * np.arange(sums.shape[0])
    return Drive(sums, drive.step_s)


def _second_year(wood: Wood, slab_m: float, drive: Drive, start: float) -> field.History:
    days = np.arange(YEAR_DAYS, RUN_DAYS, dtype=float)
    longest = LONGEST_STEP_DAYS if slab_m >= THICK_M else field.LONGEST_STEP_DAYS
    return field.dry(wood, slab_m, start, drive, float(RUN_DAYS), out_days=days, tolerance=STEP, longest_step_days=longest)


# How far one step may be off in the mean, and how long it may be: thick wood changes slowly.
STEP, LONGEST_STEP_DAYS, THICK_M = 2e-4, 5.0, 0.012
