"""The board map: the board as it lies, readings where they were taken, outer and core reading as a split mark."""

from collections.abc import Sequence
from dataclasses import dataclass

from calm_heron.measuring.kinds import Layer
from calm_heron.measuring.models import Reading
from calm_heron.site.drawing import Scale, Tick, path
from calm_heron.site.numbers import bounded, points, typed
from calm_heron.site.ramp import colour, ink_on
from calm_heron.stock.models import Piece
from wood.measuring import meters
from wood.measuring.estimates import LAYER_DEPTHS
from wood.measuring.profile import Profile, ProfileState

WIDE, NARROW, MARGIN = 720, 372, 12
LEAST_HEIGHT, MOST_HEIGHT = 76, 190
RADIUS = 15
DISC = 250


@dataclass(frozen=True)
class ReadingMark:
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
    marks: list[ReadingMark]
    unplaced: list[ReadingMark]
    unplaced_y: float
    summary: str
    # "board", "log" or "disc": how its outline is drawn.
    shape: str = "board"


def board_maps(piece: Piece, readings: Sequence[Reading]) -> list[tuple[str, BoardMap]]:
    """The map for a wide and for a narrow screen, each with the class that shows it there."""
    return [("wide-only", board_map(piece, readings)), ("narrow-only", board_map(piece, readings, NARROW))]


def board_map(piece: Piece, readings: Sequence[Reading], width: int = WIDE) -> BoardMap:
    """Geometry of a board seen from above, its length across the drawing; a narrow board is drawn wider than it is, never narrower than a
    mark.
    """
    length, across_m = piece.seen_m
    disc = piece.traits.shape.is_disc
    board_width = DISC if disc else width - 2 * MARGIN
    board_height = DISC if disc else min(max(board_width * across_m / length, LEAST_HEIGHT), MOST_HEIGHT)
    left = (width - DISC) // 2 if disc and width == NARROW else MARGIN
    x = Scale(0, 1, left, left + board_width)
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
        left=left,
        top=MARGIN,
        board_width=board_width,
        board_height=board_height,
        end_zone=0 if disc else board_width * meters.end_zone_m(length) / length,
        marks=[_mark(group, x(along), y(across)) for (along, across), group in spots.items()],
        unplaced=unplaced,
        unplaced_y=unplaced_y,
        summary=", ".join(_words(reading) for reading in readings) or "Nothing was read yet.",
        shape="disc" if disc else piece.traits.shape.value,
    )


def _words(reading: Reading) -> str:
    where = "" if reading.along is None else f" at {points(reading.along, 0)}% of the length"
    return f"{points(reading.moisture)}%{' ' + reading.layer if reading.layer else ''}{where}"


def _mark(group: list[Reading], x: float, y: float) -> ReadingMark:
    outer = next((reading for reading in reversed(group) if reading.layer != Layer.CORE), None)
    core = next((reading for reading in reversed(group) if reading.layer == Layer.CORE), None)

    def shown(reading: Reading | None) -> tuple[str, str, str]:
        if reading is None:
            return "", "", ""
        return (
            colour(reading.moisture),
            ink_on(reading.moisture),
            bounded(reading.moisture, reading.bound, 0 if (core and outer) or reading.bound else 1),
        )

    return ReadingMark(
        x,
        y,
        *shown(outer),
        *shown(core),
        left_out=all(not reading.counts or reading.near_end for reading in group),
        name="; ".join(_words(reading) for reading in group),
    )


PROFILE_WIDTH, PROFILE_HEIGHT = 340, 190
PROFILE_WORDS = {
    ProfileState.DRYING: "Drying: the inside is wetter than the outside.",
    ProfileState.EQUALISED: "Equalised: inside and outside are alike.",
    ProfileState.REWETTED: "Rewetted: the outside is wetter than the inside.",
}


@dataclass(frozen=True)
class ProfileChart:
    """The moisture through the thickness as the readings tell it: depth across, moisture upwards."""

    width: int
    height: int
    left: float
    bottom: float
    right: float
    curve: str
    mean: float
    marks: list[tuple[float, float, str]]
    ticks: list[Tick]
    word: str
    outside: str
    inside: str
    summary: str


def profile_chart(piece: Piece, profile: Profile, readings: Sequence[Reading]) -> ProfileChart:
    """The inferred profile with the readings it was inferred from at their depths."""
    depths = LAYER_DEPTHS
    curve = [(share, profile.at(share)) for share in (i / 40 for i in range(41))]
    telling = [reading for reading in readings if reading.layer in depths and reading.counts and not reading.bound]
    values = [value for _, value in curve] + [reading.moisture for reading in telling]
    low, high = min(values), max(values)
    pad = max(0.004, (high - low) * 0.12)
    low, high = max(0.0, low - pad), high + pad
    x, y = Scale(0, 1, 40, PROFILE_WIDTH - 8), Scale(low, high, PROFILE_HEIGHT - 26, 10)
    step = next(step for step in (0.005, 0.01, 0.02, 0.05, 0.1, 0.2, 0.5) if (high - low) / step <= 6)
    ticks = [Tick(y(k * step), typed(k * step)) for k in range(int(low / step) + 1, int(high / step) + 1)]
    return ProfileChart(
        PROFILE_WIDTH,
        PROFILE_HEIGHT,
        40,
        PROFILE_HEIGHT - 26,
        PROFILE_WIDTH - 8,
        path((x(share), y(value)) for share, value in curve),
        y(profile.mean),
        [(x(depths[reading.layer]), y(reading.moisture), colour(reading.moisture)) for reading in telling],
        ticks,
        PROFILE_WORDS[profile.state()],
        piece.traits.surface,
        piece.traits.inner.lower(),
        f"Surface about {points(profile.surface)} percent, inside {points(profile.core)}, mean {points(profile.mean)}.",
    )
