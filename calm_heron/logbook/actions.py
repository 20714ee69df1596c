"""Writing into the log; called by every other action, inside its transaction."""

from datetime import datetime

from django.utils import timezone

from calm_heron.logbook.models import Entry
from calm_heron.workshops.models import Membership


def write(by: Membership, kind: str, text: str, *, subject: str = "", at: datetime | None = None, **data) -> Entry:
    """Add one entry. ``kind`` is a word to filter by (``air``, ``stock``, ``reading``, ``judgement``), ``subject`` a tag or a place."""
    return Entry.objects.create(
        workshop=by.workshop, by=by.person, kind=kind, subject=subject[:60], text=text[:400], at=at or timezone.now(), data=data
    )
