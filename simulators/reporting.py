"""How a simulated instrument reports, and the usual ways in which it fails to: its battery dies, it drifts, it sticks, it is out of reach
for a day and then tells all at once, its clock is wrong.
"""

import argparse
import json
import time
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

from simulators.door import AnyDoor

BATCH = 250
# A clock that was never set after its battery was changed in another country.
CLOCK_OFF = timedelta(hours=-3, minutes=-17)
OUT_OF_REACH = timedelta(hours=24)


@dataclass(frozen=True)
class Schedule:
    """From when to when an instrument reads, how often, and how it fails from when on (empty: it does not)."""

    begins: datetime
    ends: datetime
    every: timedelta
    fail: str = ""
    fails_from: datetime | None = None

    def moments(self) -> Iterator[datetime]:
        moment = self.begins
        while moment <= self.ends:
            yield moment
            moment += self.every

    def has_failed(self, at: datetime) -> bool:
        return bool(self.fail) and (self.fails_from is None or at >= self.fails_from)


def schedule(options: argparse.Namespace) -> Schedule:
    """From what was typed: the last so many hours, up to now."""
    ends = datetime.now(UTC).replace(microsecond=0) - timedelta(seconds=5)
    begins = ends - timedelta(hours=options.hours)
    return Schedule(begins, ends, timedelta(minutes=options.every), options.fail, begins + timedelta(hours=options.fail_from))


def batches(plan: Schedule, read: Callable[[datetime, float], dict[str, Any]], name: str) -> Iterator[list[dict[str, Any]]]:
    """What it tells, in the order in which it does: batches of readings, each with its key and the moment by its own clock.

    Args:
        read: what it shows at a moment, and by how many days it has drifted; name: with which its keys begin.
    """
    batch: list[dict[str, Any]] = []
    stuck: dict[str, Any] | None = None
    for at in plan.moments():
        failed = plan.fail if plan.has_failed(at) else ""
        if failed == "battery":
            break
        since = plan.fails_from or plan.begins
        shown = read(at, (at - since) / timedelta(days=1) if failed == "drift" else 0.0)
        if failed == "stuck":
            stuck = stuck or shown
            shown = stuck
        clock = at + CLOCK_OFF if plan.fail == "clock" else at
        batch.append({"key": f"{name}-{at:%Y%m%d%H%M%S}", "at": clock.isoformat(), **shown})
        # Out of reach it gathers, and tells all when it is back.
        if failed == "offline" and at - since < OUT_OF_REACH:
            continue
        while len(batch) >= BATCH:
            yield batch[:BATCH]
            batch = batch[BATCH:]
    while batch:
        yield batch[:BATCH]
        batch = batch[BATCH:]


def truth_line(key: str, at: datetime, kept: bool, true: Mapping[str, float]) -> str:
    """A line of a truth file: which reading, of which moment, whether it was kept, and what was really so."""
    return json.dumps({"key": key, "at": at.isoformat(), "kept": kept, **true}) + "\n"


def report(
    door: AnyDoor,
    plan: Schedule,
    read: Callable[[datetime, float], dict[str, Any]],
    name: str,
    *,
    say: Callable[[str], None] | None = None,
    true: Callable[[datetime], dict[str, float]] | None = None,
    truth: Path | None = None,
    goes_on: bool = False,
) -> dict[str, int]:
    """Tell everything, each batch again until it is answered; how many were kept, known and refused.

    Args:
        true, truth: what is really so at a moment, and the file to write that into, a line of JSON for each reading; goes_on: go on
        reading as time passes, until it is stopped.
    """
    say = say or print
    off = CLOCK_OFF if plan.fail == "clock" else timedelta()
    counted = {"kept": 0, "known": 0, "refused": 0}
    written = truth.open("w", encoding="utf-8") if truth else None
    try:
        while True:
            for batch in batches(plan, read, name):
                answer = door.told(datetime.now(UTC) + off, batch)
                counted["kept"] += answer["kept"]
                counted["known"] += answer["known"]
                counted["refused"] += len(answer["refused"])
                why = f"; {answer['refused'][0]['why']}" if answer["refused"] else ""
                say(f"{len(batch)} told: {answer['kept']} kept, {answer['known']} known, {len(answer['refused'])} refused{why}")
                refused = {item["key"] for item in answer["refused"]}
                if written and true:
                    for reading in batch:
                        at = datetime.fromisoformat(reading["at"]) - off
                        written.write(truth_line(reading["key"], at, reading["key"] not in refused, true(at)))
            if not goes_on:
                return counted
            time.sleep(plan.every.total_seconds())
            now = datetime.now(UTC).replace(microsecond=0)
            plan = Schedule(now, now, plan.every, plan.fail, plan.fails_from)
    finally:
        if written:
            written.close()
