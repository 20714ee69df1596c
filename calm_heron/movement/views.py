"""The page of a board's movement: what will it do as it settles?"""

import math
from typing import Any

from django.contrib import messages
from django.http import Http404, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from calm_heron.judging import queries as judging
from calm_heron.judging.targets import in_room
from calm_heron.measuring.models import PieceMoisture
from calm_heron.movement import drawings
from calm_heron.movement.board import MovingBoard
from calm_heron.movement.forms import MovementForm, PithForm
from calm_heron.questions.tools import Put, Reader, tool
from calm_heron.questions.views import shown
from calm_heron.stock import actions as stock
from calm_heron.stock.models import PITH_M, Piece
from calm_heron.stock.views import piece_or_404
from calm_heron.workshops.askers import Asker
from calm_heron.workshops.doors import WorkshopRequest, in_workshop, once_or_told
from calm_heron.workshops.models import Role
from wood.movement.section import pith_for, ring_angle_deg


@in_workshop()
def movement(request: WorkshopRequest, tag: str) -> HttpResponse:
    """Sizes now and settled, drawn. ``fragment=moved`` gives the answer and the drawing alone."""
    piece = piece_or_404(request, tag)
    if piece.is_round:
        raise Http404
    about = judging.chosen(request.workshop, request.GET, piece)
    place = about.place
    form = MovementForm(request.GET, membership=request.membership, piece=piece)
    form.is_valid()
    typed = form.cleaned_data
    known = PieceMoisture.objects.filter(piece=piece).first()
    # What the place brings it to, whatever its use is judged against.
    level = in_room(place, about.purpose.approach, about.purpose.moisture, about.purposes.air_of) if place and not place.retired else None
    starts = typed.get("from_moisture")
    if starts is None:
        starts = known.mean if known else None
    ends = typed.get("to_moisture")
    if ends is None:
        ends = level.moisture if level else None
    pith = _pith(piece, typed)
    page = {
        "piece": piece,
        "places": about.places,
        "place": place,
        "level": level,
        "known": known,
        "form": form,
        "starts": starts,
        "ring_angle": ring_angle_deg(*pith),
        "log": drawings.log_drawing(piece, pith),
        "pith_form": PithForm(
            membership=request.membership,
            initial={"pith_x": pith[0], "pith_y": pith[1], "version": piece.version},
        ),
    }
    if starts is not None and ends is not None:
        board = MovingBoard(piece.species, piece.width_m, piece.thickness_m, piece.length_m, pith, starts, ends)
        page |= shown(tool("movement"), Put(board), Reader(Asker(request.membership)))
    template = "movement/moved.html" if request.GET.get("fragment") == "moved" else "movement/movement.html"
    return render(request, template, page)


def _pith(piece: Piece, typed: dict[str, Any]) -> tuple[float, float]:
    x, y = typed.get("pith_x"), typed.get("pith_y")
    own_x, own_y = pith_for(piece.ring_angle_deg, piece.pith_distance_m)
    return (own_x if x is None else x, own_y if y is None else y)


@require_POST
@in_workshop(write=Role.MAKER)
def keep_pith(request: WorkshopRequest, tag: str) -> HttpResponse:
    """Keep the place in the log that was found by dragging."""
    piece = piece_or_404(request, tag)
    form = PithForm(request.POST, membership=request.membership)
    address = reverse("movement", args=[request.workshop.slug, piece.tag])
    form.is_valid()
    x, y = form.cleaned_data.get("pith_x"), form.cleaned_data.get("pith_y")
    if x is None or y is None or not math.hypot(x, y) <= PITH_M[1]:
        messages.error(request, "That place in the log cannot be kept: the pith lies at most 1.5 m away.")
        return redirect(address)
    cleaned = form.cleaned_data

    def do() -> str:
        stock.change_piece(
            request.membership,
            piece,
            cleaned.get("version") or 0,
            ring_angle_deg=round(ring_angle_deg(x, y), 2),
            pith_distance_m=round(math.hypot(x, y), 4),
        )
        messages.success(request, "Kept with the board.")
        return address

    return once_or_told(request, do, address)
