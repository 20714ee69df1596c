"""Climate: what the air does over a year, hour by hour, from monthly normals, a published table, a log, or the settings of a chamber.

An :class:`AirSeries` is what the moisture field is driven by. Its time starts at a day of the year, so that a stack made in
November meets November's air; it goes round: after its last hour the first comes again.

Sources: published EMC of 48 places, FPL-RN-0268 (Simpson 1998); the patterns are our own; a weighed month, Wood Handbook ch. 4.
"""

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from datetime import date
from functools import cached_property, lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from wood.air.psychrometrics import saturation_concentration, smooth_year
from wood.air.sorption import emc, half_gap, relative_humidity_for
from wood.arrays import Values
from wood.errors import NotKnown, check_range
from wood.tables import rows

YEAR_DAYS = 365
MONTHS = ("Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec")
MONTH_NAMES = (
    "January",
    "February",
    "March",
    "April",
    "May",
    "June",
    "July",
    "August",
    "September",
    "October",
    "November",
    "December",
)
MONTH_DAYS = (31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31)
# The first of each month, in days from the first of January.
MONTH_BEGINS = tuple(np.cumsum((0, *MONTH_DAYS[:-1])).tolist())
HOUR_S = 3600.0
# Air that goes up and down by so much through a day (RH) leaves wood half of the gap between both sorption curves.
HALVING_SWING = 0.35
# The warmest hour of the day, by the sun.
WARMEST_HOUR = 15.0
TEMPERATURE_C = (-40.0, 120.0)


def day_of_year(day: date) -> float:
    """Days since 1 January, in a year of 365.

    >>> day_of_year(date(2026, 3, 1))
    59
    """
    return min(day.timetuple().tm_yday - 1, YEAR_DAYS - 1)


def month_of(day: float) -> str:
    """The month that a day of the year (0…365, going round) falls into.

    >>> month_of(59), month_of(364.9)
    ('March', 'December')
    """
    return MONTH_NAMES[int(np.searchsorted(MONTH_BEGINS, day % YEAR_DAYS, side="right")) - 1]


@dataclass(frozen=True)
class AirSeries:
    """Air through time: arrays of one length, a step apart, from ``start_day`` (days after 1 January, 0…365) on.

    ``relative_humidity`` is a fraction, ``wind_m_s`` the wind in the open 10 m up outdoors, the air's own speed in a chamber.

    Raises:
        OutOfRange: no values, arrays of different lengths, temperatures outside −40…120°C, humidities outside 0…1, wind outside 0…40.
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
        check_range("temperature_c", self.temperature_c, *TEMPERATURE_C, "°C")
        check_range("relative_humidity", self.relative_humidity, 0.0, 1.0)
        check_range("wind_m_s", self.wind_m_s, 0.0, 40.0, " m/s")
        check_range("step_s", self.step_s, 60.0, 86_400.0, " s")

    @property
    def days(self) -> float:
        return self.temperature_c.size * self.step_s / 86_400

    @cached_property
    def emc(self) -> np.ndarray:
        """Equilibrium moisture content hour by hour: what the skin of wood meets, not what wood settles to (see :meth:`daily_emc`)."""
        return np.asarray(emc(self.temperature_c, self.relative_humidity))

    @property
    def per_day(self) -> int:
        """How many of its steps make a day."""
        return max(1, round(86_400 / self.step_s))

    @cached_property
    def loop(self) -> tuple[np.ndarray, np.ndarray]:
        """What each whole day would bring wood to by the table, and the half gap there between both sorption curves, as a share of it.

        The EMC of the day's mean temperature and of its vapour over what its air could hold: warm hours carry more vapour to and
        from wood than cold ones. A mean of hourly EMCs would lie a point or two above where wood in the same air settles, because
        damp nights bulge.
        """
        saturated = np.asarray(saturation_concentration(self.temperature_c))
        humidity = np.minimum(self.by_day(self.relative_humidity * saturated) / self.by_day(saturated), 1.0)
        return np.asarray(emc(self.by_day(self.temperature_c), humidity)), np.asarray(half_gap(humidity))

    @property
    def half_loop(self) -> np.ndarray:
        """How far above or below the table each whole day leaves wood that dries or that regains; fractions of moisture."""
        level, gap = self.loop
        return level * gap * self.hysteresis_share

    @property
    def settling(self) -> np.ndarray:
        """What each whole day would bring wood to by the table (see :meth:`loop`)."""
        return self.loop[0]

    @cached_property
    def hysteresis_share(self) -> float:
        """How much of the gap between both sorption curves wood is held by: all where the air stands still, half where its humidity
        goes up and down by 35% RH every day, because oscillating sorption runs between the two curves (Stamm; Wood Handbook
        ch. 4). The smooth rule in between is ours."""
        count = self.per_day
        whole = self.relative_humidity[: self.relative_humidity.size // count * count]
        swing = float(np.ptp(whole.reshape(-1, count), axis=1).mean()) if whole.size else 0.0
        return 1 / (1 + swing / HALVING_SWING)

    def at(self, days: Values) -> NDArray[np.int64]:
        """Positions of the values that hold ``days`` after the start, going round."""
        return (np.asarray(days, float) * 86_400 / self.step_s).astype(int) % self.temperature_c.size

    def by_day(self, values: np.ndarray) -> np.ndarray:
        """The mean of each whole day of a column of the series; one mean where it is shorter than a day."""
        count = self.per_day
        whole = values[: values.size // count * count]
        return whole.reshape(-1, count).mean(axis=1) if whole.size else np.array([values.mean()])

    def daily_emc(self, days: float) -> np.ndarray:
        """What each day from the start on would bring wood to, for so many days; what a chart shows of the place."""
        by_day = self.settling
        return by_day[np.arange(int(np.ceil(days)) + 1) % by_day.size]

    def calmed(self, swing: float) -> "AirSeries":
        """The same days with only a share of their swing of temperature (0…1), each leading wood to the same moisture as before."""
        if self.per_day < 2 or self.temperature_c.size < self.per_day:
            return self
        size = self.temperature_c.size // self.per_day * self.per_day
        t, h = (column[:size].reshape(-1, self.per_day) for column in (self.temperature_c, self.relative_humidity))
        saturated = np.asarray(saturation_concentration(t))
        humidity = np.minimum((h * saturated).mean(axis=1) / saturated.mean(axis=1), 1.0)
        daily = t.mean(axis=1)
        # Days follow each other without a step at midnight.
        mean = np.interp((np.arange(size) + 0.5) / self.per_day, np.arange(daily.size) + 0.5, daily, period=daily.size).reshape(t.shape)
        calm = mean + swing * (t - daily[:, None])
        saturated = np.asarray(saturation_concentration(calm))
        inside = np.minimum(humidity[:, None] * saturated.mean(axis=1, keepdims=True) / saturated, 1.0)
        return replace(self, temperature_c=calm.reshape(-1), relative_humidity=inside.reshape(-1), wind_m_s=self.wind_m_s[:size])

    def with_spell(self, begin_day: float, end_day: float, temperature_c: float, relative_humidity: float | None = None) -> "AirSeries":
        """The same air but for a spell in other air, from a day to a day after the start; long enough to hold it whole.

        Args:
            begin_day, end_day: in order, 0…4000; temperature_c: −40…100°C; relative_humidity: 0…1; where it is not given the vapour of
            these days, warmed or cooled.
        Raises:
            OutOfRange.
        """
        check_range("begin_day", begin_day, 0.0, 4000.0, " days")
        check_range("end_day", end_day, begin_day, 4000.0, " days")
        check_range("temperature_c", temperature_c, TEMPERATURE_C[0], 100.0, "°C")
        if relative_humidity is not None:
            check_range("relative_humidity", relative_humidity, 0.0, 1.0)
        size = self.temperature_c.size
        first, last = (round(day * 86_400 / self.step_s) for day in (begin_day, end_day))
        # Round once more where the spell lies beyond the end, so that only this one year has it.
        times = max(1, -(-last // size)) + (1 if last > 0.5 * size or size < 400 * self.per_day else 0)
        t, h, wind = (np.tile(column, times) for column in (self.temperature_c, self.relative_humidity, self.wind_m_s))
        spell = slice(first, last)
        if relative_humidity is None:
            vapour = h[spell] * np.asarray(saturation_concentration(t[spell]))
            h[spell] = np.minimum(vapour / float(saturation_concentration(temperature_c)), 1.0)
        else:
            h[spell] = relative_humidity
        t[spell] = temperature_c
        return replace(self, temperature_c=t, relative_humidity=h, wind_m_s=wind)

    def starting(self, day: float) -> "AirSeries":
        """The same year, begun on another day of it."""
        shift = round((day - self.start_day) * 86_400 / self.step_s) % self.temperature_c.size
        t, h, wind = (np.roll(column, -shift) for column in (self.temperature_c, self.relative_humidity, self.wind_m_s))
        return AirSeries(t, h, wind, start_day=day % YEAR_DAYS, step_s=self.step_s)


def dampened(series: AirSeries, days: float, spells: Sequence[tuple[float, float, float]]) -> AirSeries:
    """The same air for so many days, damper in spells: each (from day, to day, share), its humidity raised by that share of what is missing
    to saturated air. Without spells the series as it is, which goes round; else of those days, which goes round after them.

    Args:
        days: 0.1…4000, counted from the first value; shares 0…1.
    Raises:
        OutOfRange.

    >>> rained = dampened(constant(15.0, 0.6), 3.0, [(1.0, 2.0, 1.0)])
    >>> [float(round(rained.relative_humidity[int(day * 24)], 2)) for day in (0.5, 1.5, 2.5)]
    [0.6, 1.0, 0.6]
    """
    check_range("days", days, 0.1, 4000.0, " days")
    if not spells:
        return series
    count = int(np.ceil(days * 86_400 / series.step_s))
    at = np.arange(count) % series.temperature_c.size
    humidity = series.relative_humidity[at].copy()
    middles = (np.arange(count) + 0.5) * series.step_s / 86_400
    for begins, ends, share in spells:
        check_range("share", share, 0.0, 1.0)
        within = (middles >= begins) & (middles < ends)
        humidity[within] += share * (1 - humidity[within])
    wind = np.broadcast_to(series.wind_m_s, series.temperature_c.shape)
    return replace(series, temperature_c=series.temperature_c[at], relative_humidity=humidity, wind_m_s=wind[at])


@dataclass(frozen=True)
class Climate:
    """Twelve monthly means, January first: °C, fraction of relative humidity, m/s of wind, and the daily swing from low to high in °C.

    ``clearness`` is the share of the sun's light that reaches the ground, and ``latitude_deg`` where that was measured; empty and None
    where nobody knows.

    Raises:
        OutOfRange: not twelve values, or values no climate has.
    """

    temperature_c: tuple[float, ...]
    relative_humidity: tuple[float, ...]
    wind_m_s: tuple[float, ...]
    daily_swing_c: tuple[float, ...]
    name: str = ""
    words: str = ""
    clearness: tuple[float, ...] = ()
    latitude_deg: float | None = None

    def __post_init__(self) -> None:
        known = [("clearness", 0, 1)] if self.clearness else []
        for name, low, high in [
            ("temperature_c", -40, 45),
            ("relative_humidity", 0, 1),
            ("wind_m_s", 0, 20),
            ("daily_swing_c", 0, 30),
            *known,
        ]:
            check_range("months", len(getattr(self, name)), 12, 12)
            check_range(name, getattr(self, name), low, high)
        if self.latitude_deg is not None:
            check_range("latitude_deg", self.latitude_deg, -90.0, 90.0, "°")

    @property
    def monthly_emc(self) -> np.ndarray:
        """The EMC of each month's mean temperature and humidity, January first: as the published tables of outdoor EMC are made."""
        return np.asarray(emc(np.array(self.temperature_c), np.array(self.relative_humidity)))

    @cached_property
    def year(self) -> AirSeries:
        """The smooth year with its days and nights, hour by hour from 1 January.

        The vapour in the air stays the same through a day while the temperature swings as a sine, so nights are damp and afternoons
        dry. It is chosen so that wood in the day settles to the EMC of the month's means: the day's vapour over what its air could
        hold is the month's humidity. Night air is not wetter than saturated.
        """
        hours = np.arange(YEAR_DAYS * 24)
        share = (hours + 0.5) / hours.size
        swing = np.maximum(smooth_year(self.daily_swing_c, share), 0.0)
        mean_t = smooth_year(self.temperature_c, share)
        t = mean_t + 0.5 * swing * np.cos(2 * np.pi * ((hours + 0.5) % 24 - WARMEST_HOUR) / 24)
        wanted = np.clip(smooth_year(self.relative_humidity, share), 0.01, 0.99).reshape(-1, 24).mean(axis=1)
        saturated = np.asarray(saturation_concentration(t)).reshape(-1, 24)
        held = wanted * saturated.mean(axis=1)
        vapour = held.copy()
        # Where nights are cut off at saturation the day's vapour is raised until what it holds is right again.
        for _ in range(12):
            vapour *= held / np.minimum(vapour[:, None], saturated).mean(axis=1)
        humidity = np.minimum(vapour[:, None] / saturated, 1.0).reshape(-1)
        wind = np.clip(smooth_year(self.wind_m_s, share), 0.0, None)
        return AirSeries(t, humidity, wind)


@lru_cache(maxsize=1)
def patterns() -> dict[str, Climate]:
    """A dozen plainly described climates of our own, by key: figures of a kind of place, of none in particular. Nine have the EMC of the
    published places of their kind (:func:`published_places`); the mild and the tropical ones have no counterpart there."""
    result: dict[str, dict[str, Any]] = {}
    for row in rows("climate_patterns"):
        values = tuple(float(row[f"m{month}"]) for month in range(1, 13))
        entry = result.setdefault(row["key"], {"name": row["name"], "words": row["words"]})
        if row["quantity"] == "relative_humidity_pct":
            entry["relative_humidity"] = tuple(value / 100 for value in values)
        else:
            entry[row["quantity"]] = values
    return {key: Climate(**entry) for key, entry in result.items()}


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


def with_emc(like: Climate, monthly_emc: Sequence[float], name: str = "") -> Climate:
    """A climate whose months have these EMCs (twelve fractions, January first): temperature, wind and swing as in ``like``, humidity from
    both.

    Raises:
        OutOfRange: not twelve, or a month above what saturated air gives at its temperature.

    >>> damp = with_emc(pattern("mild_coast"), [0.16] * 12)
    >>> round(float(damp.monthly_emc[0]), 3)
    0.16
    """
    wanted = check_range("monthly_emc", monthly_emc, 0.005, 0.35)
    check_range("months", wanted.size, 12, 12)
    humidity = np.asarray(relative_humidity_for(np.array(like.temperature_c), wanted))
    return replace(like, relative_humidity=tuple(humidity.tolist()), name=name or like.name, words="")


@dataclass(frozen=True)
class PublishedPlace:
    """A place of the published table of outdoor equilibrium moisture: its twelve months (fractions) and the pattern it is of a kind with.

    ``typical`` marks the places that the pattern was drawn after.
    """

    key: str
    name: str
    kind: str
    typical: bool
    monthly_emc: tuple[float, ...]

    @property
    def climate(self) -> Climate:
        """Its months' EMC stand; temperatures are those of its kind."""
        return with_emc(pattern(self.kind), self.monthly_emc, self.name)


@lru_cache(maxsize=1)
def published_places() -> dict[str, PublishedPlace]:
    """The 48 places of the United States in FPL-RN-0268 (Simpson 1998; Wood Handbook ch. 13), outdoors under cover, by key.

    >>> published_places()["madison_wi"].monthly_emc[6]
    0.134
    """
    return {
        row["key"]: PublishedPlace(
            row["key"],
            f"{row['city']}, {row['state']}",
            row["kind"],
            row["typical"] == "yes",
            tuple(round(float(row[f"m{month}"]) / 100, 5) for month in range(1, 13)),
        )
        for row in rows("outdoor_emc")
    }


@dataclass(frozen=True)
class ApproximatePlace:
    """A place outside the United States by its monthly means of temperature and whole-day humidity; approximate, and called so. Wind and
    the day's swing are those of the pattern whose temperatures are nearest."""

    key: str
    name: str
    climate: Climate = field(repr=False)


@lru_cache(maxsize=1)
def approximate_places() -> dict[str, ApproximatePlace]:
    """Some 70 places outside the United States, by key. Recorded twice from memory and averaged, compared with no source: good for about
    what a yard there is like, and for no check of the science.

    >>> place = approximate_places()["edinburgh_united_kingdom"]
    >>> place.name, round(float(place.climate.monthly_emc.mean()), 3)
    ('Edinburgh, United Kingdom (approximate)', 0.164)
    """
    result = {}
    for row in rows("world_normals"):
        name = f"{row['place']}, {row['country']} (approximate)"
        temperature = tuple(float(row[f"t{month}"]) for month in range(1, 13))
        like = min(patterns().values(), key=lambda item: float(np.abs(np.sort(item.temperature_c) - np.sort(temperature)).sum()))
        own = Climate(
            temperature,
            tuple(float(row[f"h{month}"]) / 100 for month in range(1, 13)),
            like.wind_m_s,
            like.daily_swing_c,
            name=name,
            latitude_deg=float(row["latitude"]),
        )
        result[row["key"]] = ApproximatePlace(row["key"], name, own)
    return result


def places_known() -> dict[str, PublishedPlace | ApproximatePlace]:
    """Every place whose outdoor year is at hand, published or approximate, by key."""
    return {**published_places(), **approximate_places()}


def constant(temperature_c: float, relative_humidity: float, air_speed_m_s: float = 0.0) -> AirSeries:
    """Air that does not change: a chamber at its settings (°C, humidity 0…1, m/s), a room held by machines.

    >>> round(float(constant(21.0, 0.42).emc[0]), 3)
    0.08
    """
    t, h, wind = (np.array([float(value)]) for value in (temperature_c, relative_humidity, air_speed_m_s))
    return AirSeries(t, h, wind)


def normals(series: AirSeries, name: str = "") -> Climate:
    """Twelve monthly means of a whole year that begins on 1 January: temperature, humidity, wind and the mean daily swing. Humidity is
    weighed as wood weighs it (:meth:`AirSeries.settling`), so that a year made from the normals brings wood to the same moisture.

    Raises:
        OutOfRange: not a year of 365 days.

    >>> round(normals(pattern("mild_coast").year).temperature_c[6], 1)
    16.4
    """
    check_range("series_days", series.days, YEAR_DAYS, YEAR_DAYS)
    per_day = series.per_day
    days = np.repeat(np.arange(12), MONTH_DAYS)
    t, h, wind = (column.reshape(YEAR_DAYS, per_day) for column in (series.temperature_c, series.relative_humidity, series.wind_m_s))
    saturated = np.asarray(saturation_concentration(t))
    humidity = (h * saturated).mean(axis=1) / saturated.mean(axis=1)

    def monthly(by_day: np.ndarray) -> tuple[float, ...]:
        return tuple((np.bincount(days, by_day) / np.array(MONTH_DAYS)).tolist())

    return Climate(monthly(t.mean(axis=1)), monthly(humidity), monthly(wind.mean(axis=1)), monthly(np.ptp(t, axis=1)), name=name)
