"""Moisture meters: what a pin or a pinless reading really says, how sure it is, and what the reading cannot see.

Sources: resistance by species, Electric Moisture Meters for Wood (FPL-GTR-6); temperature, Pfaff and Garrahan 1986; the depth
that reads the mean, FPL-GTR-6 and AH-188. The uncertainty figures are our own judgement of those sources and stand here
as named constants; docs/science.md gives the reasons.
"""

import itertools
import math
import re
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from functools import lru_cache
from typing import Any

import numpy as np

from wood.errors import CannotRead, check_range
from wood.measuring.readings import Bound, Condition, StepKind, Warn
from wood.species import Species
from wood.tables import rows

# Bumped whenever a correction changes, and kept with every stored reading.
CORRECTION_RULE = "2026-11b"

READING = (0.02, 1.50)
PIN_RANGE = (0.06, 0.28)
RESISTOR_MEGOHM = (0.46, 22_000.0)
PINLESS_RANGE = (0.05, 0.30)
WOOD_TEMPERATURE_C = (-30.0, 70.0)
CALIBRATION_TEMPERATURE_C = 24.0

# What the species correction may be off (95%) at 12% moisture, by how well its resistance is known; in proportion at other
# moistures. "none" is twice the standard deviation (1.0 point at 12%, 0.5 at 8%) of the corrections in the table itself.
SPECIES_UNCERTAINTY = {"high": 0.005, "medium": 0.008, "low": 0.012, "relative": 0.012, "none": 0.02, "set on meter": 0.008}
# Specific gravity varies by about 10% (one standard deviation) between pieces of a species, Wood Handbook ch. 4;
# the tolerance of a dielectric reading follows it.
DENSITY_SPREAD = 0.10

END_ZONE_M = 0.30

# The published resistances are along the grain; across it wood resists about twice as much (Wood Handbook ch. 5), so that pins set
# across read lower, by little in dry wood.
ACROSS_GRAIN_RESISTANCE = 2.0
WEATHERED_UNCERTAINTY = 0.015
# A pinless meter set more than this share beside the wood's density is set for other wood.
SETTING_FAR = 0.30

# Species whose own resistance is not tabulated, read on a close relative's row.
RELATIVES = {
    **dict.fromkeys(("mockernut_hickory", "shagbark_hickory", "pignut_hickory", "shellbark_hickory"), "hickory_true_group"),
    **dict.fromkeys(
        ("southern_red_oak", "black_oak", "pin_oak", "scarlet_oak", "water_oak", "willow_oak", "laurel_oak", "cherrybark_oak"),
        "northern_red_oak",
    ),
    **dict.fromkeys(
        ("bur_oak", "chestnut_oak", "post_oak", "overcup_oak", "swamp_chestnut_oak", "swamp_white_oak", "european_oak"),
        "white_oak",
    ),
    **dict.fromkeys(("douglas_fir_interior_north", "douglas_fir_interior_south", "douglas_fir_interior_west"), "douglas_fir_coast"),
    "black_maple": "sugar_maple",
    "green_ash": "white_ash",
    "european_ash": "white_ash",
    "redwood_second_growth": "redwood_old_growth",
    "european_lime": "american_basswood",
}


@dataclass(frozen=True)
class Step:
    """One step of a correction, for showing the working: what was done, the value after it, and the figures that it went by."""

    kind: StepKind
    moisture: float
    figures: dict[str, Any] = field(default_factory=dict)


@dataclass(frozen=True)
class Corrected:
    """A corrected reading.

    ``moisture`` ± ``uncertainty`` (95%), fractions, dry basis. ``bound`` is ``"above"`` or ``"below"`` where the meter
    only tells that the wood is wetter or drier than ``moisture``. ``warnings`` are codes (``Warn.BEYOND_RANGE``, ``Warn.FROST`` …);
    a reading with ``counts`` false is kept and shown but says nothing about the board.
    """

    moisture: float
    uncertainty: float
    steps: tuple[Step, ...]
    warnings: tuple[Warn, ...] = ()
    bound: Bound = Bound.NONE
    counts: bool = True
    rule: str = CORRECTION_RULE


@lru_cache(maxsize=1)
def _resistance() -> dict[str, tuple[np.ndarray, np.ndarray, str]]:
    """Moisture (fraction), natural logarithm of resistance, and confidence, by species; only the strictly falling part."""
    table = {}
    for row in rows("pin_resistance"):
        points = [(m / 100, math.log(ohm)) for m in range(7, 26) if (ohm := row.maybe(f"at_{m}")) is not None]
        falling = [point for before, point in zip([(0.0, math.inf), *points], points, strict=False) if point[1] < before[1]]
        moistures, logs = (np.array(column) for column in zip(*falling, strict=True))
        table[row["key"]] = (moistures, logs, row["confidence"])
    return table


def resistance_basis(species_key: str) -> tuple[str | None, str]:
    """The row of the resistance table that stands for a species, and how well: its confidence, ``"relative"`` or ``"none"``.

    >>> resistance_basis("european_oak")
    ('white_oak', 'relative')
    """
    if species_key in _resistance():
        return species_key, _resistance()[species_key][2]
    if species_key in RELATIVES:
        return RELATIVES[species_key], "relative"
    return None, "none"


def _log_resistance(moisture: float, row: str = "douglas_fir_coast") -> float:
    moistures, logs, _ = _resistance()[row]
    return _line(moisture, moistures, logs)


def _moisture_at(log_resistance: float, row: str) -> tuple[float, bool]:
    """Moisture on a species' row for this resistance, and whether the row had to be lengthened."""
    moistures, logs, _ = _resistance()[row]
    outside = not (logs[-1] <= log_resistance <= logs[0])
    return _line(-log_resistance, -logs, moistures), outside


def _line(x: float, xs: np.ndarray, ys: np.ndarray) -> float:
    """Linear between points; beyond them along the line through the outermost four, so that one noisy cell does not steer it."""
    if x < xs[0]:
        return float(ys[0] + (x - xs[0]) * (ys[min(3, len(ys) - 1)] - ys[0]) / (xs[min(3, len(xs) - 1)] - xs[0]))
    if x > xs[-1]:
        back = max(0, len(xs) - 4)
        return float(ys[-1] + (x - xs[-1]) * (ys[-1] - ys[back]) / (xs[-1] - xs[back]))
    return float(np.interp(x, xs, ys))


def temperature_correction(reading: float, wood_temperature_c: float) -> float:
    """A pin reading as it would be on wood at calibration temperature (on the Douglas-fir scale).

    M = (M_r + 0.567 − 0.0260 T + 0.000051 T²) / (0.881 · 1.0056^T), percent and °C.

    Args:
        reading: 0.02…1.50; wood_temperature_c: −30…70.
    Source: Pfaff and Garrahan 1986, Forest Products Journal.
    Raises:
        OutOfRange: reading :data:`READING`, wood_temperature_c :data:`WOOD_TEMPERATURE_C` °C.

    >>> round(temperature_correction(0.12, 0), 3), round(temperature_correction(0.12, 30), 3)
    (0.143, 0.114)
    """
    check_range("reading", reading, *READING)
    t = float(check_range("wood_temperature_c", wood_temperature_c, *WOOD_TEMPERATURE_C, "°C"))
    return (reading * 100 + 0.567 - 0.0260 * t + 0.000051 * t * t) / (0.881 * 1.0056**t) / 100


def correct_pin(
    reading: float,
    species: Species,
    wood_temperature_c: float,
    tolerance: float = 0.01,
    *,
    species_set_on_meter: bool = False,
    temperature_set_on_meter: bool = False,
    set_to: str = "",
    offset: float = 0.0,
    insulated: bool = False,
    across_grain: bool = False,
    condition: str = Condition.PLAIN,
) -> Corrected:
    """What a pin meter's reading says about this wood.

    Args:
        reading: as the meter shows it, fraction 0.02…1.50.
        wood_temperature_c: −30…70.
        tolerance: the meter's own (95%), 0…0.1.
        species_set_on_meter, temperature_set_on_meter: the meter has corrected for it already.
        set_to: key of the species the meter is set to, where that is another one; its correction is taken back first.
        offset: what the meter's newest check adds to its readings, −0.1…0.1.
        insulated: only the tips of its pins are bare, so that a wet skin does not speak.
        across_grain: the current runs from pin to pin across the grain; the reading stands, and its doubt grows by what that can do.
        condition: what the surface was like, a :class:`~wood.readings.Condition`.
    Raises:
        OutOfRange.
    """
    check_range("reading", reading, *READING)
    check_range("tolerance", tolerance, 0.0, 0.1)
    check_range("wood_temperature_c", wood_temperature_c, *WOOD_TEMPERATURE_C, "°C")
    steps, warnings, moisture = _checked(reading, offset)
    other = species_set_on_meter and set_to and set_to != species.key
    if other:
        warnings.append(Warn.OTHER_SPECIES_SET)
        row, basis = resistance_basis(set_to)
        if row is None:
            # What that setting did to the number is not known here, so it cannot be undone.
            warnings.append(Warn.SETTING_NOT_KNOWN)
        else:
            moisture = _moisture_at(_log_resistance(moisture, row), "douglas_fir_coast")[0]
            steps.append(Step(StepKind.SETTING_TAKEN_BACK, moisture))
    temperature_uncertainty = 0.0
    if not temperature_set_on_meter:
        moisture = temperature_correction(min(max(moisture, READING[0]), READING[1]), wood_temperature_c)
        temperature_uncertainty = 0.0005 * abs(wood_temperature_c - CALIBRATION_TEMPERATURE_C)
        steps.append(Step(StepKind.WOOD_TEMPERATURE, moisture, {"temperature_c": wood_temperature_c}))
    if wood_temperature_c < 0:
        warnings.append(Warn.FROST)
    if species_set_on_meter and (not other or Warn.SETTING_NOT_KNOWN in warnings):
        basis = "none" if other else "set on meter"
    else:
        row, basis = resistance_basis(species.key)
        if row is None:
            warnings.append(Warn.NO_SPECIES_FIGURE)
        else:
            if basis == "relative":
                warnings.append(Warn.RELATIVE_FIGURE)
            moisture, lengthened = _moisture_at(_log_resistance(moisture), row)
            if lengthened:
                warnings.append(Warn.EXTRAPOLATED)
            steps.append(Step(StepKind.SPECIES_SCALE, moisture, {"species": species.spoken_name}))
    growth = moisture / 0.12
    uncertainty = math.hypot(tolerance, growth * SPECIES_UNCERTAINTY[basis], temperature_uncertainty)
    if across_grain:
        row = resistance_basis(species.key)[0] or "douglas_fir_coast"
        along = _moisture_at(_log_resistance(moisture, row) - math.log(ACROSS_GRAIN_RESISTANCE), row)[0]
        uncertainty = math.hypot(uncertainty, along - moisture)
        warnings.append(Warn.PINS_ACROSS)
    uncertainty, counts = _on_such_a_surface(condition, uncertainty, warnings)
    if condition == Condition.WET and not insulated:
        warnings.append(Warn.WET_SURFACE)
        counts = False
    corrected = _bounded(moisture, uncertainty, PIN_RANGE, steps, warnings)
    return corrected if counts else replace(corrected, counts=False)


def _checked(reading: float, offset: float) -> tuple[list[Step], list[Warn], float]:
    """The first steps of every correction: the number as shown, and what the meter's newest check adds to it."""
    check_range("offset", offset, -0.1, 0.1)
    steps = [Step(StepKind.SHOWN, reading)]
    if offset:
        steps.append(Step(StepKind.CHECK_ADDS, reading + offset, {"adds": offset}))
    return steps, [], reading + offset


def _on_such_a_surface(condition: str, uncertainty: float, warnings: list[Warn]) -> tuple[float, bool]:
    """The doubt as the surface makes it, and whether the reading still counts."""
    if condition not in list(Condition):
        raise CannotRead("condition", condition, f"“{condition}” is no condition of a surface")
    if condition == Condition.METAL:
        warnings.append(Warn.METAL)
        return uncertainty, False
    if condition == Condition.WEATHERED:
        warnings.append(Warn.WEATHERED)
        return math.hypot(uncertainty, WEATHERED_UNCERTAINTY), True
    return uncertainty, True


def resistor_reading(megohm: float) -> float:
    """What a pin meter on its softwood (Douglas-fir) scale must show across a resistor; fraction.

    Args:
        megohm: 0.46…22 000 MΩ, the resistances of 25 to 7% at 27°C.
    Source: FPL-GTR-6, resistance of coast Douglas-fir.
    Raises:
        OutOfRange.

    >>> round(resistor_reading(120), 3)
    0.12
    """
    check_range("megohm", megohm, *RESISTOR_MEGOHM, " MΩ")
    return _moisture_at(math.log(megohm), "douglas_fir_coast")[0]


def correct_pinless(
    reading: float,
    species: Species,
    density_setting: float | None,
    depth_m: float,
    thickness_m: float,
    tolerance: float = 0.01,
    *,
    offset: float = 0.0,
    condition: str = Condition.PLAIN,
) -> Corrected:
    """What a pinless meter's reading says: it feels the water in its depth, so reading × setting / specific gravity.

    Args:
        reading: as shown, 0.02…1.50.
        density_setting: specific gravity (at 12%) the meter is set to, 0.1…1.3; ``None`` where the meter is set to the species itself.
        depth_m: how deep it senses, 2…60 mm; thickness_m: of the piece.
        tolerance: the meter's own (95%), 0…0.1.
        offset, condition: as for :func:`correct_pin`.
    Raises:
        OutOfRange.
    """
    check_range("reading", reading, *READING)
    check_range("depth_m", depth_m, 0.002, 0.06, " m")
    check_range("tolerance", tolerance, 0.0, 0.1)
    steps, warnings, moisture = _checked(reading, offset)
    spread = DENSITY_SPREAD
    if density_setting is not None:
        check_range("density_setting", density_setting, 0.1, 1.3)
        if species.specific_gravity is None:
            warnings.append(Warn.NO_SPECIES_FIGURE)
            spread = 0.2
        else:
            moisture = moisture * density_setting / species.specific_gravity
            if abs(density_setting / species.specific_gravity - 1) > SETTING_FAR:
                warnings.append(Warn.SETTING_FAR)
            went_by = {"species": species.spoken_name, "setting": density_setting, "specific_gravity": species.specific_gravity}
            steps.append(Step(StepKind.DENSITY, moisture, went_by))
    uncertainty, counts = _on_such_a_surface(condition, math.hypot(tolerance, spread * moisture), warnings)
    if thickness_m < depth_m:
        # It has read what lies behind the board.
        warnings.append(Warn.THINNER_THAN_DEPTH)
        counts = False
    elif thickness_m < 1.5 * depth_m:
        warnings.append(Warn.HAND_BEHIND if condition == Condition.BACKED else Warn.AIR_GAP)
        counts = counts and condition != Condition.BACKED
    if condition == Condition.WET:
        warnings.append(Warn.WET_SURFACE)
        counts = False
    corrected = _bounded(moisture, uncertainty, PINLESS_RANGE, steps, warnings)
    return corrected if counts else replace(corrected, counts=False)


def own_scale(text: str) -> list[tuple[float, float]]:
    """A pinless meter's own scale of settings from its leaflet: a line each with a setting and the specific gravity it stands for, in any
    order; both rise together.

    Raises:
        CannotRead: a line is no such pair, a figure is out of range (specific gravity 0.1…1.3), fewer than two, or they do not rise
        together.

    >>> own_scale("60 = 0.60; 20 = 0.35")
    [(20.0, 0.35), (60.0, 0.6)]
    """
    pairs = []
    for line in re.split(r"[;\n]", text):
        if not line.strip():
            continue
        numbers = re.findall(r"\d+(?:[.,]\d+)?", line)
        if len(numbers) != 2:
            raise CannotRead(
                "own_scale", line.strip(), f"“{line.strip()[:40]}” is no setting with its specific gravity; write it like 46 = 0.55"
            )
        setting, gravity = (float(number.replace(",", ".")) for number in numbers)
        if not 0.1 <= gravity <= 1.3:
            raise CannotRead("own_scale", line.strip(), f"{gravity:g} is no specific gravity of wood; they lie between 0.1 and 1.3")
        pairs.append((setting, gravity))
    pairs.sort()
    if pairs and len(pairs) < 2:
        raise CannotRead("own_scale", text, "one setting is no scale; copy two lines at least from the leaflet")
    if any(a >= c or b >= d for (a, b), (c, d) in itertools.pairwise(pairs)):
        raise CannotRead("own_scale", text, "settings and specific gravities must rise together; is a line mistyped?")
    return pairs


def density_at(stands_at: float, scale: Sequence[Sequence[float]]) -> float:
    """The specific gravity that a setting of a meter's own scale stands for, between its lines; ``scale`` as :func:`own_scale` gives it.

    Raises:
        OutOfRange: a setting that the scale does not have, a scale of fewer than two lines.
    """
    settings, gravities = _columns(scale)
    check_range("stands_at", stands_at, settings[0], settings[-1])
    return float(np.interp(stands_at, settings, gravities))


def _columns(scale: Sequence[Sequence[float]]) -> tuple[np.ndarray, np.ndarray]:
    table = np.asarray(scale, float)
    check_range("lines", table.shape[0] if table.ndim == 2 and table.shape[1] == 2 else 0, 2, 1000)
    return table[:, 0], table[:, 1]


def setting_for(density: float, scale: Sequence[Sequence[float]]) -> float | None:
    """What to set on a meter's own scale for wood of a specific gravity, None where it lies beyond the scale.

    Raises:
        OutOfRange: density 0…2, a scale of fewer than two lines.

    >>> setting_for(0.475, [(20.0, 0.35), (60.0, 0.6)])
    40.0
    """
    check_range("density", density, 0.0, 2.0)
    settings, gravities = _columns(scale)
    if not gravities[0] <= density <= gravities[-1]:
        return None
    return round(float(np.interp(density, gravities, settings)), 1)


def _bounded(moisture: float, uncertainty: float, limits: tuple[float, float], steps: list[Step], warnings: list[Warn]) -> Corrected:
    """Beyond a meter's range only a bound is left: wetter than the upper limit, drier than the lower."""
    low, high = limits
    bound = Bound.ABOVE if moisture > high else Bound.BELOW if moisture < low else Bound.NONE
    if bound:
        warnings.append(Warn.BEYOND_RANGE)
        moisture = high if bound is Bound.ABOVE else low
        steps.append(Step(StepKind.ONLY_A_BOUND, moisture))
    return Corrected(moisture, uncertainty, tuple(steps), tuple(warnings), bound)


def end_zone_m(length_m: float) -> float:
    """How far (metres) from an end a reading is an end reading: 0.3 m, or a quarter of a shorter piece (AH-188: sections are cut 12-20 in
    clear).

    >>> end_zone_m(2.4), end_zone_m(0.4)
    (0.3, 0.1)
    """
    return min(END_ZONE_M, length_m / 4)
