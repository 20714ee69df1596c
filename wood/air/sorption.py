"""Sorption: the equilibrium moisture content (EMC) of wood in air, both ways, its slope, and its hysteresis.

Source of the equation: Wood Handbook (FPL-GTR-282), chapter 4, eq. 4-5, the Hailwood-Horrobin form fitted to the printed
table of equilibrium moisture. The fit holds for −1…130°C; below, down to −40, a result is an
extrapolation and :func:`is_extrapolated` says so; above 132°C the equation nears a pole and nothing is said. Real wood differs from it by
1-2 points by species, extractives and drying history; the application shows that where it matters.
"""

from dataclasses import dataclass

import numpy as np

from wood.arrays import Array, Same, Values
from wood.errors import check_range, like_input

TEMPERATURE_C = (-40.0, 132.0)
FITTED_TEMPERATURE_C = (-1.0, 132.0)
BLOCK = 16384

# Adsorption EMC over desorption EMC at room temperature, Wood Handbook ch. 4 (range 0.80-0.90).
HYSTERESIS_RATIO = 0.85
# Half the distance between the two curves, as a share of their mean.
HYSTERESIS_GAP = (1 - HYSTERESIS_RATIO) / (1 + HYSTERESIS_RATIO)


def _constants(temperature_c: Array) -> tuple[Array, ...]:
    t = temperature_c
    w = 349 + t * (1.29 + 0.0135 * t)
    k = 0.805 + t * (0.000736 - 0.00000273 * t)
    k1 = 6.27 - t * (0.00938 + 0.000303 * t)
    k2 = 1.91 + t * (0.0407 - 0.000293 * t)
    return w, k, k1, k2


def emc(temperature_c: Values, relative_humidity: Values) -> Same:
    """Equilibrium moisture content, as a fraction of ovendry mass.

    Args:
        temperature_c: air temperature, −40…132°C (fitted −1…132), scalar or array.
        relative_humidity: fraction 0…1, scalar or array; the two broadcast.
    Returns:
        EMC as a fraction, same shape as the broadcast inputs.
    Raises:
        OutOfRange: either input outside its range or not a number.
    Source: Wood Handbook (FPL-GTR-282) eq. 4-5; within 0.1 point of its table.

    >>> round(emc(21.1, 0.50), 3)
    0.092
    """
    t = check_range("temperature_c", temperature_c, *TEMPERATURE_C, "°C")
    h = check_range("relative_humidity", relative_humidity, 0.0, 1.0)
    if max(t.size, h.size) <= BLOCK:
        return like_input(_emc(t, h), temperature_c, relative_humidity)
    # In blocks that stay in the processor's cache: three times as fast as passes over whole long arrays.
    t, h = np.broadcast_arrays(t, h)
    result = np.empty(t.shape)
    flat_t, flat_h, flat = t.reshape(-1), h.reshape(-1), result.reshape(-1)
    for start in range(0, flat.size, BLOCK):
        block = slice(start, start + BLOCK)
        flat[block] = _emc(flat_t[block], flat_h[block])
    return result


def _emc(t: np.ndarray, h: np.ndarray) -> np.ndarray:
    w, k, k1, k2 = _constants(t)
    kh = k * h
    a = k1 * kh
    b = a * kh * k2
    ab = a + b
    return 18.0 / w * (kh / (1 - kh) + (ab + b) / (1 + ab))


def slope(temperature_c: Values, relative_humidity: Values) -> Same:
    """∂EMC/∂RH at constant temperature: points of moisture (as fraction) per unit of relative humidity.

    It turns a hygrometer's tolerance into points of EMC. Inputs, range and errors as :func:`emc`.

    >>> round(slope(21.1, 0.50) * 0.03, 4)   # what ±3% RH is worth
    0.0048
    """
    t = check_range("temperature_c", temperature_c, *TEMPERATURE_C, "°C")
    h = check_range("relative_humidity", relative_humidity, 0.0, 1.0)
    w, k, k1, k2 = _constants(t)
    kh = k * h
    a1, b2 = k1 * kh, k1 * k2 * kh * kh
    top, bottom = a1 + 2 * b2, 1 + a1 + b2
    # d/dh of both terms; a1' = k1·k, b2' = 2·b2/h written without the division so that h = 0 is fine.
    da1, db2 = k1 * k, 2 * k1 * k2 * k * kh
    d = k / (1 - kh) ** 2 + ((da1 + 2 * db2) * bottom - top * (da1 + db2)) / bottom**2
    return like_input(18.0 / w * d, temperature_c, relative_humidity)


def relative_humidity_for(temperature_c: Values, moisture: Values) -> Same:
    """The relative humidity that keeps wood at ``moisture`` (the inverse of :func:`emc`).

    Args:
        temperature_c: as in :func:`emc`.
        moisture: wanted EMC as a fraction, from 0 up to the EMC at saturation for that temperature.
    Returns:
        Relative humidity 0…1, broadcast shape, to 1e-12.
    Raises:
        OutOfRange: moisture below 0 or above what saturated air gives at that temperature.

    >>> round(relative_humidity_for(21.1, 0.08), 3)
    0.42
    """
    t = check_range("temperature_c", temperature_c, *TEMPERATURE_C, "°C")
    m = check_range("moisture", moisture, 0.0, 1.0)
    t, m = np.broadcast_arrays(t, m)
    highest = np.asarray(emc(t, np.ones_like(t)))
    if np.any(m > highest):
        worst = np.argmax(m - highest)
        check_range("moisture", m.flat[worst], 0.0, float(highest.flat[worst]))
    # EMC rises steadily with humidity: halving always works, and a Newton step finishes.
    low, high = np.zeros_like(m), np.ones_like(m)
    for _ in range(30):
        middle = 0.5 * (low + high)
        below = np.asarray(emc(t, middle)) < m
        low, high = np.where(below, middle, low), np.where(below, high, middle)
    h = 0.5 * (low + high)
    h = np.clip(h - (np.asarray(emc(t, h)) - m) / np.asarray(slope(t, h)), 0.0, 1.0)
    return like_input(h, temperature_c, moisture)


def is_extrapolated(temperature_c: Values) -> bool:
    """Whether any temperature lies outside the −1…132°C to which the equation was fitted."""
    t = np.asarray(temperature_c, dtype=float)
    return bool(np.any((t < FITTED_TEMPERATURE_C[0]) | (t > FITTED_TEMPERATURE_C[1])))


@dataclass(frozen=True)
class HysteresisBand:
    """Where wood settles in one air: coming from wetter (``drying``) or from drier (``regaining``); fractions."""

    regaining: float
    mean: float
    drying: float


def hysteresis_band(temperature_c: float, relative_humidity: float) -> HysteresisBand:
    """The EMC of wood that is drying down and of wood that is regaining, about the tabulated value.

    The table lies between the two curves (Wood Handbook ch. 4); the ratio of 0.85 between them is spread evenly about it.
    Away from the middle range both must meet, at 0 and at saturation, so the gap closes there with 4h(1−h).

    >>> band = hysteresis_band(21.1, 0.50)
    >>> round(band.regaining / band.drying, 2)
    0.85
    """
    mean = float(emc(temperature_c, relative_humidity))
    gap = float(half_gap(relative_humidity))
    return HysteresisBand(mean * (1 - gap), mean, mean * (1 + gap))


def half_gap(relative_humidity: Values) -> Same:
    """Half the distance between both sorption curves as a share of the tabulated EMC, over arrays of humidity (fractions).

    Raises:
        OutOfRange: relative_humidity 0…1.

    >>> round(float(half_gap(0.5)), 3)
    0.081
    """
    h = check_range("relative_humidity", relative_humidity, 0.0, 1.0)
    # Full width between about 20 and 80% RH, closing toward the ends.
    return HYSTERESIS_GAP * np.minimum(1.0, 4 * h * (1 - h) / 0.64)


@dataclass(frozen=True)
class MeasuredEmc:
    """An EMC with what the hygrometer's own tolerance is worth: ``emc`` ± ``tolerance``, both fractions."""

    emc: float
    tolerance: float
    extrapolated: bool


def measured_emc(
    temperature_c: float, relative_humidity: float, rh_tolerance: float = 0.03, temperature_tolerance_c: float = 0.5
) -> MeasuredEmc:
    """EMC of air as an instrument shows it, with the uncertainty the instrument brings.

    Args:
        temperature_c, relative_humidity: as in :func:`emc`.
        rh_tolerance: the hygrometer's stated tolerance as a fraction (0.03 is ±3% RH), 0…0.3.
        temperature_tolerance_c: the thermometer's, 0…10°C.
    Raises:
        OutOfRange.

    Tolerances are taken as 95% limits; the two act independently.

    >>> reading = measured_emc(20, 0.75, rh_tolerance=0.03)
    >>> round(reading.emc, 3), round(reading.tolerance, 3)
    (0.145, 0.009)
    """
    meant, tolerance = measured_emcs(temperature_c, relative_humidity, rh_tolerance, temperature_tolerance_c)
    return MeasuredEmc(emc=float(meant), tolerance=float(tolerance), extrapolated=is_extrapolated(temperature_c))


def measured_emcs(
    temperature_c: Values, relative_humidity: Values, rh_tolerance: Values = 0.03, temperature_tolerance_c: float = 0.5
) -> tuple[Array, Array]:
    """As :func:`measured_emc`, of many readings at once (°C and fractions): their EMCs and tolerances, fractions.

    Raises:
        OutOfRange: as there.
    """
    good_to = check_range("rh_tolerance", rh_tolerance, 0.0, 0.3)
    check_range("temperature_tolerance_c", temperature_tolerance_c, 0.0, 10.0, "°C")
    meant = np.asarray(emc(temperature_c, relative_humidity))
    by_humidity = np.asarray(slope(temperature_c, relative_humidity)) * good_to
    warmer = np.minimum(np.asarray(temperature_c, dtype=float) + temperature_tolerance_c, TEMPERATURE_C[1])
    return meant, np.hypot(by_humidity, np.asarray(emc(warmer, relative_humidity)) - meant)
