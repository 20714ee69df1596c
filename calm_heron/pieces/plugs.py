"""What the pages of the pieces bring to the pages that are composed."""

from calm_heron.plugs import PARTS, Part

PARTS.add(Part(30, "Stock", "stock", key="s", phone="Stock", group="Wood"))
