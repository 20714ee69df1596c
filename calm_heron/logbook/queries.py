"""Reads of the log, newest first."""

from django.db.models import QuerySet

from calm_heron.logbook.models import Entry
from calm_heron.workshops.models import Workshop


def entries(workshop: Workshop, kind: str = "", subject: str = "") -> QuerySet[Entry]:
    result = Entry.objects.of(workshop).select_related("by").order_by("-at", "-id")
    if kind:
        result = result.filter(kind=kind)
    return result.filter(subject=subject) if subject else result
