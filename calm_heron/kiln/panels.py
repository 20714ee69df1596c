"""What the kiln says on pages that are composed."""

from collections.abc import Mapping
from typing import Any

from calm_heron.kiln.models import Load
from calm_heron.kiln.runs import run_words, running


def today(page: Mapping[str, Any]) -> dict[str, Any] | None:
    """Loads that run, what to set, and what wants somebody; nothing where none runs."""
    workshop = page["workshop"]
    results = [
        (load, running.now(load)) for load in Load.objects.of(workshop).filter(ended_at=None).select_related("chamber", "chamber__place")
    ]
    rows = [
        (load, run_words.setting(now, workshop.system), [run_words.alarm(code, data, workshop.system) for code, data in now.alarms])
        for load, now in results
        if now is not None
    ]
    return {"loads_today": rows} if rows else None
