"""How loads went, and the season: all loads and stacks side by side, from what is kept of them."""

from typing import Any

import numpy as np
from django.db.models import Sum
from django.http import HttpResponse, StreamingHttpResponse
from django.shortcuts import render
from django.urls import reverse
from django.utils import timezone

from calm_heron.kiln.models import ChamberHour, Load
from calm_heron.stacks import outcomes as stacks
from calm_heron.stacks.outcomes import Outcome, as_rows, came, heads, woods_of
from calm_heron.stacks.planning import figures_of
from calm_heron.stock.downloads import download, lines
from calm_heron.workshops.doors import WorkshopRequest, in_workshop
from calm_heron.workshops.models import Workshop

# Within so much of what was foretold it came as foretold.
AS_FORETOLD = 0.15


def of_loads(workshop: Workshop) -> list[Outcome]:
    """The loads of a workshop, those that run first, then the newest."""
    rows = Load.objects.of(workshop).select_related("chamber").prefetch_related("lots__piece", "degrade").order_by("-ended_at", "-began_at")
    sums = {
        load_id: (power, water)
        for load_id, power, water in ChamberHour.objects.of(workshop).values_list("load").annotate(Sum("power_kwh"), Sum("water_kg"))
    }
    # What runs has no end, and comes first.
    return [_of(load, workshop, *sums.get(load.pk, (None, None))) for load in rows[: stacks.MOST]]


def of_load(load: Load) -> Outcome:
    """One load as it went."""
    sums = load.hours.aggregate(power=Sum("power_kwh"), water=Sum("water_kg"))
    return _of(load, load.workshop, sums["power"], sums["water"])


def _of(load: Load, workshop: Workshop, power_kwh: float | None, water_kg: float | None) -> Outcome:
    lots: list[Any] = list(load.lots.all())
    mean, driest, wettest = (
        came([(lot.piece.volume_m3, lot.came, lot.driest, lot.wettest) for lot in lots]) if not load.runs else (None,) * 3
    )
    ended = load.ended_at or timezone.now()
    band = (load.foretold_low, load.foretold_high) if load.foretold_low is not None and load.foretold_high is not None else None
    price = load.chamber.kwh_price
    found = [f"{item.get_kind_display()} on {item.boards} of {item.of_boards}" for item in load.degrade.all()]
    return Outcome(
        load.tag,
        reverse("load", args=[workshop.slug, load.tag]),
        load.chamber.name,
        woods_of(lot.piece for lot in lots),
        timezone.localdate(load.began_at),
        None if load.runs else timezone.localdate(ended),
        (ended - load.began_at).total_seconds() / 86_400,
        load.wanted,
        sum(lot.piece.volume_m3 for lot in lots),
        load.foretold_days,
        band,
        mean,
        driest,
        wettest,
        load.out_m3,
        "; ".join(found),
        _water(load, lots, water_kg),
        power_kwh or None,
        None if not power_kwh or price is None else power_kwh * price,
        load.learnt,
    )


def _water(load: Load, lots: list[Any], counted_kg: float | None) -> float | None:
    """The water that left it: weighed in and out, else counted, else by what its lots were at before and after; None where nobody knows."""
    if load.weighed_in_kg and load.weighed_out_kg:
        return load.weighed_in_kg - load.weighed_out_kg
    if counted_kg:
        return counted_kg
    parts = []
    for lot in lots:
        figures = figures_of(lot.piece.species)
        if figures is None or lot.came is None:
            return None
        parts.append(figures.wood.density * lot.piece.volume_m3 * (lot.start - lot.came))
    return float(sum(parts)) if parts else None


@in_workshop()
def record(request: WorkshopRequest) -> HttpResponse:
    """How did the season go?"""
    both = (("Loads", of_loads(request.workshop)), ("Stacks", stacks.of_stacks(request.workshop)))
    ratios = [row.times_as_long for _, rows in both for row in rows if row.times_as_long]
    page = {
        "both": [(name, [row for row in rows if not row.is_over], [row for row in rows if row.is_over]) for name, rows in both],
        "any": any(rows for _, rows in both),
        "times": float(np.median(ratios)) if ratios else None,
        "close": sum(abs(ratio - 1) <= AS_FORETOLD for ratio in ratios),
        "compared": len(ratios),
        "system": request.workshop.system,
    }
    return render(request, "kiln/record.html", page)


@in_workshop()
def record_out(request: WorkshopRequest) -> StreamingHttpResponse:
    """The same to take away."""
    system = request.workshop.system
    rows = [*of_loads(request.workshop), *stacks.of_stacks(request.workshop)]
    return download("season.csv", lines(heads(system), as_rows(rows, system)))
