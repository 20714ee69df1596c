"""The door that devices speak to: a token each, batches, an own key for each reading, their clock's error recorded; described in OpenAPI.

Nothing here sets anything in motion: a device asks what the program says, and tells what it read.
"""

from datetime import datetime, timedelta
from typing import Any

from django.db import transaction
from django.http import HttpRequest
from django.utils import timezone
from ninja import NinjaAPI, Schema
from ninja.security import HttpBearer
from pydantic import AwareDatetime, ConfigDict, Field, SkipValidation, ValidationError, create_model

from calm_heron.answers.tasks import renew_soon
from calm_heron.devices.actions import digest
from calm_heron.devices.models import Device, Received
from calm_heron.plugs import RECEIVERS, Taken
from calm_heron.workshops import quota

MOST_READINGS = 500
# Readings from the future beyond this, and older ones than this, are refused.
AHEAD, OLDEST = timedelta(minutes=5), timedelta(days=30)


class Token(HttpBearer):
    """``Authorization: Bearer …`` with the token that was shown when the device was let in."""

    def authenticate(self, request: HttpRequest, token: str) -> Device | None:
        return Device.objects.select_related("workshop").filter(token_digest=digest(token), revoked_at=None).first()


class AnyReading(Schema):
    """One reading. Temperatures in °C; humidity as a fraction; what a receiver does not know it leaves alone."""

    model_config = ConfigDict(allow_inf_nan=False, extra="forbid")

    key: str = Field(min_length=1, max_length=64, description="The device's own key: a reading that is sent again under it is kept once.")
    at: AwareDatetime
    fault: str = Field("", max_length=60)


# With what each registered receiver understands besides.
Reading: Any = create_model(  # type: ignore[call-overload]
    "Reading",
    __base__=AnyReading,
    __doc__=AnyReading.__doc__,
    **{name: said for receiver in RECEIVERS for name, said in receiver.fields.items()},
)


class Batch(Schema):
    """Readings, and when the device's clock says it sends them."""

    model_config = ConfigDict(allow_inf_nan=False)

    sent_at: AwareDatetime
    # Each is read by itself, so that one that cannot be kept leaves the rest of its batch alone.
    readings: list[SkipValidation[Reading]] = Field(min_length=1, max_length=MOST_READINGS)


class Refusal(Schema):
    key: str
    why: str


class DoorAnswer(Schema):
    """How many readings are kept, how many were known already, and which were refused."""

    kept: int
    known: int
    refused: list[Refusal]


door = NinjaAPI(title="Calm Heron, for devices", version="1", docs_url=None, auth=Token(), urls_namespace="devices")


def _read(item: Any) -> tuple[str, AnyReading | None, str]:
    """A reading by itself: its key, what it is, or why it cannot be kept."""
    if not isinstance(item, dict):
        return "", None, "it is no reading"
    key = item.get("key")
    key = key[:64] if isinstance(key, str) and _can_be_kept(key) else ""
    for name, value in item.items():
        if isinstance(value, bool):
            return key, None, f"{name[:40]}: true and false are no numbers"
        if not _can_be_kept(name) or (isinstance(value, str) and not _can_be_kept(value)):
            return key, None, "it holds a character that cannot be kept"
    try:
        return key, Reading.model_validate(item), ""
    except ValidationError as wrong:
        first = wrong.errors()[0]
        return key, None, f"{'.'.join(str(part) for part in first['loc'])[:60]}: {first['msg'].lower()}"


def _can_be_kept(text: str) -> bool:
    """Whether a text is one that a database keeps: no null in it, nothing that is half a character."""
    try:
        text.encode()
    except UnicodeEncodeError:
        return False
    return "\x00" not in text


def _moment(at: datetime, offset: timedelta, now: datetime) -> tuple[datetime, str]:
    """When something was read by our clock, or why that cannot be."""
    try:
        at = at - offset
        if at > now + AHEAD:
            return at, "it is in the future"
        return at, "it is older than a month" if at < now - OLDEST else ""
    except OverflowError:
        return now, "its moment cannot be"


@door.post("/readings", response=DoorAnswer, summary="Tell what was read")
@transaction.atomic
def readings(request: HttpRequest, batch: Batch) -> dict[str, Any]:
    """Keep a batch; sent again, it is kept once. A clock that is off is put right once three batches agree how far; what merely arrives
    late keeps its moments."""
    # Lock the device: its batches are handled one after the other.
    devices = Device.objects.select_for_update(of=("self",)).select_related("workshop")
    device = devices.get(pk=request.auth.pk)  # type: ignore[attr-defined]  # by the token
    now = timezone.now()
    device.heard(batch.sent_at.isoformat(), (batch.sent_at - now).total_seconds())
    Device.objects.filter(pk=device.pk).update(seen_at=now, skew_s=device.skew_s, offsets=device.offsets)
    offset = timedelta(seconds=device.steady_offset_s)
    receiver = device.receiver
    refused: list[dict[str, Any]] = []
    fresh: list[tuple[AnyReading, datetime]] = []
    read = [_read(item) for item in batch.readings]
    seen = set(Received.objects.filter(device=device, key__in=[item.key for _, item, _ in read if item]).values_list("key", flat=True))
    known = 0
    full = quota.is_full(device.workshop)
    for key, reading, why in read:
        if reading is None:
            refused.append({"key": key, "why": why})
            continue
        if reading.key in seen:
            known += 1
            continue
        if full:
            refused.append({"key": reading.key, "why": "this copy of the demo holds all that it can"})
            continue
        at, why = _moment(reading.at, offset, now)
        if why:
            refused.append({"key": reading.key, "why": why})
        else:
            seen.add(reading.key)
            fresh.append((reading, at))
    taken: list[Taken] = (
        receiver.take(device, [(reading.dict(exclude_none=True), at) for reading, at in fresh]) if receiver and fresh else []
    )
    kept, marks = [], []
    for (item, at), outcome in zip(fresh, taken, strict=False):
        if outcome:
            refused.append({"key": item.key, "why": outcome})
        else:
            kept.append((at, item.dict(exclude_none=True, exclude_unset=True)))
            marks.append(Received(workshop=device.workshop, device=device, key=item.key))
    Received.objects.bulk_create(marks)
    if receiver is None:
        refused += [{"key": reading.key, "why": "nothing listens to devices of this kind"} for reading, _ in fresh]
    if kept or refused:
        device.keep_last(kept, refused[-1]["why"] if refused else "")
        Device.objects.filter(pk=device.pk).update(last=device.last, refused=device.refused, heard_of=device.heard_of)
    if kept:
        renew_soon(device.workshop_id)
    return {"kept": len(kept), "known": known, "refused": refused}


@door.get("/setting", response=dict[str, Any], summary="Ask what is to be set")
def setting(request: HttpRequest) -> dict[str, Any]:
    """What the receiver has for this device: for a kiln's controller the step that holds, and nothing where no load runs."""
    device: Device = request.auth  # type: ignore[attr-defined]  # by the token
    Device.objects.filter(pk=device.pk).update(seen_at=timezone.now())
    receiver = device.receiver
    return receiver.says(device) if receiver else {}
