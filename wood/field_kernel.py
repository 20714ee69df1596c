"""The compiled inside of :mod:`wood.field`: one line of cells, solved implicitly; a slab is one line, a short piece many.

A line runs from its open surface inwards to a plane of symmetry. Backward Euler in time makes every new value an average of old
neighbours and the surface, so nothing overshoots whatever the step; fluxes are shared by neighbours, so water is kept to rounding.
Everything is in SI units, time in seconds, moisture as a fraction.

Climate comes as running sums over the hours (:func:`wood.field.driven`), so a step of any length sees exact means of what acts on
the wood: ``T, arrhenius, frozen, K·c_sat, K·c_air, X, 1/h``, in that order.
"""

import math

import numpy as np
from numba import njit

from wood.sorption import HYSTERESIS_GAP

# Compiled once and kept beside this file; lets go of the interpreter so that threads run side by side.
compiled = njit(cache=True, nogil=True, error_model="numpy")

GAS_CONSTANT = 8.314
LATENT_HEAT = 2.45e6
# Siau's cell-wall diffusivity at 25 °C and no moisture, m²/s.
REFERENCE_K = 298.15
DRY_DIFFUSIVITY = 7e-6 * math.exp(-38_500.0 / (GAS_CONSTANT * REFERENCE_K))
# How diffusivity grows with moisture (per unit of the fraction) and with temperature (K): chosen, see the head of wood/field.py.
PER_MOISTURE = 6.5
ACTIVATION_K = 5280.0
# Columns of the driving sums.
TEMPERATURE, ARRHENIUS, FROZEN, SATURATED, AMBIENT, COOLING, HEAT_RESISTANCE = range(7)
COLUMNS = 7
# Positions in the row of figures that describes a wood.
FACTOR, GRAVITY, FIBRE_SATURATION, PERMEABILITY, CONSTANT, BRANCH, ALONG = range(7)
# What freezing leaves of the movement of free water.
FROZEN_SHARE = 0.1


@compiled
def sorbed(t, h, branch):
    """Moisture of wood in equilibrium with humidity ``h`` and its slope ∂M/∂h: the equation of :func:`wood.sorption.emc`.

    ``branch`` is +1 for wood drying down, −1 for wood regaining, 0 between (:func:`wood.sorption.hysteresis_band`).
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
def _bound(m, scale, gravity):
    """Transverse diffusivity of bound water at moisture ``m``, at most fibre saturation."""
    square = 1 - gravity * (0.667 + m)
    return scale * math.exp(PER_MOISTURE * m) / ((1 - square) * (1 - math.sqrt(square)))


@compiled
def _between(one, other, d_one, d_other, saturation, d_saturation, d_free):
    """Mean diffusivity over the moistures between two neighbours whose own are ``d_one`` and ``d_other``.

    Simpson's rule below fibre saturation, its middle the geometric mean because D grows exponentially; constant above.
    """
    if one > other:
        one, other, d_one, d_other = other, one, d_other, d_one
    if one >= saturation:
        return d_free
    if other <= saturation:
        return (d_one + 4 * math.sqrt(d_one * d_other) + d_other) / 6
    free = (other - saturation) / (other - one)
    return (1 - free) * (d_one + 4 * math.sqrt(d_one * d_saturation) + d_saturation) / 6 + free * d_free


@compiled
def _surface_flux(h, mean, density):
    """What leaves an open surface at humidity ``h``, as moisture times speed (m/s): vapour difference over all resistances."""
    return (mean[SATURATED] * h - mean[AMBIENT]) / (1 + mean[COOLING] * h) / density


@compiled
def _solve_line(old, new, dx, gap, dt, scale, fixed, wood, d_saturation, d_free, mean, density, surface, humidity, is_open, work):
    """One implicit step of one line, with diffusivities at the moistures that ``new`` holds; fills ``new``, returns (outflow in m/s, surface moisture, surface humidity).

    Elimination runs from the core outwards and leaves one equation for the surface, whose humidity is found by Newton steps in a
    bracket: the flux through the last half cell must equal what the air takes.
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
            diffusivity[i] = _bound(new[i], scale, gravity)
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
    outflow = 0.0
    if is_open:
        g = fixed
        if fixed == 0.0:
            d_face = _bound(surface, scale, gravity) if surface < saturation else d_free
            g = _between(new[0], surface, diffusivity[0], d_face, saturation, d_saturation, d_free)
        g *= 2 / dx[0]
        # Flux out of the wood as a falling line over the surface's moisture: q = g·(right − diagonal·M_s)/(diagonal + g).
        steep = g / (diagonal[0] + g)
        temperature, branch = mean[TEMPERATURE], wood[BRANCH]
        if fixed > 0.0:
            # A straight sorption line, for checks against series solutions: M_s = h.
            give = (mean[SATURATED]) / density
            take = mean[AMBIENT] / density
            surface = (steep * right[0] + take) / (give + steep * diagonal[0])
            humidity = surface
            outflow = steep * (right[0] - diagonal[0] * surface)
        else:
            full, _ = sorbed(temperature, 1.0, branch)
            most = _surface_flux(1.0, mean, density)
            if steep * (right[0] - diagonal[0] * full) >= most:
                humidity = 1.0
                outflow = most
                surface = (right[0] - most / steep) / diagonal[0]
            else:
                low, high = 0.0, 1.0
                h = min(max(humidity, 1e-6), 1 - 1e-9)
                for _ in range(60):
                    m, slope = sorbed(temperature, h, branch)
                    lost = 1 + mean[COOLING] * h
                    short = steep * (right[0] - diagonal[0] * m) - _surface_flux(h, mean, density)
                    if short > 0:
                        low = h
                    else:
                        high = h
                    fall = steep * diagonal[0] * slope + (mean[SATURATED] + mean[COOLING] * mean[AMBIENT]) / (lost * lost * density)
                    step = short / fall
                    h += step
                    if not low < h < high:
                        h = 0.5 * (low + high)
                    elif abs(step) < 1e-13:
                        break
                    if high - low < 1e-15:
                        break
                humidity = h
                surface, _ = sorbed(temperature, h, branch)
                outflow = steep * (right[0] - diagonal[0] * surface)
    new[0] = (right[0] - outflow) / diagonal[0]
    for i in range(1, n):
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
def run(sums, hour_s, begin_s, start, dx, dz, wood, density, drive_share, air_share, ends_open, horizon_s, first_step_s, max_step_s,
        tolerance, target, enough_s, out_s, means, surfaces, shells, cores, ends, profiles):  # fmt: skip
    """March one piece through its climate.

    ``start`` is moisture by row (along the grain from an end to the middle) and cell (face to middle); one row is a slab. ``dz`` are
    the rows' lengths. ``drive_share`` multiplies the surface's conductance, ``air_share`` the vapour in the air. The run ends early
    once the target is crossed and ``enough_s`` have passed. Fills the arrays at the times ``out_s`` (``profiles`` may have no rows) and
    returns (crossing time or −1, steps, water lost, water that left, mean at the end, lowest and highest mean).
    """
    rows, n = start.shape
    old, new = start.copy(), start.copy()
    rate = np.zeros((rows, n))
    work = np.empty((4, max(rows, n)))
    mean = np.empty(COLUMNS)
    surface, humidity = np.empty(rows), np.empty(rows)
    end_surface, end_humidity = np.empty(n), np.empty(n)
    half, length = dx.sum(), dz.sum()
    for j in range(rows):
        surface[j], humidity[j] = start[j, 0], 0.5
    for i in range(n):
        end_surface[i], end_humidity[i] = start[0, i], 0.5
    average = 0.0
    for j in range(rows):
        for i in range(n):
            average += start[j, i] * dx[i] * dz[j]
    average /= half * length
    first_average, left = average, 0.0
    falling = average > target
    lowest = highest = average
    time, dt, crossing = 0.0, first_step_s, -1.0
    face_flux, steps, filled = 0.0, 0, 0
    previous_surface, previous_end = surface[rows - 1], end_surface[0]
    gap, row_gap = 2 / (dx[:-1] + dx[1:]), 2 / (dz[:-1] + dz[1:])
    along, fixed = wood[ALONG], wood[CONSTANT]
    line, column = np.empty(rows), np.empty(rows)
    while time < horizon_s * (1 - 1e-9):
        dt = min(dt, horizon_s - time, max_step_s)
        _mean_of(sums, hour_s, begin_s + time, begin_s + time + dt, mean)
        mean[SATURATED] *= drive_share
        # However damp a run is made, air holds no more than saturated air.
        mean[AMBIENT] = min(mean[AMBIENT] * drive_share * air_share, mean[SATURATED])
        # Wet wood is cooler than the air by the heat that its vapour takes with it.
        cooler = LATENT_HEAT * max(face_flux, 0.0) * density * mean[HEAT_RESISTANCE] / max(drive_share, 0.2)
        kelvin = mean[TEMPERATURE] + 273.15
        cooler = min(cooler, 25.0)
        scale = wood[FACTOR] * mean[ARRHENIUS] * math.exp(-ACTIVATION_K * cooler / (kelvin * kelvin))
        d_saturation = _bound(wood[FIBRE_SATURATION], scale, wood[GRAVITY])
        d_free = d_saturation * wood[PERMEABILITY] * (1 - (1 - FROZEN_SHARE) * mean[FROZEN])
        lost = 0.0
        face = 0.0
        for j in range(rows):
            # Diffusivities are taken where the last step's trend leads; the step's error below says whether it did.
            for i in range(n):
                new[j, i] = max(old[j, i] + dt * rate[j, i], 0.0)
            q, surface[j], humidity[j] = _solve_line(
                old[j], new[j], dx, gap, dt, scale, fixed, wood, d_saturation, d_free, mean, density, surface[j], humidity[j], True, work
            )
            face += q * dz[j]
        lost += face * dt / (half * length)
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
                    dt,
                    scale * along,
                    fixed * along,
                    wood,
                    d_saturation * along,
                    d_free * along,
                    mean,
                    density,
                    end_surface[i],
                    end_humidity[i],
                    ends_open,
                    work,
                )
                lost += q * dt * dx[i] / (half * length)
                for j in range(rows):
                    new[j, i] = line[j]
        # The step's own error by how far the rate of change has turned; weighted by mass, so a thin skin does not rule the step.
        error = 0.0
        for j in range(rows):
            for i in range(n):
                error += abs(new[j, i] - old[j, i] - dt * rate[j, i]) * dx[i] * dz[j]
        error *= 0.5 / (half * length)
        if error > 2 * tolerance and dt > 60.0 and steps > 0:
            dt *= max(0.25, 0.85 * math.sqrt(tolerance / error))
            continue
        now = 0.0
        for j in range(rows):
            for i in range(n):
                rate[j, i] = (new[j, i] - old[j, i]) / dt
                now += new[j, i] * dx[i] * dz[j]
        now /= half * length
        left += lost
        face_flux = face / length
        while filled < out_s.size and out_s[filled] <= time + dt + 1e-6:
            share = (out_s[filled] - time) / dt
            means[filled] = average + share * (now - average)
            surfaces[filled] = previous_surface + share * (surface[rows - 1] - previous_surface)
            ends[filled] = previous_end + share * (end_surface[0] - previous_end)
            cores[filled] = old[rows - 1, n - 1] + share * (new[rows - 1, n - 1] - old[rows - 1, n - 1])
            skin, depth = 0.0, 0.0
            for i in range(n):
                part = min(dx[i], max(0.0, 0.2 * half - depth))
                skin += part * (old[rows - 1, i] + share * (new[rows - 1, i] - old[rows - 1, i]))
                depth += dx[i]
            shells[filled] = skin / (0.2 * half)
            if profiles.shape[0] > filled:
                for i in range(n):
                    profiles[filled, i] = old[rows - 1, i] + share * (new[rows - 1, i] - old[rows - 1, i])
            filled += 1
        if crossing < 0 and ((falling and now <= target) or (not falling and now >= target)):
            crossing = time + (dt * (average - target) / (average - now) if now != average else 0.0)
        previous_surface, previous_end = surface[rows - 1], end_surface[0]
        average = now
        lowest, highest = min(lowest, now), max(highest, now)
        time += dt
        steps += 1
        for j in range(rows):
            for i in range(n):
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
