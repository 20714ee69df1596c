"""The log as a page."""

from django.core.paginator import Paginator
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from calm_heron.logbook import queries
from calm_heron.workshops.doors import in_workshop

KINDS = (("", "Everything"), ("reading", "Readings"), ("air", "Air"), ("stock", "Stock"), ("judgement", "Judgements"), ("meter", "Meters"))


@in_workshop()
def log(request: HttpRequest) -> HttpResponse:
    kind = request.GET.get("kind", "")
    subject = request.GET.get("about", "")[:60]
    found = queries.entries(request.workshop, kind if kind in dict(KINDS) else "", subject)
    page = Paginator(found, 60).get_page(request.GET.get("page"))
    return render(request, "logbook/log.html", {"page": page, "kinds": KINDS, "kind": kind, "subject": subject})
