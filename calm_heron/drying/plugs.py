"""What drying brings to the pages that are composed."""

from calm_heron.plugs import PARTS, Part

PARTS.add(Part(50, "Drying", "drying", key="d"))
