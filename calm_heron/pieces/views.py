"""The list of the stock and the page of a piece, both composed of what the apps registered for them."""

from typing import Any
from urllib.parse import urlencode

from django.core.paginator import Paginator
from django.http import Http404, HttpResponse
from django.shortcuts import render

from calm_heron.air import queries as air
from calm_heron.plugs import PANELS, Question, Slot
from calm_heron.stock import listing
from calm_heron.stock.forms import BulkForm
from calm_heron.stock.search import SEARCH_WORDS, parse_search
from calm_heron.stock.views import piece_or_404
from calm_heron.workshops.doors import WorkshopRequest, in_workshop

PER_PAGE = 50


@in_workshop()
def stock(request: WorkshopRequest) -> HttpResponse:
    """The stock as a list: search, order, a column for everything that is known of a piece, and things to do to several at once."""
    text, sort = request.GET.get("q", "")[:100], request.GET.get("sort", "")[:12]
    question = Question(request.workshop, request.GET)
    # Thousands may answer: only those of the page are read whole.
    rows = listing.listed(question, parse_search(text), sort).values_list("pk", flat=True)
    page = Paginator(rows, PER_PAGE).get_page(request.GET.get("page"))
    typed = {name: value for name, value in (("q", text), ("sort", sort), ("page", request.GET.get("page", "")[:6])) if value}
    shown = {
        "page": page,
        "text": text,
        "sort": sort,
        "question": question,
        "columns": list(listing.COLUMNS),
        "rows": listing.rows(listing.shown(page.object_list), question),  # type: ignore[arg-type]
        "words": list(SEARCH_WORDS),
        "query": urlencode(typed),
        "chosen": set(request.GET.getlist("chosen")),
        "bulk": BulkForm(membership=request.membership),
        "places": air.places(request.workshop),
    }
    return render(request, "pieces/stock.html", shown)


@in_workshop()
def piece(request: WorkshopRequest, tag: str) -> HttpResponse:
    """A piece's own page: what is asked of it first, then what is known. ``fragment`` names one panel and gives it alone."""
    result = piece_or_404(request, tag)
    page: dict[str, Any] = {"piece": result, "question": Question(request.workshop, request.GET, result)}
    if "fragment" not in request.GET:
        return render(request, "pieces/piece.html", page)
    panel = next((panel for panel in PANELS if panel.slot is Slot.PIECE and panel.alone and panel.key == request.GET["fragment"]), None)
    data = panel.data({**page, "membership": request.membership, "workshop": request.workshop}) if panel else None
    if panel is None or data is None:
        raise Http404
    return render(request, panel.alone, page | data)
