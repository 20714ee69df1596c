"""The moisture field: moisture through the thickness of a piece over time, under any climate.

``∂M/∂t = ∂/∂x( D(M,T) ∂M/∂x )`` on cells graded toward the faces, implicit in time with steps that follow their own error, the
faces trading vapour with the air (:mod:`wood.stacks`). The compiled inside is :mod:`wood.field_kernel`.

Diffusivity: ``D = f · D_0 · exp(6.5 M) · exp(−5280 (1/T − 1/298 K)) / ((1 − a²)(1 − a))`` with ``a² = 1 − G(0.667 + M)``; D_0 and the
geometry of the lumens after Siau (1984, 1995). ``f`` is one number per species, fitted by :mod:`wood.calibration`. Above
fibre saturation D is that of saturation times a permeability. Below 0 °C free water all but stands.

Siau's own exponent, ``exp(−(38500 − 290·M%)/(R·T))``, lets the effect of temperature fall as moisture rises and that of moisture
reach 11.7 at 25 °C. Fitted to yards it then dries every species in the kiln too slowly, by about two, the last stage most. The
temperature here is Simpson's (1993, northern red oak, D ∝ exp(−5280/T)); the 6.5 makes the last stage in the kiln, 20 % to
7 %, take its published 4-8 days. Both are one number for all species; docs/science.md shows what comes of it.
"""

from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from wood import field_kernel as kernel
from wood.air import saturation_concentration
from wood.climate import AirSeries
from wood.errors import OutOfRange, check_range
from wood.species import USUAL_FIBRE_SATURATION
from wood.stacks import OpenBoard, Stack

DAY_S = 86_400.0
THICKNESS_M = (0.0005, 1.5)
GREATEST_MOISTURE = 3.0
CELLS = 20
ROWS = 8
# How far one step may be off in the mean, as moisture; the whole run is then within 1 % of the converged drying time.
STEP_TOLERANCE = 3e-4
LONGEST_STEP_DAYS = 2.0
HORIZON_DAYS = 4000.0
# Diffusion along the grain over that across it below fibre saturation, AH-188 and GTR-118: 10-15.
ALONG_GRAIN = 12.0
WORKERS = 2
ONE_ROW = np.ones(1)
ONE_ROW.setflags(write=False)


@dataclass(frozen=True)
class Wood:
    """What the field needs to know of a wood.

    ``factor`` is the species' f; ``permeability`` how many times faster free water moves than bound water at saturation (1 for
    refractory heartwood, about 10 for open sapwood). ``constant_diffusivity`` (m²/s) above zero replaces all that by one number and
    makes sorption a straight line M = RH: only for checks against series solutions.

    Raises:
        OutOfRange: specific gravity (green) 0.08…1.05, fibre saturation 0.15…0.40, factor 0.001…100, permeability 0.1…100.
    """

    specific_gravity: float
    factor: float = 1.0
    permeability: float = 1.0
    fibre_saturation: float = USUAL_FIBRE_SATURATION
    along_grain: float = ALONG_GRAIN
    constant_diffusivity: float = 0.0

    def __post_init__(self) -> None:
        check_range("specific_gravity", self.specific_gravity, 0.08, 1.05)
        check_range("factor", self.factor, 1e-3, 100.0)
        check_range("permeability", self.permeability, 0.1, 100.0)
        check_range("fibre_saturation", self.fibre_saturation, 0.15, 0.40)
        check_range("along_grain", self.along_grain, 0.1, 100.0)
        check_range("constant_diffusivity", self.constant_diffusivity, 0.0, 1e-6, " m²/s")

    @property
    def density(self) -> float:
        """Ovendry kilograms in a cubic metre of green wood."""
        return self.specific_gravity * 1000.0

    def row(self, branch: float) -> np.ndarray:
        return np.array(
            [self.factor, self.specific_gravity, self.fibre_saturation, self.permeability, self.constant_diffusivity, branch,
             self.along_grain]
        )  # fmt: skip


@dataclass(frozen=True)
class Drive:
    """Climate as the kernel takes it: running sums of what acts on a face (``sums``, one row more than there are steps)."""

    sums: np.ndarray
    step_s: float

    def by_day(self) -> "Drive":
        """The same climate in daily means: a tenth of the steps, for many runs at once. Damp nights and dry afternoons cancel, so
        wood dries a few percent sooner in it; callers scale by one run in the full climate."""
        per_day = round(DAY_S / self.step_s)
        if per_day <= 1 or (self.sums.shape[0] - 1) % per_day:
            return self
        return Drive(np.ascontiguousarray(self.sums[::per_day]) / per_day, DAY_S)


def driven(series: AirSeries, exposure: OpenBoard | Stack, coating_s_m: float = 0.0) -> Drive:
    """Prepare a climate and an exposure for the field.

    Args:
        coating_s_m: resistance of a finish or bark against vapour, s/m, 0…10⁹; 0 for bare wood.
    Raises:
        OutOfRange.
    """
    check_range("coating_s_m", coating_s_m, 0.0, 1e9, " s/m")
    t = series.temperature_c
    surface = exposure.surface(series)
    conductance = 1 / (1 / surface.vapour + coating_s_m)
    saturated = np.asarray(saturation_concentration(t))
    # Slope of saturation by Clausius and Clapeyron; the gas law's own −1/T beside it.
    kelvin = t + 273.15
    steeper = saturated * (5400.0 / kelvin**2 - 1 / kelvin)
    columns = np.empty((t.size, kernel.COLUMNS))
    columns[:, kernel.TEMPERATURE] = t
    columns[:, kernel.ARRHENIUS] = kernel.DRY_DIFFUSIVITY * np.exp(-kernel.ACTIVATION_K * (1 / kelvin - 1 / kernel.REFERENCE_K))
    # Freezing is not one moment for all the water in wood: from 0 down to −1 °C.
    columns[:, kernel.FROZEN] = np.clip(-t, 0.0, 1.0)
    columns[:, kernel.SATURATED] = conductance * saturated
    columns[:, kernel.AMBIENT] = conductance * saturated * series.relative_humidity
    columns[:, kernel.COOLING] = kernel.LATENT_HEAT * conductance * steeper / surface.heat
    columns[:, kernel.HEAT_RESISTANCE] = 1 / surface.heat
    sums = np.zeros((t.size + 1, kernel.COLUMNS))
    np.cumsum(columns, axis=0, out=sums[1:])
    return Drive(sums, series.step_s)


@lru_cache(maxsize=64)
def grid(half_thickness_m: float, cells: int = CELLS) -> np.ndarray:
    """Widths of the cells from the face to the middle: each a constant times the one before, the last about twenty times the first."""
    check_range("cells", cells, 3, 2000)
    widths = np.exp(np.linspace(0.0, 3.0, cells))
    widths *= half_thickness_m / widths.sum()
    widths.setflags(write=False)
    return widths


@dataclass(frozen=True)
class History:
    """What became of a piece. Times in days from its start; moistures as fractions.

    ``profiles`` has a row per time and a column per cell of ``depths_m`` (from the face to the middle). ``shell`` is the mean of the
    outer fifth of the half thickness, ``surface`` the very face, ``end`` the end's face where ends were followed. ``crossed_day``
    is when the mean reached the target, ``None`` if never. ``imbalance`` is water lost minus water that left, as moisture.
    """

    days: np.ndarray
    mean: np.ndarray
    surface: np.ndarray
    shell: np.ndarray
    core: np.ndarray
    end: np.ndarray
    profiles: np.ndarray
    depths_m: np.ndarray
    crossed_day: float | None
    lowest: float
    highest: float
    steps: int
    imbalance: float


def dry(
    wood: Wood,
    thickness_m: float,
    start: float | Sequence[float],
    drive: Drive,
    days: float,
    *,
    target: float = -1.0,
    length_m: float | None = None,
    ends_open: bool = True,
    branch: float = 0.0,
    begin_day: float = 0.0,
    out_days: Sequence[float] | None = None,
    cells: int = CELLS,
    rows: int = ROWS,
    tolerance: float = STEP_TOLERANCE,
    longest_step_days: float = LONGEST_STEP_DAYS,
) -> History:
    """One piece through one climate.

    Args:
        thickness_m: from face to face, 0.5 mm…1.5 m.
        start: moisture everywhere; or from face to middle in equal steps of depth; or one value per cell, as a history's profile; 0…3.
        days: how long, 0…4000.
        target: mean moisture to watch for, reached from either side.
        length_m: given, the ends are followed too and dried through where ``ends_open``; ``None`` for a long board.
        branch: +1 wood drying down, −1 regaining, 0 between (hysteresis).
        begin_day: days after the beginning of the drive.
        out_days: times to report; 200 equal steps where not given.
    Raises:
        OutOfRange.

    >>> from wood.climate import constant
    >>> board = dry(Wood(0.56), 0.025, 0.30, driven(constant(20, 0.5), OpenBoard()), 60)
    >>> bool(board.mean[-1] < 0.2 and board.shell[-1] < board.core[-1])
    True
    """
    check_range("thickness_m", thickness_m, *THICKNESS_M, " m")
    given = check_range("start", start, 0.0, GREATEST_MOISTURE).reshape(-1)
    if not given.size:
        raise OutOfRange("start_values", 0, 1, 10_000)
    check_range("days", days, 1e-6, HORIZON_DAYS, " days")
    check_range("begin_day", begin_day, 0.0, 1e6, " days")
    if length_m is not None:
        check_range("length_m", length_m, 0.005, 15.0, " m")
    dx = grid(thickness_m / 2, cells)
    depths = np.cumsum(dx) - dx / 2
    if given.size == cells:
        profile = given
    else:
        profile = np.interp(depths, np.linspace(0, thickness_m / 2, given.size), given) if given.size > 1 else np.full(cells, given[0])
    dz = ONE_ROW if length_m is None else grid(length_m / 2, rows)
    times = np.linspace(0, days, 201) if out_days is None else np.asarray(out_days, float)
    out = [np.empty(times.size) for _ in range(5)]
    profiles = np.empty((times.size, cells))
    crossing, steps, lost, left, _, lowest, highest = kernel.run(
        drive.sums, drive.step_s, begin_day * DAY_S, np.tile(profile, (dz.size, 1)), dx, dz, wood.row(branch), wood.density, 1.0, 1.0,
        ends_open and length_m is not None, days * DAY_S, min(600.0, days * DAY_S / 50), longest_step_days * DAY_S, tolerance, target,
        np.inf, times * DAY_S, *out, profiles,
    )  # fmt: skip
    crossed = crossing / DAY_S if crossing >= 0 else None
    return History(times, *out, profiles, depths, crossed, lowest, highest, steps, lost - left)


@dataclass(frozen=True)
class Runs:
    """Many possible fates of one piece: a row of mean moistures per run at ``days``; ``crossed_days`` is infinite where never."""

    days: np.ndarray
    means: np.ndarray
    crossed_days: np.ndarray
    lowest: np.ndarray


def dry_many(
    wood: Wood,
    thickness_m: float,
    starts,
    drive: Drive,
    days: float,
    *,
    target: float,
    factor_shares=1.0,
    air_shares=1.0,
    drive_shares=1.0,
    branch: float = 0.0,
    begin_days=0.0,
    out_days: Sequence[float] = (),
    enough_days: float = np.inf,
    cells: int = CELLS,
    tolerance: float = STEP_TOLERANCE,
    longest_step_days: float = LONGEST_STEP_DAYS,
) -> Runs:
    """Many slabs of one wood at once, each with its own share of the wood's factor, start, beginning, share of the vapour in the air
    and of the air's carrying power.

    A run ends early once the target is crossed and ``enough_days`` have passed; its mean stands still from there on. Work is
    shared between threads: the kernel lets go of the interpreter. Arguments and errors as :func:`dry`; the
    five may be arrays of one length or one value for all.
    """
    check_range("thickness_m", thickness_m, *THICKNESS_M, " m")
    check_range("days", days, 1e-6, HORIZON_DAYS, " days")
    given = np.broadcast_arrays(
        *(np.atleast_1d(np.asarray(one, float)) for one in (starts, air_shares, drive_shares, begin_days, factor_shares))
    )
    m0, air, carry, begins, shares = (column.copy() for column in given)
    count = m0.size
    check_range("runs", count, 1, 100_000)
    check_range("start", m0, 0.0, GREATEST_MOISTURE)
    check_range("air_shares", air, 0.0, 3.0)
    check_range("drive_shares", carry, 1e-4, 1e4)
    check_range("begin_days", begins, 0.0, 1e6, " days")
    check_range("factor_shares", shares, 1e-4, 1e4)
    rows = np.tile(wood.row(branch), (count, 1))
    rows[:, kernel.FACTOR] *= shares
    times = np.asarray(out_days, float)
    means = np.empty((count, times.size))
    dx = grid(thickness_m / 2, cells)

    horizon_s, first_s, longest_s, enough_s, out_s = (
        days * DAY_S,
        min(1800.0, days * DAY_S / 50),
        longest_step_days * DAY_S,
        enough_days * DAY_S,
        times * DAY_S,
    )

    def part(chosen: range) -> list[tuple[float, float]]:
        spare, none = np.empty((4, times.size)), np.empty((0, cells))
        found = []
        for k in chosen:
            ran = kernel.run(
                drive.sums, drive.step_s, begins[k] * DAY_S, np.full((1, cells), m0[k]), dx, ONE_ROW, rows[k], wood.density, carry[k], air[k],
                False, horizon_s, first_s, longest_s, tolerance, target, enough_s, out_s, means[k], *spare, none,
            )  # fmt: skip
            found.append((ran[0], ran[5]))
        return found

    if count < 8:
        found = part(range(count))
    else:
        # Every second run for each of two, so that slow and fast boards are shared out.
        shares_of_work = [range(first, count, WORKERS) for first in range(WORKERS)]
        found = [(0.0, 0.0)] * count
        for chosen, some in zip(shares_of_work, _threads().map(part, shares_of_work), strict=True):
            found[chosen.start :: WORKERS] = some
    crossings, lowest = (np.array(column) for column in zip(*found, strict=True))
    return Runs(times, means, np.where(crossings >= 0, crossings / DAY_S, np.inf), lowest)


@lru_cache(maxsize=1)
def _threads() -> ThreadPoolExecutor:
    return ThreadPoolExecutor(max_workers=WORKERS, thread_name_prefix="moisture-field")


def warm() -> None:
    """Compile, or load from the cache, everything the first question would otherwise wait for."""
    from wood.climate import constant

    drive = driven(constant(20.0, 0.5), OpenBoard())
    dry(Wood(0.5), 0.02, 0.3, drive, 1.0)
    dry(Wood(0.5), 0.02, 0.3, drive, 1.0, length_m=0.2)
    dry_many(Wood(0.5), 0.02, 0.3, drive, 1.0, target=0.1)
