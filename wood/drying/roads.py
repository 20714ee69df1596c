"""Roads: ways for wood to get from the saw to where it is wanted, a leg at a time, each told by the same runs as a single drying.

A road is a row of settings; wood is moved on to the next once it has come down far enough, or as far as a place helps. Its answer is that of one
question whose settings follow each other (:class:`wood.drying.methods.Setting`), so that a road of two legs is what both legs make by hand.

Sources: the answers of :mod:`wood.drying.answers`; kilns by the published schedule of the species, AH-188, in three steps, until a kiln app
runs them whole; energy for a kilogram of water, AH-188 and GTR-118 (medium and low: see the table of ranges); where wood is moved, our own judgement.
"""

from dataclasses import dataclass, replace

import numpy as np

from wood.air import climate, rooms
from wood.air.climate import MONTH_BEGINS, YEAR_DAYS, AirSeries
from wood.drying import answers, defects, insects
from wood.drying.answers import Answer, Question
from wood.drying.defects import Risk
from wood.drying.insects import Attack
from wood.drying.methods import SMALL_STACK, Setting, Stage
from wood.drying.solar import DRY_FILLS, SHUT_FILLS, WET_FILLS, SolarKiln
from wood.errors import NotKnown, check_range
from wood.kiln.schedules import AIR_SPEED_M_S, code_for, steps
from wood.species import Species
from wood.stacks.air import OpenBoard, Stack

AIR_DRY = 0.20
# Outdoors wood is worth leaving until it is so near to what the driest month would bring it to.
HELPS = 0.02
# A kiln in three steps: its first setting down to here, its last from there on.
FIRST_STEP_UNTIL, LAST_STEP_FROM = 0.35, 0.20
CHAMBER = Stack(1.0, width_m=1.2, forced=True)
BOX_C, BOX_HUMIDITY, BOX_AIR_M_S = 35.0, 0.30, 0.2
# A warm box and a shelf are for pieces a hand can hold.
SMALL_M = 0.12
# How far the load of a solar kiln fills its air, down to which moisture: vents shut while it is wet, open when it is dry.
SUN = ((0.30, SHUT_FILLS), (AIR_DRY, WET_FILLS), (0.0, DRY_FILLS))
# Nobody gives a kiln away for longer to one load (our judgement).
KILN_DAYS_AT_MOST = 120.0
# From here down wood may be brought indoors.
INDOORS_FROM = 0.25
# Kilowatt hours for a kilogram of water: low and high (AH-188, GTR-118, makers; medium and low).
ENERGY = {"kiln": (1.0, 1.9), "solar": (0.1, 0.3), "box": (1.0, 2.5)}
LONGEST_JOINED_DAYS = 1460.0


@dataclass(frozen=True)
class Leg:
    """A part of a road: where (a code), in what setting, and down to which moisture (fraction) the wood stays there."""

    where: str
    setting: Setting
    until: float


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


@dataclass(frozen=True)
class Travelled:
    """A road as it was worked out: its answer, where the wood is moved and when, its risks, the driest the last place brings it to, and the energy for a
    cubic metre (kWh, low and high; zeros where the sun and the house give it)."""

    road: Road
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
        if not self.arrives or all(leg.where != "kiln" for leg in self.road.legs):
            return 0.0
        return self.answer.days - next((one.day for one in self.moved if one.where == "kiln"), 0.0)

    @property
    def worst(self) -> Risk | None:
        """Its gravest risk."""
        return max(self.risks, key=lambda risk: risk.worst, default=None)


def roads(
    species: Species, thickness_m: float, start: float, target: float, yard: Setting, home: AirSeries, *, small: bool = False, solar: SolarKiln | None = None
) -> list[Road]:  # fmt: skip
    """The roads there are for a wood.

    Args:
        thickness_m: 0.5 mm…1.5 m; start, target: fractions, 0.01…3; yard: how it lies outdoors, whose air is that of the other outdoor roads.
        home: the air of the heated room it may be finished in, from the same day on; small: whether warm boxes and shelves are roads for it.
    Raises:
        OutOfRange.
    """
    check_range("thickness_m", thickness_m, 0.0005, 1.5, " m")
    check_range("start", start, 0.01, 3.0)
    check_range("target", target, 0.01, 3.0)
    outdoors = yard.series
    indoors, shed = Setting(home, SMALL_STACK), Setting(rooms.unheated(outdoors), SMALL_STACK)
    kiln = kiln_legs(species, thickness_m, target)
    sun = solar or SolarKiln(45.0)
    found = [
        Road("yard", (Leg("yard", yard, target),)),
        Road("yard_room", (Leg("yard", yard, AIR_DRY), Leg("room", indoors, target))),
        Road("shed_room", (Leg("shed", shed, AIR_DRY), Leg("room", indoors, target))),
        Road("room", (Leg("room", indoors, target),)),
        Road("yard_kiln", (Leg("yard", yard, 0.25), *(leg for leg in kiln if leg.until < 0.25))),
        Road("kiln", kiln),
        Road(
            "solar",
            (
                Leg("solar", Setting(sun.air(outdoors, WET_FILLS), CHAMBER), AIR_DRY), Leg("solar", Setting(sun.air(outdoors, DRY_FILLS), CHAMBER), target)
            ),
        ),
    ]  # fmt: skip
    if small:
        box = Setting(climate.constant(BOX_C, BOX_HUMIDITY, BOX_AIR_M_S), OpenBoard(wind_share=1.0))
        found += [
            Road("shelf", (Leg("shelf", Setting(home, OpenBoard(wind_share=1.0)), target),)),
            Road("yard_box", (Leg("yard", yard, 0.25), Leg("box", box, target))),
        ]
    return found


def kiln_legs(species: Species, thickness_m: float, target: float) -> tuple[Leg, ...]:
    """The species' published schedule in three settings; a gentle chamber where none is at hand (40 °C at 75, 60 and 40 % RH).

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
        Leg("kiln", Setting(climate.constant(warm, damp, AIR_SPEED_M_S), CHAMBER), until)
        for (warm, damp), until in zip(settings, untils, strict=True)
    )


def travel(
    road: Road, species: Species, question: Question, *, ends_sealed: bool = True, sapwood: bool = True, runs: int = answers.RUNS
) -> Travelled:
    """One road for one piece.

    Args:
        question: the piece, its start and its target; its setting is taken from the road.
    Raises:
        OutOfRange: a road without legs; see :class:`Question`.

    >>> from wood.air.climate import pattern
    >>> from wood.drying.diffusivity import of_species
    >>> from wood.drying.methods import YARD, setting
    >>> from wood.species import species_named
    >>> pine, year = species_named("eastern_white_pine"), pattern("four_seasons").year.starting(120)
    >>> yard, home = setting(YARD, year), rooms.room(year, rooms.DWELLING)
    >>> asked = Question(of_species(pine), 0.027, 0.6, 0.10, yard)
    >>> both = next(one for one in roads(pine, 0.027, 0.6, 0.10, yard, home) if one.key == "yard_room")
    >>> found = travel(both, pine, asked, runs=8)
    >>> found.arrives and len(found.moved) == 1
    True
    """
    check_range("legs", len(road.legs), 1, 20)
    setting, moved = _along(road, question)
    asked = replace(question, setting=setting)
    found = answers.answer(asked, runs=runs)
    last = setting.last.series
    by_month = answers.monthly_settling(last, rising=False)
    history = found.history
    series = joined(setting, min(float(history.days[-1]) + 2, LONGEST_JOINED_DAYS))
    try:
        risks = tuple(defects.assess(history, species, question.figures, asked.as_slab_m, question.start, series, ends_sealed=ends_sealed))
    except NotKnown:
        risks = ()
    attack = insects.attack(species, history, series, sapwood=sapwood)
    return Travelled(road, asked, found, moved, risks, attack, float(by_month.min()), _energy(road, question, moved))


def _along(road: Road, question: Question) -> tuple[Setting, tuple[Moved, ...]]:
    """The settings of a road one after the other, and when the middle piece is moved."""
    legs = [leg for leg in road.legs if leg.until < question.start] or [road.legs[-1]]
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


def _comes_to(question: Question, leg: Leg) -> tuple[float, float]:
    """When the middle piece is to be moved on, and its moisture then: at what the leg is for, else as near as its driest month lets it."""
    day = answers.middle_days(question)
    if np.isfinite(day):
        return day, question.target
    nearest = max(question.target, float(answers.monthly_settling(leg.setting.series, rising=False).min()) + HELPS)
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


def _energy(road: Road, question: Question, moved: tuple[Moved, ...]) -> tuple[float, float]:
    """Kilowatt hours for a cubic metre: the water that leaves in heated legs, times what a kilogram costs."""
    enters = {road.legs[0].where: question.start} | {one.where: one.moisture for one in moved}
    places = list(enters)
    low = high = 0.0
    for position, where in enumerate(places):
        if where not in ENERGY:
            continue
        leaves = enters[places[position + 1]] if position + 1 < len(places) else question.target
        water = max(0.0, enters[where] - leaves) * question.figures.wood.density
        low, high = low + ENERGY[where][0] * water, high + ENERGY[where][1] * water
    return low, high


def best(travelled: list[Travelled]) -> Travelled | None:
    """The road to take: of those that arrive without a grave risk, and without a kiln for half a year, the quickest; where none does so, the one that
    risks least. None of none.

    >>> best([]) is None
    True
    """
    there = [one for one in travelled if one.arrives]
    if not there:
        return None
    # Green wood is not brought into a heated room: it checks, and the house takes up its water.
    there = [one for one in there if one.road.legs[0].where not in ("room", "shelf") or one.question.start <= INDOORS_FROM] or there
    there = [one for one in there if one.kiln_days <= KILN_DAYS_AT_MOST] or there
    sound = [one for one in there if (one.worst.worst if one.worst else 0.0) < 1.0]
    if sound:
        return min(sound, key=lambda one: one.answer.days)
    return min(there, key=lambda one: one.worst.worst if one.worst else 0.0)


def begun_on(road: Road, day: float) -> Road:
    """The same road begun on another day of the year (0…366); chambers are the same on every day.

    Raises:
        OutOfRange.
    """
    check_range("day", day, 0.0, 366.0, " days")

    def there(setting: Setting) -> Setting:
        whole_year = abs(setting.series.days - YEAR_DAYS) < 0.5
        return replace(setting, series=setting.series.starting(day)) if whole_year else setting

    return Road(road.key, tuple(replace(leg, setting=there(leg.setting)) for leg in road.legs))


def days_by_month(road: Road, question: Question) -> tuple[float, ...]:
    """Days of the middle piece on a road begun on the first of each month, January first; infinite where it never arrives.

    Raises:
        OutOfRange.
    """
    result = []
    for first in MONTH_BEGINS:
        setting, _ = _along(begun_on(road, float(first)), question)
        result.append(answers.middle_days(replace(question, setting=setting)))
    return tuple(result)
