"""Programs: what a kiln is set to, step by step, for one load, from the published schedules or from one's own.

Sources: Dry Kiln Operator's Manual (AH-188): schedules by code, steps on the wettest half, equalising (the driest two points under what is
wanted, the chamber there, until the wettest is at it; high), conditioning (EMC four points above for hardwoods, three for softwoods; 4/4
hardwood 16 to 24 hours, 8/4 to 48, softwoods four hours an inch; medium). That one softer or harsher depression code is a gentler or faster
variant, and that a cooler chamber holds each step's EMC, are our own judgement.
"""

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np

from wood.air.climate import constant
from wood.air.psychrometrics import Air
from wood.air.sorption import emc, relative_humidity_for
from wood.drying import field
from wood.drying.diffusivity import of_species
from wood.errors import NotKnown, OutOfRange, check_range
from wood.kiln import kernel
from wood.kiln.chambers import Chamber
from wood.kiln.schedules import Step, code_for, steps
from wood.sizes import FOUR_QUARTER_GREEN_M
from wood.species import Species, all_species
from wood.stacks.air import OpenBoard
from wood.units import INCH_M

# Below what is wanted the driest may fall, and how much above it conditioning air brings wood.
UNDER, OVER = 0.02, {"hardwood": 0.04, "softwood": 0.03}
CONDITIONED_H, SOFTWOOD_H_PER_M = 20.0, 4.0 / INCH_M
# Conditioning air is held no warmer than this (170°F; AH-188 has 160 to 180).
CONDITIONED_C = 77.0
TARGETS = (0.04, 0.20)
# Air-dried wood is warmed first, in air that neither dries nor wets it (AH-188: carefully), for so long an inch.
WARMED_BELOW, WARMED_H_PER_M = 0.30, 12.0 / INCH_M
SETTINGS_MOST = 40
# Wood so much drier than is wanted is moistened, in air that would bring it so far beyond, for so long at most (ours).
DRIER, MOISTENED_TO, MOISTENED_DAYS = 0.005, 0.02, 60.0
# How far off in specific gravity a wood may be that lends its schedule to one of another genus.
NEAR = 0.05


class Phase(StrEnum):
    """What a setting is for."""

    WARMING = "warming"
    DRYING = "drying"
    EQUALISING = "equalising"
    CONDITIONING = "conditioning"
    MOISTENING = "moistening"


KERNEL_PHASE = {
    Phase.WARMING: kernel.TIMED,
    Phase.DRYING: kernel.DRYING,
    Phase.EQUALISING: kernel.EQUALISING,
    Phase.CONDITIONING: kernel.TIMED,
    Phase.MOISTENING: kernel.TIMED,
}


class Care(StrEnum):
    """How carefully a load is run: one depression code softer, as published, one harsher."""

    GENTLE = "gentle"
    USUAL = "usual"
    FAST = "fast"


@dataclass(frozen=True)
class Setting:
    """What the chamber is set to: dry bulb (°C) and humidity (fraction), until the wettest half is at a moisture, or for so many hours."""

    kind: Phase
    until: float
    dry_bulb_c: float
    humidity: float
    hours: float = 0.0

    def __post_init__(self) -> None:
        check_range("until", self.until, 0.0, 3.0)
        check_range("dry_bulb_c", self.dry_bulb_c, 0.0, 100.0, "°C")
        check_range("humidity", self.humidity, 0.01, 1.0)
        check_range("hours", self.hours, 0.0, 2000.0, " h")

    @property
    def phase(self) -> int:
        """As the kernel takes it."""
        return KERNEL_PHASE[self.kind]

    @property
    def wet_bulb_c(self) -> float:
        return Air(self.dry_bulb_c, self.humidity).wet_bulb_c

    @property
    def emc(self) -> float:
        """What it would bring wood to."""
        return float(emc(self.dry_bulb_c, self.humidity))


@dataclass(frozen=True)
class Program:
    """All settings of a load in order. ``code`` is the schedule's, ``relative`` the species it was borrowed from (a key; empty: its own),
    ``cooler`` whether the chamber holds it cooler than published. The load is evened out from when its driest board is at ``driest_begins``
    (−1: it is not) until its wettest is at ``wettest_at_end``."""

    settings: tuple[Setting, ...]
    wanted: float
    code: str
    relative: str
    cooler: bool
    driest_begins: float
    wettest_at_end: float

    @property
    def drying(self) -> tuple[Setting, ...]:
        """The settings that dry."""
        return tuple(setting for setting in self.settings if setting.kind is Phase.DRYING)

    def has(self, kind: Phase) -> bool:
        return any(setting.kind is kind for setting in self.settings)


def schedule_of(species: Species, thickness_m: float) -> tuple[str, str]:
    """The published code of a species, and whose it is: its own (empty), or the nearest relative's key.

    A relative is one of its genus, the nearest in specific gravity; else one of its group that is at most a twentieth off in gravity, the
    gentlest of them.

    Raises:
        NotKnown: no schedule of a relative either. OutOfRange: thickness 3…120 mm.

    >>> from wood.species import species_named
    >>> schedule_of(species_named("white_oak"), 0.0286), schedule_of(species_named("european_oak"), 0.0286)[1]
    (('T4-C2', ''), 'overcup_oak')
    """
    check_range("thickness_m", thickness_m, 0.003, 0.12, " m")
    try:
        return code_for(species.key, thickness_m), ""
    except NotKnown:
        pass
    gravity = species.basic_specific_gravity
    if gravity is None or not species.is_wood:
        raise NotKnown("kiln_schedule", species.common_name)
    # How far off in gravity, the code, and whose: of equally near ones the gentler.
    known: list[tuple[float, str, Species]] = []
    for other in all_species().values():
        if other.basic_specific_gravity is None:
            continue
        try:
            known.append((round(abs(other.basic_specific_gravity - gravity), 2), code_for(other.key, thickness_m), other))
        except NotKnown:
            continue
    genus = species.botanical_name.partition(" ")[0]
    kin = [entry for entry in known if entry[2].botanical_name.partition(" ")[0] == genus]
    if kin:
        _, code, lender = min(kin, key=lambda item: (item[0], severity(item[1])))
        return code, lender.key
    near = [entry for entry in known if entry[2].group == species.group and entry[0] <= NEAR]
    if not near:
        raise NotKnown("kiln_schedule", species.common_name)
    _, code, lender = min(near, key=lambda item: severity(item[1]))
    return code, lender.key


def severity(code: str) -> float:
    """How harsh a schedule is at its beginning: the drop of the EMC under fibre saturation there, a little for warmth, and a little for
    going on early.

    Raises:
        CannotRead. NotKnown.

    >>> severity("T3-C1") < severity("T4-C2") < severity("T8-C3") < severity("T12-E7")
    True
    """
    first = steps(code)[0]
    return 0.30 - float(emc(first.dry_bulb_c, first.relative_humidity)) + first.dry_bulb_c / 1000 + first.until / 50


def varied(code: str, care: Care) -> str:
    """The code one depression softer or harsher; the same at the ends of the table.

    >>> varied("T4-C2", Care.GENTLE), varied("T4-C2", Care.FAST)
    ('T4-C1', 'T4-C3')
    """
    match = re.fullmatch(r"(T\d{1,2}-[A-F])(\d)", code)
    if match is None or care is Care.USUAL:
        return code
    number = min(max(int(match[2]) + (1 if care is Care.FAST else -1), 1), 8)
    return f"{match[1]}{number}"


def program(
    species: Species,
    thickness_m: float,
    start: float,
    wanted: float,
    chamber: Chamber,
    *,
    care: Care = Care.USUAL,
    equalise: bool = True,
    condition: bool = True,
    own: Sequence[Step] | None = None,
    code: str = "",
) -> Program:
    """The settings for a load of one species, from its moisture to what is wanted, as far as the chamber can hold them.

    Args:
        thickness_m: 3…120 mm; start: mean moisture, 0.02…3; wanted: 0.04…0.20; own: one's own schedule instead of the published; code:
        another published one.
    Wood drier than is wanted is moistened where the chamber can make its air damp.

    Raises:
        NotKnown: no schedule of it or of a relative; the wood is drier than is wanted, and the chamber only dries. OutOfRange.
    """
    check_range("start", start, 0.02, 3.0)
    check_range("wanted", wanted, *TARGETS)
    if start < wanted - DRIER:
        return _moistened(species, thickness_m, start, wanted, chamber)
    relative = ""
    if own is not None:
        check_range("steps", len(own), 1, SETTINGS_MOST)
        made, code = list(own), ""
    else:
        if not code:
            code, relative = schedule_of(species, thickness_m)
        code = varied(code, care)
        made = list(steps(code, max(wanted - UNDER, 0.04)))
    settings, cooler = [], False
    for step in made:
        warm = min(step.dry_bulb_c, chamber.hottest_c)
        humidity = step.relative_humidity
        if warm < step.dry_bulb_c - 0.1:
            cooler = True
            humidity = held_at(warm, float(emc(step.dry_bulb_c, humidity)))
        settings.append(Setting(Phase.DRYING, step.until, warm, humidity))
    # The last holds until the load is there.
    ends_at = max(wanted - UNDER, 0.02) if equalise else wanted
    settings = [setting for setting in settings if setting.until > ends_at + 1e-9] + [
        replace(next((setting for setting in settings if setting.until <= ends_at + 1e-9), settings[-1]), until=ends_at)
    ]
    first = next((setting for setting in settings if setting.until < start), settings[-1])
    warming = []
    if start < WARMED_BELOW:
        hours = max(4.0, WARMED_H_PER_M * thickness_m)
        warming.append(Setting(Phase.WARMING, 0.0, first.dry_bulb_c, held_at(first.dry_bulb_c, min(start, 0.20)), hours))
    after = []
    last = settings[-1].dry_bulb_c
    if equalise:
        after.append(Setting(Phase.EQUALISING, wanted, last, held_at(last, max(wanted - UNDER, 0.03))))
    if condition and chamber.sprays:
        warm = min(max(last, CONDITIONED_C), chamber.hottest_c, CONDITIONED_C)
        after.append(
            Setting(Phase.CONDITIONING, wanted, warm, held_at(warm, wanted + OVER[species.group]), conditioning_hours(species, thickness_m))
        )
    return Program((*warming, *settings, *after), wanted, code, relative, cooler, max(wanted - UNDER, 0.02) if equalise else -1.0, wanted)


def without_warming(program: Program) -> Program:
    """The program of a load that is warm already."""
    return replace(program, settings=tuple(setting for setting in program.settings if setting.kind is not Phase.WARMING))


def _moistened(species: Species, thickness_m: float, start: float, wanted: float, chamber: Chamber) -> Program:
    """Damp air, held until the middle of such boards is at what is wanted."""
    if not chamber.sprays:
        raise NotKnown("moistening", species.common_name)
    warm = min(CONDITIONED_C, chamber.hottest_c)
    humidity = held_at(warm, wanted + MOISTENED_TO)
    drive = field.driven(constant(warm, humidity, chamber.air_speed_m_s), OpenBoard())
    ran = field.dry(of_species(species).wood, thickness_m, start, drive, MOISTENED_DAYS, out_days=np.arange(0.0, MOISTENED_DAYS, 1 / 12))
    there = np.flatnonzero(ran.mean >= wanted - 0.001)
    days = float(ran.days[there[0]]) if there.size else MOISTENED_DAYS
    setting = Setting(Phase.MOISTENING, wanted, warm, humidity, max(round(days * 24.0), 2))
    return Program((setting,), wanted, "", "", False, -1.0, wanted)


def held_at(temperature_c: float, moisture: float) -> float:
    """The humidity at which air of a temperature brings wood to a moisture; as damp as air can be held where none does (97%).

    Raises:
        OutOfRange.
    """
    try:
        return min(float(relative_humidity_for(temperature_c, moisture)), 0.97)
    except OutOfRange:
        return 0.97


def conditioning_hours(species: Species, thickness_m: float) -> float:
    """How long a load is conditioned, hours; thickness 3…300 mm.

    Raises:
        OutOfRange.

    >>> from wood.species import species_named
    >>> round(conditioning_hours(species_named("white_oak"), 0.0286)), round(conditioning_hours(species_named("white_oak"), 0.057))
    (20, 40)
    """
    check_range("thickness_m", thickness_m, 0.003, 0.3, " m")
    if species.group == "softwood":
        return SOFTWOOD_H_PER_M * thickness_m
    return min(CONDITIONED_H * thickness_m / FOUR_QUARTER_GREEN_M, 72.0)


def for_load(lots: Sequence[tuple[Species, float]]) -> int:
    """Which of some lots (species, thickness in metres) a mixed load is run for: the one whose schedule is gentlest, the thickest of
    equals.

    Raises:
        NotKnown: none has a schedule. OutOfRange: no lots.
    """
    check_range("lots", len(lots), 1, 100)
    results = []
    for number, (species, thickness) in enumerate(lots):
        try:
            results.append((severity(schedule_of(species, thickness)[0]), -thickness, number))
        except NotKnown:
            continue
    if not results:
        raise NotKnown("kiln_schedule", lots[0][0].common_name)
    return min(results)[2]


def position(program: Program, looks: Sequence[tuple[float, float, float, float]], now: float) -> int:
    """Which setting holds now, by what samples said: its position, or their number once the program is over.

    Args:
        looks: in order, the day and then the mean of the wettest half, the driest and the wettest (fractions); now: the day it is, from the
        start on.
    Raises:
        OutOfRange.

    >>> from wood.kiln.chambers import Kind, usual
    >>> from wood.species import species_named
    >>> oak = program(species_named("white_oak"), 0.0286, 0.70, 0.08, usual(Kind.VENTED, 1.0))
    >>> position(oak, [], 0.5), position(oak, [(9.0, 0.38, 0.33, 0.42)], 9.2)
    (0, 1)
    """
    check_range("now", now, -1.0, 4000.0, " days")
    at, entered = 0, 0.0
    seen = [*looks, (now, *looks[-1][1:])] if looks else [(now, float("inf"), float("inf"), float("inf"))]
    for day, half, driest, wettest in seen:
        while at < len(program.settings) and _is_over(program, at, half, driest, wettest, day - entered):
            kind = program.settings[at].kind
            at += 1
            if kind is Phase.DRYING and driest <= program.driest_begins:
                while at < len(program.settings) and program.settings[at].kind is Phase.DRYING:
                    at += 1
            entered = day
    return at


def _is_over(program: Program, at: int, half: float, driest: float, wettest: float, days: float) -> bool:
    """Whether a setting has done what it is for."""
    setting = program.settings[at]
    if setting.kind is Phase.DRYING:
        return half <= setting.until or driest <= program.driest_begins
    if setting.kind is Phase.EQUALISING:
        return wettest <= program.wettest_at_end
    return days * 24 >= setting.hours
