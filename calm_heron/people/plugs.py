"""What the people of a workshop bring to the pages that are composed."""

from calm_heron.people import words
from calm_heron.people.actions import KIND
from calm_heron.plugs import LOG_KINDS, PARTS, LogKind, Part

PARTS.add(Part(90, "Workshop", "people"))
LOG_KINDS.add(LogKind(90, KIND, "People", words.LOG))
