"""A board that is fastened, a panel or table top, a top with breadboard ends."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from calm_heron.movement.things.scene import Dimension, Note, Scene, SceneShape, line, rectangle
from calm_heron.movement.things.thing import (
    Sizes,
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
from wood.movement import restraint, section, widths
from wood.movement.fastenings import DRAW_BORE_M, Edges, Fixed, Slot, edges, slots, spread_evenly
from wood.movement.restraint import FASTENINGS
from wood.movement.section import pith_for
from wood.movement.widths import Strip, length_at
from wood.units import INCH_M

PITH_M = 0.15
FIXED = ((Fixed.MIDDLE.value, "its middle"), (Fixed.NEAR.value, "its front edge"), (Fixed.FAR.value, "its back edge"))
HELD_BY = (("slots", "screws in slots"), ("buttons", "buttons"), ("figure_eights", "figure-of-eight plates"))
APRON_M, MARGIN_M, USUAL_LENGTH_M = 0.022, 2 * INCH_M, 1.0
# Across a panel people fasten at three lines, wider ones at more.
LINE_EVERY_M = 0.3


class BoardThing(Thing):
    """One board with its cup, and whether two fixed lines would split it."""

    def fields(self, form: CalmForm) -> None:
        length_field(form, "width_m", "Width", 0.005, 2.0)
        length_field(form, "length_m", "Length", 0.02, 15.0)

    def work(self, question: ThingQuestion) -> WorkedThing:
        width, length = question.typed.get("width_m") or 0.2, question.typed.get("length_m") or USUAL_LENGTH_M
        strips = question.strips(width)
        # Fasteners pull on the wood about them, no farther along the grain than they are apart.
        near = min(length, width)
        result = self.swings(
            question,
            "its width",
            strips,
            None,
            Two_screws_at_its_edges=question.held(strips, near, FASTENINGS["screws"]),
            Glued_across_at_both_ends=question.held(strips, near, FASTENINGS["glue"]),
        )
        widest = None
        if question.strength is not None:
            shrinks = result.swing.shrink_m / width
            widest = restraint.greatest_width(
                question.strength, question.ring_angle_deg, shrinks, near, question.thickness_m, FASTENINGS["screws"]
            )
        return WorkedThing(result.named, result.swing, result.air, _Single(width, length, widest), result.held)

    def present(self, question: ThingQuestion, worked: WorkedThing) -> ThingPresentation:
        first, moved = worked.result, worked.swing
        todo = []
        if first.widest_m is not None and moved.shrink_m > 0:
            if first.widest_m >= first.width_m:
                todo.append("Two screws, one near each edge, are safe here. One at its middle is safe anywhere.")
            else:
                todo.append(
                    "Fix it by its middle alone, or fix one edge and slot the other: two fixed screws hold up to"
                    f" {question.size(first.widest_m)} of it."
                )
        along = length_at(first.length_m, question.shrinkage, question.course.built, np.array([question.course.low, question.course.high]))
        longest = (
            first.length_m * widths.WORST_LONGITUDINAL / question.shrinkage.fibre_saturation * (question.course.high - question.course.low)
        )
        rows = [
            ("Its length, through the same year", question.size(float(along[1] - along[0]))),
            ("Its length, if it is juvenile or reaction wood at its worst", question.size(longest)),
            ("Its cup at the driest", _cup(question, self._settled(question, first.width_m, question.course.low).cup_m)),
            ("Its cup at the dampest", _cup(question, self._settled(question, first.width_m, question.course.high).cup_m)),
        ]
        return ThingPresentation(
            question.size(moved.range_m),
            f"± {question.size(moved.range_uncertainty_m)} in width",
            through(question, worked),
            todo,
            None,
            rows,
            [fate_of(question, held, name) for name, held in worked.held],
        )

    def _settled(self, question: ThingQuestion, width: float, moisture: float) -> section.Section:
        ratios = section.size_ratios(question.shrinkage, question.course.built, moisture)
        return section.settled_board(width, question.thickness_m, *pith_for(question.ring_angle_deg, PITH_M), *ratios)

    def scene(self, question: ThingQuestion, worked: WorkedThing, moisture: float) -> Scene:
        first = worked.result
        board = self._settled(question, first.width_m, moisture)
        left, right = float(board.after[:, 0].min()), float(board.after[:, 0].max())
        low, high = float(board.after[:, 1].min()), float(board.after[:, 1].max())
        return Scene(
            [
                SceneShape("green", board.green),
                SceneShape("settled", board.after, wet=True),
                *(SceneShape("ring", ring, closed=False) for ring in board.rings),
            ],
            [
                Dimension((left, low), (right, low), question.size(board.width_m)),
                Dimension((right, low), (right, high), question.size(board.thickness_m)),
            ],
        )


def _cup(question: ThingQuestion, cup_m: float) -> str:
    if abs(cup_m) < 5e-5:
        return "none that shows"
    return f"{question.size(abs(cup_m))}, hollow on the {'bark' if cup_m > 0 else 'pith'} side"


@dataclass(frozen=True)
class _Single:
    width_m: float
    length_m: float
    widest_m: float | None


@dataclass(frozen=True)
class _Top:
    strips: Sequence[Strip]
    length_m: float
    fixed: Fixed
    slots: list[Slot]
    edges: Edges
    other: Edges
    other_fixed: Fixed


class Top(Thing):
    """A panel of one or several boards on aprons or battens: slots, buttons, plates, and what gluing it down would do."""

    def fields(self, form: CalmForm) -> None:
        length_field(form, "width_m", "Width across the grain", 0.05, 6.0)
        length_field(form, "length_m", "Length", 0.05, 15.0)
        count_field(form, "boards", "Boards in it", 1, 60)
        choice_field(form, "fixed", "Fixed at", FIXED)
        choice_field(form, "held_by", "Otherwise held by", HELD_BY)

    def work(self, question: ThingQuestion) -> WorkedThing:
        width, length = question.typed.get("width_m") or 0.9, question.typed.get("length_m") or USUAL_LENGTH_M
        strips = question.typed.get("each") or question.strips(width, question.typed.get("boards") or 6)
        width = sum(strip.width_m for strip in strips)
        fixed = Fixed(chosen(question, "fixed", FIXED))
        worked = self.swings(
            question,
            "its width",
            strips,
            None,
            Glued_and_screwed_down_all_round=question.held(strips, length, FASTENINGS["glue_and_screws"]),
            Screwed_down_in_plain_holes=question.held(strips, min(length, width), FASTENINGS["screws"]),
        )
        lines = max(3, int(width / LINE_EVERY_M) + 1)
        places = spread_evenly(width, lines + 1 - lines % 2, min(MARGIN_M, width / 6))
        if fixed is not Fixed.MIDDLE:
            places[0 if fixed is Fixed.NEAR else -1] = fixed.place(width)
        other = Fixed.MIDDLE if fixed is not Fixed.MIDDLE else Fixed.NEAR
        top = _Top(strips, length, fixed, slots(worked.swing, places, fixed), edges(worked.swing, fixed), edges(worked.swing, other), other)
        return WorkedThing(worked.named, worked.swing, worked.air, top, worked.held)

    def present(self, question: ThingQuestion, worked: WorkedThing) -> ThingPresentation:
        moved, result = worked.swing, worked.result
        by = chosen(question, "held_by", HELD_BY)
        todo = [f"Hold it fast at {dict(FIXED)[result.fixed.value]} only, and let the rest move."]
        if by == "figure_eights" and not all(slot.figure_eight_is_enough for slot in result.slots):
            todo.append("Figure-of-eight plates do not swing far enough here: use slots or buttons.")
        return ThingPresentation(
            question.size(moved.range_m),
            f"± {question.size(moved.range_uncertainty_m)} in width",
            through(question, worked),
            todo,
            self._table(question, result, by),
            [
                (f"Fixed at {dict(FIXED)[result.fixed.value]}: front edge, back edge", _edges(question, result.edges)),
                (f"Fixed at {dict(FIXED)[result.other_fixed.value]} instead", _edges(question, result.other)),
            ],
            [
                *(fate_of(question, held, name) for name, held in worked.held),
                (
                    "Makers differ: a fixed middle halves what each edge does, and keeps an overhang even; a fixed front edge keeps a face"
                    " flush (a desk, a case) and lets everything go to the back."
                ),
                (
                    "Aprons across its width lie against the grain of the top and need the play; those along it move with their own length,"
                    " hardly at all."
                ),
            ],
        )

    def _table(self, question: ThingQuestion, top: _Top, by: str) -> Sizes:
        size = question.size
        if by == "slots":
            heads = ("From the front edge", "Slot, with the screw in it", "Screw from its inner end")
            rows = [
                (size(slot.place_m), "round hole" if slot.fixed else size(slot.length_m), "–" if slot.fixed else size(slot.from_inner_m))
                for slot in top.slots
            ]
            return Sizes("Screw slots, along the width", heads, rows)
        if by == "buttons":
            heads = ("From the front edge", "Shoulder off the apron", "Tongue at least")
            rows = [
                (
                    size(slot.place_m),
                    "screwed fast" if slot.fixed else size(slot.button_gap_m),
                    "–" if slot.fixed else size(slot.button_tongue_m),
                )
                for slot in top.slots
            ]
            return Sizes("Buttons against aprons that lie along the grain", heads, rows)
        heads = ("From the front edge", "Must swing out", "and in")
        rows = [(size(slot.place_m), size(slot.outward_m), size(slot.inward_m)) for slot in top.slots]
        return Sizes("Figure-of-eight plates", heads, rows)

    def scene(self, question: ThingQuestion, worked: WorkedThing, moisture: float) -> Scene:
        result, built = worked.result, question.course.built
        thick, line_m = question.thickness_m, result.fixed.place(worked.swing.built_m)
        share = line_m / worked.swing.built_m
        each = [float(strip.width_at(built, moisture)) for strip in result.strips]
        left = line_m - share * sum(each)
        shapes: list[SceneShape] = []
        for width in each:
            shapes.append(SceneShape("settled", rectangle(left, 0.0, left + width, thick), wet=True))
            left += width
        right, first = left, left - sum(each)
        low = -3.5 * thick
        wide = worked.swing.built_m
        for apron in (MARGIN_M, wide - MARGIN_M - APRON_M):
            shapes.append(SceneShape("wood", rectangle(apron, low, apron + APRON_M, 0.0)))
        for slot in result.slots:
            at = line_m + (slot.place_m - line_m) * sum(each) / wide
            # The slot lies in the batten and stays; the screw goes with the top.
            half = 0.5 * slot.length_m
            shapes.append(SceneShape("open", rectangle(slot.place_m - half, -1.2 * thick, slot.place_m + half, -0.4 * thick)))
            shapes.append(SceneShape("mark", line((at, -1.6 * thick), (at, 0.7 * thick)), closed=False))
        pinned = Note((line_m, -1.6 * thick), "▲ fixed", "middle")
        return Scene(shapes, [Dimension((first, low), (right, low), question.size(sum(each)))], [pinned])


def _edges(question: ThingQuestion, moved: Edges) -> str:
    near, far = (moved.near_out_m, moved.near_in_m), (moved.far_out_m, moved.far_in_m)
    return f"{question.both_ways(*near)}, {question.both_ways(*far)}"


class Breadboard(Thing):
    """A top with a board across each end: tenons pinned in slots, the middle one draw-bored."""

    def fields(self, form: CalmForm) -> None:
        length_field(form, "width_m", "Width across the grain", 0.1, 3.0)
        length_field(form, "end_m", "Width of the end board", 0.02, 0.3)
        count_field(form, "tenons", "Tenons", 1, 15)

    def work(self, question: ThingQuestion) -> WorkedThing:
        width, end = question.typed.get("width_m") or 0.75, question.typed.get("end_m") or 0.08
        strips = question.strips(width, max(1, round(width / 0.15)))
        worked = self.swings(
            question, "the top’s width", strips, None, Glued_all_along=question.held(strips, end + width / 4, FASTENINGS["glue"])
        )
        count = question.typed.get("tenons") or 3
        pins = slots(worked.swing, spread_evenly(width, count + 1 - count % 2, width / 8), Fixed.MIDDLE)
        return WorkedThing(worked.named, worked.swing, worked.air, (pins, end), worked.held)

    def present(self, question: ThingQuestion, worked: WorkedThing) -> ThingPresentation:
        moved, (pins, _) = worked.swing, worked.result
        outer = pins[0]
        rows = [(question.size(pin.place_m), "round, draw-bored" if pin.fixed else question.size(pin.travel_m + PEG_M)) for pin in pins]
        todo = [
            "Glue the middle tenon alone, and pin it through round holes; pin the others through slots in the tenons, without glue.",
            f"Draw-bore the middle: its hole in the tenon lies {question.size(DRAW_BORE_M)} nearer the shoulder.",
        ]
        return ThingPresentation(
            question.size(outer.travel_m),
            "of travel at the outer pins",
            through(question, worked),
            todo,
            Sizes("Slots in the tenons, peg of " + question.size(PEG_M), ("From the edge", "Slot"), rows),
            [
                ("Each end of the end board stands proud, at the driest", question.size(moved.shrink_m / 2)),
                ("The top stands over it on each side, at the dampest", question.size(moved.growth_m / 2)),
            ],
            [
                *(fate_of(question, held, name) for name, held in worked.held),
                "The end board keeps its length: it lies along its own grain.",
            ],
        )

    def scene(self, question: ThingQuestion, worked: WorkedThing, moisture: float) -> Scene:
        pins, end = worked.result
        built, wide = question.course.built, worked.swing.built_m
        strip = question.strip(wide)
        now = float(strip.width_at(built, moisture))
        tall = 0.28 * wide
        half, tenon = now / 2, end * 0.55
        shapes = [
            SceneShape("settled", rectangle(-half, 0.0, half, tall), wet=True),
            SceneShape("wood", rectangle(-wide / 2, -end, wide / 2, 0.0)),
        ]
        for pin in pins:
            at = (pin.place_m - wide / 2) * now / wide
            shapes.append(SceneShape("open", rectangle(at - wide / 18, -tenon, at + wide / 18, 0.0)))
            slot = (PEG_M if pin.fixed else PEG_M + pin.travel_m) / 2
            shapes.append(SceneShape("wood", rectangle(at - slot, -tenon * 0.6 - PEG_M / 2, at + slot, -tenon * 0.6 + PEG_M / 2)))
            fixed = pin.place_m - wide / 2
            shapes.append(SceneShape("mark", line((fixed, -tenon * 0.6 - PEG_M), (fixed, -tenon * 0.6 + PEG_M)), closed=False))
        return Scene(
            shapes,
            [
                Dimension((-half, tall), (half, tall), question.size(now), -14.0),
                Dimension((-wide / 2, -end), (wide / 2, -end), question.size(wide)),
            ],
        )


PEG_M = 0.008


ICONS = {
    "board": "M6 24Q32 16 58 24V30Q32 22 6 30ZM12 26Q32 19 52 26",
    "top": "M4 12H60V18H4ZM12 18V36M52 18V36M16 18V24H48V18M22 12V18M42 12V18",
    "breadboard": "M12 8H52V32H12ZM4 8H12V32H4ZM52 8H60V32H52ZM12 16H52M12 24H52",
}
THINGS = (
    BoardThing(
        10,
        "board",
        "A board",
        "What will this board do?",
        ICONS["board"],
        {"species_key": ("white oak",) * 2, "width_m": ("8", "200"), "length_m": ("36", "900"), "thickness_m": ("7/8", "22")},
    ),
    Top(
        20,
        "top",
        "A table top",
        "What will this top do?",
        ICONS["top"],
        {
            "species_key": ("white oak",) * 2,
            "width_m": ("36", "900"),
            "length_m": ("60", "1500"),
            "boards": ("6",) * 2,
            "thickness_m": ("7/8", "22"),
        },
    ),
    Breadboard(
        30,
        "breadboard",
        "A breadboard end",
        "How much must the end joints give?",
        ICONS["breadboard"],
        {
            "species_key": ("black walnut",) * 2,
            "width_m": ("30", "750"),
            "end_m": ("3", "75"),
            "tenons": ("3",) * 2,
            "thickness_m": ("7/8", "22"),
        },
    ),
)
