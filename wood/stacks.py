"""Air at the wood: how fast it takes heat and vapour from a board in the open and from boards in a stickered stack.

The one stack model that every drying prediction uses, yard and kiln alike. Between two layers of boards lies a channel as high as
the stickers and as long as the stack is wide. Wind drives air through it against its own friction; on its way the air is
cooled and moistened by the boards, so the boards see poorer air than the weather's, the more so the wetter the load, the
wider the stack and the thinner the stickers. Heat and vapour are carried alike (Lewis).

Sources: flat plate and parallel channel, textbook heat transfer (Incropera; laminar Nu 7.5, Dittus-Boelter turbulent); Lewis
relation with Le = 0.85; practice of stickers and stack widths, Air Drying of Lumber (FPL-GTR-117).
"""

from dataclasses import dataclass

import numpy as np

from wood.air import saturation_concentration
from wood.climate import AirSeries
from wood.errors import check_range

AIR_VISCOSITY = 1.5e-5  # kinematic, m²/s at 20 °C
AIR_CONDUCTIVITY = 0.026  # W/m·K
PRANDTL = 0.71
AIR_DENSITY_20 = 1.2  # kg/m³ at 20 °C
HEAT_CAPACITY = 1006.0  # J/kg·K
LEWIS_FACTOR = 0.85 ** (2 / 3)
# Still air still rises and falls along a board: the least conductance, W/m²·K.
LEAST_CONDUCTANCE = 3.0
RADIATION = 5.0
# Cool moist air sinks out of a stack by its own weight when no wind blows.
LEAST_SPEED_M_S = 0.02


@dataclass(frozen=True)
class Surface:
    """What air can carry at a board's face: ``heat`` in W/m²·K, ``vapour`` in m/s, arrays over time or single values."""

    heat: np.ndarray
    vapour: np.ndarray


def _vapour_from_heat(heat, temperature_c):
    """The Lewis relation: h_m = h_c / (ρ·c_p·Le^⅔)."""
    density = AIR_DENSITY_20 * 293.15 / (np.asarray(temperature_c, float) + 273.15)
    return np.asarray(heat) / (density * HEAT_CAPACITY * LEWIS_FACTOR)


def plate_conductance(air_speed_m_s, along_m: float):
    """Heat conductance of a flat face in a stream, W/m²·K: Nu = 0.664 Re^½ Pr^⅓, above Re = 5·10⁵ 0.037 Re^0.8 Pr^⅓.

    Args:
        air_speed_m_s: 0…40, scalar or array; along_m: the way along the face, 0.005…15 m.

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

    def surface(self, series: AirSeries) -> Surface:
        heat = plate_conductance(np.minimum(series.wind_m_s * self.wind_share, 40.0), self.along_m)
        return Surface(heat + RADIATION, _vapour_from_heat(heat, series.temperature_c))


@dataclass(frozen=True)
class Stack:
    """A stickered stack.

    ``wind_share`` is the wind at the stack as a share of the weather's (1 for a chamber whose series gives the speed in
    the gaps with ``forced``). ``width_m`` is the air's way through it, ``sticker_m`` the gap.

    Raises:
        OutOfRange: width 0.1…6 m, stickers 3…100 mm, share 0…1.
    """

    wind_share: float
    width_m: float = 1.5
    sticker_m: float = 0.019
    forced: bool = False

    def __post_init__(self) -> None:
        check_range("wind_share", self.wind_share, 0.0, 1.0)
        check_range("width_m", self.width_m, 0.1, 6.0, " m")
        check_range("sticker_m", self.sticker_m, 0.003, 0.1, " m")

    def speed_m_s(self, series: AirSeries) -> np.ndarray:
        """Air speed in the gaps.

        The wind's pressure on the windward side, ½ρU², pays for laminar friction, 12·μ·W·v/s², and for entering and
        leaving, ½ρ·1.5·v².
        """
        if self.forced:
            return np.maximum(series.wind_m_s, LEAST_SPEED_M_S)
        wind = series.wind_m_s * self.wind_share
        friction = 12 * AIR_VISCOSITY * self.width_m / self.sticker_m**2
        loss = 0.5 * 1.5
        speed = (-friction + np.sqrt(friction**2 + 4 * loss * 0.5 * wind**2)) / (2 * loss)
        return np.maximum(speed, LEAST_SPEED_M_S)

    def surface(self, series: AirSeries) -> Surface:
        """Mean conductance from the air outside to the boards inside.

        Along the channel the difference between air and wood falls as exp(−2·h·x/(v·s)); its mean over the width gives
        ``v·s/(2W)·(1 − exp(−2hW/(vs)))``, which can carry no more than the air that passes.
        """
        speed = self.speed_m_s(series)
        reynolds = speed * 2 * self.sticker_m / AIR_VISCOSITY
        nusselt = np.where(reynolds < 2300, 7.5, np.maximum(7.5, 0.023 * reynolds**0.8 * PRANDTL**0.4))
        heat = nusselt * AIR_CONDUCTIVITY / (2 * self.sticker_m)
        vapour = _vapour_from_heat(heat, series.temperature_c)
        passing = speed * self.sticker_m / (2 * self.width_m)
        carried = passing * -np.expm1(-vapour / passing)
        density = AIR_DENSITY_20 * 293.15 / (series.temperature_c + 273.15)
        warmth = passing * density * HEAT_CAPACITY
        return Surface(warmth * -np.expm1(-heat / warmth), carried)


def air_inside(series: AirSeries, surface: Surface, flux_kg_m2_s) -> np.ndarray:
    """The relative humidity that the boards inside a stack meet, from what leaves each of their faces.

    Half of the moisture taken up on the whole way is what the mean board has before it.

    >>> import numpy as np; from wood.climate import pattern
    >>> summer = pattern("four_seasons").year
    >>> stack = Stack(0.2); inside = air_inside(summer, stack.surface(summer), 1e-6)
    >>> bool(inside[4000:5000].mean() > summer.relative_humidity[4000:5000].mean() + 0.02)
    True
    """
    saturated = np.asarray(saturation_concentration(series.temperature_c))
    picked_up = np.asarray(flux_kg_m2_s) / surface.vapour / 2
    return np.clip(series.relative_humidity + picked_up / saturated, 0.0, 1.0)
