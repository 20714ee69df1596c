"""What hurries wood that settles, and what each way buys: stickers, faces skimmed, cut to rough length, a warmer corner.

Each way is the same question asked again of the wood as it then is (:mod:`wood.drying.answers`), so its days are those of every other
page. Only for wood that is air dry: what is wetter checks when it is hurried.

Source: practice of joiners' shops; the field; which steps there are is our own choice.
"""

from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np

from wood.air.climate import AirSeries
from wood.air.psychrometrics import saturation_concentration
from wood.arrays import Array
from wood.drying import field
from wood.drying.answers import answer
from wood.drying.arrival import READ_PER_MEAN
from wood.drying.methods import Setting, Stage
from wood.drying.questions import Question
from wood.errors import check_range

# How much warmer a corner by the stove is, or cooler one by the door (°C).
WARMER_C, COOLER_C = 4.0, 3.0
# The answer's own day does not hang on how many other members there are.
FEW_RUNS = 8
# Wetter wood is not hurried.
SPED_UP_FROM = 0.20
# Of the thickness, what skimming may take in all.
MOST_SKIMMED = 0.45


class Step(StrEnum):
    """A way of letting wood settle."""

    FLAT = "flat"
    STICKERED = "stickered"
    SKIMMED = "skimmed"
    CUT = "cut"
    CORNER = "corner"
    ALL = "all"


@dataclass(frozen=True)
class Way:
    """A way, the days until the wood may be worked (infinite: never there), those it saves against stickers alone, and the thickness left
    (m).
    """

    step: Step
    days: float
    saved_days: float
    thickness_m: float


def tried(question: Question, skimmed_m: float, rough_length_m: float | None = None) -> dict[Step, Question]:
    """The question of the wood on stickers, asked of it in each way of hurrying.

    Args:
        question: with what is wanted; it lies on stickers where it will be worked.
        skimmed_m: taken off each face, 0…0.45 of half the thickness; rough_length_m: of the pieces it is cut to past its sealed ends,
        0.02…15 m; None cuts nothing.
    Raises:
        OutOfRange.
    """
    check_range("skimmed_m", skimmed_m, 0.0, MOST_SKIMMED * question.thickness_m / 2, " m")
    if rough_length_m is not None:
        check_range("rough_length_m", rough_length_m, 0.02, 15.0, " m")
    thin = skimmed(question, skimmed_m)
    query = {
        # Two that lie flat on each other have two open faces between them, and closed edges.
        Step.FLAT: replace(question, thickness_m=2 * question.thickness_m, width_m=None, gradient=0.0),
        Step.STICKERED: question,
        Step.SKIMMED: thin,
        Step.CORNER: in_a_corner(question),
    }
    if rough_length_m is not None:
        short, thin_and_short = (replace(item, length_m=rough_length_m, ends_open=True) for item in (question, thin))
        query |= {Step.CUT: short, Step.ALL: in_a_corner(thin_and_short)}
    return query


def ways(question: Question, skimmed_m: float, rough_length_m: float | None = None) -> list[Way]:
    """What each way of hurrying buys, in days, against the wood on stickers as the question has it; arguments (metres) as of :func:`tried`.

    Raises:
        OutOfRange.
    """
    query = tried(question, skimmed_m, rough_length_m)
    days = {step: answer(item, runs=FEW_RUNS).days for step, item in query.items()}
    usual, thinner = days[Step.STICKERED], query[Step.SKIMMED].thickness_m
    left = {Step.SKIMMED: thinner, Step.ALL: thinner}
    return [
        Way(
            step,
            days[step],
            usual - days[step] if np.isfinite(days[step]) else (0.0 if np.isinf(usual) else -np.inf),
            left.get(step, question.thickness_m),
        )
        for step in Step
        if step in query
    ]


def skimmed(question: Question, each_m: float) -> Question:
    """The same wood with so much (metres) taken off each face: thinner, and without the driest (or the wettest) of its parabola."""
    share = 1 - 2 * each_m / question.thickness_m
    rise = question.gradient / (READ_PER_MEAN / 3)
    core = question.start + rise / 3
    return replace(
        question,
        thickness_m=question.thickness_m * share,
        start=max(core - rise * share**2 / 3, 0.0),
        gradient=question.gradient * share**2,
    )


def in_a_corner(question: Question) -> Question:
    """The wood first in a warmer corner of its room (a cooler one where it is to take up moisture) until its mean is there, then where it
    was to lie."""
    moved = -COOLER_C if question.rises else WARMER_C
    corner = replace(question.setting, series=warmed(question.setting.series, moved))
    days = answer(replace(question, setting=corner, wanted=None), runs=FEW_RUNS).days if question.start != question.target else 0.0
    if not np.isfinite(days) or days < 1:
        return question
    return replace(question, setting=replace(corner, then=(Stage(float(np.ceil(days)), question.setting),)))


def warmed(series: AirSeries, by_c: float) -> AirSeries:
    """The same air, with the same vapour in it, so much warmer (°C).

    Raises:
        OutOfRange: by_c −20…40°C, or air beyond what a series may hold.
    """
    check_range("by_c", by_c, -20.0, 40.0, "°C")
    vapour = series.relative_humidity * np.asarray(saturation_concentration(series.temperature_c))
    warmer = series.temperature_c + by_c
    return replace(series, temperature_c=warmer, relative_humidity=np.minimum(vapour / np.asarray(saturation_concentration(warmer)), 1.0))


def matters_after(question: Question, elsewhere: Setting, days: float = 365.0) -> float:
    """How many days wood that is as wanted may lie elsewhere before its mean leaves what is wanted; infinite where it does not within
    ``days``.

    Raises:
        OutOfRange: days 1…4000.
    """
    check_range("days", days, 1.0, field.HORIZON_DAYS, " days")
    looks: Array = np.arange(0.0, days + 0.5, 0.5)[: int(2 * days) + 1]
    ran = field.dry(
        question.figures.wood,
        question.as_slab_m,
        question.profile,
        elsewhere.drive(),
        days,
        out_days=looks,
        tolerance=question.step_tolerance,
    )
    if question.wanted is None:
        return 0.0
    low, high = question.wanted.outer_at(looks)
    outside = (ran.mean < low - 1e-9) | (ran.mean > high + 1e-9)
    return float(looks[np.argmax(outside)]) if outside.any() else float("inf")
