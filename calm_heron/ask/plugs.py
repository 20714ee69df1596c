"""What Ask brings to the pages that are composed: its place in the work, and a way out for numbers without a tag."""

from calm_heron.plugs import OPEN_QUESTIONS, PANELS, PARTS, OpenQuestion, Panel, Part, Slot

PARTS.add(Part(15, "Ask", "ask", key="q", phone="Ask"))
PANELS.add(Panel(10, Slot.UNTAGGED, "ask/untagged.html"))
OPEN_QUESTIONS.add(
    OpenQuestion(1, "air", "Air", "What does this air bring wood to?", "anybody_air"),
    OpenQuestion(2, "wood", "Wood", "Take it, wait, or walk away?", "anybody_wood"),
    OpenQuestion(3, "movement", "Movement", "How much will it move?", "anybody_movement"),
    OpenQuestion(4, "drying", "Drying", "How long will it take to dry?", "anybody_drying"),
)
