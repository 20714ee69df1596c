"""End-grain pictures: what flat, rift and quarter-sawn look like on the end of a board."""

from dataclasses import dataclass

from calm_heron.site.drawing import path
from calm_heron.stock.models import RING_ANGLE_DEG, Grain
from wood import section

WIDTH, HEIGHT = 150, 56


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


def grain_pictures() -> list[GrainPicture]:
    """The three pictures, drawn from real ring geometry about a pith."""
    pictures = []
    for grain in Grain:
        pith = section.pith_for(RING_ANGLE_DEG[grain], 0.11)
        board = section.settled_board(0.12, 0.04, *pith, 1.0, 1.0, rings=16)
        scale = WIDTH / 0.12
        rings = [path((x * scale + WIDTH / 2, HEIGHT / 2 - y * scale) for x, y in arc) for arc in board.green_rings]
        pictures.append(GrainPicture(grain.value, grain.label, HINTS[grain], rings))
    return pictures
