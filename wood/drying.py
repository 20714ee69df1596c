"""How long a piece takes to dry: by which road, from when, to which moisture, and how sure that is.

The moisture field run some hundreds of times over what is not known (the board's own factor, its start, the weather, the wind);
the middle is the answer, eight in ten lie in the band. Every start month of the year is asked the same question.
"""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from scipy.stats import norm, qmc

from wood import climate, field
from wood.climate import YEAR_DAYS, AirSeries
from wood.diffusivity import Figures
from wood.errors import check_range
from wood.sorption import branch_share
from wood.stacks import OpenBoard, Stack

RUNS = 256
LONGEST_DAYS = 3650.0
# Steps and cells of the many runs, coarser than the one in the middle: a percent or two, all the same way, so that scaling by the one
# in the middle takes it out.
BAND = {"cells": 12, "tolerance": 3e-3}
SCOUT_STEP_DAYS, STEPS_TO_TARGET, BAND_STEP_DAYS = 7.0, 80, (3.0, 16.0)
# What one run differs from another by, one standard deviation (our judgement): green moisture between boards, the year's air
# from the normals, and how freely air gets to this very board.
GREEN_SPREAD = 0.12
AIR_SPREAD = 0.03
CARRY_SPREAD = 0.25
INCH_M = 0.0254
# Beyond this length, against the thickness, ends do not change the mean within what is computed here.
SHORT_PIECE = 40.0
# A log dries like a slab: the first terms of the two series agree at this share of its diameter, √(2.467/5.783).
LOG_AS_SLAB = 0.653
# Resistance of bark against vapour (our judgement; no figure is at hand): as tight as three coats of a good varnish.
BARK_S_M = 60_000.0


@dataclass(frozen=True)
class Road:
    """A way to dry: where the wood lies and how air gets to it."""

    key: str
    name: str
    words: str


LOG = Road("log", "Left in the log", "bark on, ends open, off the ground")
YARD = Road("yard", "Yard", "stickered outdoors under a roof")
SHED = Road("shed", "Unheated shed", "stickered under cover, little wind")
SHOP = Road("shop", "Heated room", "stickered indoors, air all round")
CHAMBER = Road("chamber", "Chamber", "air held at set conditions, moved by a fan")
ROADS = {road.key: road for road in (LOG, YARD, SHED, SHOP, CHAMBER)}

# Wind at the stack as a share of the weather's; the outer two are those of wood.calibration.
WINDS = {"sheltered": 0.085, "usual": 0.13, "breezy": 0.20}
SMALL_STACK = Stack(1.0, width_m=0.6)


@dataclass(frozen=True)
class Setting:
    """Air and exposure of a road; ``series`` begins on the day of the question."""

    series: AirSeries
    exposure: OpenBoard | Stack
    coating_s_m: float = 0.0

    def drive(self) -> field.Drive:
        return field.driven(self.series, self.exposure, self.coating_s_m)


def setting(
    road: Road,
    outdoors: AirSeries | None = None,
    *,
    wind: str = "usual",
    heated_to_c: float = 19.0,
    moisture_gain: float = 0.001,
    temperature_c: float = 40.0,
    relative_humidity: float = 0.5,
    air_speed_m_s: float = 1.5,
) -> Setting:
    """The air and exposure of a road.

    Args:
        outdoors: the outdoor year, needed for all but a chamber.
        wind: how open the yard lies: ``sheltered``, ``usual``, ``breezy``.
        heated_to_c, moisture_gain: of a heated room.
        temperature_c, relative_humidity, air_speed_m_s: of a chamber; 5…110 °C, 0…1, 0…10 m/s.
    Raises:
        OutOfRange.
    """
    if road is CHAMBER:
        check_range("temperature_c", temperature_c, 5.0, 110.0, " °C")
        check_range("relative_humidity", relative_humidity, 0.0, 1.0)
        check_range("air_speed_m_s", air_speed_m_s, 0.0, 10.0, " m/s")
        air = climate.constant(temperature_c, relative_humidity, air_speed_m_s)
        return Setting(air, Stack(1.0, width_m=1.2, forced=True))
    if road is YARD:
        return Setting(outdoors, Stack(WINDS[wind], width_m=1.6))
    if road is LOG:
        return Setting(outdoors, OpenBoard(), BARK_S_M)
    if road is SHED:
        return Setting(climate.unheated(outdoors), SMALL_STACK)
    return Setting(climate.room(outdoors, climate.Room(heated_to_c, moisture_gain)), SMALL_STACK)


@dataclass(frozen=True)
class Question:
    """A piece, from where to where. Sizes in metres, moistures as fractions.

    ``start_doubt`` is one standard deviation of the start as a share of it; a measured board has less than a green one.
    ``length_m`` is given for short pieces, whose ends matter unless sealed.

    Raises:
        OutOfRange: thickness 0.5 mm…1.5 m, moistures 0…3, target 0…1.
    """

    figures: Figures
    thickness_m: float
    start: float
    target: float
    setting: Setting
    width_m: float | None = None
    length_m: float | None = None
    ends_open: bool = True
    start_doubt: float = GREEN_SPREAD

    def __post_init__(self) -> None:
        check_range("thickness_m", self.thickness_m, *field.THICKNESS_M, " m")
        check_range("start", self.start, 0.0, field.GREATEST_MOISTURE)
        check_range("target", self.target, 0.0, 1.0)
        check_range("start_doubt", self.start_doubt, 0.0, 1.0)
        if self.width_m is not None:
            check_range("width_m", self.width_m, 0.001, 5.0, " m")
        if self.length_m is not None:
            check_range("length_m", self.length_m, 0.005, 15.0, " m")

    @property
    def as_slab_m(self) -> float:
        """The slab that dries as fast as the piece's own section: narrow pieces lose through their edges, too.

        1/s² = 1/t² + 1/w², the first terms of both directions multiplied.
        """
        if self.width_m is None:
            return self.thickness_m
        return (self.thickness_m**-2 + self.width_m**-2) ** -0.5

    @property
    def branch(self) -> float:
        """Which sorption curve the wood is on: up to +1 drying, down to −1 taking up moisture."""
        share = self.setting.series.hysteresis_share
        return share if self.start >= self.target else -share

    @property
    def short(self) -> bool:
        return self.length_m is not None and self.ends_open and self.length_m < SHORT_PIECE * self.as_slab_m


def as_slab_of_log_m(diameter_m: float) -> float:
    """The slab that dries as a log does, through its bark; the log's own shape is a cylinder.

    >>> round(as_slab_of_log_m(0.4), 3)
    0.261
    """
    check_range("diameter_m", diameter_m, 0.01, 2.0, " m")
    return LOG_AS_SLAB * diameter_m


@dataclass(frozen=True)
class Answer:
    """How long. Days are infinite where the target is not reached in ten years.

    ``why_not`` is ``""``, or ``"below_every_month"`` (the place never lets wood come there), ``"below_the_wood"`` (thick wood smooths
    out the only months that would) or ``"too_slow"``. ``month_days`` has the median days from the start of each month, January first.
    ``means_low`` … ``means_high`` is the band of the mean at ``history.days``.
    """

    days: float
    low: float
    high: float
    already: bool
    why_not: str
    history: field.History
    means_low: np.ndarray
    means_high: np.ndarray
    month_days: tuple[float, ...]
    lowest_month_emc: float
    rule_of_thumb_days: float
    runs: int


@lru_cache(maxsize=8)
def _draws(runs: int) -> np.ndarray:
    """Evenly spread normal draws (Sobol points), the same for every question, so that answers move smoothly with their inputs."""
    points = qmc.Sobol(4, scramble=True, rng=7).random(runs)
    return norm.ppf(np.clip(points, 1e-6, 1 - 1e-6))


def month_starts(start_day: float) -> np.ndarray:
    """Days from ``start_day`` (of the year) to the first of each month, January first, going round."""
    firsts = np.cumsum([0, 31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30])
    return (firsts - start_day) % YEAR_DAYS


def monthly_settling(series: AirSeries, branch: float) -> np.ndarray:
    """What each twelfth of the year would bring wood to on a sorption branch, beginning where the series begins; one value where it
    is shorter than a year. Wood that dries stays above the tabulated EMC (hysteresis)."""
    settles = series.emc * branch_share(series.relative_humidity, branch)
    if series.days < YEAR_DAYS - 1:
        return np.array([settles.mean()])
    return np.array([part.mean() for part in np.array_split(settles, 12)])


def answer(question: Question, runs: int = RUNS, points: int = 160) -> Answer:
    """How long the piece takes, with its band and the twelve start months.

    >>> from wood.climate import pattern
    >>> from wood.diffusivity import of_species
    >>> from wood.species import species
    >>> yard = setting(YARD, pattern("four_seasons").year.starting(120))
    >>> oak = answer(Question(of_species(species("northern_red_oak")), 0.0286, 0.75, 0.20, yard), runs=64)
    >>> bool(60 < oak.low < oak.days < oak.high < 250)
    True
    """
    drive = question.setting.drive()
    calm = drive.by_day()
    already = question.start == question.target or (question.start < question.target and not _rises(question))
    common = {"target": question.target, "branch": question.branch}

    # One quick run to see how far to look, and again with the steps of the many; then the run in the middle, in the full climate.
    rough = _rough(question, question.as_slab_m, calm, SCOUT_STEP_DAYS)
    step = float(np.clip(rough / STEPS_TO_TARGET, *BAND_STEP_DAYS)) if np.isfinite(rough) else BAND_STEP_DAYS[1]
    slab, rough = question.as_slab_m, _rough(question, question.as_slab_m, calm, step)
    middle = _middle(question, drive, rough, points)
    arrives = bool(middle.crossed_day) and np.isfinite(rough) and rough > 0
    if question.short and arrives:
        # Open ends make the piece dry like a thinner slab; the many runs take that slab.
        slab *= min(1.0, middle.crossed_day / rough) ** 0.5
        rough = _rough(question, slab, calm, step)
    # What daily means leave out is one ratio, taken from the run in the middle.
    ratio = middle.crossed_day / rough if arrives else 1.0

    draws = _draws(runs)
    starts = np.clip(question.start * (1 + question.start_doubt * draws[:, 1]), 0.0, field.GREATEST_MOISTURE)
    if question.branch > 0:
        starts = np.maximum(starts, min(question.start, question.target * 1.02))
    band_days = np.minimum(middle.days / ratio, LONGEST_DAYS)
    # As long as the slowest of ten will take, or as long as the one in the middle was watched.
    horizon = min(LONGEST_DAYS, 3.0 * rough + 60.0) if np.isfinite(rough) else float(middle.days[-1])
    band = field.dry_many(
        question.figures.wood, slab, starts, calm, horizon,
        factor_shares=np.exp(question.figures.spread * draws[:, 0]), air_shares=np.exp(AIR_SPREAD * draws[:, 2]),
        drive_shares=np.exp(CARRY_SPREAD * draws[:, 3]), out_days=band_days, enough_days=float(band_days[-1]),
        longest_step_days=step, **common, **BAND,
    )  # fmt: skip
    months = field.dry_many(
        question.figures.wood, slab, question.start, calm, LONGEST_DAYS, begin_days=month_starts(question.setting.series.start_day),
        enough_days=0.0, longest_step_days=step, **common, **BAND,
    )  # fmt: skip
    low, high = np.percentile(band.crossed_days * ratio, [10, 90], method="nearest")
    by_month = monthly_settling(question.setting.series, question.branch)
    days = np.inf if middle.crossed_day is None else middle.crossed_day
    if already:
        days = low = high = 0.0
    return Answer(
        days=days,
        low=min(float(low), days),
        high=max(float(high), days),
        already=already,
        why_not="" if np.isfinite(days) else _why_not(question, by_month, middle),
        history=middle,
        means_low=np.percentile(band.means, 10, axis=0),
        means_high=np.percentile(band.means, 90, axis=0),
        month_days=tuple(float(one) * ratio for one in months.crossed_days),
        lowest_month_emc=float(by_month.min()),
        rule_of_thumb_days=YEAR_DAYS * question.thickness_m / INCH_M,
        runs=runs,
    )


def _middle(question: Question, drive: field.Drive, rough: float, points: int) -> field.History:
    """The run in the middle: the full climate, the ends where they matter, watched a little beyond its arrival."""
    short = {"length_m": question.length_m, "rows": 5, "cells": 12, "tolerance": 1e-3} if question.short else {}

    def watched(days: float) -> field.History:
        return field.dry(
            question.figures.wood, question.as_slab_m, question.start, drive, days, out_days=_looks(days, points), target=question.target,
            branch=question.branch, **short,
        )  # fmt: skip

    if not np.isfinite(rough):
        return watched(2 * YEAR_DAYS)
    found = watched(min(LONGEST_DAYS, max(rough * 1.3, 4.0)))
    # Damp nights, which the rough run does not see, may put the arrival off beyond that.
    return found if found.crossed_day is not None else watched(min(LONGEST_DAYS, max(rough * 1.8, 8.0)))


def _rough(question: Question, slab_m: float, calm: field.Drive, step_days: float) -> float:
    """The days a slab takes in daily means with long steps; infinite where it does not arrive."""
    ran = field.dry_many(
        question.figures.wood, slab_m, question.start, calm, LONGEST_DAYS, target=question.target, branch=question.branch, enough_days=0.0,
        longest_step_days=step_days, **BAND,
    )  # fmt: skip
    return float(ran.crossed_days[0])


def _looks(horizon: float, points: int) -> np.ndarray:
    """When to look at the wood: often at first, when checks begin; later on days' warmest hours, when its skin is driest."""
    days = np.linspace(0, 1, points) ** 1.7 * horizon
    days = np.where(days > 3, np.round(days) + climate.WARMEST_HOUR / 24, days)
    return np.append(np.unique(days[days < horizon]), horizon)


def _rises(question: Question) -> bool:
    """Whether wood that is drier than the target would come up to it in this air at all."""
    return question.setting.series.emc.max() > question.target


def _why_not(question: Question, by_month: np.ndarray, middle: field.History) -> str:
    drying = question.start > question.target
    if (by_month.min() >= question.target) if drying else (by_month.max() <= question.target):
        return "below_every_month"
    return "below_the_wood" if abs(middle.mean[-1] - middle.mean[-len(middle.mean) // 3]) < 0.01 else "too_slow"
