"""What devices bring to the pages that are composed."""

from calm_heron.devices.models import Device, Received
from calm_heron.plugs import DEMO_PARTS, LOG_KINDS, PARTS, Demo, DemoPart, LogKind, Part


def load(demo: Demo) -> None:
    """The demo has no devices: visitors add their own."""


PARTS.add(Part(95, "Devices", "devices", in_rail=False, group="Records"))
LOG_KINDS.add(LogKind(95, "device", "Devices", {"let_in": "Device {subject} let in", "shut_out": "Device {subject} shut out"}))
DEMO_PARTS.add(DemoPart(95, (Received, Device), load))
