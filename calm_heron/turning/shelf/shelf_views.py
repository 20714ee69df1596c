"""The shelf of rough bowls, and many weights in a row."""

from typing import Any

from django.http import HttpResponse
from django.shortcuts import render
from django.urls import reverse

from calm_heron.measuring.kinds import Method
from calm_heron.measuring.models import Reading
from calm_heron.site import undo
from calm_heron.stock.faults import Fault, faults
from calm_heron.turning import actions
from calm_heron.turning.shelf import shelf_words, weighing, weight_drawings
from calm_heron.turning.shelf.shelf_forms import LineForm
from calm_heron.turning.shelf.weighing import OnShelf
from calm_heron.workshops.doors import WorkshopRequest, in_workshop, once_or_again
from calm_heron.workshops.models import Role
from calm_heron.workshops.refusals import Refused
from wood.units import System
from wood.written import weighed_mass

LAST_KEPT = 8


def addresses(request: WorkshopRequest) -> dict[str, str]:
    """Where turning's questions are asked, for the links above its pages."""
    return {name: reverse(f"ask_{name}", args=[request.workshop.slug]) for name in ("rough", "cut")}


def tell_kept(request: WorkshopRequest, reading: Reading, text: str) -> None:
    """Say that a weight was kept, with the way to take it out again."""
    address = reverse("strike_weight_of_bowl", args=[request.workshop.slug, reading.piece.tag, reading.pk])
    undo.tell(request, text, address, {"do": "strike"})


def _row(bowl: OnShelf, system: System, known: dict[int, Fault]) -> dict[str, Any]:
    """A bowl as the shelf lists it."""
    piece = bowl.piece
    return {
        "fault": known.get(piece.pk),
        "tag": piece.tag,
        "species": piece.species.spoken_name,
        "danger": bowl.danger,
        "said": shelf_words.in_list(bowl.weighed, system),
        "mass": weighed_mass(bowl.weighed.last_kg, system) if bowl.weighed else "–",
        "due": "–" if bowl.danger else shelf_words.due(bowl.weighed),
        "place": piece.place.name if piece.place else "–",
    }


@in_workshop()
def shelf(request: WorkshopRequest) -> HttpResponse:
    """All rough bowls: who is at rest, who moves, whom to weigh."""
    bowls = weighing.shelf(request.workshop)
    system = request.workshop.system
    # What is cracked stands first, and counts as nothing else.
    known = faults(request.workshop)
    rows = [_row(bowl, system, known) for bowl in sorted(bowls, key=lambda bowl: bowl.danger is None)]
    flat, due = [bowl for bowl in bowls if bowl.is_flat], [bowl for bowl in bowls if bowl.is_due]
    drawings = [
        (css, drawing)
        for css, width in (("wide-only", weight_drawings.SHELF_WIDE), ("narrow-only", weight_drawings.NARROW))
        if (drawing := weight_drawings.shelf(bowls, width)) is not None
    ]
    return render(
        request,
        "turning/shelf.html",
        {"rows": rows, "flat": flat, "due": due, "drawings": drawings, "addresses": addresses(request), "part": "shelf", "system": system},
    )


@in_workshop(write=Role.HELPER, only=True)
def weigh(request: WorkshopRequest) -> HttpResponse:
    """Many weights one after the other: tag, weight, Enter."""
    form = LineForm(request.POST or None, membership=request.membership)
    status = 200
    if request.method == "POST":
        status = 422
        if form.is_valid():
            typed = form.cleaned_data
            meant = weighing.bowls_named(weighing.bowls_in_stock(request.workshop), typed["word"])
            if len(meant) != 1:
                form.add_error("line", shelf_words.which(typed["word"], [piece.tag for piece in meant]))
            else:
                piece = meant[0]

                def do() -> str:
                    reading = actions.weigh(request.membership, piece, typed["mass_kg"], meant=typed["meant"])
                    tell_kept(request, reading, f"{piece.tag}: {weighed_mass(typed['mass_kg'], request.workshop.system)} kept.")
                    return reverse("weigh_shelf", args=[request.workshop.slug])

                answer = once_or_again(request, form, _beside(form, do))
                if answer is not None:
                    return answer
    last = (
        Reading.objects.of(request.workshop)
        .standing()
        .filter(method=Method.WEIGHT, piece__kind__in=weighing.BOWLS, by=request.membership.person)
        .select_related("piece")
        .order_by("-pk")[:LAST_KEPT]
    )
    due = [bowl for bowl in weighing.shelf(request.workshop) if bowl.is_due]
    return render(
        request,
        "turning/weigh.html",
        {
            "form": form,
            "last": last,
            "due": due,
            "addresses": addresses(request),
            "part": "weigh",
            "system": request.workshop.system,
            "asks_back": form.errors and form.is_bound and getattr(form, "asks_back", False),
        },
        status=status,
    )


def _beside(form: LineForm, do: Any) -> Any:
    """A refusal is said beside the line, and where the weight only looks wrong the form asks whether it is meant."""

    def done() -> str:
        try:
            return do()
        except actions.LooksWrong as refused:
            form.asks_back = True  # type: ignore[attr-defined]
            refused.field = "line"
            raise
        except Refused as refused:
            refused.field = "line"
            raise

    return done
