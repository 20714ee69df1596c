"""What drying brings to the pages that are composed, and the methods it knows of itself."""

from collections.abc import Mapping, Sequence
from typing import Any

from django.urls import reverse

from calm_heron.air.kinds import PlaceKind
from calm_heron.drying import demo, forecasts
from calm_heron.drying.forecasts import MUST_WAIT
from calm_heron.drying.methods import METHODS, DryingMethod
from calm_heron.drying.models import Forecast
from calm_heron.drying.ready_by import ready_by
from calm_heron.judging import plugs as judging
from calm_heron.measuring import plugs as measuring
from calm_heron.plugs import DEMO_PARTS, PANELS, PARTS, PIECE_ACTIONS, DemoPart, Panel, Part, PieceAction, Question, Slot
from calm_heron.stock.listing import COLUMNS, Column
from calm_heron.stock.models import Piece
from wood.drying.defects import Defect
from wood.drying.methods import CHAMBER, LOG, SHED, SHOP, YARD
from wood.judging.readiness import WORKABLE


def ready_days(pieces: Sequence[Piece], question: Question) -> dict[int, dict[str, Any]]:
    """When each of the pieces of a list may be worked: by its verdict now, else by its newest forecast; what is missing is worked out
    behind the scenes. A list that is asked for another purpose than each is for says nothing of it."""
    about = judging.about_of(question)
    if about.is_asked:
        return {}
    # A subfloor is not judged, and so not waited for; what is weighed has a forecast of its own.
    judged = [piece for piece in pieces if piece.traits.is_judged and not piece.traits.dries_by_weight]
    states = judging.states_of(pieces, question)
    known = forecasts.in_list(question.workshop, judged, states, about.purposes)
    return {
        piece.pk: {
            "may_be_worked": states.get(piece.pk) in WORKABLE,
            "known": known.get(piece.pk),
            "waits": states.get(piece.pk) in MUST_WAIT,
        }
        for piece in judged
    }


def came(page: Mapping[str, Any]) -> dict[str, Any] | None:
    """What was forecast of a piece, against what was read since."""
    piece = page["piece"]
    outcome = forecasts.what_came(piece, measuring.moisture_of(page["question"])) if piece.traits.is_judged else []
    return {"came": outcome} if outcome else None


PARTS.add(Part(50, "Drying", "drying", key="d", group="Drying it"))
PIECE_ACTIONS.add(
    PieceAction(
        55,
        "Best route?",
        lambda piece: f"{reverse('ask_roads', args=[piece.workshop.slug])}?piece={piece.tag}",
        applies=lambda piece: piece.traits.is_judged and piece.traits.is_sawn,
        style="link",
    )
)
PANELS.add(
    Panel(
        50,
        Slot.VERDICT,
        "drying/ready_by.html",
        lambda page: ready_by(page["piece"], page["about"], page["answer"], page["membership"]),
    )
)
PIECE_ACTIONS.add(
    PieceAction(
        50,
        "How long to dry?",
        lambda piece: reverse("piece_drying", args=[piece.workshop.slug, piece.tag]),
        applies=lambda piece: piece.traits.is_judged and not piece.traits.dries_by_weight,
    )
)
COLUMNS.add(Column(55, "ready", "Ready to work", "drying/ready_cell.html", joins=forecasts.JOINS, values=ready_days))
PANELS.add(Panel(60, Slot.PIECE, "drying/what_came.html", came))
DEMO_PARTS.add(DemoPart(60, (Forecast,), demo.load))
PIECE_ACTIONS.add(
    PieceAction(
        55,
        "Speed it up?",
        lambda piece: reverse("speed_up", args=[piece.workshop.slug, piece.tag]),
        applies=lambda piece: piece.traits.is_judged and piece.traits.is_sawn,
        style="",
    )
)
METHODS.add(
    DryingMethod(10, LOG, "Left in the log", at_a_yard="Left in the log at {place},"),
    DryingMethod(20, YARD, "In a yard", asks=("wind",)),
    DryingMethod(30, SHED, "In an unheated shed", at_a_yard="Unheated shed at {place},", place_kinds=(PlaceKind.STORE,)),
    DryingMethod(40, SHOP, "In a heated room", at_a_yard="Heated room at {place},", place_kinds=(PlaceKind.ROOM,), is_heated=True),
    DryingMethod(
        50,
        CHAMBER,
        "In a kiln",
        place_kinds=(PlaceKind.KILN,),
        asks=("temperature_c", "humidity"),
        advice={
            # In a kiln the air is ours to set.
            Defect.FACE_CHECKS: "Begin cooler and damper, and only then step by step hotter and drier.",
            Defect.STAIN: "Warm it up and let the fan run from the first hour.",
            Defect.MOULD: "Warm it up and let the fan run from the first hour.",
        },
    ),
)
