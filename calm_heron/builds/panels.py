"""What builds say on pages that are composed."""

from collections.abc import Mapping
from datetime import timedelta
from typing import Any

from django.urls import reverse
from django.utils import timezone

from calm_heron.answers.saved import KINDS, AnswerKind, Saved, answers_of
from calm_heron.builds import readiness, words
from calm_heron.builds.layouts import allocation
from calm_heron.builds.models import Build, Held, Offcut
from calm_heron.builds.readiness import BuildState
from calm_heron.judging.queries import member_who_asks
from calm_heron.measuring.wood_now import WoodNow, as_it_came, unread_since
from calm_heron.stock.models import Status
from calm_heron.workshops.models import Membership, Workshop
from wood.judging.readiness import VERDICT_RULE

# Builds that Today looks at: those due first.
MOST_ON_TODAY = 3
# A build that is due so soon is named though nothing is wrong with it.
SOON = timedelta(days=14)


def today(page: Mapping[str, Any]) -> dict[str, Any] | None:
    """Builds that can be begun, or are due before their wood will be; nothing where there are none."""
    lines = _lines(page["workshop"], page["membership"])
    return {"builds_told": lines} if lines else None


def _lines(workshop: Workshop, membership: Membership, saved: Saved | None = None) -> list[tuple[Build, str]]:
    """The builds that Today names, each with how it stands."""
    saved = saved or answers_of(workshop.pk)
    lines = []
    for build in Build.objects.of(workshop).filter(done_on=None).select_related("place", "workshop").order_by("due", "pk")[:MOST_ON_TODAY]:
        line = saved.get_of_pieces(LINES, build.pk, lambda build=build: _line(build, membership))  # type: ignore[misc]
        if line:
            lines.append((build, line))
    return lines


def _line(build: Build, membership: Membership) -> tuple[str, set[int]]:
    """How a build stands, in a few words, empty where Today need not name it; and the wood that this stands on."""
    saw = allocation.saw(build)
    state = readiness.state_of(saw, membership, at_once=readiness.AT_ONCE_EACH)
    wood = [*(board.piece for board in saw.held), *(part.stock for part in saw.parts if part.stock is not None)]
    return _words(state), {piece.pk for piece in wood} | {piece.lot_id for piece in wood if piece.lot_id}


def _words(state: BuildState) -> str:
    build = state.build
    if not state.parts:
        return ""
    soon = build.due is not None and build.due - timezone.localdate() < SOON
    late = state.late_days is not None and state.late_days > 0
    return words.in_list(state) if state.is_ready or late or soon else ""


def _renew(workshop: Workshop, saved: Saved) -> None:
    membership = member_who_asks(workshop)
    if membership is not None:
        _lines(workshop, membership, saved)


LINES = AnswerKind(
    70,
    "build lines",
    VERDICT_RULE,
    timedelta(hours=1),
    frozenset({"air", "stock", "measuring", "judging", "drying", "stacks", "kiln", "turning", "builds", "workshops"}),
    _renew,
)
KINDS.add(LINES)


def held(page: Mapping[str, Any]) -> dict[str, Any] | None:
    """On a piece's own page: the builds that hold it."""
    rows = Held.objects.filter(piece=page["piece"], build__done_on=None).select_related("build").order_by("build", "nth")
    counts: dict[Build, int] = {}
    for row in rows:
        counts[row.build] = counts.get(row.build, 0) + 1
    return {"held_for": list(counts.items())} if counts else None


def left_over(workshop: Workshop) -> dict[int, WoodNow]:
    """What wood was at that was left of a sawn board and was not read since."""
    rows = Offcut.objects.of(workshop).filter(piece__status=Status.IN_STOCK, sawing__moisture__isnull=False)
    known: dict[int, WoodNow] = {}
    for row in rows.filter(unread_since("sawing__at")).select_related("sawing__board__piece", "sawing__board__build"):
        address = reverse("build_layout", args=[workshop.slug, row.sawing.board.build_id])
        known[row.piece_id] = as_it_came(row.sawing.moisture, row.sawing.board.name, row.sawing.at, address)
    return known
