"""Builds drawn: boards with what is cut from them, glued panels, legs, a leaf that was resawn."""

import itertools
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np

from calm_heron.builds.kinds import MarkKind, PointsKind
from calm_heron.builds.layouts import eye
from calm_heron.builds.layouts.allocation import END, Plank, Saw, is_askew
from calm_heron.builds.models import Cut, Held
from calm_heron.site.drawing import Picture, Shape, Text, path
from wood.arrays import Array
from wood.builds.cut_order import Sawn
from wood.builds.glueups import PanelSection
from wood.builds.layout import Rect
from wood.builds.legs import RouteStage
from wood.units import System
from wood.written import cut_length, handled_length

WIDE, NARROW = 900.0, 360.0
EDGE = 14.0
# On a narrow screen a board is so wide at least, or drawn so many units to the metre, and is walked along.
WALKED_WIDE, WALKED_SCALE = 96.0, 360.0
# Names are written in pieces that have room for them.
ROOM = 20.0


@dataclass(frozen=True)
class Block:
    """A piece on its board: a rectangle that can be held, with its name."""

    x: float
    y: float
    width: float
    height: float
    name: str
    cut: int
    piece: str
    words: str

    @property
    def base(self) -> float:
        """Where its name stands, from its upper edge."""
        return 14.0 if self.height > 22 else self.height / 2 + 4.5


@dataclass(frozen=True)
class BoardDrawing:
    """A board with its pieces, so ``long`` and ``wide`` as it is drawn. ``scale`` is drawing units for a metre, (``left``, ``bottom``) its
    lower left corner; ``grain`` is a path over all of it."""

    width: float
    height: float
    scale: float
    left: float
    bottom: float
    long: float
    wide: float
    shapes: list[Shape]
    texts: list[Text]
    blocks: list[Block]
    summary: str
    grain: str


def _box(x: float, y: float, width: float, height: float) -> str:
    return f"M{x:.1f} {y:.1f}h{width:.1f}v{height:.1f}h{-width:.1f}Z"


def scale_of(planks: Iterable[Plank]) -> float:
    """One scale for all boards, so that a long one looks long."""
    longest = max((plank.piece.length_m for plank in planks), default=1.0)
    return (WIDE - 2 * EDGE) / longest


def walked(plank: Plank) -> tuple[float, float]:
    """The scale of a board on a narrow screen, where a finger finds its pieces, and how long its drawing then is."""
    piece = plank.piece
    scale = max(WALKED_WIDE / piece.width_m, WALKED_SCALE, (NARROW - 2 * EDGE) / piece.length_m)
    return scale, piece.length_m * scale + 2 * EDGE


def board(known: Saw, held: Held, sawn: Sawn | None, scale: float, system: System, width: float = WIDE) -> BoardDrawing:
    """A board from above, its lower left corner where marks and pieces are counted from."""
    plank, cuts = known.planks[held.pk], known.by_board.get(held.pk, [])
    length, wide = plank.piece.length_m * scale, plank.piece.width_m * scale
    bottom = EDGE + wide

    def box(r: Rect) -> tuple[float, float, float, float]:
        return EDGE + r.x0 * scale, bottom - r.y1 * scale, (r.x1 - r.x0) * scale, (r.y1 - r.y0) * scale

    shapes = [Shape(_box(EDGE, EDGE, length, wide), "wood")]
    texts: list[Text] = []
    for keep_out in plank.kept_out:
        x, y, w, h = box(keep_out.rect)
        shapes.append(Shape(_box(x, y, w, h), "zone"))
        if keep_out.kind not in (END, MarkKind.SAPWOOD):
            shapes.append(Shape(_box(x, y, w, h), "green"))
        if keep_out.kind != END and w > 46 and h > 13:
            texts.append(Text(x + w / 2, y + h / 2 + 4, MarkKind(keep_out.kind).label, "small halo"))
    for look in plank.looks:
        x, y, w, h = box(look.rect)
        if look.kind == MarkKind.ASKEW:
            begins, ends = (y, y + h) if look.points == PointsKind.LEFT else (y + h, y)
            shapes.append(Shape(f"M{x:.1f} {begins:.1f}L{x + w:.1f} {ends:.1f}", "look"))
            continue
        shapes.append(Shape(_box(x, y, w, h), "look"))
        if w > 60 and h > 13:
            arrow = {PointsKind.RIGHT: " →", PointsKind.LEFT: " ←"}.get(PointsKind(look.points), "")
            texts.append(Text(x + w / 2, y + h - 5, f"{MarkKind(look.kind).label.removeprefix('a ')}{arrow}", "small halo"))
    for offcut in sawn.offcuts if sawn else ():
        x, y, w, h = box(offcut)
        shapes.append(Shape(_box(x, y, w, h), "open"))
        if w > 120 and h > 18:
            texts.append(Text(x + w / 2, y + h / 2 + 4, "left over"))
    blanks = known.blanks_on(held)
    for blank in blanks:
        part = known.part_of(blank[0])
        if is_askew(part, plank):
            r, over = blank[0].rect, abs(plank.slope) * part.rough_m[0]
            low, high = (r.y0, r.y0 + over) if plank.slope > 0 else (r.y0 + over, r.y0)
            corners = [(r.x0, low), (r.x1, high), (r.x1, high + part.rough_m[1]), (r.x0, low + part.rough_m[1])]
            shapes.append(Shape(path([(EDGE + x * scale, bottom - y * scale) for x, y in corners], closed=True), "dimension"))
    blocks = [_block(known, blank, box(blank[0].rect), system) for blank in blanks]
    grain = "".join(path([(EDGE + x * scale, bottom - y * scale) for x, y in line]) for line in plank.rings)
    summary = (
        f"{plank.name}, {handled_length(plank.piece.length_m, system)} by {handled_length(plank.piece.width_m, system)}, with {len(cuts)}"
        " pieces on it."
    )
    return BoardDrawing(width, wide + 2 * EDGE, scale, EDGE, bottom, length, wide, shapes, texts, blocks, summary, grain)


def _block(known: Saw, blank: Sequence[Cut], box: tuple[float, float, float, float], system: System) -> Block:
    """A blank on its board, by the names of the pieces that its leaves become."""
    cut = blank[0]
    part = known.part_of(cut)
    name = known.name_of(blank)
    x, y, w, h = box
    resawn = f", resawn into {cut.leaves}" if cut.leaves > 1 else ""
    top, out = eye.top_of(cut, known), eye.runs_out(cut, known)
    resawn += f", its top {'right' if top == '→' else 'left'}" if top else ""
    resawn += ", its grain runs out of its line" if out else ""
    name += f" {top}" if top else " ≠" if out else ""
    words = f"{name}, {part.name}: {cut_length(cut.length_m, system)} by {cut_length(cut.width_m, system)}{resawn}"
    return Block(x, y, w, h, name if w > ROOM + 6 * len(name) and h > 11 else "", cut.pk, f"{part.pk}.{cut.nth}", words)


def panel(panel: PanelSection, names: Sequence[str], width: float = WIDE, grown: float | None = None, chalk: bool = True) -> Picture:
    """A panel's section seen from its end, movement drawn larger than it is where it would not be seen, its joints numbered as with
    chalk.
    """
    outlines = [placement.outline for placement in panel.laid]
    points = np.concatenate(outlines)
    span = float(np.ptp(points[:, 0]))
    scale = (width - 2 * EDGE) / span
    thick = float(np.median([np.ptp(placement.section.green[:, 1]) for placement in panel.laid]))
    most = max(abs(panel.bow_m), abs(panel.wave_m), 1e-6)
    # Heights are drawn so that the largest movement shows as a third of the thickness, or as it is if that is more.
    larger = grown if grown is not None else max(1.0, min(thick / 3 / most, 40.0))
    height = (float(np.ptp(points[:, 1])) + (larger - 1) * 2 * most) * scale + 60
    middle = height / 2 - 6

    def at(where: Array, flat: Array) -> list[tuple[float, float]]:
        lifted = where[:, 1] + (larger - 1) * (where[:, 1] - flat)
        return [(width / 2 + x * scale, middle - y * scale) for x, y in zip(where[:, 0], lifted, strict=True)]

    shapes: list[Shape] = []
    texts: list[Text] = []
    for placement, name in zip(panel.laid, names, strict=True):
        base = _flat_heights(placement.section.green, placement.section.after)
        shapes.append(Shape(path(at(placement.outline, base), closed=True), "wood"))
        for green, ring in zip(placement.section.green_rings, placement.rings, strict=True):
            shapes.append(Shape(path(at(ring, green[:, 1])), "ring"))
        x = width / 2 + float(placement.outline[:, 0].mean()) * scale
        texts.append(Text(x, height - 8, name, "small"))
    if chalk:
        for n, (outline, other) in enumerate(itertools.pairwise(outlines), 1):
            x = width / 2 + float((outline[:, 0].max() + other[:, 0].min()) / 2) * scale
            texts += [Text(x - 5, 14, str(n), "strong", "end"), Text(x + 5, 14, str(n), "strong", "start")]
    said = f"A panel of {len(panel.laid)} boards" + (f", its movement drawn {larger:.0f} times as large." if larger > 1.05 else ".")
    return Picture(width, height, shapes, texts, said)


def _flat_heights(green: Array, after: Array) -> Array:
    """The height at which each point of an outline lay before it moved."""
    return green[:, 1] if green.shape == after.shape else after[:, 1]


def face(
    names: Sequence[str], turned: Sequence[bool], pairs: Sequence[Sequence[int]], width: float = WIDE, *, triangle: bool = False
) -> Picture:
    """A panel from above with its chalk marks: each joint's number on both of its boards, or one ``triangle`` over all; an arrow the way
    each is planed, and bookmatched pairs joined.
    """
    height, each = 110.0, (width - 2 * EDGE) / max(len(names), 1)
    shapes, texts = [], []
    for n, (name, back) in enumerate(zip(names, turned, strict=True)):
        left, middle = EDGE + n * each, EDGE + (n + 0.5) * each
        shapes.append(Shape(_box(left, 8, each, height - 16), "wood"))
        tip, tail, barb = (74.0, 42.0, -6.0) if back else (42.0, 74.0, 6.0)
        shapes.append(Shape(f"M{middle:.1f} {tail:.1f}V{tip:.1f}m-5 {barb:.1f}l5 {-barb:.1f}l5 {barb:.1f}", "dimension"))
        texts.append(Text(middle, 28, name.split(" ", 1)[0], "strong"))
        for joint, where in ((n, left + 10), (n + 1, left + each - 10)):
            if not triangle and 0 < joint < len(names):
                texts.append(Text(where, height - 18, str(joint), "strong"))
    if triangle:
        shapes.append(Shape(f"M{EDGE + 6:.1f} {height - 14:.1f}L{width / 2:.1f} 13L{width - EDGE - 6:.1f} {height - 14:.1f}Z", "dimension"))
    for pair, other in pairs:
        if pair < len(names) and other < len(names):
            x0, x1 = (EDGE + (k + 0.5) * each for k in sorted((pair, other)))
            shapes.append(Shape(f"M{x0:.1f} 34Q{(x0 + x1) / 2:.1f} 20 {x1:.1f} 34", "edge"))
    chalked = "one triangle chalked over all" if triangle else "its joints numbered"
    words = f"A panel of {len(names)} boards from above, {chalked}, an arrow on each the way it is planed."
    return Picture(width, height, shapes, texts, words)


def leg(stage: RouteStage, width: float = 190.0) -> Picture:
    """A leg's end: before as a line, after filled, with its rings, and what its faces show."""
    green, after = stage.section.green, stage.section.after
    scale = (width - 112) / float(np.ptp(green[:, 0]))
    larger = 6.0
    middle = width / 2

    def at(points: Array) -> list[tuple[float, float]]:
        return [(middle + x * scale, middle - y * scale) for x, y in points]

    def lifted(moved: Array, before: Array) -> Array:
        return before + larger * (moved - before)

    shapes = [Shape(path(at(lifted(after, green) if after.shape == green.shape else after), closed=True), "wood")]
    for before, ring in zip(stage.section.green_rings, stage.section.rings, strict=True):
        shapes.append(Shape(path(at(lifted(ring, before))), "ring"))
    shapes.append(Shape(path(at(green), closed=True), "green"))
    texts = [Text(middle, width - 8, stage.faces[0].value, "small"), Text(width - 27, middle + 4, stage.faces[1].value, "small")]
    return Picture(width, width, shapes, texts, f"The end of a leg: its front is {stage.faces[0].value}, its side {stage.faces[1].value}.")


def grain_through(curved: bool, width: float = 190.0) -> Picture:
    """A leg from the side with its grain: straight through it, or running out where it is sawn across its curve."""
    height, half = 150.0, 16.0
    lines = [Shape(f"M{x:.0f} 8V{height - 8:.0f}", "ring") for x in np.linspace(14, width - 14, 22)]
    if curved:
        d = (
            f"M{width / 2 - half:.0f} 12C{width / 2 + 40:.0f} 50 {width / 2 - 70:.0f} 100 {width / 2 - 10:.0f}"
            f" {height - 12:.0f}h{1.6 * half:.0f}"
        )
        d += f"C{width / 2 - 40:.0f} 100 {width / 2 + 70:.0f} 50 {width / 2 + half:.0f} 12Z"
    else:
        d = _box(width / 2 - half, 12, 2 * half, height - 24)
    words = ("short grain at the bend:", "it breaks there") if curved else ("grain straight", "through")
    return Picture(
        width,
        height + 38,
        [Shape(d, "wood"), *lines],
        [Text(width / 2, height + 12 + 18 * line, text) for line, text in enumerate(words)],
        " ".join(words).capitalize() + ".",
    )
