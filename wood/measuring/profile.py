"""Moisture through the thickness as readings tell it: at which depth a reading stands, and the curve through two of them.

A drying board's profile is nearly a parabola (FPL-GTR-6, AH-188), so its mean lies about a fifth of the thickness from the face.
"""

import math
from dataclasses import dataclass
from enum import StrEnum

from wood.errors import check_range

# Where the usual reading and a deliberate shell reading are taken, as a share of the thickness from the face.
USUAL_DEPTH = 0.2
SHELL_DEPTH = 0.05


def pinless_depth(sensing_depth_m: float, thickness_m: float) -> float:
    """The depth, as a share of the thickness, that a pinless reading stands for in wood whose moisture is a parabola.

    What the meter feels counts less the deeper it lies: in proportion to the way that is left to its depth (our judgement of how a
    field from plates on one face fades; makers publish none). In a 27 mm board a meter for 19 mm reads what lies at a fifth of the
    thickness, in thicker stock the shell.

    Args:
        sensing_depth_m: 2…60 mm; thickness_m: 0.5 mm…1.5 m. A sensing depth beyond the other face counts as the whole thickness.
    Raises:
        OutOfRange.

    >>> round(pinless_depth(0.019, 0.027), 2), round(pinless_depth(0.019, 0.054), 2)
    (0.19, 0.11)
    """
    check_range("sensing_depth_m", sensing_depth_m, 0.002, 0.06, " m")
    check_range("thickness_m", thickness_m, 0.0005, 1.5, " m")
    share = min(sensing_depth_m / thickness_m, 1.0)
    # The mean of (1 − 2x)² under a weight that falls in a straight line from the face to the depth.
    mean = 1 - 4 * share / 3 + 2 * share**2 / 3
    return (1 - math.sqrt(mean)) / 2


class ProfileState(StrEnum):
    """What a profile tells: the core wetter, both alike, or the surface wetter."""

    DRYING = "drying"
    EQUALISED = "equalised"
    REWETTED = "rewetted"


@dataclass(frozen=True)
class Profile:
    """Moisture through the thickness as a parabola between two equal faces; fractions."""

    surface: float
    core: float
    # A log or a round spindle, whose outer layers are most of its wood.
    is_round: bool = False
    # Two is the parabola; less where a parabola would put the surface below what the driest air leaves in wood.
    power: float = 2.0

    @property
    def mean(self) -> float:
        """The mean: of a parabola across a board it lies two thirds of the way to the core and is met at 0.211 of the thickness;
        over a round it lies half way."""
        share = 2 / (self.power + 2) if self.is_round else 1 / (self.power + 1)
        return self.core - (self.core - self.surface) * share

    def at(self, depth_share: float) -> float:
        """Moisture at a depth given as a share of the thickness, 0 face … 0.5 core … 1 other face."""
        check_range("depth_share", depth_share, 0.0, 1.0)
        return self.core - (self.core - self.surface) * abs(1 - 2 * depth_share) ** self.power

    def state(self, tolerance: float = 0.01) -> "ProfileState":
        """Whether core and surface are alike within ``tolerance`` (a fraction above zero), and if not, which is wetter."""
        difference = self.core - self.surface
        if abs(difference) <= tolerance:
            return ProfileState.EQUALISED
        return ProfileState.DRYING if difference > 0 else ProfileState.REWETTED


# The driest that a face is taken to be when nothing but deeper readings tell of it.
DRIEST_SURFACE = 0.03


def profile_from(outer: float, core: float, outer_depth: float = USUAL_DEPTH, *, is_round: bool = False) -> Profile:
    """The profile through an outer reading at ``outer_depth`` (share of thickness, 0…0.35) and a core reading.

    A drying board's profile is nearly a parabola (FPL-GTR-6, AH-188). Where that would need a surface drier than 3% (or half of the
    outer reading, if that is less), the surface stays there and the curve is flattened so that it still passes through both readings.

    Args:
        outer, core: moistures, fractions 0…3.
    Raises:
        OutOfRange.

    >>> round(profile_from(0.117, 0.14).mean, 3)
    0.119
    >>> round(profile_from(0.06, 0.20).at(0.2), 3)
    0.06
    """
    check_range("outer_depth", outer_depth, 0.0, 0.35)
    check_range("outer", outer, 0.0, 3.0)
    check_range("core", core, 0.0, 3.0)
    surface = core - (core - outer) / (1 - 2 * outer_depth) ** 2
    driest = min(DRIEST_SURFACE, outer / 2)
    if surface >= driest or outer_depth == 0:
        return Profile(surface, core, is_round)
    power = math.log((core - outer) / (core - driest)) / math.log(1 - 2 * outer_depth)
    return Profile(driest, core, is_round, power)
