"""The moisture field: moisture through the thickness of a piece over time, under any climate.

``∂M/∂t = ∂/∂x( D(M,T) ∂M/∂x )`` on cells graded toward the faces, implicit in time with steps that follow their own error, the
faces trading vapour with the air (:mod:`wood.stacks.air`). The compiled inside is :mod:`wood.drying.kernel`.

Two kinds of water, two figures. *Bound water*: ``D = f · (G/0.5)^0.75 · D_w(T, M) / ((1 − a²)(1 − a))``, ``a² = 1 − G(0.667 + M)``, the
geometry of lumens after Siau (1984, 1995), so that it follows specific gravity; ``f`` lies close to one for every species. ``D_w`` is
2.6·10⁻¹¹ m²/s at 60°C and 10%, with an activation of (5500 − 2000 M) K: at 21°C it is Siau's within 15%, with
temperature it rises as Simpson found for red oak (1993, 5280 K). *Free water*, above fibre saturation: what bound water does at
saturation and 20°C times the species' permeability, fitted by :mod:`wood.drying.calibration`, rising with 4500 K. Below 0°C free water
all but stands and bound water is slowed. The level of ``D_w``, its activation and that of free water, and the power of 0.75 are one
number each for all species, chosen so that yards, kilns and rooms come out together (docs/science.md).

Wood that lies between both sorption curves stays as it is; wood above them comes down to the drying curve, wood below up to the
regaining one (scanning, :attr:`wood.air.climate.AirSeries.hysteresis_share`). It is judged by the mean of the piece against the air's
day, so start, target and air may be anything without a jump, and the same air gives the same days everywhere.
"""

import os
from collections.abc import Callable, Iterable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np

from wood.air.climate import AirSeries
from wood.air.psychrometrics import saturation_concentration
from wood.arrays import Values
from wood.drying import kernel
from wood.errors import OutOfRange, check_range
from wood.species import USUAL_FIBRE_SATURATION
from wood.stacks.air import OpenBoard, Stack

DAY_S = 86_400.0
THICKNESS_M = (0.0005, 1.5)
GREATEST_MOISTURE = 3.0
CELL_WALL_GRAVITY = 1.54
# Rays carry water and dense hardwoods have more of them: against Siau's geometry diffusion falls a little less with gravity.
GRAVITY_POWER, MIDDLE_GRAVITY = 0.75, 0.5
CELLS = 16
ROWS = 8
# How far one step may be off in the mean, as a share of the change that is asked for; where nothing is asked, of this change.
STEP_TOLERANCE = 5e-4
USUAL_CHANGE = 0.1
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

    ``factor`` is the species' f, near one; ``permeability`` how many times faster free water moves than bound water at saturation and
    20°C (about 0.1 in refractory heartwood, some units in open sapwood). ``constant_diffusivity`` (m²/s) above zero replaces all that by
    one number and makes sorption a straight line M = RH: only for checks against series solutions.

    Raises:
        OutOfRange: specific gravity (green) 0.08…1.3, fibre saturation 0.15…0.40, factor 0.001…100, permeability 0.005…100.
    """

    specific_gravity: float
    factor: float = 1.0
    permeability: float = 1.0
    fibre_saturation: float = USUAL_FIBRE_SATURATION
    along_grain: float = ALONG_GRAIN
    constant_diffusivity: float = 0.0

    def __post_init__(self) -> None:
        check_range("specific_gravity", self.specific_gravity, 0.08, 1.3)
        check_range("factor", self.factor, 1e-3, 100.0)
        check_range("permeability", self.permeability, 0.005, 100.0)
        check_range("fibre_saturation", self.fibre_saturation, 0.15, 0.40)
        check_range("along_grain", self.along_grain, 0.1, 100.0)
        check_range("constant_diffusivity", self.constant_diffusivity, 0.0, 1e-6, " m²/s")

    @property
    def density(self) -> float:
        """Ovendry kilograms in a cubic metre of green wood."""
        return self.specific_gravity * 1000.0

    @property
    def greatest_moisture(self) -> float:
        """All the water that fits into it (Wood Handbook ch. 4): (1.54 − G)/(1.54·G), fraction."""
        return (CELL_WALL_GRAVITY - self.specific_gravity) / (CELL_WALL_GRAVITY * self.specific_gravity)

    @property
    def row(self) -> np.ndarray:
        # Wood so dense that its lumens are gone is saturated when it is full.
        saturation = min(self.fibre_saturation, self.greatest_moisture)
        factor = self.factor * (self.specific_gravity / MIDDLE_GRAVITY) ** GRAVITY_POWER
        return np.array([factor, self.specific_gravity, saturation, self.permeability, self.constant_diffusivity, self.along_grain])


@dataclass(frozen=True)
class Drive:
    """Climate as the kernel takes it: running sums of what acts on a face (``sums``, one row more than there are steps)."""

    sums: np.ndarray
    step_s: float

    @property
    def smoothing_s(self) -> float:
        """Over how long a piece's mean is evened out before it counts as arrived: a day where the air is followed by the hour."""
        return DAY_S if self.sums.shape[0] > 2 and self.step_s < DAY_S / 2 else 0.0

    def every(self, hours: float) -> "Drive":
        """The same climate in longer steps (means over so many hours, which must divide the day); the same where it is coarser already."""
        merged = round(hours * 3600 / self.step_s)
        if merged <= 1 or (self.sums.shape[0] - 1) % merged:
            return self
        return Drive(np.ascontiguousarray(self.sums[::merged]) / merged, self.step_s * merged)

    def carried(self, day: float, later: "Drive") -> "Drive":
        """This climate until a day, then that of another place as it is from that day on: daily means, long enough for any run.

        Both count from the same first day. Raises OutOfRange: day 0…4000.
        """
        begin = round(float(check_range("day", day, 0.0, HORIZON_DAYS, " days")))
        rows = []
        for drive, days in ((self, np.arange(0, begin)), (later, np.arange(begin, int(HORIZON_DAYS) + 1))):
            daily = np.diff(drive.every(24.0).sums, axis=0)
            rows.append(daily[days % daily.shape[0]])
        sums = np.zeros((int(HORIZON_DAYS) + 2, kernel.COLUMNS))
        np.cumsum(np.concatenate(rows), axis=0, out=sums[1:])
        return Drive(sums, DAY_S)


def driven(series: AirSeries, exposure: OpenBoard | Stack, coating_s_m: float = 0.0, resolution_hours: float = 24.0) -> Drive:
    """Prepare a climate and an exposure for the field, in means of days: answers, bands and drawings alike are computed in these.

    Args:
        coating_s_m: resistance of a finish or bark against vapour, s/m, 0…10⁹; 0 for bare wood.
        resolution_hours: how long the means are; between boards of a stack days come within a percent of hours (docs/science.md).
    Raises:
        OutOfRange.
    """
    check_range("coating_s_m", coating_s_m, 0.0, 1e9, " s/m")
    check_range("resolution_hours", resolution_hours, 0.01, 240.0, " h")
    outside, series = series, exposure.felt(series)
    t = series.temperature_c
    surface = exposure.surface(series)
    conductance = 1 / (1 / surface.vapour + coating_s_m)
    saturated = np.asarray(saturation_concentration(t))
    # Slope of saturation by Clausius and Clapeyron; the gas law's own −1/T beside it.
    kelvin = t + 273.15
    steeper = saturated * (5400.0 / kelvin**2 - 1 / kelvin)
    columns = np.empty((t.size, kernel.COLUMNS))
    columns[:, kernel.TEMPERATURE] = t
    # Freezing is not one moment for all the water in wood: from 0 down to −1°C.
    columns[:, kernel.FROZEN] = np.clip(-t, 0.0, 1.0)
    columns[:, kernel.SATURATED] = conductance * saturated
    columns[:, kernel.AMBIENT] = conductance * saturated * series.relative_humidity
    columns[:, kernel.COOLING] = kernel.LATENT_HEAT * conductance * steeper / surface.heat
    columns[:, kernel.HEAT_RESISTANCE] = 1 / surface.heat
    settling, gap = series.loop
    day = np.minimum(np.arange(t.size) // series.per_day, settling.size - 1)
    columns[:, kernel.LEVEL] = settling[day]
    columns[:, kernel.GAP] = gap[day]
    columns[:, kernel.HYSTERESIS] = outside.hysteresis_share
    sums = np.zeros((t.size + 1, kernel.COLUMNS))
    np.cumsum(columns, axis=0, out=sums[1:])
    return Drive(sums, series.step_s).every(resolution_hours)


@lru_cache(maxsize=64)
def grid(half_thickness_m: float, cells: int = CELLS) -> np.ndarray:
    """Widths of the cells from the face to the middle: each a constant times the one before, the last about seven times the first.

    Raises:
        OutOfRange: half_thickness_m 0.25 mm…15 m, cells 3…2000.
    """
    check_range("half_thickness_m", half_thickness_m, THICKNESS_M[0] / 2, 15.0, " m")
    check_range("cells", cells, 3, 2000)
    widths = np.exp(np.linspace(0.0, 2.0, cells))
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
    start: Values,
    drive: Drive,
    days: float,
    *,
    target: float = -1.0,
    length_m: float | None = None,
    ends_open: bool = True,
    begin_day: float = 0.0,
    out_days: Values | None = None,
    cells: int = CELLS,
    rows: int = ROWS,
    tolerance: float | None = None,
    longest_step_days: float = LONGEST_STEP_DAYS,
) -> History:
    """One piece through one climate.

    Args:
        thickness_m: from face to face, 0.5 mm…1.5 m.
        start: moisture everywhere; or from face to middle in equal steps of depth; or one value per cell, as a history's profile; 0…3.
        days: how long, 0…4000.
        target: mean moisture to watch for, reached from either side.
        length_m: given, the ends are followed too and dried through where ``ends_open``; ``None`` for a long board.
        begin_day: days after the beginning of the drive.
        out_days: times to report, in order, 0…``days``; 200 equal steps where not given.
        tolerance: how far a step may be off in the mean; taken from the change that is asked for where it is not given.
        longest_step_days: 0.001…60.
    Raises:
        OutOfRange.

    >>> from wood.air.climate import constant
    >>> board = dry(Wood(0.56), 0.025, 0.30, driven(constant(20, 0.5), OpenBoard()), 60)
    >>> bool(board.mean[-1] < 0.2 and board.shell[-1] < board.core[-1])
    True
    """
    given = check_range("start", start, 0.0, GREATEST_MOISTURE).reshape(-1)
    if not given.size:
        raise OutOfRange("start_values", 0, 1, 10_000)
    tolerance = _checked_run(wood.greatest_moisture, thickness_m, given, target, tolerance, longest_step_days)
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
    times = np.linspace(0, days, 201) if out_days is None else _checked_times(out_days, days)
    mean, surface, shell, core, end = (np.empty(times.size) for _ in range(5))
    profiles = np.empty((times.size, cells))
    crossing, steps, lost, left, _, lowest, highest = kernel.run(
        drive.sums,
        drive.step_s,
        begin_day * DAY_S,
        np.tile(profile, (dz.size, 1)),
        dx,
        dz,
        wood.row,
        wood.density,
        1.0,
        1.0,
        ends_open and length_m is not None,
        days * DAY_S,
        min(600.0, days * DAY_S / 50),
        longest_step_days * DAY_S,
        drive.smoothing_s,
        tolerance,
        target,
        np.inf,
        times * DAY_S,
        mean,
        surface,
        shell,
        core,
        end,
        profiles,
    )
    crossed = crossing / DAY_S if crossing >= 0 else None
    return History(times, mean, surface, shell, core, end, profiles, depths, crossed, lowest, highest, steps, lost - left)


def _checked_run(
    greatest: float, thickness_m: float, starts: np.ndarray, target: float, tolerance: float | None, longest_step_days: float
) -> float:
    """Refuse what no run can be made of; the tolerance of a step."""
    check_range("thickness_m", thickness_m, *THICKNESS_M, " m")
    check_range("longest_step_days", longest_step_days, 1e-3, 60.0, " days")
    check_range("target", target, -1.0, GREATEST_MOISTURE)
    check_range("start", starts, 0.0, 1.1 * greatest)
    if tolerance is None:
        change = float(np.abs(starts - target).max()) if target > 0 else USUAL_CHANGE
        return STEP_TOLERANCE * min(max(change, 0.005), 0.6)
    check_range("tolerance", tolerance, 1e-9, 1.0)
    return float(tolerance)


def _checked_times(out_days: Values, days: float) -> np.ndarray:
    """The times to report, in order, none before the start."""
    times = np.asarray(out_days, float).reshape(-1)
    if times.size:
        check_range("out_days", times, 0.0, max(days * 1.0001, HORIZON_DAYS), " days")
        check_range("out_days_in_order", np.append(np.diff(times), 0.0), 0.0, np.inf)
    return times


@dataclass(frozen=True)
class Runs:
    """Many possible fates of one piece: a row of mean moistures and one of those in the middle per run at ``days``; ``crossed_days`` is
    infinite where never."""

    days: np.ndarray
    means: np.ndarray
    cores: np.ndarray
    crossed_days: np.ndarray
    lowest: np.ndarray


def dry_many(
    wood: Wood,
    thickness_m: float,
    starts: Values,
    drive: Drive,
    days: float,
    *,
    target: float,
    factor_shares: Values = 1.0,
    air_shares: Values = 1.0,
    drive_shares: Values = 1.0,
    permeability_shares: Values = 1.0,
    begin_days: Values = 0.0,
    shape: Values = 0.0,
    out_days: Values = (),
    enough_days: float = np.inf,
    cells: int = CELLS,
    tolerance: float | None = None,
    longest_step_days: float = LONGEST_STEP_DAYS,
) -> Runs:
    """Many slabs of one wood at once, each with its own share of the wood's factor and permeability, start, beginning, share of the
    vapour in the air and of the air's carrying power.

    A run ends early once the target is crossed and ``enough_days`` have passed; its mean stands still from there on. Work is
    shared between threads: the kernel lets go of the interpreter. Arguments and errors as :func:`dry`; the
    six may be arrays of one length or one value for all. ``shape`` is what each cell has more or less than the start of its run, at first.
    """
    check_range("days", days, 1e-6, HORIZON_DAYS, " days")
    check_range("enough_days", min(enough_days, HORIZON_DAYS), 0.0, HORIZON_DAYS, " days")
    given = np.broadcast_arrays(
        *(
            np.atleast_1d(np.asarray(item, float))
            for item in (starts, air_shares, drive_shares, begin_days, factor_shares, permeability_shares)
        )
    )
    m0, air, carry, begins, shares, free = (column.copy() for column in given)
    count = m0.size
    check_range("runs", count, 1, 100_000)
    check_range("start", m0, 0.0, GREATEST_MOISTURE)
    check_range("air_shares", air, 0.0, 3.0)
    check_range("drive_shares", carry, 1e-4, 1e4)
    check_range("begin_days", begins, 0.0, 1e6, " days")
    check_range("factor_shares", shares, 1e-4, 1e4)
    check_range("permeability_shares", free, 1e-4, 1e4)
    tolerance = _checked_run(wood.greatest_moisture, thickness_m, m0, target, tolerance, longest_step_days)
    rows = np.tile(wood.row, (count, 1))
    rows[:, kernel.FACTOR] *= shares
    rows[:, kernel.PERMEABILITY] *= free
    times = _checked_times(out_days, days)
    means, cores = np.empty((2, count, times.size))
    dx = grid(thickness_m / 2, cells)
    uneven = np.broadcast_to(check_range("shape", shape, -1.0, 1.0), cells)

    horizon_s, first_s, longest_s, enough_s, out_s = (
        days * DAY_S,
        min(1800.0, days * DAY_S / 50),
        longest_step_days * DAY_S,
        enough_days * DAY_S,
        times * DAY_S,
    )

    def part(chosen: range) -> list[tuple[float, float]]:
        spare, none = np.empty((3, times.size)), np.empty((0, cells))
        result = []
        for k in chosen:
            start = np.clip(m0[k] + uneven, 0.0, GREATEST_MOISTURE).reshape(1, cells)
            ran = kernel.run(
                drive.sums,
                drive.step_s,
                begins[k] * DAY_S,
                start,
                dx,
                ONE_ROW,
                rows[k],
                wood.density,
                carry[k],
                air[k],
                False,
                horizon_s,
                first_s,
                longest_s,
                drive.smoothing_s,
                tolerance,
                target,
                enough_s,
                out_s,
                means[k],
                spare[0],
                spare[1],
                cores[k],
                spare[2],
                none,
            )
            result.append((ran[0], ran[5]))
        return result

    if count < 8:
        result = part(range(count))
    else:
        # Every second run for each of two, so that slow and fast boards are shared out.
        shares_of_work = [range(first, count, WORKERS) for first in range(WORKERS)]
        result = [(0.0, 0.0)] * count
        for chosen, some in zip(shares_of_work, _threads().map(part, shares_of_work), strict=True):
            result[chosen.start :: WORKERS] = some
    crossings, lowest = (np.array(column) for column in zip(*result, strict=True))
    return Runs(times, means, cores, np.where(crossings >= 0, crossings / DAY_S, np.inf), lowest)


@lru_cache(maxsize=1)
def _threads() -> ThreadPoolExecutor:
    return ThreadPoolExecutor(max_workers=WORKERS, thread_name_prefix="moisture-field")


# Threads do not come along into a process that divides off: it makes its own.
os.register_at_fork(after_in_child=_threads.cache_clear)


def side_by_side(run: Callable[[Any], Any], many: Iterable[Any]) -> list[Any]:
    """What a run makes of each of many, in their order, as many at a time as there are threads for compiled code.

    The run must not ask for this itself.
    """
    return list(_threads().map(run, many))


def warm() -> None:
    """Compile, or load from the cache, everything the first question would otherwise wait for."""
    from wood.air.climate import constant

    drive = driven(constant(20.0, 0.5), OpenBoard())
    dry(Wood(0.5), 0.02, 0.3, drive, 1.0)
    dry(Wood(0.5), 0.02, 0.3, drive, 1.0, length_m=0.2)
    dry_many(Wood(0.5), 0.02, 0.3, drive, 1.0, target=0.1)
