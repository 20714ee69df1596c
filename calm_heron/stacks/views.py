"""How is it stacked? Asked in the address, answered at once."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from calm_heron.drying import questions
from calm_heron.stacks import drawings, queries, words
from calm_heron.stacks.forms import StackForm
from calm_heron.stacks.queries import NoWoodYet
from calm_heron.stock.asked import asked_about
from calm_heron.stock.models import Piece
from calm_heron.workshops.askers import said
from wood.errors import OutOfRange
from wood.species import trade_name
from wood.units import in_system
from wood.written import handled_length

# Fields that the core calls otherwise.
FIELD_OF = {"boards": "count", "loads": "count", "stickers_width_m": "length_m"}


def _page(request: HttpRequest, name: str, page: dict) -> HttpResponse:
    asker = request.asker
    alone = request.GET.get("fragment") == "stack"
    addresses = {"plan": asker.address("stack"), "saw": asker.address("saw")}
    about = {"asker": asker, "system": asker.system, "layout": asker.layout, "fragment": alone, "addresses": addresses, "part": name}
    return render(request, f"stacks/{name}_answer.html" if alone else f"stacks/{name}.html", about | page)


def _piece(request: HttpRequest) -> Piece | None:
    piece = asked_about(request.asker, request.GET.get("piece", ""))
    return piece if piece is not None and piece.traits.is_sawn else None


def plan(request: HttpRequest) -> HttpResponse:
    """How do I stack it? ``fragment=stack`` gives the answer alone."""
    asker, piece = request.asker, _piece(request)
    blank = StackForm(membership=asker.membership)
    usual = {"species_key": "white oak", **blank.usual, "where": questions.usual_anywhere(asker.workshop, blank.places)["where"]}
    if piece is not None:
        usual["lots"] = piece.tag
    typed_in = said(request, usual, ("where",))
    form = StackForm(typed_in, membership=asker.membership)
    # A stack of lots is not asked again what they are.
    of_lots = "lots" in form.fields and ("lots" in request.GET or piece is not None)
    page: dict = {
        "form": form,
        "piece": piece,
        "of_lots": of_lots,
        "taken_as": "" if of_lots else trade_name(typed_in.get("species_key", "")[:60]),
    }
    if form.is_valid():
        try:
            page |= _shown(request, form)
        except NoWoodYet:
            page["missing"] = "Say which wood is to be stacked."
        except OutOfRange as beyond:
            form.complain(beyond, called=FIELD_OF)
    return _page(request, "plan", page)


def _shown(request: HttpRequest, form: StackForm) -> dict:
    system = request.asker.system
    found = queries.planned(form)
    lots = form.cleaned_data.get("lots") or []
    both = [("wide-only", drawings.drawings(found, system)), ("narrow-only", drawings.drawings(found, system, drawings.NARROW))]
    figure, beside, reason = words.answer(found, system)
    return {
        "planned": found, "pile": found.pile, "drawings": both, "figure": figure, "beside": beside, "reason": reason, "time": words.time(found),
        "breaches": [words.breach(one, system) for one in found.breaches], "rule": words.RULES[found.usual.rule], "cover": words.cover(found),
        "others": [(in_system(words.OTHERWISE[way], system), days) for way, days in found.others],
        "tags": ", ".join(piece.tag for piece in lots), "lots": lots,
        "stickers_cut": f"{found.pile.sticker_count} × {handled_length(found.pile.width_m, system)}",
    }  # fmt: skip
