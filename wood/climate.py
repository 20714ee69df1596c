"""Climate: what the air does over a year, hour by hour, from monthly normals, a log, a heated room, or the settings of a chamber.

An :class:`AirSeries` is what the moisture field is driven by. Its time starts at a day of the year, so that a stack made in
November meets November's air; it goes round: after its last hour the first comes again.
"""

from dataclasses import dataclass, replace
from functools import cached_property, lru_cache

import numpy as np

from wood.air import SEA_LEVEL_PRESSURE_PA, saturation_pressure_pa, smooth_year
from wood.errors import NotKnown, OutOfRange, check_range
from wood.sorption import emc
from wood.tables import rows

YEAR_DAYS = 365
MONTHS = ("Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec")
MONTH_DAYS = (31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31)
HOUR_S = 3600.0
STEADY_HYSTERESIS, MOVING_HYSTERESIS = 1.0, 0.5
# The warmest hour of the day, by the sun.
WARMEST_HOUR = 15.0
MOISTURE_GAIN = 0.0025
TEMPERATURE_C = (-40.0, 120.0)


@dataclass(frozen=True)
class AirSeries:
    """Air through time: arrays of one length, a step apart, from ``start_day`` (days after 1 January, 0…365) on.

    ``relative_humidity`` is a fraction, ``wind_m_s`` the wind in the open 10 m up outdoors, the air's own speed in a chamber.

    Raises:
        OutOfRange: no values, arrays of different lengths, temperatures outside −40…120 °C, humidities outside 0…1, wind outside 0…40.
    """

    temperature_c: np.ndarray
    relative_humidity: np.ndarray
    wind_m_s: np.ndarray
    start_day: float = 0.0
    step_s: float = HOUR_S

    def __post_init__(self) -> None:
        check_range("air_values", self.temperature_c.size, 1, 2_000_000)
        check_range("humidity_values", self.relative_humidity.size, self.temperature_c.size, self.temperature_c.size)
        check_range("wind_values", self.wind_m_s.size, self.temperature_c.size, self.temperature_c.size)
        check_range("temperature_c", self.temperature_c, *TEMPERATURE_C, " °C")
        check_range("relative_humidity", self.relative_humidity, 0.0, 1.0)
        check_range("wind_m_s", self.wind_m_s, 0.0, 40.0, " m/s")
        check_range("step_s", self.step_s, 60.0, 86_400.0, " s")

    @property
    def days(self) -> float:
        return self.temperature_c.size * self.step_s / 86_400

    @cached_property
    def emc(self) -> np.ndarray:
        """Equilibrium moisture content hour by hour."""
        return np.asarray(emc(self.temperature_c, self.relative_humidity))

    @cached_property
    def hysteresis_share(self) -> float:
        """How much of the gap between both sorption curves wood is held by: all where the air stands still, half where it goes up and
        down, because oscillating sorption runs between the two curves (Stamm; Wood Handbook ch. 4)."""
        return STEADY_HYSTERESIS if np.ptp(self.relative_humidity) < 0.02 else MOVING_HYSTERESIS

    def at(self, days) -> np.ndarray:
        """Positions of the values that hold ``days`` after the start, going round."""
        return (np.asarray(days, float) * 86_400 / self.step_s).astype(int) % self.temperature_c.size

    def by_day(self, values: np.ndarray) -> np.ndarray:
        """The mean of each whole day of a column of the series; one mean where it is shorter than a day."""
        count = max(1, round(86_400 / self.step_s))
        whole = values[: values.size // count * count]
        return whole.reshape(-1, count).mean(axis=1) if whole.size else np.array([values.mean()])

    def daily_emc(self, days: float) -> np.ndarray:
        """The mean EMC of each day from the start on, for so many days; what a chart shows of the place."""
        by_day = self.by_day(self.emc)
        return by_day[np.arange(int(np.ceil(days)) + 1) % by_day.size]

    def starting(self, day: float) -> "AirSeries":
        """The same year, begun on another day of it."""
        shift = round((day - self.start_day) * 86_400 / self.step_s) % self.temperature_c.size
        turned = (np.roll(column, -shift) for column in (self.temperature_c, self.relative_humidity, self.wind_m_s))
        return AirSeries(*turned, start_day=day % YEAR_DAYS, step_s=self.step_s)


@dataclass(frozen=True)
class Climate:
    """Twelve monthly means, January first: °C, fraction of relative humidity, m/s of wind, and the daily swing from low to high in °C.

    Raises:
        OutOfRange: not twelve values, or values no climate has.
    """

    temperature_c: tuple[float, ...]
    relative_humidity: tuple[float, ...]
    wind_m_s: tuple[float, ...]
    daily_swing_c: tuple[float, ...]
    name: str = ""
    words: str = ""

    def __post_init__(self) -> None:
        for name, low, high in (("temperature_c", -40, 45), ("relative_humidity", 0, 1), ("wind_m_s", 0, 20), ("daily_swing_c", 0, 30)):
            check_range("months", len(getattr(self, name)), 12, 12)
            check_range(name, getattr(self, name), low, high)

    @property
    def monthly_emc(self) -> np.ndarray:
        """Mean EMC of each month, January first, through its days and nights."""
        return np.bincount(np.repeat(np.arange(12), np.array(MONTH_DAYS) * 24), self.year.emc) / (np.array(MONTH_DAYS) * 24)

    @cached_property
    def year(self) -> AirSeries:
        """The smooth year with its days and nights, hour by hour from 1 January.

        The vapour in the air stays the same through a day while the temperature swings as a sine, so nights are damp and afternoons
        dry; it is chosen so that the day's mean relative humidity is the month's. Night air is not wetter than saturated.
        """
        hours = np.arange(YEAR_DAYS * 24)
        share = (hours + 0.5) / hours.size
        swing = np.maximum(smooth_year(self.daily_swing_c, share), 0.0)
        mean_t = smooth_year(self.temperature_c, share)
        t = mean_t + 0.5 * swing * np.cos(2 * np.pi * ((hours + 0.5) % 24 - WARMEST_HOUR) / 24)
        wanted = np.clip(smooth_year(self.relative_humidity, share), 0.01, 0.99).reshape(-1, 24).mean(axis=1)
        saturated = np.asarray(saturation_pressure_pa(t)).reshape(-1, 24)
        vapour = wanted / (1 / saturated).mean(axis=1)
        # Where nights are cut off at saturation the day's vapour is raised until the mean is right again.
        for _ in range(12):
            humidity = np.minimum(vapour[:, None] / saturated, 1.0)
            vapour *= wanted / humidity.mean(axis=1)
        humidity = np.minimum(vapour[:, None] / saturated, 1.0).reshape(-1)
        wind = np.clip(smooth_year(self.wind_m_s, share), 0.0, None)
        return AirSeries(t, humidity, wind)


@lru_cache(maxsize=1)
def patterns() -> dict[str, Climate]:
    """A dozen plainly described climates of our own, by key: round figures of a kind of place, of none in particular."""
    found: dict[str, dict] = {}
    for row in rows("climate_patterns"):
        values = tuple(float(row[f"m{month}"]) for month in range(1, 13))
        entry = found.setdefault(row["key"], {"name": row["name"], "words": row["words"]})
        if row["quantity"] == "relative_humidity_pct":
            entry["relative_humidity"] = tuple(value / 100 for value in values)
        else:
            entry[row["quantity"]] = values
    return {key: Climate(**entry) for key, entry in found.items()}


def pattern(key: str) -> Climate:
    """The pattern with this key.

    Raises:
        NotKnown: no such pattern.

    >>> pattern("mild_coast").name
    'Mild damp coast'
    """
    if key not in patterns():
        raise NotKnown("climate_pattern", key)
    return patterns()[key]


def constant(temperature_c: float, relative_humidity: float, air_speed_m_s: float = 0.0) -> AirSeries:
    """Air that does not change: a chamber at its settings, a room held by machines.

    >>> round(float(constant(21.0, 0.42).emc[0]), 3)
    0.08
    """
    return AirSeries(*(np.array([float(value)]) for value in (temperature_c, relative_humidity, air_speed_m_s)))


@dataclass(frozen=True)
class Room:
    """A room fed with outdoor air.

    ``heated_to_c`` and ``cooled_to_c`` are the temperatures it is held at when it is colder or warmer outside (``None``: it is not).
    ``moisture_gain`` is the vapour that living or working in it adds (kg per kg of dry air; 0.0025 is a usual dwelling, 0 a workshop with a
    door). ``at_least`` and ``at_most`` are humidity limits where a humidifier or a dehumidifier holds them (fractions).
    ``floor_warmer_c`` is how much warmer than the room a heated floor is while the heating is on: what the boards on it live in.
    """

    heated_to_c: float | None = 20.0
    moisture_gain: float = MOISTURE_GAIN
    at_least: float = 0.0
    at_most: float = 1.0
    cooled_to_c: float | None = None
    floor_warmer_c: float = 0.0

    def __post_init__(self) -> None:
        if self.heated_to_c is not None:
            check_range("heated_to_c", self.heated_to_c, -10.0, 40.0, " °C")
        if self.cooled_to_c is not None:
            check_range("cooled_to_c", self.cooled_to_c, max(10.0, self.heated_to_c or 10.0), 40.0, " °C")
        check_range("floor_warmer_c", self.floor_warmer_c, 0.0, 20.0, " °C")
        check_range("moisture_gain", self.moisture_gain, 0.0, 0.02)
        check_range("at_least", self.at_least, 0.0, 1.0)
        check_range("at_most", self.at_most, self.at_least, 1.0)


# How much of the day's swing an enclosed space keeps, and the air's own movement in it, m/s.
INDOOR_SWING = 0.25
STILL_AIR_M_S = 0.05
# The dew point that a cooler's coil brings air down to.
COIL_C = 12.0


def room(outdoors: AirSeries, kept: Room) -> AirSeries:
    """Air of a room fed from outdoors: the outdoor humidity ratio plus the room's own moisture, at the room's temperature.

    Walls even out the day: the room follows the outdoor day's mean with a quarter of its swing where it is not heated. Heated
    rooms in winter come out dry, which is where furniture meets its lowest moisture.

    >>> dry = room(pattern("cold_winter").year, Room(heated_to_c=20.0, moisture_gain=0.001))
    >>> bool(dry.relative_humidity[:600].mean() < 0.25)
    True
    """
    calm_t = _day_mean(outdoors, outdoors.temperature_c)
    t = calm_t + INDOOR_SWING * (outdoors.temperature_c - calm_t)
    heating = np.zeros(t.size, bool)
    if kept.heated_to_c is not None:
        heating = t < kept.heated_to_c
        t = np.maximum(t, kept.heated_to_c)
    # Humidity ratio 0.622·p/P, so a gain in kg/kg is a vapour pressure of gain·P/0.622.
    vapour = outdoors.relative_humidity * np.asarray(saturation_pressure_pa(outdoors.temperature_c))
    vapour = _day_mean(outdoors, vapour) + kept.moisture_gain * SEA_LEVEL_PRESSURE_PA / 0.622
    if kept.cooled_to_c is not None:
        # A cooler takes out what its coil cannot hold.
        cooling = t > kept.cooled_to_c
        t = np.minimum(t, kept.cooled_to_c)
        vapour = np.where(cooling, np.minimum(vapour, saturation_pressure_pa(COIL_C)), vapour)
    humidity = np.clip(vapour / np.asarray(saturation_pressure_pa(t)), kept.at_least, kept.at_most)
    if kept.floor_warmer_c:
        # On a warm floor the same vapour is drier air.
        on_floor = t + np.where(heating, kept.floor_warmer_c, 0.0)
        humidity = np.clip(humidity * np.asarray(saturation_pressure_pa(t)) / np.asarray(saturation_pressure_pa(on_floor)), 0.0, 1.0)
        t = on_floor
    return replace(outdoors, temperature_c=t, relative_humidity=humidity, wind_m_s=np.full(t.size, STILL_AIR_M_S))


def normals(series: AirSeries, name: str = "") -> Climate:
    """Twelve monthly means of a whole year that begins on 1 January: temperature, humidity, wind and the mean daily swing.

    Raises:
        OutOfRange: not a year of 365 days.

    >>> round(normals(pattern("mild_coast").year).temperature_c[6], 1)
    16.4
    """
    check_range("series_days", series.days, YEAR_DAYS, YEAR_DAYS)
    per_day = round(86_400 / series.step_s)
    days = np.repeat(np.arange(12), MONTH_DAYS)
    t, h, wind = (column.reshape(YEAR_DAYS, per_day) for column in (series.temperature_c, series.relative_humidity, series.wind_m_s))

    def monthly(by_day: np.ndarray) -> tuple[float, ...]:
        return tuple((np.bincount(days, by_day) / np.array(MONTH_DAYS)).tolist())

    return Climate(monthly(t.mean(axis=1)), monthly(h.mean(axis=1)), monthly(wind.mean(axis=1)), monthly(np.ptp(t, axis=1)), name=name)


def unheated(outdoors: AirSeries) -> AirSeries:
    """Air of an unheated shed or store: outdoor vapour, the day's swing quartered, the wind kept out.

    >>> shed = unheated(pattern("mild_coast").year)
    >>> bool(np.ptp(shed.temperature_c[:24]) < np.ptp(pattern("mild_coast").year.temperature_c[:24]))
    True
    """
    return room(outdoors, Room(heated_to_c=None, moisture_gain=0.0))


def _day_mean(series: AirSeries, values: np.ndarray) -> np.ndarray:
    """Each value's mean over its own day, without steps at midnight: a running mean of 24 hours that goes round."""
    width = max(1, round(86_400 / series.step_s))
    if values.size <= width:
        return np.full(values.size, values.mean())
    sums = np.concatenate([[0.0], np.cumsum(np.concatenate([values[-(width // 2) :], values, values[: width - width // 2]]))])
    return (sums[width : width + values.size] - sums[: values.size]) / width


# A gap in a log that is bridged by a straight line; longer ones are filled from the climate.
BRIDGED_DAYS = 3.0


def from_log(days, temperature_c, relative_humidity, background: AirSeries, until_day: float, wind_m_s: float | None = None) -> AirSeries:
    """A logged place: its own readings where there are any, the background (pattern or normals) where there are none.

    Args:
        days: times of the readings in days after the moment the series is to begin at; any order; negative ones are left out
            except for the last before the start.
        temperature_c, relative_humidity: the readings.
        background: a series beginning at the same moment.
        until_day: how long the series shall be.
        wind_m_s: the air's speed in the place; the background's where ``None``.
    Raises:
        OutOfRange: arrays of different lengths, impossible values.

    Two readings at one moment count as their mean. Within half of ``BRIDGED_DAYS`` of a reading its value holds, between readings
    closer than ``BRIDGED_DAYS`` a straight line; beyond that the background takes over.
    """
    times = np.asarray(days, float).reshape(-1)
    t_read = check_range("temperature_c", temperature_c, *TEMPERATURE_C, " °C").reshape(-1)
    h_read = check_range("relative_humidity", relative_humidity, 0.0, 1.0).reshape(-1)
    for column in (t_read, h_read):
        check_range("readings", column.size, times.size, times.size)
    check_range("until_day", until_day, 0.05, 20_000, " days")
    if times.size and not np.isfinite(times).all():
        raise OutOfRange("days", float(times[~np.isfinite(times)][0]), -1e5, 1e5)
    grid = (np.arange(int(np.ceil(until_day * 86_400 / background.step_s))) + 0.5) * background.step_s / 86_400
    source = background.at(grid)
    t, h = background.temperature_c[source].copy(), background.relative_humidity[source].copy()
    if times.size:
        moments, position = np.unique(times, return_inverse=True)
        count = np.bincount(position)
        t_mean, h_mean = np.bincount(position, t_read) / count, np.bincount(position, h_read) / count
        after = np.clip(np.searchsorted(moments, grid), 0, moments.size - 1)
        before = np.clip(after - 1, 0, moments.size - 1)
        inside = (grid >= moments[before]) & (grid <= moments[after]) & (moments[after] - moments[before] <= BRIDGED_DAYS)
        near = np.minimum(np.abs(grid - moments[before]), np.abs(grid - moments[after])) <= BRIDGED_DAYS / 2
        known = inside | near
        t[known], h[known] = np.interp(grid, moments, t_mean)[known], np.interp(grid, moments, h_mean)[known]
    wind = background.wind_m_s[source] if wind_m_s is None else np.full(grid.size, float(wind_m_s))
    return AirSeries(t, h, wind, start_day=background.start_day, step_s=background.step_s)
