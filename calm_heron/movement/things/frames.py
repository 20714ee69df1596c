"""What moves inside what does not: a panel in its frame, a drawer in its opening, a bottom or a lid between sides."""

from dataclasses import dataclass
from typing import Any

import numpy as np

from calm_heron.movement.things.scene import Dimension, Note, Scene, SceneShape, rectangle
from calm_heron.movement.things.thing import (
    LEAST_TOLD_M,
    Thing,
    ThingPresentation,
    ThingQuestion,
    WorkedThing,
    choice_field,
    chosen,
    count_field,
    fate_of,
    length_field,
    through,
)
from calm_heron.workshops.fields import CalmForm
from wood.errors import OutOfRange
from wood.movement import framing, restraint
from wood.movement.framing import Between, Bottom, Fitted, Panelled
from wood.movement.restraint import FASTENINGS, Push

HELD_WHERE = (("inside", "inside its sides"), ("outside", "outside, over them"))
BOTTOM_GRAIN = (("across", "from side to side"), ("along", "from front to back"), ("none", "nowhere: a door or a lid"))
USUAL_GAP_M = 0.001


class FrameAndPanel(Thing):
    """A solid panel in grooves: how wide to make it, whether the groove is deep enough, the stripe that will show."""

    def fields(self, form: CalmForm) -> None:
        length_field(form, "opening_m", "Opening across the panel’s grain", 0.03, 3.0)
        length_field(form, "groove_m", "Groove, deep", 0.001, 0.1)
        length_field(form, "rail_m", "Rail or stile, wide", 0.01, 0.4)

    def work(self, question: ThingQuestion) -> WorkedThing:
        opening, groove = question.typed.get("opening_m") or 0.35, question.typed.get("groove_m") or 0.010
        rail = question.typed.get("rail_m") or 0.06
        framing.checked_groove(groove, rail)
        about = opening + 2 * groove
        strips = question.strips(about, max(1, round(about / 0.15)))
        worked = self.swings(
            question, "the panel’s width", strips, None, Glued_into_its_groove=question.held(strips, about, FASTENINGS["glue"])
        )
        frame = _InFrame(framing.panel_in_frame(worked.swing, opening, groove), opening, groove, rail)
        return WorkedThing(worked.named, worked.swing, worked.air, frame, worked.held)

    def present(self, question: ThingQuestion, worked: WorkedThing) -> ThingPresentation:
        result, size = worked.result, question.size
        panel = result.panel
        if panel.holds:
            reason = (
                f"Made like this it has {size(panel.gap_each_side_m)} of air on each side today, never presses at its dampest, and still "
                "lies "
                f"{size(panel.stays_m)} deep on each side at its driest."
            )
        else:
            reason = (
                f"But a groove of {size(result.groove_m)} is too shallow: at its driest only {size(max(0.0, panel.stays_m))} would be left"
                f" in it. Make the grooves at least {size(panel.least_groove_m)} deep."
            )
        return ThingPresentation(
            size(panel.panel_m),
            "wide is the panel to make today",
            reason,
            [
                "Finish the panel before it goes in: the stripe that comes out of the grooves is then not bare.",
                "Pin or glue it at the middle of its ends only, so that both sides share the movement.",
            ],
            None,
            [
                ("The stripe that will show on each side", size(panel.shows_m)),
                ("The shallowest groove that would do", size(panel.least_groove_m)),
                ("What stays in each groove at the driest", size(max(0.0, panel.stays_m))),
            ],
            [
                through(question, worked),
                *(fate_of(question, held, name) for name, held in worked.held),
                "A panel of plywood or composition hardly moves: it may fill its grooves, and be glued.",
            ],
        )

    def scene(self, question: ThingQuestion, worked: WorkedThing, moisture: float) -> Scene:
        result, thick = worked.result, question.thickness_m
        wide = question.strip(result.panel.panel_m)
        now = float(wide.width_at(question.course.built, moisture))
        # One side, as wide as life allows: the panel's middle stays where it is, far to the right.
        half, rail, groove, seen = now / 2, result.rail_m, result.groove_m, min(result.opening_m / 2, 1.2 * result.rail_m)
        edge = result.opening_m / 2 - half
        tongue = thick * 0.3
        return Scene(
            [
                SceneShape("wood", _grooved(rail, groove, thick * 1.2, tongue * 1.15)),
                SceneShape("settled", rectangle(edge, -tongue, seen, tongue), wet=True),
            ],
            [
                Dimension((edge, -thick * 1.2), (0.0, -thick * 1.2), question.size(max(0.0, -edge))),
                Dimension((-groove, thick * 1.2), (edge, thick * 1.2), question.size(max(0.0, edge + groove)), -12.0),
            ],
            [Note((seen, tongue * 1.8), "to the middle of the panel →", "end")],
            most_drawn=1.0,
        )


def _grooved(rail: float, groove: float, half: float, slot: float) -> np.ndarray:
    """A stile seen from its end, with the groove in its inner edge (metres)."""
    return np.array([(-rail, -half), (0, -half), (0, -slot), (-groove, -slot), (-groove, slot), (0, slot), (0, half), (-rail, half)])


@dataclass(frozen=True)
class _InFrame:
    panel: Panelled
    opening_m: float
    groove_m: float
    rail_m: float


class Drawer(Thing):
    """A drawer, a door or a lid: the gap it needs in the damp season, and a drawer's bottom."""

    def fields(self, form: CalmForm) -> None:
        length_field(form, "opening_m", "Opening, across its grain", 0.02, 1.0)
        length_field(form, "gap_m", "Gap to be left at the dampest", 0.0, 0.02)
        length_field(form, "depth_m", "Drawer, front to back", 0.05, 2.0)
        length_field(form, "inside_m", "Drawer, wide inside", 0.05, 2.0)
        choice_field(form, "bottom", "The bottom’s grain runs", BOTTOM_GRAIN)

    def work(self, question: ThingQuestion) -> WorkedThing:
        opening, gap = question.typed.get("opening_m") or 0.18, question.typed.get("gap_m")
        gap = USUAL_GAP_M if gap is None else gap
        if gap > opening / 4:
            raise OutOfRange("gap_m", gap, 0.0, opening / 4, " m")
        worked = self.swings(question, "its height", question.strips(opening - gap))
        across = chosen(question, "bottom", BOTTOM_GRAIN)
        size = question.typed.get("depth_m" if across == "across" else "inside_m") or 0.45
        below = self.swings(question, "the bottom", question.strips(size, max(1, round(size / 0.15)))).swing
        drawer = _Drawer(framing.in_opening(worked.swing, opening, gap), opening, gap, across, size, framing.drawer_bottom(below))
        return WorkedThing(worked.named, worked.swing, worked.air, drawer)

    def present(self, question: ThingQuestion, worked: WorkedThing) -> ThingPresentation:
        result, size = worked.result, question.size
        front, bottom = result.front, result.bottom
        drawer = result.grain != "none"
        todo = [f"Make {'front and sides' if drawer else 'it'} {size(front.size_m)} {'high' if drawer else 'across'} today."]
        if result.grain == "across":
            todo.append(
                f"The bottom: grain from side to side, fixed in the front’s groove, free at the back. Let it stand {size(bottom.forward_m)}"
                f" over the back at least, and slot its screw there {size(bottom.slot_m)} long."
            )
        elif drawer:
            todo.append(
                f"The bottom: its grain runs from front to back, so it moves between the sides. Leave {size(bottom.backward_m)} in all in"
                f" their grooves, and make these {size((bottom.backward_m + bottom.forward_m) / 2 + framing.STAYS_IN_M)} deep. With its"
                " grain from side to side it would move at the back alone, where nothing stands in its way."
            )
        return ThingPresentation(
            size(front.gap_m),
            f"is the gap to leave {'above it' if drawer else 'in all'} today",
            f"At its dampest {size(result.gap_m)} is left; at its driest the gap is {size(front.widest_gap_m)}.",
            todo,
            None,
            [
                *([("Bottom, from the day: backward, forward", question.both_ways(bottom.backward_m, bottom.forward_m))] if drawer else []),
                ("Along the grain", "hardly anything"),
            ],
            [through(question, worked, "lower", "higher"), "Inset or over its opening, it moves alike, and only across its grain."],
        )

    def scene(self, question: ThingQuestion, worked: WorkedThing, moisture: float) -> Scene:
        result = worked.result
        strip = question.strip(result.front.size_m)
        now = float(strip.width_at(question.course.built, moisture))
        high, wide = result.opening_m, result.opening_m * 2.1
        rim = high * 0.1
        # The frame is one outline about a hole, drawn as four pieces so that it needs no winding rule.
        return Scene(
            [
                SceneShape("wood", rectangle(-rim, -rim, wide + rim, 0.0)),
                SceneShape("wood", rectangle(-rim, high, wide + rim, high + rim)),
                SceneShape("wood", rectangle(-rim, 0.0, 0.0, high)),
                SceneShape("wood", rectangle(wide, 0.0, wide + rim, high)),
                SceneShape("settled", rectangle(0.001, 0.0, wide - 0.001, now), wet=True),
                SceneShape("open", rectangle(wide * 0.42, now * 0.44, wide * 0.58, now * 0.56)),
            ],
            [
                Dimension((wide + rim, 0.0), (wide + rim, now), question.size(now)),
                Dimension((-rim, now), (-rim, high), question.size(high - now), -14.0),
            ],
            [],
            most_drawn=max(1.0, result.front.gap_m / max(worked.swing.growth_at_most_m, 1e-6) * 0.98),
        )


@dataclass(frozen=True)
class _Drawer:
    front: Fitted
    opening_m: float
    gap_m: float
    grain: str
    bottom_size_m: float
    bottom: Bottom


class Tray(Thing):
    """Boards side by side that are held inside, or lie outside: a box bottom, a lid, a tray, the bed of a wagon."""

    def fields(self, form: CalmForm) -> None:
        length_field(form, "width_m", "Across the boards", 0.05, 6.0)
        length_field(form, "length_m", "Along the boards", 0.05, 10.0)
        count_field(form, "boards", "Boards", 1, 60)
        length_field(form, "gap_m", "Gap at each joint as laid", 0.0, 0.03)
        choice_field(form, "where", "Held", HELD_WHERE)

    def work(self, question: ThingQuestion) -> WorkedThing:
        width, length = question.typed.get("width_m") or 0.6, question.typed.get("length_m") or USUAL_LENGTH_M
        boards, gap = question.typed.get("boards") or 5, question.typed.get("gap_m") or 0.0
        wood = width - gap * (boards + 1)
        if wood < width / 2:
            raise OutOfRange("gap_m", gap, 0.0, width / 2 / (boards + 1), " m")
        strips = question.strips(wood, boards)
        inside = chosen(question, "where", HELD_WHERE) == "inside"
        worked = self.swings(
            question,
            "all boards together",
            strips,
            None,
            Glued_to_its_sides=question.held(strips, length, FASTENINGS["glue"]) if inside else None,
        )
        between = framing.between_sides(worked.swing, boards, gap)
        pressed = None
        if inside and question.strength is not None and between.overfull_m > 0:
            pressed = restraint.push(question.strength, question.ring_angle_deg, wood, between.overfull_m, question.thickness_m)
        return WorkedThing(worked.named, worked.swing, worked.air, _Tray(between, boards, gap, width, length, pressed, inside), worked.held)

    def present(self, question: ThingQuestion, worked: WorkedThing) -> ThingPresentation:
        result, size, moved = worked.result, question.size, worked.swing
        between = result.between
        if not result.inside:
            return ThingPresentation(
                size(moved.range_m),
                f"± {size(moved.range_uncertainty_m)} to go over its sides",
                through(question, worked),
                [
                    f"Let it stand over the sides by {size(moved.shrink_at_most_m / 2 + STANDS_OVER_M)} or more on each, and screw each"
                    " board once, at its middle."
                ],
                None,
                [("Between boards at the driest, laid with this gap", size(result.gap_m + moved.shrink_m / result.boards))],
                [
                    "Outside its sides it may grow: nothing is pushed. Gaps between its boards still open, so give them a lap or a tongue"
                    " where things fall through."
                ],
            )
        if between.overfull_m > LEAST_TOLD_M:
            figure, small = size(between.overfull_m), "too wide for its sides at the dampest"
            reason = f"Laid with {_gap(size, result.gap_m)}, the boards fill their room and push. {through(question, worked)}"
        else:
            figure, small = "It fits", "at its dampest as well"
            reason = f"Laid with {_gap(size, result.gap_m)}, the boards have room. {through(question, worked)}"
        todo = [
            (
                f"Leave {size(between.gap_now_m)} at every joint and along both sides today: it closes at the dampest, and is"
                f" {size(between.gap_driest_m)} at the driest."
            ),
            (
                f"Where nothing may fall through, ship-lap them or give them a tongue, {size(between.lap_m)} long or more. Fix each board"
                " by one line only."
            ),
            "Or lay them outside, over the sides, where they may grow.",
        ]
        rows = []
        if result.pressed is not None:
            rows = [
                ("They push with about", _force(question, result.pressed.newtons_per_m)),
                (
                    "Which opens the joints of a frame",
                    "or crushes the boards, and leaves gaps when they dry" if result.pressed.crushed else "and bends its sides",
                ),
            ]
        return ThingPresentation(figure, small, reason, todo, None, rows, [fate_of(question, held, name) for name, held in worked.held])

    def scene(self, question: ThingQuestion, worked: WorkedThing, moisture: float) -> Scene:
        result, thick = worked.result, question.thickness_m
        inner = result.width_m
        wood = inner - result.gap_m * (result.boards + 1)
        each = float(question.strip(wood / result.boards).width_at(question.course.built, moisture))
        # What the boards want beyond their room, the sides give way by.
        room = max(inner, each * result.boards) if result.inside else inner
        gap = (room - each * result.boards) / (result.boards + 1) if result.inside else result.gap_m
        rim, tall, up = max(0.018, thick), 3.2 * thick, 0.0 if result.inside else 3.2 * thick
        shapes = [
            SceneShape("wood", rectangle(-room / 2 - rim, 0.0, -room / 2, tall)),
            SceneShape("wood", rectangle(room / 2, 0.0, room / 2 + rim, tall)),
        ]
        whole = each * result.boards + gap * (result.boards - 1)
        left = -whole / 2
        for _ in range(result.boards):
            shapes.append(SceneShape("settled", rectangle(left, up, left + each, up + thick), wet=True))
            left += each + gap
        level = up + thick
        return Scene(
            shapes,
            [
                Dimension((-whole / 2, 0.0), (whole / 2, 0.0), question.size(whole)),
                Dimension((-whole / 2 + each, level), (-whole / 2 + each + gap, level), question.size(gap), -14.0),
            ],
            [],
            most_drawn=5.0 if result.gap_m == 0 and worked.swing.shrink_m <= 0 else 2.0,
        )


def _gap(size: Any, gap_m: float) -> str:
    return f"gaps of {size(gap_m)}" if gap_m > LEAST_TOLD_M else "no gaps"


def _force(question: ThingQuestion, newtons_per_m: float) -> str:
    """A force along the boards, to two figures, and the weight that presses alike."""
    if question.system.is_inch:
        return f"{_two_figures(newtons_per_m / NEWTONS_PER_M_IN_POUND_FT):,} lb on each foot along them"
    return f"{_two_figures(newtons_per_m / 1000):g} kN on each metre along them, the weight of {_two_figures(newtons_per_m / 9.81):,} kg"


def _two_figures(value: float) -> int | float:
    rounded = float(f"{value:.2g}")
    return int(rounded) if rounded >= 10 else rounded


USUAL_LENGTH_M, STANDS_OVER_M, NEWTONS_PER_M_IN_POUND_FT = 0.8, 0.003, 14.594


@dataclass(frozen=True)
class _Tray:
    between: Between
    boards: int
    gap_m: float
    width_m: float
    length_m: float
    pressed: Push | None
    inside: bool


ICONS = {
    "panel": "M6 4H58V36H6ZM14 10H50V30H14ZM14 10L6 4M50 10L58 4M50 30L58 36M14 30L6 36",
    "drawer": "M4 6H60V34H4ZM8 11H56V31H8ZM28 20H36V23H28Z",
    "tray": "M6 10V30H58V10M6 30V22H58M19 22V30M32 22V30M45 22V30",
}
THINGS = (
    FrameAndPanel(
        40,
        "panel",
        "Frame and panel",
        "How wide should the panel be?",
        ICONS["panel"],
        {
            "species_key": ("black cherry",) * 2,
            "opening_m": ("14", "350"),
            "groove_m": ("3/8", "10"),
            "rail_m": ("2 1/4", "56"),
            "thickness_m": ("3/4", "19"),
        },
    ),
    Drawer(
        50,
        "drawer",
        "A drawer, a door, a lid",
        "What gap does it need?",
        ICONS["drawer"],
        {
            "species_key": ("sugar maple",) * 2,
            "opening_m": ("7", "180"),
            "gap_m": ("1/32", "1"),
            "depth_m": ("18", "450"),
            "inside_m": ("16", "400"),
            "thickness_m": ("1/2", "12"),
        },
    ),
    Tray(
        60,
        "tray",
        "A box, a lid or a bed",
        "Will it push its sides apart?",
        ICONS["tray"],
        {
            "species_key": ("white oak",) * 2,
            "width_m": ("24", "600"),
            "length_m": ("36", "900"),
            "boards": ("5",) * 2,
            "gap_m": ("0", "0"),
            "thickness_m": ("3/4", "19"),
        },
    ),
)
