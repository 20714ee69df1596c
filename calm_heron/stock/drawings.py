"""End-grain pictures: what flat, rift and quarter-sawn look like on the end of a board."""

import math
from dataclasses import dataclass
from functools import lru_cache

from calm_heron.site.drawing import path
from calm_heron.stock.models import RING_ANGLE_DEG, Grain, grain_of
from wood.movement import section
from wood.units import System
from wood.written import typed_length

WIDTH, HEIGHT = 150, 56
# The drawn board is 120 mm wide and 45 mm thick.
BOARD_M = 0.12


@dataclass(frozen=True)
class GrainPicture:
    """A small board end with its rings, in a box of ``width`` × ``height``."""

    value: str
    label: str
    hint: str
    rings: list[str]
    width: int = WIDTH
    height: int = HEIGHT


HINTS = {
    Grain.FLAT: "rings lie along the wide face",
    Grain.RIFT: "rings cross at a slant",
    Grain.QUARTER: "rings stand across the wide face",
}


def _rings(angle: float, distance_m: float, width: float = WIDTH, rings: int = 16) -> list[str]:
    """Rings on the end of a board three times as wide as thick, in a box of ``width``, drawn from real ring geometry about a pith."""
    board = section.settled_board(BOARD_M, BOARD_M * HEIGHT / WIDTH, *section.pith_for(angle, distance_m), 1.0, 1.0, rings=rings)
    scale = width / BOARD_M
    middle = width * HEIGHT / WIDTH / 2
    return [path((x * scale + width / 2, middle - y * scale) for x, y in arc) for arc in board.green_rings]


def grain_pictures() -> list[GrainPicture]:
    """The three pictures to choose from in a form."""
    return [GrainPicture(grain.value, grain.label, HINTS[grain], _rings(RING_ANGLE_DEG[grain], 0.11)) for grain in Grain]


# The wall of pictures to compare an end with: ring angles side by side, for three distances from the centre of the tree.
WALL_ANGLES = (0, 15, 30, 45, 60, 75, 90)
WALL_DISTANCES = (
    (0.04, "close to the pith: rings bend strongly"),
    (0.12, "half way out"),
    (0.35, "far out in a thick tree: rings run nearly straight"),
)


@dataclass(frozen=True)
class WallPicture:
    """One drawn end: what it stands for, as the fields take it, and whether it is the nearest to what is asked."""

    angle: int
    distance: str
    rings: list[str]
    nearest: bool
    width: int = WIDTH
    height: int = HEIGHT


def grain_wall(angle: float, distance_m: float, system: System) -> list[tuple[str, list[WallPicture]]]:
    """The wall, row by row with the row's words."""
    near_angle = min(WALL_ANGLES, key=lambda wall_angle: abs(wall_angle - angle))
    near_distance = min((item for item, _ in WALL_DISTANCES), key=lambda item: abs(math.log(item / max(distance_m, 0.01))))
    return [
        (
            words,
            [
                WallPicture(
                    angle, typed_length(distance, system), _wall_rings(angle, distance), (angle, distance) == (near_angle, near_distance)
                )
                for angle in WALL_ANGLES
            ],
        )
        for distance, words in WALL_DISTANCES
    ]


@lru_cache(maxsize=32)
def _wall_rings(angle: int, distance_m: float) -> list[str]:
    return _rings(angle, distance_m, rings=12)


@dataclass(frozen=True)
class GrainFound:
    """What an end shows: its name, how much of the movement across the width is tangential, and the drawn end."""

    name: str
    hint: str
    angle: float
    tangential_share: float
    encloses_pith: bool
    rings: list[str]
    width: int = 2 * WIDTH
    height: int = 2 * HEIGHT


def grain_found(angle: float, distance_m: float) -> GrainFound:
    """The end with this ring angle (0…90°) and this distance from the pith to its middle."""
    grain = grain_of(angle)
    x, y = section.pith_for(angle, distance_m)
    inside = abs(x) < BOARD_M / 2 and abs(y) < BOARD_M * HEIGHT / WIDTH / 2
    return GrainFound(
        grain.label, HINTS[grain], angle, math.cos(math.radians(angle)) ** 2, inside, _rings(angle, distance_m, 2 * WIDTH, 20)
    )
