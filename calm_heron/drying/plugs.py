"""What drying brings to the pages that are composed."""

from django.urls import reverse

from calm_heron.drying.ready_by import ready_by
from calm_heron.plugs import PANELS, PARTS, PIECE_ACTIONS, Panel, Part, PieceAction, Slot
from calm_heron.stock.models import Kind

PARTS.add(Part(50, "Drying", "drying", key="d"))
PANELS.add(
    Panel(
        50,
        Slot.VERDICT,
        "drying/ready_by.html",
        lambda page: ready_by(page["piece"], page["place"], page["use"], page["answer"]),
    )
)
PIECE_ACTIONS.add(
    PieceAction(
        50,
        "How long?",
        lambda piece: reverse("piece_drying", args=[piece.workshop.slug, piece.tag]),
        applies=lambda piece: piece.kind != Kind.SUBFLOOR,
    )
)
