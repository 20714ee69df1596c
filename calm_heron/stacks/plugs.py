"""What stacks bring to the pages that are composed."""

from django.urls import reverse

from calm_heron.plugs import (
    DEMO_PARTS,
    LOG_KINDS,
    OPEN_QUESTIONS,
    PARTS,
    PIECE_ACTIONS,
    DemoPart,
    LogKind,
    OpenQuestion,
    Part,
    PieceAction,
)  # fmt: skip
from calm_heron.stacks import demo, log_words
from calm_heron.stacks.models import Stack, StackLot

PARTS.add(Part(55, "Stacks", "stacks", key="p"))
LOG_KINDS.add(LogKind(55, "stack", "Stacks", log_words.LOG))
DEMO_PARTS.add(DemoPart(70, (StackLot, Stack), demo.load))
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
