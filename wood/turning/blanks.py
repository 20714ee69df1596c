"""What is cut from a log: shapes that are looked for, cuts, blanks, planks, squares and plans.

Source: geometry; what is kept from a check, what a saw takes and what is worth turning are our own judgement.
"""

import math
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from wood.arrays import Array
from wood.errors import check_range
from wood.turning.bowls import Rim

# What is kept from a check, and from the bark where the rim does not follow it.
MARGIN_M, SAFE_MARGIN_M, BARK_M = 0.006, 0.018, 0.004
# The tight rings about the pith go with it even in sound wood; a chainsaw's kerf; what is left over each bowl's diameter along the log.
PITH_M, KERF_M, OVER_M = 0.010, 0.010, 0.012
LEAST_BOWL_M, LEAST_SQUARE_M = 0.10, 0.025
HEIGHTS = (0.28, 0.36, 0.46, 0.60)
FAR = 10.0


class Shape(StrEnum):
    """What is looked for in a half."""

    BOWL = "bowl"
    HEMISPHERE = "hemisphere"
    SPHERE = "sphere"
    CYLINDER = "cylinder"
    RIM = "rim"


def profile(shape: Shape, height: float = 0.4, rim: Rim = Rim.PITH) -> Array:
    """A shape a metre wide standing on the origin, as corners anticlockwise, (n, 2).

    Args:
        height: of a bowl or a cylinder, as a share of its width, 0.05…1.
    Raises:
        OutOfRange.

    >>> profile(Shape.CYLINDER, 0.5).max(axis=0)
    array([0.5, 0.5])
    """
    check_range("height", height, 0.05, 1.0)
    if shape in (Shape.HEMISPHERE, Shape.SPHERE):
        angle = np.linspace(0, math.pi, 25) if shape is Shape.HEMISPHERE else np.linspace(-math.pi / 2, 1.5 * math.pi, 48, endpoint=False)
        return np.column_stack([0.5 * np.cos(angle), 0.5 * np.sin(angle) + (0.5 if shape is Shape.SPHERE else 0.0)])
    if shape is Shape.CYLINDER:
        right = [(0.5, 0.0), (0.5, height)]
    elif shape is Shape.RIM:
        right = [(0.5, 0.0), (0.5, 0.06), (0.4, 0.12)]
    elif rim is Rim.PITH:
        right = [(0.5, 0.0), (0.5, 0.30 * height), (0.42, 0.68 * height), (0.28, height)]
    else:
        right = [(0.28, 0.0), (0.42, 0.32 * height), (0.5, 0.70 * height), (0.5, height)]
    return np.array([*right, *[(-x, y) for x, y in reversed(right)]])


@dataclass(frozen=True)
class Cuts:
    """Two parallel cuts along the log: the direction of their lines on its end (degrees from x, 0…180), and how far above and below the
    pith they lie (m).

    ``upper_m`` counts along the normal that is the direction turned a quarter to the left.
    """

    angle_deg: float
    upper_m: float
    lower_m: float

    @property
    def slab_m(self) -> float:
        """The thickness between the cuts."""
        return self.upper_m + self.lower_m


@dataclass(frozen=True)
class Blank:
    """A row of like blanks in one half: ``count`` of them along the log, each ``diameter_m`` by ``height_m``.

    ``upper`` says in which half. ``aside_m`` is how far along the cut its middle lies from the pith's foot, ``pith_m`` how far the pith
    lies beyond the cut.
    ``outline`` is its section on the log's end, (n, 2). ``clear_m`` is how far the nearest check stays away; ``crosses`` the strokes that
    it holds.
    ``cores`` are the diameters of bowls that come out of its inside.
    """

    upper: bool
    diameter_m: float
    height_m: float
    aside_m: float
    pith_m: float
    count: int
    outline: Array
    clear_m: float
    rim: Rim = Rim.PITH
    crosses: tuple[int, ...] = ()
    cores: tuple[float, ...] = ()

    @property
    def is_dangerous(self) -> bool:
        """Whether it holds a check: it may fly apart on the lathe."""
        return bool(self.crosses)

    @property
    def volume_m3(self) -> float:
        """The wood of the whole row, as blanks."""
        return self.count * math.pi / 4 * self.diameter_m**2 * self.height_m


@dataclass(frozen=True)
class Plank:
    """A quartered plank from the slab: on which side of the pith, from where to where along the cut (m), and its thickness."""

    from_m: float
    to_m: float
    thickness_m: float

    @property
    def width_m(self) -> float:
        return abs(self.to_m - self.from_m)


@dataclass(frozen=True)
class Square:
    """A square for a spindle or a box, by its middle on the log's end; all of a plan are one size and lie at one angle."""

    x_m: float
    y_m: float


class Kind(StrEnum):
    """What a plan is best at."""

    LARGEST = "largest"
    MOST = "most"
    SAFEST = "safest"
    BALANCED = "balanced"
    OWN = "own"


@dataclass(frozen=True)
class Plan:
    """A way to cut a log into bowls. ``cut_off_m`` is what is cut off the checked end first, ``other_off_m`` off the other, ``cut_off`` the
    strokes that go with it; ``squares`` are what is left beside the bowls for spindles, of ``side_m``, each as long as a length is.
    """

    kind: Kind
    cuts: Cuts
    blanks: tuple[Blank, ...]
    planks: tuple[Plank, ...]
    cut_off_m: float
    usable_m: float
    cut_off: tuple[int, ...] = ()
    other_off_m: float = 0.0
    squares: tuple[Square, ...] = ()
    side_m: float = 0.0

    @property
    def volumes_m3(self) -> tuple[float, float, float]:
        """What it gives as bowl blanks, as planks and as squares."""
        planks = sum(plank.width_m * plank.thickness_m for plank in self.planks) * self.usable_m
        return sum(blank.volume_m3 for blank in self.blanks), planks, len(self.squares) * self.side_m**2 * self.usable_m

    @property
    def bowls(self) -> int:
        return sum(blank.count for blank in self.blanks)

    @property
    def largest_m(self) -> float:
        return max((blank.diameter_m for blank in self.blanks), default=0.0)

    @property
    def clear_m(self) -> float:
        """How far the nearest check stays away from any of its blanks."""
        return min((blank.clear_m for blank in self.blanks), default=FAR)


@dataclass(frozen=True)
class Wanted:
    """What is wanted of a log.

    ``least_m`` is the smallest bowl worth turning, ``margin_m`` what is kept from checks, ``rim`` which way rims face, ``shape`` what is
    looked for.
    ``diameter_m`` insists on a size, checks or not. ``plank_m`` is how thick the plank between is to be at least.

    Raises:
        OutOfRange.
    """

    least_m: float = LEAST_BOWL_M
    margin_m: float = MARGIN_M
    rim: Rim = Rim.PITH
    shape: Shape = Shape.BOWL
    diameter_m: float | None = None
    plank_m: float = 0.0

    def __post_init__(self) -> None:
        check_range("least_m", self.least_m, 0.03, 1.5, " m")
        check_range("margin_m", self.margin_m, 0.001, 0.2, " m")
        check_range("plank_m", self.plank_m, 0.0, 0.5, " m")
        if self.diameter_m is not None:
            check_range("diameter_m", self.diameter_m, 0.03, 1.5, " m")

    @property
    def heights(self) -> tuple[float, ...]:
        return HEIGHTS if self.shape in (Shape.BOWL, Shape.CYLINDER) else (0.4,)
