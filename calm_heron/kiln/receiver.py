"""A kiln controller at the devices' door: the readings it sends of its chamber, and the settings its schedule gives it."""

from datetime import datetime
from typing import Any

from pydantic import Field

from calm_heron.kiln import actions
from calm_heron.kiln.models import Chamber, ChamberReading, Load
from calm_heron.kiln.runs import running
from wood.air.psychrometrics import from_wet_bulb
from wood.errors import OutOfRange
from wood.units import System
from wood.written import written_temperature

# What is understood of a controller's reading.
FIELDS = {
    "dry_bulb_c": (float | None, Field(None, ge=-40, le=130)),
    "wet_bulb_c": (float | None, Field(None, ge=-40, le=110)),
    "humidity": (float | None, Field(None, ge=0, le=1)),
    "leaving_c": (float | None, Field(None, ge=-40, le=130)),
    "power_kwh": (float | None, Field(None, ge=0, le=10_000)),
    "water_kg": (float | None, Field(None, ge=0, le=10_000)),
}


# A probe that says the chamber is so much hotter than it gets is not to be believed without a look.
HOTTER_C, TOO_HOT = 10.0, "it reads hotter than this kiln gets"


def offers(workshop: Any) -> list[tuple[int, str]]:
    """The chambers it can speak for."""
    return [(chamber.pk, chamber.name) for chamber in Chamber.objects.of(workshop).order_by("name")]


def _load(device: Any) -> Load | None:
    return (
        Load.objects.of(device.workshop).filter(chamber_id=device.about, ended_at=None).select_related("chamber", "chamber__place").first()
    )


def take(device: Any, readings: list[tuple[dict[str, Any], datetime]]) -> list[str]:
    """Keep what was read of the chamber's air while a load runs in it."""
    load = _load(device)
    said, rows = [], []
    for data, at in readings:
        why, row = ("no load runs in this kiln", None) if load is None else _row(load, data, at)
        said.append(why)
        if row is not None:
            rows.append(row)
    if rows:
        actions.keep_readings(rows)
    return said


def _row(load: Load, data: dict[str, Any], at: datetime) -> tuple[str, ChamberReading | None]:
    """A reading as it is kept, or why it is not."""
    if at < load.began_at:
        return "it was before the load began", None
    dry, humidity = data.get("dry_bulb_c"), data.get("humidity")
    if dry is None:
        return "it names no dry bulb", None
    if humidity is None:
        if data.get("wet_bulb_c") is None:
            return "it names neither wet bulb nor humidity", None
        try:
            humidity = from_wet_bulb(dry, data["wet_bulb_c"]).relative_humidity
        except OutOfRange:
            return "its wet bulb cannot be, beside its dry bulb", None
    return "", ChamberReading(
        workshop=load.workshop,
        load=load,
        at=at,
        dry_bulb_c=dry,
        humidity=humidity,
        leaving_c=data.get("leaving_c"),
        power_kwh=data.get("power_kwh"),
        water_kg=data.get("water_kg"),
        # Hotter than its chamber gets is kept, and marked.
        fault=data.get("fault", "") or (TOO_HOT if dry > load.chamber.hottest_c + HOTTER_C else ""),
    )


def says(device: Any) -> dict[str, Any]:
    """The step that holds; without a load, or once its program is over, nothing."""
    load = _load(device)
    result = running.now(load) if load is not None else None
    if load is None or result is None or result.setting is None:
        return {"load": load.tag if load else None}
    now = result.setting
    return {
        "load": load.tag,
        "began_at": load.began_at.isoformat(),
        "step": result.position,
        "kind": now.kind.value,
        "dry_bulb_c": round(now.dry_bulb_c, 2),
        "wet_bulb_c": round(now.wet_bulb_c, 2),
        "humidity": round(now.humidity, 4),
    }


def told(data: Any, system: System) -> str:
    """A reading in words."""
    damp = (
        f"{100 * data['humidity']:.0f}% RH"
        if data.get("humidity") is not None
        else f"wet bulb {written_temperature(data['wet_bulb_c'], system)}"
    )
    return f"{written_temperature(data['dry_bulb_c'], system)}, {damp}"


def stand_in(device: Any) -> str:
    """What simulates it: a chamber with a load of hidden truth, like the one that runs."""
    load = _load(device)
    lot = load.lots.select_related("piece").order_by("pk").first() if load else None
    if lot is None:
        return "kiln"
    return f"kiln --species {lot.piece.species_key} --thickness-mm {1000 * lot.piece.thickness_m:.0f}"
