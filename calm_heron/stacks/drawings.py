"""A stack drawn to scale: its end with the air through it, its side with stickers over bearers, and its plan."""

from dataclasses import dataclass
from typing import Any

from calm_heron.questions.tools import Put, Reader
from calm_heron.site.ramp import colour
from calm_heron.stacks.planning import StackPlan, StackToBuild
from wood.stacks.pile import BEARER_WIDTH_M, BOLSTER_M, EDGE_GAP_M, ROOF_FRONT_M, ROOF_REAR_M, ROOF_SIDE_M, Pile
from wood.units import System
from wood.written import handled_length

WIDE, NARROW, MOST_HEIGHT = 620, 380, 300
SIDE, ABOVE, BELOW = 74, 30, 44
# A big stack is drawn thinned: no more courses and boards than can be seen.
MOST_COURSES, MOST_ACROSS, STREAMS = 60, 40, 9
# A tarpaulin as it is drawn, so thick that it is seen.
TARP_M = 0.025


@dataclass(frozen=True)
class Box:
    """A rectangle in drawing units, with how it looks."""

    x: float
    y: float
    width: float
    height: float
    css: str
    fill: str = ""


@dataclass(frozen=True)
class Written:
    x: float
    y: float
    text: str
    anchor: str = "middle"


@dataclass(frozen=True)
class Stream:
    """A piece of air on its way: a line, as dark as it is moist."""

    d: str
    opacity: float


@dataclass(frozen=True)
class StackDrawing:
    """One view. ``thinned`` says that not every board is drawn."""

    name: str
    width: int
    height: int
    boxes: list[Box]
    lines: list[str]
    words: list[Written]
    streams: list[Stream]
    marks: list[tuple[float, float]]
    thinned: bool

    @property
    def paths(self) -> list[tuple[str, str, str]]:
        """Its boxes that look alike as one shape each (how it looks, its fill, its path): a stack has hundreds."""
        alike: dict[tuple[str, str], list[str]] = {}
        for box in self.boxes:
            alike.setdefault((box.css, box.fill), []).append(f"M{box.x:.1f} {box.y:.1f}h{box.width:.1f}v{box.height:.1f}h-{box.width:.1f}z")
        return [(css, fill, "".join(shapes)) for (css, fill), shapes in alike.items()]


class _View:
    """Metres to drawing units: x to the right, y up from the ground."""

    def __init__(self, across_m: float, high_m: float, width: int) -> None:
        self.width = width
        self.scale = min((width - 2 * SIDE) / across_m, (MOST_HEIGHT - ABOVE - BELOW) / high_m)
        self.height = round(ABOVE + high_m * self.scale + BELOW)
        self.left = (width - across_m * self.scale) / 2
        self.boxes: list[Box] = []

    def x(self, metres: float) -> float:
        return self.left + metres * self.scale

    def y(self, metres: float) -> float:
        return self.height - BELOW - metres * self.scale

    def box(self, left: float, bottom: float, wide: float, high: float, css: str, fill: str = "") -> None:
        self.boxes.append(Box(self.x(left), self.y(bottom + high), wide * self.scale, max(high * self.scale, 0.6), css, fill))


def stack(put: Put[StackToBuild], plan: StackPlan, reader: Reader, narrow: bool) -> list[StackDrawing]:
    """A planned stack from its end, from its side and from above."""
    return drawings(plan, reader.system, NARROW if narrow else WIDE)


def drawings(planned: StackPlan, system: System, width: int = WIDE) -> list[StackDrawing]:
    """Its end, its side and its plan."""
    return [_end(planned, system, width), _side(planned, system, width), _plan(planned, system, width)]


def _thinned(pile: Pile) -> list[Any]:
    step = max(1, -(-len(pile.courses) // MOST_COURSES))
    return list(pile.courses[::step])


def _covered(view: "_View", planned: StackPlan, begins: float, wide: float, roof: tuple[float, float]) -> None:
    """What covers it: a roof that reaches over, or a tarpaulin that lies on it and hangs down its sides."""
    top = planned.pile.clear_m + planned.pile.height_m
    if planned.question.cover in ("roof", "shade"):
        view.box(roof[0], top + 0.05, roof[1] - roof[0], 0.03, "roof")
    elif planned.question.cover == "tarp":
        view.box(begins - TARP_M, top, wide + 2 * TARP_M, TARP_M, "roof")
        for side in (begins - TARP_M, begins + wide):
            view.box(side, 0.0, TARP_M, top, "roof")


def _end(planned: StackPlan, system: System, width: int) -> StackDrawing:
    """Looking at the boards' ends, the wind from the left, darker as it takes up moisture."""
    pile = planned.pile
    total = pile.clear_m + pile.height_m + 0.12
    view = _View(pile.width_m + 2 * ROOF_SIDE_M, total, width)
    shown = _thinned(pile)
    edge = ROOF_SIDE_M
    view.box(edge, max(0.0, pile.clear_m - BEARER_WIDTH_M), pile.width_m, min(BEARER_WIDTH_M, max(pile.clear_m, 0.01)), "wood")
    for course in shown:
        bottom = pile.clear_m + course.bottom_m
        beside = min(MOST_ACROSS, max(1, int((pile.width_m + EDGE_GAP_M + 1e-9) / (course.load.width_m + EDGE_GAP_M))), course.boards)
        for place in range(beside):
            view.box(
                edge + place * (course.load.width_m + EDGE_GAP_M),
                bottom,
                course.load.width_m,
                course.thickness_m,
                "end",
                colour(course.load.moisture),
            )
    for course in shown[1:]:
        view.box(edge, pile.clear_m + course.bottom_m - pile.stickers.thickness_m, pile.width_m, pile.stickers.thickness_m, "sticker")
    _covered(view, planned, edge, pile.width_m, (0.0, pile.width_m + 2 * ROOF_SIDE_M))
    streams = []
    flow = planned.through
    if flow is not None:
        high = len(shown)
        low, most = float(flow.humidity[0]), max(float(flow.humidity[-1]), float(flow.humidity[0]) + 0.02)
        for stream in range(1, STREAMS + 1):
            course = shown[min(high - 1, int(stream * high / (STREAMS + 1)))]
            y = view.y(pile.clear_m + course.bottom_m - pile.stickers.thickness_m / 2)
            for step in range(len(flow.humidity) - 1):
                a, b = (edge + pile.width_m * k / (len(flow.humidity) - 1) for k in (step, step + 1))
                share = (float(flow.humidity[step]) - low) / (most - low)
                streams.append(Stream(f"M{view.x(a):.1f} {y:.1f}H{view.x(b):.1f}", round(0.3 + 0.7 * share, 2)))
    words = [
        Written(view.x(edge + pile.width_m / 2), view.height - 10, handled_length(pile.width_m, system)),
        Written(
            view.x(pile.width_m + 2 * ROOF_SIDE_M) + 8, view.y(total / 2), handled_length(pile.height_m + pile.clear_m, system), "start"
        ),
        Written(view.x(edge) - 8, view.y(pile.clear_m + pile.height_m / 2), "wind →", "end"),
    ]
    return StackDrawing(
        "The end, with the wind through it",
        width,
        view.height,
        view.boxes,
        _dimension(view, edge, edge + pile.width_m),
        words,
        streams,
        [],
        len(shown) < len(pile.courses),
    )


def _side(planned: StackPlan, system: System, width: int) -> StackDrawing:
    """Looking at the boards' edges: stickers in line, each over a bearer."""
    pile = planned.pile
    total = pile.clear_m + pile.height_m + 0.12
    view = _View(pile.length_m + ROOF_FRONT_M + ROOF_REAR_M, total, width)
    shown = _thinned(pile)
    start = ROOF_FRONT_M
    for bearer in planned.bearers_m:
        view.box(start + bearer - BEARER_WIDTH_M / 2, 0.0, BEARER_WIDTH_M, max(pile.clear_m, 0.02), "wood")
    pack = 0
    for course in shown:
        bottom = pile.clear_m + course.bottom_m
        view.box(start, bottom, pile.length_m, course.thickness_m, "end", colour(course.load.moisture))
        high = BOLSTER_M if course.pack != pack else pile.stickers.thickness_m
        pack = course.pack
        if course.bottom_m > 0:
            for line in pile.lines_m:
                view.box(start + line - pile.stickers.width_m / 2, bottom - high, pile.stickers.width_m, high, "sticker")
    _covered(view, planned, start, pile.length_m, (0.0, pile.length_m + ROOF_FRONT_M + ROOF_REAR_M))
    marks = [
        (view.x(start + place), view.y(pile.clear_m) + 12)
        for breach in planned.breaches
        if breach.breach == "not_over_a_bearer"
        for place in breach.places_m
    ]
    words = [
        Written(view.x(start + pile.length_m / 2), view.height - 10, handled_length(pile.length_m, system)),
        Written(
            view.x(start + pile.length_m) + 10,
            view.y(pile.clear_m / 2),
            f"{handled_length(pile.lines_m[1] - pile.lines_m[0], system)} apart",
            "start",
        ),
    ]
    return StackDrawing(
        "The side: stickers in line, over their bearers",
        width,
        view.height,
        view.boxes,
        _dimension(view, start, start + pile.length_m),
        words,
        [],
        marks,
        len(shown) < len(pile.courses),
    )


def _plan(planned: StackPlan, system: System, width: int) -> StackDrawing:
    """From above: one course, box-piled where its boards are shorter than the stack, and the stickers under it."""
    pile = planned.pile
    view = _View(pile.length_m, pile.width_m, width)
    course = max(pile.courses, key=lambda course: course.boards)
    load = course.load
    ends = max(1, int(pile.length_m / load.length_m + 1e-9))
    beside = min(MOST_ACROSS, -(-course.boards // ends))
    for row in range(beside):
        left = pile.length_m - load.length_m * ends if row % 2 and ends * load.length_m < pile.length_m - 1e-6 else 0.0
        for piece in range(ends):
            view.box(
                left + piece * load.length_m, row * (load.width_m + EDGE_GAP_M), load.length_m, load.width_m, "end", colour(load.moisture)
            )
    for line in pile.lines_m:
        view.box(line - pile.stickers.width_m / 2, 0.0, pile.stickers.width_m, pile.width_m, "sticker")
    words = [Written(view.x(pile.length_m / 2), view.height - 10, "one course and the stickers on it")]
    return StackDrawing("From above", width, view.height, view.boxes, [], words, [], [], beside * ends < course.boards)


def _dimension(view: _View, left: float, right: float) -> list[str]:
    y = view.height - 28
    return [f"M{view.x(left):.1f} {y - 5}v10m0 -5H{view.x(right):.1f}m0 -5v10"]
