"""What will it do once it is built? The things to choose from, and the season dial."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from calm_heron.movement import season
from calm_heron.movement.things.forms import DialForm
from calm_heron.movement.things.registry import THINGS
from calm_heron.movement.things.told import piece_of


def _page(request: HttpRequest, name: str, page: dict) -> HttpResponse:
    """A whole page, or its answer alone (``fragment=built``)."""
    asker = request.asker
    alone = request.GET.get("fragment") == "built"
    about = {
        "asker": asker,
        "system": asker.system,
        "layout": asker.layout,
        "fragment": alone,
        "part": name,
    }
    return render(request, f"movement/{name}_answer.html" if alone else f"movement/{name}.html", about | page)


def choose(request: HttpRequest) -> HttpResponse:
    """The things to choose from, by their drawn shapes."""
    piece = piece_of(request.asker, request.GET.get("piece", "")[:60])
    after = f"?piece={piece.tag}" if piece else ""
    things = [(thing, request.asker.address(f"made_{thing.key}") + after) for thing in THINGS.values()]
    return _page(request, "things", {"things": things, "piece": piece})


def dial(request: HttpRequest) -> HttpResponse:
    """What a width of every species does through a season."""
    data = request.GET.copy()
    data.setdefault("width_m", "12" if request.asker.system.is_inch else "300")
    form = DialForm(data, membership=request.asker.membership)
    page: dict = {"form": form}
    if form.is_valid() and (home := form.home_fields.read()) is not None:
        page |= season.shown(form, home, request.asker.workshop)
    return _page(request, "season", page)
