"""The moisture field measured: one board-year, against general solvers on the same problem, many runs, growth, memory, start."""

import os
import resource
import subprocess
import sys
import tempfile
import time

import numpy as np
from numba import njit

from command.bench import best, row
from command.machine import ROOT
from wood import climate, field, finished, rooms
from wood import field_kernel as kernel
from wood.diffusivity import of_species
from wood.drying import YARD, Question, answer, setting
from wood.species import species
from wood.stacks import Stack

BOARD_M, GREEN, TARGET = 0.0286, 0.75, 0.20
YEAR = 365.0
RUNS = 500


def run() -> None:
    oak = of_species(species("northern_red_oak"))
    year = climate.pattern("four_seasons").year.starting(110)
    drive = field.driven(year, Stack(0.2))

    def days(**how) -> float:
        return field.dry(oak.wood, BOARD_M, GREEN, drive, YEAR, target=TARGET, out_days=[], **how).crossed_day

    finest = {"cells": 160, "tolerance": 3e-6, "longest_step_days": 0.02}
    converged = days(**finest)
    error = _off(oak.wood, drive, converged, finest)
    ours = best(days, 7)
    row(
        "one board-year, hourly climate",
        f"{ours * 1000:.1f} ms",
        f"{error * 100:.2f} % off the converged {converged:.1f} days (wanted: at most 1)",
    )
    row("  preparing the hourly climate for it", f"{best(lambda: field.driven(year, Stack(0.2))) * 1000:.1f} ms")
    against_scipy(oak.wood, drive, converged, ours)
    against_fipy(oak.wood, drive, ours)
    many(oak, drive)
    question = Question(oak, BOARD_M, GREEN, TARGET, setting(YARD, year))
    row("a whole answer: band of 256 runs, months, profiles", f"{best(lambda: answer(question)) * 1000:.0f} ms")
    room = rooms.room(climate.pattern("cold_winter").year, rooms.DWELLING)
    row("a finished piece through four years", f"{best(lambda: finished.through_year(oak, 0.022, room)) * 1000:.1f} ms")
    row("greatest memory of this process", f"{resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024:.0f} MB")
    starts()


def _off(wood: field.Wood, drive: field.Drive, converged: float, finest: dict) -> float:
    """How far off the usual steps are, as a share of the time: the difference in moisture at that day over the rate about it.

    Wood dries by day and stands still by night, so the very crossing may jump to the next morning by nothing at all.
    """
    about = [converged - 5, converged, converged + 5]
    usual, fine = (field.dry(wood, BOARD_M, GREEN, drive, YEAR, out_days=about, **how).mean for how in ({}, finest))
    return abs(usual[1] - fine[1]) / ((fine[0] - fine[2]) / 10) / converged


# Not cached: it holds the kernel's constants, and a cache would not see them change.
@njit
def _rates(moisture, dx, gap, mean, wood, density):
    """dM/dt of the same cells with the same fluxes, for a general solver: once for the heat the vapour takes, once with cooler wood."""
    _, flux = _cooled_rates(moisture, dx, gap, mean, wood, density, 0.0)
    cooler = min(kernel.LATENT_HEAT * max(flux, 0.0) * density * mean[kernel.HEAT_RESISTANCE], 25.0)
    return _cooled_rates(moisture, dx, gap, mean, wood, density, cooler)[0]


@njit
def _cooled_rates(moisture, dx, gap, mean, wood, density, cooler):
    """Rates and the flux out of the face, at wood so much cooler than the air; the surface by halving."""
    kelvin = mean[kernel.TEMPERATURE] + 273.15
    scale = wood[kernel.FACTOR] * mean[kernel.ARRHENIUS] * np.exp(-kernel.ACTIVATION_K * cooler / (kelvin * kelvin))
    d_saturation = kernel._bound(wood[kernel.FIBRE_SATURATION], scale, wood[kernel.GRAVITY])
    d_free = d_saturation * wood[kernel.PERMEABILITY] * (1 - 0.9 * mean[kernel.FROZEN])
    saturation = wood[kernel.FIBRE_SATURATION]
    n = moisture.size
    d = np.empty(n)
    for i in range(n):
        d[i] = kernel._bound(max(moisture[i], 0.0), scale, wood[kernel.GRAVITY]) if moisture[i] < saturation else d_free
    out = np.zeros(n)
    for i in range(n - 1):
        between = kernel._between(moisture[i], moisture[i + 1], d[i], d[i + 1], saturation, d_saturation, d_free)
        flux = between * gap[i] * (moisture[i] - moisture[i + 1])
        out[i] -= flux / dx[i]
        out[i + 1] += flux / dx[i + 1]
    low, high = 0.0, 1.0
    flux = 0.0
    for _ in range(40):
        h = 0.5 * (low + high)
        m, _slope = kernel.sorbed(mean[kernel.TEMPERATURE], h, wood[kernel.BRANCH])
        d_face = kernel._bound(m, scale, wood[kernel.GRAVITY]) if m < saturation else d_free
        inside = kernel._between(moisture[0], m, d[0], d_face, saturation, d_saturation, d_free) * 2 / dx[0] * (moisture[0] - m)
        flux = kernel._surface_flux(h, mean, density)
        if inside > flux:
            low = h
        else:
            high = h
    out[0] -= flux / dx[0]
    return out, flux


def against_scipy(wood: field.Wood, drive: field.Drive, converged: float, ours: float) -> None:
    """SciPy's stiff solvers on the same cells, with compiled rates and a banded Jacobian: as good as they can be had."""
    from scipy.integrate import solve_ivp

    dx = np.array(field.grid(BOARD_M / 2))
    gap, figures = 2 / (dx[:-1] + dx[1:]), wood.row(1.0)
    hourly = np.diff(drive.sums, axis=0)
    horizon = converged * 1.15

    def rates(seconds: float, moisture: np.ndarray) -> np.ndarray:
        return _rates(moisture, dx, gap, hourly[int(seconds / drive.step_s) % len(hourly)], figures, wood.density)

    def reached(_seconds: float, moisture: np.ndarray) -> float:
        return float(moisture @ dx / dx.sum()) - TARGET

    reached.terminal = True
    rates(0.0, np.full(dx.size, GREEN))
    same = best(lambda: field.dry(wood, BOARD_M, GREEN, drive, horizon, target=TARGET, out_days=[]), 7)
    # LSODA takes a banded Jacobian; steps no longer than the hour in which the air stays the same.
    begun = time.perf_counter()
    done = solve_ivp(
        rates, (0, horizon * field.DAY_S), np.full(dx.size, GREEN), method="LSODA", lband=1, uband=1, max_step=drive.step_s, rtol=1e-3,
        atol=1e-5, events=reached,
    )  # fmt: skip
    took = time.perf_counter() - begun
    off = abs(done.t_events[0][0] / field.DAY_S / converged - 1) if done.t_events[0].size else float("nan")
    row("the same to 20 % by SciPy's LSODA, compiled rates, banded", f"{took * 1000:.0f} ms", f"{off * 100:.2f} % off")
    row("  against ours for the same days", f"{took / same:.0f} x", "wanted: at least 50")


def against_fipy(wood: field.Wood, drive: field.Drive, ours: float) -> None:
    """A general finite-volume package on the same cells, a tenth of the year in hourly steps; only where somebody has installed it."""
    try:
        import fipy
    except ImportError:
        row("the same by FiPy", "not installed", "pip install fipy into .venv to compare")
        return
    dx = np.array(field.grid(BOARD_M / 2))
    mesh = fipy.Grid1D(dx=dx)
    moisture = fipy.CellVariable(mesh=mesh, value=GREEN)
    diffusivity, outflow = fipy.FaceVariable(mesh=mesh, value=1e-10), fipy.CellVariable(mesh=mesh, value=0.0)
    equation = fipy.TransientTerm() == fipy.DiffusionTerm(coeff=diffusivity) - outflow
    hourly, figures = np.diff(drive.sums, axis=0), wood.row(1.0)
    gap = 2 / (dx[:-1] + dx[1:])
    hours = 876
    begun = time.perf_counter()
    for hour in range(hours):
        cells = np.array(moisture.value)
        scale = figures[kernel.FACTOR] * hourly[hour, kernel.ARRHENIUS]
        bound = np.array([kernel._bound(min(max(m, 0.0), 0.3), scale, figures[kernel.GRAVITY]) for m in cells])
        faces = np.concatenate([[bound[0]], np.sqrt(bound[:-1] * bound[1:]), [bound[-1]]])
        diffusivity.setValue(faces)
        # What leaves the first cell, from the rates of the same cells with no diffusion between them.
        alone = _rates(cells, dx, gap * 0, hourly[hour], figures, wood.density)
        outflow.setValue(np.concatenate([[-alone[0]], np.zeros(dx.size - 1)]))
        equation.solve(var=moisture, dt=drive.step_s)
    took = (time.perf_counter() - begun) * 8760 / hours
    row("one board-year in hourly steps by FiPy", f"{took:.1f} s", f"{took / ours:.0f} x ours")


def many(oak, drive: field.Drive) -> None:
    calm = drive
    shares = np.exp(0.25 * np.random.default_rng(1).normal(size=RUNS))

    def band(count: int = RUNS, cells: int = 12) -> None:
        field.dry_many(
            oak.wood, BOARD_M, GREEN, calm, YEAR, target=TARGET, factor_shares=shares[:count], enough_days=0.0, cells=cells,
            tolerance=3e-3, longest_step_days=3.0,
        )  # fmt: skip

    whole = best(band)
    row(f"a band of {RUNS} runs to 20 %", f"{whole * 1000:.0f} ms")
    row("  ten times the runs cost", f"{whole / best(lambda: band(RUNS // 10)):.1f} x", "linear: 10")

    def board_year(cells: int) -> float:
        return best(
            lambda: field.dry(oak.wood, BOARD_M, GREEN, drive, YEAR, out_days=[], cells=cells, tolerance=1.0, longest_step_days=0.05)
        )

    row("  four times the cells cost, same steps", f"{board_year(160) / board_year(40):.1f} x", "linear: 4")


def starts() -> None:
    """The compiled kernel in a new process: with an empty cache, and from the cache."""
    program = "import time; t = time.perf_counter(); from wood import field; field.warm(); print(time.perf_counter() - t)"
    with tempfile.TemporaryDirectory() as cache:
        environment = {**os.environ, "NUMBA_CACHE_DIR": cache}
        for name in ("cold: compiling the moisture field, once a machine", "warm: loading it in a new process"):
            took = subprocess.run([sys.executable, "-c", program], cwd=ROOT, env=environment, capture_output=True, text=True, check=True)
            row(name, f"{float(took.stdout):.1f} s")
