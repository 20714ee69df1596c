"""What will it do once it is built? The things to choose from."""

from django.http import HttpResponse
from django.shortcuts import render

from calm_heron.movement.things.presentation import piece_of
from calm_heron.movement.things.registry import THINGS
from calm_heron.workshops.askers import AskerRequest


def choose(request: AskerRequest) -> HttpResponse:
    """The things to choose from, by their drawn shapes."""
    piece = piece_of(request.asker, request.GET.get("piece", "")[:60])
    after = f"?piece={piece.tag}" if piece else ""
    things = [(thing, request.asker.address(f"made_{thing.key}") + after) for thing in THINGS.values()]
    return render(
        request,
        "movement/things.html",
        {"asker": request.asker, "layout": request.asker.layout, "system": request.asker.system, "things": things, "piece": piece},
    )
