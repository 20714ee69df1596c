"""What the journal says on pages that are composed."""

from collections.abc import Mapping
from datetime import timedelta
from typing import Any

from django.db.models import Count
from django.utils import timezone

from calm_heron.logbook.models import Entry
from calm_heron.plugs import LOG_KINDS

MOST_KINDS = 4


def since_yesterday(page: Mapping[str, Any]) -> dict[str, Any] | None:
    """How many entries of which kinds were written in the last day, the most frequent first; nothing where there were none."""
    since = timezone.now() - timedelta(days=1)
    rows = Entry.objects.of(page["workshop"]).filter(at__gte=since).order_by().values_list("kind").annotate(count=Count("id"))
    names = {kind.key: kind.name for kind in LOG_KINDS}
    told = sorted(((count, names.get(kind, ""), kind) for kind, count in rows if names.get(kind)), reverse=True)
    return {"since_yesterday": told[:MOST_KINDS]} if told else None
