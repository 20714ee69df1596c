"""Hardwood kiln schedules by species and thickness, and how long the moisture field takes through one.

Source: Dry Kiln Operator's Manual (AH-188), the T-number and letter-number system: a temperature code, a moisture class and a
wet-bulb depression code, as in ``T4-D2``. Steps change on the mean moisture of the wettest half of the kiln samples.
"""

import re
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from wood.air.climate import constant
from wood.air.psychrometrics import from_wet_bulb
from wood.drying import field
from wood.errors import CannotRead, NotKnown, OutOfRange, check_range
from wood.sizes import FOUR_QUARTER_GREEN_M
from wood.stacks.air import Stack
from wood.tables import Row, rows
from wood.units import from_fahrenheit

# AH-188: hardwood kilns blow 200-450 ft/min through the load.
AIR_SPEED_M_S = 1.8
LOAD_WIDTH_M = 2.4
STICKER_M = 0.019
# From here a temperature step of the T codes is reached, as fractions of moisture.
TEMPERATURE_STEPS = (0.30, 0.25, 0.20, 0.15)
SIX_QUARTER_UP_TO_M = 0.045
LONGEST_STEP_DAYS = 400.0


@dataclass(frozen=True)
class Step:
    """Chamber settings that hold until the load's moisture falls to ``until`` (fraction)."""

    until: float
    dry_bulb_c: float
    wet_bulb_c: float

    @property
    def relative_humidity(self) -> float:
        return from_wet_bulb(self.dry_bulb_c, self.wet_bulb_c).relative_humidity


@lru_cache(maxsize=1)
def _codes() -> dict[str, Row]:
    return {row["key"]: row for row in rows("kiln_schedules")}


def code_for(species_key: str, thickness_m: float) -> str:
    """The published schedule code of a species: the 4/4-6/4 one up to 45 mm, the 8/4 one above.

    Raises:
        NotKnown: no schedule at hand for it.

    >>> code_for("northern_red_oak", 0.0286)
    'T4-D2'
    """
    row = _codes().get(species_key)
    code = row["code_4_4" if thickness_m <= SIX_QUARTER_UP_TO_M else "code_8_4"] if row else ""
    if not code:
        raise NotKnown("kiln_schedule", species_key)
    return code


def first_dry_bulb_c(species_key: str) -> float:
    """The temperature a species bears while its core is wet: the first dry bulb of its 4/4 schedule.

    Raises:
        NotKnown.

    >>> round(first_dry_bulb_c("white_oak"))
    43
    """
    return steps(code_for(species_key, FOUR_QUARTER_GREEN_M))[0].dry_bulb_c


@lru_cache(maxsize=256)
def steps(code: str, final: float = 0.07) -> tuple[Step, ...]:
    """The steps of a code such as ``"T8-B4"``, down to the final moisture (0.04…0.30).

    Raises:
        CannotRead: not such a code. NotKnown: a code that is not in the tables. OutOfRange.

    >>> [round(step.dry_bulb_c) for step in steps("T4-D2")]
    [43, 43, 43, 43, 49, 54, 60, 82]
    """
    check_range("final", final, 0.04, 0.30)
    match = re.fullmatch(r"(T\d{1,2})-([A-F])(\d)", code.strip().upper())
    if not match:
        raise CannotRead("kiln_schedule", code, f"“{code}” is not a schedule; it is written like T4-D2")
    dry_code, class_code, depression_code = match.groups()
    dry = _row("kiln_dry_bulbs", dry_code)
    temperatures = [from_fahrenheit(dry.number(name)) for name in ("above_30", "30_to_25", "25_to_20", "20_to_15", "below_15")]
    triggers = [_row("kiln_moisture_classes", class_code).number(f"step_{i}", 0.01) for i in range(2, 7)]
    depressions = [_row("kiln_depressions", depression_code).number(f"step_{i}") * 5 / 9 for i in range(1, 7)]
    made = []
    above = 10.0
    for until in sorted({*triggers, *TEMPERATURE_STEPS, final}, reverse=True):
        if until < final:
            break
        middle = (above + until) / 2
        dry_bulb = temperatures[sum(middle <= limit for limit in TEMPERATURE_STEPS)]
        depression = depressions[sum(middle <= limit for limit in triggers)]
        # No wet bulb below 32°C: kilns cannot go there and schedules do not ask for it.
        made.append(Step(until, dry_bulb, max(dry_bulb - depression, 32.0)))
        above = until
    return tuple(made)


def _row(table: str, code: str) -> Row:
    for row in rows(table):
        if row["code"] == code:
            return row
    raise NotKnown(table, code)


@dataclass(frozen=True)
class KilnRun:
    """Days in each step, their sum, and the mean, shell and core at the end."""

    step_days: tuple[float, ...]
    days: float
    mean: float
    shell: float
    core: float


def run(wood: field.Wood, thickness_m: float, start: float, schedule: tuple[Step, ...]) -> KilnRun:
    """The moisture field through a schedule, changing steps on the mean moisture.

    Raises:
        OutOfRange: a step whose air would not dry the wood to where the next begins within 400 days.
    """
    check_range("thickness_m", thickness_m, *field.THICKNESS_M, " m")
    check_range("start", start, 0.0, field.GREATEST_MOISTURE)
    exposure = Stack(1.0, LOAD_WIDTH_M, STICKER_M, forced=True)
    profile: np.ndarray | float = start
    days, mean, shell, core = [], float(start), float(start), float(start)
    for step in schedule:
        if mean <= step.until:
            days.append(0.0)
            continue
        drive = field.driven(constant(step.dry_bulb_c, step.relative_humidity, AIR_SPEED_M_S), exposure)
        search = field.dry(wood, thickness_m, profile, drive, LONGEST_STEP_DAYS, target=step.until, out_days=[])
        if search.crossed_day is None:
            raise OutOfRange("step_until", step.until, search.lowest, 1.0)
        there = field.dry(wood, thickness_m, profile, drive, search.crossed_day, out_days=[search.crossed_day])
        profile, mean = there.profiles[-1], float(there.mean[-1])
        shell, core = float(there.shell[-1]), float(there.core[-1])
        days.append(search.crossed_day)
    return KilnRun(tuple(days), sum(days), mean, shell, core)
