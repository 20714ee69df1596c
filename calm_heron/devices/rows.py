"""What the devices' page says of each device, and of what is wrong with one."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from django.utils import timezone

from calm_heron.devices.models import Device
from calm_heron.plugs import RECEIVERS
from calm_heron.site.dates import moment
from calm_heron.site.numbers import counted
from calm_heron.workshops.models import Workshop
from wood.air.logger_files import FaultKind
from wood.measuring.reporting import Trouble


@dataclass(frozen=True)
class DeviceRow:
    """A device as its page tells of it: of which kind, for what, what it said last, and what is wrong with it."""

    device: Device
    kind: str
    speaks_for: str
    last: str
    troubles: list[str]
    stand_in: str


def rows(workshop: Workshop) -> list[DeviceRow]:
    """The devices that are let in, by their names."""
    offered: dict[str, dict[int, str]] = {}
    found = []
    for device in Device.objects.of(workshop).filter(revoked_at=None).select_related("workshop").order_by("name"):
        receiver = device.receiver
        if receiver is None:
            found.append(DeviceRow(device, device.kind, "", "", [], ""))
            continue
        if receiver.kind not in offered:
            offered[receiver.kind] = dict(receiver.offers(workshop))
        speaks_for = receiver.fixed.tag(workshop, device.about) if receiver.fixed else offered[receiver.kind].get(device.about, "")
        last = receiver.told(device.last, workshop.system) if device.last else ""
        found.append(DeviceRow(device, receiver.name, speaks_for, last, troubles(device), receiver.stand_in(device)))
    return found


def troubles(device: Device) -> list[str]:
    """What is wrong with a device, a sentence each."""
    said = [trouble_words(trouble, device.heard_of != {}) for trouble in device.troubles()]
    if device.clock_is_off:
        said.append(clock_words(device.skew_s or 0.0))
    return said


def trouble_words(trouble: Trouble, was_heard: bool) -> str:
    """What an instrument does that is no air and no wood, as a sentence."""
    since = moment(trouble.since)
    if trouble.kind == FaultKind.SILENT:
        span = _span(timezone.now() - trouble.since)
        return f"has said nothing for {span}: battery, range or door?" if was_heard else "was connected and has never spoken."
    if trouble.kind == FaultKind.STUCK:
        return f"has shown the very same since {since}: its sensor may be stuck."
    assert trouble.until is not None
    if trouble.kind == FaultKind.GAP:
        return f"left a gap of {_span(trouble.until - trouble.since)} from {since}."
    return f"jumped on {moment(trouble.until)} as nothing real does: was it moved, or held in a hand?"


def clock_words(seconds: float) -> str:
    """How far a device's clock is off, as a sentence."""
    return f"has a clock that is {_span(abs(seconds))} {'fast' if seconds > 0 else 'slow'}."


def _span(length: Any) -> str:
    """A length of time in the largest unit that fits: a timedelta, or seconds."""
    seconds = length if isinstance(length, float) else length.total_seconds()
    for unit, size in (("day", 86_400), ("hour", 3600), ("minute", 60)):
        if seconds >= 2 * size:
            return counted(round(seconds / size), unit)
    return counted(round(seconds), "second")


@dataclass(frozen=True)
class KindRow:
    """A kind of device that can be let in."""

    kind: str
    name: str
    does: str
    can: bool


def kinds(workshop: Workshop) -> list[KindRow]:
    """What can be let in; a kind that has nothing yet to speak for says so."""

    def can(receiver: Any) -> bool:
        return bool(receiver.instruments(workshop)) if receiver.fixed else bool(receiver.offers(workshop))

    return [KindRow(receiver.kind, receiver.name, receiver.does, can(receiver)) for receiver in RECEIVERS]


def with_trouble(workshop: Workshop) -> list[tuple[Device, str]]:
    """What is wrong now with devices that report by themselves, the worst of each; one query."""
    found: list[tuple[datetime, Device, str]] = []
    for device in Device.objects.of(workshop).filter(revoked_at=None).order_by("name"):
        wrong = device.troubles()
        if wrong:
            found.append((wrong[0].since, device, trouble_words(wrong[0], device.heard_of != {})))
    return [(device, words) for _, device, words in sorted(found, key=lambda item: (item[0], item[1].pk))]
