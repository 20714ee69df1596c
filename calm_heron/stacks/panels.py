"""What stacks say on pages that are composed, and of the wood in them."""

from collections.abc import Mapping
from datetime import timedelta
from typing import Any

from django.urls import reverse

from calm_heron.answers.saved import KINDS, AnswerKind, Saved, answers_of
from calm_heron.measuring.wood_now import WoodNow, as_it_came, unread_since
from calm_heron.stacks import standing
from calm_heron.stacks.models import StackLot
from calm_heron.stock.models import Status
from calm_heron.workshops.models import Workshop

TODAY_RULE = "1"


def wood_now(workshop: Workshop) -> dict[int, WoodNow]:
    """What the wood in stacks that stand holds today."""
    known: dict[int, WoodNow] = {}
    for stack in standing.stacks_of(workshop):
        address = reverse("stack", args=[workshop.slug, stack.tag])
        for lot in standing.now(stack).lots:
            if lot.progress or lot.was_read:
                how = "read there, and worked out since" if lot.was_read else "worked out"
                known[lot.piece.pk] = WoodNow(lot.moisture, f"in {stack.tag}, {how}", address)
    return known


def came_out(workshop: Workshop) -> dict[int, WoodNow]:
    """What wood was at that came out of a stack and was not read since."""
    rows = StackLot.objects.of(workshop).filter(standing=False, came__isnull=False, out_at__isnull=False, piece__status=Status.IN_STOCK)
    known: dict[int, WoodNow] = {}
    for row in rows.filter(unread_since("out_at")).select_related("stack").order_by("out_at"):
        assert row.came is not None
        assert row.out_at is not None
        known[row.piece_id] = as_it_came(row.came, row.stack.tag, row.out_at, reverse("stack", args=[workshop.slug, row.stack.tag]))
    return known


def lies_in(page: Mapping[str, Any]) -> dict[str, Any] | None:
    """On a piece's own page: the stacks that it lies and lay in, the newest first."""
    rows = StackLot.objects.filter(piece=page["piece"]).select_related("stack__place").order_by("-standing", "-stack__built_on")[:10]
    return {"stacked": list(rows)} if rows else None


def today(page: Mapping[str, Any]) -> dict[str, Any] | None:
    """Stacks that are ready to move, each with what its middle is at; nothing where there is none."""
    rows = _ready(page["workshop"], answers_of(page["workshop"].pk))
    return {"stacks_ready": rows} if rows else None


def _ready(workshop: Workshop, saved: Saved) -> list[list[Any]]:
    rows: list[list[Any]] = saved.get(ON_TODAY, 0, lambda: _ready_now(workshop))
    return rows


def _ready_now(workshop: Workshop) -> list[list[Any]]:
    found = (standing.now(stack) for stack in standing.stacks_of(workshop))
    return [
        [item.stack.tag, item.read_across[1] if item.read_across else item.progress.middle]
        for item in found
        if item.is_ready and item.progress
    ]


# A stack goes on by the day, read or not.
ON_TODAY = AnswerKind(
    62,
    "stacks on Today",
    TODAY_RULE,
    timedelta(hours=1),
    frozenset({"air", "measuring", "stock", "stacks", "workshops"}),
    lambda workshop, saved: _ready(workshop, saved),
)
KINDS.add(ON_TODAY)
