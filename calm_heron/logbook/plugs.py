"""What the log brings to the pages that are composed."""

from calm_heron.logbook.models import Entry
from calm_heron.plugs import DEMO_PARTS, PARTS, DemoPart, Part

PARTS.add(Part(80, "Log", "log", key="l"))
DEMO_PARTS.add(DemoPart(2, (Entry,)))
