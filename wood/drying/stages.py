"""The stages of a route: when wood is moved on from each, and how the boards of a set, each moved when it is ready, come to its end.

Source: the answers of :mod:`wood.drying.answers`; where a stage helps no more and in how many parts a set is moved are our own judgement.
"""

from dataclasses import dataclass, replace

import numpy as np

from wood.air.climate import AirSeries
from wood.drying import answers, defects
from wood.drying.answers import Answer
from wood.drying.defects import Risk
from wood.drying.field import History
from wood.drying.methods import Setting, Stage
from wood.drying.questions import Question
from wood.errors import NotKnown, check_range
from wood.species import Species

# Wood stays outdoors until its moisture is this close to the EMC of the driest month; after that, waiting hardly dries it.
HELPS = 0.02
LONGEST_JOINED_DAYS = 1460.0
# Checks open in the first days, however soon it is there.
LEAST_WATCHED_DAYS = 1.0
# Boards reach the moisture at which they are moved on at different times: the set is split into this many parts, each moved on its day.
PARTS = 5
FEWEST_RUNS = 8


@dataclass(frozen=True)
class RouteStage:
    """A part of a route: where (a code), in what setting, and down to which moisture (fraction) the wood stays there, or until which day
    after the start.
    """

    where: str
    setting: Setting
    until: float
    until_day: float | None = None


@dataclass(frozen=True)
class Route:
    """A route by its code, and its stages in order."""

    key: str
    stages: tuple[RouteStage, ...]


@dataclass(frozen=True)
class Moved:
    """When wood is moved on: whole days after the start, its moisture then, and to where."""

    day: float
    moisture: float
    where: str


def along(route: Route, question: Question) -> tuple[Setting, tuple[Moved, ...]]:
    """The settings of a route one after the other, and when the middle piece of a question is moved on.

    Raises:
        OutOfRange: a route without stages.
    """
    check_range("legs", len(route.stages), 1, 20)
    stages = _stages_for(route, question)
    setting, moved, day = stages[0].setting, [], 0.0
    where = stages[0].where
    for position, stage in enumerate(stages[1:]):
        until = max(stages[position].until, question.target)
        reached, moisture = _comes_to(replace(question, setting=setting, target=until), stages[position])
        if not np.isfinite(reached):
            break
        day = max(day + 1.0, float(np.ceil(reached)))
        setting = replace(setting, then=(*setting.then, Stage(day, stage.setting)))
        if stage.where != where:
            moved.append(Moved(day, moisture, stage.where))
            where = stage.where
    return setting, tuple(moved)


def _stages_for(route: Route, question: Question) -> list[RouteStage]:
    """The stages that a wood of this moisture has before it."""
    return [stage for stage in route.stages if stage.until < question.start] or [route.stages[-1]]


def answered(query: Question, route: Route, question: Question, runs: int) -> Answer:
    """The answer of a route, with the band of boards that are each moved on when they are ready for it, the slow ones later than the quick.

    Args:
        query: the question in the settings of the whole route (:func:`along`); question: the same, its setting of no account; runs: of the
        set, 8…1024.
    Raises:
        OutOfRange.
    """
    check_range("legs", len(route.stages), 1, 20)
    stages = _stages_for(route, question)
    if len(stages) == 1:
        return answers.answer(query, runs=runs)
    # Its middle is that of any set; its band is not that of boards which are all moved on one day.
    answer = answers.answer(query, runs=FEWEST_RUNS)
    if answer.already or not np.isfinite(answer.days):
        return replace(answer, runs=runs)
    fine = answer.days <= answers.FINE_DAYS
    days = np.full(answers.set_size(runs), np.inf)

    def follow(members: np.ndarray, position: int, setting: Setting, day: float) -> None:
        if position + 1 == len(stages):
            days[members] = answers.days_of_members(replace(question, setting=setting), members, runs, fine=fine)
            return
        stage = stages[position]
        for part in _parts(
            members, _ready_for_more(stage, replace(question, setting=setting), members, runs, fine), PARTS if not position else 1
        ):
            moved = max(day + 1.0, part[1])
            follow(part[0], position + 1, replace(setting, then=(*setting.then, Stage(moved, stages[position + 1].setting))), moved)

    follow(np.arange(1, days.size), 0, stages[0].setting, 0.0)
    low, high = (float(edge) for edge in np.percentile(days[1:], [10, 90], method="nearest"))
    return replace(answer, low=min(low, answer.days), high=max(high, answer.days), runs=runs)


def _ready_for_more(stage: RouteStage, question: Question, members: np.ndarray, runs: int, fine: bool) -> np.ndarray:
    """When each member is moved on from a stage."""
    if stage.until_day is not None:
        return np.full(members.size, stage.until_day)
    days = answers.days_of_members(replace(question, target=max(stage.until, question.target)), members, runs, fine=fine)
    late = ~np.isfinite(days)
    if late.any():
        nearest = _nearest(question, stage)
        days[late] = (
            1.0 if nearest >= question.start else answers.days_of_members(replace(question, target=nearest), members[late], runs, fine=fine)
        )
    return days


def _parts(members: np.ndarray, days: np.ndarray, count: int) -> list[tuple[np.ndarray, float]]:
    """Members in the order of their days, in parts with the day of each part's middle; those that are never ready are left out."""
    known = np.isfinite(days)
    order = np.argsort(days[known], kind="stable")
    return [(members[known][part], float(np.ceil(np.median(days[known][part])))) for part in np.array_split(order, count) if part.size]


def _nearest(question: Question, stage: RouteStage) -> float:
    """The moisture from which on a stage helps no more."""
    return max(question.target, float(answers.monthly_settling(stage.setting.series, rising=False).min()) + HELPS)


def _comes_to(question: Question, stage: RouteStage) -> tuple[float, float]:
    """When the middle piece is to be moved on, and its moisture then: on its day, at what the stage is for, else as near as its driest
    month lets it.
    """
    if stage.until_day is not None:
        return stage.until_day, answers.middle_mean(question, stage.until_day)
    day = answers.middle_days(question)
    if np.isfinite(day):
        return day, question.target
    nearest = _nearest(question, stage)
    if nearest >= question.start:
        return 1.0, question.start
    return answers.middle_days(replace(question, target=nearest)), nearest


def joined_for(setting: Setting, history: History) -> AirSeries:
    """The air of a setting and of all that follow it, for as long as a run in it lasted."""
    return joined(setting, min(float(history.days[-1]) + 2, LONGEST_JOINED_DAYS))


def risks(question: Question, species: Species, history: History, *, ends_sealed: bool) -> list[Risk]:
    """What may go wrong on the way of a question's middle piece, the gravest first; empty where the species' figures do not tell.

    Args:
        history: of the middle piece, as the question was answered.
    Raises:
        OutOfRange.
    """
    try:
        watched = answers.watched(question, max(float(history.days[-1]), LEAST_WATCHED_DAYS))
        series = joined_for(question.setting, history) if question.setting.then else question.setting.series
        return defects.assess(watched, species, question.figures, question.as_slab_m, question.start, series, ends_sealed=ends_sealed)
    except NotKnown:
        return []


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
