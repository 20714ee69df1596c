"""The compiled inside of :mod:`wood.kiln.loads`: a chamber and the boards in it, hour by hour.

The air of the chamber is what its fire, its vents, its compressor and its spray can make of it against what the walls lose and the wood
gives off; each board is one line of cells, solved as in :mod:`wood.drying.kernel`; through its thickness strain is one, so that the
stresses of its cells sum to nothing.
Source: the field, the film between boards and the sorption of :mod:`wood.drying.kernel` and :mod:`wood.stacks.air`; balances of heat and
vapour; stress as in :mod:`wood.kiln.stress`. SI units; moisture and humidity as fractions, stress as strain (over the stiffness at 12% and
20°C), water in kg/s, power in W.
"""

import math

import numpy as np

from wood.air.sorption import HYSTERESIS_GAP
from wood.drying.kernel import (
    ACTIVATION_PER_MOISTURE_K,
    AMBIENT,
    COLUMNS,
    COOLING,
    FACTOR,
    FIBRE_SATURATION,
    FREE_ACTIVATION_K,
    FROZEN,
    FROZEN_BOUND,
    FROZEN_FREE,
    GAP,
    GRAVITY,
    HEAT_RESISTANCE,
    HYSTERESIS,
    LATENT_HEAT,
    LEVEL,
    PERMEABILITY,
    ROOM_K,
    SATURATED,
    TEMPERATURE,
    _bound,
    _scale,
    _side,
    _solve_line,
    compiled,
    sorbed,
)
from wood.kiln.chamber_kernel import (
    COMPRESSOR_W,
    DRIES_KG_S,
    FAN_W,
    HEAT_W,
    LEAKS_M3_S,
    LOAD_M3,
    SPEED_M_S,
    SPRAY_KG_S,
    STEAM,
    STICKER_M,
    STUCK_KG_S,
    WIDTH_M,
    _air,
    film,
    saturation,
)
from wood.kiln.disturbances import COMPRESSOR, FANS, HEAT, OPEN, SPRAYS, STUCK
from wood.stacks.air import AIR_DENSITY_20, HEAT_CAPACITY

# Positions in the row of figures of a wood's give.
SHRINKAGE, CREEP_DRYING, CREEP_AGAIN, FADES_S, DRY_FADES = range(5)
# Heat that wood and the water in it hold, J/kg·K.
WOOD_HEAT, WATER_HEAT = 1500.0, 4186.0
# How much warmer than the wood the air may be while a load is warmed, over the depression that keeps wet wood cooler (our judgement of
# AH-188's "slowly").
WARMER_THAN_WOOD_K = 3.0
# How creep grows with warmth, for a degree: in first drying, in changes of moisture the wood knows, and with time.
DRYING_PER_C, AGAIN_PER_C, TIME_PER_C = 0.02, 0.05, 0.085
# From here up a load fills the air of a chamber that only the sun drives.
DAMP_FROM = 0.20
# An open door changes the air so many times as often as leaks do.
DOOR_OVER_LEAKS = 60.0
# Air that no fan moves still moves a little, m/s.
STILL_M_S = 0.03
# What a step is: held until a moisture is reached, until boards are even, or for its hours.
DRYING, EQUALISING, TIMED = range(3)


@compiled
def stiffness(moisture, temperature_c, fibre_saturation):
    """Stiffness across the grain over that at 12% and 20°C (Wood Handbook ch. 5: +20% at 6%, −23% at 20%, a fifth to a third less for
    30 K more).
    """
    m = min(moisture, fibre_saturation)
    return max(1.0 - 3.1 * (m - 0.12), 0.4) * math.exp(-(0.008 + 0.02 * m) * (temperature_c - 20.0))


@compiled
def _strain(now, before, lowest, stress, creep, give, fibre_saturation, temperature_c, before_c, dx, dt, work):
    """One hour of stress through a board: one strain for all cells, stresses that sum to nothing.

    Fills ``stress``, ``creep``, ``lowest``.
    """
    n = now.size
    above, below = 0.0, 0.0
    for i in range(n):
        u, v = min(now[i], fibre_saturation), min(before[i], fibre_saturation)
        e, f = stiffness(u, temperature_c, fibre_saturation), stiffness(v, before_c, fibre_saturation)
        shrinks = give[SHRINKAGE] / fibre_saturation * (u - v)
        # The first drying gives most; later changes of moisture less (Grossman 1976).
        if u < lowest[i]:
            m = give[CREEP_DRYING] * math.exp(DRYING_PER_C * (temperature_c - 20.0)) * abs(u - v)
        else:
            m = give[CREEP_AGAIN] * math.exp(AGAIN_PER_C * (temperature_c - 60.0)) * abs(u - v)
        # Wood creeps the faster the warmer and the wetter it is.
        fades = give[FADES_S] * math.exp(-TIME_PER_C * (temperature_c - 20.0)) * (1.0 + give[DRY_FADES] * (1 - u / fibre_saturation))
        work[0, i] = 1 / e + m + dt / (fades * e)
        work[1, i] = stress[i] / f - shrinks
        work[2, i] = m + dt / (fades * e)
        above += dx[i] * work[1, i] / work[0, i]
        below += dx[i] / work[0, i]
        lowest[i] = min(lowest[i], u)
    strain = -above / below
    for i in range(n):
        stress[i] = (work[1, i] + strain) / work[0, i]
        creep[i] += work[2, i] * stress[i]


@compiled
def _boards(
    t,
    c,
    carried,
    warms,
    woods,
    densities,
    thickness,
    shares,
    profiles,
    dx,
    gaps,
    free,
    averages,
    flux,
    wood_c,
    surface,
    face_h,
    dt,
    new,
    new_c,
    new_surface,
    new_h,
    new_flux,
    mean,
    old,
    work,
):
    """One hour of every board in air of a temperature and a vapour, none of it kept yet.

    Fills the arrays that are called new; what they give off, kg/s for each m³ of load.
    """
    saturated = saturation(t)
    kelvin_air = t + 273.15
    mean[TEMPERATURE] = t
    mean[FROZEN] = min(max(-t, 0.0), 1.0)
    mean[SATURATED] = carried * saturated
    mean[AMBIENT] = min(carried * c, mean[SATURATED])
    mean[COOLING] = LATENT_HEAT * carried * saturated * (5400.0 / kelvin_air**2 - 1 / kelvin_air) / warms
    mean[HEAT_RESISTANCE] = 1 / warms
    humidity = min(max(c / saturated, 1e-6), 0.9999)
    level, _ = sorbed(t, humidity, 0.0)
    # Air that is held keeps all of the gap between both sorption curves open.
    mean[LEVEL], mean[GAP], mean[HYSTERESIS] = level, HYSTERESIS_GAP * min(1.0, 4 * humidity * (1 - humidity) / 0.64), 1.0
    given = 0.0
    n = old.size
    for b in range(averages.size):
        wood = woods[b]
        # The board's own temperature: warmed by the air, cooled by its vapour, held by what it weighs.
        holds = densities[b] * thickness[b] / 2 * (WOOD_HEAT + averages[b] * WATER_HEAT) / dt
        new_c[b] = (holds * wood_c[b] + warms * t - LATENT_HEAT * flux[b] * densities[b]) / (holds + warms)
        new_c[b] = min(max(new_c[b], t - 25.0), t + 25.0) if abs(wood_c[b] - t) < 20.0 else new_c[b]
        kelvin = new_c[b] + 273.15
        steep = ACTIVATION_PER_MOISTURE_K / kelvin
        frozen = min(max(-new_c[b], 0.0), 1.0)
        scale = _scale(wood[FACTOR], kelvin) * (1 - (1 - FROZEN_BOUND) * frozen)
        d_saturation = _bound(wood[FIBRE_SATURATION], scale, steep, wood[GRAVITY])
        d_free = free[b] * math.exp(-FREE_ACTIVATION_K * (1 / kelvin - 1 / ROOM_K)) * (1 - (1 - FROZEN_FREE) * frozen)
        for i in range(n):
            old[i] = profiles[b, i]
            new[b, i] = old[i]
        q, new_surface[b], new_h[b] = _solve_line(
            old,
            new[b],
            dx[b],
            gaps[b],
            dt,
            scale,
            steep,
            0.0,
            wood,
            _side(averages[b], mean),
            d_saturation,
            d_free,
            mean,
            densities[b],
            surface[b],
            face_h[b],
            True,
            work,
        )
        new_flux[b] = q
        given += q * densities[b] * 2 / thickness[b] * shares[b]
    return given


@compiled
def _half_mean(means, count):
    """The mean of the wettest half (rounded up) of so many means."""
    order = np.sort(means[:count])
    half = (count + 1) // 2
    total = 0.0
    for k in range(count - half, count):
        total += order[k]
    return total / half


@compiled
def _driest(averages, leading):
    """The driest of the leading boards."""
    driest = averages[0]
    for b in range(leading):
        driest = min(driest, averages[b])
    return driest


@compiled
def _goes_on(averages, leading, phase, until, in_step, phase_hours, wanted, low_start):
    """Whether a step holds for another hour: by the wettest half, of all boards and of the leading ones; the driest of those begins the
    evening out.
    """
    if phase == DRYING:
        if low_start > 0 and _driest(averages, leading) <= low_start:
            return False
        return max(_half_mean(averages, averages.size), _half_mean(averages, leading)) > until
    if phase == EQUALISING:
        return averages.max() > wanted
    return in_step < phase_hours


@compiled
def run(
    woods,
    densities,
    thickness,
    shares,
    gives,
    dx,
    profiles,
    chamber,
    untils,
    dries,
    humidities,
    depressions,
    phases,
    phase_hours,
    wanted,
    low_start,
    imposed,
    air_c,
    air_h,
    out_c,
    out_kg,
    leading,
    wood_c,
    air_before,
    dt,
    every,
    disturbed,
    temperature,
    humidity,
    position,
    means,
    surfaces,
    cores,
    shells,
    stresses,
    saved,
    wood_t,
    water,
    power,
    state,
    creep,
    lowest,
    stress,
):
    """March a load through its steps, or until the hours of the arrays are over.

    ``woods`` … ``shares`` have a row for each of the load's boards, ``profiles`` their cells (changed in place). A step holds (``dries``
    °C,
    ``humidities``) until the mean of the wettest half of all boards, and of the ``leading`` first ones, is at ``untils``; ``phases`` says
    what kind
    of step it is: equalising ends once the wettest is at ``wanted``, a timed one after its ``phase_hours``. Drying passes to the next kind
    early once the driest of the leading is at ``low_start`` (−1: never). With ``imposed`` the air is ``air_c``, ``air_h`` (a row for a wet
    load and one for a dry) whatever the chamber. ``disturbed`` has for each hour what works and what is
    open (:mod:`wood.kiln.disturbances`). Fills the arrays of hours and returns how many hours it took (all of them: not over), the water
    lost less the water that left (kg/m³ of load), and the greatest share by which the chamber's air and its load
    disagreed on what passed between them.
    """
    count, n = profiles.shape
    hours = temperature.size
    work, stress_work, old = np.empty((4, n)), np.empty((3, n)), np.empty(n)
    mean = np.zeros(COLUMNS)
    surface, face_h, flux, averages = np.empty(count), np.full(count, 0.9), np.zeros(count), np.empty(count)
    new, new_c, new_surface, new_h, new_flux = np.empty((count, n)), np.empty(count), np.empty(count), np.empty(count), np.empty(count)
    gaps, free = np.empty((count, n - 1)), np.empty(count)
    first, left, worst = 0.0, 0.0, 0.0
    for b in range(count):
        for i in range(n - 1):
            gaps[b, i] = 2 / (dx[b, i] + dx[b, i + 1])
        surface[b] = profiles[b, 0]
        total = 0.0
        for i in range(n):
            total += profiles[b, i] * dx[b, i]
        averages[b] = total / (thickness[b] / 2)
        first += averages[b] * densities[b] * shares[b]
        free[b] = woods[b, PERMEABILITY] * _bound(
            woods[b, FIBRE_SATURATION], _scale(woods[b, FACTOR], ROOM_K), ACTIVATION_PER_MOISTURE_K / ROOM_K, woods[b, GRAVITY]
        )
    step, in_step = int(state[0]), state[1]
    before_c, before_kg = air_before, out_kg[0] if out_kg.size else 0.0
    took = hours
    usual = chamber.copy()
    chamber = chamber.copy()
    for hour in range(hours):
        while step < untils.size and not _goes_on(
            averages, leading, phases[step], untils[step], in_step, phase_hours[step], wanted, low_start
        ):
            # The driest ends all the drying at once.
            kind = phases[step]
            step += 1
            if kind == DRYING and low_start > 0:
                driest = _driest(averages, leading)
                while step < untils.size and phases[step] == DRYING and driest <= low_start:
                    step += 1
            in_step = 0.0
        if step >= untils.size:
            took = hour
            break
        works = disturbed[hour]
        chamber[FAN_W] = usual[FAN_W] * works[FANS]
        chamber[DRIES_KG_S] = usual[DRIES_KG_S] * works[COMPRESSOR]
        chamber[COMPRESSOR_W] = usual[COMPRESSOR_W] * works[COMPRESSOR]
        chamber[STUCK_KG_S] = usual[SPRAY_KG_S] * works[STUCK]
        chamber[SPRAY_KG_S] = max(usual[SPRAY_KG_S] * works[SPRAYS], chamber[STUCK_KG_S])
        chamber[LEAKS_M3_S] = usual[LEAKS_M3_S] * (1.0 + DOOR_OVER_LEAKS * works[OPEN])
        speed = max(usual[SPEED_M_S] * works[FANS], STILL_M_S)
        heat_film, vapour_film = film(speed, chamber[STICKER_M], before_c)
        passing = speed * chamber[STICKER_M] / (2 * chamber[WIDTH_M])
        carried = -passing * math.expm1(-vapour_film / passing)
        warmth = passing * AIR_DENSITY_20 * 293.15 / (before_c + 273.15) * HEAT_CAPACITY
        warms = -warmth * math.expm1(-heat_film / warmth)
        heat = comp = vented = sprayed = dried = 0.0
        if imposed:
            # Wet wood fills its air, dry wood does not.
            damp = 0 if _half_mean(averages, averages.size) > DAMP_FROM else 1
            t, h = air_c[damp, hour], air_h[damp, hour]
            c = h * saturation(t)
            given = _boards(
                t,
                c,
                carried,
                warms,
                woods,
                densities,
                thickness,
                shares,
                profiles,
                dx,
                gaps,
                free,
                averages,
                flux,
                wood_c,
                surface,
                face_h,
                dt,
                new,
                new_c,
                new_surface,
                new_h,
                new_flux,
                mean,
                old,
                work,
            )
        else:
            load = chamber[LOAD_M3]
            take, take_at, evaporates, area_all = 0.0, 0.0, 0.0, 0.0
            for b in range(count):
                area = load * shares[b] * 2 / thickness[b]
                holds = densities[b] * thickness[b] / 2 * (WOOD_HEAT + averages[b] * WATER_HEAT) / dt
                into = warms * holds / (holds + warms)
                take += area * into
                take_at += area * into * wood_c[b]
                evaporates += area * warms / (holds + warms)
                area_all += area
            # Warmed no faster than the wood follows: else cold wood lies in hot dry air, and its skin is dried by the warming alone.
            follows = min(dries[step], take_at / take + WARMER_THAN_WOOD_K + depressions[step])
            # What the load gives falls with the vapour in the air: two tries tell how steeply, then air and load are brought to agree.
            t = min(max(before_c, out_c[hour]), follows)
            saturated = saturation(t)
            c = min(max(before_kg, 1e-6), saturated)
            given = load * _boards(
                t,
                c,
                carried,
                warms,
                woods,
                densities,
                thickness,
                shares,
                profiles,
                dx,
                gaps,
                free,
                averages,
                flux,
                wood_c,
                surface,
                face_h,
                dt,
                new,
                new_c,
                new_surface,
                new_h,
                new_flux,
                mean,
                old,
                work,
            )
            off, was_t = 0.0, t
            warmer = load * _boards(
                t + 0.2,
                c,
                carried,
                warms,
                woods,
                densities,
                thickness,
                shares,
                profiles,
                dx,
                gaps,
                free,
                averages,
                flux,
                wood_c,
                surface,
                face_h,
                dt,
                new,
                new_c,
                new_surface,
                new_h,
                new_flux,
                mean,
                old,
                work,
            )
            by_degree = (warmer - given) / 0.2
            for attempt in range(40):
                # How steeply it falls there.
                other = c * 0.99 if c > 0.3 * saturated else c + 0.01 * saturated
                again = load * _boards(
                    t,
                    other,
                    carried,
                    warms,
                    woods,
                    densities,
                    thickness,
                    shares,
                    profiles,
                    dx,
                    gaps,
                    free,
                    averages,
                    flux,
                    wood_c,
                    surface,
                    face_h,
                    dt,
                    new,
                    new_c,
                    new_surface,
                    new_h,
                    new_flux,
                    mean,
                    old,
                    work,
                )
                give = max((given - again) / (other - c), 1e-9)
                steeper, near = by_degree / give, t
                t, reached, heat, comp, vented, sprayed, dried = _air(
                    chamber,
                    follows,
                    humidities[step],
                    out_c[hour],
                    out_kg[hour],
                    usual[HEAT_W] * works[HEAT],
                    give,
                    c + given / give,
                    steeper,
                    t,
                    take,
                    take_at / take,
                    evaporates / area_all,
                )
                # Where vents and compressor give way to one another it goes to and fro: half steps end that.
                if attempt > 5:
                    reached = 0.5 * (reached + c)
                    t = 0.5 * (t + was_t)
                predicted = given - give * (reached - c) + by_degree * (t - near)
                c, saturated, was_t = reached, saturation(t), t
                given = load * _boards(
                    t,
                    c,
                    carried,
                    warms,
                    woods,
                    densities,
                    thickness,
                    shares,
                    profiles,
                    dx,
                    gaps,
                    free,
                    averages,
                    flux,
                    wood_c,
                    surface,
                    face_h,
                    dt,
                    new,
                    new_c,
                    new_surface,
                    new_h,
                    new_flux,
                    mean,
                    old,
                    work,
                )
                off = abs(given - predicted)
                if off <= 1e-7 * max(abs(given), 1e-5):
                    break
            if abs(given) > 1e-9:
                worst = max(worst, off / max(abs(given), 1e-5))
            given /= load
        h = min(c / saturation(t), 1.0)
        for b in range(count):
            was = wood_c[b]
            wood_c[b], surface[b], face_h[b], flux[b] = new_c[b], new_surface[b], new_h[b], new_flux[b]
            left += flux[b] * dt / (thickness[b] / 2) * densities[b] * shares[b]
            total, shell, depth = 0.0, 0.0, 0.0
            for i in range(n):
                old[i] = profiles[b, i]
                total += new[b, i] * dx[b, i]
                part = min(dx[b, i], max(0.0, 0.1 * thickness[b] - depth))
                shell += part * new[b, i]
                depth += dx[b, i]
            averages[b] = total / (thickness[b] / 2)
            _strain(
                new[b], old, lowest[b], stress[b], creep[b], gives[b], woods[b, FIBRE_SATURATION], wood_c[b], was, dx[b], dt, stress_work
            )
            for i in range(n):
                profiles[b, i] = new[b, i]
            means[b, hour], surfaces[b, hour], cores[b, hour], shells[b, hour] = (
                averages[b],
                surface[b],
                new[b, n - 1],
                shell / (0.1 * thickness[b]),
            )
            wood_t[b, hour] = wood_c[b]
            if hour % every == 0:
                for i in range(n):
                    stresses[b, hour // every, i] = stress[b, i]
                    saved[b, hour // every, i] = new[b, i]
        temperature[hour], humidity[hour], position[hour] = t, h, step
        water[hour, 0], water[hour, 1], water[hour, 2], water[hour, 3] = (
            given,
            dried,
            sprayed,
            (chamber[LEAKS_M3_S] + vented) * (c - out_kg[hour]),
        )
        power[hour, 0], power[hour, 1], power[hour, 2] = (
            heat + chamber[STEAM] * sprayed * LATENT_HEAT,
            comp * chamber[COMPRESSOR_W],
            chamber[FAN_W],
        )
        before_c, before_kg = t, c
        in_step += dt / 3600.0
    state[0], state[1] = step, in_step
    end = 0.0
    for b in range(count):
        end += averages[b] * densities[b] * shares[b]
    return took, first - end - left, worst
