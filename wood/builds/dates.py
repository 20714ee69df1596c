"""The day when all the wood of a build may be worked: that of the latest of its boards, which is later than the latest board's own middle
day.

Each board's day is not known but spread over the days of its set of runs (:mod:`wood.drying.answers`). All are there by a day only if each
is, and boards differ for reasons of their own (their pace, how wet they began), so the chances multiply. The weather that they share would
draw them together; leaving that out puts the day late rather than early.

Source: order statistics; that boards go their own ways is our own judgement, on the careful side.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from wood.arrays import Array, Values
from wood.errors import check_range


@dataclass(frozen=True)
class Ready:
    """A board's own forecast: the days of its runs (infinite: never), and the middle day and band that its own page
    tells. A lot is one, as it is on its page.

    Raises:
        OutOfRange: no days, or days below nothing.
    """

    members: Array
    days: float
    low: float
    high: float

    def __post_init__(self) -> None:
        check_range("members", np.size(self.members), 1, 100_000)
        members = np.asarray(self.members, float)
        check_range("days", members[np.isfinite(members)], 0.0, 1e6, " days")
        if np.isnan(members).any():
            check_range("days", float("nan"), 0.0, 1e6, " days")


@dataclass(frozen=True)
class Latest:
    """The day when all are there: the middle, and the band that holds eight times in ten; infinite where that never comes. ``which`` is the
    position of the board that is most often the last."""

    days: float
    low: float
    high: float
    which: int


def latest(boards: Sequence[Ready]) -> Latest:
    """The day of the latest of all boards; one board alone keeps its own.

    Raises:
        OutOfRange: no boards.

    >>> item = Ready(np.arange(10.0, 31.0), 20.0, 12.0, 28.0)
    >>> latest([item]).days, latest([item, item]).days > 20.0
    (20.0, True)
    """
    check_range("boards", len(boards), 1, 10_000)
    # What is there already delays nothing, and one board alone keeps its own day.
    waiting = [n for n, item in enumerate(boards) if np.max(item.members) > 0 or item.days > 0]
    if not waiting:
        return Latest(0.0, 0.0, 0.0, 0)
    which = max(waiting, key=lambda n: boards[n].days)
    if len(waiting) == 1:
        return Latest(boards[which].days, boards[which].low, boards[which].high, which)
    boards, last = [boards[n] for n in waiting], boards[which]
    looks = np.unique(np.concatenate([np.asarray(board.members, float) for board in boards]))
    looks = looks[np.isfinite(looks)]
    if not looks.size:
        return Latest(np.inf, np.inf, np.inf, which)
    chance = np.ones(looks.size)
    for board in boards:
        chance *= share_by(board.members, looks)

    def by(share: float) -> float:
        position = int(np.searchsorted(chance, share - 1e-12))
        return float(looks[position]) if position < looks.size else np.inf

    # Never before the latest has its own middle day, nor its own band.
    return Latest(max(by(0.5), last.days), max(by(0.1), min(last.low, last.days)), max(by(0.9), last.high), which)


def share_by(members: Values, days: Values) -> Array:
    """Which share of the runs is there by each of some days.

    Raises:
        OutOfRange: no members.
    """
    members = np.sort(np.atleast_1d(np.asarray(members, float)))
    check_range("members", members.size, 1, 100_000)
    return np.searchsorted(members, np.asarray(days, float), side="right") / members.size
