"""Drying a small rough bowl in a microwave: short heats, rests and weighings, and what to do next by what each heat took out.

Heat that the wood takes in boils water or makes it hotter: 2.59 MJ for each kilogram that leaves from room temperature. What part of an
oven's label reaches a small load is not known beforehand and falls as it dries, so it is learnt from the weighings of the session itself. A
heat is never longer than what would warm wood and water together to :data:`HOTTEST_C` if nothing evaporated, so that the inside neither
boils over nor chars.

Sources: latent heat and heat capacities as in the Wood Handbook ch. 4 and steam tables; how hot, how long a rest, and when to lengthen are
our own judgement after common practice.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from wood.errors import check_range

# Heating water from 20 to 100 °C and boiling it off; dry wood and water, J/kg·K.
BOIL_OFF_J_KG, WOOD_J_KG_K, WATER_J_KG_K = 2.59e6, 1350.0, 4180.0
ROOM_C, FIRST_C, HOTTEST_C, COOL_C = 20.0, 60.0, 78.0, 30.0
# The part of its label that an oven brings into a small load before anything is known of it.
USUAL_SHARE, SHARES = 0.50, (0.08, 0.85)
SHORTEST_S, LONGEST_S = 20.0, 240.0
# Setting to begin at, how much higher where the longest heat leaves it cool, and what is not passed.
FIRST_LEVEL, MORE_LEVEL, MOST_LEVEL = 0.4, 0.1, 0.6
LONGER, SHORTER = 1.3, 0.6
# A heat that takes less than this of the weight took little; below the second it took nothing.
LITTLE, NOTHING = 0.006, 0.0015
FLAT_HEATS = 3
# Of the heat that wet wood takes in so much leaves it as vapour, in the oven and in the rest that follows; the remainder only warms the
# room.
LEAVES = 0.6
MOST_HEATS = 200
# How fast a wall gives off its heat to still air, W/m²·K, and the density it is reckoned with.
FILM_W_M2_K, DENSITY = 9.0, 750.0
HOURS_A_DAY = 10.0


class Felt(StrEnum):
    """How the wood felt to the hand right after a heat."""

    COOL = "cool"
    WARM = "warm"
    HOT = "hot"
    STEAM = "steam"


# How hot wood is inside that feels so to the hand.
FELT_C = {Felt.COOL: 40.0, Felt.WARM: 60.0, Felt.HOT: 80.0, Felt.STEAM: 95.0}


@dataclass(frozen=True)
class Heat:
    """One heat: how long (s), at which share of full power, what the bowl weighed after its rest (kg), and how it felt."""

    seconds: float
    level: float
    mass_kg: float
    felt: Felt = Felt.WARM


@dataclass(frozen=True)
class Session:
    """A bowl in an oven of ``watts`` by its label: what it weighed before the first heat, what it will weigh ovendry and at rest in its
    room, its wall, the step of the scale, and the heats so far.

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

    def __post_init__(self) -> None:
        check_range("watts", self.watts, 200.0, 2000.0, " W")
        check_range("first_kg", self.first_kg, 0.002, 20.0, " kg")
        check_range("dry_kg", self.dry_kg, 0.001, self.first_kg, " kg")
        check_range("rest_kg", self.rest_kg, self.dry_kg, 1.5 * self.first_kg, " kg")
        check_range("wall_m", self.wall_m, 0.002, 0.06, " m")
        check_range("heats", len(self.heats), 0, MOST_HEATS)
        for heat in self.heats:
            check_range("seconds", heat.seconds, 5.0, 600.0, " s")
            check_range("level", heat.level, 0.05, 1.0)
            check_range("mass_kg", heat.mass_kg, 0.5 * self.dry_kg, 1.02 * self.first_kg, " kg")

    @property
    def now_kg(self) -> float:
        """What it weighs now."""
        return self.heats[-1].mass_kg if self.heats else self.first_kg

    @property
    def losses_kg(self) -> np.ndarray:
        """What each heat and its rest took out."""
        return -np.diff([self.first_kg, *(heat.mass_kg for heat in self.heats)])

    @property
    def absorbed(self) -> float:
        """The part of the label that reached the wood, by the newest three heats that took something; what is usual before any."""
        results = [
            loss * BOIL_OFF_J_KG / (self.watts * heat.level * heat.seconds)
            for heat, loss in zip(self.heats, self.losses_kg, strict=True)
            if loss > 2 * self.step_kg
        ]
        # Before the wood is warm a heat goes into warming it, so what evaporated tells too little of it.
        return float(np.clip(np.median(results[-3:]) * 1.4, *SHARES)) if results else USUAL_SHARE


class Step(StrEnum):
    """What to do next."""

    HEAT = "heat"
    STOP_FLAT = "flat"
    STOP_BELOW = "below"
    COOL_DOWN = "cool"


class Why(StrEnum):
    """Why the next heat is as long as it is."""

    FIRST = "first"
    SAME = "same"
    LONGER = "longer"
    SHORTER = "shorter"
    CAPPED = "capped"


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


def longest_s(session: Session, level: float) -> float:
    """The longest heat that cannot overheat it: warming wood and water to :data:`HOTTEST_C` with nothing evaporated.

    Args:
        level: share of full power, 0.05…1.
    Raises:
        OutOfRange.
    """
    check_range("level", level, 0.05, 1.0)
    water = max(session.now_kg - session.dry_kg, 0.0)
    capacity = session.dry_kg * WOOD_J_KG_K + water * WATER_J_KG_K
    return capacity * (HOTTEST_C - ROOM_C) / (session.watts * level * max(session.absorbed, USUAL_SHARE * 0.6))


def rest_minutes(session: Session, felt: Felt = Felt.WARM) -> float:
    """How long the wall takes to cool to :data:`COOL_C`, as one lump of its thickness in still air."""
    hot = FELT_C[felt]
    water = max(session.now_kg / session.dry_kg - 1, 0.0)
    capacity = DENSITY * (WOOD_J_KG_K + water * WATER_J_KG_K) * session.wall_m / 2
    return capacity / FILM_W_M2_K * math.log((hot - ROOM_C) / (COOL_C - ROOM_C)) / 60


def next_step(session: Session, level: float | None = None) -> Next:
    """What to do next, from the losses so far and how the wood felt.

    Args:
        level: the share of full power to be used, 0.05…1; where it is not given that of the last heat, a step more
            where the longest heat left the wood cool.
    Raises:
        OutOfRange.

    >>> fresh = Session(800, 0.9, 0.55, 0.61)
    >>> first = next_step(fresh)
    >>> first.step.value, first.why.value, 20 <= first.seconds <= 240
    ('heat', 'first', True)
    """
    heats, losses = session.heats, session.losses_kg
    felt = heats[-1].felt if heats else Felt.WARM
    level = float(check_range("level", level if level is not None else _level(heats), 0.05, 1.0))
    rest = rest_minutes(session, felt)
    nothing = max(NOTHING * session.now_kg, session.step_kg)
    most = longest_s(session, level)
    if len(heats) >= FLAT_HEATS and np.all(losses[-FLAT_HEATS:] <= nothing):
        return Next(Step.STOP_FLAT, Why.SAME, 0.0, level, rest, 0, 0.0)
    if session.now_kg <= session.rest_kg * 0.995:
        return Next(Step.STOP_BELOW, Why.SAME, 0.0, level, rest, 0, 0.0)
    if not heats:
        seconds, why = most * (FIRST_C - ROOM_C) / (HOTTEST_C - ROOM_C), Why.FIRST
    else:
        last = heats[-1].seconds * heats[-1].level / level
        little = losses[-1] < LITTLE * session.now_kg
        if felt in (Felt.HOT, Felt.STEAM):
            seconds, why = last * SHORTER, Why.SHORTER
        elif little:
            seconds, why = last * LONGER, Why.LONGER
        else:
            seconds, why = last, Why.SAME
        if seconds > most:
            seconds, why = most, Why.CAPPED
    seconds = float(5 * round(np.clip(seconds, SHORTEST_S, LONGEST_S) / 5))
    step = Step.COOL_DOWN if felt is Felt.STEAM else Step.HEAT
    left = _heats_left(session, seconds, level)
    return Next(step, why, seconds, level, rest, left, left * (rest + seconds / 60) / 60 / HOURS_A_DAY)


def _level(heats: Sequence[Heat]) -> float:
    """The setting to use: low at first, and higher only where time alone does not warm it."""
    if not heats:
        return FIRST_LEVEL
    last = heats[-1]
    if last.felt is Felt.COOL and last.seconds >= LONGEST_S:
        return max(min(last.level + MORE_LEVEL, MOST_LEVEL), last.level)
    return last.level


def _heats_left(session: Session, seconds: float, level: float) -> int:
    """About how many heats remain, each taking a like share of the water that is left above its room's, as boiling off slows down
    with it.
    """
    losses = session.losses_kg
    left = session.now_kg - session.rest_kg
    if left <= 0:
        return 0
    by_heat = (
        float(np.mean(losses[-3:]))
        if losses.size and np.mean(losses[-3:]) > 0
        else LEAVES * session.watts * level * seconds * session.absorbed / BOIL_OFF_J_KG
    )
    share = float(np.clip(by_heat / left, 1e-3, 0.95))
    # Until within a hundredth of its weight.
    return math.ceil(math.log(max(left / (0.01 * session.rest_kg), 1.0)) / -math.log1p(-share)) if left > 0.01 * session.rest_kg else 1
