"""The board map: the board as it lies, readings where they were taken, outer and core reading as a split mark."""

from collections.abc import Sequence
from dataclasses import dataclass

from calm_heron.measuring.models import Reading
from calm_heron.site.drawing import Scale
from calm_heron.site.ramp import colour, ink_on
from calm_heron.stock.models import Piece
from wood import meters

WIDE, NARROW, MARGIN = 720, 372, 12
LEAST_HEIGHT, MOST_HEIGHT = 76, 190
RADIUS = 15


@dataclass(frozen=True)
class Mark:
    """A reading, or an outer and a core reading at the same spot. Empty colours are left open."""

    x: float
    y: float
    outer: str
    outer_ink: str
    outer_label: str
    core: str
    core_ink: str
    core_label: str
    left_out: bool
    name: str


@dataclass(frozen=True)
class BoardMap:
    width: int
    height: float
    left: float
    top: float
    board_width: float
    board_height: float
    end_zone: float
    marks: list[Mark]
    unplaced: list[Mark]
    unplaced_y: float
    summary: str


def board_maps(piece: Piece, readings: Sequence[Reading]) -> list[tuple[str, BoardMap]]:
    """The map for a wide and for a narrow screen, each with the class that shows it there."""
    return [("wide-only", board_map(piece, readings)), ("narrow-only", board_map(piece, readings, NARROW))]


def board_map(piece: Piece, readings: Sequence[Reading], width: int = WIDE) -> BoardMap:
    """Geometry of a board seen from above, its length across the drawing; a narrow board is drawn wider than it is, never narrower than a mark."""
    board_width = width - 2 * MARGIN
    board_height = min(max(board_width * piece.width_m / piece.length_m, LEAST_HEIGHT), MOST_HEIGHT)
    x = Scale(0, 1, MARGIN, MARGIN + board_width)
    y = Scale(0, 1, MARGIN, MARGIN + board_height)
    spots: dict[tuple[float, float], list[Reading]] = {}
    loose: list[Reading] = []
    for reading in readings:
        if reading.along is None:
            loose.append(reading)
        else:
            spots.setdefault((round(reading.along, 2), round(reading.across if reading.across is not None else 0.5, 2)), []).append(reading)
    unplaced_y = MARGIN + board_height + 34
    unplaced = [_mark([reading], MARGIN + RADIUS + 4 + i * 44, unplaced_y) for i, reading in enumerate(loose[-(width // 44 - 3) :])]
    return BoardMap(
        width=width,
        height=MARGIN * 2 + board_height + (44 if unplaced else 0),
        left=MARGIN,
        top=MARGIN,
        board_width=board_width,
        board_height=board_height,
        end_zone=board_width * meters.end_zone_m(piece.length_m) / piece.length_m,
        marks=[_mark(group, x(along), y(across)) for (along, across), group in spots.items()],
        unplaced=unplaced,
        unplaced_y=unplaced_y,
        summary=", ".join(_words(reading) for reading in readings) or "Nothing was read yet.",
    )


def _words(reading: Reading) -> str:
    where = "" if reading.along is None else f" at {reading.along * 100:.0f} % of the length"
    return f"{reading.moisture * 100:.1f} %{' ' + reading.layer if reading.layer else ''}{where}"


def _mark(group: list[Reading], x: float, y: float) -> Mark:
    outer = next((reading for reading in reversed(group) if reading.layer != "core"), None)
    core = next((reading for reading in reversed(group) if reading.layer == "core"), None)

    def shown(reading: Reading | None) -> tuple[str, str, str]:
        if reading is None:
            return "", "", ""
        sign = {"above": ">", "below": "<"}.get(reading.bound, "")
        digits = f"{reading.moisture * 100:.0f}" if core and outer else f"{reading.moisture * 100:.1f}"
        return colour(reading.moisture), ink_on(reading.moisture), sign + digits

    return Mark(
        x, y, *shown(outer), *shown(core),
        left_out=all(not reading.counts or reading.near_end for reading in group),
        name="; ".join(_words(reading) for reading in group),
    )  # fmt: skip
