"""Saved answers as pages and jobs ask for them: true ones are read, the others worked out and saved.

    saved = answers_of(workshop.pk)
    line = saved.get(LINES, build.pk, lambda: line_of(build))

What is read is what would be worked out now: the workshop's revision, the day and the rule are those it was worked out by, and what
changes with the hour is read for so long only as its kind says. The revision is read before anything is worked out, so that what changes
meanwhile makes the answer stale.
"""

import json
import threading
from collections.abc import Callable, Hashable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Any, TypeVar

from django.db import connection
from django.utils import timezone

from calm_heron.answers import changes
from calm_heron.answers.models import SavedAnswer
from calm_heron.plugs import Registry
from calm_heron.site.memory import Memory
from calm_heron.workshops.models import Workshop

Value = TypeVar("Value")


@dataclass(frozen=True)
class AnswerKind:
    """A kind of answer: its name in the rows, the rule it goes by (another makes all of them stale), and how long it is good at most.

    ``renew`` works all answers of this kind of a workshop out that are not true any more, behind the pages; ``order`` says before which.
    """

    order: int
    name: str
    rule: str
    good_for: timedelta
    renew: Callable[[Workshop, "Saved"], object]


KINDS: Registry[AnswerKind] = Registry()


class Saved:
    """The saved answers of a workshop as they stood at one revision: read at once, worked out where they are not true."""

    def __init__(self, workshop_id: int) -> None:
        self.workshop_id = workshop_id
        self.revision = changes.revision(workshop_id)
        self.day = timezone.localdate()
        now = timezone.now()
        rows = SavedAnswer.objects.filter(workshop=workshop_id, revision=self.revision, day=self.day)
        self._rows = {
            (kind, subject): (rule, now - at, value)
            for kind, subject, rule, at, value in rows.values_list("kind", "subject", "rule", "at", "value")
        }

    def has(self, kind: AnswerKind, subject: int = 0) -> bool:
        """Whether a true answer is there."""
        rule, age, _ = self._rows.get((kind.name, subject), ("", timedelta(0), None))
        return rule == kind.rule and timedelta(0) <= age < kind.good_for

    def get(self, kind: AnswerKind, subject: int, work: Callable[[], Any]) -> Any:
        """The answer, as JSON holds it; worked out and saved where no true one is there."""
        if self.has(kind, subject):
            return self._rows[kind.name, subject][2]
        value = work()
        self._save(kind, subject, value)
        return value

    def _save(self, kind: AnswerKind, subject: int, value: Any) -> None:
        # Who worked it out at a later revision is not written over.
        with connection.cursor() as cursor:
            cursor.execute(
                """
                INSERT INTO answers_savedanswer (workshop_id, kind, subject, value, revision, rule, day, at)
                VALUES (%s, %s, %s, %s::jsonb, %s, %s, %s, %s)
                ON CONFLICT (workshop_id, kind, subject) DO UPDATE
                SET value = excluded.value, revision = excluded.revision, rule = excluded.rule, day = excluded.day, at = excluded.at
                WHERE answers_savedanswer.revision <= excluded.revision
                """,
                [self.workshop_id, kind.name, subject, json.dumps(value), self.revision, kind.rule, self.day, timezone.now()],
            )
        self._rows[kind.name, subject] = (kind.rule, timedelta(0), value)


_request = threading.local()


def answers_of(workshop_id: int) -> Saved:
    """The saved answers of a workshop; within one request that only reads they are read once."""
    held: dict[int, Saved] | None = getattr(_request, "held", None)
    if held is None:
        return Saved(workshop_id)
    if workshop_id not in held:
        held[workshop_id] = Saved(workshop_id)
    return held[workshop_id]


def memory_key(workshop_id: int) -> tuple[int, int, date] | None:
    """What else a process may remember an answer by: the workshop, its revision and the day. None inside a transaction: one that is rolled
    back takes its revision back, and another change has it then."""
    if connection.in_atomic_block:
        return None
    saved = answers_of(workshop_id)
    return workshop_id, saved.revision, saved.day


def remembered(memory: Memory[Value], workshop_id: int, key: Hashable, work: Callable[[], Value]) -> Value:
    """What a process remembers beside the rows, for as long as the workshop stands as it does; worked out where it may not remember."""
    stands = memory_key(workshop_id)
    return work() if stands is None else memory.get((stands, key), work)


@contextmanager
def read_once() -> Iterator[None]:
    """While this lasts, each workshop's answers are read once: for requests that change nothing."""
    _request.held = {}
    try:
        yield
    finally:
        _request.held = None


def renew(workshop: Workshop) -> None:
    """Work out all answers of a workshop that are not true any more. Some keep what they were worked out from (a forecast), which is a
    change itself: they are gone through until nothing changes."""
    for _ in range(MOST_ROUNDS):
        saved = Saved(workshop.pk)
        for kind in KINDS:
            kind.renew(workshop, saved)
        if changes.revision(workshop.pk) == saved.revision:
            return


MOST_ROUNDS = 4


def sweep() -> None:
    """Delete answers that no page reads any more: older than a month."""
    SavedAnswer.objects.filter(at__lt=timezone.now() - timedelta(days=30)).delete()
