"""Routes: ways for wood to get from the saw to where it is wanted, a stage at a time, each told by the same runs as a single drying.

A route is a row of settings; wood is moved on to the next once it has come down far enough, or as far as a place helps. Its answer is that
of one question whose settings follow each other (:class:`wood.drying.methods.Setting`), so that a route of two stages is what both stages
make by hand.

Sources: the answers of :mod:`wood.drying.answers`; kilns by the published schedule of the species, AH-188, in three steps, until a kiln app
runs them whole; energy for a kilogram of water, AH-188 and GTR-118 (medium and low: see the table of ranges); where wood is moved, our own
judgement.
"""

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from wood.air import climate, rooms
from wood.air.climate import MONTH_BEGINS, YEAR_DAYS, AirSeries
from wood.drying import answers, insects, stages
from wood.drying.answers import Answer
from wood.drying.defects import Risk
from wood.drying.insects import Attack, Origin
from wood.drying.methods import SMALL_STACK, Setting
from wood.drying.questions import Question
from wood.drying.solar import DRY_FILLS, SHUT_FILLS, WET_FILLS, SolarKiln
from wood.drying.stages import Moved, Route, RouteStage, along, answered
from wood.errors import NotKnown, check_range
from wood.kiln.schedules import AIR_SPEED_M_S, code_for, steps
from wood.species import Species
from wood.stacks.air import OpenBoard, Stack

AIR_DRY = 0.20
# Wet enough to have lost what checks it in the yard, dry enough that a kiln is not kept long (our judgement).
KILN_AT = 0.25
# A kiln in three steps: its first setting down to here, its last from there on.
FIRST_STEP_UNTIL, LAST_STEP_FROM = 0.35, 0.20
CHAMBER = Stack(1.0, width_m=1.2, forced=True)
BOX_C, BOX_HUMIDITY, BOX_AIR_M_S = 35.0, 0.30, 0.2
# A warm box and a shelf are for pieces a hand can hold.
SMALL_M = 0.12
# How far the load of a solar kiln fills its air, down to which moisture: vents shut while it is wet, open when it is dry.
SUN = ((0.30, SHUT_FILLS), (AIR_DRY, WET_FILLS), (0.0, DRY_FILLS))
# Nobody gives a kiln away for longer to one load, and thick green hardwood is better begun outdoors (our judgement).
KILN_DAYS_AT_MOST = 60.0
# From here down wood may be brought indoors.
INDOORS_FROM = 0.25


@dataclass(frozen=True)
class Moving:
    """When wood is carried on from outdoors: the moisture at which it goes into a room, and into a kiln or a box (fractions); or the day
    after the start, whatever it is at then.

    Raises:
        OutOfRange: moistures 0.04…2, a day 1…3650.
    """

    indoors_at: float = AIR_DRY
    kiln_at: float = KILN_AT
    on_day: float | None = None

    def __post_init__(self) -> None:
        check_range("indoors_at", self.indoors_at, 0.04, 2.0)
        check_range("kiln_at", self.kiln_at, 0.04, 2.0)
        if self.on_day is not None:
            check_range("on_day", self.on_day, 1.0, answers.LONGEST_DAYS, " days")


USUAL_MOVING = Moving()


@dataclass(frozen=True)
class Travelled:
    """A route as it was worked out: its answer, where the wood is moved and when, its risks, the driest the last place brings it to, and
    the energy for a cubic metre (kWh, low and high; zeros where the sun and the house give it)."""

    route: Route
    question: Question
    answer: Answer
    moved: tuple[Moved, ...]
    risks: tuple[Risk, ...]
    attack: Attack
    reaches: float
    energy_kwh_m3: tuple[float, float]

    @property
    def arrives(self) -> bool:
        return bool(np.isfinite(self.answer.days))

    @property
    def kiln_days(self) -> float:
        """How long it keeps a kiln."""
        if not self.arrives or all(stage.where != "kiln" for stage in self.route.stages):
            return 0.0
        return self.answer.days - next((move.day for move in self.moved if move.where == "kiln"), 0.0)

    @property
    def movings(self) -> int:
        """How often the wood is stacked: once, and again wherever it is moved to."""
        return 1 + len(self.moved)

    @property
    def weighings(self) -> float:
        """How often it is weighed or read on the way; infinite where it never arrives."""
        begins = [0.0, *(move.day for move in self.moved)]
        places = [self.route.stages[0].where, *(move.where for move in self.moved)]
        stays = zip(places, begins, [*begins[1:], self.answer.days], strict=True)
        return float(sum(max(0.0, end - begin) * ROUTE_METHODS[where].weighed for where, begin, end in stays))

    @property
    def worst(self) -> Risk | None:
        """Its gravest risk."""
        return max(self.risks, key=lambda risk: risk.worst, default=None)


@dataclass(frozen=True)
class RouteMethod:
    """A kind of place that wood lies in on a route: how often it is weighed or read there (times a day), and the kilowatt hours that a
    kilogram of water costs there, low and high."""

    weighed: float
    energy_kwh_kg: tuple[float, float] = (0.0, 0.0)


# By the code of a stage. Weighed: our judgement of practice, samples in a kiln daily, outdoors every two weeks; energy: AH-188, GTR-118,
# makers (medium and low).
ROUTE_METHODS = {
    "kiln": RouteMethod(1.0, (1.0, 1.9)),
    "solar": RouteMethod(1 / 3, (0.1, 0.3)),
    "box": RouteMethod(1 / 2, (1.0, 2.5)),
    "room": RouteMethod(1 / 7),
    "shelf": RouteMethod(1 / 7),
    "yard": RouteMethod(1 / 14),
    "shed": RouteMethod(1 / 14),
}


@dataclass(frozen=True)
class WoodOnItsWay:
    """What a route is laid for: the wood (metres, fractions), how it lies in the yard and in a shed, the room it may be finished in, the
    sun on a solar kiln, and when it is carried on."""

    species: Species
    thickness_m: float
    target: float
    yard: Setting
    shed: Setting
    room: Setting
    sun: SolarKiln
    moving: Moving

    def outdoors(self, where: str, until: float) -> RouteStage:
        """So long in the yard or in the shed."""
        return RouteStage(where, self.yard if where == "yard" else self.shed, until, self.moving.on_day)


@dataclass(frozen=True)
class RouteKind:
    """A route that wood can take: its place among the others, its code, and its stages for a wood; ``small``: for small pieces alone."""

    order: int
    key: str
    stages: Callable[[WoodOnItsWay], tuple[RouteStage, ...]]
    small: bool = False


def _solar(wood: WoodOnItsWay) -> tuple[RouteStage, ...]:
    outdoors = wood.yard.series
    return (
        RouteStage("solar", Setting(wood.sun.air(outdoors, WET_FILLS), CHAMBER), AIR_DRY),
        RouteStage("solar", Setting(wood.sun.air(outdoors, DRY_FILLS), CHAMBER), wood.target),
    )


def _yard_kiln(wood: WoodOnItsWay) -> tuple[RouteStage, ...]:
    kiln_at = wood.moving.kiln_at
    kiln = kiln_stages(wood.species, wood.thickness_m, wood.target)
    return (wood.outdoors("yard", kiln_at), *(stage for stage in kiln if stage.until < kiln_at))


def _yard_box(wood: WoodOnItsWay) -> tuple[RouteStage, ...]:
    box = Setting(climate.constant(BOX_C, BOX_HUMIDITY, BOX_AIR_M_S), OpenBoard(wind_share=1.0))
    return wood.outdoors("yard", wood.moving.kiln_at), RouteStage("box", box, wood.target)


# Every route there is. Add a new one here, or from another app; a method that no route used before also goes into ROUTE_METHODS.
ROUTES = [
    RouteKind(10, "yard", lambda wood: (RouteStage("yard", wood.yard, wood.target),)),
    RouteKind(20, "yard_room", lambda wood: (wood.outdoors("yard", wood.moving.indoors_at), RouteStage("room", wood.room, wood.target))),
    RouteKind(30, "shed_room", lambda wood: (wood.outdoors("shed", wood.moving.indoors_at), RouteStage("room", wood.room, wood.target))),
    RouteKind(40, "room", lambda wood: (RouteStage("room", wood.room, wood.target),)),
    RouteKind(50, "yard_kiln", _yard_kiln),
    RouteKind(60, "kiln", lambda wood: kiln_stages(wood.species, wood.thickness_m, wood.target)),
    RouteKind(70, "solar", _solar),
    RouteKind(
        80, "shelf", lambda wood: (RouteStage("shelf", Setting(wood.room.series, OpenBoard(wind_share=1.0)), wood.target),), small=True
    ),
    RouteKind(90, "yard_box", _yard_box, small=True),
]


def routes(
    species: Species,
    thickness_m: float,
    start: float,
    target: float,
    yard: Setting,
    home: AirSeries,
    *,
    small: bool = False,
    solar: SolarKiln | None = None,
    moving: Moving = USUAL_MOVING,
) -> list[Route]:
    """The routes there are for a wood.

    Args:
        thickness_m: 0.5 mm…1.5 m; start, target: fractions, 0.01…3; yard: how it lies outdoors, whose air is that of the other outdoor
        routes.
        home: the air of the heated room it may be finished in, from the same day on; small: whether warm boxes and shelves are routes for
        it;
            moving: when it is carried on from outdoors.
    Raises:
        OutOfRange.
    """
    check_range("thickness_m", thickness_m, 0.0005, 1.5, " m")
    check_range("start", start, 0.01, 3.0)
    check_range("target", target, 0.01, 3.0)
    shed = Setting(rooms.unheated(yard.series), SMALL_STACK)
    wood = WoodOnItsWay(species, thickness_m, target, yard, shed, Setting(home, SMALL_STACK), solar or SolarKiln(45.0), moving)
    there = sorted(ROUTES, key=lambda kind: kind.order)
    return [Route(kind.key, kind.stages(wood)) for kind in there if small or not kind.small]


def kiln_stages(species: Species, thickness_m: float, target: float) -> tuple[RouteStage, ...]:
    """The species' published schedule in three settings; a gentle chamber where none is at hand (40°C at 75, 60 and 40% RH).

    Args:
        thickness_m: 0.5 mm…1.5 m; target: fraction, 0.01…3.
    Raises:
        OutOfRange.
    """
    check_range("thickness_m", thickness_m, 0.0005, 1.5, " m")
    check_range("target", target, 0.01, 3.0)
    try:
        schedule = steps(code_for(species.key, thickness_m), min(max(target, 0.04), 0.30))
        middle = next((step for step in schedule if step.until < FIRST_STEP_UNTIL), schedule[-1])
        settings = [(step.dry_bulb_c, step.relative_humidity) for step in (schedule[0], middle, schedule[-1])]
    except NotKnown:
        settings = [(40.0, 0.75), (40.0, 0.60), (40.0, 0.40)]
    untils = (FIRST_STEP_UNTIL, LAST_STEP_FROM, target)
    return tuple(
        RouteStage("kiln", Setting(climate.constant(warm, damp, AIR_SPEED_M_S), CHAMBER), until)
        for (warm, damp), until in zip(settings, untils, strict=True)
    )


def travel(
    route: Route,
    species: Species,
    question: Question,
    *,
    ends_sealed: bool = True,
    sapwood: bool = True,
    origin: Origin = Origin.FRESH,
    runs: int = answers.RUNS,
) -> Travelled:
    """One route for one piece.

    Args:
        question: the piece, its start and its target; its setting is taken from the route.
    Raises:
        OutOfRange: a route without stages; see :class:`Question`.

    >>> from wood.air.climate import pattern
    >>> from wood.drying.diffusivity import of_species
    >>> from wood.drying.methods import YARD, setting
    >>> from wood.species import species_named
    >>> pine, year = species_named("eastern_white_pine"), pattern("four_seasons").year.starting(120)
    >>> yard, home = setting(YARD, year), rooms.room(year, rooms.DWELLING)
    >>> question = Question(of_species(pine), 0.027, 0.6, 0.10, yard)
    >>> both = next(item for item in routes(pine, 0.027, 0.6, 0.10, yard, home) if item.key == "yard_room")
    >>> result = travel(both, pine, question, runs=8)
    >>> result.arrives and len(result.moved) == 1
    True
    """
    setting, moved = along(route, question)
    query = replace(question, setting=setting)
    result = answered(query, route, question, runs)
    last = setting.last.series
    by_month = answers.monthly_settling(last, rising=False)
    history = result.history
    risks = tuple(stages.risks(query, species, history, ends_sealed=ends_sealed))
    series = stages.joined_for(setting, history)
    attack = insects.attack(species, history, series, sapwood=sapwood, origin=origin)
    return Travelled(route, query, result, moved, risks, attack, float(by_month.min()), _energy(route, question, moved))


def _energy(route: Route, question: Question, moved: tuple[Moved, ...]) -> tuple[float, float]:
    """Kilowatt hours for a cubic metre: the water that leaves in heated stages, times what a kilogram costs."""
    enters = {route.stages[0].where: question.start} | {move.where: move.moisture for move in moved}
    places = list(enters)
    low = high = 0.0
    for position, where in enumerate(places):
        leaves = enters[places[position + 1]] if position + 1 < len(places) else question.target
        water = max(0.0, enters[where] - leaves) * question.figures.wood.density
        least, most = ROUTE_METHODS[where].energy_kwh_kg
        low, high = low + least * water, high + most * water
    return low, high


def best(travelled: list[Travelled]) -> Travelled | None:
    """The route to take: of those that arrive without a grave risk, and keep no kiln for more than two months, the quickest;
    where none does so, the one of them that risks least. None of none.

    >>> best([]) is None
    True
    """
    there = [route for route in travelled if route.arrives]
    if not there:
        return None
    # Green wood is not brought into a heated room: it checks, and the house takes up its water.
    there = [item for item in there if item.route.stages[0].where not in ("room", "shelf") or item.question.start <= INDOORS_FROM] or there
    there = [item for item in there if item.kiln_days <= KILN_DAYS_AT_MOST] or there
    sound = [item for item in there if (item.worst.worst if item.worst else 0.0) < 1.0]
    if sound:
        return min(sound, key=lambda item: item.answer.days)
    return min(there, key=lambda item: item.worst.worst if item.worst else 0.0)


def begun_on(route: Route, day: float) -> Route:
    """The same route begun on another day of the year (0…366); chambers are the same on every day.

    Raises:
        OutOfRange.
    """
    check_range("day", day, 0.0, 366.0, " days")

    def there(setting: Setting) -> Setting:
        whole_year = abs(setting.series.days - YEAR_DAYS) < 0.5
        return replace(setting, series=setting.series.starting(day)) if whole_year else setting

    return Route(route.key, tuple(replace(stage, setting=there(stage.setting)) for stage in route.stages))


def days_by_month(route: Route, question: Question) -> tuple[float, ...]:
    """Days of the middle piece on a route begun on the first of each month, January first; infinite where it never arrives.

    Raises:
        OutOfRange.
    """
    result = []
    for first in MONTH_BEGINS:
        setting, _ = along(begun_on(route, float(first)), question)
        result.append(answers.middle_days(replace(question, setting=setting)))
    return tuple(result)
