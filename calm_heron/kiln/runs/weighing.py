"""Weights of samples before they are kept: which of them can hardly be, and what was probably meant."""

from datetime import datetime
from typing import Any

from django.utils import timezone

from calm_heron.kiln.models import Sample
from calm_heron.workshops.fields import MassField
from wood.kiln.samples import expected
from wood.measuring.slips import meant


def doubted(sample: Sample, mass_kg: float, at: datetime | None, typed: str, field: MassField) -> str:
    """What is asked about a weight beside those of its sample before it; empty: nothing."""
    moment = at or timezone.now()
    before = [row for row in sample.weights_in_order if row.at <= moment]
    if not before:
        return ""
    days = [((row.at - moment).total_seconds() / 86_400, row.mass_kg) for row in before]
    likely = expected(days, sample.dry_mass_kg)
    if likely.low <= mass_kg <= likely.high:
        return ""
    last, said = field.write(before[-1].mass_kg), field.write(mass_kg)
    was = _meant(typed, likely.mass_kg, field)
    guess = f": {was}?" if was else "."
    why = "it is heavier than it was" if mass_kg > before[-1].mass_kg else "it lost far more than before"
    return f"{said} after {last}{guess} Type it anew; or tick that it is so, though {why}."


def _meant(typed: str, likely_kg: float, field: MassField) -> str:
    """What was probably meant by what was typed, in the unit it was typed in; empty where nothing explains it."""
    bare = typed.strip().replace(",", "")
    try:
        unit_kg = field.read("1")
    except ValueError:
        return ""
    number = meant(bare, likely_kg / unit_kg)
    return "" if number is None else f"{number:g}"


def scale_says(sample: Sample, mass_kg: float, at: datetime, field: MassField) -> str:
    """The same where nobody is there to be asked: why a weight is not kept; empty: it is."""
    if sample.dry_mass_kg is not None and mass_kg < sample.dry_mass_kg * 0.99:
        return f"it is {field.write(sample.dry_mass_kg)} ovendry and cannot weigh less"
    return "it can hardly weigh that: weigh it at the page" if doubted(sample, mass_kg, at, "", field) else ""


def due(load: Any) -> list[str]:
    """The tags of samples that were not weighed today."""
    today = timezone.localdate()
    rows = load.samples.order_by("tag")
    return [sample.tag for sample in rows if timezone.localdate(sample.weights_in_order[-1].at) < today]
