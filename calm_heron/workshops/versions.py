"""Rows with an optimistic lock: a form carries the version it was opened with, so that no change is overwritten unseen."""

import hashlib
from typing import Any, Self

from django.db import models

from calm_heron.workshops.models import Membership, Workshop, WorkshopRows
from calm_heron.workshops.refusals import Refused

STILL_HERE = "What you typed is still here; save again to replace theirs."


class Overtaken(Refused):
    """Somebody else was first; ``what_happened`` says so without saying what to do about it."""

    def __init__(self, what_happened: str) -> None:
        super().__init__(f"{what_happened} {STILL_HERE}")
        self.what_happened = what_happened


def as_seen(*settings: object) -> str:
    """What tells settings without a row of their own from others: a form shows it (as ``seen``) and brings it back."""
    return hashlib.sha256(repr(settings).encode()).hexdigest()[:16]


def settings_locked(by: Membership) -> Workshop:
    """The workshop's row; until the transaction is done nobody else changes a setting of it."""
    return Workshop.objects.select_for_update().get(pk=by.workshop_id)


def must_be_as_seen(seen: str, *settings: object, what: str) -> None:
    """Raise :class:`Overtaken` unless the settings are those that were ``seen``; a caller that saw none brings nothing."""
    if seen and seen != as_seen(*settings):
        raise Overtaken(f"Someone else has changed {what} since you opened it.")


class Versioned(models.Model):
    """The mixin of a row with an optimistic lock; ``version`` grows with every change."""

    version = models.PositiveIntegerField(default=1)

    class Meta:
        abstract = True

    @property
    def seen(self) -> int:
        """The version for a form to bring back; 0 where the row is not there yet, so that of two who fill an empty form the second is
        told.
        """
        return self.version if self.pk else 0

    @classmethod
    def locked(cls, by: Membership, pk: int) -> Self:
        """The row, which nobody else changes until the transaction is done.

        Raises:
            Refused: somebody has taken it away.
        """
        rows: WorkshopRows = cls.objects  # type: ignore[attr-defined]  # of the row that this is mixed into
        row = rows.of(by.workshop).select_for_update(of=("self",)).filter(pk=pk).first()
        if row is None:
            raise Refused("Someone else has taken this away meanwhile.")
        return row

    @classmethod
    def unchanged(cls, by: Membership, pk: int, version: int) -> Self:
        """The row, locked, if nobody has changed it since ``version``.

        Raises:
            Overtaken: somebody has.
        """
        row = cls.locked(by, pk)
        row.must_be(version)
        return row

    def must_be(self, version: int) -> None:
        """Raise :class:`Overtaken` unless this is the version that was seen."""
        if self.version != version:
            raise Overtaken(self.overtaken_words())

    def overtaken_words(self) -> str:
        """What the second of two people who change the row is told."""
        return f"Someone else has changed {self} since you opened it."

    def save_changed(self, *fields: str) -> None:
        """Save the named fields (all where none is named) as the next version."""
        self.version += 1
        self.save(update_fields=[*fields, "version"] if fields else None)

    def change(self, **values: Any) -> None:
        """Set these fields and save them, and no others, as the next version."""
        for name, value in values.items():
            setattr(self, name, value)
        self.save_changed(*values)
