"""What builds bring to the pages that are composed."""

from calm_heron.builds import demo, log_words, panels
from calm_heron.builds.models import Build, BuildPart, Cut, GlueUp, Held, Mark
from calm_heron.plugs import DEMO_PARTS, LOG_KINDS, PANELS, PARTS, DemoPart, LogKind, Panel, Part, Slot

PARTS.add(Part(75, "Builds", "builds", key="u"))
LOG_KINDS.add(LogKind(75, "builds", "Builds", log_words.LOG))
DEMO_PARTS.add(DemoPart(90, (GlueUp, Cut, Held, Mark, BuildPart, Build), demo.load))
PANELS.add(Panel(28, Slot.TODAY, "builds/today.html", panels.today))
PANELS.add(Panel(45, Slot.PIECE, "builds/held.html", panels.held))
