"""What builds bring to the pages that are composed."""

from calm_heron.builds import demo, log_words
from calm_heron.builds.models import Build, BuildPart, Cut, GlueUp, Held, Mark
from calm_heron.plugs import DEMO_PARTS, LOG_KINDS, OPEN_QUESTIONS, PARTS, DemoPart, LogKind, OpenQuestion, Part

PARTS.add(Part(75, "Builds", "builds", key="u"))
LOG_KINDS.add(LogKind(75, "builds", "Builds", log_words.LOG))
DEMO_PARTS.add(DemoPart(90, (GlueUp, Cut, Held, Mark, BuildPart, Build), demo.load))
OPEN_QUESTIONS.add(OpenQuestion(10, "wood_for", "Which wood?", "Which wood is right for it?", "anybody_wood_for"))
