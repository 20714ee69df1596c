"""Square legs and posts: how the rings run through the end, what each of the four faces then shows, and what becomes of the square.

With the rings from corner to corner (rift) all four faces show the same straight grain, and the square goes to a diamond; with the rings
along two faces these are flat-sawn and the other two quarter-sawn, and it goes to a rectangle. Source: the section model; the limits of the
names are those of sawmills.
"""

from dataclasses import dataclass
from enum import StrEnum

from wood.errors import check_range
from wood.movement import section
from wood.movement.section import Section
from wood.movement.shrinkage import Shrinkage

# Of a flat-sawn plank a leg is far from the pith, and its rings are almost straight.
PITH_M = 0.25
SIDE_M = (0.01, 0.5)


class Face(StrEnum):
    """What a face shows of the rings."""

    FLAT = "flat"
    RIFT = "rift"
    QUARTER = "quarter"


@dataclass(frozen=True)
class RouteStage:
    """A leg after settling. ``faces`` are the front's and the side's, each like the one across from it; ``width_m`` and ``depth_m`` what it
    measures between them, ``diamond_m`` the difference of its diagonals. ``alike`` says that four faces show one grain."""

    section: Section
    faces: tuple[Face, Face]
    width_m: float
    depth_m: float
    diamond_m: float

    @property
    def alike(self) -> bool:
        return self.faces[0] is self.faces[1]

    @property
    def out_of_square_m(self) -> float:
        """How much one side is longer than the other."""
        return abs(self.width_m - self.depth_m)


def face_of(ring_angle_deg: float) -> Face:
    """What a face shows whose rings meet it at this angle.

    Raises:
        OutOfRange: ring_angle_deg 0…90°.
    """
    check_range("ring_angle_deg", ring_angle_deg, 0.0, 90.0, "°")
    return Face.FLAT if ring_angle_deg < 30 else Face.RIFT if ring_angle_deg <= 60 else Face.QUARTER


def leg(side_m: float, ring_angle_deg: float, shrinkage: Shrinkage, moisture_from: float, moisture_to: float) -> RouteStage:
    """A square leg with its rings at an angle to its front face, from one moisture to another.

    Args:
        side_m: 10…500 mm; ring_angle_deg: 0…90, 45 corner to corner; moistures: fractions 0…1.
    Raises:
        OutOfRange.

    >>> oak = Shrinkage(0.056, 0.105, 0.30, "published")
    >>> leg(0.04, 45, oak, 0.12, 0.07).alike, leg(0.04, 0, oak, 0.12, 0.07).alike
    (True, False)
    """
    check_range("side_m", side_m, *SIDE_M, " m")
    check_range("ring_angle_deg", ring_angle_deg, 0.0, 90.0, "°")
    check_range("moisture_from", moisture_from, 0.0, 1.0)
    check_range("moisture_to", moisture_to, 0.0, 1.0)
    ratios = section.size_ratios(shrinkage, moisture_from, moisture_to)
    settled_board = section.settled_board(side_m, side_m, *section.pith_for(ring_angle_deg, PITH_M), *ratios, rings=12)
    return RouteStage(
        settled_board,
        (face_of(ring_angle_deg), face_of(90 - ring_angle_deg)),
        settled_board.width_m,
        settled_board.thickness_m,
        settled_board.diamond_m,
    )
