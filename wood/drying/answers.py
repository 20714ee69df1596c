"""How long a piece takes: by which method, from when, until it reaches a moisture or may be worked, and how sure that is.

The moisture field run a hundred times over what is not known (the board's own pace, its start, the weather, the wind), all in the
same climate at the same resolution; the member in the middle is the answer and the drawing, eight in ten lie in the band. The
same middle member is asked from every month of the year. Nothing is scaled from one run to another.

Two questions. Without ``wanted`` the wood is to reach a moisture, once; with it, to come so far that it may be worked
(:mod:`wood.drying.arrival`).

Sources: the field of :mod:`wood.drying.field`; how boards and years differ is our own judgement, named at each constant.
"""

from dataclasses import dataclass, replace
from enum import StrEnum
from functools import lru_cache
from importlib.resources import files
from typing import Any

import numpy as np
from scipy.special import ndtri

from wood.air.climate import YEAR_DAYS, AirSeries
from wood.arrays import Array, Values
from wood.drying import field
from wood.drying.arrival import Arrivals, Chance, Wanted, arrivals, chances
from wood.drying.methods import FINE_HOURS
from wood.drying.questions import Question
from wood.errors import check_range
from wood.units import INCH_M

RUNS = 128
LONGEST_DAYS = 3650.0
# How long wood is watched that is where it should be already.
LEVEL_DAYS = 90.0
# Wood that is to stay is watched for as long as a season, so that it is seen how it goes on.
WATCHED_DAYS = 150.0
# Beyond a good year all runs alike look at the climate in means of five days instead of one.
FINE_DAYS, COARSE_HOURS = 420.0, 120.0
NO_LOOKS = np.empty(0)
LONGEST_STEP_DAYS = {FINE_HOURS: 2.0, COARSE_HOURS: 5.0}
# What one run differs from another by beside its start, one standard deviation (our judgement): the year's air from the normals, and how
# freely air gets to this very board.
AIR_SPREAD = 0.03
CARRY_SPREAD = 0.25


class WhyNot(StrEnum):
    """Why a target is not reached: the place never lets wood come there, thick wood smooths out the only months that would, or it takes
    longer than anyone would wait."""

    REACHED = ""
    BELOW_EVERY_MONTH = "below_every_month"
    BELOW_THE_WOOD = "below_the_wood"
    TOO_SLOW = "too_slow"


@dataclass(frozen=True)
class Answer:
    """How long. Days are infinite where the target is not reached in ten years. ``history`` is the member in the middle, whose arrival is
    the answer.

    ``month_days`` has the median days from the start of each month, January first.
    ``means_low`` … ``means_high`` is the band of the mean at ``history.days``. ``chances`` tells apart the seasons in which runs arrive.
    Where it is to be worked, ``days`` are those until it is ready or works now, whichever is first, ``ready_days`` those of the
    middle member until it is ready; ``settles`` is between which means the middle member goes on from year to year (None: not
    within ten years), ``settles_day`` a day on which it then is nearest to what is wanted, ``settles_off`` how far off.
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
    highest_month_emc: float
    rule_of_thumb_days: float
    runs: int
    chances: tuple[Chance, ...] = ()
    settles: tuple[float, float] | None = None
    settles_day: float = np.nan
    settles_off: float = np.nan
    # The days of every member, the one in the middle first; nothing but noughts where it is there already.
    member_days: tuple[float, ...] = ()
    ready_days: float = np.inf

    @property
    def works_first(self) -> bool:
        """Whether it works with the season before it is ready."""
        return self.days < self.ready_days


@lru_cache(maxsize=8)
def _draws(runs: int) -> np.ndarray:
    """Evenly spread normal draws (Sobol points and their mirror images), the same for every question, so that answers move smoothly
    with their inputs; the first is the middle of all."""
    # Kept in a file: what makes them takes a second to load, or two, and another release of it might scramble them otherwise.
    with (files("wood") / "data" / "even_points.npy").open("rb") as kept:
        points = ndtri(np.load(kept)[: runs // 2])
    return np.concatenate([np.zeros((1, 5)), points, -points])


def set_size(runs: int) -> int:
    """How many members a set of about ``runs`` has, with the one in the middle.

    Raises:
        OutOfRange: runs 8…1024.
    """
    return len(_draws(int(check_range("runs", runs, 8, 1024))))


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
    draws = _draws(int(check_range("runs", runs, 8, 1024)))
    return _until_there(question, draws, points) if question.wanted else _until_reached(question, draws, points)


def middle_days(question: Question) -> float:
    """Days until the member in the middle is at the target, infinite where it never is: the answer's own, without its band.

    Raises:
        OutOfRange.
    """
    return float(_crossed(question, question.setting.drive(FINE_HOURS), _draws(8)[:1], FINE_HOURS)[0])


def middle_mean(question: Question, day: float) -> float:
    """The mean moisture of the member in the middle on a day, however near to the target it is then.

    Raises:
        OutOfRange: day 0…3650.
    """
    check_range("day", day, 0.0, LONGEST_DAYS, " days")
    if day == 0:
        return question.start
    return float(_middle(question, question.setting.drive(FINE_HOURS), day, 8, FINE_HOURS).mean[-1])


def days_of_members(question: Question, members: Array, runs: int = RUNS, *, fine: bool = True) -> Array:
    """Days until each of some members of the set (whole numbers, 0 the middle one) is at the target, infinite where it never is.

    Args:
        runs: of the whole set, 8…1024; fine: by means of a day, else of five, as :func:`answer` has it beyond a good year.
    Raises:
        OutOfRange.
    """
    draws = _draws(int(check_range("runs", runs, 8, 1024)))
    check_range("members", members, 0, len(draws) - 1)
    hours = FINE_HOURS if fine else COARSE_HOURS
    return _crossed(question, question.setting.drive(hours), draws[members], hours)


def _until_reached(question: Question, draws: np.ndarray, points: int) -> Answer:
    """Until the mean reaches the target, once."""
    by_month = monthly_settling(question.setting.last.series, question.rises)
    already = question.start == question.target or (question.rises and by_month.max() <= question.target)
    # The middle member alone tells how far to look, and so at which resolution all of them look.
    rough = _crossed(question, question.setting.drive(COARSE_HOURS), draws[:1], COARSE_HOURS)[0]
    hours = FINE_HOURS if rough <= FINE_DAYS else COARSE_HOURS
    drive = question.setting.drive(hours)
    arrival = _crossed(question, drive, draws[:1], hours)[0]
    # Watched a little beyond its arrival; wood that is there already, for a season.
    least = LEVEL_DAYS if question.start == question.target else 4.0
    shown = min(LONGEST_DAYS, max(arrival * 1.3, least)) if np.isfinite(arrival) else 2.0 * YEAR_DAYS
    middle = _middle(question, drive, shown, points, hours)
    days = np.inf if middle.crossed_day is None else middle.crossed_day
    horizon = min(LONGEST_DAYS, 3.0 * days + 60.0) if np.isfinite(days) else LONGEST_DAYS
    band = _run(question, drive, draws[1:], horizon, hours, middle.days)
    others, late = band.crossed_days, ~np.isfinite(band.crossed_days)
    if late.mean() > LEAST_LATE and horizon < LONGEST_DAYS:
        # The end of what was looked at is no answer.
        others[late] = _crossed(question, drive, draws[1:][late], hours)
    months = _crossed(question, drive, draws[:1], hours, month_starts(question.setting.series.start_day))
    if already:
        days = 0.0
    return _as_answer(question, days, others, already, middle, band.means, months, by_month, len(draws))


def _until_there(question: Question, draws: np.ndarray, points: int) -> Answer:
    """Until it may be worked: within what is wanted on the day, core and outside agreeing."""
    wanted = question.wanted
    assert wanted is not None
    by_month = monthly_settling(question.setting.last.series, question.rises)
    rough, settled_after, settles = _looked_ahead(question, wanted, draws[:1])
    hours = FINE_HOURS if rough <= FINE_DAYS else COARSE_HOURS
    drive = question.setting.drive(hours)

    def arrive(some: np.ndarray, horizon: float, begin_days: Values = 0.0) -> Arrivals:
        looks = _daily(horizon)
        ran = _run(question, drive, some, horizon, hours, looks, begin_days)
        begins = np.broadcast_to(np.asarray(begin_days, float), ran.means.shape[:1])
        if not begins.any():
            return arrivals(wanted, looks, ran.means, ran.cores)
        each = [
            arrivals(wanted, looks, mean[None], core[None], begin) for begin, mean, core in zip(begins, ran.means, ran.cores, strict=True)
        ]
        return Arrivals(*(np.concatenate([getattr(item, name) for item in each]) for name in ("first", "ready")))

    ahead = min(LONGEST_DAYS, rough * 1.5 + SEASON_DAYS if np.isfinite(rough) else settled_after + YEAR_DAYS)
    # When the one in the middle is ready is looked for through the year that follows, too: the season comes round again.
    longer = min(LONGEST_DAYS, max(ahead, (rough if np.isfinite(rough) else 0.0) + YEAR_DAYS)) if wanted.has_now else ahead
    middle_arrives = arrive(draws[:1], longer)
    days, ready = float(middle_arrives.first[0]), float(middle_arrives.ready[0])
    shown = max(days * 1.15 + WATCHED_AFTER_DAYS, WATCHED_DAYS) if np.isfinite(days) else max(2.0 * YEAR_DAYS, settled_after)
    middle = _middle(question, drive, min(LONGEST_DAYS, shown), points, hours)
    # One run of every member gives its arrival and its part of the band: looked at daily, and when the drawing looks.
    daily = _daily(ahead)
    looks = np.union1d(daily, middle.days)
    ran = _run(question, drive, draws[1:], float(looks[-1]), hours, looks)
    by_day, drawn = np.isin(looks, daily), np.isin(looks, middle.days)
    there = arrivals(wanted, daily, ran.means[:, by_day], ran.cores[:, by_day]).first
    late = ~np.isfinite(there)
    if np.isfinite(days) and late.mean() > LEAST_LATE and ahead < LONGEST_DAYS:
        # Slow boards may have to wait for the season to come round again.
        there[late] = arrive(draws[1:][late], min(LONGEST_DAYS, ahead + YEAR_DAYS)).first
    months = np.full(12, np.nan)
    if question.setting.series.days >= YEAR_DAYS - 1:
        months = arrive(
            np.repeat(draws[:1], 12, axis=0), min(LONGEST_DAYS, ahead + YEAR_DAYS), month_starts(question.setting.series.start_day)
        ).first
    if not np.isfinite(days) and np.isfinite(there).mean() >= HALF:
        # The one in the middle may just miss what most of the others do not.
        days = float(np.median(there[np.isfinite(there)]))
    result = _as_answer(question, days, there, days == 0.0, middle, ran.means[:, drawn], months, by_month, len(draws))
    return replace(result, ready_days=ready, **settles)


# How long beyond the first arrival a wood without seasons is looked at, and how far beyond it the drawing goes.
SEASON_DAYS, WATCHED_AFTER_DAYS, HALF = 90.0, 32.0, 0.5
# Where more runs than this are late they are followed for another year.
LEAST_LATE = 0.02
# A year in which the wood comes back to within this much of where it was a year before is taken for every year after.
SAME_YEAR = 3e-4


def _daily(horizon: float) -> np.ndarray:
    """Moments to look for an arrival at: four a day at first, then daily."""
    early = np.arange(0.0, min(EARLY_DAYS, horizon), 0.25)
    return np.concatenate([early, np.arange(early.size / 4, horizon, 1.0), [horizon]])


EARLY_DAYS = 10.0


def _looked_ahead(question: Question, wanted: Wanted, middle: np.ndarray) -> tuple[float, float, dict[str, Any]]:
    """When the middle member arrives, roughly, by when it goes the same way every year, and that way."""
    looks = np.arange(0.0, LONGEST_DAYS + 1, 5.0)
    ran = _run(question, question.setting.drive(COARSE_HOURS), middle, LONGEST_DAYS, COARSE_HOURS, looks)
    arrives = float(arrivals(wanted, looks, ran.means, ran.cores).first[0])
    year, mean = int(YEAR_DAYS / 5), ran.means[0]
    differs = np.flatnonzero(np.abs(mean[year:] - mean[:-year]) >= SAME_YEAR)
    # From the last moment whose value differs from the one a year later; values that match by accident before it do not count.
    first = int(differs[-1]) + 1 if differs.size else 0
    if first + year >= mean.size:
        return arrives, LONGEST_DAYS, {}
    way = slice(first, first + year + 1)
    low, high = wanted.outer_at(looks[way])
    off = np.maximum(np.maximum(low - mean[way], mean[way] - high), 0.0)
    settles = {
        "settles": (float(mean[way].min()), float(mean[way].max())),
        "settles_day": float(looks[way][np.argmin(off)]),
        "settles_off": float(off.min()),
    }
    return arrives, float(looks[first]) + YEAR_DAYS, settles


def _as_answer(
    question: Question,
    days: float,
    others: Array,
    already: bool,
    middle: field.History,
    means: Array,
    months: Array,
    by_month: Array,
    runs: int,
) -> Answer:
    """The answer of a set: its middle member's days and the days of the ``others``."""
    low, high = (float(edge) for edge in np.percentile(others, [10, 90], method="nearest"))
    if already:
        low = high = 0.0
    return Answer(
        days=days,
        low=min(low, days),
        high=max(high, days),
        already=already,
        why_not=WhyNot.REACHED if np.isfinite(days) else _why_not(question, by_month, middle),
        history=middle,
        means_low=np.percentile(means, 10, axis=0),
        means_high=np.percentile(means, 90, axis=0),
        month_days=tuple(float(month) for month in months),
        lowest_month_emc=float(by_month.min()),
        highest_month_emc=float(by_month.max()),
        rule_of_thumb_days=YEAR_DAYS * question.thickness_m / INCH_M,
        runs=runs,
        chances=() if already else chances(np.append(others, days)),
        member_days=tuple(np.zeros(others.size + 1).tolist() if already else [days, *others.tolist()]),
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
    if question.wanted:
        pass
    elif question.rises:
        starts = np.minimum(starts, max(question.target * 0.98, question.start))
    elif question.start > question.target:
        starts = np.maximum(starts, min(question.start, question.target * 1.02))
    return field.dry_many(
        figures.wood,
        question.as_slab_m,
        starts,
        drive,
        horizon,
        target=question.target,
        factor_shares=np.exp(figures.spread * draws[:, 0]),
        air_shares=np.exp(AIR_SPREAD * draws[:, 2]),
        drive_shares=np.exp(CARRY_SPREAD * draws[:, 3]),
        permeability_shares=np.exp(figures.permeability_spread * draws[:, 4]),
        begin_days=begin_days,
        shape=question.shape,
        out_days=looks,
        enough_days=float(looks[-1]) if len(looks) else 0.0,
        longest_step_days=LONGEST_STEP_DAYS[hours],
        tolerance=question.step_tolerance,
    )


def _crossed(question: Question, drive: field.Drive, draws: np.ndarray, hours: float, begin_days: Values = 0.0) -> Array:
    return _run(question, drive, draws, LONGEST_DAYS, hours, begin_days=begin_days).crossed_days


def _middle(question: Question, drive: field.Drive, horizon: float, points: int, hours: float) -> field.History:
    """The member in the middle."""
    return field.dry(
        question.figures.wood,
        question.as_slab_m,
        question.profile,
        drive,
        horizon,
        out_days=_looks(horizon, points),
        target=question.target,
        longest_step_days=LONGEST_STEP_DAYS[hours],
        tolerance=question.step_tolerance,
    )


def watched(question: Question, horizon: float) -> field.History:
    """The member in the middle as its risks are looked for: at the same moments whatever it is dried to, so that the same days in a yard
    are as dangerous whatever follows them.

    Args:
        horizon: how long, 0.1…3650 days.
    Raises:
        OutOfRange.
    """
    check_range("horizon", horizon, 0.1, LONGEST_DAYS, " days")
    moments = np.concatenate([np.arange(0.0, 10.0, 0.25), np.arange(10.0, 90.0, 1.0), np.arange(90.0, LONGEST_DAYS + 1, 4.0)])
    looks = moments[moments <= horizon]
    drive = question.setting.drive(FINE_HOURS)
    return field.dry(question.figures.wood, question.as_slab_m, question.profile, drive, horizon, out_days=looks, tolerance=WATCHED_STEP)


WATCHED_STEP = 2e-4


def _looks(horizon: float, points: int) -> np.ndarray:
    """When to look at the wood: often at first, when checks begin."""
    return np.linspace(0, 1, points) ** 1.7 * horizon


def _why_not(question: Question, by_month: np.ndarray, middle: field.History) -> WhyNot:
    if (by_month.max() <= question.target) if question.rises else (by_month.min() >= question.target):
        return WhyNot.BELOW_EVERY_MONTH
    return WhyNot.BELOW_THE_WOOD if abs(middle.mean[-1] - middle.mean[-len(middle.mean) // 3]) < 0.01 else WhyNot.TOO_SLOW
