"""How long a piece takes to dry: by which method, from when, to which moisture, and how sure that is.

The moisture field run a hundred times over what is not known (the board's own pace, its start, the weather, the wind), all in the
same climate at the same resolution; the member in the middle is the answer and the drawing, eight in ten lie in the band. The
same middle member is asked from every month of the year. Nothing is scaled from one run to another.

Sources: the field of :mod:`wood.drying.field`; how boards and years differ is our own judgement, named at each constant.
"""

from dataclasses import dataclass
from enum import StrEnum
from functools import lru_cache

import numpy as np
from scipy.special import ndtri

from wood.air.climate import YEAR_DAYS, AirSeries
from wood.arrays import Array, Values
from wood.drying import field
from wood.drying.diffusivity import Figures
from wood.drying.methods import FINE_HOURS, Setting
from wood.errors import check_range
from wood.units import INCH_M

RUNS = 128
LONGEST_DAYS = 3650.0
# How long wood is watched that is where it should be already.
LEVEL_DAYS = 90.0
# Beyond a good year all runs alike look at the climate in means of five days instead of one.
FINE_DAYS, COARSE_HOURS = 420.0, 120.0
NO_LOOKS = np.empty(0)
LONGEST_STEP_DAYS = {FINE_HOURS: 2.0, COARSE_HOURS: 5.0}
# What one run differs from another by, one standard deviation (our judgement): green moisture between boards, the year's air
# from the normals, and how freely air gets to this very board.
GREEN_SPREAD = 0.12
AIR_SPREAD = 0.03
CARRY_SPREAD = 0.25
# A log dries like a slab: the first terms of the two series agree at this share of its diameter, √(2.467/5.783).
LOG_AS_SLAB = 0.653


class WhyNot(StrEnum):
    """Why a target is not reached: the place never lets wood come there, thick wood smooths out the only months that would, or it takes
    longer than anybody waits."""

    REACHED = ""
    BELOW_EVERY_MONTH = "below_every_month"
    BELOW_THE_WOOD = "below_the_wood"
    TOO_SLOW = "too_slow"


@dataclass(frozen=True)
class Question:
    """A piece, from where to where. Sizes in metres, moistures as fractions.

    ``start_uncertainty`` is one standard deviation of the start as a share of it; a measured board has less than a green one.
    ``length_m`` is given for short pieces, whose ends matter unless sealed.

    Raises:
        OutOfRange: thickness 0.5 mm…1.5 m, start from 0 to all the water that the wood can hold, target 0…1.
    """

    figures: Figures
    thickness_m: float
    start: float
    target: float
    setting: Setting
    width_m: float | None = None
    length_m: float | None = None
    ends_open: bool = True
    start_uncertainty: float = GREEN_SPREAD

    def __post_init__(self) -> None:
        check_range("thickness_m", self.thickness_m, *field.THICKNESS_M, " m")
        check_range("start", self.start, 0.0, self.greatest_start)
        check_range("target", self.target, 0.0, 1.0)
        check_range("start_uncertainty", self.start_uncertainty, 0.0, 1.0)
        if self.width_m is not None:
            check_range("width_m", self.width_m, 0.001, 5.0, " m")
        if self.length_m is not None:
            check_range("length_m", self.length_m, 0.005, 15.0, " m")

    @property
    def greatest_start(self) -> float:
        """All the water the wood can hold, and a tenth more for what weighing and tables leave open."""
        return min(1.1 * self.figures.wood.greatest_moisture, field.GREATEST_MOISTURE)

    @property
    def as_slab_m(self) -> float:
        """The slab that dries as fast as the piece: narrow pieces lose through their edges too, short ones through their ends.

        1/s² = 1/t² + 1/w² + a/l², the first terms of all directions multiplied; a is how much faster moisture moves along the grain.
        """
        inverse = self.thickness_m**-2
        if self.width_m is not None:
            inverse += self.width_m**-2
        if self.length_m is not None and self.ends_open:
            inverse += self.figures.wood.along_grain * self.length_m**-2
        return inverse**-0.5

    @property
    def rises(self) -> bool:
        """Whether the wood is to take up moisture."""
        return self.start < self.target


def as_slab_of_log_m(diameter_m: float) -> float:
    """The slab that dries as a log does, through its bark; the log's own shape is a cylinder.

    Raises:
        OutOfRange: diameter_m 0.01…2 m.

    >>> round(as_slab_of_log_m(0.4), 3)
    0.261
    """
    check_range("diameter_m", diameter_m, 0.01, 2.0, " m")
    return LOG_AS_SLAB * diameter_m


@dataclass(frozen=True)
class Answer:
    """How long. Days are infinite where the target is not reached in ten years. ``history`` is the member in the middle, whose arrival is
    the answer.

    ``month_days`` has the median days from the start of each month, January first.
    ``means_low`` … ``means_high`` is the band of the mean at ``history.days``.
    """

    days: float
    low: float
    high: float
    already: bool
    why_not: WhyNot
    history: field.History
    means_low: np.ndarray
    means_high: np.ndarray
    month_days: tuple[float, ...]
    lowest_month_emc: float
    rule_of_thumb_days: float
    runs: int


@lru_cache(maxsize=8)
def _draws(runs: int) -> np.ndarray:
    """Evenly spread normal draws (Sobol points and their mirror images), the same for every question, so that answers move smoothly
    with their inputs; the first is the middle of all."""
    # Loaded where it is needed: it takes most of a second, and no page waits for it (command/serving.py).
    from scipy.stats import qmc

    points = ndtri(np.clip(qmc.Sobol(5, scramble=True, rng=7).random(runs // 2), 1e-6, 1 - 1e-6))
    return np.concatenate([np.zeros((1, 5)), points, -points])


def month_starts(start_day: float) -> np.ndarray:
    """Days from ``start_day`` (of the year) to the first of each month, January first, going round.

    Raises:
        OutOfRange: start_day −10⁶…10⁶ days.
    """
    check_range("start_day", start_day, -1e6, 1e6, " days")
    firsts = np.cumsum([0, 31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30])
    return (firsts - start_day) % YEAR_DAYS


def monthly_settling(series: AirSeries, rising: bool) -> np.ndarray:
    """What each twelfth of the year would bring wood to that dries, or that takes up moisture (``rising``), beginning where the series
    begins; one value where it is shorter than a year. Wood that dries stays above the tabulated EMC (hysteresis)."""
    settles = series.settling + (-1 if rising else 1) * series.half_loop
    if series.days < YEAR_DAYS - 1:
        return np.array([settles.mean()])
    return np.array([part.mean() for part in np.array_split(settles, 12)])


def answer(question: Question, runs: int = RUNS, points: int = 160) -> Answer:
    """How long the piece takes, with its band and the twelve start months.

    Args:
        runs: members of the set, an even power of two, 8…1024; points: moments of the history.
    Raises:
        OutOfRange: runs 8…1024.

    >>> from wood.air.climate import pattern
    >>> from wood.drying.diffusivity import of_species
    >>> from wood.drying.methods import YARD, setting
    >>> from wood.species import species_named
    >>> yard = setting(YARD, pattern("four_seasons").year.starting(120))
    >>> oak = answer(Question(of_species(species_named("northern_red_oak")), 0.0286, 0.75, 0.20, yard), runs=64)
    >>> bool(50 < oak.low < oak.days < oak.high < 260)
    True
    """
    by_month = monthly_settling(question.setting.series, question.rises)
    already = question.start == question.target or (question.rises and by_month.max() <= question.target)
    draws = _draws(int(check_range("runs", runs, 8, 1024)))
    # The middle member alone tells how far to look, and so at which resolution all of them look.
    rough = _crossed(question, question.setting.drive(COARSE_HOURS), draws[:1], COARSE_HOURS)[0]
    hours = FINE_HOURS if rough <= FINE_DAYS else COARSE_HOURS
    drive = question.setting.drive(hours)
    middle = _middle(question, drive, _crossed(question, drive, draws[:1], hours)[0], points, hours)
    days = np.inf if middle.crossed_day is None else middle.crossed_day
    horizon = min(LONGEST_DAYS, 3.0 * days + 60.0) if np.isfinite(days) else LONGEST_DAYS
    band = _run(question, drive, draws[1:], horizon, hours, middle.days)
    months = _crossed(question, drive, draws[:1], hours, month_starts(question.setting.series.start_day))
    low, high = np.percentile(band.crossed_days, [10, 90], method="nearest")
    if already:
        days = low = high = 0.0
    return Answer(
        days=days,
        low=min(float(low), days),
        high=max(float(high), days),
        already=already,
        why_not=WhyNot.REACHED if np.isfinite(days) else _why_not(question, by_month, middle),
        history=middle,
        means_low=np.percentile(band.means, 10, axis=0),
        means_high=np.percentile(band.means, 90, axis=0),
        month_days=tuple(float(month) for month in months),
        lowest_month_emc=float(by_month.min()),
        rule_of_thumb_days=YEAR_DAYS * question.thickness_m / INCH_M,
        runs=len(draws),
    )


def _run(
    question: Question,
    drive: field.Drive,
    draws: np.ndarray,
    horizon: float,
    hours: float,
    looks: Array = NO_LOOKS,
    begin_days: Values = 0.0,
) -> field.Runs:
    """Members of the set through one climate; each draw is of ln factor, start, vapour, carrying power and ln permeability."""
    figures = question.figures
    starts = np.clip(question.start * (1 + question.start_uncertainty * draws[:, 1]), 0.0, question.greatest_start)
    # A board that is known to be wetter than wanted is not begun drier than that, nor the other way round.
    if question.rises:
        starts = np.minimum(starts, max(question.target * 0.98, question.start))
    elif question.start > question.target:
        starts = np.maximum(starts, min(question.start, question.target * 1.02))
    return field.dry_many(
        figures.wood, question.as_slab_m, starts, drive, horizon, target=question.target, factor_shares=np.exp(figures.spread * draws[:, 0]),
        air_shares=np.exp(AIR_SPREAD * draws[:, 2]), drive_shares=np.exp(CARRY_SPREAD * draws[:, 3]),
        permeability_shares=np.exp(figures.permeability_spread * draws[:, 4]), begin_days=begin_days, out_days=looks,
        enough_days=float(looks[-1]) if len(looks) else 0.0, longest_step_days=LONGEST_STEP_DAYS[hours],
    )  # fmt: skip


def _crossed(question: Question, drive: field.Drive, draws: np.ndarray, hours: float, begin_days: Values = 0.0) -> Array:
    return _run(question, drive, draws, LONGEST_DAYS, hours, begin_days=begin_days).crossed_days


def _middle(question: Question, drive: field.Drive, arrival: float, points: int, hours: float) -> field.History:
    """The member in the middle, watched a little beyond its arrival; wood that is there already, for a season."""
    least = 4.0 if question.start != question.target else LEVEL_DAYS
    days = min(LONGEST_DAYS, max(arrival * 1.3, least)) if np.isfinite(arrival) else 2.0 * YEAR_DAYS
    return field.dry(
        question.figures.wood, question.as_slab_m, question.start, drive, days, out_days=_looks(days, points), target=question.target,
        longest_step_days=LONGEST_STEP_DAYS[hours],
    )  # fmt: skip


def _looks(horizon: float, points: int) -> np.ndarray:
    """When to look at the wood: often at first, when checks begin."""
    return np.linspace(0, 1, points) ** 1.7 * horizon


def _why_not(question: Question, by_month: np.ndarray, middle: field.History) -> WhyNot:
    if (by_month.max() <= question.target) if question.rises else (by_month.min() >= question.target):
        return WhyNot.BELOW_EVERY_MONTH
    return WhyNot.BELOW_THE_WOOD if abs(middle.mean[-1] - middle.mean[-len(middle.mean) // 3]) < 0.01 else WhyNot.TOO_SLOW
