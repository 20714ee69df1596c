"""What Today brings to the pages that are composed."""

from calm_heron.plugs import PARTS, Part

PARTS.add(Part(10, "Today", "today", key="t", phone="Today"))
