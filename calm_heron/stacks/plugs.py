"""What stacks bring to the pages that are composed."""

from django.urls import reverse

from calm_heron.measuring.wood_now import FOLLOWERS, Follower
from calm_heron.plugs import DEMO_PARTS, LOG_KINDS, PANELS, PARTS, PIECE_ACTIONS, DemoPart, LogKind, Panel, Part, PieceAction, Slot
from calm_heron.stacks import demo, log_words, panels
from calm_heron.stacks.models import Stack, StackEvent, StackLot

PARTS.add(Part(55, "Stacks", "stacks", key="p", group="Drying it"))
FOLLOWERS.add(Follower(20, panels.wood_now), Follower(40, panels.came_out))
PANELS.add(Panel(55, Slot.PIECE, "stacks/lies_in.html", panels.lies_in), Panel(25, Slot.TODAY_TASKS, "stacks/today.html", panels.today))
LOG_KINDS.add(LogKind(55, "stack", "Stacks", log_words.LOG))
DEMO_PARTS.add(DemoPart(70, (StackEvent, StackLot, Stack), demo.load))
PIECE_ACTIONS.add(
    PieceAction(
        55,
        "How should I stack it?",
        lambda piece: f"{reverse('ask_stack', args=[piece.workshop.slug])}?piece={piece.tag}",
        applies=lambda piece: piece.traits.is_sawn and piece.is_lot,
        style="link",
    )
)
