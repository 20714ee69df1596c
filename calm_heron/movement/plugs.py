"""What movement brings to the pages that are composed."""

from django.urls import reverse

from calm_heron.plugs import PIECE_ACTIONS, PieceAction

PIECE_ACTIONS.add(
    PieceAction(
        20,
        "What will it do?",
        lambda piece: reverse("movement", args=[piece.workshop.slug, piece.tag]),
        applies=lambda piece: piece.traits.moves_in_width,
    )
)
