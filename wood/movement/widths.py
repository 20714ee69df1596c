"""How wide boards and what is glued up of them are, from the day it is built through its course.

Sizes are those of the day it is built. A width at another moisture follows from the ratio of sizes, so that there and back is exact.
Source: Wood Handbook (FPL-GTR-282) ch. 4 and 13; the spread of a single board about its species' mean, 15%, ch. 4.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from wood.arrays import Same, Values
from wood.errors import check_range
from wood.movement.course import Course
from wood.movement.shrinkage import Shrinkage, remaining

# One standard deviation of a single board's shrinkage about its species' mean. Boards of one panel often come from one tree: half
# of it is taken to be common to all (our judgement).
SPREAD, COMMON_SHARE = 0.15, 0.5
WIDTH_M = (0.0005, 60.0)
# Air that is judged wrongly is wrong by much the same in summer and winter: of its doubt so much is the swing's (our judgement).
SWING_SHARE = 0.5


@dataclass(frozen=True)
class Strip:
    """A board of a panel as wide as it is on the day: its shrinkage, the angle of its rings to the wide face (0 flat … 90 quarter), its
    width.
    """

    shrinkage: Shrinkage
    ring_angle_deg: float
    width_m: float

    @property
    def across(self) -> float:
        """Its shrinkage across its width, green to ovendry."""
        return self.shrinkage.at_ring_angle(self.ring_angle_deg)

    def width_at(self, built: float, moisture: Values) -> Same:
        """Its width at a moisture (fraction), having been built at another."""
        saturation = self.shrinkage.fibre_saturation
        return self.width_m * remaining(self.across, moisture, saturation) / remaining(self.across, built, saturation)

    def per_point(self, built: float) -> float:
        """How much a point of moisture (0.01) moves it about the moisture it was built at, as a share of its width."""
        saturation = self.shrinkage.fibre_saturation
        if built >= saturation:
            return 0.0
        return 0.01 * self.across / saturation / float(remaining(self.across, built, saturation))


def width_at(strips: Sequence[Strip], built: float, moisture: Values) -> Same:
    """The width of boards side by side.

    Args:
        strips: at least one; built: the moisture of the day they were this wide, 0…10; moisture: fraction, scalar or array.
    Raises:
        OutOfRange: no boards, or a moisture below nothing.

    >>> from wood.movement.shrinkage import Shrinkage
    >>> oak = Strip(Shrinkage(0.056, 0.105, 0.30, "published"), 0, 0.15)
    >>> there = width_at([oak] * 4, 0.08, 0.12)
    >>> round(float(there), 4)
    0.6091
    """
    check_range("boards", len(strips), 1, 10_000)
    return sum(strip.width_at(built, moisture) for strip in strips)


@dataclass(frozen=True)
class Swing:
    """How far a width goes from the day it is built. Metres; the doubts are two standard deviations: of the species, of the
    moisture it was built at, of the air."""

    built_m: float
    least_m: float
    most_m: float
    growth_uncertainty_m: float
    shrink_uncertainty_m: float
    range_uncertainty_m: float

    @property
    def growth_m(self) -> float:
        """The most it grows beyond what it was on the day; never below nothing."""
        return max(0.0, self.most_m - self.built_m)

    @property
    def shrink_m(self) -> float:
        """The most it shrinks below what it was on the day."""
        return max(0.0, self.built_m - self.least_m)

    @property
    def range_m(self) -> float:
        return self.most_m - self.least_m

    @property
    def growth_at_most_m(self) -> float:
        """The growth to allow for: what is expected and what is left open."""
        return self.growth_m + self.growth_uncertainty_m

    @property
    def shrink_at_most_m(self) -> float:
        return self.shrink_m + self.shrink_uncertainty_m


def swing(strips: Sequence[Strip], course: Course) -> Swing:
    """The swing of boards side by side through a course.

    Raises:
        OutOfRange: no boards.
    """
    return _swing(strips, course, course.mean)


def swing_of_air(strips: Sequence[Strip], course: Course) -> Swing:
    """The swing that the air alone would make, had the wood for ever to follow it.

    Raises:
        OutOfRange: no boards.
    """
    return _swing(strips, course, np.append(course.level, course.built))


def _swing(strips: Sequence[Strip], course: Course, moistures: np.ndarray) -> Swing:
    built_m = float(width_at(strips, course.built, course.built))
    least, most = float(width_at(strips, course.built, moistures.min())), float(width_at(strips, course.built, moistures.max()))
    # What a point of moisture moves the whole.
    per_point = sum(strip.width_m * strip.per_point(min(course.built, 0.25)) for strip in strips)
    share = 2 * SPREAD * np.sqrt(COMMON_SHARE + (1 - COMMON_SHARE) / len(strips))
    loose, air = per_point * course.uncertainty / 0.01, per_point * course.climate_uncertainty / 0.01

    def uncertainty(change: float, from_moisture: float) -> float:
        return float(np.hypot(share * change, from_moisture))

    return Swing(
        built_m,
        least,
        most,
        uncertainty(most - built_m, loose),
        uncertainty(built_m - least, loose),
        uncertainty(most - least, SWING_SHARE * air),
    )


def length_at(length_m: float, shrinkage: Shrinkage, built: float, moisture: Values) -> Same:
    """The length along the grain at another moisture: 0.15% green to ovendry in normal wood, up to 2% in juvenile and reaction wood.

    Args:
        length_m: 0.5 mm…60 m.
    Raises:
        OutOfRange.
    """
    check_range("length_m", length_m, *WIDTH_M, " m")
    saturation = shrinkage.fibre_saturation
    return length_m * remaining(shrinkage.longitudinal, moisture, saturation) / remaining(shrinkage.longitudinal, built, saturation)


# Along the grain, green to ovendry: juvenile and reaction wood at its worst (Wood Handbook ch. 4).
WORST_LONGITUDINAL = 0.02
