"""Saved answers as pages and jobs ask for them: true ones are read, the others worked out and saved.

    saved = answers_of(workshop.pk)
    line = saved.get(LINES, build.pk, lambda: line_of(build))

What is read is what would be worked out now: what it stands on, the day and the rule are those it was worked out by, and what changes with
the hour is read for so long only as its kind says. How far everything has changed is read before anything is worked out, so that what
changes meanwhile makes the answer stale.
"""

import json
import threading
from collections.abc import Callable, Collection, Hashable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import timedelta
from functools import cached_property
from typing import Any, TypeVar

from django.db import connection
from django.utils import timezone

from calm_heron.answers import changes
from calm_heron.answers.models import SavedAnswer
from calm_heron.plugs import Registry
from calm_heron.site.memory import RowMemory
from calm_heron.workshops.models import Workshop

Value = TypeVar("Value")


@dataclass(frozen=True)
class AnswerKind:
    """A kind of answer: its name in the rows, the rule it goes by (another makes all of them stale), how long it is good at most, and the
    apps whose rows it stands on: all that working it out reads (a test looks at its queries); None for all.

    ``renew`` works all answers of this kind of a workshop out that are not true any more, behind the pages; ``order`` says before which.
    """

    order: int
    name: str
    rule: str
    good_for: timedelta
    stands_on: frozenset[str] | None
    renew: Callable[[Workshop, "Saved"], object]


KINDS: Registry[AnswerKind] = Registry()


class Saved:
    """The saved answers of a workshop as they stood at one moment: read at once, worked out where they are not true."""

    def __init__(self, workshop_id: int) -> None:
        self.workshop_id = workshop_id
        self.counts = changes.counts_of(workshop_id)
        self.day = timezone.localdate()

    @cached_property
    def _rows(self) -> dict[tuple[str, int], tuple[Any, ...]]:
        now = timezone.now()
        rows = SavedAnswer.objects.filter(workshop=self.workshop_id, day=self.day)
        columns = rows.values_list("kind", "subject", "rule", "revision", "pieces", "value", "at")
        return {(kind, subject): (*stands, now - at) for kind, subject, *stands, at in columns}

    def revision(self, stands_on: Collection[str] | None = None, pieces: Collection[int] | None = None) -> str:
        """How far what is stood on has changed (see :func:`changes.revision`)."""
        return changes.revision(self.counts, stands_on, pieces)

    def has(self, kind: AnswerKind, subject: int = 0) -> bool:
        """Whether a true answer is there."""
        if (kind.name, subject) not in self._rows:
            return False
        rule, revision, pieces, _, age = self._rows[kind.name, subject]
        return rule == kind.rule and timedelta(0) <= age < kind.good_for and revision == self.revision(kind.stands_on, pieces)

    def get(self, kind: AnswerKind, subject: int, work: Callable[[], Any]) -> Any:
        """The answer, as JSON holds it; worked out and saved where no true one is there."""
        return self.get_of_pieces(kind, subject, lambda: (work(), None))

    def get_of_pieces(self, kind: AnswerKind, subject: int, work: Callable[[], tuple[Any, Collection[int] | None]]) -> Any:
        """The same for an answer that stands, of all that belongs to pieces, on what belongs to some alone: ``work`` gives their ids with
        it.
        """
        if not self.has(kind, subject):
            self._save(kind, subject, *work())
        return self._rows[kind.name, subject][3]

    def _save(self, kind: AnswerKind, subject: int, value: Any, pieces: Collection[int] | None) -> None:
        ids = None if pieces is None else sorted(pieces)
        revision = self.revision(kind.stands_on, ids)
        # One that was worked out from what stood longer ago may be written last: it is not true then, and who asks next sees that.
        with connection.cursor() as cursor:
            cursor.execute(
                """
                INSERT INTO answers_savedanswer (workshop_id, kind, subject, value, revision, pieces, rule, day, at)
                VALUES (%s, %s, %s, %s::jsonb, %s, %s::bigint[], %s, %s, %s)
                ON CONFLICT (workshop_id, kind, subject) DO UPDATE
                SET value = excluded.value, revision = excluded.revision, pieces = excluded.pieces, rule = excluded.rule,
                    day = excluded.day, at = excluded.at
                """,
                [self.workshop_id, kind.name, subject, json.dumps(value), revision, ids, kind.rule, self.day, timezone.now()],
            )
        self._rows[kind.name, subject] = (kind.rule, revision, ids, value, timedelta(0))


_request = threading.local()


def answers_of(workshop_id: int) -> Saved:
    """The saved answers of a workshop; within one request that only reads they are read once."""
    held: dict[int, Saved] | None = getattr(_request, "held", None)
    if held is None:
        return Saved(workshop_id)
    if workshop_id not in held:
        held[workshop_id] = Saved(workshop_id)
    return held[workshop_id]


def remembered(
    memory: RowMemory[Value],
    workshop_id: int,
    key: Hashable,
    work: Callable[[], Value],
    stands_on: Collection[str] | None = None,
    pieces: Collection[int] | None = None,
) -> Value:
    """What a process remembers beside the rows, for as long as what it stands on is as it is; worked out where it may not remember.

    Inside a transaction it may not: one that is rolled back takes its changes back, and other changes have its counts then.
    """
    if connection.in_atomic_block:
        return work()
    saved = answers_of(workshop_id)
    return memory.get((workshop_id, saved.revision(stands_on, pieces), saved.day, key), work)


@contextmanager
def read_once(saved: Saved | None = None) -> Iterator[None]:
    """While this lasts, each workshop's answers are read once, those of ``saved`` not at all: for what changes nothing."""
    _request.held = {saved.workshop_id: saved} if saved else {}
    try:
        yield
    finally:
        _request.held = None


def renew(workshop: Workshop) -> None:
    """Work out all answers of a workshop that are not true any more. Some keep what they were worked out from (a forecast), which is a
    change itself: they are gone through until nothing changes."""
    for _ in range(MOST_ROUNDS):
        saved = Saved(workshop.pk)
        with read_once(saved):
            for kind in KINDS:
                kind.renew(workshop, saved)
        if changes.counts_of(workshop.pk) == saved.counts:
            return


MOST_ROUNDS = 4


def sweep() -> None:
    """Delete answers that no page reads any more: older than a month."""
    SavedAnswer.objects.filter(at__lt=timezone.now() - timedelta(days=30)).delete()
