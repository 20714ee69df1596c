"""Which woods may share a load: what it costs each to be run together, in days and in risk.

A mixed load is run for the wood whose schedule is gentlest; the others wait for it, evened out, until its boards are there. Source: runs of
:mod:`wood.kiln.loads`; from which cost on woods are better kept apart is our own judgement (four days, or a seventh of one's own time).
"""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from wood.air.climate import AirSeries
from wood.errors import check_range
from wood.kiln import loads, programs
from wood.kiln.chambers import Chamber
from wood.kiln.loads import Followed, Ran
from wood.kiln.programs import Care, Program
from wood.kiln.schedules import Step
from wood.species import Species

TOGETHER_DAYS, TOGETHER_SHARE, PRICE_DAYS = 4.0, 1 / 7, 8.0
# Lots beyond which fewer boards stand for each.
MANY = 4
# Boards that are already so dry are made wetter by the air that green ones need.
REWETTED = 0.01


class Verdict(StrEnum):
    """Whether woods go together: they do, at a price, or they do not."""

    TOGETHER = "together"
    AT_A_PRICE = "at_a_price"
    APART = "apart"


@dataclass(frozen=True)
class Lot:
    """Wood that wants to go into a chamber: its name, species, thickness (m) and mean moisture (fraction), and its volume (m³)."""

    name: str
    species: Species
    thickness_m: float
    start: float
    volume_m3: float = 1.0

    def __post_init__(self) -> None:
        check_range("thickness_m", self.thickness_m, 0.003, 0.12, " m")
        check_range("start", self.start, 0.02, 3.0)
        check_range("volume_m3", self.volume_m3, 0.0001, 1000.0, " m³")


@dataclass(frozen=True)
class Share:
    """What sharing means for one lot: its days alone and together, how wet it is made again on the way (fraction), how dry its boards are
    at the end.
    """

    lot: Lot
    alone_days: float
    together_days: float
    rewetted: float
    driest: float

    @property
    def waits_days(self) -> float:
        """What it waits for the others."""
        return self.together_days - self.alone_days


@dataclass(frozen=True)
class Together:
    """A mixed load: for which lot it is run (a position), what each pays, and the run."""

    leads: int
    shares: tuple[Share, ...]
    ran: Ran

    @property
    def verdict(self) -> Verdict:
        """By what the one who pays most pays."""
        waits = max(share.waits_days for share in self.shares)
        if not np.isfinite(waits):
            return Verdict.APART
        share = max(share.waits_days / share.alone_days for share in self.shares)
        rewetted = max(share.rewetted for share in self.shares) > REWETTED
        if (waits <= TOGETHER_DAYS or share <= TOGETHER_SHARE) and not rewetted:
            return Verdict.TOGETHER
        return Verdict.AT_A_PRICE if waits <= PRICE_DAYS and not rewetted else Verdict.APART


def lead_first(lots: Sequence[Lot], *, by_schedule: bool = True) -> tuple[Lot, ...]:
    """The lots of a load, the one it is run for first: that of the gentlest schedule, or the thickest where none is followed (one's own
    steps, the sun).

    Raises:
        NotKnown: no schedule for any of them. OutOfRange: no lots, or more than twenty.
    """
    check_range("lots", len(lots), 1, 20)
    if by_schedule:
        leads = programs.for_load([(lot.species, lot.thickness_m) for lot in lots])
    else:
        leads = int(np.argmax([lot.thickness_m for lot in lots]))
    return (lots[leads], *(lot for number, lot in enumerate(lots) if number != leads))


def program_of(
    lots: Sequence[Lot],
    wanted: float,
    chamber: Chamber,
    *,
    care: Care = Care.USUAL,
    equalise: bool = True,
    condition: bool = True,
    own: Sequence[Step] | None = None,
) -> Program:
    """The program of a load whose lead comes first: its lead's, from where the wettest lot stands. A box or a room is no kiln and holds no
    air to even boards out in.

    Args:
        wanted: 0.04…0.20; own: one's own schedule.
    Raises:
        NotKnown: no schedule. OutOfRange: no lots.
    """
    check_range("lots", len(lots), 1, 20)
    return programs.program(
        lots[0].species,
        lots[0].thickness_m,
        max(lot.start for lot in lots),
        wanted,
        chamber,
        care=care,
        equalise=equalise and chamber.is_kiln,
        condition=condition and chamber.is_kiln,
        own=own,
    )


def leading(boards: Sequence[Followed]) -> int:
    """How many of a load's boards are its lead's: of the lot that the first belongs to."""
    return sum(board.lot == boards[0].lot for board in boards)


def boards_of(lots: Sequence[Lot], count: int = 0) -> list[Followed]:
    """Boards that stand for a load, eight of each lot; four where there are more than four lots.

    Raises:
        OutOfRange: no lots, or more than twenty. NotKnown: a species' pace.
    """
    check_range("lots", len(lots), 1, 20)
    whole = sum(lot.volume_m3 for lot in lots)
    each = count or (8 if len(lots) <= MANY else 4)
    return [board for lot in lots for board in loads.boards(lot.name, lot.species, lot.thickness_m, lot.start, lot.volume_m3 / whole, each)]


def together(
    lots: Sequence[Lot],
    wanted: float,
    chamber: Chamber,
    outdoors: AirSeries,
    *,
    care: Care = Care.USUAL,
    equalise: bool = True,
    condition: bool = True,
    ran: Ran | None = None,
) -> Together:
    """Lots in one load.

    Args:
        lots: 2…20; wanted: 0.04…0.20; ran: the run of just this load, its lead first, where it is at hand.
    Raises:
        OutOfRange. NotKnown: no schedule for any, or a species' pace.
    """
    check_range("lots", len(lots), 2, 20)
    ordered = lead_first(lots)

    def run(some: Sequence[Lot], count: int = 0) -> Ran:
        boards = boards_of(some, count)
        program = program_of(some, wanted, chamber, care=care, equalise=equalise, condition=condition)
        return loads.run(boards, program, chamber, outdoors, leading=leading(boards))

    mixed = run(ordered) if ran is None else ran
    shares = []
    for lot in lots:
        alone = run([lot], len(mixed.boards) // len(lots)).days
        mine = [number for number, board in enumerate(mixed.boards) if board.lot == lot.name]
        means = mixed.means[mine]
        gained = float((means.max(axis=1) - np.array([mixed.boards[number].start for number in mine])).max())
        shares.append(Share(lot, alone, mixed.days, max(gained, 0.0), float(means[:, -1].min())))
    return Together(list(lots).index(ordered[0]), tuple(shares), mixed)
