"""What a drying is asked about: a piece, from which moisture to which, in which setting.

Source: the field of :mod:`wood.drying.field`; how green boards differ is our own judgement.
"""

from dataclasses import dataclass

import numpy as np

from wood.arrays import Array, Values
from wood.drying import field
from wood.drying.arrival import READ_PER_MEAN, Wanted
from wood.drying.diffusivity import Figures
from wood.drying.methods import Setting
from wood.errors import check_range

# One standard deviation of green moisture between boards.
GREEN_SPREAD = 0.12
# A log dries like a slab: the first terms of the two series agree at this share of its diameter, √(2.467/5.783).
LOG_AS_SLAB = 0.653
LEAST_CHANGE = 0.03


@dataclass(frozen=True)
class Question:
    """A piece, from where to where. Sizes in metres, moistures as fractions.

    With ``wanted`` the wood is to stay there; ``target`` is then the edge of it that it comes to first, for drawings and words.
    ``gradient`` is how much wetter a reading in the middle is than one at the usual depth, at the start.
    ``start_uncertainty`` is one standard deviation of the start as a share of it; a measured board has less than a green one.
    ``length_m`` is given for short pieces, whose ends matter unless sealed.

    Raises:
        OutOfRange: thickness 0.5 mm…1.5 m, start from 0 to all the water that the wood can hold, target 0…1.
    """

    figures: Figures
    thickness_m: float
    start: float
    target: float
    setting: Setting
    width_m: float | None = None
    length_m: float | None = None
    ends_open: bool = True
    start_uncertainty: float = GREEN_SPREAD
    wanted: Wanted | None = None
    gradient: float = 0.0

    def __post_init__(self) -> None:
        check_range("thickness_m", self.thickness_m, *field.THICKNESS_M, " m")
        check_range("start", self.start, 0.0, self.greatest_start)
        check_range("target", self.target, 0.0, 1.0)
        check_range("start_uncertainty", self.start_uncertainty, 0.0, 1.0)
        check_range("gradient", self.gradient, -1.0, 1.0)
        if self.width_m is not None:
            check_range("width_m", self.width_m, 0.001, 5.0, " m")
        if self.length_m is not None:
            check_range("length_m", self.length_m, 0.005, 15.0, " m")

    @property
    def greatest_start(self) -> float:
        """All the water the wood can hold, and a tenth more for what weighing and tables leave open."""
        return min(1.1 * self.figures.wood.greatest_moisture, field.GREATEST_MOISTURE)

    @property
    def as_slab_m(self) -> float:
        """The slab that dries as fast as the piece: narrow pieces lose through their edges too, short ones through their ends.

        1/s² = 1/t² + 1/w² + a/l², the first terms of all directions multiplied; a is how much faster moisture moves along the grain.
        """
        width = np.inf if self.width_m is None else self.width_m
        length = self.length_m if self.length_m is not None and self.ends_open else np.inf
        return float(slabs_like(self.thickness_m, width, length, self.figures.wood.along_grain))

    @property
    def shape(self) -> np.ndarray:
        """What each cell has more or less than the mean at the start: the parabola through both readings."""
        widths = field.grid(self.as_slab_m / 2)
        depth = (np.cumsum(widths) - widths / 2) / widths.sum()
        parabola = 1 / 3 - (1 - depth) ** 2
        return self.gradient / (READ_PER_MEAN / 3) * (parabola - np.average(parabola, weights=widths))

    @property
    def profile(self) -> Array:
        """The moisture of each cell at the start."""
        return np.clip(self.start + self.shape, 0.0, field.GREATEST_MOISTURE)

    @property
    def step_tolerance(self) -> float | None:
        """The largest error of the mean in one step of the field. None, where the wood only has to stay within limits: the field then
        takes the tolerance from the change that the question asks for."""
        return field.STEP_TOLERANCE * max(abs(self.start - self.target), LEAST_CHANGE) if self.wanted else None

    @property
    def rises(self) -> bool:
        """Whether the wood is to take up moisture."""
        return self.start < self.target


def slabs_like(thickness_m: Values, width_m: Values, length_m: Values, along_grain: float = field.ALONG_GRAIN) -> Array:
    """The slabs that dry as fast as pieces of these sizes (m, above zero; infinite where that side does not count), see
    :attr:`Question.as_slab_m`.

    Raises:
        OutOfRange: a size or ``along_grain`` (how much faster moisture moves that way) that is not above zero.
    """
    for name, size in (("thickness_m", thickness_m), ("width_m", width_m), ("length_m", length_m), ("along_grain", along_grain)):
        check_range(name, np.minimum(np.asarray(size, float), 1e9), 1e-6, 1e9)
    sizes = (np.asarray(item, float) for item in (thickness_m, width_m, length_m))
    return np.asarray(sum(weight * size**-2 for weight, size in zip((1.0, 1.0, along_grain), sizes, strict=True)) ** -0.5)


def settling_slabs(thickness_m: Values, width_m: Values, length_m: Values, is_sawn: Values = True) -> Array:
    """The slabs (m) that settle as fast as pieces: sawn ones by all their sides, round ones (not ``is_sawn``; ``thickness_m`` the
    diameter) by their bark and their ends; within what the field can follow.

    Args:
        width_m, length_m: infinite or NaN where that side is sealed or not known.
    Raises:
        OutOfRange: see :func:`slabs_like`.

    >>> log, board = settling_slabs([0.3, 0.027], [0.3, float("nan")], [2.4, float("nan")], [False, True])
    >>> round(float(log), 3), round(float(board), 3)
    (0.189, 0.027)
    """
    thickness, sawn = np.asarray(thickness_m, float), np.asarray(is_sawn, bool)
    width, length = (np.nan_to_num(np.asarray(item, float), nan=np.inf, posinf=np.inf) for item in (width_m, length_m))
    slabs = slabs_like(np.where(sawn, thickness, LOG_AS_SLAB * thickness), np.where(sawn, width, np.inf), length)
    return np.asarray(np.clip(slabs, *field.THICKNESS_M))


def as_slab_of_log_m(diameter_m: float) -> float:
    """The slab that dries as a log does, through its bark; the log's own shape is a cylinder.

    Raises:
        OutOfRange: diameter_m 0.01…2 m.

    >>> round(as_slab_of_log_m(0.4), 3)
    0.261
    """
    check_range("diameter_m", diameter_m, 0.01, 2.0, " m")
    return LOG_AS_SLAB * diameter_m
