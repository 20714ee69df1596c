"""A thermo-hygrometer or a weather station at the door for devices: it tells temperature and humidity of the place where it hangs."""

from datetime import datetime
from typing import Any

from pydantic import Field

from calm_heron.air import actions, queries
from calm_heron.air.kinds import PlaceKind
from calm_heron.air.models import Hygrometer
from wood.air.logger_files import TEMPERATURE_C
from wood.units import System
from wood.written import written_temperature

# What is understood of its reading. A kiln's controller tells its humidity under the same name.
FIELDS = {
    "temperature_c": (float | None, Field(None, ge=TEMPERATURE_C[0], le=TEMPERATURE_C[1])),
    "humidity": (float | None, Field(None, ge=0, le=1)),
}
WATCHED = ("temperature_c", "humidity")


def offers(workshop: Any) -> list[tuple[int, str]]:
    """It hangs in one of the places."""
    return [(place.pk, place.name) for place in queries.places(workshop)]


def offers_outdoors(workshop: Any) -> list[tuple[int, str]]:
    """It stands outdoors."""
    return [(place.pk, place.name) for place in queries.places(workshop) if place.traits.is_outdoors]


def instruments(workshop: Any) -> list[tuple[int, str]]:
    """By whose checks its readings are corrected."""
    return [(row.pk, row.name) for row in Hygrometer.objects.of(workshop).order_by("name")]


def take(device: Any, readings: list[tuple[dict[str, Any], datetime]]) -> list[str]:
    """Keep the air that was read, in the name of who let it in."""
    by = device.speaker
    place = queries.places(device.workshop).filter(pk=device.about).first()
    hygrometer = Hygrometer.objects.of(device.workshop).filter(pk=device.instrument).first()
    if by is None or place is None:
        return ["this workshop has no owner" if by is None else "its place is retired"] * len(readings)
    said = [_wrong(data, place.traits.hottest_c) for data, _ in readings]
    good = [(at, data["temperature_c"], data["humidity"]) for (data, at), why in zip(readings, said, strict=True) if not why]
    if good:
        actions.keep_told(by, place, hygrometer, good, device.name)
    return said


def _wrong(data: dict[str, Any], hottest_c: float) -> str:
    """Why it cannot be kept; empty: it can."""
    if data.get("temperature_c") is None or data.get("humidity") is None:
        return "it names no temperature, or no humidity"
    return f"this place never gets so hot: at most {hottest_c:.0f}°C is kept" if data["temperature_c"] > hottest_c else ""


def says(device: Any) -> dict[str, Any]:
    """Where it is taken to hang; nothing else is asked of it."""
    place = queries.places(device.workshop).filter(pk=device.about).first()
    return {"place": place.name if place else None}


def told(data: Any, system: System) -> str:
    """A reading in words."""
    return f"{written_temperature(data['temperature_c'], system)}, {100 * data['humidity']:.0f}% RH"


def stand_in(device: Any) -> str:
    """What simulates it: air like that of its place's kind."""
    place = queries.all_places(device.workshop).filter(pk=device.about).first()
    like = place.kind if place else PlaceKind.ROOM
    return "weather" if like == PlaceKind.YARD else f"hygrometer --like {like}"
