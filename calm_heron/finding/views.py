"""*Find*: a few letters, and everything that answers to them."""

from django.http import HttpResponse
from django.shortcuts import redirect, render

from calm_heron.finding import queries
from calm_heron.workshops.doors import WorkshopRequest, in_workshop

MOST_LETTERS = 80


@in_workshop()
def find(request: WorkshopRequest) -> HttpResponse:
    """What answers; where only one thing can be meant, that at once. ``fragment=found`` gives the answers alone, as they are typed."""
    text = request.GET.get("q", "").strip()[:MOST_LETTERS]
    kinds = queries.found(request.membership, text)
    page = {"text": text, "kinds": kinds}
    if request.GET.get("fragment") == "found":
        return render(request, "finding/found.html", page)
    meant = queries.only(kinds, text)
    return redirect(meant.address) if meant else render(request, "finding/find.html", page)
