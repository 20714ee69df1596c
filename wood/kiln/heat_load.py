"""A load that is heated through to its core, held there and left to cool: how long, with how much power, and what it does to the wood; and
what heat does to resin, to colour and to wood that is green.

Sources: Dry Kiln Operator's Manual (AH-188): pitch is set by 71°C and more until the end of drying, brown stain of pines and darkening of
pale woods by heat while they are wet (medium); the run of :mod:`wood.kiln.loads`; how much warmer the air is held than the core is wanted,
and which wood counts as damp, are our own judgement.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from enum import StrEnum
from functools import cached_property

import numpy as np

from wood.air.climate import AirSeries
from wood.drying.defects import Risk
from wood.errors import check_range
from wood.kiln import heat, loads
from wood.kiln.chambers import Chamber
from wood.kiln.loads import Ran
from wood.kiln.plans import Planned
from wood.kiln.programs import Phase, Program, Setting, held_at
from wood.kiln.sharing import Lot, boards_of
from wood.species import Species

# Air is held so much warmer than the core is wanted; damp enough that wood neither dries nor is wetted, and no damper than this.
OVER_K, AS_DAMP_AS = 6.0, 0.20
# It is looked at for so long; it has cooled once its warmest board is at this.
HEATED_DAYS, COOLED_DAYS, COOLED_C = 4.0, 4.0, 35.0
CORE_C, HOLD_H = (40.0, 80.0), (0.0, 72.0)
# Wood that was dried outdoors under a roof and is wetter than this lay damp somewhere.
DAMP = 0.18
# Woods with pitch; those whose pale face darkens or stains brown in heat while it is wet.
RESINOUS = frozenset(["Pinus", "Picea", "Larix", "Pseudotsuga"])
DARKENS = frozenset(["Acer", "Betula", "Fraxinus", "Tilia", "Ilex", "Pinus", "Tsuga", "Picea"])
SOFTENS_C, SET_C, SET_H = 55.0, 71.0, 24.0
DARKENS_C, WET = 60.0, 0.25


class Resin(StrEnum):
    """What heat does to resin: there is none, it stays as it is, is set for wood that stays cooler, or is set."""

    NONE = "none"
    AS_IT_IS = "as_it_is"
    PARTLY = "partly"
    SET = "set"


def resin(species: Species, core_c: float, hours: float) -> Resin:
    """What holding a core at a temperature for so long does to a wood's resin.

    Args:
        core_c: 0…110; hours: 0…2000.
    Raises:
        OutOfRange.

    >>> from wood.species import species_named
    >>> pine = species_named("eastern_white_pine")
    >>> resin(pine, 65.0, 2.0), resin(pine, 72.0, 30.0), resin(species_named("white_oak"), 72.0, 30.0)
    (<Resin.PARTLY: 'partly'>, <Resin.SET: 'set'>, <Resin.NONE: 'none'>)
    """
    check_range("core_c", core_c, 0.0, 110.0, "°C")
    check_range("hours", hours, 0.0, 2000.0, " h")
    if species.botanical_name.partition(" ")[0] not in RESINOUS:
        return Resin.NONE
    if core_c < SOFTENS_C:
        return Resin.AS_IT_IS
    return Resin.SET if core_c >= SET_C and hours >= SET_H else Resin.PARTLY


def darkens(species: Species, moisture: float, air_c: float) -> bool:
    """Whether such heat darkens a wood or stains it brown: pale ones, while they are wet.

    Raises:
        OutOfRange: moisture 0…3, air −40…120°C.
    """
    check_range("moisture", moisture, 0.0, 3.0)
    check_range("air_c", air_c, -40.0, 120.0, "°C")
    return air_c >= DARKENS_C and moisture > WET and species.botanical_name.partition(" ")[0] in DARKENS


@dataclass(frozen=True)
class Heated:
    """A load as it was heated: its run, when its slowest core is there (hours; infinite: never), how long it is held, when it has cooled,
    the air it was held in (°C, fraction), and the lots it was of."""

    lots: tuple[Lot, ...]
    ran: Ran
    to_core_h: float
    hold_h: float
    cooled_h: float
    air_c: float
    humidity: float

    @property
    def is_reached(self) -> bool:
        return bool(np.isfinite(self.to_core_h))

    @property
    def hours(self) -> float:
        """How long its heat is on."""
        return self.to_core_h + self.hold_h

    @property
    def energy_kwh(self) -> float:
        """What it takes while its heat is on."""
        count = round(self.hours) if self.is_reached else self.ran.hours
        return float(self.ran.power_w[:count].sum()) / 1000

    @property
    def coldest_core_c(self) -> float:
        """The warmest that its coldest board ever is."""
        return float(self.ran.wood_c.min(axis=0).max())

    @property
    def dried(self) -> float:
        """By how much its mean moisture fell; above 0: it dried."""
        start = float(np.average([board.start for board in self.ran.boards], weights=[board.share for board in self.ran.boards]))
        return start - float(self.ran.mean[-1])

    @cached_property
    def risks(self) -> list[tuple[str, Risk]]:
        """What may go wrong with each lot, the gravest first."""
        return Planned(self.lots, self.ran, self.ran.days, self.ran.days).risks


def heated(lots: Sequence[Lot], chamber: Chamber, outdoors: AirSeries, start_c: float, core_c: float, hold_h: float = 1.0) -> Heated:
    """A load heated until its slowest core is at a temperature, held, and left to cool with everything off.

    Args:
        lots: 1…20; chamber: with this load in it; outdoors: the air it stands in, from the first hour on; start_c: how warm the wood is,
        −40…40; core_c: 40…80; hold_h: 0…72.
    Raises:
        OutOfRange. NotKnown: a species' pace.
    """
    check_range("lots", len(lots), 1, 20)
    check_range("start_c", start_c, -40.0, 40.0, "°C")
    check_range("core_c", core_c, *CORE_C, "°C")
    check_range("hold_h", hold_h, *HOLD_H, " h")
    air_c = min(core_c + OVER_K, chamber.hottest_c)
    volume = sum(lot.volume_m3 for lot in lots)
    moisture = sum(lot.start * lot.volume_m3 for lot in lots) / volume
    humidity = held_at(air_c, min(max(moisture, 0.03), AS_DAMP_AS))
    boards = boards_of(lots)
    warming = Setting(Phase.CONDITIONING, 0.0, air_c, humidity, HEATED_DAYS * 24)
    ran = loads.run(boards, _program(warming), chamber, outdoors, days=HEATED_DAYS, wood_c=start_c)
    there = np.flatnonzero((ran.wood_c >= core_c).all(axis=0))
    # In its middle a board that warms evenly lags behind its mean.
    lag_h = max(lot.thickness_m for lot in lots) ** 2 / (12 * heat.DIFFUSIVITY_M2_S) / 3600
    if air_c <= core_c or not there.size:
        return Heated(tuple(lots), ran, np.inf, hold_h, np.inf, air_c, humidity)
    to_core = float(there[0] + 1) + lag_h
    on_h = float(np.ceil(to_core + hold_h))
    cooling = Setting(Phase.CONDITIONING, 0.0, 20.0, humidity, COOLED_DAYS * 24)
    off = replace(chamber, heat_kw=0.0, litres_a_day=0.0, compressor_kw=0.0, vents_m3_h=0.0, spray_kg_h=0.0)
    first = loads.run(boards, _program(replace(warming, hours=on_h)), chamber, outdoors, days=max(on_h / 24, 0.05), wood_c=start_c)
    warm = [replace(board, start=float(np.clip(mean, 0.02, 1.0))) for board, mean in zip(boards, first.means[:, -1], strict=True)]
    begins = float(first.wood_c[:, -1].mean())
    later = loads.run(warm, _program(cooling), off, outdoors, days=COOLED_DAYS, wood_c=begins)
    cool = np.flatnonzero((later.wood_c <= max(COOLED_C, start_c + 5.0)).all(axis=0))
    cooled = on_h + (float(cool[0] + 1) if cool.size else COOLED_DAYS * 24)
    return Heated(tuple(lots), first, to_core, hold_h, cooled, air_c, humidity)


def _program(setting: Setting) -> Program:
    return Program((setting,), 0.08, "", "", False, -1.0, 0.08)
