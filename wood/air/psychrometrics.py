"""Air: its humidity in every form, air that is warmed on its way indoors, and the salts that check a hygrometer.

Psychrometrics by the equations of ASHRAE Fundamentals, ch. 1; salts after Greenspan 1977, US National Bureau of Standards.
"""

from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from wood.arrays import Array, Same, Values
from wood.errors import NotKnown, OutOfRange, check_range, like_input
from wood.tables import rows

SEA_LEVEL_PRESSURE_PA = 101_325.0
TEMPERATURE_C = (-40.0, 150.0)
# The greatest share of vapour in the pressure of what is still called air, and the vapour of a dew point of −90°C.
MOST_VAPOUR, LEAST_VAPOUR_PA = 0.95, 0.01
LOWEST_DEW_C, LOWEST_BULB_C = -99.0, -50.0
# A molecule of water against the mean one of dry air, by mass.
VAPOUR_TO_AIR = 0.621945


@dataclass(frozen=True)
class Air:
    """Moist air: dry-bulb temperature in °C, relative humidity 0…1, pressure in Pa.

    Raises:
        OutOfRange: outside −40…150°C, 0…1, 50 000…120 000 Pa; and from the ratio and the wet bulb, more vapour than the pressure allows.

    >>> round(Air(20, 0.5).dew_point_c, 1)
    9.3
    """

    temperature_c: float
    relative_humidity: float
    pressure_pa: float = SEA_LEVEL_PRESSURE_PA

    def __post_init__(self) -> None:
        check_range("temperature_c", self.temperature_c, *TEMPERATURE_C, "°C")
        check_range("relative_humidity", self.relative_humidity, 0.0, 1.0)
        check_range("pressure_pa", self.pressure_pa, 50_000, 120_000, " Pa")

    def _check_not_all_vapour(self) -> None:
        """Near boiling and above it, what is mostly vapour has no humidity ratio: nothing is left to carry it."""
        most = MOST_VAPOUR * self.pressure_pa / float(saturation_pressure_pa(self.temperature_c))
        if self.relative_humidity > most:
            raise OutOfRange("relative_humidity", self.relative_humidity, 0.0, most)

    @property
    def vapour_pressure_pa(self) -> float:
        """Pressure of its vapour, Pa."""
        return self.relative_humidity * float(saturation_pressure_pa(self.temperature_c))

    @property
    def humidity_ratio(self) -> float:
        """Kilograms of water per kilogram of dry air."""
        self._check_not_all_vapour()
        return _ratio(self.vapour_pressure_pa, self.pressure_pa)

    @property
    def dew_point_c(self) -> float:
        """The temperature at which its vapour begins to fall out.

        Raises:
            OutOfRange: air so dry that its dew point lies below −100°C, where no equation holds.
        """
        if self.vapour_pressure_pa < LEAST_VAPOUR_PA:
            least = LEAST_VAPOUR_PA / float(saturation_pressure_pa(self.temperature_c))
            raise OutOfRange("relative_humidity", self.relative_humidity, min(least, 1.0), 1.0)
        return _dew_point_c(self.vapour_pressure_pa)

    @property
    def wet_bulb_c(self) -> float:
        """The temperature that a wet surface in a stream of this air takes on."""
        self._check_not_all_vapour()
        return _wet_bulb_c(self.temperature_c, self.humidity_ratio, self.pressure_pa)

    def brought_to(self, temperature_c: float, moisture_gain: float = 0.0) -> "Air":
        """The same air at another temperature: humidity ratio kept, plus ``moisture_gain`` (kg per kg of dry air).

        This is what heating does to outdoor air. Where the air would be more than saturated, the surplus falls out as dew.

        >>> round(Air(0, 0.8).brought_to(20).relative_humidity, 2)
        0.21
        """
        check_range("temperature_c", temperature_c, *TEMPERATURE_C, "°C")
        ratio = self.humidity_ratio + moisture_gain
        vapour = self.pressure_pa * ratio / (VAPOUR_TO_AIR + ratio)
        return Air(temperature_c, min(vapour / float(saturation_pressure_pa(temperature_c)), 1.0), self.pressure_pa)


def from_wet_bulb(temperature_c: float, wet_bulb_c: float, pressure_pa: float = SEA_LEVEL_PRESSURE_PA) -> Air:
    """Air from a dry and a wet bulb (°C) at a pressure (Pa).

    Raises:
        OutOfRange: the wet bulb reads above the dry one, or so far below it that no such air exists.

    >>> round(from_wet_bulb(20, 13.8).relative_humidity, 2)
    0.5
    """
    check_range("temperature_c", temperature_c, *TEMPERATURE_C, "°C")
    check_range("pressure_pa", pressure_pa, 50_000, 120_000, " Pa")
    check_range("wet_bulb_c", wet_bulb_c, TEMPERATURE_C[0], temperature_c, "°C")
    # A wet surface never comes to the boil: the vapour over it would be all of the air.
    if float(saturation_pressure_pa(wet_bulb_c)) > MOST_VAPOUR * pressure_pa:
        raise OutOfRange("wet_bulb_c", wet_bulb_c, TEMPERATURE_C[0], boiling_c(pressure_pa), "°C")
    ratio = _ratio_at_wet_bulb(temperature_c, wet_bulb_c, pressure_pa)
    if ratio < 0:
        check_range("wet_bulb_c", wet_bulb_c, _wet_bulb_c(temperature_c, 0.0, pressure_pa), temperature_c, "°C")
    vapour = pressure_pa * ratio / (VAPOUR_TO_AIR + ratio)
    # Saturated air comes back a rounding above saturation.
    return Air(temperature_c, min(vapour / float(saturation_pressure_pa(temperature_c)), 1.0), pressure_pa)


def wet_bulbs_c(temperature_c: Values, relative_humidity: Values) -> Array:
    """The wet bulbs of many airs at sea level at once, as :attr:`Air.wet_bulb_c` has them, to a thousandth of a degree: for drawings.

    Args:
        temperature_c: −40…95°C, over arrays; relative_humidity: 0.01…1.
    Raises:
        OutOfRange: different lengths, or out of range.

    >>> [round(float(item), 2) for item in wet_bulbs_c([20.0, 60.0], [0.5, 0.3])], round(Air(60.0, 0.3).wet_bulb_c, 2)
    ([13.78, 39.72], 39.72)
    """
    t = check_range("temperature_c", temperature_c, -40.0, 95.0, "°C").reshape(-1)
    h = check_range("relative_humidity", relative_humidity, 0.01, 1.0).reshape(-1)
    check_range("humidities", h.size, t.size, t.size)
    pressure = SEA_LEVEL_PRESSURE_PA

    def ratio(vapour: Array) -> Array:
        return VAPOUR_TO_AIR * vapour / np.maximum(pressure - vapour, 1.0)

    held = ratio(h * np.exp(_log_saturation(t)))
    low, high = np.full(t.size, LOWEST_BULB_C), t.copy()
    for _ in range(20):
        bulb = (low + high) / 2
        saturated = ratio(np.exp(_log_saturation(bulb)))
        wet = ((2501 - 2.326 * bulb) * saturated - 1.006 * (t - bulb)) / (2501 + 1.86 * t - 4.186 * bulb)
        icy = ((2830 - 0.24 * bulb) * saturated - 1.006 * (t - bulb)) / (2830 + 1.86 * t - 2.1 * bulb)
        above = np.where(bulb >= 0, wet, icy) > held
        low, high = np.where(above, low, bulb), np.where(above, bulb, high)
    return (low + high) / 2


def _ratio(vapour_pa: float, pressure_pa: float) -> float:
    """Kilograms of water per kilogram of dry air, from the pressure of the vapour and of all."""
    return VAPOUR_TO_AIR * vapour_pa / (pressure_pa - vapour_pa)


def _ratio_at_wet_bulb(temperature_c: float, wet_bulb_c: float, pressure_pa: float) -> float:
    """Water per dry air where a wet surface takes on ``wet_bulb_c``, an ice bulb below freezing (eq. 33 and 35); below zero where no
    air is as dry."""
    saturated = _ratio(float(np.exp(_log_saturation(wet_bulb_c))), pressure_pa)
    if wet_bulb_c >= 0:
        heat = (2501 - 2.326 * wet_bulb_c) * saturated - 1.006 * (temperature_c - wet_bulb_c)
        return heat / (2501 + 1.86 * temperature_c - 4.186 * wet_bulb_c)
    heat = (2830 - 0.24 * wet_bulb_c) * saturated - 1.006 * (temperature_c - wet_bulb_c)
    return heat / (2830 + 1.86 * temperature_c - 2.1 * wet_bulb_c)


def _root(function: Callable[[float], float], low: float, high: float) -> float:
    """Where a function crosses nought between two temperatures, to a millionth of a degree."""
    # Loaded where it is needed: it takes half a second, and no page waits for it (command/serving.py).
    from scipy.optimize import brentq

    return float(brentq(function, low, high, xtol=1e-6))


def _wet_bulb_c(temperature_c: float, ratio: float, pressure_pa: float) -> float:
    """The wet bulb at which air of this temperature holds ``ratio``: what a wet surface gives grows with it, so it is bracketed."""
    low, high = LOWEST_BULB_C, min(temperature_c, boiling_c(pressure_pa))
    if _ratio_at_wet_bulb(temperature_c, high, pressure_pa) <= ratio:
        return high
    return _root(lambda bulb: _ratio_at_wet_bulb(temperature_c, bulb, pressure_pa) - ratio, low, high)


def _dew_point_c(vapour_pa: float) -> float:
    """The temperature whose saturated vapour has this pressure."""
    return _root(lambda c: float(_log_saturation(c) - np.log(vapour_pa)), LOWEST_DEW_C, TEMPERATURE_C[1])


def from_dew_point(temperature_c: float, dew_point_c: float, pressure_pa: float = SEA_LEVEL_PRESSURE_PA) -> Air:
    """Air from its temperature and dew point (°C) at a pressure (Pa).

    Raises:
        OutOfRange: the dew point lies above the temperature.

    >>> round(from_dew_point(20, 9.27).relative_humidity, 2)
    0.5
    """
    check_range("temperature_c", temperature_c, *TEMPERATURE_C, "°C")
    check_range("pressure_pa", pressure_pa, 50_000, 120_000, " Pa")
    check_range("dew_point_c", dew_point_c, TEMPERATURE_C[0], temperature_c, "°C")
    return Air(temperature_c, min(1.0, float(saturation_pressure_pa(dew_point_c) / saturation_pressure_pa(temperature_c))), pressure_pa)


def boiling_c(pressure_pa: float = SEA_LEVEL_PRESSURE_PA) -> float:
    """The temperature at which what is called air here would be nearly all vapour: just below the boil.

    Raises:
        OutOfRange: pressure_pa 50000…120000 Pa.

    >>> round(boiling_c(), 1)
    98.5
    """
    check_range("pressure_pa", pressure_pa, 50_000, 120_000, " Pa")
    at = np.linspace(60.0, 110.0, 5001)
    return float(np.interp(MOST_VAPOUR * pressure_pa, np.asarray(saturation_pressure_pa(at)), at))


@lru_cache(maxsize=1)
def _salts() -> dict[str, tuple[list[float], list[float]]]:
    table = {}
    for row in rows("salts"):
        points = [(t, row.number(f"at_{t}_c", 0.01)) for t in range(10, 41, 5) if row[f"at_{t}_c"]]
        table[row["key"]] = ([float(t) for t, _ in points], [humidity for _, humidity in points])
    return table


def salt_relative_humidity(salt: str, temperature_c: float) -> float:
    """Relative humidity over a saturated solution of ``salt`` (``"NaCl"``, ``"MgCl2"`` …), linear between tabulated temperatures.

    Raises:
        NotKnown: a salt that is not in the table.
        OutOfRange: a temperature outside the salt's own column.

    >>> round(salt_relative_humidity("NaCl", 25), 4)
    0.7529
    """
    if salt not in _salts():
        raise NotKnown("saturated-salt humidity", salt)
    temperatures, humidities = _salts()[salt]
    check_range("temperature_c", temperature_c, temperatures[0], temperatures[-1], "°C")
    return float(np.interp(temperature_c, temperatures, humidities))


GAS_CONSTANT = 8.314462
WATER_KG_PER_MOL = 0.018015
ABSOLUTE_ZERO_C = -273.15
TRIPLE_POINT_C = 0.01


def saturation_pressure_pa(temperature_c: Values) -> Same:
    """Vapour pressure of saturated air in Pa, over ice below freezing, over arrays.

    Args:
        temperature_c: −40…150°C, scalar or array.
    Raises:
        OutOfRange.
    Source: ASHRAE Fundamentals (Hyland and Wexler), the equations of ch. 1.

    >>> round(saturation_pressure_pa(20.0))
    2339
    """
    c = check_range("temperature_c", temperature_c, *TEMPERATURE_C, "°C")
    return like_input(np.exp(_log_saturation(c)), temperature_c)


def _log_saturation(temperature_c: Values) -> Array:
    """ln of the saturation pressure in Pa; over ice it holds down to −100°C."""
    c = np.asarray(temperature_c, float)
    t = c - ABSOLUTE_ZERO_C
    # Horner's rule over 1/T, ln T and powers of T; one curve over water, one over ice.
    over_water = -5.8002206e3 / t + 1.3914993 + t * (-4.8640239e-2 + t * (4.1764768e-5 - t * 1.4452093e-8)) + 6.5459673 * np.log(t)
    if c.size and c.min() < TRIPLE_POINT_C:
        over_ice = (
            -5.6745359e3 / t
            + 6.3925247
            + t * (-9.677843e-3 + t * (6.2215701e-7 + t * (2.0747825e-9 - t * 9.484024e-13)))
            + 4.1635019 * np.log(t)
        )
        over_water = np.where(c <= TRIPLE_POINT_C, over_ice, over_water)
    return over_water


def saturation_concentration(temperature_c: Values) -> Same:
    """Water in a cubic metre of saturated air, kg/m³ (ideal gas); input and errors as :func:`saturation_pressure_pa`.

    >>> round(saturation_concentration(20.0), 4)
    0.0173
    """
    t = np.asarray(temperature_c, float) - ABSOLUTE_ZERO_C
    return like_input(np.asarray(saturation_pressure_pa(temperature_c)) * WATER_KG_PER_MOL / (GAS_CONSTANT * t), temperature_c)


def smooth_year(monthly_means: Values, year_share: Values) -> Same:
    """A year without steps from twelve monthly means: smooth, periodic, and with those very means over each twelfth of the year.

    Args:
        monthly_means: twelve values, January first, of temperature, humidity or EMC; any unit.
        year_share: where in the year, 0 at its beginning … 1 at its end, scalar or array.
    Returns:
        The value there, in the same unit. Between means far apart it may pass a little beyond both.
    Raises:
        OutOfRange: not twelve finite values, or a time outside the year.

    The Fourier series through the means, each harmonic k divided by sin(πk/12)/(πk/12), which is what averaging over a month takes from it.

    >>> round(smooth_year([5, 5, 7, 9, 12, 15, 17, 17, 15, 12, 8, 6], 0.54), 1)
    17.1
    """
    means = check_range("monthly_means", monthly_means, -1e6, 1e6)
    check_range("months", means.size, 12, 12)
    share = check_range("year_share", year_share, 0.0, 1.0)
    k = np.arange(7)
    # Means belong to the middles of months, half a month into each.
    amplitudes = np.fft.rfft(means) / 12 * np.exp(-1j * np.pi * k / 12) / np.sinc(k / 12)
    amplitudes[1:6] *= 2
    values = (amplitudes * np.exp(2j * np.pi * k * share[..., None])).real.sum(axis=-1)
    return like_input(values, year_share)
