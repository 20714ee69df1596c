"""Heat against insects: how long a board takes to be warm to its core, and for how long it is then held.

Sources: the rules of treatment as recorded (ISPM 15 and the treatment manual of the USDA; each with its confidence), heat conduction by the
series of a long square bar with the diffusivity of wood, 0.00027 in²/s (Wood Handbook ch. 4; derived times of that series, a tenth to a
fifth quicker than chambers), the film of air as so much more wood (ours). While wood is wet its core hangs near the wet bulb (RP-604,
RP-607; high); how it passes to the dry bulb as it dries is our own judgement. Times beyond a day are not told: wood dries meanwhile.
"""

import math
from dataclasses import dataclass

from wood.air.psychrometrics import Air
from wood.air.sorption import relative_humidity_for
from wood.errors import OutOfRange, check_range

DIFFUSIVITY_M2_S = 0.00027 * 0.0254**2
# Wood's conductivity over the film's conductance at a face between boards: as if each face had so much more wood on it, m.
FILM_AS_WOOD_M = 0.004
# As wet as this the core is at the wet bulb; as dry as this at the dry bulb.
WET, DRY = 0.28, 0.12
TERMS = 40
LONGEST_MIN = 24 * 60.0
HOLDS_WATER, ICE_J_KG, HEAT_J_KG_K, WATER_J_KG_K = 0.30, 334e3, 1500.0, 4186.0


@dataclass(frozen=True)
class Aim:
    """What heat is to do: against whom, how warm the core must be (°C), for how many minutes, and how sure the rule is."""

    key: str
    against: str
    core_c: float
    hold_min: float
    source: str
    confidence: str


AIMS = {
    aim.key: aim
    for aim in (
        Aim("packing", "what lives in packing wood", 56.0, 30.0, "ISPM 15", "high"),
        Aim("ash_borer", "ash borers in firewood and logs", 60.0, 60.0, "USDA treatment manual, T314", "medium"),
        Aim("firewood", "whatever lives in firewood", 71.1, 75.0, "USDA treatment manual, T314", "medium"),
        Aim("house_borer", "old-house borers in softwood", 55.0, 60.0, "USDA; European practice", "low"),
        Aim("furniture", "furniture beetles in old wood", 55.0, 60.0, "as for old-house borers; European practice", "low"),
        Aim("termites", "drywood termites", 49.0, 33.0, "USDA", "medium"),
    )
}
# Powderpost beetles have a table of their own: dry bulb and depression (°C) and hours for 1, 2 and 3 inches, once the chamber is there
# (T404-b-4; medium).
POWDERPOST = ((60.0, 3.9, (3.0, 5.0, 7.0)), (54.4, 8.9, (10.0, 12.0, 14.0)), (51.7, 8.3, (46.0, 48.0, 50.0)))


def medium_c(dry_bulb_c: float, wet_bulb_c: float, moisture: float) -> float:
    """What the air is to wood of a moisture: the wet bulb while it is wet, the dry bulb once it is dry.

    Raises:
        OutOfRange: bulbs −40…110°C, the wet one above the dry; moisture 0…3.

    >>> medium_c(71.0, 60.0, 0.8), medium_c(71.0, 60.0, 0.08)
    (60.0, 71.0)
    """
    check_range("dry_bulb_c", dry_bulb_c, -40.0, 110.0, "°C")
    check_range("wet_bulb_c", wet_bulb_c, -40.0, dry_bulb_c, "°C")
    check_range("moisture", moisture, 0.0, 3.0)
    wet = min(max((moisture - DRY) / (WET - DRY), 0.0), 1.0)
    return dry_bulb_c - wet * (dry_bulb_c - wet_bulb_c)


def minutes_to_core(
    thickness_m: float, width_m: float, start_c: float, air_c: float, core_c: float, moisture: float = 0.12, *, film: bool = True
) -> float:
    """How long until the middle of a long board is at a temperature, minutes; infinite where it never is, or not within a day.

    Args:
        thickness_m, width_m: 3 mm…1.5 m; start_c: −40…90°C; air_c: what the air is to this wood (:func:`medium_c`), −40…110°C; core_c:
        0…105°C;
        film: whether the film of air counts.
    Raises:
        OutOfRange.

    >>> round(minutes_to_core(0.0254, 0.1524, 15.6, 71.1, 56.0, film=False))
    10
    >>> round(minutes_to_core(0.1016, 0.1016, 15.6, 71.1, 56.0, film=False))
    89
    """
    for name, size in (("thickness_m", thickness_m), ("width_m", width_m)):
        check_range(name, size, 0.003, 1.5, " m")
    check_range("start_c", start_c, -40.0, 90.0, "°C")
    check_range("air_c", air_c, -40.0, 110.0, "°C")
    check_range("core_c", core_c, 0.0, 105.0, "°C")
    check_range("moisture", moisture, 0.0, 3.0)
    if start_c >= core_c:
        return 0.0
    if air_c <= core_c:
        return math.inf
    left = (air_c - core_c) / (air_c - start_c)
    extra = 2 * FILM_AS_WOOD_M if film else 0.0

    def unmoved(minutes: float) -> float:
        return _slab(minutes * 60, thickness_m + extra) * _slab(minutes * 60, width_m + extra)

    low, high = 0.0, LONGEST_MIN
    if unmoved(high) > left:
        return math.inf
    for _ in range(60):
        middle = (low + high) / 2
        low, high = (middle, high) if unmoved(middle) > left else (low, middle)
    return high * (1 + _ice_share(start_c, core_c, moisture))


def _slab(seconds: float, thickness_m: float) -> float:
    """The share of the first difference that is left in the middle of a slab whose faces are at the new temperature."""
    fourier = DIFFUSIVITY_M2_S * seconds / (thickness_m / 2) ** 2
    if fourier < 0.02:
        return 1.0
    total = 0.0
    for term in range(TERMS):
        n = 2 * term + 1
        part = math.exp(-((n * math.pi / 2) ** 2) * fourier) / n
        total += part if term % 2 == 0 else -part
        if part < 1e-12:
            break
    return min(4 / math.pi * total, 1.0)


def _ice_share(start_c: float, core_c: float, moisture: float) -> float:
    """What thawing free water asks for, as a share of the warming."""
    if start_c >= 0 or moisture <= HOLDS_WATER:
        return 0.0
    return (moisture - HOLDS_WATER) * ICE_J_KG / ((HEAT_J_KG_K + moisture * WATER_J_KG_K) * (core_c - start_c))


@dataclass(frozen=True)
class Treated:
    """A treatment as it would go: what the air is to the wood (°C), minutes until the core is there (infinite: never), and in all with its
    hold.
    """

    air_c: float
    to_core_min: float
    hold_min: float

    @property
    def in_all_min(self) -> float:
        return self.to_core_min + self.hold_min

    @property
    def is_reached(self) -> bool:
        return math.isfinite(self.to_core_min)


def treated(aim: Aim, thickness_m: float, width_m: float, start_c: float, dry_bulb_c: float, wet_bulb_c: float, moisture: float) -> Treated:
    """A board of a size and moisture in a chamber's air, for an aim.

    Raises:
        OutOfRange.

    >>> treated(AIMS["packing"], 0.0286, 0.2, 15.0, 49.0, 45.0, 0.10).is_reached
    False
    """
    air = medium_c(dry_bulb_c, wet_bulb_c, moisture)
    return Treated(air, minutes_to_core(thickness_m, width_m, start_c, air, aim.core_c, moisture), aim.hold_min)


# The warmths of a core that are compared, °C; air is held so much warmer than the core is wanted.
CORES_C, OVER_K = (50.0, 56.0, 60.0, 65.0), 6.0


@dataclass(frozen=True)
class Clears:
    """Against whom (None: powderpost beetles, by their table), and the hours in all for a core at each of :data:`CORES_C`; None where the
    rule wants it hotter, or nothing is known."""

    aim: Aim | None
    hours: tuple[float | None, ...]


def compared(thickness_m: float, width_m: float, start_c: float, moisture: float) -> list[Clears]:
    """How long a board of a size is in the chamber's air until each insect is dead, for cores of 50, 56, 60 and 65°C: warming in air six
    degrees warmer, damp enough not to dry it, and the hold of each rule.

    Args:
        as :func:`minutes_to_core`.
    Raises:
        OutOfRange.

    >>> rows = {row.aim.key if row.aim else "": row.hours for row in compared(0.0286, 0.2, 15.0, 0.12)}
    >>> rows["packing"][0], round(rows["packing"][1], 1), rows["firewood"]
    (None, 1.0, (None, None, None, None))
    """
    warming = [minutes_to_core(thickness_m, width_m, start_c, _air_for(core, moisture), core, moisture) / 60 for core in CORES_C]
    rows = []
    for aim in AIMS.values():
        hours = [
            to_core + aim.hold_min / 60 if core >= aim.core_c - 0.05 and math.isfinite(to_core) else None
            for core, to_core in zip(CORES_C, warming, strict=True)
        ]
        rows.append(Clears(aim, tuple(hours)))
    table = [powderpost_hours(thickness_m, core) for core in CORES_C]
    rows.append(Clears(None, tuple(table)))
    return rows


def _air_for(core_c: float, moisture: float) -> float:
    """What air six degrees over a core is to wood that it neither dries nor wets."""
    air = core_c + OVER_K
    return medium_c(air, Air(air, _held_at(air, min(max(moisture, 0.04), 0.20))).wet_bulb_c, moisture)


def _held_at(temperature_c: float, moisture: float) -> float:
    """The humidity that neither dries nor wets wood of a moisture; as damp as air can be held where none does."""
    try:
        return min(float(relative_humidity_for(temperature_c, moisture)), 0.97)
    except OutOfRange:
        return 0.97


def powderpost_hours(thickness_m: float, dry_bulb_c: float) -> float | None:
    """Hours that the published table has for powderpost beetles at a dry bulb, once the chamber is there, between its thicknesses; None
    where it is cooler or the wood thicker than the table knows.

    Raises:
        OutOfRange.

    >>> powderpost_hours(0.0254, 60.0), powderpost_hours(0.0254, 45.0)
    (3.0, None)
    """
    inches = check_range("thickness_m", thickness_m, 0.001, 1.5, " m") / 0.0254
    check_range("dry_bulb_c", dry_bulb_c, -40.0, 110.0, "°C")
    row = next((hours for warm, _, hours in POWDERPOST if dry_bulb_c >= warm - 0.5), None)
    if row is None or inches > 3.0:
        return None
    below = min(max(int(inches), 1), 2)
    share = max(float(inches) - below, 0.0)
    return row[below - 1] + share * (row[below] - row[below - 1])
