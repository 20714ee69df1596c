"""A solar kiln: a glazed chamber that the sun warms by day and that is damp by night, its vents holding the humidity down while the wood is
wet.

Sources: the sun, :mod:`wood.air.sun`; the share of it that reaches air and wood, 30-50% and less in winter, collector of about a square
foot for ten board feet, solar-kiln extension literature (Wengert; low). What warms the chamber, what is lost and how vents are set is our
own judgement, held against the published days, which are of low confidence themselves (docs/science.md).
"""

from dataclasses import dataclass, replace

import numpy as np

from wood.air.climate import MONTH_DAYS, YEAR_DAYS, AirSeries
from wood.air.psychrometrics import saturation_concentration
from wood.air.sun import CLEARNESS, LATITUDE, MEAN_DAYS, through_day, tilted_kwh_m2
from wood.arrays import Array
from wood.errors import check_range
from wood.sizes import BOARD_FOOT_M3
from wood.units import FOOT_M

# A square foot of collector for ten board feet, as m² for each m³ of load.
USUAL_COLLECTOR = FOOT_M**2 / (10 * BOARD_FOOT_M3)
# The share of the sun on the collector that dries, by the air outside: less in the cold.
SHARE_AT_0_C, SHARE_PER_C, SHARE_LIMITS = 0.25, 0.0075, (0.15, 0.45)
LATENT_KWH_PER_KG = 2.45e6 / 3.6e6
# How far a square metre of collector with the usual load warms the chamber for each kW/m² on it, K, and over how many hours warmth is held.
WARMS_K, HELD_HOURS = 58.0, 4.0
HOTTEST_C = 65.0
# Vents are opened from here on; until then what the wood gives off stays inside.
VENTED_AT = 0.75
# How far green wood with the vents shut, wet wood, and wood that is air-dry fills the air up to that.
SHUT_FILLS, WET_FILLS, DRY_FILLS = 1.0, 0.5, 0.0
# Fans run while the sun warms, m/s between the boards; at night they rest.
FAN_M_S, STILL_M_S, FANS_FROM_K = 1.2, 0.05, 4.0
USUAL_CLEARNESS = 0.45


@dataclass(frozen=True)
class SolarKiln:
    """A kiln at a latitude (degrees), with so many m² of collector for each m³ of wood, under a sky of this clearness (twelve months, or
    one for all).

    Raises:
        OutOfRange: latitude −60…60°, collector 0.5…60 m²/m³, clearness 0.15…0.8, tilt 0…90°.
    """

    latitude_deg: float
    clearness: tuple[float, ...] = (USUAL_CLEARNESS,)
    collector_m2_per_m3: float = USUAL_COLLECTOR
    tilt_deg: float | None = None

    def __post_init__(self) -> None:
        check_range("latitude_deg", self.latitude_deg, *LATITUDE, "°")
        check_range("clearness", self.clearness, *CLEARNESS)
        check_range("collector_m2_per_m3", self.collector_m2_per_m3, 0.5, 60.0)
        if self.tilt_deg is not None:
            check_range("tilt_deg", self.tilt_deg, 0.0, 90.0, "°")

    @property
    def monthly_kwh_m2(self) -> Array:
        """What falls on a square metre of its collector in a mean day of each month, kWh, January first."""
        clear = self.clearness * 12 if len(self.clearness) == 1 else self.clearness
        tilt = abs(self.latitude_deg) if self.tilt_deg is None else self.tilt_deg
        return np.array([tilted_kwh_m2(self.latitude_deg, day, clear[month], tilt) for month, day in enumerate(MEAN_DAYS)])

    def monthly_water_kg(self, outdoors: AirSeries) -> Array:
        """The water that its sun can evaporate from a cubic metre of wood in a mean day of each month, kg: a ceiling, however wet the
        wood.
        """
        temperature = _by_month(outdoors)
        share = np.clip(SHARE_AT_0_C + SHARE_PER_C * temperature, *SHARE_LIMITS)
        return self.monthly_kwh_m2 * self.collector_m2_per_m3 * share / LATENT_KWH_PER_KG

    def air(self, outdoors: AirSeries, damp: float) -> AirSeries:
        """The air inside, hour by hour, from the year outdoors: warm and vented by day, cool and damp by night.

        Args:
            damp: how far the load fills the air up to where the vents open, 0 (dry wood) … 1.
        Raises:
            OutOfRange: not a whole year in hours.
        """
        check_range("damp", damp, 0.0, 1.0)
        check_range("series_days", outdoors.days, YEAR_DAYS, YEAR_DAYS)
        check_range("step_s", outdoors.step_s, 3600.0, 3600.0, " s")
        hours = np.arange(outdoors.temperature_c.size)
        day = (outdoors.start_day + hours // 24) % YEAR_DAYS
        month = np.searchsorted(np.cumsum(MONTH_DAYS), day, side="right").clip(0, 11)
        shares = np.array([through_day(self.latitude_deg, float(mean)) for mean in MEAN_DAYS])
        power = self.monthly_kwh_m2[month] * shares[month, hours % 24]
        rise = WARMS_K * power * min(self.collector_m2_per_m3 / USUAL_COLLECTOR, 2.0) ** 0.5
        held = np.exp(-1 / HELD_HOURS)
        warm = np.empty(rise.size)
        now = 0.0
        for hour in range(rise.size):
            now = held * now + (1 - held) * rise[hour]
            warm[hour] = now
        temperature = np.minimum(outdoors.temperature_c + warm, HOTTEST_C)
        saturated = np.asarray(saturation_concentration(temperature))
        outside = outdoors.relative_humidity * np.asarray(saturation_concentration(outdoors.temperature_c))
        vapour = outside + damp * np.maximum(VENTED_AT * saturated - outside, 0.0)
        fan = np.where(warm > FANS_FROM_K, FAN_M_S, STILL_M_S)
        return replace(outdoors, temperature_c=temperature, relative_humidity=np.clip(vapour / saturated, 0.02, 0.98), wind_m_s=fan)

    def good_hours(self, month: int) -> int:
        """Hours of a mean day (month 1…12) in which more than three quarters of the noon's sun falls.

        Raises:
            OutOfRange: month 1…12.
        """
        shares = through_day(self.latitude_deg, float(MEAN_DAYS[int(check_range("month", month, 1, 12)) - 1]))
        return int((shares > shares.max() * 0.75).sum())


def _by_month(outdoors: AirSeries) -> Array:
    """Mean temperature of each month, January first."""
    per_day = outdoors.per_day
    daily = outdoors.temperature_c[: outdoors.temperature_c.size // per_day * per_day].reshape(-1, per_day).mean(axis=1)
    day = (outdoors.start_day + np.arange(daily.size)) % YEAR_DAYS
    month = np.searchsorted(np.cumsum(MONTH_DAYS), day, side="right").clip(0, 11)
    total = np.bincount(month, daily, minlength=12)
    return total / np.maximum(np.bincount(month, minlength=12), 1)
