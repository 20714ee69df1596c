"""What stacks bring to the pages that are composed."""

from django.urls import reverse

from calm_heron.plugs import DEMO_PARTS, LOG_KINDS, PARTS, PIECE_ACTIONS, DemoPart, LogKind, Part, PieceAction
from calm_heron.stacks import demo, log_words
from calm_heron.stacks.models import Stack, StackLot

PARTS.add(Part(55, "Stacks", "stacks", key="p"))
LOG_KINDS.add(LogKind(55, "stack", "Stacks", log_words.LOG))
DEMO_PARTS.add(DemoPart(70, (StackLot, Stack), demo.load))
PIECE_ACTIONS.add(
    PieceAction(
        55,
        "How do I stack it?",
        lambda piece: f"{reverse('ask_stack', args=[piece.workshop.slug])}?piece={piece.tag}",
        applies=lambda piece: piece.traits.is_sawn and piece.is_lot,
        style="link",
    )
)
