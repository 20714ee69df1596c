"""Acclimation: how long wood must lie in a place before it is worked there, and what hurries it safely.

The moisture field with small differences. Wood is settled when its mean is within the tolerance of what the place brings it to and
core and shell are within the tolerance of each other. The place brings wood that regains to less than wood that dries, and
leaves wood that lies between both as it is (hysteresis), so the level is what this wood would come to from its own side.

Source: the field of :mod:`wood.drying.field`; "settled" is our own rule, after flooring practice.
"""

from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from wood.air.climate import AirSeries
from wood.arrays import Array, Values
from wood.drying import field
from wood.drying.diffusivity import Figures
from wood.drying.stacks import OpenBoard, Stack
from wood.errors import check_range

LONGEST_DAYS = 730.0
# The level is the mean EMC of four weeks, as in every verdict.
LEVEL_DAYS = 28
LOOKS_A_DAY = 4
# How far a step may be off in the mean: a hundredth of a point is small against any tolerance of a use.
SETTLING_TOLERANCE = 2e-5
ROUND_ABOUT = OpenBoard(wind_share=1.0)


@dataclass(frozen=True)
class Stay:
    """A piece and the place it comes to. Sizes in metres, moistures as fractions.

    ``shell`` and ``core`` are the moistures just under the face and in the middle; the profile between is the parabola of a drying
    board. ``length_m`` is given where open ends matter. ``series`` begins when the wood arrives.

    Raises:
        OutOfRange.
    """

    figures: Figures
    thickness_m: float
    shell: float
    core: float
    series: AirSeries
    exposure: OpenBoard | Stack = ROUND_ABOUT
    tolerance: float = 0.01
    length_m: float | None = None
    ends_open: bool = False
    coating_s_m: float = 0.0

    def __post_init__(self) -> None:
        check_range("thickness_m", self.thickness_m, *field.THICKNESS_M, " m")
        check_range("shell", self.shell, 0.0, field.GREATEST_MOISTURE)
        check_range("core", self.core, 0.0, field.GREATEST_MOISTURE)
        check_range("tolerance", self.tolerance, 0.001, 0.2)
        if self.length_m is not None:
            check_range("length_m", self.length_m, 0.005, 15.0, " m")

    def profile(self, skimmed_m: float = 0.0) -> np.ndarray:
        """Moisture from the face to the middle in equal steps, with so much taken off the face."""
        check_range("skimmed_m", skimmed_m, 0.0, 0.45 * self.thickness_m, " m")
        half = self.thickness_m / 2
        depth = np.linspace(skimmed_m, half, 60)
        return self.core - (self.core - self.shell) * (1 - depth / half) ** 2

    @property
    def mean(self) -> float:
        return float(self.core - (self.core - self.shell) / 3)


@dataclass(frozen=True)
class Settled:
    """When a stay is over; days are infinite where it is not within two years. ``level`` is what it then came to.

    ``days_low`` … ``days_high`` is the band for the spread of the wood's own pace, eight boards in ten.
    """

    days: float
    mean_days: float
    even_days: float
    level: float
    history: field.History
    days_low: float = np.nan
    days_high: float = np.nan


def level_through(series: AirSeries, days: float, moisture: Values | None = None) -> Array:
    """The four-week mean of what each day from the start brings wood to; fractions.

    Args:
        days: how many; 0…20 000.
        moisture: the wood's own moisture each day, or one value, to tell on which side of the loop between both sorption curves it
            lies; the table's EMC where it is not given. Wood inside the loop is where it would come to.
    Raises:
        OutOfRange.
    """
    check_range("days", days, 0.0, 20_000.0, " days")
    count = int(np.ceil(days)) + 1
    at = np.arange(count + LEVEL_DAYS) % series.settling.size
    table, half = _four_weeks(series.settling[at], count), _four_weeks(series.half_loop[at], count)
    if moisture is None:
        return table
    own = check_range("moisture", moisture, 0.0, field.GREATEST_MOISTURE)
    if own.size != 1:
        check_range("moistures", own.size, count, count)
    return np.clip(own, table - half, table + half)


def _four_weeks(daily: np.ndarray, count: int) -> np.ndarray:
    """Running means of the four weeks back, or of what there is since the wood came."""
    sums = np.concatenate([[0.0], np.cumsum(daily)])
    last = np.arange(1, count + 1)
    first = np.maximum(last - LEVEL_DAYS, 0)
    return (sums[last] - sums[first]) / (last - first)


# The pace of a slow and a fast board of the species, in its own spread: one in ten lies beyond each.
ONE_IN_TEN = 1.2816


def settle(stay: Stay, skimmed_m: float = 0.0, days: float = LONGEST_DAYS) -> Settled:
    """How long until a piece is settled.

    Raises:
        OutOfRange.

    >>> from wood.air.climate import constant
    >>> from wood.drying.diffusivity import of_species
    >>> from wood.species import species_named
    >>> cherry = of_species(species_named("black_cherry"))
    >>> from_yard = Stay(cherry, 0.027, 0.11, 0.13, constant(20.0, 0.42))
    >>> thin = settle(replace(from_yard, thickness_m=0.013))
    >>> bool(0 < thin.days < settle(from_yard).days < 200)
    True
    """
    check_range("days", days, 1.0, field.HORIZON_DAYS, " days")
    result = _settled(stay, skimmed_m, days)
    slow, fast = (_settled(_paced(stay, share * ONE_IN_TEN), skimmed_m, days).days for share in (-1, 1))
    return replace(result, days_low=min(fast, result.days), days_high=max(slow, result.days))


def _paced(stay: Stay, sigmas: float) -> Stay:
    wood = stay.figures.wood
    return replace(
        stay, figures=replace(stay.figures, wood=replace(wood, factor=wood.factor * float(np.exp(sigmas * stay.figures.spread))))
    )


def _settled(stay: Stay, skimmed_m: float, days: float) -> Settled:
    looks = np.linspace(0, days, int(days * LOOKS_A_DAY) + 1) if days <= 60 else np.linspace(0, 1, 800) ** 1.5 * days
    along: dict[str, Any] = {"length_m": stay.length_m, "rows": 6} if stay.length_m and stay.ends_open else {}
    ran = field.dry(
        stay.figures.wood, stay.thickness_m - 2 * skimmed_m, stay.profile(skimmed_m),
        field.driven(stay.series, stay.exposure, stay.coating_s_m), days, out_days=looks, longest_step_days=1.0, tolerance=SETTLING_TOLERANCE,
        **along,
    )  # fmt: skip
    table = level_through(stay.series, days)
    level = np.interp(looks, np.arange(table.size), level_through(stay.series, days, np.interp(np.arange(table.size), looks, ran.mean)))
    # The half of the thickness that lies outside against the middle; the skin itself follows every hour.
    near = np.abs(ran.mean - level) <= stay.tolerance
    even = np.abs(ran.core - ran.shell) <= stay.tolerance
    first = _first(looks, near & even)
    return Settled(first, _first(looks, near), _first(looks, even), float(np.interp(min(first, days), looks, level)), ran)


def _first(days: np.ndarray, reached: np.ndarray) -> float:
    return float(days[np.argmax(reached)]) if reached.any() else np.inf


@dataclass(frozen=True)
class Way:
    """One way of letting wood settle: how long it takes, and what it saves against the wood as it lies."""

    key: str
    words: str
    days: float
    saved_days: float


def ways(stay: Stay, skimmed_m: float = 0.0015, rough_length_m: float | None = None) -> list[Way]:
    """What each hurrying step buys.

    The wood as it lies, boards flat on each other so that two dry as one; stickered with air all round; then also cut to rough
    length past its sealed ends; both faces skimmed; all of it.

    Args:
        skimmed_m: taken off each face, 0…0.45 of the thickness.
        rough_length_m: of the cut pieces; steps with cutting are left out where it is ``None``.
    """
    flat = settle(replace(stay, thickness_m=2 * stay.thickness_m, length_m=None, ends_open=False)).days
    tried = [("flat", "lying flat, board on board", flat)]
    whole = replace(stay, length_m=None, ends_open=False)
    tried.append(("stickered", "on stickers, air all round", settle(whole).days))
    tried.append(("skimmed", "and both faces skimmed", settle(whole, skimmed_m).days))
    if rough_length_m is not None:
        cut = replace(stay, length_m=rough_length_m, ends_open=True)
        tried.append(("cut", "on stickers, cut to rough length past the sealed ends", settle(cut).days))
        tried.append(("all", "cut and skimmed", settle(cut, skimmed_m).days))
    return [
        Way(key, words, days, flat - days if np.isfinite(flat) else (np.inf if np.isfinite(days) else 0.0)) for key, words, days in tried
    ]


@dataclass(frozen=True)
class Gain:
    """What a stay does to dry wood: mean moistures at ``days``, and when it has moved by the tolerance (infinite if never); ``matters_low`` …
    ``matters_high`` is the band for the spread of the wood's own pace."""

    days: np.ndarray
    means: np.ndarray
    matters_day: float
    matters_low: float = np.nan
    matters_high: float = np.nan


def gain(stay: Stay, days: float = 365.0) -> Gain:
    """How fast dry wood takes up moisture in a damp place, and how long before it matters.

    Raises:
        OutOfRange: days 1…field.HORIZON_DAYS days.

    >>> from wood.air.climate import constant
    >>> from wood.drying.diffusivity import of_species
    >>> from wood.species import species_named
    >>> shop = Stay(of_species(species_named("northern_red_oak")), 0.027, 0.07, 0.07, constant(12.0, 0.75), tolerance=0.02)
    >>> bool(7 < gain(shop).matters_day < 120)
    True
    """
    check_range("days", days, 1.0, field.HORIZON_DAYS, " days")
    side = 1.0 if stay.mean < float(level_through(stay.series, 1.0)[0]) else -1.0
    looks = np.linspace(0, days, 200)

    def moved(paced: Stay) -> field.History:
        return field.dry(
            paced.figures.wood, paced.thickness_m, paced.profile(), field.driven(paced.series, paced.exposure, paced.coating_s_m), days,
            out_days=looks, target=paced.mean + side * paced.tolerance,
        )  # fmt: skip

    ran, slow, fast = (moved(_paced(stay, share * ONE_IN_TEN)) for share in (0, -1, 1))
    middle, late, early = (np.inf if one.crossed_day is None else one.crossed_day for one in (ran, slow, fast))
    return Gain(looks, ran.mean, middle, min(early, middle), max(late, middle))
