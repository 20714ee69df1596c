"""Chambers: what a kiln, a hot box or a warm room can hold of what is asked of it, by its fire, its vents, its compressor and its walls.

Sources: Dry Kiln Operator's Manual (AH-188) for air speeds, venting and the limits of compressors (about 49°C for older ones, 71°C for
hot ones; medium); Drying Hardwood Lumber (FPL-GTR-118) for their kilowatt hours a litre (low). The sizes that are usual for a load are our
own judgement: everybody may type their own.
"""

import math
from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np

from wood.arrays import Array
from wood.errors import OutOfRange, check_range
from wood.kiln import chamber_kernel
from wood.stacks.air import AIR_DENSITY_20, HEAT_CAPACITY


class Kind(StrEnum):
    """What kind of chamber: one with vents, one with a compressor, a box with a heater, a room that is kept warm."""

    VENTED = "vented"
    DEHUMIDIFIER = "dehumidifier"
    BOX = "box"
    ROOM = "room"


HOTTEST_C = {Kind.VENTED: 85.0, Kind.DEHUMIDIFIER: 50.0, Kind.BOX: 50.0, Kind.ROOM: 30.0}
LIMITS_C = (20.0, 95.0)
LOAD_M3 = (0.01, 200.0)
# Air between the boards, m/s: AH-188 has 1 to 2.3 for hardwoods in a kiln; a box and a room have a small fan.
SPEED_M_S = {Kind.VENTED: 1.8, Kind.DEHUMIDIFIER: 1.5, Kind.BOX: 0.6, Kind.ROOM: 0.3}
# Of each cubic metre of load: kilowatts of heat and of fans, litres a day that a compressor takes in rated air (38°C, 60%), kilograms an
# hour of spray.
HEAT_KW = {Kind.VENTED: 5.0, Kind.DEHUMIDIFIER: 2.0, Kind.BOX: 1.5, Kind.ROOM: 1.0}
FAN_KW = {Kind.VENTED: 0.25, Kind.DEHUMIDIFIER: 0.08, Kind.BOX: 0.05, Kind.ROOM: 0.03}
LITRES_A_DAY, SPRAY_KG_H = 22.0, 12.0
# What a compressor draws for a litre in rated air, kWh (makers give 0.3-0.5; low).
KWH_A_LITRE = 0.40
# Below this the coils of a usual compressor ice up, and it has to thaw instead of drying (15°C; low).
ICES_UP_C = 15.0
# A chamber holds three and a half times its load; walls lose 0.6 W/m²K; leaks change its air every two hours; vents fifteen times an hour.
AROUND, WALLS_W_M2K, LEAKS_PER_HOUR, VENTS_PER_HOUR = 3.5, 0.6, 0.5, 15.0
STICKER_M, WIDTH_M = 0.019, 1.5
# Of a chamber's inside: what a stack leaves at its ends, before and behind it, above and below; how full its courses are; and how much of
# what fans move goes between its boards, with baffles and without (our judgement).
INSIDE_M = (0.3, 30.0)
AT_THE_ENDS_M, PLENUM_M, ABOVE_M, BELOW_M, FILLED, THROUGH, THROUGH_BARE = 0.15, 0.45, 0.6, 0.15, 0.85, 0.9, 0.5
# Air drier than this is hardly reached by a small compressor: it is doubted (our judgement).
DOUBTED_BELOW = 0.25


@dataclass(frozen=True)
class Chamber:
    """A chamber by its limits.

    ``hottest_c`` is the warmest air it can hold, ``litres_a_day`` what its compressor takes out in air of 38°C and 60% (0: it has none),
    ``compressor_from_c`` and ``compressor_to_c`` the air in which it runs, ``spray_kg_h`` the water it can put into its air (0: none),
    ``air_speed_m_s`` between the boards, ``walls_w_k`` what its walls lose for a degree.

    Raises:
        OutOfRange: hottest 20…95°C, load 0.01…200 m³, powers 0…2000 kW, 0…20 000 litres, speed 0.05…6 m/s.
    """

    kind: Kind
    load_m3: float
    hottest_c: float
    heat_kw: float
    fan_kw: float
    air_speed_m_s: float
    walls_w_k: float
    vents_m3_h: float
    leaks_m3_h: float
    litres_a_day: float = 0.0
    compressor_kw: float = 0.0
    compressor_to_c: float = 50.0
    spray_kg_h: float = 0.0
    sticker_m: float = STICKER_M
    width_m: float = WIDTH_M
    compressor_from_c: float = ICES_UP_C

    def __post_init__(self) -> None:
        check_range("load_m3", self.load_m3, *LOAD_M3, " m³")
        check_range("hottest_c", self.hottest_c, *LIMITS_C, "°C")
        for name in ("heat_kw", "fan_kw", "compressor_kw"):
            check_range(name, getattr(self, name), 0.0, 2000.0, " kW")
        check_range("air_speed_m_s", self.air_speed_m_s, 0.05, 6.0, " m/s")
        check_range("walls_w_k", self.walls_w_k, 0.0, 1e5, " W/K")
        check_range("vents_m3_h", self.vents_m3_h, 0.0, 1e6, " m³/h")
        check_range("leaks_m3_h", self.leaks_m3_h, 0.0, 1e6, " m³/h")
        check_range("litres_a_day", self.litres_a_day, 0.0, 20_000.0, " l")
        check_range("compressor_to_c", self.compressor_to_c, 10.0, 95.0, "°C")
        check_range("compressor_from_c", self.compressor_from_c, -10.0, 95.0, "°C")
        check_range("spray_kg_h", self.spray_kg_h, 0.0, 5000.0, " kg/h")
        check_range("sticker_m", self.sticker_m, 0.003, 0.1, " m")
        check_range("width_m", self.width_m, 0.1, 6.0, " m")

    @property
    def row(self) -> Array:
        """Its figures as the kernel takes them."""
        return np.array(
            [
                self.heat_kw * 1000,
                self.walls_w_k,
                self.vents_m3_h / 3600,
                self.leaks_m3_h / 3600,
                self.litres_a_day / 86_400,
                self.compressor_kw * 1000,
                self.spray_kg_h / 3600,
                self.fan_kw * 1000,
                self.air_speed_m_s,
                self.sticker_m,
                self.width_m,
                self.hottest_c,
                self.load_m3,
                self.compressor_to_c,
                float(self.steams),
                self.compressor_from_c,
                0.0,
            ]
        )

    @property
    def steams(self) -> bool:
        """Whether what makes its air damp is steam, which brings its own heat; a chamber with a compressor sprays cold water."""
        return self.kind is Kind.VENTED and self.spray_kg_h > 0

    @property
    def sprays(self) -> bool:
        """Whether it can make its air damper: without it nothing is conditioned."""
        return self.spray_kg_h > 0

    @property
    def is_kiln(self) -> bool:
        """Whether it holds its air closely enough for boards to be evened out in it."""
        return self.kind in (Kind.VENTED, Kind.DEHUMIDIFIER)

    def heat_to_hold_kw(self, temperature_c: float, outdoors_c: float) -> float:
        """What its walls and leaks take at a temperature, kW.

        Raises:
            OutOfRange.

        >>> round(usual(Kind.VENTED, 5.0).heat_to_hold_kw(60.0, 10.0), 1)
        1.4
        """
        check_range("temperature_c", temperature_c, -50.0, 120.0, "°C")
        check_range("outdoors_c", outdoors_c, -60.0, 60.0, "°C")
        loses = self.walls_w_k + self.leaks_m3_h / 3600 * AIR_DENSITY_20 * HEAT_CAPACITY
        return loses * max(temperature_c - outdoors_c, 0.0) / 1000


def usual(kind: Kind, load_m3: float) -> Chamber:
    """A chamber of a kind, as is usual for a load.

    Args:
        load_m3: wood when it is full, 0.01…200.
    Raises:
        OutOfRange.

    >>> usual(Kind.DEHUMIDIFIER, 2.5).litres_a_day
    55.0
    """
    check_range("load_m3", load_m3, *LOAD_M3, " m³")
    volume = AROUND * load_m3
    walls = WALLS_W_M2K * 6 * volume ** (2 / 3)
    has_compressor, has_vents = kind is Kind.DEHUMIDIFIER, kind in (Kind.VENTED, Kind.BOX, Kind.ROOM)
    litres = LITRES_A_DAY * load_m3 if has_compressor else 0.0
    return Chamber(
        kind,
        load_m3,
        HOTTEST_C[kind],
        HEAT_KW[kind] * load_m3,
        FAN_KW[kind] * load_m3,
        SPEED_M_S[kind],
        walls,
        VENTS_PER_HOUR * volume if has_vents else 0.0,
        LEAKS_PER_HOUR * volume,
        litres,
        litres / 24 * KWH_A_LITRE,
        50.0,
        SPRAY_KG_H * load_m3 if kind is Kind.VENTED else 0.0,
    )


@dataclass(frozen=True)
class Inside:
    """A chamber by its inside (m): along the boards, across them (the way the air goes), and high.

    Raises:
        OutOfRange: 0.3…30 m each.
    """

    long_m: float
    deep_m: float
    high_m: float

    def __post_init__(self) -> None:
        for name in ("long_m", "deep_m", "high_m"):
            check_range(name, getattr(self, name), *INSIDE_M, " m")

    @property
    def air_m3(self) -> float:
        return self.long_m * self.deep_m * self.high_m

    @property
    def walls_w_k(self) -> float:
        """What its walls, floor and ceiling lose for a degree."""
        faces = self.long_m * self.deep_m + self.long_m * self.high_m + self.deep_m * self.high_m
        return WALLS_W_M2K * 2 * faces

    @property
    def stack_m(self) -> tuple[float, float, float]:
        """How long, deep and high a stack in it may be: room at the ends, for the air before and behind it, for fans above and bearers
        below (AH-188: a plenum as wide as half the openings of a stack is high; medium)."""
        return (
            max(self.long_m - 2 * AT_THE_ENDS_M, 0.1),
            max(self.deep_m - 2 * min(PLENUM_M, 0.2 * self.deep_m), 0.1),
            max(self.high_m - min(ABOVE_M, 0.3 * self.high_m) - BELOW_M, 0.1),
        )

    def holds_m3(self, thickness_m: float, sticker_m: float = STICKER_M) -> float:
        """How much wood of a thickness it holds on such stickers, edges and ends not quite filled.

        Raises:
            OutOfRange: thickness and stickers 3…120 mm.

        >>> round(Inside(3.6, 2.4, 2.4).holds_m3(0.0286), 1)
        4.2
        """
        check_range("thickness_m", thickness_m, 0.003, 0.12, " m")
        check_range("sticker_m", sticker_m, 0.003, 0.12, " m")
        long, deep, high = self.stack_m
        return long * deep * high * thickness_m / (thickness_m + sticker_m) * FILLED

    def speed_m_s(self, fans_m3_h: float, thickness_m: float, sticker_m: float = STICKER_M, *, baffles: bool = True) -> float:
        """How fast fans of that much air blow between the boards: through the openings of a full stack, without baffles half of it.

        Args:
            fans_m3_h: 10…1 000 000.
        Raises:
            OutOfRange.

        >>> round(Inside(3.6, 2.4, 2.4).speed_m_s(8000.0, 0.0286), 1)
        0.9
        """
        check_range("fans_m3_h", fans_m3_h, 10.0, 1e6, " m³/h")
        long, _, high = self.stack_m
        openings = long * high * sticker_m / (thickness_m + sticker_m)
        through = THROUGH if baffles else THROUGH_BARE
        return min(max(fans_m3_h / 3600 * through / openings, 0.05), 6.0)


def rated(litres_a_day: float, air_c: float, humidity: float) -> float:
    """What a compressor takes in a day in air of 38°C and 60%, by what its plate says of other air.

    Args:
        litres_a_day: 0…20 000; air_c: 10…60; humidity: 0.3…1.
    Raises:
        OutOfRange.

    >>> round(rated(24.0, 26.7, 0.60), 1), round(rated(24.0, 32.0, 0.90), 1)
    (31.8, 16.7)
    """
    check_range("litres_a_day", litres_a_day, 0.0, 20_000.0, " l")
    check_range("air_c", air_c, 10.0, 60.0, "°C")
    check_range("humidity", humidity, 0.3, 1.0)
    kernel = chamber_kernel
    share = (humidity - kernel.DRY_AIR) / (kernel.RATED_HUMIDITY - kernel.DRY_AIR)
    return litres_a_day / (share * math.exp(kernel.MORE_PER_C * (air_c - kernel.RATED_C)))


def limited(chamber: Chamber, hottest_c: float) -> Chamber:
    """The same chamber, held cooler than it could be: at most at ``hottest_c``, °C.

    Raises:
        OutOfRange: warmer than it can be held.
    """
    if hottest_c > chamber.hottest_c:
        raise OutOfRange("hottest_c", hottest_c, LIMITS_C[0], chamber.hottest_c, "°C")
    return replace(chamber, hottest_c=hottest_c)
