"""What is walked on: a floor, a deck."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from calm_heron.movement.things.homes import Home
from calm_heron.movement.things.scene import Dimension, Note, Scene, SceneShape, rectangle
from calm_heron.movement.things.thing import (
    LEAST_TOLD_M,
    Thing,
    ThingPresentation,
    ThingQuestion,
    WorkedThing,
    choice_field,
    chosen,
    fate_of,
    length_field,
    percent_field,
    through,
)
from calm_heron.site.numbers import figure, percent
from calm_heron.workshops.fields import CalmForm
from wood.movement import decks, floors, section
from wood.movement.course import Course, between, rained_on
from wood.movement.decks import Face, Laid, Up
from wood.movement.floors import STUCK_TOGETHER, Floor
from wood.movement.restraint import FASTENINGS
from wood.movement.section import pith_for
from wood.movement.widths import swing
from wood.units import in_system

# Decking comes from small logs: its rings are drawn about a pith this far below (our judgement).
PITH_M = 0.07
# What sun takes out of the top of a wet board before its underside follows.
SUN_DRIES = 0.04
# How much wetter its underside may be over a cellar, a slab or a damp subfloor, where nobody says.
USUAL_WETTER = 0.02
SUBFLOORS = (
    ("boards", "boards"),
    ("sheets", "sheets of plywood or composition"),
    ("concrete", "concrete"),
    ("joists", "joists over a crawl space"),
    ("heated", "underfloor heating"),
)
NAILED = "nailed"
FASTENED = ((NAILED, "each nailed down"), ("free", "floating, or glued to one another"))
# Boards nearest the wall that are drawn.
DRAWN_BOARDS = 6
USES = (("screws", "two screws"), ("nails", "two nails"))


class FloorThing(Thing):
    """A floor over a room: the gap at its walls, the gaps between its boards, the hollow of a damp side."""

    def fields(self, form: CalmForm) -> None:
        length_field(form, "room_m", "Room, across the boards", 0.5, 40.0)
        length_field(form, "board_m", "One board, wide", 0.02, 0.5)
        choice_field(form, "subfloor", "It lies on", SUBFLOORS)
        choice_field(form, "fastened", "Its boards are", FASTENED)
        percent_field(form, "wetter", "Its underside wetter by", 0.0, 0.15, "2")

    def work(self, question: ThingQuestion) -> WorkedThing:
        room, board = question.typed.get("room_m") or 4.0, question.typed.get("board_m") or 0.08
        count = max(1, round(room / board))
        thick = min(max(question.thickness_m, 0.003), 0.06)
        worked = self.swings(question, "the whole floor’s width", question.strips(room, count))
        wetter = question.typed.get("wetter")
        wetter = USUAL_WETTER if wetter is None else wetter
        cup = floors.cup_from_one_side(question.shrinkage, question.ring_angle_deg, min(board, 2.0), question.thickness_m, wetter)
        course = question.course
        dry, damp = course.second_year
        usual = between(
            min(max(float(course.level.mean()), dry), damp),
            dry,
            damp,
            built_uncertainty=course.built_uncertainty,
            uncertainty=course.climate_uncertainty,
        )
        at_the_middle = floors.floor(swing(question.strips(room, count), usual), board, thick)
        return WorkedThing(
            worked.named, worked.swing, worked.air, _Laid(floors.floor(worked.swing, board, thick), at_the_middle, room, board, wetter, cup)
        )

    def present(self, question: ThingQuestion, worked: WorkedThing) -> ThingPresentation:
        result, size = worked.result, question.size
        laid: Floor = result.floor
        mean = float(question.course.level.mean())
        acclimate = f"Let it come to {percent(mean, 1)}, the middle of its year, before it is laid"
        todo = [
            (
                f"{acclimate}: it then opens and closes by half each."
                f" {in_system(ON_SUBFLOOR[chosen(question, 'subfloor', SUBFLOORS)], question.system)}"
            ),
            f"Against a wooden subfloor its moisture may differ by {figure(laid.subfloor_may_differ)} points at most, at this width.",
        ]
        nailed = chosen(question, "fastened", FASTENED) == NAILED
        return ThingPresentation(
            size(_wall_gap(question, laid)),
            "to leave along each wall",
            through(question, worked),
            todo,
            None,
            [
                (
                    f"Whole floor of {laid.boards} boards, growth and shrinkage",
                    question.both_ways(worked.swing.growth_m, worked.swing.shrink_m),
                ),
                *([("To leave along each wall, if its boards were free", size(laid.wall_gap_m))] if nailed else []),
                (
                    f"To leave along each wall, were it laid at {percent(mean, 1)}",
                    size(_wall_gap(question, result.at_the_middle)),
                ),
                ("Gap at each joint at the driest, if all share it", size(laid.per_board_m)),
                (f"One gap, where {STUCK_TOGETHER} boards hold together", size(laid.stuck_gap_m)),
                (
                    f"Hollow of a board whose underside is {figure(result.wetter)} points wetter, if nothing holds it down",
                    size(result.cup_m),
                ),
            ],
            [
                (
                    "A floor that cups is damp from below: find the water first. Sanded flat while it is cupped, it crowns by the same"
                    " hollow when it dries."
                ),
                (
                    "Fastened from the middle of the room, or floating, it shares this between both walls. A floor that is begun at one"
                    " wall does all of it at the other: leave twice as much there."
                ),
                in_system(
                    "Boards that are each nailed down hold each other back: only those near a wall slide, and the others are pressed. At"
                    " least {19 mm|3/4 in} is left all the same, unless free boards would need less."
                    if nailed
                    else "Boards that float or are glued to one another move as one: all of the floor’s growth comes to its walls.",
                    question.system,
                ),
                "The flooring maker’s instructions and the local code go before these figures.",
            ],
        )

    def scene(self, question: ThingQuestion, worked: WorkedThing, moisture: float) -> Scene:
        result, thick = worked.result, question.thickness_m
        board = result.room_m / result.floor.boards
        now = float(question.strip(board).width_at(question.course.built, moisture))
        # The middle of the room stays; what the half floor does shows at the wall, as far as it slides. It shrinks at its joints.
        wall = _wall_gap(question, result.floor)
        half = result.floor.boards / 2 * min(1.0, wall / result.floor.wall_gap_m)
        grown = max(0.0, now - board) * half
        gap = max(0.0, board - now)
        edge = wall - grown
        shapes = [
            SceneShape("wood", rectangle(-0.03, -0.012, 0.0, 4 * thick)),
            SceneShape("wood", rectangle(0.0, -0.02, DRAWN_BOARDS * board + wall, 0.0)),
        ]
        left = edge
        for _ in range(min(DRAWN_BOARDS, result.floor.boards)):
            shapes.append(SceneShape("settled", rectangle(left, 0.0, left + min(now, board) + max(0.0, now - board), thick), wet=True))
            left += now + gap
        return Scene(
            shapes,
            [Dimension((0.0, -0.02), (edge, -0.02), question.size(edge))],
            [Note((left, thick * 1.6), "to the middle of the room →", "end")],
            most_drawn=1.0,
        )


def _wall_gap(question: ThingQuestion, laid: Floor) -> float:
    """What is to be left along each wall, by how the boards are fastened."""
    return laid.nailed_gap_m if chosen(question, "fastened", FASTENED) == NAILED else laid.wall_gap_m


ON_SUBFLOOR = {
    "boards": "Read the boards below at twenty places on {a hundred square metres|a thousand square feet}, and keep the numbers.",
    "sheets": "Read plywood through its face, with pins set for it or by comparison; a wood meter does not know it.",
    "concrete": (
        "A wood meter says nothing of concrete: it has tests of its own, each with its limit and its date. Keep them with the slab; "
        "the site record of its place prints them."
    ),
    "joists": "Cover the ground of a crawl space, air it, and read the joists and the underside: the floor drinks from there.",
    "heated": (
        "Run the heating in before the floor is laid, cool it to lay, and keep its face below the maker’s limit; choose narrow,"
        " quarter-sawn boards."
    ),
}


@dataclass(frozen=True)
class _Laid:
    floor: Floor
    at_the_middle: Floor
    room_m: float
    board_m: float
    wetter: float
    cup_m: float


class Deck(Thing):
    """Boards that lie in the weather: the gap to lay them with, and which face goes up."""

    def fields(self, form: CalmForm) -> None:
        length_field(form, "width_m", "One board, wide", 0.04, 0.4)
        length_field(form, "gap_m", "Gap to be left in the wet season", 0.0, 0.03)
        length_field(form, "apart_m", "Two fasteners, apart", 0.02, 0.3)
        choice_field(form, "by", "Fastened with", USES)
        percent_field(form, "wet", "In the wet season it comes to", 0.08, 0.35, "20")

    def weathered(self, course: Course, typed: Mapping[str, Any], home: Home) -> Course:
        if typed.get("wet") is not None:
            return rained_on(course, typed["wet"])
        return rained_on(course, decks.RAINED_ON) if home.outdoors else course

    def work(self, question: ThingQuestion) -> WorkedThing:
        width = question.typed.get("width_m") or 0.14
        wish = question.typed.get("gap_m")
        wish = decks.DRAINS_M if wish is None else wish
        by = chosen(question, "by", USES)
        apart = min(question.typed.get("apart_m") or width * 0.7, width)
        strips = question.strips(apart)
        worked = self.swings(question, "one board’s width", question.strips(width), None)
        held = question.held(strips, apart, FASTENINGS[by])
        course = question.course
        driest, dampest = (_settled(question, width, moisture) for moisture in (course.low, course.high))
        face = decks.face_up(driest, dampest, max(0.0, course.built - course.low), max(0.0, course.high - course.built))
        named = ((f"{dict(USES)[by].capitalize()} {question.size(apart)} apart", held),) if held else ()
        dry, wet = (float(question.strip(width).width_at(course.built, moisture)) for moisture in course.second_year)
        return WorkedThing(worked.named, worked.swing, worked.air, _Deck(decks.lay(width, wet, dry, wish), face, width, wish), named)

    def present(self, question: ThingQuestion, worked: WorkedThing) -> ThingPresentation:
        result, size = worked.result, question.size
        laid, face = result.laid, result.face
        gap = "tight" if laid.gap_now_m <= LEAST_TOLD_M else "so"
        reason = (
            f"Laid {gap} at {percent(question.course.built)}, {size(laid.gap_wet_m)} is left in the wet seasons to come and"
            f" {size(laid.gap_dry_m)} in the dry ones."
        )
        todo = [_face_words(question, face)]
        if laid.gap_dry_m > decks.CATCHES_M:
            todo.append(f"A dry gap of {size(laid.gap_dry_m)} catches heels: take narrower or quarter-sawn boards, or lay them drier.")
        if laid.gap_now_m <= LEAST_TOLD_M:
            todo.append("Wet as they are, they part as they dry.")
        return ThingPresentation(
            *(
                ("No gap", "today: lay them tight")
                if laid.gap_now_m <= LEAST_TOLD_M
                else (size(laid.gap_now_m), "is the gap to lay them with today")
            ),
            reason,
            todo,
            None,
            [
                ("Hollow on top with the bark side up", _hollow(size, face.hollow_bark_up_m)),
                ("Hollow on top with the pith side up", _hollow(size, face.hollow_pith_up_m)),
                (
                    f"Hollow while sun has dried its top by {figure(SUN_DRIES)} points more than its underside, whichever is up",
                    size(
                        floors.cup_from_one_side(
                            question.shrinkage, question.ring_angle_deg, result.width_m, question.thickness_m, SUN_DRIES
                        )
                    ),
                ),
                ("Water that stands in the worse one", size(face.water_m) + " deep" if face.water_m > LEAST_TOLD_M else "none"),
            ],
            [
                (
                    "Makers differ. Bark side up: the pith side can lift in shells, and boards that are laid dry crown as they swell. Bark"
                    " side down: boards that are laid wet hollow on the bark side as they dry, and then shed water. What decides here is"
                    " the cup it will mostly have."
                ),
                *(fate_of(question, held, name) for name, held in worked.held),
                through(question, worked),
                (
                    f"Rain keeps open boards wetter than air under a roof would: outdoors {percent(decks.RAINED_ON)} is taken for the wet"
                    " season where nobody says better."
                ),
            ],
        )

    def scene(self, question: ThingQuestion, worked: WorkedThing, moisture: float) -> Scene:
        result = worked.result
        board = _settled(question, result.width_m, moisture)
        # The bark side lies away from the pith, which is drawn below: turned over where the pith side goes up.
        turn = -1.0 if result.face.up is Up.PITH else 1.0
        step = result.width_m + result.laid.gap_now_m
        low = float((board.after[:, 1] * turn).min())
        bearer = -question.thickness_m / 2
        shapes = [SceneShape("wood", rectangle(-1.6 * step, bearer - 0.04, 1.6 * step, bearer))]
        for place in (-step, 0.0, step):
            moved = board.after * (1.0, turn) + (place, bearer - low)
            shapes.append(SceneShape("settled", moved, wet=True))
            shapes.extend(SceneShape("ring", ring * (1.0, turn) + (place, bearer - low), closed=False) for ring in board.rings)
        half = (float(board.after[:, 0].max()) - float(board.after[:, 0].min())) / 2
        return Scene(
            shapes,
            [
                Dimension((half, question.thickness_m / 2), (step - half, question.thickness_m / 2), question.size(step - 2 * half), -14.0),
                Dimension((-half, bearer - 0.04), (half, bearer - 0.04), question.size(2 * half)),
            ],
            [
                Note(
                    (-1.6 * step, bearer + question.thickness_m * 1.5),
                    f"{result.face.up.value} side up" if result.face.up is not Up.EITHER else "bark side up, or down",
                    "start",
                )
            ],
            most_drawn=2.0,
        )

    def approaches(self, question: ThingQuestion, worked: WorkedThing) -> list[tuple[str, Scene, Scene, float]]:
        """A board of each, in the season that is farthest from the day it is laid."""
        course, width = question.course, worked.result.width_m
        dry, wet = course.second_year
        moisture = dry if course.built - dry >= wet - course.built else wet
        season = "dry" if moisture == dry else "wet"
        return [
            (
                f"{words}, in the {season} season",
                _lying(question, width, moisture, turn),
                _lying(question, width, course.built, turn),
                moisture,
            )
            for words, turn in (("Bark side up", 1.0), ("Bark side down", -1.0))
        ]


def _lying(question: ThingQuestion, width: float, moisture: float, turn: float) -> Scene:
    """One board on its bearer, the pith below or above it."""
    board = _settled(question, width, moisture)
    low = float((board.after[:, 1] * turn).min())
    return Scene(
        [
            SceneShape("wood", rectangle(-0.6 * width, -0.02, 0.6 * width, 0.0)),
            SceneShape("settled", board.after * (1.0, turn) + (0.0, -low), wet=True),
            *(SceneShape("ring", ring * (1.0, turn) + (0.0, -low), closed=False) for ring in board.rings),
        ],
        most_drawn=10.0,
    )


def _settled(question: ThingQuestion, width: float, moisture: float) -> section.Section:
    ratios = section.size_ratios(question.shrinkage, question.course.built, moisture)
    return section.settled_board(width, question.thickness_m, *pith_for(question.ring_angle_deg, PITH_M), *ratios, rings=10)


def _hollow(size: Any, hollow_m: float) -> str:
    if abs(hollow_m) < LEAST_TOLD_M:
        return "flat"
    return f"{size(abs(hollow_m))} {'hollow' if hollow_m > 0 else 'crowned'}"


def _face_words(question: ThingQuestion, face: Face) -> str:
    if face.up is Up.EITHER:
        return "Either face may go up: its rings hardly cup it. Choose the better looking one."
    dries = question.course.built - question.course.low > question.course.high - question.course.built
    why = (
        "it will mostly dry from where it is, and hollows on its bark side"
        if dries
        else "it will mostly swell from where it is, and crowns on its bark side"
    )
    return f"Lay the {face.up.value} side up: {why}, so water runs off."


@dataclass(frozen=True)
class _Deck:
    laid: Laid
    face: Face
    width_m: float
    wish_m: float


ICONS = {
    "floor": "M4 6V32H60M4 26H20V32M20 26H36V32M36 26H52V32M52 26H60",
    "deck": "M4 14H20V20H4ZM23 14H40V20H23ZM43 14H60V20H43ZM8 20V34M32 20V34M56 20V34M4 34H60",
}
THINGS = (
    FloorThing(
        70,
        "floor",
        "A floor",
        "What will this floor do?",
        ICONS["floor"],
        {"species_key": ("white oak",) * 2, "room_m": ("14 ft", "4200"), "board_m": ("3 1/4", "83"), "thickness_m": ("3/4", "19")},
    ),
    Deck(
        80,
        "deck",
        "A deck, boards outdoors",
        "What gap, and which face up?",
        ICONS["deck"],
        {
            "species_key": ("western larch",) * 2,
            "width_m": ("5 1/2", "140"),
            "gap_m": ("1/8", "3"),
            "thickness_m": ("1 1/8", "28"),
            "built": ("19", "19"),
        },
        usual_home="outdoors",
        # Fresh from the pressure treatment.
        wettest=0.80,
    ),
)
