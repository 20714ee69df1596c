"""Air at the wood: how fast it takes heat and vapour from a board in the open and from boards in a stickered stack.

The one stack model that every drying prediction uses, yard and kiln alike. Between two layers of boards lies a channel as high as
the stickers and as long as the stack is wide. Three things drive air through it against its own friction: the wind, which comes
from all sides over the weeks; the weight of air that was cooled and moistened, which sinks out of a stack; and the warmth that a
stack keeps from the day before. Some air leaks in between the edges of boards whatever the stickers. On its way the air is cooled
and moistened by the boards, so the boards see poorer air than the weather's, the more so the wetter the load. A yard stack also stands
in its own breath: what it gives off has to be carried away by the wind around it.

Sources: flat plate and parallel channel, textbook heat transfer (Incropera; laminar Nu 7.5, Dittus-Boelter turbulent); Lewis
relation with Le = 0.85; practice of stickers, stack widths and the calendar of effective drying days, Air Drying of Lumber
(FPL-GTR-117, AH-402). Leakage, breath, buoyancy and the shares of the wind were chosen so that yard days, that calendar, and
what stickers and widths are known to cost come out together: one number each for all species (docs/science.md).
"""

from dataclasses import dataclass

import numpy as np

from wood.air.climate import AirSeries
from wood.air.psychrometrics import saturation_concentration
from wood.air.sorption import emc, relative_humidity_for
from wood.arrays import Array, Same, Values
from wood.errors import CannotRead, check_range

AIR_VISCOSITY = 1.5e-5  # kinematic, m²/s at 20°C
AIR_CONDUCTIVITY = 0.026  # W/m·K
PRANDTL = 0.71
AIR_DENSITY_20 = 1.2  # kg/m³ at 20°C
HEAT_CAPACITY = 1006.0  # J/kg·K
LEWIS_FACTOR = 0.85 ** (2 / 3)
# Still air still rises and falls along a board: the least conductance, W/m²·K.
LEAST_CONDUCTANCE = 3.0
RADIATION = 5.0
# What is left of the day's swing of temperature between boards that lie close: wood holds a thousand times the warmth of the air
# between it (our judgement of how much of that shows).
SWING_INSIDE = 0.3
LEAST_SPEED_M_S = 0.02
# How high the column of air is that sinks or rises through a stack, m; what share of a wet bulb's depression its air is cooled by on the
# mean of a drying; and how much warmer or colder than the air a stack stays behind its day, K.
COLUMN_M, COOLED_SHARE, BEHIND_K = 1.2, 0.29, 0.2
GRAVITY_M_S2, LATENT_HEAT = 9.81, 2.45e6
# Air that finds its way between the edges of boards, as conductance of a face, m/s.
LEAKAGE_M_S = 3.0e-4
# What the wind carries away of a yard stack's own breath: conductance of a face per m/s of wind at the stack and half a metre more that
# never rests, for a stack of this width; wider stacks give it off over relatively less of their outside.
BREATH, RESTLESS_M_S, BREATH_WIDTH_M, BREATH_POWER = 2.4e-3, 0.5, 1.5, 0.22
# A stack turned across the usual wind, or along it, against one that meets it from all sides.
TURNED = {"all": 1.0, "across": 1.3, "along": 0.7}


@dataclass(frozen=True)
class Surface:
    """What air can carry at a board's face: ``heat`` in W/m²·K, ``vapour`` in m/s, arrays over time or single values."""

    heat: np.ndarray
    vapour: np.ndarray


def _vapour_from_heat(heat: Values, temperature_c: Values) -> Same:
    """The Lewis relation: h_m = h_c / (ρ·c_p·Le^⅔)."""
    density = AIR_DENSITY_20 * 293.15 / (np.asarray(temperature_c, float) + 273.15)
    return np.asarray(heat) / (density * HEAT_CAPACITY * LEWIS_FACTOR)


def plate_conductance(air_speed_m_s: Values, along_m: float) -> Same:
    """Heat conductance of a flat face in a stream, W/m²·K: Nu = 0.664 Re^½ Pr^⅓, above Re = 5·10⁵ 0.037 Re^0.8 Pr^⅓.

    Args:
        air_speed_m_s: 0…40, scalar or array; along_m: the way along the face, 0.005…15 m.
    Raises:
        OutOfRange: air_speed_m_s 0…40 m/s, along_m 0.005…15 m.

    >>> round(float(plate_conductance(2.0, 0.15)), 1)
    14.5
    """
    speed = check_range("air_speed_m_s", air_speed_m_s, 0.0, 40.0, " m/s")
    check_range("along_m", along_m, 0.005, 15.0, " m")
    reynolds = speed * along_m / AIR_VISCOSITY
    nusselt = np.where(reynolds < 5e5, 0.664 * np.sqrt(reynolds), 0.037 * reynolds**0.8) * PRANDTL ** (1 / 3)
    return np.maximum(nusselt * AIR_CONDUCTIVITY / along_m, LEAST_CONDUCTANCE)


@dataclass(frozen=True)
class OpenBoard:
    """A board with air all round: on edge, on a shelf, alone on stickers. It also trades heat with walls or sky by radiation."""

    wind_share: float = 0.3
    along_m: float = 0.2

    def felt(self, series: AirSeries) -> AirSeries:
        """The air at the wood: nothing stands between."""
        return series

    def surface(self, series: AirSeries) -> Surface:
        heat = plate_conductance(np.minimum(series.wind_m_s * self.wind_share, 40.0), self.along_m)
        return Surface(heat + RADIATION, _vapour_from_heat(heat, series.temperature_c))


@dataclass(frozen=True)
class Stack:
    """A stickered stack.

    ``wind_share`` is the wind at the stack as a share of the weather's (1 for a chamber whose series gives the speed in
    the gaps with ``forced``). ``width_m`` is the air's way through it, ``sticker_m`` the gap, ``length_m`` the boards' (where it is
    known), ``turned`` how it lies to the usual wind (:data:`TURNED`).

    Raises:
        OutOfRange: width 0.1…6 m, stickers 3…100 mm, share 0…1; a length below the width. CannotRead: another ``turned``.
    """

    wind_share: float
    width_m: float = 1.5
    sticker_m: float = 0.019
    forced: bool = False
    length_m: float | None = None
    turned: str = "all"

    def __post_init__(self) -> None:
        check_range("wind_share", self.wind_share, 0.0, 1.0)
        check_range("width_m", self.width_m, 0.1, 6.0, " m")
        check_range("sticker_m", self.sticker_m, 0.003, 0.1, " m")
        if self.length_m is not None:
            # Boards lie along a stack: one that is wider than long is a slip of the pen.
            check_range("length_m", self.length_m, self.width_m, 20.0, " m")
        if self.turned not in TURNED:
            raise CannotRead("turned", self.turned, f"“{self.turned}” is no way to lie to the wind; it is one of {', '.join(TURNED)}")

    def felt(self, series: AirSeries) -> AirSeries:
        """The air between the boards: that from outside, its daily swing evened out by the warmth of the wood."""
        return series if self.forced else series.calmed(SWING_INSIDE)

    def wind_m_s(self, series: AirSeries) -> np.ndarray:
        """The wind that the stack meets."""
        return series.wind_m_s * min(self.wind_share * TURNED[self.turned], 1.0)

    def speed_m_s(self, series: AirSeries) -> np.ndarray:
        """Air speed in the gaps.

        The wind's pressure, ½ρU², and the weight of the cooled air in the stack, ρgH·ΔT/T, pay for laminar friction,
        12·μ·W·v/s², and for entering and leaving, ½ρ·1.5·v².
        """
        if self.forced:
            return np.maximum(series.wind_m_s, LEAST_SPEED_M_S)
        kelvin = series.temperature_c + 273.15
        colder = COOLED_SHARE * _wet_bulb_depression(series) + BEHIND_K
        pressure = 0.5 * self.wind_m_s(series) ** 2 + GRAVITY_M_S2 * COLUMN_M * colder / kelvin
        friction = 12 * AIR_VISCOSITY * self.width_m / self.sticker_m**2
        loss = 0.5 * 1.5
        return np.maximum((-friction + np.sqrt(friction**2 + 4 * loss * pressure)) / (2 * loss), LEAST_SPEED_M_S)

    def surface(self, series: AirSeries) -> Surface:
        """Mean conductance from the air outside to the boards inside.

        Along the channel the difference between air and wood falls as exp(−2·h·x/(v·s)); its mean over the width gives
        ``v·s/(2W)·(1 − exp(−2hW/(vs)))``, which can carry no more than the air that passes.
        """
        vapour, heat, passing, breath = self.parts(series)
        carried = passing * -np.expm1(-vapour / passing)
        warmth = passing * AIR_DENSITY_20 * 293.15 / (series.temperature_c + 273.15) * HEAT_CAPACITY
        heat = warmth * -np.expm1(-heat / warmth)
        share = breath / (breath + carried) if not self.forced else 1.0
        return Surface(heat * share, carried * share)

    def parts(self, series: AirSeries) -> tuple[Array, Array, Array, Array]:
        """What carries vapour from the boards, each by itself, over the series: the film at their faces (m/s) and its heat (W/m²·K), the
        air that passes over them, and what the wind carries off around the stack (m/s for each face; infinite in a chamber)."""
        speed = self.speed_m_s(series)
        reynolds = speed * 2 * self.sticker_m / AIR_VISCOSITY
        nusselt = np.where(reynolds < 2300, 7.5, np.maximum(7.5, 0.023 * reynolds**0.8 * PRANDTL**0.4))
        heat = nusselt * AIR_CONDUCTIVITY / (2 * self.sticker_m)
        vapour = _vapour_from_heat(heat, series.temperature_c)
        passing = speed * self.sticker_m / (2 * self.width_m) + (0.0 if self.forced else LEAKAGE_M_S)
        if self.forced:
            return vapour, heat, passing, np.full(speed.shape, np.inf)
        breath = BREATH * self.wind_share * (series.wind_m_s + RESTLESS_M_S) * (BREATH_WIDTH_M / self.width_m) ** BREATH_POWER
        return vapour, heat, passing, breath


def _wet_bulb_depression(series: AirSeries) -> np.ndarray:
    """How much cooler a wet surface is than the air, K: the psychrometer's balance with saturation taken as a straight line."""
    saturated = np.asarray(saturation_concentration(series.temperature_c))
    per_kelvin = saturated * 5400.0 / (series.temperature_c + 273.15) ** 2
    heat = LATENT_HEAT / (AIR_DENSITY_20 * HEAT_CAPACITY)
    return (1 - series.relative_humidity) * saturated * heat / (1 + per_kelvin * heat)


def air_inside(series: AirSeries, surface: Surface, flux_kg_m2_s: Values) -> Array:
    """The relative humidity that the boards inside a stack meet, from what leaves each of their faces.

    Half of the moisture taken up on the whole way is what the mean board has before it.

    Raises:
        OutOfRange: flux_kg_m2_s −1…1 kg/m²s.

    >>> import numpy as np; from wood.air.climate import pattern
    >>> summer = pattern("four_seasons").year
    >>> stack = Stack(0.2); inside = air_inside(summer, stack.surface(summer), 1e-6)
    >>> bool(inside[4000:5000].mean() > summer.relative_humidity[4000:5000].mean() + 0.02)
    True
    """
    check_range("flux_kg_m2_s", flux_kg_m2_s, -1.0, 1.0, " kg/m²s")
    saturated = np.asarray(saturation_concentration(series.temperature_c))
    picked_up = np.asarray(flux_kg_m2_s) / surface.vapour / 2
    return np.clip(series.relative_humidity + picked_up / saturated, 0.0, 1.0)


@dataclass(frozen=True)
class Through:
    """Air on its way through a stack: its speed between the boards (m/s), and its relative humidity at even steps from where it enters to
    where it leaves (fractions)."""

    speed_m_s: float
    humidity: np.ndarray

    @property
    def gained(self) -> float:
        """How much damper it leaves than it came."""
        return float(self.humidity[-1] - self.humidity[0])


def through(stack: Stack, air: AirSeries, moisture: float, points: int = 9) -> Through:
    """How moist air becomes on its way between boards of a moisture, in the mean of a series.

    Along the channel what is missing to the air at the boards' faces falls as exp(−2·h·x/(v·s)); wet faces are at saturation, others at the
    humidity that goes with their moisture.

    Args:
        air: the air outside, best a day or some weeks of it; moisture: of the boards' faces, fraction, 0.01…3; points: 2…200.
    Raises:
        OutOfRange.

    >>> from wood.air.climate import constant
    >>> wide, narrow = (through(Stack(0.13, width_m=width), constant(18.0, 0.6, 3.0), 0.5) for width in (2.4, 1.0))
    >>> wide.gained > narrow.gained > 0
    True
    """
    check_range("moisture", moisture, 0.01, 3.0)
    check_range("points", points, 2, 200)
    felt = stack.felt(air)
    temperature, entering = float(felt.temperature_c.mean()), float(felt.relative_humidity.mean())
    speed = float(stack.speed_m_s(air).mean())
    heat = 7.5 * AIR_CONDUCTIVITY / (2 * stack.sticker_m)
    vapour = float(_vapour_from_heat(heat, temperature))
    fades = 2 * vapour * stack.width_m / (speed * stack.sticker_m)
    dry_enough = float(emc(temperature, 1.0))
    at_the_wood = 1.0 if moisture >= dry_enough else float(relative_humidity_for(temperature, moisture))
    way = np.linspace(0.0, 1.0, int(points))
    return Through(speed, at_the_wood - (at_the_wood - entering) * np.exp(-fades * way))
