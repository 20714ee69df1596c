"""Every question on one page, and the species search for strangers."""

from django.http import HttpResponse
from django.shortcuts import render

from calm_heron.stock import woods
from calm_heron.workshops.askers import AskerRequest


def index(request: AskerRequest) -> HttpResponse:
    """Every question there is."""
    asker = request.asker
    return render(request, "ask/index.html", {"system": asker.system, "asker": asker, "layout": asker.layout})


def species(request: AskerRequest) -> HttpResponse:
    """The species search as a fragment, for strangers."""
    result = woods.search(request.asker.workshop, request.GET.get("species_key", "")[:60], limit=8)
    return render(request, "stock/species_found.html", {"result": result})
