"""What Ask brings to the pages that are composed: its place in the work, and a way out for numbers without a tag."""

from calm_heron.plugs import PANELS, PARTS, Panel, Part, Slot

PARTS.add(Part(15, "Ask", "ask", key="q", phone="Ask"))
PANELS.add(Panel(10, Slot.UNTAGGED, "ask/untagged.html"))
