"""What the log brings to the pages that are composed."""

from calm_heron.logbook import panels
from calm_heron.logbook.models import Entry
from calm_heron.plugs import DEMO_PARTS, PANELS, PARTS, DemoPart, Panel, Part, Slot

PANELS.add(Panel(80, Slot.TODAY_AFTER, "logbook/since.html", panels.since_yesterday))
PARTS.add(Part(80, "Journal", "log", key="l", group="Records"))
DEMO_PARTS.add(DemoPart(2, (Entry,)))
