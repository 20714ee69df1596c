"""Drying a small rough bowl in a microwave: short heats, long rests and weighings, and what to do next by what each heat took out.

*A heat* warms the whole wall at once. What of an oven's power reaches a load grows with the water in it (:func:`coupling`). A heat is as
long as it takes to warm wood and water by :data:`RISE_C`, and never longer than what would warm them to :data:`HOTTEST_C` if nothing
evaporated, so that the inside neither boils over nor chars.

*A rest* dries, too, and most of all: warm wood gives off vapour as its own activity at its temperature has it, the bulk's, since a wall
that is warm within keeps its skin moist; beside that it loses heat to the still air. Both are summed minute by minute until it is as cold
as its room; and whether warm or cold, over night as by day, it dries as it would on its shelf (:class:`Shelf`). Nothing of this is
fitted; a session that goes faster or slower moves what is foretold of the rest of it (:func:`pace`).

*Checked* on what practised turners report: a third of the weight out of a rough bowl of 200 mm, a wall of a tenth, 0.9 to 1 kg green, in
20 to 45 heats of half a minute to a minute over three to five days.

Sources: Wood Handbook ch. 4 (sorption, heat of vaporisation, specific heat), steam tables; the water loads that oven tests use for the
coupling; how hot, how long a rest, and when to lengthen are our own judgement after common practice.
"""

import math
from dataclasses import dataclass
from enum import StrEnum
from functools import cached_property

import numpy as np

from wood.air.climate import AirSeries
from wood.air.psychrometrics import saturation_concentration
from wood.air.sorption import emc, relative_humidity_for
from wood.errors import check_range
from wood.turning.bowls import DIAMETER_M
from wood.turning.drying import Course

WOOD_J_KG_K, WATER_J_KG_K, VAPORISE_J_KG = 1350.0, 4180.0, 2.40e6
RISE_C, HOTTEST_C, COOL_C = 20.0, 75.0, 30.0
# Water that takes in half of what a litre does, kg: tests with a litre, a half, a quarter and a tenth.
HALF_COUPLED_KG, TEST_KG = 0.09, 1.0
SHORTEST_S, LONGEST_S = 15.0, 240.0
LONGER, SHORTER = 1.3, 0.6
# A heat that takes less than this of the weight took little; below the second it took nothing.
LITTLE, NOTHING = 0.003, 0.0015
FLAT_HEATS = 3
MOST_HEATS = 200
# How fast a wall gives off its heat to still air, W/m²·K, half of it by the air itself; that over the heat a cubic metre of air holds is
# how fast vapour leaves, m/s. The density of ovendry wood that walls are reckoned with.
FILM_W_M2_K, VAPOUR_M_S, DENSITY = 9.0, 4.5 / 1206.0, 600.0
SHORTEST_REST_MINUTES = 30.0
# A plan: a heat an hour, ten a day; beyond these it is no way to dry this bowl.
HOUR_BETWEEN, HOURS_A_DAY = 1.0, 10.0
MOST_PLANNED, MOST_DAYS = 120, 14.0
# Steam does not find its way out of a thicker wall before it bursts it; heavier ones are no load for an oven.
THICKEST_M, HEAVIEST_KG = 0.038, 3.5
# What the plate of a usual oven turns.
USUAL_OVEN_M = 0.30
# How much of a bowl's weight has to be lost until a session's own pace counts as much as what is foretold.
BELIEVED = 0.05
PACES = (0.4, 2.5)
# At rest within so much of its weight.
THERE = 0.005
STEP_S = 300.0
# Rooms that a bowl rests in, and over how many days their air is taken.
ROOM_C, ROOM_RH, AIR_DAYS = (-20.0, 60.0), (0.02, 0.98), 14


class Felt(StrEnum):
    """How the wood felt to the hand right after a heat."""

    COOL = "cool"
    WARM = "warm"
    HOT = "hot"
    STEAM = "steam"


# How hot wood is inside that feels so to the hand.
FELT_C = {Felt.COOL: 34.0, Felt.WARM: 45.0, Felt.HOT: 62.0, Felt.STEAM: 90.0}


@dataclass(frozen=True)
class Shelf:
    """How a bowl would go on drying in its room: the room's air (:data:`ROOM_C`, :data:`ROOM_RH`), and what it loses in a day, as a share
    of its ovendry weight, at rising moistures; nothing where none are given.

    Raises:
        OutOfRange: also where moistures and losses differ in number.
    """

    temperature_c: float = 20.0
    relative_humidity: float = 0.5
    moistures: tuple[float, ...] = ()
    per_day: tuple[float, ...] = ()

    def __post_init__(self) -> None:
        check_range("temperature_c", self.temperature_c, *ROOM_C, "°C")
        check_range("relative_humidity", self.relative_humidity, *ROOM_RH)
        check_range("per_day", len(self.per_day), len(self.moistures), len(self.moistures))
        if self.moistures:
            check_range("moistures", self.moistures, 0.0, 3.0)
            check_range("per_day", self.per_day, 0.0, 3.0)


def shelf_of(course: Course, series: AirSeries) -> Shelf:
    """What a bowl's course on its shelf tells of its rests, in the air of the first :data:`AIR_DAYS`.

    >>> from wood.air.climate import constant
    >>> days, moistures = np.array([0.0, 1.0, 2.0]), np.array([0.6, 0.5, 0.45])
    >>> shelf = shelf_of(Course(days, moistures, moistures, moistures, moistures, 2.0, None, 0.0, 0.1), constant(18.0, 0.55))
    >>> shelf.temperature_c, [round(item, 3) for item in shelf.per_day]
    (18.0, [0.05, 0.075, 0.1])
    """
    few = slice(0, AIR_DAYS * series.per_day)
    temperature = float(np.clip(series.temperature_c[few].mean(), *ROOM_C))
    humidity = float(np.clip(series.relative_humidity[few].mean(), *ROOM_RH))
    rate = np.clip(-np.gradient(course.mean, course.days), 0.0, 3.0)
    order = np.argsort(course.mean)
    return Shelf(temperature, humidity, tuple(course.mean[order].tolist()), tuple(rate[order].tolist()))


@dataclass(frozen=True)
class Heat:
    """One heat: how long (s), at which share of full power, what the bowl weighed after its rest (kg), how it felt, and how many hours
    after the session began it was weighed; an hour after the one before where that is not known.
    """

    seconds: float
    level: float
    mass_kg: float
    felt: Felt = Felt.WARM
    hours: float | None = None


@dataclass(frozen=True)
class Session:
    """A bowl in an oven that cooks with ``watts``: what it weighed before the first heat, what it will weigh ovendry and at rest in its
    room, its wall, the step of the scale, the heats so far, the setting that is used, and how it dries on its shelf.

    Raises:
        OutOfRange: watts 200…2000, masses above zero and in order, wall 2…60 mm, level 0.05…1, seconds 5…600, more than 200 heats.
    """

    watts: float
    first_kg: float
    dry_kg: float
    rest_kg: float
    wall_m: float = 0.02
    step_kg: float = 0.001
    heats: tuple[Heat, ...] = ()
    level: float = 1.0
    shelf: Shelf = Shelf()

    def __post_init__(self) -> None:
        check_range("watts", self.watts, 200.0, 2000.0, " W")
        check_range("first_kg", self.first_kg, 0.002, 20.0, " kg")
        check_range("dry_kg", self.dry_kg, 0.001, self.first_kg, " kg")
        check_range("rest_kg", self.rest_kg, self.dry_kg, 1.5 * self.first_kg, " kg")
        check_range("wall_m", self.wall_m, 0.002, 0.06, " m")
        check_range("level", self.level, 0.05, 1.0)
        check_range("heats", len(self.heats), 0, MOST_HEATS)
        for heat in self.heats:
            check_range("seconds", heat.seconds, 5.0, 600.0, " s")
            check_range("level", heat.level, 0.05, 1.0)
            check_range("mass_kg", heat.mass_kg, 0.5 * self.dry_kg, 1.02 * self.first_kg, " kg")
            if heat.hours is not None:
                check_range("hours", heat.hours, 0.0, 1e5, " h")

    @property
    def now_kg(self) -> float:
        """What it weighs now."""
        return self.heats[-1].mass_kg if self.heats else self.first_kg

    @property
    def losses_kg(self) -> np.ndarray:
        """What each heat and its rest took out."""
        return -np.diff([self.first_kg, *(heat.mass_kg for heat in self.heats)])

    @cached_property
    def surroundings(self) -> "_Surroundings":
        """What its wood meets in its room, looked up once."""
        return _Surroundings(self.shelf)


class Step(StrEnum):
    """What to do next."""

    HEAT = "heat"
    STOP_FLAT = "flat"
    STOP_THERE = "there"
    COOL_DOWN = "cool"


class Why(StrEnum):
    """Why the next heat is as long as it is."""

    FIRST = "first"
    SAME = "same"
    LONGER = "longer"
    SHORTER = "shorter"
    CAPPED = "capped"


@dataclass(frozen=True)
class Plan:
    """What is still to come: how many heats, how long one is now (s), and over how many days, a heat an hour and ten a day."""

    heats: int
    seconds: float
    days: float


@dataclass(frozen=True)
class Next:
    """What to do next: a heat of ``seconds`` at ``level`` with a rest of ``rest_minutes`` after it, or to stop.

    ``heats_left`` and ``days_left`` are about how many.
    """

    step: Step
    why: Why
    seconds: float
    level: float
    rest_minutes: float
    heats_left: int
    days_left: float


class TooMuch(StrEnum):
    """Why a microwave is no way to dry a bowl."""

    WIDE = "wide"
    HEAVY = "heavy"
    THICK = "thick"
    LONG = "long"


def coupling(water_kg: float) -> float:
    """The share of an oven's power that reaches wood with so much water in it, 0…5 kg; what a litre takes in is all.

    >>> round(coupling(1.0), 2), round(coupling(0.25), 2), round(coupling(0.1), 2)
    (1.0, 0.8, 0.57)

    Raises:
        OutOfRange.
    """
    check_range("water_kg", water_kg, 0.0, 20.0, " kg")
    return min(water_kg / (water_kg + HALF_COUPLED_KG) * (TEST_KG + HALF_COUPLED_KG) / TEST_KG, 1.0)


def heat_capacity(session: Session, mass_kg: float) -> float:
    """What it takes to warm the bowl by a degree when it weighs so much, 0…30 kg, in J/K.

    Raises:
        OutOfRange.
    """
    check_range("mass_kg", mass_kg, 0.0, 30.0, " kg")
    return session.dry_kg * WOOD_J_KG_K + max(mass_kg - session.dry_kg, 0.0) * WATER_J_KG_K


def seconds_to_warm(session: Session, level: float, by_c: float) -> float:
    """How long a heat warms it by so much if nothing evaporates.

    Args:
        level: share of full power, 0.05…1; by_c: 0…100 K.
    Raises:
        OutOfRange.
    """
    check_range("level", level, 0.05, 1.0)
    check_range("by_c", by_c, 0.0, 100.0, " K")
    taken = session.watts * level * max(coupling(max(session.now_kg - session.dry_kg, 0.0)), 0.15)
    return heat_capacity(session, session.now_kg) * by_c / taken


def longest_s(session: Session, level: float) -> float:
    """The longest heat that cannot overheat it: from :data:`COOL_C` to :data:`HOTTEST_C` with nothing evaporated.

    Args:
        level: share of full power, 0.05…1.
    Raises:
        OutOfRange.
    """
    return seconds_to_warm(session, level, HOTTEST_C - COOL_C)


def rest_minutes(session: Session, felt: Felt = Felt.WARM) -> float:
    """How long the wall takes to cool to :data:`COOL_C`, as one lump of its thickness in still air; half an hour at the least."""
    room = min(session.shelf.temperature_c, COOL_C - 5.0)
    water = max(session.now_kg / session.dry_kg - 1, 0.0)
    capacity = DENSITY * (WOOD_J_KG_K + water * WATER_J_KG_K) * session.wall_m / 2
    return max(capacity / FILM_W_M2_K * math.log((FELT_C[felt] - room) / (COOL_C - room)) / 60, SHORTEST_REST_MINUTES)


class _Surroundings:
    """Tables by the degree and by the thousandth of moisture, so that minutes are summed without looking anything up."""

    def __init__(self, shelf: Shelf) -> None:
        self.saturated = np.asarray(saturation_concentration(np.arange(-20.0, 121.0))).tolist()
        self.outside = self.concentration(shelf.temperature_c) * shelf.relative_humidity
        grid = np.linspace(0.0, 0.36, 361)
        full = float(emc(COOL_C, 0.995))
        self.activity = np.where(grid < full, relative_humidity_for(COOL_C, np.minimum(grid, full)), 1.0).tolist()
        moistures = np.linspace(0.0, 3.0, 601)
        self.per_day = np.interp(moistures, shelf.moistures, shelf.per_day).tolist() if shelf.moistures else [0.0] * 601

    def concentration(self, temperature_c: float) -> float:
        """Vapour in saturated air, kg/m³."""
        place = min(max(temperature_c + 20.0, 0.0), 139.0)
        k = int(place)
        return float(self.saturated[k] + (place - k) * (self.saturated[k + 1] - self.saturated[k]))

    def warm(self, moisture: float, temperature_c: float) -> float:
        """The difference that drives vapour out of wood, kg/m³."""
        activity = self.activity[min(max(int(1000 * moisture), 0), 360)]
        return max(float(activity) * self.concentration(temperature_c) - self.outside, 0.0)

    def on_shelf(self, moisture: float) -> float:
        """What it loses in a day cold."""
        return float(self.per_day[min(max(int(200 * moisture), 0), 600)])


class _Bowl:
    """A bowl as it is heated and rests: its mass and its temperature."""

    def __init__(self, session: Session, mass_kg: float, pace: float = 1.0) -> None:
        self.session, self.mass, self.pace = session, mass_kg, pace
        self.room = session.shelf.temperature_c
        self.temperature = self.room
        self.area = 2 * session.dry_kg / (DENSITY * session.wall_m)

    def heated(self, seconds: float, level: float) -> None:
        water = max(self.mass - self.session.dry_kg, 0.0)
        self.temperature += self.session.watts * level * coupling(water) * seconds / heat_capacity(self.session, self.mass)
        self.temperature = min(self.temperature, 100.0)

    def rested(self, hours: float) -> None:
        """So many hours in its room, the minutes summed while it is warm."""
        air, dry, left = self.session.surroundings, self.session.dry_kg, hours * 3600
        while left > 0:
            is_warm = self.temperature > self.room + 0.5
            step = min(left, STEP_S if is_warm else 6 * STEP_S)
            left -= step
            moisture = self.mass / dry - 1
            cold = air.on_shelf(moisture) * dry / 86400
            more = 0.0
            if is_warm:
                driven = air.warm(moisture, self.temperature) - air.warm(moisture, self.room)
                more = max(self.area * VAPOUR_M_S * driven, 0.0)
                # Both losses fade with the warmth that drives them: what is gone in a step is as an exponential has it.
                above = self.temperature - self.room
                taken = FILM_W_M2_K * self.area * above + more * VAPORISE_J_KG
                fades = taken / (heat_capacity(self.session, self.mass) * above)
                lasts = -math.expm1(-fades * step) / fades
                self.temperature = self.room + above * math.exp(-fades * step)
                more *= lasts / step
            self.mass = max(self.mass - self.pace * (cold + more) * step, 0.9 * dry)


def pace(session: Session) -> float:
    """How much faster than foretold this session has dried so far, 1 before its first heat; doubted until a twentieth of its weight is
    gone.

    >>> pace(Session(800, 0.9, 0.55, 0.61))
    1.0
    """
    bowl, at = _Bowl(session, session.first_kg), 0.0
    for heat in session.heats:
        gap = max((heat.hours - at) if heat.hours is not None else HOUR_BETWEEN, 0.1)
        at = heat.hours if heat.hours is not None else at + HOUR_BETWEEN
        bowl.heated(heat.seconds, heat.level)
        bowl.rested(gap)
    believed = BELIEVED * session.first_kg
    foretold, came = max(session.first_kg - bowl.mass, 0.0), session.first_kg - session.now_kg
    return float(np.clip((came + believed) / (foretold + believed), *PACES))


def plan(session: Session, level: float | None = None) -> Plan:
    """What is still to come until it weighs what its room brings it to, a heat an hour and ten a day; at most :data:`MOST_HEATS`.

    Args:
        level: the setting to be used, 0.05…1; the session's where it is not given.
    Raises:
        OutOfRange.

    >>> coming = plan(Session(800, 0.9, 0.55, 0.61))
    >>> 20 <= coming.heats <= 60, 3 <= coming.days <= 7
    (True, True)
    """
    level = float(check_range("level", session.level if level is None else level, 0.05, 1.0))
    bowl, heats, days, first = _Bowl(session, session.now_kg, pace(session)), 0, 0.0, 0.0
    end = session.rest_kg * (1 + THERE)
    while bowl.mass > end and heats < MOST_HEATS:
        for k in range(int(HOURS_A_DAY / HOUR_BETWEEN)):
            water = max(bowl.mass - session.dry_kg, 0.0)
            taken = session.watts * level * max(coupling(water), 0.15)
            seconds = float(np.clip(heat_capacity(session, bowl.mass) * RISE_C / taken, SHORTEST_S, LONGEST_S))
            first = first or seconds
            bowl.heated(seconds, level)
            bowl.rested(HOUR_BETWEEN)
            heats += 1
            if bowl.mass <= end or heats >= MOST_HEATS:
                days += (k + 1) * HOUR_BETWEEN / 24
                break
        else:
            bowl.rested(24 - HOURS_A_DAY)
            days += 1
    return Plan(heats, first, days)


def too_much(session: Session, diameter_m: float, oven_m: float = USUAL_OVEN_M) -> TooMuch | None:
    """Why a microwave is no way to dry a bowl of this diameter in an oven that turns so much; ``None`` where it is one.

    Args:
        diameter_m: as a bowl's (:data:`wood.turning.bowls.DIAMETER_M`); oven_m: what its plate turns, 0.1…0.6 m.
    Raises:
        OutOfRange.
    """
    check_range("diameter_m", diameter_m, *DIAMETER_M, " m")
    check_range("oven_m", oven_m, 0.1, 0.6, " m")
    if diameter_m > oven_m:
        return TooMuch.WIDE
    if session.wall_m > THICKEST_M:
        return TooMuch.THICK
    if session.now_kg > HEAVIEST_KG:
        return TooMuch.HEAVY
    coming = plan(session)
    return TooMuch.LONG if coming.heats > MOST_PLANNED or coming.days > MOST_DAYS else None


def next_step(session: Session, level: float | None = None) -> Next:
    """What to do next, from the losses so far and how the wood felt.

    Args:
        level: the share of full power to be used, 0.05…1; where it is not given that of the last heat, or the session's.
    Raises:
        OutOfRange.

    >>> fresh = Session(800, 0.9, 0.55, 0.61)
    >>> first = next_step(fresh)
    >>> first.step.value, first.why.value, 30 <= first.seconds <= 75
    ('heat', 'first', True)
    """
    heats, losses = session.heats, session.losses_kg
    felt = heats[-1].felt if heats else Felt.WARM
    level = float(check_range("level", level if level is not None else heats[-1].level if heats else session.level, 0.05, 1.0))
    rest = rest_minutes(session, felt)
    nothing = max(NOTHING * session.now_kg, session.step_kg)
    if session.now_kg <= session.rest_kg * (1 + THERE):
        return Next(Step.STOP_THERE, Why.SAME, 0.0, level, rest, 0, 0.0)
    if len(heats) >= FLAT_HEATS and np.all(losses[-FLAT_HEATS:] <= nothing):
        return Next(Step.STOP_FLAT, Why.SAME, 0.0, level, rest, 0, 0.0)
    most = longest_s(session, level)
    if not heats:
        seconds, why = seconds_to_warm(session, level, RISE_C), Why.FIRST
    else:
        last = heats[-1].seconds * heats[-1].level / level
        if felt in (Felt.HOT, Felt.STEAM):
            seconds, why = last * SHORTER, Why.SHORTER
        elif felt is Felt.COOL or losses[-1] < LITTLE * session.now_kg:
            seconds, why = last * LONGER, Why.LONGER
        else:
            seconds, why = last, Why.SAME
        if seconds > min(most, LONGEST_S):
            seconds, why = most, Why.CAPPED
    seconds = float(5 * round(np.clip(seconds, SHORTEST_S, LONGEST_S) / 5))
    coming = plan(session, level)
    return Next(Step.COOL_DOWN if felt is Felt.STEAM else Step.HEAT, why, seconds, level, rest, max(coming.heats, 1), coming.days)
