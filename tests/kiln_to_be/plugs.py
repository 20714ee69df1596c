"""What the kiln brings to the pages that are composed."""

from calm_heron.plugs import KEYS, LOG_KINDS, PANELS, PARTS, Keys, LogKind, Panel, Part, Slot

PARTS.add(Part(60, "Kiln", "kiln", key="k"))
KEYS.add(Keys(60, ((("w",), "wets the samples"),)))
LOG_KINDS.add(LogKind(60, "kiln", "Kiln"))
PANELS.add(
    Panel(60, Slot.PLACE, "kiln_to_be/in_place.html", lambda page: {"told": " <now>"}),
    Panel(61, Slot.PLACE, "kiln_to_be/in_place.html", lambda page: None),
)
