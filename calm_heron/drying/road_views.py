"""By which road? Ways from the saw to where wood is wanted, side by side."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from calm_heron.drying import road_drawings, road_words, roads
from calm_heron.drying.road_forms import RoadsForm
from calm_heron.drying.roads import Compared, NoWoodYet
from calm_heron.drying.shown import complain
from calm_heron.measuring import queries as measuring
from calm_heron.site.numbers import typed
from calm_heron.stock.asked import asked_about
from calm_heron.stock.models import Piece
from calm_heron.workshops.askers import said
from wood.errors import NotKnown, OutOfRange
from wood.species import trade_name
from wood.units import System


def by_road(request: HttpRequest) -> HttpResponse:
    """By which road? Of an imagined wood or a piece; ``fragment=roads`` gives the answer alone. ``road`` names the one whose months are shown."""
    asker = request.asker
    piece = asked_about(asker, request.GET.get("piece", ""))
    typed_in = said(request, _begun(request, piece))
    form = RoadsForm(typed_in, membership=asker.membership)
    alone = request.GET.get("fragment") == "roads"
    page = {
        "asker": asker, "system": asker.system, "layout": asker.layout, "form": form, "piece": piece, "fragment": alone,
        "log_address": asker.address("log"), "taken_as": trade_name(typed_in.get("species_key", "")[:60]),
    }  # fmt: skip
    if form.is_valid():
        try:
            found = roads.compared(form, request.GET.get("road", "")[:20])
        except NoWoodYet:
            page["missing"] = "Say which wood it is."
        except NotKnown as unknown:
            page["no_figure"] = unknown.subject
        except OutOfRange as beyond:
            complain(form, beyond)
        else:
            page |= {"no_air": found} if isinstance(found, str) else _roads_shown(found, form.cleaned_data["price"], asker.system)
    return render(request, "drying/roads_answer.html" if alone else "drying/roads.html", page)


def _roads_shown(found: Compared, price: float | None, system: System) -> dict:
    figure, beside, reason = road_words.answer(found)
    rows = [
        {
            "key": one.road.key, "name": road_words.NAMES[one.road.key], "ready": road_words.ready(found, one), "moves": road_words.moves(found, one),
            "risks": road_words.risks(one), "insects": road_words.insects(one), "energy": road_words.energy(one, price, system), "work": road_words.work(one),
            "best": one is found.best, "chosen": one is found.chosen,
        }
        for one in found.roads
    ]  # fmt: skip
    return {
        "found": found, "figure": figure, "beside": beside, "reason": reason, "rows": rows, "rule": road_words.rule_of_thumb(found),
        "months": road_words.months(found), "chosen_name": road_words.NAMES[found.chosen.road.key],
        "drawings": [("wide-only", road_drawings.drawing(found)), ("narrow-only", road_drawings.drawing(found, road_drawings.NARROW))],
    }  # fmt: skip


def _begun(request: HttpRequest, piece: Piece | None) -> dict[str, str]:
    """An inch of oak, or the piece as it is."""
    system = request.asker.system
    begun = {"species_key": "white oak", "thickness_m": "4/4" if system.is_inch else "27"}
    if piece is not None:
        moisture = measuring.moisture_to_begin_from(piece)
        begun |= {
            "species_key": piece.species.common_name, "thickness_m": piece.thickness_as_typed(system), "ends": "sealed" if piece.ends_sealed else "open",
        }  # fmt: skip
        if moisture is not None:
            begun["start"] = typed(moisture)
    return begun
