"""What lasted: something that happened from one moment to another, or goes on; of loads, of stacks, of whatever lies somewhere.

Such rows are added and never changed: an end, and that it was not so, are rows that supersede the one before.
"""

from collections.abc import Callable, Mapping
from datetime import datetime
from typing import Any

from django.db import models
from django.utils import timezone
from django.utils.text import capfirst

from calm_heron.site.dates import moment
from calm_heron.workshops.corrections import RecordedRows, again, supersede
from calm_heron.workshops.models import Membership, Person, WorkshopRow
from calm_heron.workshops.refusals import Refused

TOO_LATE = "Someone else has changed it since you opened it."


class Spell(WorkshopRow):
    """Something that happened: since when, until when (empty: at that moment alone, unless it ``goes_on``), in whose words."""

    append_only = True
    # What is said of a ``kind`` while it goes on.
    while_it_goes_on: Mapping[Any, str] = {}

    at = models.DateTimeField(default=timezone.now)
    until = models.DateTimeField(null=True)
    goes_on = models.BooleanField(default=False)
    words = models.CharField(max_length=200, blank=True)
    by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    supersedes = models.OneToOneField("self", on_delete=models.PROTECT, null=True, related_name="superseded_by")
    struck = models.BooleanField(default=False)

    objects = RecordedRows.as_manager()  # type: ignore[misc]

    class Meta:
        abstract = True

    @property
    def said(self) -> str:
        """What happened, in words: that of its kind, and what somebody wrote."""
        kind = self.while_it_goes_on.get(self.kind, "it goes on") if self.goes_on else self.get_kind_display()  # type: ignore[attr-defined]
        return capfirst(kind) + (f": {self.words}" if self.words else "")

    @property
    def lasted(self) -> str:
        """From when to when it was so."""
        if self.goes_on:
            return f"since {moment(self.at)}"
        return moment(self.at) if self.until is None else f"{moment(self.at)} to {moment(self.until)}"

    @property
    def ended(self) -> datetime:
        """When it was over; now where it goes on."""
        return timezone.now() if self.goes_on else self.until or self.at


def check_span(at: datetime, until: datetime | None, begun: datetime, what: str) -> None:
    """Refuse a span that is none, or lies outside what it happened to.

    Raises:
        Refused: it ends before it begins, or begins before ``begun``.
    """
    if until is not None and until < at:
        raise Refused("It ends before it begins: are the two changed about?", "until")
    if at < begun:
        raise Refused(f"That was before {what} began.", "at")


def end(by: Membership, row: Spell, until: datetime | None = None) -> Any:
    """It is over.

    Raises:
        Refused: it was over, or somebody else was first.
    """
    if not row.goes_on:
        raise Refused("It is over already.")
    over = again(row, by, until=max(until or timezone.now(), row.at), goes_on=False)
    supersede(row, over, TOO_LATE)
    return over


def strike(by: Membership, row: Spell) -> None:
    """It was not so: it counts no more.

    Raises:
        Refused: somebody else was first.
    """
    supersede(row, again(row, by, struck=True), TOO_LATE)


def put_back(by: Membership, row: Any) -> Any:
    """It was so after all: what :func:`strike` took out stands again.

    Raises:
        Refused: it stands, or somebody else was first.
    """
    taken = type(row).objects.of(by.workshop).filter(supersedes=row, struck=True, superseded_by=None).first()
    if taken is None:
        raise Refused("It stands already.")
    stands = again(row, by)
    supersede(taken, stands, TOO_LATE)
    return stands


def resume(by: Membership, row: Spell) -> Any:
    """It was not over after all, and goes on.

    Raises:
        Refused: it goes on, or somebody else was first.
    """
    if row.goes_on:
        raise Refused("It goes on already.")
    on = again(row, by, until=None, goes_on=True)
    supersede(row, on, TOO_LATE)
    return on


# What can be done with one that was noted, by its code: what is done, and what takes that back.
CHANGES: dict[str, tuple[Callable[[Membership, Any], Any], str]] = {
    "over": (end, "on"),
    "on": (resume, "over"),
    "strike": (strike, "back"),
    "back": (put_back, "strike"),
}


def change(by: Membership, row: Spell, do: str) -> tuple[Any, str]:
    """Do with it what a code says; the row that stands for it now, and the code that takes it back.

    Raises:
        Refused: it cannot be done, or there is no such code.
    """
    if do not in CHANGES:
        raise Refused("Nothing is known by that name.")
    act, back = CHANGES[do]
    return act(by, row) or row, back
