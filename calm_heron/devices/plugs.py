"""What devices bring to the pages that are composed."""

from collections.abc import Mapping
from typing import Any

from calm_heron.devices.models import Device, Received
from calm_heron.devices.rows import with_trouble
from calm_heron.plugs import DEMO_PARTS, LOG_KINDS, PANELS, PARTS, Demo, DemoPart, LogKind, Panel, Part, Slot


def load(demo: Demo) -> None:
    """The demo has no devices: visitors add their own."""


def today(page: Mapping[str, Any]) -> dict[str, Any] | None:
    """Devices that have fallen silent, stick, jumped or left a gap; nothing where none does."""
    found = with_trouble(page["workshop"])
    return {"device_troubles": found} if found else None


PARTS.add(Part(95, "Devices", "devices", in_rail=False, group="Records"))
LOG_KINDS.add(LogKind(95, "device", "Devices", {"let_in": "Device {subject} let in", "shut_out": "Device {subject} shut out"}))
DEMO_PARTS.add(DemoPart(95, (Received, Device), load))
PANELS.add(Panel(6, Slot.TODAY_TASKS, "devices/today.html", today))
