"""What the kiln says on pages that are composed."""

from collections.abc import Mapping
from datetime import timedelta
from typing import Any

from calm_heron.answers.saved import KINDS, AnswerKind, Saved, answers_of
from calm_heron.kiln.models import Load
from calm_heron.kiln.runs import run_words, running
from calm_heron.workshops.models import Workshop

LOAD_RULE = "1"


def today(page: Mapping[str, Any]) -> dict[str, Any] | None:
    """Loads that run, what to set, and what wants somebody; nothing where none runs."""
    rows = _rows(page["workshop"])
    return {"loads_today": rows} if rows else None


def _rows(workshop: Workshop, saved: Saved | None = None) -> list[tuple[Load, list[str], list[str]]]:
    saved = saved or answers_of(workshop.pk)
    rows = []
    for load in Load.objects.of(workshop).filter(ended_at=None).select_related("chamber", "chamber__place", "workshop"):
        told = saved.get(LOADS, load.pk, lambda load=load: _told(load, workshop))  # type: ignore[misc]
        if told:
            rows.append((load, told["setting"], told["alarms"]))
    return rows


def _told(load: Load, workshop: Workshop) -> dict[str, list[str]] | None:
    """What to set, and what wants somebody; None where the load cannot be followed."""
    now = running.now(load)
    if now is None:
        return None
    return {
        "setting": list(run_words.setting(now, workshop.system)),
        "alarms": [run_words.alarm(code, data, workshop.system) for code, data in now.alarms],
    }


# A load goes on by the hour, read or not.
LOADS = AnswerKind(
    60,
    "loads today",
    LOAD_RULE,
    timedelta(minutes=10),
    frozenset({"air", "stock", "kiln", "workshops"}),
    lambda workshop, saved: _rows(workshop, saved),
)
KINDS.add(LOADS)
