"""A load in a chamber, hour by hour: what the air really is, how each board dries, what its stresses are, how much water and power it
takes.

The compiled inside is :mod:`wood.kiln.kernel`; boards are those of :mod:`wood.drying.field`, the chamber is one of
:mod:`wood.kiln.chambers`, stress is that of :mod:`wood.kiln.stress`.

Source: the balances of :mod:`wood.kiln.kernel`; how boards of a load differ is our own judgement.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from scipy.special import ndtri

from wood.air.climate import AirSeries
from wood.air.psychrometrics import Air, saturation_concentration
from wood.arrays import Array
from wood.drying import field
from wood.drying.diffusivity import Figures, of_species
from wood.drying.kernel import LATENT_HEAT
from wood.drying.questions import GREEN_SPREAD
from wood.errors import NotKnown, check_range
from wood.kiln import kernel, stress
from wood.kiln.chambers import Chamber
from wood.kiln.disturbances import FANS, Disturbance, by_hour
from wood.kiln.programs import Program
from wood.kiln.stress import Give, Test
from wood.species import Species
from wood.stacks.air import AIR_DENSITY_20, HEAT_CAPACITY

STEP_S = 3600.0
LONGEST_DAYS = 400.0
# Profiles and stresses are kept every so many hours.
EVERY_H = 3
# Boards that are followed of each lot: the samples of a usual load.
SAMPLES = 8
MOST_BOARDS = 200
# Half of what boards differ by lies between boards of a load, the rest is common to all of it.
WITHIN_A_LOAD = 0.7
KWH = 3.6e6


@dataclass(frozen=True)
class Followed:
    """A board that is followed: its wood, thickness (m), moisture at the start (fraction) and its share of the load's volume.

    ``lot`` is a name.
    """

    lot: str
    species: Species
    figures: Figures
    thickness_m: float
    start: float
    share: float

    def __post_init__(self) -> None:
        check_range("thickness_m", self.thickness_m, 0.003, 0.3, " m")
        check_range("start", self.start, 0.01, min(1.1 * self.figures.wood.greatest_moisture, field.GREATEST_MOISTURE))
        check_range("share", self.share, 0.0, 1.0)


def boards(
    lot: str, species: Species, thickness_m: float, start: float, share: float = 1.0, count: int = SAMPLES, *, measured: bool = False
) -> list[Followed]:
    """Boards that stand for a lot: as different in pace and in moisture as boards of one load are.

    Args:
        start: mean moisture, fraction; share: of the load's volume; count: 1…50; measured: whether the start was measured: then boards
        differ less.
    Raises:
        NotKnown: the species' pace. OutOfRange.

    >>> from wood.species import species_named
    >>> oak = boards("a", species_named("white_oak"), 0.0286, 0.62)
    >>> len(oak), round(sum(board.start for board in oak) / 8, 2)
    (8, 0.62)
    """
    figures = of_species(species)
    count = int(check_range("count", count, 1, 50))
    normal = ndtri((np.arange(count) + 0.5) / count) if count > 1 else np.zeros(1)
    # Paces in one order, moistures in another, so that neither goes with the other.
    mixed = normal[np.argsort((np.arange(count) * 5) % count + 0.1 * (np.arange(count) % 2))]
    most = min(figures.wood.greatest_moisture, field.GREATEST_MOISTURE)
    check_range("start", start, 0.02, most)
    starts = start * (1 + (GREEN_SPREAD / 2 if measured else GREEN_SPREAD) * mixed)
    starts *= start / starts.mean()
    made = []
    for pace, begins in zip(normal, starts, strict=True):
        wood = replace(
            figures.wood,
            factor=figures.wood.factor * float(np.exp(WITHIN_A_LOAD * figures.spread * pace)),
            permeability=figures.wood.permeability * float(np.exp(WITHIN_A_LOAD * figures.permeability_spread * pace)),
        )
        made.append(Followed(lot, species, replace(figures, wood=wood), thickness_m, float(np.clip(begins, 0.02, most)), share / count))
    return made


@dataclass(frozen=True)
class Ran:
    """A load as it ran. Arrays are by the hour; those of boards have a row for each.

    ``temperature_c``, ``humidity``: the chamber's air as it was. ``step``: which step of the program held. ``means`` … ``shells``: of each
    board.
    ``water_kg_h``: given off by the load, taken by the compressor, sprayed, let out through vents and leaks. ``power_w``: heat, compressor,
    fans.
    ``fans``: the share of each hour that they ran.
    ``kept_hours``: hours at which ``profiles`` and ``stresses`` (strain over the stiffness at 12%) were kept. ``finished``: whether the
    program came to its end. ``imbalance``: water lost less water that left, kg/m³; ``disagreed``: the greatest share by which air and load
    disagreed on what passed between them in an hour.
    """

    boards: tuple[Followed, ...]
    program: Program
    chamber: Chamber
    temperature_c: Array
    humidity: Array
    step: Array
    means: Array
    surfaces: Array
    shells: Array
    cores: Array
    wood_c: Array
    water_kg_h: Array
    power_w: Array
    fans: Array
    kept_hours: Array
    profiles: Array
    stresses: Array
    creep: Array
    last_profiles: Array
    finished: bool
    imbalance: float
    disagreed: float

    @property
    def hours(self) -> int:
        return self.temperature_c.size

    @property
    def days(self) -> float:
        """How long it took; infinite where it is not over within what was looked at."""
        return self.hours / 24 if self.finished else np.inf

    @property
    def mean(self) -> Array:
        """The load's mean moisture by the hour, by dry mass."""
        mass = np.array([board.share * board.figures.wood.density for board in self.boards])
        return mass @ self.means / mass.sum()

    @property
    def wettest_half(self) -> Array:
        """The mean of the wettest half of its boards, by the hour."""
        count = len(self.boards)
        return np.sort(self.means, axis=0)[count // 2 :].mean(axis=0)

    @property
    def dry_mass_kg(self) -> float:
        return float(sum(board.share * board.figures.wood.density for board in self.boards) * self.chamber.load_m3)

    @property
    def water_kg(self) -> float:
        """All the water that left the load."""
        return float(self.water_kg_h[:, 0].sum())

    @property
    def energy_kwh(self) -> tuple[float, float, float]:
        """Kilowatt hours of heat, compressor and fans."""
        heat, compressor, fans = self.power_w.sum(axis=0) * STEP_S / KWH
        return float(heat), float(compressor), float(fans)

    @property
    def kwh_a_kg(self) -> float:
        """All its energy for a kilogram of water."""
        return sum(self.energy_kwh) / max(self.water_kg, 1e-9)

    def drop_k(self, hour: int) -> float:
        """How much cooler the air leaves the load than it came, if all of it goes between the boards: by the heat that the water takes, K.
        Never cooler than its wet bulb.

        Raises:
            OutOfRange: an hour that is not in the run.
        """
        check_range("hour", hour, 0, self.hours - 1)
        gaps_m2 = (
            sum(board.share / board.thickness_m for board in self.boards)
            * self.chamber.load_m3
            * self.chamber.sticker_m
            / self.chamber.width_m
        )
        flow = gaps_m2 * max(self.chamber.air_speed_m_s * float(self.fans[hour]), kernel.STILL_M_S)
        entering = Air(float(self.temperature_c[hour]), min(max(float(self.humidity[hour]), 0.01), 1.0))
        air = AIR_DENSITY_20 * 293.15 / (entering.temperature_c + 273.15) * HEAT_CAPACITY
        cooled = float(self.water_kg_h[hour, 0]) / 3600 * LATENT_HEAT / max(flow * air, 1e-9)
        return min(cooled, entering.temperature_c - entering.wet_bulb_c)

    def by_day(self, hourly: Array) -> Array:
        """Sums of whole days, and of what is left of the last."""
        days = -(-hourly.shape[0] // 24)
        padded = np.zeros(days * 24)
        padded[: hourly.shape[0]] = hourly
        return padded.reshape(days, 24).sum(axis=1)

    def step_days(self) -> list[float]:
        """How long each step of the program held."""
        return [float((self.step == number).sum()) / 24 for number in range(len(self.program.settings))]

    def history(self, board: int) -> field.History:
        """One board as the field tells it, for what is said of its risks."""
        at = self.kept_hours
        dx = field.grid(self.boards[board].thickness_m / 2)
        # The very beginning belongs to it.
        start = np.full((1, dx.size), self.boards[board].start)

        def with_start(values: Array) -> Array:
            return np.concatenate([[self.boards[board].start], values[board, at]])

        means = with_start(self.means)
        return field.History(
            np.concatenate([[0.0], (at + 1) / 24]),
            means,
            with_start(self.surfaces),
            with_start(self.shells),
            with_start(self.cores),
            with_start(self.surfaces),
            np.concatenate([start, self.profiles[board]]),
            np.cumsum(dx) - dx / 2,
            None,
            float(means.min()),
            float(means.max()),
            at.size,
            0.0,
        )

    def shell_and_core(self, board: int) -> tuple[Array, Array]:
        """Stress in the outer tenth of the thickness and in the middle tenth, over what is borne there; pulled above 0, pressed below."""
        first = self.boards[board]
        borne = stress.bears(stress.of_species(first.species), self.profiles[board], self.wood_c[board, self.kept_hours][:, None])
        share = self.stresses[board] / borne
        dx = field.grid(first.thickness_m / 2)
        depth = np.cumsum(dx) - dx / 2
        shell, core = depth <= 0.1 * first.thickness_m, depth >= 0.4 * first.thickness_m
        return np.average(share[:, shell], axis=1, weights=dx[shell]), np.average(share[:, core], axis=1, weights=dx[core])

    def prongs(self, board: int) -> Test:
        """What the prongs of a section cut from it at the end would do."""
        first = self.boards[board]
        dx = field.grid(first.thickness_m / 2)
        return stress.prongs(
            stress.of_species(first.species),
            self.creep[board],
            self.last_profiles[board],
            np.cumsum(dx) - dx / 2,
            dx,
            first.thickness_m,
            first.figures.wood.fibre_saturation,
        )


@dataclass(frozen=True)
class Imposed:
    """Air that is what the sun makes of it: a solar kiln's by the hour (°C, fractions), a row while the load is wet and one from 20%
    down.
    """

    temperature_c: Array
    humidity: Array


def run(
    boards: Sequence[Followed],
    program: Program,
    chamber: Chamber,
    outdoors: AirSeries,
    *,
    leading: int | None = None,
    pace: float = 1.0,
    imposed: Imposed | None = None,
    days: float = LONGEST_DAYS,
    disturbed: Sequence[Disturbance] = (),
    wood_c: float | None = None,
) -> Ran:
    """A load through its program.

    Args:
        boards: 1…200, their shares summing to one; outdoors: the air that walls and vents meet, from the first hour on; leading: how many
        of the first
            boards the load is run for, all where it is not given; pace: times as fast as its boards are taken to dry, 0.1…10; imposed:
            air that no chamber changes; days: how long it is looked at, 0.05…400; disturbed: what was wrong
            with the chamber, and when; wood_c: how warm the wood is at first, the air outdoors where it is not given.
    Raises:
        OutOfRange. NotKnown: shrinkage or gravity of a species.
    """
    check_range("boards", len(boards), 1, MOST_BOARDS)
    check_range("shares", sum(board.share for board in boards), 0.999, 1.001)
    check_range("pace", pace, 0.1, 10.0)
    check_range("leading", len(boards) if leading is None else leading, 1, len(boards))
    hours = round(float(check_range("days", days, 0.05, LONGEST_DAYS, " days")) * 24)
    if imposed is not None:
        hours = min(hours, imposed.temperature_c.shape[1])
    outside = outdoors.at(np.arange(hours) / 24)
    out_c = np.ascontiguousarray(outdoors.temperature_c[outside])
    out_kg = outdoors.relative_humidity[outside] * np.asarray(saturation_concentration(out_c))
    woods = np.array([_paced(board.figures.wood, pace).row for board in boards])
    gives = np.array([_give(board.species).row for board in boards])
    dx = np.array([field.grid(board.thickness_m / 2) for board in boards])
    starts = np.array([board.start for board in boards])
    profiles = np.repeat(starts[:, None], field.CELLS, axis=1)
    count, saved = len(boards), -(-hours // EVERY_H)
    made = _Arrays(count, hours, saved)
    rows = by_hour(disturbed, hours)
    begins_c = float(out_c[0]) if wood_c is None else float(check_range("wood_c", wood_c, -50.0, 100.0, "°C"))
    air_c, air_h = (
        (np.ascontiguousarray(imposed.temperature_c[:, :hours]), np.ascontiguousarray(imposed.humidity[:, :hours]))
        if imposed is not None
        else (np.zeros((2, 1)), np.zeros((2, 1)))
    )
    settings = program.settings
    state = np.zeros(2)
    ran, imbalance, disagreed = kernel.run(
        woods,
        np.array([board.figures.wood.density for board in boards]),
        np.array([board.thickness_m for board in boards]),
        np.array([board.share for board in boards]),
        gives,
        dx,
        profiles,
        chamber.row,
        np.array([setting.until for setting in settings]),
        np.array([setting.dry_bulb_c for setting in settings]),
        np.array([setting.humidity for setting in settings]),
        np.array([setting.dry_bulb_c - setting.wet_bulb_c for setting in settings]),
        np.array([setting.phase for setting in settings]),
        np.array([setting.hours for setting in settings]),
        program.wettest_at_end,
        program.driest_begins,
        imposed is not None,
        air_c,
        air_h,
        out_c,
        out_kg,
        leading or count,
        np.full(count, begins_c),
        begins_c,
        STEP_S,
        EVERY_H,
        rows,
        made.temperature,
        made.humidity,
        made.step,
        made.means,
        made.surfaces,
        made.cores,
        made.shells,
        made.stresses,
        made.profiles,
        made.wood_c,
        made.water,
        made.power,
        state,
        made.creep,
        made.lowest,
        made.stress,
    )
    saved = -(-ran // EVERY_H)
    return Ran(
        tuple(boards),
        program,
        chamber,
        made.temperature[:ran],
        made.humidity[:ran],
        made.step[:ran],
        made.means[:, :ran],
        made.surfaces[:, :ran],
        made.shells[:, :ran],
        made.cores[:, :ran],
        made.wood_c[:, :ran],
        made.water[:ran] * 3600.0 * np.array([chamber.load_m3, 1.0, 1.0, 1.0]),
        made.power[:ran],
        rows[:ran, FANS],
        np.arange(saved) * EVERY_H,
        made.profiles[:, :saved],
        made.stresses[:, :saved],
        made.creep,
        profiles,
        int(state[0]) >= len(settings),
        float(imbalance),
        float(disagreed),
    )


class _Arrays:
    """Room for what a run fills."""

    def __init__(self, count: int, hours: int, saved: int) -> None:
        self.temperature, self.humidity, self.step = (np.empty(hours) for _ in range(3))
        self.means, self.surfaces, self.cores, self.shells, self.wood_c = (np.empty((count, hours)) for _ in range(5))
        self.profiles, self.stresses = (np.empty((count, saved, field.CELLS)) for _ in range(2))
        self.water, self.power = np.zeros((hours, 4)), np.zeros((hours, 3))
        self.creep, self.stress = np.zeros((count, field.CELLS)), np.zeros((count, field.CELLS))
        self.lowest = np.full((count, field.CELLS), 9.0)


def _paced(wood: field.Wood, pace: float) -> field.Wood:
    return wood if pace == 1.0 else replace(wood, factor=float(np.clip(wood.factor * pace, 1e-3, 100.0)))


def _give(species: Species) -> Give:
    """A species without figures of its own gives as a middling wood: its stresses are then not shown."""
    try:
        return stress.of_species(species)
    except NotKnown:
        return Give(0.08, 800.0, 9.0)
