"""What the kiln says on pages that are composed."""

from collections.abc import Mapping
from datetime import timedelta
from typing import Any

from django.urls import reverse

from calm_heron.answers.saved import KINDS, AnswerKind, Saved, answers_of
from calm_heron.kiln.models import Load, LoadLot
from calm_heron.kiln.runs import run_words, running
from calm_heron.measuring.wood_now import WoodNow, as_it_came, unread_since
from calm_heron.stock.models import Status
from calm_heron.workshops.models import Workshop

LOAD_RULE = "1"


def wood_now(workshop: Workshop) -> dict[int, WoodNow]:
    """What the wood in running loads holds today."""
    known: dict[int, WoodNow] = {}
    for load in Load.objects.of(workshop).filter(ended_at=None).select_related("chamber", "chamber__place", "workshop"):
        now = running.now(load)
        if now is None:
            continue
        by_tag, sampled = running.moistures(now), {sample.sample.piece.tag for sample in now.samples}
        address = reverse("load", args=[workshop.slug, load.tag])
        for lot in load.lots.select_related("piece"):
            how = "by its samples" if lot.piece.tag in sampled else "worked out"
            known[lot.piece_id] = WoodNow(by_tag[lot.piece.tag], f"in {load.tag}, {how}", address)
    return known


def came_out(workshop: Workshop) -> dict[int, WoodNow]:
    """What wood was at that came out of a load and was not read since."""
    rows = LoadLot.objects.of(workshop).filter(runs=False, came__isnull=False, load__ended_at__isnull=False, piece__status=Status.IN_STOCK)
    known: dict[int, WoodNow] = {}
    for row in rows.filter(unread_since("load__ended_at")).select_related("load").order_by("load__ended_at"):
        assert row.came is not None
        assert row.load.ended_at is not None
        known[row.piece_id] = as_it_came(row.came, row.load.tag, row.load.ended_at, reverse("load", args=[workshop.slug, row.load.tag]))
    return known


def lies_in(page: Mapping[str, Any]) -> dict[str, Any] | None:
    """On a piece's own page: the loads that it is and was in, the newest first."""
    rows = LoadLot.objects.filter(piece=page["piece"]).select_related("load__chamber").order_by("-runs", "-load__began_at")[:10]
    return {"kilned": list(rows)} if rows else None


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
