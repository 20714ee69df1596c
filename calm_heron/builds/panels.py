"""What builds say on pages that are composed."""

from collections.abc import Mapping
from datetime import timedelta
from typing import Any

from django.utils import timezone

from calm_heron.builds import readiness, words
from calm_heron.builds.layouts import allocation
from calm_heron.builds.models import Build, Held

# Builds that Today looks at: those due first.
MOST_ON_TODAY = 3
# A build that is due so soon is named though nothing is wrong with it.
SOON = timedelta(days=14)


def today(page: Mapping[str, Any]) -> dict[str, Any] | None:
    """Builds that can be begun, or are due before their wood will be; nothing where there are none."""
    workshop, membership = page["workshop"], page["membership"]
    lines = []
    for build in Build.objects.of(workshop).filter(done_on=None).select_related("place", "workshop").order_by("due", "pk")[:MOST_ON_TODAY]:
        state = readiness.state_of(allocation.saw(build), membership, at_once=readiness.AT_ONCE_EACH)
        if not state.parts:
            continue
        soon = build.due is not None and build.due - timezone.localdate() < SOON
        late = state.late_days is not None and state.late_days > 0
        if state.is_ready or late or soon:
            lines.append((build, words.in_list(state)))
    return {"builds_told": lines} if lines else None


def held(page: Mapping[str, Any]) -> dict[str, Any] | None:
    """On a piece's own page: the builds that hold it."""
    rows = Held.objects.filter(piece=page["piece"], build__done_on=None).select_related("build").order_by("build", "nth")
    counts: dict[Build, int] = {}
    for row in rows:
        counts[row.build] = counts.get(row.build, 0) + 1
    return {"held_for": list(counts.items())} if counts else None
