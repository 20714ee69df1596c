"""What movement brings to the pages that are composed."""

from django.urls import reverse

from calm_heron.plugs import PARTS, PIECE_ACTIONS, Part, PieceAction

PARTS.add(Part(73, "Movement", "ask_made", key="m", group="Making"))
PIECE_ACTIONS.add(
    PieceAction(
        20,
        "What will it do?",
        lambda piece: reverse("movement", args=[piece.workshop.slug, piece.tag]),
        applies=lambda piece: piece.traits.moves_in_width,
        door="Use",
    ),
    PieceAction(
        55,
        "Once it’s built?",
        lambda piece: f"{reverse('ask_made', args=[piece.workshop.slug])}?piece={piece.tag}",
        applies=lambda piece: piece.traits.moves_in_width,
        style="link",
        door="Use",
    ),
)
