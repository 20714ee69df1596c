"""Every question on one page, and the species search for strangers."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from calm_heron.stock import woods


def index(request: HttpRequest) -> HttpResponse:
    """Every question there is."""
    asker = request.asker
    return render(request, "ask/index.html", {"system": asker.system, "asker": asker, "layout": asker.layout})


def species(request: HttpRequest) -> HttpResponse:
    """The species search as a fragment, for strangers."""
    result = woods.search(request.asker.workshop, request.GET.get("species_key", "")[:60], limit=8)
    return render(request, "stock/species_found.html", {"found": result})
