"""Rooms: the air indoors, worked out from the air outdoors by a balance of warmth and vapour, day by day.

What comes in from outdoors, what people and work add, what a cooler's coil, a dehumidifier or a humidifier takes or gives, and
what walls and goods hold back. Outdoor air must never be taken for a room's own: heated in winter it is far drier, and in summer
a house is warmer than the air around it, by sun and people, and so drier as well.

Sources: mass balance of vapour (textbook); interior averages by region to check against, Wood Handbook (FPL-GTR-282) ch. 13. Air
changes, warmth, buffering and the coil are usual figures of dwellings, our own judgement; docs/science.md shows what
comes of them.
"""

from dataclasses import dataclass, replace

import numpy as np

from wood.air.climate import YEAR_DAYS, AirSeries
from wood.air.psychrometrics import SEA_LEVEL_PRESSURE_PA, saturation_concentration
from wood.errors import check_range

# What a usual dwelling, and a workshop, adds to the air that passes through it with everything shut, kg per kg of dry air.
DWELLING_GAIN, WORKSHOP_GAIN = 0.002, 0.001
# Air changes in an hour with doors and windows shut.
TIGHT, USUAL_AIR_CHANGES, LEAKY = 0.25, 0.5, 1.0
# Warm air in a cold winter is driven out by its own lift: half as much again at 30 K.
LIFT_PER_K = 0.5 / 30
# Windows and doors are opened by and by as it gets warm outdoors, and shut again where a cooler runs.
OPEN_WINDOWS, OPENED_FROM_C, OPENED_AT_C = 2.0, 8.0, 20.0
# How much warmer than outdoors sun, people and work keep a building that nothing heats: a lived-in one while it is shut, the same
# with its windows open, and an empty shed.
SHUT_WARMTH_C, OPEN_WARMTH_C, SHED_WARMTH_C = 6.0, 2.5, 1.0
# People begin to open up for coolness when the shut room would be this warm, and have done so this much further on.
TOO_WARM_C, TOO_WARM_RANGE_C = 22.0, 8.0
# Days over which walls even out the temperature, and the share of the day's swing that gets in where nothing heats or cools.
THERMAL_DAYS = 3
INDOOR_SWING = 0.25
# Vapour that walls, goods and wood hold back, against what the air itself holds.
BUFFER = 60.0
# A cooler: its coil's surface (°C), air that passes it (changes in an hour while it runs), and how far outdoors must push the room
# above its set point until it runs all the time.
COIL_C, COIL_AIR_CHANGES, FULL_COOLING_K = 11.0, 5.0, 10.0
STILL_AIR_M_S = 0.05
WETTEST = 0.98


@dataclass(frozen=True)
class Room:
    """A room fed with outdoor air.

    ``heated_to_c`` and ``cooled_to_c`` are the temperatures it is held at when it would be colder or warmer (``None``: it is not).
    ``moisture_gain`` is the vapour that living or working in it adds in winter with doors and windows shut (kg per kg of dry air;
    0.002 is a usual dwelling, 0.001 a workshop). ``air_changes`` is how often in an hour its air is renewed then (0.25 tight, 0.5
    usual, 1 draughty). ``at_least`` and ``at_most`` are humidities that a humidifier and a dehumidifier hold (fractions).
    ``floor_warmer_c`` is how much warmer than the room a heated floor is while the heating is on: what the boards on it live in.

    Raises:
        OutOfRange: heated −10…40°C; cooled 10…40°C and not below where it is heated; gain 0…0.02; changes 0.05…20; humidities
            0…0.95 (a humidifier set to saturated air would rain), the lower not above the upper; floor 0…20°C.
    """

    heated_to_c: float | None = 20.0
    moisture_gain: float = DWELLING_GAIN
    at_least: float = 0.0
    at_most: float = 1.0
    cooled_to_c: float | None = None
    floor_warmer_c: float = 0.0
    air_changes: float = USUAL_AIR_CHANGES

    def __post_init__(self) -> None:
        if self.heated_to_c is not None:
            check_range("heated_to_c", self.heated_to_c, -10.0, 40.0, "°C")
        if self.cooled_to_c is not None:
            check_range("cooled_to_c", self.cooled_to_c, max(10.0, self.heated_to_c or 10.0), 40.0, "°C")
        check_range("floor_warmer_c", self.floor_warmer_c, 0.0, 20.0, "°C")
        check_range("moisture_gain", self.moisture_gain, 0.0, 0.02)
        check_range("air_changes", self.air_changes, 0.05, 20.0, " an hour")
        check_range("at_least", self.at_least, 0.0, 0.95)
        check_range("at_most", self.at_most, self.at_least, 1.0)


# A workshop that is heated in winter, with a door that opens; a dwelling; a building nobody heats.
WORKSHOP = Room(19.0, WORKSHOP_GAIN)
DWELLING = Room()
UNHEATED = Room(None, 0.0, air_changes=LEAKY)


def room(outdoors: AirSeries, room: Room) -> AirSeries:
    """The air of a room from the air outdoors, hour by hour.

    Args:
        outdoors: a series in steps of a day or less; a whole year goes round, anything shorter begins settled.
    Raises:
        OutOfRange: steps longer than a day.

    >>> from wood.air.climate import pattern
    >>> winter = room(pattern("cold_winter").year, DWELLING)
    >>> bool(0.15 < winter.relative_humidity[:600].mean() < 0.32)
    True
    """
    per_day, goes_round = outdoors.per_day, abs(outdoors.days - YEAR_DAYS) < 0.5
    size = outdoors.temperature_c.size
    day = np.minimum(np.arange(size) // per_day, max(size // per_day - 1, 0))
    counts = np.bincount(day)
    outside_c = np.bincount(day, outdoors.temperature_c) / counts
    vapour = np.bincount(day, outdoors.relative_humidity * saturation_concentration(outdoors.temperature_c)) / counts
    inside_c, heating, cooling = _temperatures(_evened(outside_c, goes_round), room)
    vapour = _vapour(vapour, outside_c, inside_c, cooling, room, goes_round=goes_round)

    t = _between_days(inside_c, day, per_day)
    free = np.clip(1.0 - _between_days((heating | (cooling > 0)).astype(float), day, per_day), 0.0, 1.0)
    t = t + INDOOR_SWING * free * (outdoors.temperature_c - outside_c[day])
    t = np.clip(t, room.heated_to_c, room.cooled_to_c)
    concentration = _between_days(vapour, day, per_day)
    humidity = np.clip(concentration / np.asarray(saturation_concentration(t)), room.at_least, min(room.at_most, WETTEST))
    if room.floor_warmer_c:
        # On a warm floor the same vapour is drier air.
        on_floor = t + room.floor_warmer_c * _between_days(heating.astype(float), day, per_day)
        humidity = humidity * np.asarray(saturation_concentration(t)) / np.asarray(saturation_concentration(on_floor))
        t = on_floor
    return replace(outdoors, temperature_c=t, relative_humidity=np.clip(humidity, 0.0, WETTEST), wind_m_s=np.full(size, STILL_AIR_M_S))


def unheated(outdoors: AirSeries) -> AirSeries:
    """Air of an unheated shed or store: outdoor vapour, the day's swing quartered, the wind kept out.

    >>> from wood.air.climate import pattern
    >>> shed = unheated(pattern("mild_coast").year)
    >>> bool(np.ptp(shed.temperature_c[:24]) < np.ptp(pattern("mild_coast").year.temperature_c[:24]))
    True
    """
    return room(outdoors, UNHEATED)


def _evened(by_day: np.ndarray, goes_round: bool) -> np.ndarray:
    """Walls let the last days through as their mean; a year goes round."""
    if by_day.size < THERMAL_DAYS:
        return by_day
    before = by_day[-THERMAL_DAYS + 1 :] if goes_round else np.full(THERMAL_DAYS - 1, by_day[0])
    return np.convolve(np.concatenate([before, by_day]), np.full(THERMAL_DAYS, 1 / THERMAL_DAYS), mode="valid")


def _temperatures(outside_c: np.ndarray, room: Room) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Each day's indoor temperature, whether it is heated, and the share of the time that a cooler runs."""
    still, idle = np.zeros(outside_c.size), np.zeros(outside_c.size, bool)
    if room.heated_to_c is None and room.cooled_to_c is None:
        return outside_c + SHED_WARMTH_C, idle, still
    shut = outside_c + SHUT_WARMTH_C
    free = shut - (SHUT_WARMTH_C - OPEN_WARMTH_C) * np.clip((shut - TOO_WARM_C) / TOO_WARM_RANGE_C, 0.0, 1.0)
    heating = idle if room.heated_to_c is None else free < room.heated_to_c
    inside = free if room.heated_to_c is None else np.maximum(free, room.heated_to_c)
    if room.cooled_to_c is None:
        return inside, heating, still
    runs = np.where(free > room.cooled_to_c, np.clip((shut - room.cooled_to_c) / FULL_COOLING_K, 0.0, 1.0), 0.0)
    return np.minimum(inside, room.cooled_to_c), heating, runs


def _vapour(
    outside: np.ndarray, outside_c: np.ndarray, inside_c: np.ndarray, cooling: np.ndarray, room: Room, *, goes_round: bool
) -> np.ndarray:
    """Vapour indoors by the day, kg/m³: a balance of exchange, gains, coil and set points, held back by what walls and goods store."""
    exchange = room.air_changes * (1 + LIFT_PER_K * np.clip(inside_c - outside_c, 0.0, 30.0))
    if room.heated_to_c is not None or room.cooled_to_c is not None:
        opened = np.clip((outside_c - OPENED_FROM_C) / (OPENED_AT_C - OPENED_FROM_C), 0.0, 1.0)
        exchange = exchange + np.where(cooling > 0, 0.0, opened) * max(OPEN_WINDOWS - room.air_changes, 0.0)
    saturated = np.asarray(saturation_concentration(inside_c))
    density = SEA_LEVEL_PRESSURE_PA / (287.0 * (inside_c + 273.15))
    # The gain is said of shut windows; what makes it, people and work, stays the same when they are opened.
    made = room.moisture_gain * density * room.air_changes
    coil = float(saturation_concentration(COIL_C))
    passed = COIL_AIR_CHANGES * cooling
    plain = (exchange * outside + made) / exchange
    cooled = (exchange * outside + made + passed * coil) / (exchange + passed)
    # A coil takes vapour only from air that is damper than its own surface.
    heading = np.where(plain > coil, np.maximum(cooled, coil), plain)
    kept_share = np.exp(-24.0 * (exchange + passed) / BUFFER)
    low, high = room.at_least * saturated, min(room.at_most, WETTEST) * saturated
    result = np.empty(outside.size)
    now = float(np.clip(heading[0], low[0], high[0]))
    for _ in range(2 if goes_round else 1):
        for k in range(outside.size):
            now = heading[k] + (now - heading[k]) * kept_share[k]
            now = min(max(now, low[k]), high[k])
            result[k] = now
    return result


def _between_days(by_day: np.ndarray, day: np.ndarray, per_day: int) -> np.ndarray:
    """A daily column as a line without steps at midnight, on the steps of the series."""
    if by_day.size < 2 or per_day < 2:
        return by_day[day]
    return np.interp((np.arange(day.size) + 0.5) / per_day, np.arange(by_day.size) + 0.5, by_day, period=by_day.size)
