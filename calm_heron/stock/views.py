"""Pages about stock."""

from django.core.paginator import Paginator
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.urls import reverse

from calm_heron.stock import actions, drawings, queries
from calm_heron.stock.forms import BoardForm
from calm_heron.stock.models import Piece
from calm_heron.workshops.doors import in_workshop, once, once_or_again
from calm_heron.workshops.models import Role
from wood import species

PER_PAGE = 50


def piece_or_404(request: HttpRequest, tag: str) -> Piece:
    piece = queries.by_tag(request.workshop, tag)
    if piece is None:
        raise Http404
    piece.workshop = request.workshop
    return piece


@in_workshop()
def stock(request: HttpRequest) -> HttpResponse:
    text = request.GET.get("q", "")[:100]
    page = Paginator(queries.pieces(request.workshop, text).select_related("moisture"), PER_PAGE).get_page(request.GET.get("page"))
    return render(request, "stock/stock.html", {"page": page, "text": text})


@in_workshop()
def species_found(request: HttpRequest) -> HttpResponse:
    """The species search as a fragment, for the board form."""
    found = species.search(request.GET.get("species_key", "")[:60], limit=12)
    return render(request, "stock/species_found.html", {"found": found})


@in_workshop(write=Role.MAKER)
def new_board(request: HttpRequest) -> HttpResponse:
    form = BoardForm(request.POST or None, membership=request.membership)
    if form.is_valid():

        def do() -> str:
            piece = actions.add_board(request.membership, **form.sizes())
            return reverse("measure", args=[request.workshop.slug, piece.tag])

        return once(request, do)
    page = {"form": form, "grain_pictures": drawings.grain_pictures(), "all_species": species.all_species().values()}
    return render(request, "stock/board_form.html", page, status=422 if form.errors else 200)


@in_workshop(write=Role.MAKER)
def change_board(request: HttpRequest, tag: str) -> HttpResponse:
    piece = piece_or_404(request, tag)
    form = BoardForm(request.POST or None, membership=request.membership, piece=piece)
    if form.is_valid():

        def do() -> str:
            actions.change_board(request.membership, piece, form.cleaned_data["version"] or 0, **form.sizes())
            return reverse("piece", args=[request.workshop.slug, piece.tag])

        if answer := once_or_again(request, form, do, changing=piece):
            return answer
    page = {"form": form, "piece": piece, "grain_pictures": drawings.grain_pictures(), "all_species": species.all_species().values()}
    return render(request, "stock/board_form.html", page, status=422 if form.errors else 200)
