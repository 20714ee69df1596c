"""Boards with checks: what was marked on them, and how much of their length is clear of it."""

from collections import defaultdict

from django.urls import reverse

from calm_heron.builds.kinds import MarkKind
from calm_heron.builds.models import Mark
from calm_heron.site.numbers import counted
from calm_heron.stock.faults import Fault
from calm_heron.stock.models import Piece, Status
from calm_heron.workshops.models import Workshop
from wood.written import said_length


def found(workshop: Workshop) -> dict[int, Fault]:
    """The boards in stock on which a check or a split is marked, by id."""
    rows = Mark.objects.of(workshop).filter(kind=MarkKind.CHECK, piece__status=Status.IN_STOCK).select_related("piece", "piece__workshop")
    by_piece: dict[Piece, list[tuple[float, float]]] = defaultdict(list)
    for mark in rows.order_by("x0_m"):
        by_piece[mark.piece].append((mark.x0_m, mark.x1_m))
    return {piece.pk: _fault(piece, checks) for piece, checks in by_piece.items()}


def clear_m(length_m: float, checks: list[tuple[float, float]]) -> float:
    """The longest stretch of a board that no check reaches into; checks as from–to, in order.

    >>> round(clear_m(2.0, [(0.0, 0.1), (1.7, 2.0)]), 6)
    1.6
    """
    longest, reached = 0.0, 0.0
    for begin, end in checks:
        longest, reached = max(longest, begin - reached), max(reached, end)
    return max(longest, length_m - reached)


def _fault(piece: Piece, checks: list[tuple[float, float]]) -> Fault:
    system = piece.workshop.system
    begin, end = checks[0]
    said = (
        f"A check is marked from {said_length(begin, system)} to {said_length(end, system)}"
        if len(checks) == 1
        else f"{counted(len(checks), 'check')} are marked on it"
    )
    left = said_length(clear_m(piece.length_m, checks), system)
    return Fault("Checked", f"{said}; {left} of its length is clear.", reverse("piece", args=[piece.workshop.slug, piece.tag]))
