"""Writing into the log; called by every other action, inside its transaction."""

from datetime import datetime

from django.utils import timezone

from calm_heron.logbook.models import Entry
from calm_heron.plugs import LOG_KINDS
from calm_heron.workshops.models import Membership


def write(by: Membership, kind: str, text: str, *, subject: str = "", at: datetime | None = None, **data) -> Entry:
    """Add one entry. ``kind`` is the key of a registered :class:`~calm_heron.plugs.LogKind`, ``subject`` a tag or a place.

    Raises ``LookupError`` for a kind that no app registered: nobody would find the entry again.
    """
    if kind not in {one.key for one in LOG_KINDS}:
        raise LookupError(f"{kind!r} is no kind of entry; register it in the app's plugs")
    return Entry.objects.create(
        workshop=by.workshop, by=by.person, kind=kind, subject=subject[:60], text=text[:400], at=at or timezone.now(), data=data
    )
