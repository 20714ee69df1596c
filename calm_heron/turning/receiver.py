"""A scale at the door for devices: it tells a tag and a weight."""

from datetime import datetime
from typing import Any

from pydantic import Field

from calm_heron.turning import actions
from calm_heron.turning.shelf import weighing
from calm_heron.workshops.models import Membership
from calm_heron.workshops.refusals import Refused
from wood.turning.weight_logs import MASS_KG
from wood.units import System
from wood.written import weighed_mass

# What is understood of a scale's reading.
FIELDS = {
    "tag": (str, Field("", max_length=32, description="Of which piece; for scales.")),
    "mass_kg": (float | None, Field(None, gt=0, le=20_000)),
}


def offers(workshop: Any) -> list[tuple[int, str]]:
    """It speaks of the whole shelf."""
    return [(0, "the shelf of rough bowls")]


def take(device: Any, readings: list[tuple[dict[str, Any], datetime]]) -> list[str]:
    """Keep what was weighed, in the name of who let it in; a weight that looks like a slip is refused, as nobody is there to be
    asked.
    """
    by = device.speaker
    return [_kept(by, data, at) for data, at in readings]


def _kept(by: Membership | None, data: dict[str, Any], at: datetime) -> str:
    if by is None:
        return "this workshop has no owner"
    mass = data.get("mass_kg")
    if mass is None or not data.get("tag"):
        return "it names no tag, or no weight"
    if not MASS_KG[0] <= mass <= MASS_KG[1]:
        return "no bowl weighs that"
    meant = weighing.bowls_named(weighing.bowls_in_stock(by.workshop), data["tag"])
    if len(meant) != 1:
        return "several bowls on the shelf may be meant" if meant else "no bowl on the shelf has this tag"
    try:
        actions.weigh(by, meant[0], mass, at)
    except Refused as refused:
        return str(refused)
    return ""


def says(device: Any) -> dict[str, Any]:
    """Which bowls are to be weighed next."""
    due = [bowl.piece.tag for bowl in weighing.shelf(device.workshop) if bowl.is_due]
    return {"weigh": due[:100]}


def told(data: Any, system: System) -> str:
    """A reading in words."""
    return f"{data['tag']}: {weighed_mass(data['mass_kg'], system)}"


def stand_in(device: Any) -> str:
    """What simulates it: the first bowl on the shelf, with a hidden truth."""
    bowl = next(iter(weighing.bowls_in_stock(device.workshop)), None)
    if bowl is None:
        return "scale --bowl TAG=sugar_maple:250:25"
    return f"scale --bowl {bowl.tag}={bowl.species_key}:{1000 * bowl.width_m:.0f}:{1000 * bowl.thickness_m:.0f}"
