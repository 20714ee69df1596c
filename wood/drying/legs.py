"""The legs of a road: when wood is moved on from each, and how the boards of a set, each moved when it is ready, come to its end.

Source: the answers of :mod:`wood.drying.answers`; where a leg helps no more and in how many parts a set is moved are our own judgement.
"""

from dataclasses import dataclass, replace

import numpy as np

from wood.air.climate import AirSeries
from wood.drying import answers
from wood.drying.answers import Answer
from wood.drying.methods import Setting, Stage
from wood.drying.questions import Question
from wood.errors import check_range

# Outdoors wood is worth leaving until it is so near to what the driest month would bring it to.
HELPS = 0.02
LONGEST_JOINED_DAYS = 1460.0
# Boards come to where they are moved on at their own times: so many parts of the set are moved each on its own day.
PARTS = 5
FEWEST_RUNS = 8


@dataclass(frozen=True)
class Leg:
    """A part of a road: where (a code), in what setting, and down to which moisture (fraction) the wood stays there, or until which day
    after the start.
    """

    where: str
    setting: Setting
    until: float
    until_day: float | None = None


@dataclass(frozen=True)
class Road:
    """A road by its code, and its legs in order."""

    key: str
    legs: tuple[Leg, ...]


@dataclass(frozen=True)
class Moved:
    """When wood is moved on: whole days after the start, its moisture then, and to where."""

    day: float
    moisture: float
    where: str


def along(road: Road, question: Question) -> tuple[Setting, tuple[Moved, ...]]:
    """The settings of a road one after the other, and when the middle piece of a question is moved on.

    Raises:
        OutOfRange: a road without legs.
    """
    check_range("legs", len(road.legs), 1, 20)
    legs = _legs_for(road, question)
    setting, moved, day = legs[0].setting, [], 0.0
    where = legs[0].where
    for position, leg in enumerate(legs[1:]):
        until = max(legs[position].until, question.target)
        reached, moisture = _comes_to(replace(question, setting=setting, target=until), legs[position])
        if not np.isfinite(reached):
            break
        day = max(day + 1.0, float(np.ceil(reached)))
        setting = replace(setting, then=(*setting.then, Stage(day, leg.setting)))
        if leg.where != where:
            moved.append(Moved(day, moisture, leg.where))
            where = leg.where
    return setting, tuple(moved)


def _legs_for(road: Road, question: Question) -> list[Leg]:
    """The legs that a wood of this moisture has before it."""
    return [leg for leg in road.legs if leg.until < question.start] or [road.legs[-1]]


def answered(query: Question, road: Road, question: Question, runs: int) -> Answer:
    """The answer of a road, with the band of boards that are each moved on when they are ready for it, the slow ones later than the quick.

    Args:
        asked: the question in the settings of the whole road (:func:`along`); question: the same, its setting of no account; runs: of the
        set, 8…1024.
    Raises:
        OutOfRange.
    """
    check_range("legs", len(road.legs), 1, 20)
    legs = _legs_for(road, question)
    if len(legs) == 1:
        return answers.answer(query, runs=runs)
    # Its middle is that of any set; its band is not that of boards which are all moved on one day.
    answer = answers.answer(query, runs=FEWEST_RUNS)
    if answer.already or not np.isfinite(answer.days):
        return replace(answer, runs=runs)
    fine = answer.days <= answers.FINE_DAYS
    days = np.full(answers.set_size(runs), np.inf)

    def follow(members: np.ndarray, position: int, setting: Setting, day: float) -> None:
        if position + 1 == len(legs):
            days[members] = answers.days_of_members(replace(question, setting=setting), members, runs, fine=fine)
            return
        leg = legs[position]
        for part in _parts(
            members, _ready_for_more(leg, replace(question, setting=setting), members, runs, fine), PARTS if not position else 1
        ):
            moved = max(day + 1.0, part[1])
            follow(part[0], position + 1, replace(setting, then=(*setting.then, Stage(moved, legs[position + 1].setting))), moved)

    follow(np.arange(1, days.size), 0, legs[0].setting, 0.0)
    low, high = (float(edge) for edge in np.percentile(days[1:], [10, 90], method="nearest"))
    return replace(answer, low=min(low, answer.days), high=max(high, answer.days), runs=runs)


def _ready_for_more(leg: Leg, question: Question, members: np.ndarray, runs: int, fine: bool) -> np.ndarray:
    """When each member is moved on from a leg."""
    if leg.until_day is not None:
        return np.full(members.size, leg.until_day)
    days = answers.days_of_members(replace(question, target=max(leg.until, question.target)), members, runs, fine=fine)
    late = ~np.isfinite(days)
    if late.any():
        nearest = _nearest(question, leg)
        days[late] = (
            1.0 if nearest >= question.start else answers.days_of_members(replace(question, target=nearest), members[late], runs, fine=fine)
        )
    return days


def _parts(members: np.ndarray, days: np.ndarray, count: int) -> list[tuple[np.ndarray, float]]:
    """Members in the order of their days, in parts with the day of each part's middle; those that are never ready are left out."""
    known = np.isfinite(days)
    order = np.argsort(days[known], kind="stable")
    return [(members[known][part], float(np.ceil(np.median(days[known][part])))) for part in np.array_split(order, count) if part.size]


def _nearest(question: Question, leg: Leg) -> float:
    """The moisture from which on a leg helps no more."""
    return max(question.target, float(answers.monthly_settling(leg.setting.series, rising=False).min()) + HELPS)


def _comes_to(question: Question, leg: Leg) -> tuple[float, float]:
    """When the middle piece is to be moved on, and its moisture then: on its day, at what the leg is for, else as near as its driest month
    lets it.
    """
    if leg.until_day is not None:
        return leg.until_day, answers.middle_mean(question, leg.until_day)
    day = answers.middle_days(question)
    if np.isfinite(day):
        return day, question.target
    nearest = _nearest(question, leg)
    if nearest >= question.start:
        return 1.0, question.start
    return answers.middle_days(replace(question, target=nearest)), nearest


def joined(setting: Setting, days: float) -> AirSeries:
    """The air of settings one after the other, as one series in hours; ``days`` long, 1…1460.

    Raises:
        OutOfRange.
    """
    check_range("days", days, 1.0, LONGEST_JOINED_DAYS, " days")
    hours = np.arange(int(np.ceil(days)) * 24)
    at = [(0.0, setting), *((stage.day, stage.setting) for stage in setting.then)]
    temperature, humidity, wind = (np.empty(hours.size) for _ in range(3))
    for position, (begin, part) in enumerate(at):
        end = at[position + 1][0] if position + 1 < len(at) else np.inf
        these = (hours >= begin * 24) & (hours < end * 24)
        series, source = part.series, part.series.at(hours[these] / 24)
        temperature[these], humidity[these], wind[these] = (
            series.temperature_c[source],
            series.relative_humidity[source],
            series.wind_m_s[source],
        )
    return AirSeries(temperature, humidity, wind, start_day=setting.series.start_day)
