"""Writing into the log; called by every other action, inside its transaction."""

from datetime import datetime
from typing import Any

from django.utils import timezone

from calm_heron.logbook.models import Entry
from calm_heron.logbook.words import sentence_of
from calm_heron.workshops.models import Membership


def write(by: Membership, kind: str, what: str, *, subject: str = "", at: datetime | None = None, **data: Any) -> Entry:
    """Add one entry.

    ``kind`` is the key of a registered :class:`~calm_heron.plugs.LogKind`, ``what`` one of the codes that it has a sentence for,
    ``subject`` a tag or a place, ``data`` what the sentence is made of, in SI units and fractions.

    Raises ``LookupError`` for a kind or a code that no app registered: nobody could read the entry again.
    """
    if sentence_of(kind, what) is None:
        raise LookupError(f"{kind}.{what} is no entry that any app has words for; register it in the app's plugs")
    return Entry.objects.create(
        workshop=by.workshop, by=by.person, kind=kind, what=what, subject=subject[:60], at=at or timezone.now(), data=data
    )
