"""The log as a page."""

from django.core.paginator import Paginator
from django.http import HttpResponse
from django.shortcuts import render

from calm_heron.logbook import queries
from calm_heron.plugs import LOG_KINDS, LogKind
from calm_heron.workshops.doors import WorkshopRequest, in_workshop

EVERYTHING = LogKind(0, "", "Everything")


@in_workshop()
def log(request: WorkshopRequest) -> HttpResponse:
    kind = request.GET.get("kind", "")
    subject = request.GET.get("about", "")[:60]
    kinds = [EVERYTHING, *(kind for kind in LOG_KINDS if kind.name)]
    entries = queries.entries(request.workshop, kind if kind in {kind.key for kind in kinds} else "", subject)
    page = Paginator(entries, 60).get_page(request.GET.get("page"))
    return render(request, "logbook/log.html", {"page": page, "kinds": kinds, "kind": kind, "subject": subject})
