"""A log's end drawn as it lies, with the lines that it is cut along and what comes of it."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from calm_heron.site.drawing import Shape, Text, path
from calm_heron.turning.drawings import NARROW, WIDE
from calm_heron.turning.logs.cut_words import half_name
from calm_heron.turning.logs.cutting import LogCut
from wood.turning.blanks import Plan, Square
from wood.turning.logs import Flaw, Trunk
from wood.units import System
from wood.written import handled_length

RINGS = 9
EDGE = 40.0


@dataclass(frozen=True)
class Handle:
    """Where a line is held, and which."""

    x: float
    y: float
    moves: str
    label: str
    value: float


@dataclass(frozen=True)
class LogDrawing:
    """A log's end.

    ``scale`` is drawing units for a metre, (``cx``, ``cy``) the log's middle: with them a script tells where a finger lies.
    """

    width: int
    height: int
    scale: float
    cx: float
    cy: float
    shapes: list[Shape]
    texts: list[Text]
    handles: list[Handle]
    pith: tuple[float, float]
    angle: float
    upper: float
    lower: float
    off: float
    wide: float
    summary: str


def log_end(cut_log: LogCut, system: System, width: int = WIDE) -> LogDrawing:
    """The end with its rings, checks, cuts and blanks."""
    log, plan = cut_log.question.log, cut_log.chosen
    room = width - 2 * EDGE - (150 if width == WIDE else 0)
    scale = min(room / log.width_m, 460 / log.height_m)
    cx, cy = width / 2, log.height_m / 2 * scale + EDGE

    def at(points: Any) -> list[tuple[float, float]]:
        return [(cx + x * scale, cy - y * scale) for x, y in points]

    outline = log.outline()
    shapes = [Shape(path(at(outline), closed=True), "bark")]
    pith = np.array([log.pith_x_m, log.pith_y_m])
    for k in range(1, RINGS) if log.trunk is not Trunk.BURL else ():
        share = k / RINGS
        shapes.append(Shape(path(at(outline * share + pith * (1 - share)), closed=True), "ring"))
    if log.soft_m:
        x, y = at([pith])[0]
        r = log.soft_m * scale
        shapes.append(Shape(f"M{x - r:.1f} {y:.1f}a{r:.1f} {r:.1f} 0 1 0 {2 * r:.1f} 0a{r:.1f} {r:.1f} 0 1 0 {-2 * r:.1f} 0Z", "zone"))
    texts: list[Text] = []
    handles: list[Handle] = []
    if plan is not None:
        more, words, handles = _cut(cut_log, at, scale, system, width)
        shapes += more
        texts += words
    if cut_log.squares and (plan is None or not plan.blanks):
        shapes += _squares(cut_log, at)
    removed = set(plan.cut_off) if plan is not None else set()
    for number, stroke in enumerate(log.strokes):
        css = "green" if number in removed else "thread main" if stroke.flaw is Flaw.BARK else "broken"
        shapes.append(Shape(path(at(stroke.points)), css))
    for knot in log.knots:
        x, y = at([(knot.x_m, knot.y_m)])[0]
        r = knot.radius_m * scale
        shapes.append(Shape(f"M{x - r:.1f} {y:.1f}a{r:.1f} {r:.1f} 0 1 0 {2 * r:.1f} 0a{r:.1f} {r:.1f} 0 1 0 {-2 * r:.1f} 0Z", "broken"))
    if log.trunk is Trunk.BURL:
        # Below its flat there is nothing.
        low, high = at([(-log.width_m / 2, 0.0), (log.width_m / 2, -log.height_m / 2)])
        shapes.append(Shape(f"M{low[0] - 2:.1f} {low[1]:.1f}H{high[0] + 2:.1f}V{high[1] + 2:.1f}H{low[0] - 2:.1f}Z", "nothing"))
        shapes.append(Shape(f"M{low[0]:.1f} {low[1]:.1f}H{high[0]:.1f}", "bark"))
    px, py = at([pith])[0]
    for x, y in at(log.piths):
        shapes.append(Shape(f"M{x - 6:.1f} {y:.1f}h12M{x:.1f} {y - 6:.1f}v12", "dimension"))
    if plan is not None:
        shapes += _rest(plan, at)
    made = plan.cuts if plan is not None else None
    return LogDrawing(
        width,
        round(log.height_m * scale * (0.5 if log.trunk is Trunk.BURL else 1.0) + 2 * EDGE),
        scale,
        cx,
        cy,
        shapes,
        texts,
        handles,
        (px, py),
        made.angle_deg if made else 0.0,
        made.upper_m if made else 0.02,
        made.lower_m if made else 0.02,
        plan.cut_off_m if plan else 0.0,
        log.width_m * scale,
        f"The end of a log of {handled_length(log.width_m, system)} with {len(log.strokes)} checks and {plan.bowls if plan else 0} blanks"
        " in it.",
    )


def _cut(cut_log: LogCut, at: Any, scale: float, system: System, width: int) -> tuple[list[Shape], list[Text], list[Handle]]:
    log, plan = cut_log.question.log, cut_log.chosen
    assert plan is not None
    turn = math.radians(plan.cuts.angle_deg)
    along, normal = np.array([math.cos(turn), math.sin(turn)]), np.array([-math.sin(turn), math.cos(turn)])
    pith = np.array([log.pith_x_m, log.pith_y_m])
    reach = 0.56 * max(log.width_m, log.height_m)
    shapes: list[Shape] = []
    texts: list[Text] = []
    for plank in plan.planks:
        corners = [
            pith + along * item + normal * other
            for item, other in (
                (plank.from_m, plan.cuts.upper_m),
                (plank.to_m, plan.cuts.upper_m),
                (plank.to_m, -plan.cuts.lower_m),
                (plank.from_m, -plan.cuts.lower_m),
            )
        ]
        shapes.append(Shape(path(at(corners), closed=True), "zone"))
    for blank in plan.blanks:
        shapes.append(Shape(path(at(blank.outline), closed=True), "broken" if blank.is_dangerous else "blank"))
        x, y = at([blank.outline.mean(axis=0)])[0]
        texts.append(Text(x, y, f"{half_name(blank)}: {handled_length(blank.diameter_m, system)}", "strong halo"))
        if blank.count > 1:
            texts.append(Text(x, y + 16, f"{blank.count} in a row", "small halo"))
        for core in blank.cores:
            share = core / blank.diameter_m
            base = pith + along * blank.aside_m + normal * (blank.pith_m if blank.upper else -blank.pith_m)
            shapes.append(Shape(path(at(base + (blank.outline - base) * share)), "ring"))
    handles: list[Handle] = []
    side = -1.0 if math.cos(turn) >= 0 else 1.0
    for name, off in (("upper", plan.cuts.upper_m), ("lower", -plan.cuts.lower_m)):
        ends = at([pith + normal * off - along * reach, pith + normal * off + along * reach])
        shapes.append(Shape(path(ends), "thread thin"))
        grip = at([pith + normal * off + along * side * 0.52 * max(log.width_m, log.height_m)])[0]
        words = "First cut from the pith" if name == "upper" else "Second cut from the pith"
        handles.append(Handle(*grip, name, words, round(abs(off), 4)))  # type: ignore[call-arg]
    grip = at([pith - along * side * 0.54 * max(log.width_m, log.height_m)])[0]
    handles.append(Handle(*grip, "angle", "Angle of the cuts", round(plan.cuts.angle_deg, 1)))  # type: ignore[call-arg]
    if width == NARROW and len(texts) > 4:
        texts = texts[:4]
    return shapes, texts, handles


def _squares(cut_log: LogCut, at: Any) -> list[Shape]:
    return _drawn_squares(cut_log.squares, cut_log.angle_deg, cut_log.question.side_m or 0.0, at, "blank")


def _rest(plan: Plan, at: Any) -> list[Shape]:
    """The squares that are left beside the bowls."""
    return _drawn_squares(plan.squares, plan.cuts.angle_deg, plan.side_m, at, "zone")


def _drawn_squares(squares: Sequence[Square], angle_deg: float, side_m: float, at: Any, css: str) -> list[Shape]:
    turn, half = math.radians(angle_deg), side_m / 2
    u, v = np.array([math.cos(turn), math.sin(turn)]) * half, np.array([-math.sin(turn), math.cos(turn)]) * half
    made = []
    for square in squares:
        middle = np.array([square.x_m, square.y_m])
        made.append(Shape(path(at([middle - u - v, middle + u - v, middle + u + v, middle - u + v]), closed=True), css))
    return made
