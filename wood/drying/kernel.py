"""The compiled inside of :mod:`wood.drying.field`: one line of cells, solved implicitly; a slab is one line, a short piece many.

A line runs from its open surface inwards to a plane of symmetry. Each step is implicit (second order where the last two steps allow it),
and every new value an average of old neighbours and the surface, so nothing overshoots whatever the step; fluxes are shared by neighbours,
so water is kept to rounding. Everything is in SI units, time in seconds, moisture as a fraction.

Climate comes as running sums over the hours (:func:`wood.drying.field.driven`), so a step of any length sees exact means of what acts on
the wood: ``T, frozen, K·c_sat, K·c_air, X, 1/h``, the EMC it leads to, the half gap between both sorption curves there and the share of
that gap that holds wood in such air, in that order.
"""

import math

import numpy as np
from numba import njit

from wood.air.sorption import HYSTERESIS_GAP

# Compiled once and kept beside this file; lets go of the interpreter so that threads run side by side.
compiled = njit(cache=True, nogil=True, error_model="numpy")

GAS_CONSTANT = 8.314
LATENT_HEAT = 2.45e6
REFERENCE_K = 298.15
# Diffusivity of bound water through the cell wall across the grain (m²/s) at 60°C and 10%, its activation (K) at no moisture and by
# how much moisture lessens that (K per unit); of free water the activation alone. See the head of wood/drying/field.py.
CELL_WALL, CELL_WALL_K, CELL_WALL_MOISTURE = 2.6e-11, 333.15, 0.10
ACTIVATION_K, ACTIVATION_PER_MOISTURE_K = 5500.0, 2000.0
FREE_ACTIVATION_K, ROOM_K = 4500.0, 293.15
# In wood so dense that hardly a lumen is left the geometry of lumens says nothing; least share of lumens.
LEAST_LUMENS = 0.02
# Columns of the driving sums.
TEMPERATURE, FROZEN, SATURATED, AMBIENT, COOLING, HEAT_RESISTANCE, LEVEL, GAP, HYSTERESIS = range(9)
COLUMNS = 9
# Positions in the row of figures that describes a wood.
FACTOR, GRAVITY, FIBRE_SATURATION, PERMEABILITY, CONSTANT, ALONG = range(6)
# What freezing leaves of the movement of free water, and of bound water beside what the cold itself leaves.
FROZEN_FREE, FROZEN_BOUND = 0.015, 0.04
# Below this share of fibre saturation nothing in wood freezes: bound water moves by its temperature alone.
ICED_FROM = 0.6
# In air that changes, arrival is by a moving mean of the piece's own moisture once so many of its lengths have passed.
SMOOTHED_FROM = 3.0


@compiled
def sorbed(t, h, branch):
    """Moisture of wood in equilibrium with humidity ``h`` and its slope ∂M/∂h: the equation of :func:`wood.air.sorption.emc`.

    ``branch`` is +1 for wood drying down, −1 for wood regaining, 0 between (:func:`wood.air.sorption.hysteresis_band`).
    """
    w = 349 + t * (1.29 + 0.0135 * t)
    k = 0.805 + t * (0.000736 - 0.00000273 * t)
    k1 = 6.27 - t * (0.00938 + 0.000303 * t)
    k2 = 1.91 + t * (0.0407 - 0.000293 * t)
    kh = k * h
    a = k1 * kh
    b = a * kh * k2
    bottom = 1 + a + b
    dry = 1 - kh
    m = 18.0 / w * (kh / dry + (a + 2 * b) / bottom)
    da, db = k1 * k, 2 * k1 * k2 * k * kh
    slope = 18.0 / w * (k / dry**2 + ((da + 2 * db) * bottom - (a + 2 * b) * (da + db)) / bottom**2)
    if branch != 0.0:
        closing = 4 * h * (1 - h) / 0.64
        if closing >= 1.0:
            share, share_slope = 1 + branch * HYSTERESIS_GAP, 0.0
        else:
            share, share_slope = 1 + branch * HYSTERESIS_GAP * closing, branch * HYSTERESIS_GAP * 4 * (1 - 2 * h) / 0.64
        slope = slope * share + m * share_slope
        m *= share
    return m, slope


@compiled
def _scale(factor, kelvin):
    """What diffusivity at no moisture is made of at a temperature (K), before the lumens' geometry."""
    per_moisture = ACTIVATION_PER_MOISTURE_K / kelvin
    return factor * CELL_WALL * math.exp(-ACTIVATION_K * (1 / kelvin - 1 / CELL_WALL_K) - per_moisture * CELL_WALL_MOISTURE)


@compiled
def _bound(m, scale, steep, gravity):
    """Transverse diffusivity of bound water at moisture ``m``, at most fibre saturation; ``steep`` is its growth with moisture."""
    square = max(1 - gravity * (0.667 + m), LEAST_LUMENS)
    return scale * math.exp(steep * m) / ((1 - square) * (1 - math.sqrt(square)))


@compiled
def _between(item, other, d_one, d_other, saturation, d_saturation, d_free):
    """Mean diffusivity over the moistures between two neighbours whose own are ``d_one`` and ``d_other``.

    Simpson's rule below fibre saturation, its middle the geometric mean because D grows exponentially; constant above.
    """
    if item > other:
        item, other, d_one, d_other = other, item, d_other, d_one
    if item >= saturation:
        return d_free
    if other <= saturation:
        return (d_one + 4 * math.sqrt(d_one * d_other) + d_other) / 6
    wet = (other - saturation) / (other - item)
    return (1 - wet) * (d_one + 4 * math.sqrt(d_one * d_saturation) + d_saturation) / 6 + wet * d_free


@compiled
def _surface_flux(h, mean, density):
    """What leaves an open surface at humidity ``h``, as moisture times speed (m/s): vapour difference over all resistances."""
    return (mean[SATURATED] * h - mean[AMBIENT]) / (1 + mean[COOLING] * h) / density


@compiled
def _eliminate(old, new, dx, gap, dt, scale, steep, fixed, wood, d_saturation, d_free, work):
    """Set up one implicit step of a line, with diffusivities at the moistures that ``new`` holds, and sweep from the core outwards.

    What is left in ``work``: storage and content that the first cell stands for, and the coupling between neighbours.
    """
    n = old.size
    diagonal, right, coupling, diffusivity = work[0], work[1], work[2], work[3]
    saturation, gravity = wood[FIBRE_SATURATION], wood[GRAVITY]
    for i in range(n):
        diagonal[i] = dx[i] / dt
        right[i] = old[i] * diagonal[i]
        if fixed > 0.0:
            diffusivity[i] = fixed
        elif new[i] < saturation:
            diffusivity[i] = _bound(new[i], scale, steep, gravity)
        else:
            diffusivity[i] = d_free
    for i in range(n - 1):
        c = fixed
        if fixed == 0.0:
            c = _between(new[i], new[i + 1], diffusivity[i], diffusivity[i + 1], saturation, d_saturation, d_free)
        c *= gap[i]
        coupling[i] = c
    # A cell and all that lies behind it act on the next one outwards like one storage; written with sums only, nothing cancels where
    # diffusion is far faster than the step.
    for i in range(n - 1, 0, -1):
        share = coupling[i - 1] / (diagonal[i] + coupling[i - 1])
        diagonal[i - 1] += share * diagonal[i]
        right[i - 1] += share * right[i]


@compiled
def _balance(giving, content, storage, branch, mean, density, humidity):
    """What leaves an open surface (m/s), its moisture and its humidity: the wood gives as much as the air takes.

    The wood gives ``giving·(content − storage·M_s)``, a falling line over the surface's moisture; Newton steps in a bracket find the
    humidity at which the air takes that. Saturated air never leaves wood drier than a fifth.
    """
    temperature = mean[TEMPERATURE]
    full, most = 0.2, 0.0
    if content > full * storage:
        full, _ = sorbed(temperature, 1.0, branch)
        most = _surface_flux(1.0, mean, density)
    if content > full * storage and giving * (content - storage * full) >= most:
        return most, (content - most / giving) / storage, 1.0
    low, high = 0.0, 1.0
    h = min(max(humidity, 1e-6), 1 - 1e-9)
    for _ in range(60):
        m, slope = sorbed(temperature, h, branch)
        lost = 1 + mean[COOLING] * h
        short = giving * (content - storage * m) - _surface_flux(h, mean, density)
        if short > 0:
            low = h
        else:
            high = h
        fall = giving * storage * slope + (mean[SATURATED] + mean[COOLING] * mean[AMBIENT]) / (lost * lost * density)
        step = short / fall
        h += step
        if not low < h < high:
            h = 0.5 * (low + high)
        elif abs(step) < 1e-10:
            break
        if high - low < 1e-15:
            break
    surface, _ = sorbed(temperature, h, branch)
    return giving * (content - storage * surface), surface, h


@compiled
def _solve_line(
    old, new, dx, gap, dt, scale, steep, fixed, wood, branch, d_saturation, d_free, mean, density, surface, humidity, is_open, work
):
    """One implicit step of one line; fills ``new``, returns (outflow in m/s, surface moisture, surface humidity)."""
    _eliminate(old, new, dx, gap, dt, scale, steep, fixed, wood, d_saturation, d_free, work)
    diagonal, right, coupling = work[0], work[1], work[2]
    outflow = 0.0
    if is_open:
        g = fixed
        if fixed == 0.0:
            d_face = _bound(surface, scale, steep, wood[GRAVITY]) if surface < wood[FIBRE_SATURATION] else d_free
            g = _between(new[0], surface, work[3, 0], d_face, wood[FIBRE_SATURATION], d_saturation, d_free)
        # Through the last half cell.
        g *= 2 / dx[0]
        giving = g / (diagonal[0] + g)
        if fixed > 0.0:
            # A straight sorption line, for checks against series solutions: M_s = h.
            give = (mean[SATURATED]) / density
            take = mean[AMBIENT] / density
            surface = (giving * right[0] + take) / (give + giving * diagonal[0])
            humidity = surface
            outflow = giving * (right[0] - diagonal[0] * surface)
        else:
            outflow, surface, humidity = _balance(giving, right[0], diagonal[0], branch, mean, density, humidity)
    new[0] = (right[0] - outflow) / diagonal[0]
    for i in range(1, old.size):
        new[i] = (right[i] + coupling[i - 1] * new[i - 1]) / (diagonal[i] + coupling[i - 1])
    return outflow, surface, humidity


@compiled
def _mean_of(sums, hour_s, start, end, out):
    """Means of the driving columns from ``start`` to ``end`` seconds, from their running sums; after its end the series begins anew."""
    last = sums.shape[0] - 1
    p, q = start / hour_s, end / hour_s
    span = q - p
    first_round, round_ = math.floor(p / last), math.floor(q / last)
    p -= first_round * last
    q -= round_ * last
    i, j = min(int(p), last - 1), min(int(q), last - 1)
    for c in range(COLUMNS):
        low = sums[i, c] + (p - i) * (sums[i + 1, c] - sums[i, c])
        high = sums[j, c] + (q - j) * (sums[j + 1, c] - sums[j, c]) + (round_ - first_round) * sums[last, c]
        out[c] = (high - low) / span


@compiled
def _allowed_ahead(old, older, surface, wanted):
    """``wanted``, or 0 where some cell carried on by that share of its last change would leave the range of the cells and the surface."""
    low = high = surface[0]
    for j in range(old.shape[0]):
        low, high = min(low, surface[j]), max(high, surface[j])
        for i in range(old.shape[1]):
            low, high = min(low, old[j, i]), max(high, old[j, i])
    for j in range(old.shape[0]):
        for i in range(old.shape[1]):
            there = old[j, i] + wanted * (old[j, i] - older[j, i])
            if there < low or there > high:
                return 0.0
    return wanted


@compiled
def _whole(field, dx, dz, size):
    """The mean of a field over the piece, ``size`` being half its thickness times its length."""
    total = 0.0
    for j in range(field.shape[0]):
        for i in range(field.shape[1]):
            total += field[j, i] * dx[i] * dz[j]
    return total / size


@compiled
def _turned(new, old, rate, dt, dx, dz, size):
    """The step's own error, by how far the rate of change has turned; weighted by mass, so a thin skin does not rule the step."""
    error = 0.0
    for j in range(new.shape[0]):
        for i in range(new.shape[1]):
            error += abs(new[j, i] - old[j, i] - dt * rate[j, i]) * dx[i] * dz[j]
    return error * 0.5 / size


@compiled
def _side(average, mean):
    """On which side of the loop the wood is, −1 … 1 times the share of it that holds wood: wood between both sorption curves stays as it
    is; above it follows the drying curve, below the regaining one."""
    hysteresis = mean[HYSTERESIS]
    gap = hysteresis * mean[GAP] * mean[LEVEL]
    return hysteresis * min(max((average - mean[LEVEL]) / gap, -1.0), 1.0) if gap > 0.0 else 0.0


@compiled
def _iced(average, saturation):
    """How far frost holds the bound water of a piece: altogether while its mean is at fibre saturation, where ice lies in the way, and not
    at all from six tenths of that down, where no water is left to freeze."""
    return min(max((average / saturation - ICED_FROM) / (1 - ICED_FROM), 0.0), 1.0)


@compiled
def _outer_fifth(profile, later, share, dx, half):
    """The mean of the outer fifth of the half thickness, ``share`` of the way from one profile to a later one."""
    shell, depth = 0.0, 0.0
    for i in range(dx.size):
        part = min(dx[i], max(0.0, 0.2 * half - depth))
        shell += part * (profile[i] + share * (later[i] - profile[i]))
        depth += dx[i]
    return shell / (0.2 * half)


@compiled
def _arrival(time, dt, average, now, falling, target, smooth, smoothing_s):
    """When in this step the mean reaches the target (−1: it does not), and the moving mean after it.

    By the moving mean of days, which runs behind by its own length; the first touch of a damp night or a dry noon is no arrival.
    """
    if smoothing_s > 0.0 and time > SMOOTHED_FROM * smoothing_s:
        keeps = math.exp(-dt / smoothing_s)
        moving = smooth * keeps + average * (1 - keeps) + (now - average) * (1 - smoothing_s / dt * (1 - keeps))
        if (falling and moving <= target) or (not falling and moving >= target):
            reached = time + (dt * (smooth - target) / (smooth - moving) if moving != smooth else 0.0)
            return max(reached - smoothing_s, SMOOTHED_FROM * smoothing_s), moving
        return -1.0, moving
    if (falling and now <= target) or (not falling and now >= target):
        return time + (dt * (average - target) / (average - now) if now != average else 0.0), smooth
    # Level with the mean as it was that long ago, so that a steady fall is met without a jump.
    return -1.0, now + (average - now) / dt * smoothing_s


@compiled
def run(
    sums,
    hour_s,
    begin_s,
    start,
    dx,
    dz,
    wood,
    density,
    drive_share,
    air_share,
    ends_open,
    horizon_s,
    first_step_s,
    max_step_s,
    smoothing_s,
    tolerance,
    target,
    enough_s,
    out_s,
    means,
    surfaces,
    shells,
    cores,
    ends,
    profiles,
):
    """March one piece through its climate.

    ``start`` is moisture by row (along the grain from an end to the middle) and cell (face to middle); one row is a slab. ``dz`` are
    the rows' lengths. ``smoothing_s`` is the length of the mean that tells of arrival, 0 for air that stands still. ``drive_share``
    multiplies the surface's conductance, ``air_share`` the vapour in the air. The run ends early once the target is crossed and
    ``enough_s`` have passed. Fills the arrays at the times ``out_s`` (``profiles`` may have no rows) and returns (crossing time or −1,
    steps, water lost, water that left, mean at the end, lowest and highest mean).
    """
    rows, n = start.shape
    old, new, older, from_ = start.copy(), start.copy(), start.copy(), start.copy()
    last_dt, last_lost, smooth = first_step_s, 0.0, 0.0
    rate = np.zeros((rows, n))
    work = np.empty((4, max(rows, n)))
    mean = np.empty(COLUMNS)
    surface, humidity = start[:, 0].copy(), np.full(rows, 0.5)
    end_surface, end_humidity = start[0].copy(), np.full(n, 0.5)
    half, length = dx.sum(), dz.sum()
    size = half * length
    average = _whole(start, dx, dz, size)
    first_average, left = average, 0.0
    falling = average > target
    lowest = highest = average
    time, dt, crossing = 0.0, first_step_s, -1.0
    face_flux, steps, filled = 0.0, 0, 0
    previous_surface, previous_end = surface[rows - 1], end_surface[0]
    between, row_gap = 2 / (dx[:-1] + dx[1:]), 2 / (dz[:-1] + dz[1:])
    along, fixed = wood[ALONG], wood[CONSTANT]
    line, column = np.empty(rows), np.empty(rows)
    free = wood[PERMEABILITY] * _bound(
        wood[FIBRE_SATURATION], _scale(wood[FACTOR], ROOM_K), ACTIVATION_PER_MOISTURE_K / ROOM_K, wood[GRAVITY]
    )
    while time < horizon_s * (1 - 1e-9):
        dt = min(dt, horizon_s - time, max_step_s)
        _mean_of(sums, hour_s, begin_s + time, begin_s + time + dt, mean)
        mean[SATURATED] *= drive_share
        # However damp a run is made, air holds no more than saturated air.
        mean[AMBIENT] = min(mean[AMBIENT] * drive_share * air_share, mean[SATURATED])
        # Wet wood is cooler than the air by the heat that its vapour takes with it.
        cooler = min(LATENT_HEAT * max(face_flux, 0.0) * density * mean[HEAT_RESISTANCE] / max(drive_share, 0.2), 25.0)
        kelvin = mean[TEMPERATURE] + 273.15 - cooler
        steep = ACTIVATION_PER_MOISTURE_K / kelvin
        frozen_bound = 1 - (1 - FROZEN_BOUND) * mean[FROZEN] * _iced(average, wood[FIBRE_SATURATION])
        scale = _scale(wood[FACTOR], kelvin) * frozen_bound
        d_saturation = _bound(wood[FIBRE_SATURATION], scale, steep, wood[GRAVITY])
        d_free = free * math.exp(-FREE_ACTIVATION_K * (1 / kelvin - 1 / ROOM_K)) * (1 - (1 - FROZEN_FREE) * mean[FROZEN])
        branch = _side(average, mean)
        # Second order in time by the last two steps' values (BDF2), as one implicit step from a point a little ahead; plain
        # backward Euler where that point would lie beyond everything the wood knows.
        ahead, implicit = 0.0, 1.0
        if steps > 0:
            growth = dt / last_dt
            ahead = _allowed_ahead(old, older, surface, growth * growth / (1 + 2 * growth))
            implicit = 1 - ahead / growth
        lost = ahead * last_lost
        face = 0.0
        for j in range(rows):
            # Diffusivities are taken where the last step's trend leads; the step's error below says whether it did.
            for i in range(n):
                new[j, i] = max(old[j, i] + dt * rate[j, i], 0.0)
                from_[j, i] = old[j, i] + ahead * (old[j, i] - older[j, i])
            q, surface[j], humidity[j] = _solve_line(
                from_[j],
                new[j],
                dx,
                between,
                implicit * dt,
                scale,
                steep,
                fixed,
                wood,
                branch,
                d_saturation,
                d_free,
                mean,
                density,
                surface[j],
                humidity[j],
                True,
                work,
            )
            face += q * dz[j]
        lost += face * implicit * dt / size
        if rows > 1:
            for i in range(n):
                for j in range(rows):
                    column[j] = new[j, i]
                    line[j] = new[j, i]
                q, end_surface[i], end_humidity[i] = _solve_line(
                    column,
                    line,
                    dz,
                    row_gap,
                    implicit * dt,
                    scale * along,
                    steep,
                    fixed * along,
                    wood,
                    branch,
                    d_saturation * along,
                    d_free * along,
                    mean,
                    density,
                    end_surface[i],
                    end_humidity[i],
                    ends_open,
                    work,
                )
                lost += q * implicit * dt * dx[i] / size
                for j in range(rows):
                    new[j, i] = line[j]
        error, now = _turned(new, old, rate, dt, dx, dz, size), _whole(new, dx, dz, size)
        if error > 2 * tolerance and dt > 60.0 and steps > 0:
            dt *= max(0.25, 0.85 * math.sqrt(tolerance / error))
            continue
        left += lost
        face_flux = face / length
        while filled < out_s.size and out_s[filled] <= time + dt + 1e-6:
            share = (out_s[filled] - time) / dt
            before, after = old[rows - 1], new[rows - 1]
            means[filled] = average + share * (now - average)
            surfaces[filled] = previous_surface + share * (surface[rows - 1] - previous_surface)
            ends[filled] = previous_end + share * (end_surface[0] - previous_end)
            cores[filled] = before[n - 1] + share * (after[n - 1] - before[n - 1])
            shells[filled] = _outer_fifth(before, after, share, dx, half)
            if profiles.shape[0] > filled:
                for i in range(n):
                    profiles[filled, i] = before[i] + share * (after[i] - before[i])
            filled += 1
        if crossing < 0:
            crossing, smooth = _arrival(time, dt, average, now, falling, target, smooth, smoothing_s)
        previous_surface, previous_end = surface[rows - 1], end_surface[0]
        average = now
        lowest, highest = min(lowest, now), max(highest, now)
        time += dt
        steps += 1
        last_dt, last_lost = dt, lost
        for j in range(rows):
            for i in range(n):
                rate[j, i] = (new[j, i] - old[j, i]) / dt
                older[j, i] = old[j, i]
                old[j, i] = new[j, i]
        if crossing >= 0 and time >= enough_s:
            break
        dt *= min(2.0, 0.9 * math.sqrt(tolerance / error)) if error > 0 else 2.0
    for k in range(filled, out_s.size):
        means[k] = average
        surfaces[k], shells[k], cores[k], ends[k] = surface[rows - 1], old[rows - 1, 0], old[rows - 1, n - 1], end_surface[0]
        if profiles.shape[0] > k:
            for i in range(n):
                profiles[k, i] = old[rows - 1, i]
    return crossing, steps, first_average - average, left, average, lowest, highest
