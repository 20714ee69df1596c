"""What *Find* brings to the pages that are composed: its field at the head of the rail, and its key."""

from calm_heron.plugs import KEYS, PANELS, PARTS, Keys, Panel, Part, Slot

# On a phone there is no rail: there it stands behind “More”.
PARTS.add(Part(12, "Find", "find", in_rail=False))
PANELS.add(Panel(1, Slot.RAIL_HEAD, "finding/field.html"))
KEYS.add(Keys(4, ((("f",), "find a piece, a place or a page"),)))
