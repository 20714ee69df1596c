"""Moisture meters at the door for devices: one in the hand tells a tag and what it shows, a probe left in a board only what it shows."""

from datetime import datetime, timedelta
from typing import Any, Literal

from pydantic import Field

from calm_heron.measuring import actions, queries
from calm_heron.measuring.actions import Taken
from calm_heron.measuring.kinds import Layer, MeterKind
from calm_heron.measuring.models import Meter, Reading
from calm_heron.stock import queries as stock
from calm_heron.stock.models import Piece, Status
from calm_heron.workshops.models import Membership
from calm_heron.workshops.refusals import Refused
from wood.measuring import meters
from wood.units import System

# What is understood of a meter's reading.
FIELDS = {
    "tag": (str, Field("", max_length=32, description="Of which piece; for scales and meters in the hand.")),
    "shown": (float | None, Field(None, ge=0, le=10, description="What the meter shows, a fraction: 0.124 for 12.4%.")),
    "layer": (Literal["", "shell", "core"], Field("", description="How deep; empty: as the meter reads.")),
    "wood_temperature_c": (float | None, Field(None, ge=meters.WOOD_TEMPERATURE_C[0], le=meters.WOOD_TEMPERATURE_C[1])),
}
WATCHED = ("shown",)
# Wood does not change within less; a probe that says more often what it reads is thanked for the first.
PROBE_EVERY = timedelta(minutes=50)


def of_kind(kind: MeterKind) -> Any:
    """Which meters of a kind a device can be."""

    def offers(workshop: Any) -> list[tuple[int, str]]:
        return [(meter.pk, meter.name) for meter in queries.meters_of(workshop).filter(kind=kind)]

    return offers


def find(workshop: Any, tag: str) -> int:
    """The board in which a probe stays.

    Raises:
        Refused: no such piece, or none that a probe can be in.
    """
    piece = stock.by_tags(workshop, [tag]).get(tag.casefold())
    if piece is None:
        raise Refused(f"No piece here has the tag “{tag}”. Tags are on the wood and in Stock.", "tag")
    if piece.is_lot:
        raise Refused("A probe sits in one board. Name one of the lot’s sample boards.", "tag")
    if piece.species.holds_no_moisture_content:
        raise Refused(actions.NOT_WOOD, "tag")
    return piece.pk


def tag_of(workshop: Any, pk: int) -> str:
    """The tag of the board in which a probe stays."""
    return Piece.objects.of(workshop).filter(pk=pk).values_list("tag", flat=True).first() or ""


def take(device: Any, readings: list[tuple[dict[str, Any], datetime]]) -> list[str]:
    """Keep what a meter in the hand showed, in the name of who let it in."""
    meter = Meter.objects.of(device.workshop).filter(pk=device.about).first()
    by = device.speaker
    pieces = stock.by_tags(device.workshop, [data.get("tag", "") for data, _ in readings])
    said = []
    for data, at in readings:
        tag = data.get("tag", "")
        piece = pieces.get(tag.casefold())
        why = "it names no tag" if not tag else "no piece here has this tag" if piece is None else ""
        said.append(why or _kept(device, by, meter, piece, data, at))
    return said


def take_fixed(device: Any, readings: list[tuple[dict[str, Any], datetime]]) -> list[str]:
    """Keep what a probe shows that stays in one board, once an hour."""
    meter = Meter.objects.of(device.workshop).filter(pk=device.instrument).first()
    piece = Piece.objects.of(device.workshop).filter(pk=device.about).select_related("place", "lot").first()
    by = device.speaker
    same = Reading.objects.of(device.workshop).filter(piece=piece, told_by=device.name, stays=True)
    moments = list(same.filter(at__gte=min(at for _, at in readings) - PROBE_EVERY).values_list("at", flat=True))
    said = []
    for data, at in readings:
        if any(abs(at - known) < PROBE_EVERY for known in moments):
            said.append("it was read within the hour already")
            continue
        said.append(_kept(device, by, meter, piece, data, at, stays=True))
        if not said[-1]:
            moments.append(at)
    return said


def _kept(
    device: Any, by: Membership | None, meter: Meter | None, piece: Piece | None, data: dict[str, Any], at: datetime, *, stays: bool = False
) -> str:
    """Why a reading is not kept; empty: it is."""
    if by is None:
        return "this workshop has no owner"
    if meter is None or meter.retired:
        return "its meter is retired"
    if piece is None or piece.status != Status.IN_STOCK:
        return "this piece is not in stock any more"
    shown = data.get("shown")
    if shown is None:
        return "it does not say what it shows"
    if not meters.READING[0] <= shown <= meters.READING[1]:
        return f"no meter shows that: {meters.READING[0]:.2f} to {meters.READING[1]:.2f} can be kept"
    warm = data.get("wood_temperature_c")
    if warm is None:
        warm = queries.wood_temperature(piece, queries.wood_temperatures(by.workshop))[0]
    taken = Taken(shown, Layer(data.get("layer", "")))
    try:
        actions.record_readings(by, piece, meter, [taken], warm, at, told_by=device.name, stays=stays)
    except Refused as refused:
        return str(refused)
    return ""


def says(device: Any) -> dict[str, Any]:
    """Nothing is asked of a meter in the hand."""
    return {}


def says_fixed(device: Any) -> dict[str, Any]:
    """In which board a probe is taken to be."""
    return {"tag": tag_of(device.workshop, device.about) or None}


def told(data: Any, system: System) -> str:
    """A reading in words."""
    return f"{data['tag']}: {100 * data['shown']:.1f}%" if data.get("tag") else f"{100 * data['shown']:.1f}%"


def _board(piece: Piece) -> str:
    return f"{piece.tag}={piece.species_key}:{1000 * piece.thickness_m:.0f}:18"


def stand_in(device: Any) -> str:
    """What simulates it: the board that was read last, with a hidden truth."""
    meter = Meter.objects.of(device.workshop).filter(pk=device.about).first()
    boards = [piece for piece in queries.read_last(device.workshop, 12) if not piece.is_lot][:1]
    return f"{meter.kind if meter else 'pin'} --board {_board(boards[0]) if boards else 'TAG=white_oak:27:18'}"


def stand_in_fixed(device: Any) -> str:
    """What simulates it: its board, with a hidden truth."""
    piece = Piece.objects.of(device.workshop).filter(pk=device.about).first()
    return f"probe --board {_board(piece) if piece else 'TAG=white_oak:27:18'}"
