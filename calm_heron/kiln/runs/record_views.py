"""The record of a load: every weight of its samples with its day, as a table for the door and as one to take away."""

from dataclasses import dataclass
from datetime import datetime

from django.http import HttpResponse, StreamingHttpResponse
from django.shortcuts import render

from calm_heron.kiln.models import Load, Sample, SampleWeight
from calm_heron.kiln.runs import running
from calm_heron.kiln.runs.run_views import load_of
from calm_heron.stock.downloads import download, lines
from calm_heron.workshops.doors import WorkshopRequest, in_workshop
from wood.written import typed_mass

# Lines that are ruled for the hand below the last weighing.
RULED = 8


@dataclass(frozen=True)
class Weighing:
    """All that was weighed at one moment: when, on which day of the load, and each sample's mass (kg) and moisture (fraction), None where
    it was not weighed or its sections are in the oven."""

    at: datetime
    day: float
    cells: list[tuple[float | None, float | None]]


def weighings(load: Load) -> tuple[list[Sample], list[Weighing]]:
    """The samples of a load in the order of their tags, and when they were weighed, oldest first."""
    samples = list(load.samples.order_by("tag"))
    rows = SampleWeight.objects.standing().filter(sample__in=samples).order_by("at", "pk")
    by_moment: dict[datetime, dict[int, float]] = {}
    for row in rows:
        by_moment.setdefault(row.at.replace(second=0, microsecond=0), {})[row.sample_id] = row.mass_kg
    found = []
    for at, masses in sorted(by_moment.items()):
        cells = []
        for sample in samples:
            mass = masses.get(sample.pk)
            cells.append((mass, mass / sample.dry_mass_kg - 1 if mass is not None and sample.dry_mass_kg else None))
        # Moments are whole minutes here, and none is before the load by seconds.
        found.append(Weighing(at, round(running.days_since(load.began_at, at), 2) + 0.0, cells))
    return samples, found


@in_workshop()
def record(request: WorkshopRequest, load_tag: str) -> HttpResponse:
    """What did its samples weigh, day by day?"""
    load = load_of(request, load_tag)
    samples, rows = weighings(load)
    heads = ", ".join(["Day", *(sample.tag for sample in samples[:8]), "Dry bulb", "Wet bulb", "By"])
    page = {"load": load, "samples": samples, "rows": rows, "heads": heads, "ruled": RULED}
    return render(request, "kiln/load_record.html", page)


@in_workshop()
def weights_out(request: WorkshopRequest, load_tag: str) -> StreamingHttpResponse:
    """The same to take away."""
    load, system = load_of(request, load_tag), request.workshop.system
    samples, rows = weighings(load)
    head = ["at", "day", *(text for sample in samples for text in (f"{sample.tag} {system.mass}", f"{sample.tag} %"))]
    table = []
    for row in rows:
        cells: list[object] = [row.at.isoformat(), round(row.day, 2)]
        for mass, moisture in row.cells:
            cells += [None if mass is None else typed_mass(mass, system), None if moisture is None else round(100 * moisture, 1)]
        table.append(cells)
    return download(f"{load.tag}.csv", lines(head, table))
