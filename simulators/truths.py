"""What is true where a simulated instrument hangs: air and wood by other arithmetic than the application's, so that agreement means
something.

Air: weather that wanders by itself, days that warm faster than they cool, water vapour by another formula (Bolton 1980). Wood: moisture
that falls as a stretched exponential, flat inside and steep outside, which no board of the model does.
"""

import math
from dataclasses import dataclass
from datetime import datetime, timedelta

import numpy as np

# Air is made up for so many hours from its beginning, in steps of ten minutes.
MOST_HOURS, STEP = 24 * 40, timedelta(minutes=10)
# How a room takes up the weather: of the vapour outdoors, with what people and plants add, in hPa.
INDOORS = {"room": (20.5, 0.9, 2.2), "store": (None, 1.0, 0.6), "kiln": (42.0, 1.0, 18.0)}


def saturation_hpa(temperature_c: float) -> float:
    """The vapour pressure of saturated air over water, hPa (Bolton 1980, Monthly Weather Review)."""
    return 6.112 * math.exp(17.67 * temperature_c / (temperature_c + 243.5))


class HiddenAir:
    """Air in ten-minute steps from a moment on: outdoors (``yard``), or as a heated room, a store or a kiln makes it."""

    def __init__(self, like: str, begins: datetime, seed: int, mean_c: float = 11.0) -> None:
        chance = np.random.default_rng(seed)
        steps = MOST_HOURS * 6
        self.begins = begins
        hours = np.arange(steps) / 6 + begins.hour
        # Warms from six to two, and cools for the other sixteen hours.
        of_day = (hours - 6) % 24
        day = np.where(of_day < 8, -np.cos(np.pi * of_day / 8), np.cos(np.pi * (of_day - 8) / 16))
        outdoors_c = mean_c + 4.0 * day + _wandering(chance, steps, 3.0, 60.0) + chance.normal(0, 0.1, steps)
        dew_c = np.minimum(mean_c - 5.0 + _wandering(chance, steps, 2.0, 90.0), outdoors_c - 0.8)
        vapour = np.array([saturation_hpa(float(dew)) for dew in dew_c])
        if like == "yard":
            self.temperature_c, self.vapour_hpa = outdoors_c, vapour
            return
        held_c, share, adds = INDOORS[like]
        if held_c is None:
            self.temperature_c = _lagged(outdoors_c, 6.0)
        else:
            # A thermostat goes to and fro.
            self.temperature_c = held_c + 0.6 * np.sin(hours * 2.9) + _wandering(chance, steps, 0.4, 12.0)
        self.vapour_hpa = share * _lagged(vapour, 3.0) + adds + np.abs(_wandering(chance, steps, 0.5, 6.0))

    def at(self, moment: datetime) -> tuple[float, float]:
        """Temperature (°C) and relative humidity (a fraction) as they really are."""
        step = min(max(round((moment - self.begins) / STEP), 0), len(self.temperature_c) - 1)
        temperature_c = float(self.temperature_c[step])
        return temperature_c, min(max(float(self.vapour_hpa[step]) / saturation_hpa(temperature_c), 0.03), 0.99)


def settles_in(temperature_c: np.ndarray, humidity: np.ndarray) -> tuple[float, float]:
    """The steady air (°C, a fraction) in which wood would come to rest where it does in this one: as much vapour goes in as out, so
    the mean of the vapour pressures is that of the wood, whose own goes with how warm it is.
    """
    could_be = np.array([saturation_hpa(float(warm)) for warm in temperature_c])
    return float(temperature_c.mean()), float((humidity * could_be).mean() / could_be.mean())


def _wandering(chance: np.random.Generator, steps: int, spread: float, hours: float) -> np.ndarray:
    """What wanders about nothing: a first-order process of so wide a spread that forgets itself within so many hours."""
    keeps = math.exp(-1 / (6 * hours))
    kicks = chance.normal(0, spread * math.sqrt(1 - keeps**2), steps)
    values = np.empty(steps)
    value = chance.normal(0, spread)
    for step in range(steps):
        value = keeps * value + kicks[step]
        values[step] = value
    return values


def _lagged(values: np.ndarray, hours: float) -> np.ndarray:
    share = 1 - math.exp(-1 / (6 * hours))
    result = np.empty_like(values)
    now = float(values[0])
    for step, value in enumerate(values):
        now += share * (float(value) - now)
        result[step] = now
    return result


@dataclass(frozen=True)
class HiddenBoard:
    """A board as it really is: it goes from ``start`` to ``end`` (fractions) as a stretched exponential with a time constant in days; the
    wetter it is beside its end, the more its core is wetter than its outside (``steep``).
    """

    tag: str
    species_key: str
    thickness_m: float
    begins: datetime
    start: float
    end: float = 0.09
    days: float = 120.0
    stretch: float = 0.7
    steep: float = 0.25

    def mean(self, at: datetime) -> float:
        """Its mean moisture, a fraction."""
        elapsed = max((at - self.begins).total_seconds(), 0.0) / 86_400
        return self.end + (self.start - self.end) * math.exp(-((elapsed / self.days) ** self.stretch))

    def at_depth(self, at: datetime, share: float) -> float:
        """Its moisture at a depth, as a share of half its thickness from the surface (0) to the middle (1): flat inside, steep outside."""
        mean = self.mean(at)
        width = self.steep * (mean - self.end)
        # 1 − (1 − share)³ has a mean of ¾.
        return mean + width * (1 - (1 - share) ** 3 - 0.75)
