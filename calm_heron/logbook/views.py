"""The log as a page."""

from django.core.paginator import Paginator
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from calm_heron.logbook import queries
from calm_heron.plugs import LOG_KINDS, LogKind
from calm_heron.workshops.doors import in_workshop

EVERYTHING = LogKind(0, "", "Everything")


@in_workshop()
def log(request: HttpRequest) -> HttpResponse:
    kind = request.GET.get("kind", "")
    subject = request.GET.get("about", "")[:60]
    kinds = [EVERYTHING, *(one for one in LOG_KINDS if one.name)]
    found = queries.entries(request.workshop, kind if kind in {one.key for one in kinds} else "", subject)
    page = Paginator(found, 60).get_page(request.GET.get("page"))
    return render(request, "logbook/log.html", {"page": page, "kinds": kinds, "kind": kind, "subject": subject})
