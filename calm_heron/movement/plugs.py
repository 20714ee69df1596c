"""What movement brings to the pages that are composed."""

from django.urls import reverse

from calm_heron.plugs import PIECE_ACTIONS, PieceAction
from calm_heron.stock.models import Kind

# Round wood is not sawn yet, and a subfloor stays where it is.
HAS_NO_WIDTH = (Kind.LOG, Kind.BLANK, Kind.BOWL, Kind.SPINDLE, Kind.SUBFLOOR)

PIECE_ACTIONS.add(
    PieceAction(
        20,
        "What will it do?",
        lambda piece: reverse("movement", args=[piece.workshop.slug, piece.tag]),
        applies=lambda piece: piece.kind not in HAS_NO_WIDTH,
    )
)
