"""The compiled inside of a chamber: what its air is in an hour, by its balances of heat and vapour. SI units; humidity as a fraction, water
in kg/s, power in W.

Source: balances; the film between boards as :meth:`wood.stacks.air.Stack.parts`; how a compressor does in other air than it is rated in is
our own judgement.
"""

import math

from wood.air.psychrometrics import GAS_CONSTANT, WATER_KG_PER_MOL
from wood.drying.kernel import LATENT_HEAT, compiled
from wood.stacks.air import AIR_CONDUCTIVITY, AIR_DENSITY_20, AIR_VISCOSITY, HEAT_CAPACITY, LEWIS_FACTOR, PRANDTL

# Positions in the row of figures that describes a chamber.
(
    HEAT_W,
    WALLS_W_K,
    VENTS_M3_S,
    LEAKS_M3_S,
    DRIES_KG_S,
    COMPRESSOR_W,
    SPRAY_KG_S,
    FAN_W,
    SPEED_M_S,
    STICKER_M,
    WIDTH_M,
    HOTTEST_C,
    LOAD_M3,
    COMPRESSOR_TO_C,
    STEAM,
    COMPRESSOR_FROM_C,
    STUCK_KG_S,
) = range(17)
# A dehumidifier's water at other air than it is rated in (38°C, 60%): nothing at all below this humidity; more by this share a degree.
RATED_C, RATED_HUMIDITY, DRY_AIR, MORE_PER_C = 38.0, 0.60, 0.15, 0.025
# Over how many degrees a compressor that becomes too hot or too cold gives up.
GIVES_UP_K = 3.0


@compiled
def saturation(temperature_c):
    """Vapour that saturated air holds, kg/m³: :func:`wood.air.psychrometrics.saturation_concentration`, compiled."""
    t = temperature_c + 273.15
    if temperature_c >= 0.0:
        logarithm = -5.8002206e3 / t + 1.3914993 + t * (-4.8640239e-2 + t * (4.1764768e-5 - t * 1.4452093e-8)) + 6.5459673 * math.log(t)
    else:
        logarithm = (
            -5.6745359e3 / t
            + 6.3925247
            + t * (-9.677843e-3 + t * (6.2215701e-7 + t * (2.0747825e-9 - t * 9.484024e-13)))
            + 4.1635019 * math.log(t)
        )
    return math.exp(logarithm) * WATER_KG_PER_MOL / (GAS_CONSTANT * t)


@compiled
def film(speed, sticker, temperature_c):
    """Conductance of a face between boards for heat, W/m²·K, and for vapour, m/s; as :meth:`wood.stacks.air.Stack.parts`."""
    reynolds = speed * 2 * sticker / AIR_VISCOSITY
    nusselt = 7.5 if reynolds < 2300 else max(7.5, 0.023 * reynolds**0.8 * PRANDTL**0.4)
    heat = nusselt * AIR_CONDUCTIVITY / (2 * sticker)
    density = AIR_DENSITY_20 * 293.15 / (temperature_c + 273.15)
    return heat, heat / (density * HEAT_CAPACITY * LEWIS_FACTOR)


@compiled
def _damp(chamber, temperature, set_h, out_kg, give, give_at):
    """What becomes of the vapour at a temperature: (vapour kg/m³, compressor's share of the hour, vented m³/s, sprayed kg/s, taken by the
    compressor kg/s).
    """
    leaks = chamber[LEAKS_M3_S]
    saturated = saturation(temperature)
    wanted = set_h * saturated
    # A spray that sticks brings in what the air can still take; the rest runs down the walls.
    stuck = 0.0
    if chamber[STUCK_KG_S] > 0:
        stuck = min(chamber[STUCK_KG_S], max(give * (saturated - give_at) + leaks * (saturated - out_kg), 0.0))
    # Left to itself.
    free = (give * give_at + leaks * out_kg + stuck) / (give + leaks)
    if free <= wanted:
        if chamber[SPRAY_KG_S] <= stuck:
            return free, 0.0, 0.0, stuck, 0.0
        sprayed = min(give * (wanted - give_at) + leaks * (wanted - out_kg), chamber[SPRAY_KG_S])
        return (give * give_at + leaks * out_kg + sprayed) / (give + leaks), 0.0, 0.0, sprayed, 0.0
    off = give * (give_at - wanted) + leaks * (out_kg - wanted) + stuck
    # A compressor removes more water from damper and warmer air, and stops in air that is too hot for it, or so cool that its coils ice up.
    runs = min(max(1 - (temperature - chamber[COMPRESSOR_TO_C]) / GIVES_UP_K, 0.0), 1.0)
    runs *= min(max(1 - (chamber[COMPRESSOR_FROM_C] - temperature) / GIVES_UP_K, 0.0), 1.0)
    slope = (
        runs
        * chamber[DRIES_KG_S]
        / (RATED_HUMIDITY - DRY_AIR)
        / saturated
        * math.exp(MORE_PER_C * (min(temperature, chamber[COMPRESSOR_TO_C]) - RATED_C))
    )
    dry_air = DRY_AIR * saturated
    can = slope * max(wanted - dry_air, 0.0)
    if can >= off:
        return wanted, off / can, 0.0, stuck, off
    share = 1.0 if can > 0 else 0.0
    most = chamber[VENTS_M3_S]
    vented = min((off - can) / (wanted - out_kg), most) if wanted > out_kg else most
    if vented < most:
        return wanted, share, vented, stuck, can
    # All of it is not enough: the air stays damper than it is set.
    vapour = (give * give_at + (leaks + vented) * out_kg + slope * dry_air + stuck) / (give + leaks + vented + slope)
    return vapour, share, vented, stuck, slope * max(vapour - dry_air, 0.0)


@compiled
def _balance_of_heat(chamber, temperature, set_h, out_c, out_kg, give, give_at, steeper, near_c, take_w, take_at, evaporates):
    """The heat that holding a temperature asks for, W, below zero where the chamber warms itself; and what :func:`_damp` tells.

    ``take_w·(T − take_at)`` goes into the load's own warmth, and ``evaporates`` of the latent heat of what it gives off within the hour.
    """
    vapour, share, vented, sprayed, dried = _damp(chamber, temperature, set_h, out_kg, give, give_at + steeper * (temperature - near_c))
    air = (chamber[LEAKS_M3_S] + vented) * AIR_DENSITY_20 * 293.15 / (temperature + 273.15) * HEAT_CAPACITY
    given = dried - sprayed + (chamber[LEAKS_M3_S] + vented) * (vapour - out_kg)
    # Steam brings its own heat; water that is sprayed takes it from the air.
    gains = chamber[FAN_W] + share * chamber[COMPRESSOR_W] + dried * LATENT_HEAT - (1 - chamber[STEAM]) * sprayed * LATENT_HEAT
    loses = (chamber[WALLS_W_K] + air) * (temperature - out_c) + take_w * (temperature - take_at) + evaporates * given * LATENT_HEAT
    return loses - gains, vapour, share, vented, sprayed, dried


@compiled
def _air(chamber, set_c, set_h, out_c, out_kg, heats, give, give_at, steeper, near_c, take_w, take_at, evaporates):
    """The chamber's air in one hour: as near to its setting as the chamber can hold it.

    ``give`` and ``give_at``: the load gives ``give·(give_at − c)`` kg/s to air of ``c`` kg/m³ near ``near_c`` °C, and ``give·steeper`` more
    for each degree. Returns temperature, vapour (kg/m³), heating W, compressor's share of the hour, vented m³/s, sprayed kg/s, water that
    the compressor took kg/s.
    """
    most = min(set_c, chamber[HOTTEST_C])
    need, vapour, share, vented, sprayed, dried = _balance_of_heat(
        chamber, most, set_h, out_c, out_kg, give, give_at, steeper, near_c, take_w, take_at, evaporates
    )
    if 0.0 <= need <= heats:
        return most, vapour, need, share, vented, sprayed, dried
    # Too little heat: somewhere below; more warmth than it loses: somewhere above, up to where it is let out.
    heat = heats if need > heats else 0.0
    low, high = (-60.0, most) if need > heats else (most, chamber[HOTTEST_C])
    for _ in range(30):
        temperature = 0.5 * (low + high)
        need, vapour, share, vented, sprayed, dried = _balance_of_heat(
            chamber, temperature, set_h, out_c, out_kg, give, give_at, steeper, near_c, take_w, take_at, evaporates
        )
        if need > heat:
            high = temperature
        else:
            low = temperature
    return temperature, vapour, heat, share, vented, sprayed, dried
