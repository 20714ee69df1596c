"""The section drawn: where the board lay in the log, and its green outline under its settled shape with dimensions."""

import math
from dataclasses import dataclass

import numpy as np

from calm_heron.movement.queries import Movement, Sized
from calm_heron.site.drawing import Scale, path
from calm_heron.site.numbers import points
from calm_heron.site.ramp import colour
from calm_heron.stock.models import Piece
from wood.movement.section import Section
from wood.units import System
from wood.written import cut_length

WIDE, NARROW, MOST_HEIGHT, SIDE, ABOVE, BELOW = 620, 380, 300, 84, 34, 56
LOG_SIZE = 300


@dataclass(frozen=True)
class SectionDrawing:
    """The settled board over its green outline; lines in drawing units."""

    width: int
    height: int
    green: str
    after: str
    rings: list[str]
    colour: str
    dimension_y: float
    dimension_left: float
    dimension_right: float
    green_left: float
    green_right: float
    thickness_x: float
    thickness_top: float
    thickness_bottom: float
    exaggeration: int
    width_label: str
    thickness_label: str
    summary: str

    @property
    def thickness_middle(self) -> float:
        return (self.thickness_top + self.thickness_bottom) / 2

    @property
    def middle(self) -> float:
        return (self.width - SIDE) / 2


@dataclass(frozen=True)
class BoardInLog:
    """The log's end with the board in it, for dragging. ``metres_per_unit`` turns a pointer's way into metres."""

    size: int
    pith: float
    radius: float
    rings: list[float]
    board_x: float
    board_y: float
    board_width: float
    board_height: float
    metres_per_unit: float
    grip_x: float
    grip_y: float
    grip_width: float
    grip_height: float
    pith_x_m: float
    pith_y_m: float
    limit_m: float


def section_drawing(piece: Sized, moved: Movement, system: System, width: int = WIDE) -> SectionDrawing:
    """Both outlines to one scale; the movement is drawn larger than life where it could not be seen, and says so."""
    board = moved.section
    exaggeration = _exaggeration(board)
    after, rings = _larger(board.after, board.green, exaggeration), board.rings
    if exaggeration > 1:
        rings = tuple(_larger(ring, green, exaggeration) for ring, green in zip(board.rings, board.green_rings, strict=True))
    points = np.concatenate([board.green, after])
    (left, low), (right, high) = points.min(axis=0), points.max(axis=0)
    # Dimensions stand to the right, so the piece lies a little left of the middle.
    middle = (width - SIDE) / 2
    scale = min((width - SIDE - 30) / (right - left), (MOST_HEIGHT - ABOVE - BELOW) / (high - low))
    height = ABOVE + (high - low) * scale + BELOW
    x = Scale(left, right, middle - (right - left) * scale / 2, middle + (right - left) * scale / 2)
    y = Scale(low, high, height - BELOW, ABOVE)

    def drawn(curve: np.ndarray, *, closed: bool = False) -> str:
        return path(np.column_stack([x(curve[:, 0]), y(curve[:, 1])]).tolist(), closed=closed)  # type: ignore[arg-type]

    return SectionDrawing(
        width=width,
        height=round(height),
        green=drawn(board.green, closed=True),
        after=drawn(after, closed=True),
        rings=[drawn(ring) for ring in rings],
        colour=colour(moved.to_moisture),
        dimension_y=y(low) + 26,
        dimension_left=x(after[:, 0].min()),
        dimension_right=x(after[:, 0].max()),
        green_left=x(-piece.width_m / 2),
        green_right=x(piece.width_m / 2),
        thickness_x=x(right) + 18,
        thickness_top=y(after[:, 1].max()),
        thickness_bottom=y(after[:, 1].min()),
        exaggeration=exaggeration,
        width_label=cut_length(board.width_m, system),
        thickness_label=cut_length(board.thickness_m, system),
        summary=_summary(board, moved, system),
    )


def _exaggeration(board: Section) -> int:
    """How many times larger the movement is drawn: 1 where it shows by itself, else 2, 5 or 10. A split is never overdrawn."""
    if board.split_rad:
        return 1
    span = float(np.ptp(board.green[:, 0]))
    # Compared point by point with the green outline, both about the same centre.
    shift = float(np.abs(board.after - board.green).max()) / span
    if shift == 0:
        return 1
    return next((times for times in (1, 2, 5, 10) if shift * times >= 0.035), 10)


def _larger(after: np.ndarray, green: np.ndarray, times: int) -> np.ndarray:
    return green + (after - green) * times if times > 1 else after


def _summary(board: Section, moved: Movement, system: System) -> str:
    verb = "shrinks" if moved.to_moisture < moved.from_moisture else "swells"
    words = [f"From {points(moved.from_moisture)} to {points(moved.to_moisture)} percent the board {verb}"]
    if abs(board.cup_m) > 5e-5:
        words.append(f"and cups by {cut_length(abs(board.cup_m), system)}, hollow on the {'bark' if board.cup_m > 0 else 'pith'} side")
    if board.split_rad:
        words.append(f"and splits to the pith, {math.degrees(board.split_rad):.0f} degrees wide")
    return " ".join(words) + "."


def log_drawing(piece: Piece, pith: tuple[float, float]) -> BoardInLog:
    """The log about its pith in the middle of the drawing; the board where it lay."""
    half_diagonal = math.hypot(piece.width_m, piece.thickness_m) / 2
    # A log that holds the board where it is, and leaves room to drag it.
    reach = max(math.hypot(*pith) + half_diagonal, piece.width_m * 0.9, 0.12) * 1.12
    unit = LOG_SIZE / 2 / (reach * 1.04)
    centre = LOG_SIZE / 2
    width, height = piece.width_m * unit, max(piece.thickness_m * unit, 4)
    left, top = centre - pith[0] * unit - width / 2, centre + pith[1] * unit - height / 2
    # A thin board is held by more than its own edge: fingers are thick.
    grip = max(8.0, (44 - height) / 2)
    return BoardInLog(
        size=LOG_SIZE,
        grip_x=left - 8,
        grip_y=top - grip,
        grip_width=width + 16,
        grip_height=height + 2 * grip,
        pith=centre,
        radius=reach * unit,
        rings=[reach * unit * share for share in np.linspace(0.06, 0.94, 14)],
        board_x=left,
        board_y=top,
        board_width=width,
        board_height=height,
        metres_per_unit=1 / unit,
        pith_x_m=pith[0],
        pith_y_m=pith[1],
        limit_m=reach,
    )
