"""What the kiln brings to the pages that are composed."""

from django.urls import reverse

from calm_heron.plugs import OPEN_QUESTIONS, PIECE_ACTIONS, OpenQuestion, PieceAction

OPEN_QUESTIONS.add(OpenQuestion(7, "kiln", "Kiln", "How do I run this load?", "anybody_kiln"))
PIECE_ACTIONS.add(
    PieceAction(
        56, "How do I run it in a kiln?", lambda piece: f"{reverse('ask_kiln', args=[piece.workshop.slug])}?piece={piece.tag}",
        applies=lambda piece: piece.traits.is_sawn and piece.is_lot, style="link",
    )
)  # fmt: skip
