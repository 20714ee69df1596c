"""A load as it is planned: its program, its run, how sure the days are, and what is asked about it: what a drier end costs, whether it can
go wetter again, what it costs in power.

Source: runs of :mod:`wood.kiln.loads`; the band is of boards that all dry faster or slower than their species' middle (eight loads in ten).
"""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property, lru_cache

import numpy as np

from wood.air.climate import AirSeries
from wood.drying import defects, field
from wood.drying.defects import Risk
from wood.drying.solar import DRY_FILLS, WET_FILLS, SolarKiln
from wood.errors import NotKnown, check_range
from wood.kiln import loads, programs
from wood.kiln.chambers import Chamber
from wood.kiln.loads import WITHIN_A_LOAD, Imposed, Ran
from wood.kiln.programs import Care, Phase, Program, Setting
from wood.kiln.schedules import Step
from wood.kiln.sharing import Lot, boards_of, lead_first, leading, program_of

EIGHT_IN_TEN = 1.2816
# A solar kiln's load is looked at for a year and a bit.
SOLAR_DAYS = 400.0


@dataclass(frozen=True)
class Planned:
    """A planned load: its lots, the one it is run for first, the run in the middle, and between which days eight in ten loads are done
    (infinite: not within what is looked at)."""

    lots: tuple[Lot, ...]
    ran: Ran
    low_days: float
    high_days: float

    @property
    def program(self) -> Program:
        return self.ran.program

    @property
    def volume_m3(self) -> float:
        """The wood in it."""
        return sum(lot.volume_m3 for lot in self.lots)

    @property
    def slowest(self) -> int:
        """Which board dries last."""
        return (
            int(np.argmax(self.ran.means[:, -1]))
            if not self.ran.finished
            else int(np.argmax((self.ran.means > self.program.wanted).sum(axis=1)))
        )

    def middle_of(self, lot: str) -> int:
        """The board in the middle of a lot, by its pace: the one its risks are told of, as of every drying."""
        mine = [number for number, board in enumerate(self.ran.boards) if board.lot == lot]
        return mine[len(mine) // 2]

    @cached_property
    def risks(self) -> list[tuple[str, Risk]]:
        """What is likely to go wrong with each lot, the gravest first; nothing where a species is not known well enough."""
        results = []
        ran = self.ran
        warm = AirSeries(ran.temperature_c, np.clip(ran.humidity, 0.01, 1.0), np.full(ran.hours, ran.chamber.air_speed_m_s))
        for lot in self.lots:
            number = self.middle_of(lot.name)
            board = ran.boards[number]
            try:
                risks = defects.assess(
                    ran.history(number), lot.species, board.figures, lot.thickness_m, board.start, warm, ends_sealed=True
                )
            except NotKnown:
                continue
            results += [(lot.name, risk) for risk in risks]
        return sorted(results, key=lambda pair: -pair[1].worst)


def plan(
    lots: Sequence[Lot],
    wanted: float,
    chamber: Chamber,
    outdoors: AirSeries,
    *,
    care: Care = Care.USUAL,
    equalise: bool = True,
    condition: bool = True,
    own: Sequence[Step] | None = None,
    solar: SolarKiln | None = None,
    warmed: bool = False,
) -> Planned:
    """A load through a chamber.

    Args:
        lots: 1…20; wanted: 0.04…0.20; outdoors: the air that chamber stands in, from the first hour on; own: one's own schedule; solar: the
        sun's kiln, which follows no schedule; warmed: whether the load is warm already.
    Raises:
        NotKnown: no schedule for any of the lots, or a species' pace. OutOfRange.
    """
    check_range("wanted", wanted, *programs.TARGETS)
    ordered = lead_first(lots, by_schedule=own is None and solar is None)
    boards = boards_of(ordered)
    if solar is not None:
        program = Program((Setting(Phase.DRYING, wanted, 60.0, 0.3),), wanted, "", "", False, -1.0, wanted)
    else:
        program = program_of(ordered, wanted, chamber, care=care, equalise=equalise, condition=condition, own=own)
    if warmed:
        program = programs.without_warming(program)
    imposed = _sun(solar, outdoors) if solar is not None else None
    spread = EIGHT_IN_TEN * float(np.sqrt(1 - WITHIN_A_LOAD**2)) * boards[0].figures.spread

    def run(pace: float) -> Ran:
        return loads.run(boards, program, chamber, outdoors, leading=leading(boards), pace=pace, imposed=imposed)

    # Compiled runs let go of the interpreter: side by side.
    middle, quick, slow = field.side_by_side(run, (1.0, float(np.exp(spread)), float(np.exp(-spread))))
    return Planned(ordered, middle, min(quick.days, middle.days), max(slow.days, middle.days))


def _sun(kiln: SolarKiln, outdoors: AirSeries) -> Imposed:
    """The air of a solar kiln from the first hour on, while its load is wet and when it is dry."""
    both = [kiln.air(outdoors, fills) for fills in (WET_FILLS, DRY_FILLS)]
    hours = np.arange(int(SOLAR_DAYS * 24))
    return Imposed(
        np.stack([series.temperature_c[series.at(hours / 24)] for series in both]),
        np.stack([series.relative_humidity[series.at(hours / 24)] for series in both]),
    )


def daily_loss(ran: Ran) -> np.ndarray:
    """What the quickest board loses in each whole day, as moisture: what stands against the safe rate."""
    days = ran.hours // 24
    if days < 1:
        return np.zeros(0)
    starts = np.array([[board.start] for board in ran.boards])
    at_end = ran.means[:, 23::24][:, :days]
    before = np.concatenate([starts, at_end[:, :-1]], axis=1)
    return (before - at_end).max(axis=0)


@lru_cache(maxsize=1)
def warm() -> None:
    """Compile what a first load needs, so that nobody waits for it."""
    from wood.air.climate import constant
    from wood.kiln.chambers import Kind, usual
    from wood.species import species_named

    oak = species_named("white_oak")
    lot = Lot("a", oak, 0.0286, 0.12)
    chamber = usual(Kind.VENTED, 1.0)
    loads.run(boards_of([lot]), programs.program(oak, 0.0286, 0.12, 0.08, chamber), chamber, constant(15.0, 0.6), days=0.2)
