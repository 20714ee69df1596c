"""Boards glued edge to edge: the section that the panel takes, from the section of each of its boards.

Each board settles as :mod:`wood.movement.section` says. A joint stays what it was glued as: the two edges lie on each other, and the next
board goes on in the direction in which the last one ended. Laid alike, every board is hollow to the same side and the joints stand as a row
of ridges, with a small bow of the whole; laid by turns, heart up and heart down, hollows and humps follow each other as a wave. A cup is
mostly a sliding of upright layers past each other: the edges of a board stay nearly upright, and so cups do not add up to one great bow.
Where practice reports one, the panel dried or was wetted from one face, or its boards lay near the pith; of that only the second is in this
model.

Metres; x along the panel's width, y up. Source: the section model; rigid joints are our own idealisation, and a panel that is held down is
flatter.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from enum import StrEnum
from functools import lru_cache

import numpy as np

from wood.arrays import Array
from wood.errors import check_range
from wood.movement import section
from wood.movement.section import Section
from wood.movement.shrinkage import Shrinkage

MOST_BOARDS = 60
RINGS = 12
# Joined boards may differ by a point of moisture.
TOLERANCE = 0.01


class RingApproach(StrEnum):
    """How the rings of neighbours lie: by turns, or all alike with the heart down (bark side up) or up."""

    BY_TURNS = "by_turns"
    BARK_UP = "bark_up"
    HEART_UP = "heart_up"


@dataclass(frozen=True)
class PanelBoard:
    """One board of a panel: its finished width and thickness, its rings (angle with the face 0…90°, how far the pith lay from its middle),
    which side is up, and whether it is turned end for end, so that its pith lies to the right instead of the left.

    Raises:
        OutOfRange: width and thickness 0.5 mm…3 m, ring angle 0…90°, pith 0…5 m.
    """

    name: str
    shrinkage: Shrinkage
    width_m: float
    thickness_m: float
    ring_angle_deg: float = 10.0
    pith_m: float = 0.15
    bark_up: bool = True
    turned: bool = False

    def __post_init__(self) -> None:
        check_range("width_m", self.width_m, *section.SIZE_M, " m")
        check_range("thickness_m", self.thickness_m, *section.SIZE_M, " m")
        check_range("ring_angle_deg", self.ring_angle_deg, 0.0, 90.0, "°")
        check_range("pith_m", self.pith_m, 0.0, section.PITH_M, " m")

    @property
    def pith(self) -> tuple[float, float]:
        """Where its pith lies from its middle."""
        x, y = section.pith_for(self.ring_angle_deg, self.pith_m)
        return (-x if self.turned else x), (y if self.bark_up else -y)

    def settled(self, moisture_from: float, moisture_to: float) -> Section:
        """Its own section after settling."""
        ratios = section.size_ratios(self.shrinkage, moisture_from, moisture_to)
        return _settled(self.width_m, self.thickness_m, *self.pith, *ratios)


@lru_cache(maxsize=512)
def _settled(width_m: float, thickness_m: float, pith_x_m: float, pith_y_m: float, k_radial: float, k_tangential: float) -> Section:
    """A board's section; the same boards come again with every order they are tried in."""
    return section.settled_board(width_m, thickness_m, pith_x_m, pith_y_m, k_radial, k_tangential, rings=RINGS)


@dataclass(frozen=True)
class Laid:
    """A board in its panel: its section, and how it was moved there: turned by ``turn_rad`` about its own middle and brought to ``at``."""

    section: Section
    turn_rad: float
    at: tuple[float, float]

    def moved(self, points: Array) -> Array:
        """Points of the board's own section where they lie in the panel."""
        cos, sin = math.cos(self.turn_rad), math.sin(self.turn_rad)
        return np.asarray(points, float) @ np.array([[cos, sin], [-sin, cos]]) + np.array(self.at)

    @property
    def outline(self) -> Array:
        return self.moved(self.section.after)

    @property
    def rings(self) -> list[Array]:
        return [self.moved(arc) for arc in self.section.rings]


@dataclass(frozen=True)
class PanelSection:
    """A panel after settling, lying level on its two outer edges. ``bow_m`` is how far its middle stands above the line between its ends'
    upper corners (below nothing: hollow above), ``wave_m`` the deepest hollow or hump of one of its boards alone, ``flat_m`` the thickness
    left when both faces are planed flat."""

    laid: tuple[Laid, ...]
    width_m: float
    bow_m: float
    wave_m: float
    flat_m: float


def panel(staves: Sequence[PanelBoard], moisture_from: float, moisture_to: float) -> PanelSection:
    """The section of a panel glued flat at one moisture, at another.

    Args:
        staves: 1…60, from left to right; moisture_from: when it was glued, moisture_to: what it comes to, fractions 0…0.6.
    Raises:
        OutOfRange.

    >>> oak = Shrinkage(0.056, 0.105, 0.30, "published")
    >>> alike = [PanelBoard(str(n), oak, 0.12, 0.022) for n in range(5)]
    >>> turns = by_approach(alike, RingApproach.BY_TURNS)
    >>> abs(panel(alike, 0.10, 0.06).bow_m) > abs(panel(turns, 0.10, 0.06).bow_m)
    True
    """
    check_range("boards", len(staves), 1, MOST_BOARDS)
    check_range("moisture_from", moisture_from, 0.0, 0.6)
    check_range("moisture_to", moisture_to, 0.0, 0.6)
    laid: list[Laid] = []
    joint, direction = np.zeros(2), 0.0
    for stave in staves:
        settled = stave.settled(moisture_from, moisture_to)
        left, right, lean_left, lean_right = _edges(settled, stave)
        # The left edge is put on the right edge of the one before: its middle on the joint, standing as that one stood.
        turn = direction - lean_left
        placed = Laid(settled, turn, (0.0, 0.0))
        at = joint - placed.moved(left[None])[0]
        placed = replace(placed, at=(float(at[0]), float(at[1])))
        laid.append(placed)
        joint, direction = placed.moved(right[None])[0], turn + lean_right
    return _levelled(laid)


def _edges(section: Section, stave: PanelBoard) -> tuple[Array, Array, float, float]:
    """The middles of a settled board's left and right edges, and how far each has turned from upright."""
    corners = np.array(
        [
            (-stave.width_m / 2, -stave.thickness_m / 2),
            (stave.width_m / 2, -stave.thickness_m / 2),
            (stave.width_m / 2, stave.thickness_m / 2),
            (-stave.width_m / 2, stave.thickness_m / 2),
        ]
    )
    sides = section.after.shape[0] // 4
    if section.encloses_pith:
        # A board round its pith has a split and no order of its own; its corners are the outermost points.
        after = np.array([section.after[np.argmax(section.after @ corner)] for corner in corners])
    else:
        after = section.after[[0, sides, 2 * sides, 3 * sides]]
    low_left, low_right, up_right, up_left = after

    def lean(up: Array, low: Array) -> float:
        return float(math.atan2(*(up - low)[::-1]) - math.pi / 2)

    return (low_left + up_left) / 2, (low_right + up_right) / 2, lean(up_left, low_left), lean(up_right, low_right)


def _levelled(laid: Sequence[Laid]) -> PanelSection:
    """The panel turned so that its ends lie level, and measured."""
    tops = [_top(placement) for placement in laid]
    left, right = tops[0][0], tops[-1][-1]
    tilt = math.atan2(right[1] - left[1], right[0] - left[0])
    back = Laid(laid[0].section, -tilt, (0.0, 0.0))
    turned = []
    for placement in laid:
        x, y = back.moved(np.array([placement.at]))[0]
        turned.append(replace(placement, turn_rad=placement.turn_rad - tilt, at=(float(x), float(y))))
    outlines = [board.outline for board in turned]
    middle = (np.concatenate(outlines).max(axis=0) + np.concatenate(outlines).min(axis=0)) / 2
    turned = [replace(board, at=(board.at[0] - float(middle[0]), board.at[1] - float(middle[1]))) for board in turned]
    outlines = [board.outline for board in turned]
    tops, bottoms = [_top(board) for board in turned], [_bottom(board) for board in turned]
    top, bottom = np.concatenate(tops), np.concatenate(bottoms)
    ends = (tops[0][0][1] + tops[-1][-1][1]) / 2
    # The bow is that of the line of joints; between them each board waves by itself.
    joints = np.array([tops[0][0], *(top[-1] for top in tops)])
    heights = joints[:, 1] - ends
    bow = float(heights[np.argmax(np.abs(heights))]) if len(laid) > 1 else 0.0
    waves = [_sag(top) for top in tops]
    return PanelSection(
        tuple(turned),
        float(np.ptp(np.concatenate(outlines)[:, 0])),
        bow,
        float(max(waves, key=abs)),
        max(0.0, float(top[:, 1].min() - bottom[:, 1].max())),
    )


def _top(placed: Laid) -> Array:
    """The upper face of a board as it lies, from left to right."""
    outline = placed.outline
    if placed.section.encloses_pith:
        return _upper(outline)
    side = outline.shape[0] // 4
    return outline[2 * side : 3 * side + 1][::-1]


def _bottom(placed: Laid) -> Array:
    """Its lower face."""
    outline = placed.outline
    if placed.section.encloses_pith:
        return np.asarray(_upper(outline * (1, -1)) * (1, -1))
    return outline[: outline.shape[0] // 4 + 1]


def _upper(outline: Array) -> Array:
    """The upper face of an outline, from left to right."""
    x = outline[:, 0]
    left, right = x.min(), x.max()
    looks = np.linspace(left, right, 41)[1:-1]
    edges = np.append(np.arange(outline.shape[0]), 0)
    a, b = outline[edges[:-1]], outline[edges[1:]]
    heights = np.full(looks.size, -np.inf)
    for (ax, ay), (bx, by) in zip(a, b, strict=True):
        if ax == bx:
            continue
        inside = (looks >= min(ax, bx)) & (looks <= max(ax, bx))
        heights[inside] = np.maximum(heights[inside], ay + (by - ay) * (looks[inside] - ax) / (bx - ax))
    return np.column_stack([looks, heights])


def _sag(top: Array) -> float:
    """How far the middle of a face stands above the line between its ends."""
    (x0, y0), (x1, y1) = top[0], top[-1]
    line = y0 + (y1 - y0) * (top[:, 0] - x0) / (x1 - x0)
    off = top[:, 1] - line
    return float(off[np.argmax(np.abs(off))])


def by_approach(staves: Sequence[PanelBoard], approach: RingApproach) -> list[PanelBoard]:
    """The same boards in the same order, turned over as an approach has them; quarter-sawn ones have no side to speak of and are turned,
    too.
    """
    return [
        replace(item, bark_up=n % 2 == 0 if approach is RingApproach.BY_TURNS else approach is RingApproach.BARK_UP)
        for n, item in enumerate(staves)
    ]


@dataclass(frozen=True)
class Alike:
    """Whether boards may be glued together: their moistures' range (fractions), its two ends by position, and the doubt of it."""

    apart: float
    wettest: int
    driest: int
    uncertainty: float
    may: bool
    may_not: bool


def alike(moistures: Sequence[float], uncertainties: Sequence[float], tolerance: float = TOLERANCE) -> Alike:
    """Whether the moistures of all boards lie within a point of each other.

    Args:
        moistures: fractions 0…3, one a board; doubts: what each leaves open (95%), 0…1; tolerance: 0.1…10 points.
    Raises:
        OutOfRange: no boards, or not a doubt for each.

    >>> alike([0.081, 0.088], [0.002, 0.002]).may
    True
    """
    check_range("boards", len(moistures), 1, 1000)
    check_range("doubts", len(uncertainties), len(moistures), len(moistures))
    values = check_range("moisture", moistures, 0.0, 3.0)
    check_range("uncertainties", uncertainties, 0.0, 1.0)
    check_range("tolerance", tolerance, 0.001, 0.1)
    wettest, driest = int(values.argmax()), int(values.argmin())
    apart = float(values[wettest] - values[driest])
    uncertainty = math.hypot(uncertainties[wettest], uncertainties[driest]) if wettest != driest else 0.0
    return Alike(apart, wettest, driest, uncertainty, apart <= tolerance, apart > tolerance + uncertainty / 2)
