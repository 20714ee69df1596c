"""An instrument that reports by itself: whether it has fallen silent, sticks, jumped, or left a gap.

What was heard of it is summed up reading by reading, so that nothing needs to be read again. The limits are our judgement, those of a
logger's file (:mod:`wood.air.logger_files`).
"""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from datetime import datetime, timedelta
from typing import Any

from wood.air.logger_files import GAP_HOURS, GAP_STEPS, JUMP_C, JUMP_HOURS, JUMP_RH, STUCK_HOURS, STUCK_TIMES, FaultKind
from wood.errors import check_range

# How far a value may move between two readings close together: °C of air, a fraction of humidity, a fraction of wood's moisture.
JUMPS = {"temperature_c": JUMP_C, "humidity": JUMP_RH, "shown": 0.05}
# Wood answers slowly: its readings lie hours apart, and still it does not jump.
JUMP_WITHIN = {"shown": timedelta(hours=6)}
# An instrument that nobody has heard of twice is missed after so long; nobody is told of a silence shorter than the other.
FIRST_SILENCE, SHORTEST_SILENCE = timedelta(days=1), timedelta(hours=2)
# What is over is told of for so long.
TOLD_FOR = timedelta(days=2)
INTERVALS = 9


@dataclass(frozen=True)
class Trouble:
    """Something an instrument does that is no air and no wood: from when on, and until when where it is over."""

    kind: FaultKind
    since: datetime
    until: datetime | None = None


@dataclass(frozen=True)
class Heard:
    """What was heard of an instrument so far.

    ``at`` and ``values`` are of its newest reading, ``since`` when it first showed the very same and ``times`` how often since;
    ``intervals_s`` seconds between its last readings; ``gap`` and ``jump`` the newest of each (from, to).
    """

    at: datetime | None = None
    values: Mapping[str, float] = field(default_factory=dict)
    since: datetime | None = None
    times: int = 0
    intervals_s: tuple[float, ...] = ()
    gap: tuple[datetime, datetime] | None = None
    jump: tuple[datetime, datetime] | None = None

    @property
    def usual(self) -> timedelta | None:
        """How far apart its readings usually are, once it was heard of three times."""
        return timedelta(seconds=sorted(self.intervals_s)[len(self.intervals_s) // 2]) if len(self.intervals_s) >= 2 else None

    def then(self, at: datetime, values: Mapping[str, float]) -> "Heard":
        """With one more reading. One from before the newest changes nothing but a gap that it lies in, which is then none any more.

        Args:
            at: its moment, with a time zone; values: what it showed, by name: ``temperature_c`` °C, ``humidity`` and ``shown`` fractions.
        Raises:
            OutOfRange: a value that is no number.
        """
        for name, value in values.items():
            check_range(name, value, -1e6, 1e6)
        if self.at is None:
            return replace(self, at=at, values=dict(values), since=at, times=1)
        if at <= self.at:
            filled = self.gap is not None and self.gap[0] < at < self.gap[1]
            return replace(self, gap=None) if filled else self
        apart = at - self.at
        usual = self.usual
        gap = (self.at, at) if usual is not None and apart > _patience(usual) else self.gap
        leapt = any(
            abs(value - self.values[name]) > JUMPS[name]
            for name, value in values.items()
            if name in JUMPS and name in self.values and apart <= JUMP_WITHIN.get(name, timedelta(hours=JUMP_HOURS))
        )
        same = dict(values) == dict(self.values)
        return Heard(
            at,
            dict(values),
            self.since if same else at,
            self.times + 1 if same else 1,
            (*self.intervals_s, apart.total_seconds())[-INTERVALS:],
            gap,
            (self.at, at) if leapt else self.jump,
        )

    def troubles(self, now: datetime, began: datetime) -> list[Trouble]:
        """What is wrong with it at a moment, the worst first; ``began`` is when it was first expected to speak."""
        found = []
        last, usual = self.at or began, self.usual
        if now - last > (FIRST_SILENCE if usual is None else max(_patience(usual), SHORTEST_SILENCE)):
            found.append(Trouble(FaultKind.SILENT, last))
        same_for = self.at - self.since if self.at is not None and self.since is not None else timedelta()
        if self.since is not None and self.times >= STUCK_TIMES and same_for >= timedelta(hours=STUCK_HOURS):
            found.append(Trouble(FaultKind.STUCK, self.since))
        for kind, span in ((FaultKind.GAP, self.gap), (FaultKind.JUMP, self.jump)):
            if span is not None and now - span[1] <= TOLD_FOR:
                found.append(Trouble(kind, *span))
        return found

    def kept(self) -> dict[str, Any]:
        """As a database keeps it; :func:`as_kept` reads it back."""

        def span(pair: tuple[datetime, datetime] | None) -> list[str] | None:
            return None if pair is None else [moment.isoformat() for moment in pair]

        return {
            "at": self.at and self.at.isoformat(),
            "values": dict(self.values),
            "since": self.since and self.since.isoformat(),
            "times": self.times,
            "intervals_s": [round(seconds, 1) for seconds in self.intervals_s],
            "gap": span(self.gap),
            "jump": span(self.jump),
        }


def as_kept(kept: Mapping[str, Any]) -> Heard:
    """What :meth:`Heard.kept` wrote; nothing heard where it is empty."""
    if not kept:
        return Heard()

    def span(pair: list[str] | None) -> tuple[datetime, datetime] | None:
        return None if pair is None else (datetime.fromisoformat(pair[0]), datetime.fromisoformat(pair[1]))

    at, since = (kept[name] and datetime.fromisoformat(kept[name]) for name in ("at", "since"))
    return Heard(at, kept["values"], since, kept["times"], tuple(kept["intervals_s"]), span(kept["gap"]), span(kept["jump"]))


def _patience(usual: timedelta) -> timedelta:
    return max(usual * GAP_STEPS, timedelta(hours=GAP_HOURS))
