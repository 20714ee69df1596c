"""What stacks bring to the pages that are composed."""

from django.urls import reverse

from calm_heron.plugs import OPEN_QUESTIONS, PARTS, PIECE_ACTIONS, OpenQuestion, Part, PieceAction

PARTS.add(Part(55, "Stacks", "ask_stack", key="p", holds=("ask_saw",)))
OPEN_QUESTIONS.add(OpenQuestion(6, "stack", "Stack", "How do I stack it?", "anybody_stack"))
PIECE_ACTIONS.add(
    PieceAction(
        55,
        "How do I stack it?",
        lambda piece: f"{reverse('ask_stack', args=[piece.workshop.slug])}?piece={piece.tag}",
        applies=lambda piece: piece.traits.is_sawn and piece.is_lot,
        style="link",
    )
)
