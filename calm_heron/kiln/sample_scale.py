"""A scale at a kiln's door: it tells a sample's tag and what it weighs."""

from datetime import datetime
from typing import Any

from pydantic import Field

from calm_heron.kiln import actions
from calm_heron.kiln.models import Chamber, Load
from calm_heron.kiln.runs import weighing
from calm_heron.workshops.fields import MassField
from calm_heron.workshops.models import Membership
from calm_heron.workshops.refusals import Refused
from wood.units import System
from wood.written import weighed_mass

# What is understood of such a scale's reading, as of any other scale's.
FIELDS = {
    "tag": (str, Field("", max_length=32, description="Of which piece; for scales.")),
    "mass_kg": (float | None, Field(None, gt=0, le=20_000)),
}
MASS_KG = (0.01, 200.0)


def offers(workshop: Any) -> list[tuple[int, str]]:
    """The chambers whose door it can stand at."""
    return [(chamber.pk, f"the samples of {chamber.name}") for chamber in Chamber.objects.of(workshop).order_by("name")]


def _load(device: Any) -> Load | None:
    return Load.objects.of(device.workshop).filter(chamber_id=device.about, ended_at=None).select_related("chamber").first()


def take(device: Any, readings: list[tuple[dict[str, Any], datetime]]) -> list[str]:
    """Keep what samples weighed, in the name of who let it in; a weight that looks like a slip is refused, as nobody is there to be
    asked."""
    load = _load(device)
    by = device.speaker
    return [_kept(by, load, data, at) for data, at in readings]


def _kept(by: Membership | None, load: Load | None, data: dict[str, Any], at: datetime) -> str:
    """Why a weight is not kept; empty: it is."""
    if by is None:
        return "this workshop has no owner"
    if load is None:
        return "no load runs in this kiln"
    mass = data.get("mass_kg")
    if mass is None or not data.get("tag"):
        return "it names no tag, or no weight"
    if not MASS_KG[0] <= mass <= MASS_KG[1]:
        return "no sample weighs that"
    sample = load.samples.filter(tag__iexact=data["tag"]).first()
    if sample is None:
        return f"{load.tag} has no sample with this tag"
    why = weighing.scale_says(sample, mass, at, MassField(by.workshop.system, *MASS_KG))
    if why:
        return why
    try:
        actions.weigh(by, load, [(sample, mass)], at)
    except Refused as refused:
        return str(refused)
    return ""


def says(device: Any) -> dict[str, Any]:
    """Which samples are to be weighed next, and of which load."""
    load = _load(device)
    return {"load": load.tag if load else None, "weigh": weighing.due(load) if load else []}


def told(data: Any, system: System) -> str:
    """A reading in words."""
    return f"{data['tag']}: {weighed_mass(data['mass_kg'], system)}"


def stand_in(device: Any) -> str:
    """What simulates it: a sample of the load that runs, with a hidden truth."""
    load = _load(device)
    sample = load.samples.select_related("piece").order_by("tag").first() if load else None
    if sample is None:
        return "scale --sample A=sugar_maple:28.6:64:1900"
    return f"scale --sample {sample.tag}={sample.piece.species_key}:{1000 * sample.piece.thickness_m:.0f}:60:1900"
