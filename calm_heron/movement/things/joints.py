"""Joints across the grain and of mixed materials: a tenon in a wide rail, a block glued across, an edging, a panel that does not move."""

from dataclasses import dataclass

from calm_heron.movement.things.scene import Dimension, Note, Scene, SceneShape, rectangle
from calm_heron.movement.things.thing import (
    FATES,
    Thing,
    ThingPresentation,
    ThingQuestion,
    WorkedThing,
    choice_field,
    chosen,
    fate_of,
    length_field,
    through,
)
from calm_heron.workshops.fields import CalmForm
from wood.movement.restraint import FASTENINGS, Fate, Held

KINDS = (
    ("rail", "a tenon across its whole width"),
    ("block", "a piece glued across it"),
    ("cleat", "a batten screwed across it"),
    ("edging", "an edging along it, of this wood too"),
    ("sheet", "glued to plywood or composition"),
)
ICON = "M4 8H36V32H4ZM36 14H46V26H36ZM46 4H60V36H46Z"
# Sheets of crossed veneers or of fibres move by about this share of their size between a dry and a damp season (0.1…0.3%).
SHEET_MOVES = 0.002
STICKS = {"rail": "glue", "block": "glue", "cleat": "screws", "edging": "glue", "sheet": "glue"}
REMEDY = {
    "rail": (
        "Split the wide tenon in two with a gap between them, glue one, and let the other slide; or haunch it and glue its middle third."
    ),
    "block": "Glue it at its middle only, or fasten it with one screw and slots.",
    "cleat": "Let it slide: one fixed screw in the middle, slots to either side, or a dovetailed batten glued at one end.",
    "edging": "Along the grain both move alike; round the ends it must be free to slide, or be mitred and left dry.",
    "sheet": "Set the solid wood in a groove, or screw it through slots: the sheet does not go with it.",
}


class Joint(Thing):
    """Wood whose width is held by something that keeps its size."""

    def fields(self, form: CalmForm) -> None:
        choice_field(form, "kind", "Held by", KINDS)
        length_field(form, "width_m", "Held across", 0.005, 2.0)
        length_field(form, "length_m", "The joint along the grain", 0.003, 5.0)

    def work(self, question: ThingQuestion) -> WorkedThing:
        width, along = question.typed.get("width_m") or 0.15, question.typed.get("length_m") or 0.05
        kind = chosen(question, "kind", KINDS)
        strips = question.strips(width)
        held = None if kind == "edging" else question.held(strips, along, FASTENINGS[STICKS[kind]])
        worked = self.swings(question, "its width, if it were free", strips)
        named = ((dict(KINDS)[kind].capitalize(), held),) if held else ()
        return WorkedThing(worked.named, worked.swing, worked.air, _Joint(kind, width, along, held), named)

    def present(self, question: ThingQuestion, worked: WorkedThing) -> ThingPresentation:
        result, size = worked.result, question.size
        if result.kind == "edging":
            figure, small = size(worked.swing.range_m), "of movement at its ends"
        elif result.held is None:
            figure, small = "Not known", "what this wood bears across its grain"
        else:
            figure, small = FATES[result.held.fate], f"at {size(result.width_m)} across"
        todo = [] if result.held is not None and result.held.fate is Fate.HOLDS else [REMEDY[result.kind]]
        rows = [("Free, it would go", question.both_ways(worked.swing.growth_m, worked.swing.shrink_m))]
        if result.kind == "sheet":
            rows.append(("The sheet, through the same year", f"about {size(SHEET_MOVES * result.width_m)}"))
        return ThingPresentation(
            figure,
            small,
            through(question, worked),
            todo,
            None,
            rows,
            [
                *(fate_of(question, held, name) for name, held in worked.held),
                "Swelling is borne better than shrinking: the wood is crushed a little at the joint, and shows it as a gap when it dries.",
            ],
        )

    def scene(self, question: ThingQuestion, worked: WorkedThing, moisture: float) -> Scene:
        result = worked.result
        now = float(question.strip(result.width_m).width_at(question.course.built, moisture))
        wide, deep = result.width_m, max(result.along_m, result.width_m * 0.2)
        reach = wide * 1.4
        return Scene(
            [
                SceneShape("wood", rectangle(-deep * 1.3, -wide * 0.62, 0.0, wide * 0.62)),
                SceneShape("open", rectangle(-deep, -wide / 2, 0.0, wide / 2)),
                SceneShape("settled", rectangle(-deep, -now / 2, reach, now / 2), wet=True),
            ],
            [Dimension((reach, -now / 2), (reach, now / 2), question.size(now))],
            [Note((reach / 2, -wide * 0.62), "its grain runs this way ↔", "middle")],
        )


@dataclass(frozen=True)
class _Joint:
    kind: str
    width_m: float
    along_m: float
    held: Held | None


THINGS = (
    Joint(
        110,
        "joint",
        "A joint across the grain",
        "Will this joint hold?",
        ICON,
        {"species_key": ("white oak",) * 2, "width_m": ("6", "150"), "length_m": ("2", "50"), "thickness_m": ("7/8", "22")},
    ),
)
