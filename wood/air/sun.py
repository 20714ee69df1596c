"""The sun: what falls in a day on a level and on a tilted face, by latitude, month and how clear the sky is; and the hours in which it
falls.

Sources: daily extraterrestrial radiation, the usual astronomical formula (1.367 kW/m²); diffuse share, Erbs 1982 monthly correlation; a
tilted face by Liu and Jordan with an even sky and ground that reflects a fifth. Textbook methods (Duffie and Beckman).
"""

import math

import numpy as np

from wood.arrays import Array, Same, Values
from wood.errors import check_range, like_input

SOLAR_KW_M2, GROUND = 1.367, 0.2
# Mean day of each month.
MEAN_DAYS = (17, 47, 75, 105, 135, 162, 198, 228, 258, 288, 318, 344)
LATITUDE = (-60.0, 60.0)
CLEARNESS = (0.15, 0.80)


def declination_rad(day: Values) -> Same:
    """The sun's declination on a day of the year (1…366), radians (Cooper 1969).

    Raises:
        OutOfRange: day 0…366.
    """
    n = check_range("day", day, 0.0, 366.0, " days")
    return like_input(np.radians(23.45) * np.sin(2 * np.pi * (284 + n) / 365), day)


def outside_kwh_m2(latitude_deg: float, day: int) -> float:
    """What would fall on a level square metre in a day without an atmosphere, kWh.

    Args:
        latitude_deg: −60…60; day: of the year, 1…366.
    Raises:
        OutOfRange.

    >>> round(outside_kwh_m2(40, 162), 1), round(outside_kwh_m2(40, 344), 1)
    (11.6, 3.8)
    """
    check_range("latitude_deg", latitude_deg, *LATITUDE, "°")
    phi, delta = math.radians(latitude_deg), float(declination_rad(float(check_range("day", day, 1, 366))))
    sunset = _sunset(phi, delta)
    near = 1 + 0.033 * math.cos(2 * math.pi * day / 365)
    return (
        24 / math.pi * SOLAR_KW_M2 * near * (math.cos(phi) * math.cos(delta) * math.sin(sunset) + sunset * math.sin(phi) * math.sin(delta))
    )


def _sunset(phi: float, delta: float) -> float:
    return math.acos(min(1.0, max(-1.0, -math.tan(phi) * math.tan(delta))))


def tilted_kwh_m2(latitude_deg: float, day: int, clearness: float, tilt_deg: float) -> float:
    """What falls in a day on a square metre that faces the equator at a tilt, kWh.

    Args:
        clearness: share of what would fall without an atmosphere that reaches a level face, 0.15…0.8; tilt_deg: 0…90.
    Raises:
        OutOfRange.

    >>> round(tilted_kwh_m2(40, 162, 0.5, 40), 1), round(tilted_kwh_m2(40, 17, 0.4, 40), 1)
    (5.0, 2.7)
    """
    check_range("clearness", clearness, *CLEARNESS)
    check_range("tilt_deg", tilt_deg, 0.0, 90.0, "°")
    level = clearness * outside_kwh_m2(latitude_deg, day)
    phi, tilt = math.radians(abs(latitude_deg)), math.radians(tilt_deg)
    delta = float(declination_rad(float(day))) * (1 if latitude_deg >= 0 else -1)
    sunset = _sunset(phi, delta)
    there = min(sunset, math.acos(min(1.0, max(-1.0, -math.tan(phi - tilt) * math.tan(delta)))))
    beam = (math.cos(phi - tilt) * math.cos(delta) * math.sin(there) + there * math.sin(phi - tilt) * math.sin(delta)) / (
        math.cos(phi) * math.cos(delta) * math.sin(sunset) + sunset * math.sin(phi) * math.sin(delta)
    )
    diffuse = _diffuse(clearness, sunset)
    return level * ((1 - diffuse) * beam + diffuse * (1 + math.cos(tilt)) / 2 + GROUND * (1 - math.cos(tilt)) / 2)


def _diffuse(clearness: float, sunset: float) -> float:
    """The share of a month's light that comes from the whole sky (Erbs 1982)."""
    k = min(max(clearness, 0.3), 0.8)
    if math.degrees(sunset) <= 81.4:
        return 1.391 - 3.560 * k + 4.189 * k**2 - 2.137 * k**3
    return 1.311 - 3.022 * k + 3.427 * k**2 - 1.821 * k**3


def through_day(latitude_deg: float, day: float) -> Array:
    """The share of a day's light that falls in each of its 24 hours (sums to one), by the sun's height.

    Raises:
        OutOfRange: latitude_deg −60…60°, day 0…366.

    >>> shares = through_day(40, 172)
    >>> bool(abs(shares.sum() - 1) < 1e-9 and shares[12] > shares[7] > shares[3] == 0)
    True
    """
    check_range("latitude_deg", latitude_deg, *LATITUDE, "°")
    phi, delta = math.radians(latitude_deg), float(declination_rad(day))
    hour = np.radians((np.arange(24) + 0.5 - 12) * 15)
    height = np.maximum(0.0, math.sin(phi) * math.sin(delta) + math.cos(phi) * math.cos(delta) * np.cos(hour))
    return height / height.sum()
