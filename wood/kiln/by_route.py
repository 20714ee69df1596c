"""Routes through a chamber of one's own: the yard as far as it is wanted, then a load as it is planned, by its limits and for its quantity.

Source: the yard is that of :mod:`wood.drying.stages`, the chamber that of :mod:`wood.kiln.plans`; the two bands are added as if quick
boards of the yard were the quick ones of the kiln, which they are (our judgement).
"""

import math
from dataclasses import dataclass, replace

import numpy as np

from wood.air.climate import AirSeries
from wood.drying import answers, insects, stages
from wood.drying.answers import Answer
from wood.drying.defects import Risk
from wood.drying.field import History
from wood.drying.insects import Origin
from wood.drying.methods import Setting
from wood.drying.questions import Question
from wood.drying.routes import CHAMBER, Travelled
from wood.drying.stages import Moved, Route, RouteStage
from wood.errors import NotKnown, check_range
from wood.kiln import plans
from wood.kiln.chambers import LOAD_M3, Chamber
from wood.kiln.plans import Planned
from wood.kiln.programs import DRIER, TARGETS
from wood.kiln.sharing import Lot
from wood.species import Species

THICKNESS_M = (0.003, 0.12)
# A chamber takes a little more than it is built for.
OVER = 1.05


@dataclass(frozen=True)
class OwnRoute:
    """A way through a chamber of one's own: the chamber, the air it stands in from the first day on, the wood (m³), and the moisture at
    which wood is carried into it from the yard (None: it goes in from the saw)."""

    key: str
    chamber: Chamber
    outdoors: AirSeries
    volume_m3: float
    from_yard_at: float | None = None

    def __post_init__(self) -> None:
        check_range("volume_m3", self.volume_m3, *LOAD_M3, " m³")
        if self.from_yard_at is not None:
            check_range("from_yard_at", self.from_yard_at, 0.04, 2.0)

    @property
    def turns(self) -> int:
        """How often the chamber is filled for all of it."""
        return max(1, math.ceil(self.volume_m3 / (OVER * self.chamber.load_m3)))


def travel(own: OwnRoute, species: Species, question: Question, *, ends_sealed: bool = True, origin: Origin = Origin.FRESH) -> Travelled:
    """A wood's way through a chamber of one's own. What runs as several loads is there with the last of them.

    Args:
        question: the piece, its start and its target; its setting is that of the yard.
    Raises:
        NotKnown: no schedule, no pace; the chamber cannot bring wood to that. OutOfRange.
    """
    thickness = question.as_slab_m
    if not TARGETS[0] <= question.target <= TARGETS[1] or not THICKNESS_M[0] <= thickness <= THICKNESS_M[1]:
        raise NotKnown("kiln_schedule", species.common_name)
    enters, day, yard = question.start, 0.0, None
    if own.from_yard_at is not None and question.start > own.from_yard_at > question.target:
        yard = answers.answer(replace(question, target=own.from_yard_at))
        if not np.isfinite(yard.days):
            raise NotKnown("kiln_schedule", species.common_name)
        enters, day = own.from_yard_at, float(math.ceil(yard.days))
    if enters < question.target - DRIER:
        raise NotKnown("moistening", species.common_name)
    planned = _planned(own, species, thickness, enters, question.target, day)
    if not planned.ran.finished:
        raise NotKnown("kiln_schedule", species.common_name)
    ran = planned.ran
    air = AirSeries(ran.temperature_c, np.clip(ran.humidity, 0.01, 1.0), np.full(ran.hours, own.chamber.air_speed_m_s))
    in_kiln = RouteStage("kiln", Setting(air, CHAMBER), question.target)
    first = (RouteStage("yard", question.setting, enters),) if yard is not None else ()
    route = Route(own.key, (*first, in_kiln))
    kiln_history = ran.history(planned.middle_of(planned.lots[0].name))
    history = _joined(yard.history, day, kiln_history) if yard is not None else kiln_history
    yard_risks = stages.risks(replace(question, target=enters), species, yard.history, ends_sealed=ends_sealed) if yard is not None else []
    before = question.setting.series if yard is not None else None
    attack = insects.attack(species, history, _one_after_the_other(before, day, air), origin=origin)
    energy = sum(ran.energy_kwh) / own.chamber.load_m3 if own.turns > 1 else sum(ran.energy_kwh) / own.volume_m3
    return Travelled(
        route,
        question,
        _answer(question, yard, day, planned, own.turns, history),
        (Moved(day, enters, "kiln"),) if yard is not None else (),
        tuple(_gravest([*yard_risks, *(risk for _, risk in planned.risks)])),
        attack,
        question.target,
        (energy, energy),
    )


def _planned(own: OwnRoute, species: Species, thickness_m: float, start: float, wanted: float, day: float) -> Planned:
    """The load of one turn, from the day it goes in."""
    volume = min(own.volume_m3, own.chamber.load_m3) if own.turns > 1 else own.volume_m3
    outdoors = own.outdoors.starting((own.outdoors.start_day + day) % 365) if abs(own.outdoors.days - 365) < 0.5 else own.outdoors
    chamber = replace(own.chamber, load_m3=volume)
    return plans.plan([Lot(species.common_name, species, thickness_m, start, volume)], wanted, chamber, outdoors)


def _answer(question: Question, yard: Answer | None, day: float, planned: Planned, turns: int, history: History) -> Answer:
    """The days of the whole way, with both bands."""
    like = yard or answers.answer(question, runs=stages.FEWEST_RUNS)
    low, high = (yard.low, yard.high) if yard is not None else (0.0, 0.0)
    days = day + turns * planned.ran.days
    return replace(
        like,
        days=days,
        low=min(low + turns * planned.low_days, days),
        high=max(high + turns * planned.high_days, days),
        already=False,
        why_not=answers.WhyNot.REACHED,
        history=history,
        means_low=history.mean,
        means_high=history.mean,
        member_days=(),
        ready_days=days,
    )


def _joined(first: History, day: float, second: History) -> History:
    """One history after another, which begins on a day."""
    until = first.days < day

    def both(name: str) -> np.ndarray:
        return np.concatenate([getattr(first, name)[until], getattr(second, name)])

    alike = first.profiles.shape[1] == second.profiles.shape[1]
    return replace(
        second,
        days=np.concatenate([first.days[until], second.days + day]),
        mean=both("mean"),
        surface=both("surface"),
        shell=both("shell"),
        core=both("core"),
        end=both("end"),
        profiles=both("profiles") if alike else second.profiles,
        lowest=min(first.lowest, second.lowest),
        highest=max(first.highest, second.highest),
        steps=first.steps + second.steps,
    )


def _one_after_the_other(first: AirSeries | None, day: float, second: AirSeries) -> AirSeries:
    """The air of the yard until a day, then that of the chamber."""
    if first is None:
        return second
    count = int(day * 24)

    def both(name: str) -> np.ndarray:
        before = np.broadcast_to(getattr(first, name), first.temperature_c.shape)
        return np.concatenate([np.resize(before, count), getattr(second, name)])

    return AirSeries(both("temperature_c"), both("relative_humidity"), both("wind_m_s"), first.start_day)


def _gravest(risks: list[Risk]) -> list[Risk]:
    """Of each kind the gravest, the gravest first."""
    by_kind: dict[object, Risk] = {}
    for risk in risks:
        if risk.kind not in by_kind or risk.worst > by_kind[risk.kind].worst:
            by_kind[risk.kind] = risk
    return sorted(by_kind.values(), key=lambda risk: -risk.worst)
