"""What movement brings to the pages that are composed."""

from django.urls import reverse

from calm_heron.plugs import OPEN_QUESTIONS, PARTS, PIECE_ACTIONS, OpenQuestion, Part, PieceAction

PARTS.add(Part(45, "Movement", "ask_made", key="m"))
OPEN_QUESTIONS.add(OpenQuestion(5, "made", "Once built", "What will it do once it is built?", "anybody_made"))
PIECE_ACTIONS.add(
    PieceAction(
        20,
        "What will it do?",
        lambda piece: reverse("movement", args=[piece.workshop.slug, piece.tag]),
        applies=lambda piece: piece.traits.moves_in_width,
    ),
    PieceAction(
        55,
        "Once built?",
        lambda piece: f"{reverse('ask_made', args=[piece.workshop.slug])}?piece={piece.tag}",
        applies=lambda piece: piece.traits.moves_in_width,
        style="link",
    ),
)
