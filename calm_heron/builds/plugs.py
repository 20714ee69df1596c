"""What builds bring to the pages that are composed."""

from calm_heron.builds import checked, demo, log_words, panels
from calm_heron.builds.layouts import sawing  # noqa: F401 (what is held is minded when a lot is split)
from calm_heron.builds.models import Build, BuildPart, Cut, GlueUp, Held, Mark, MeasuredLater, Offcut, PartAsMade, PhotoFrame, Sawing
from calm_heron.measuring.wood_now import FOLLOWERS, Follower
from calm_heron.plugs import DEMO_PARTS, LOG_KINDS, PANELS, PARTS, DemoPart, LogKind, Panel, Part, Slot
from calm_heron.stock.faults import FAULTS, saved

PARTS.add(Part(75, "Builds", "builds", key="u", group="Making"))
LOG_KINDS.add(LogKind(75, "builds", "Builds", log_words.LOG))
DEMO_PARTS.add(DemoPart(90, (MeasuredLater, PartAsMade, PhotoFrame, GlueUp, Offcut, Sawing, Cut, Held, Mark, BuildPart, Build), demo.load))
FOLLOWERS.add(Follower(50, panels.left_over))
PANELS.add(Panel(28, Slot.TODAY_AFTER, "builds/today.html", panels.today))
FAULTS.add(saved(17, "checks in boards", checked.found, frozenset({"stock", "builds", "workshops"})))
PANELS.add(Panel(45, Slot.PIECE, "builds/held.html", panels.held))
