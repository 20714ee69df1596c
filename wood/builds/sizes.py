"""Cut sizes that know today's moisture: how large to make a part today so that it has its wanted size at the mean of its year.

A part is made once: what its wood will still shrink or swell on the way to its year's mean is added at the saw, and only there. Gaps and
slots are then counted from the wanted size, between the driest and the dampest of its year, so that nothing is allowed for twice. What
slides or swings in an opening (a drawer, an inset door) is right at the damp extreme instead: there it must still have its gap.

Sizes in metres, moistures as fractions. Source: shrinkage by :mod:`wood.movement.shrinkage`; when a part is to be right is our own rule.
"""

from dataclasses import dataclass
from enum import StrEnum

from wood.errors import check_range
from wood.movement.framing import CLEAR_M, STAYS_IN_M
from wood.movement.shrinkage import Shrinkage, size_ratio
from wood.movement.widths import SPREAD

SIZE_M = (0.001, 15.0)
MOISTURE = (0.0, 0.6)
RING_DEG = (0.0, 90.0)


class Fit(StrEnum):
    """How a part meets the next one: on its own, a panel in grooves, in an opening that it must not fill, or fixed across the grain of what
    lies under it.
    """

    FREE = "free"
    GROOVE = "groove"
    INSET = "inset"
    FIXED = "fixed"


@dataclass(frozen=True)
class Year:
    """The moistures that a part goes through where it will live: the mean of its year, the driest and the dampest of it.

    Raises:
        OutOfRange: not low ≤ mean ≤ high within 0…0.6.
    """

    mean: float
    low: float
    high: float

    def __post_init__(self) -> None:
        check_range("mean", self.mean, *MOISTURE)
        check_range("low", self.low, MOISTURE[0], self.mean)
        check_range("high", self.high, self.mean, MOISTURE[1])


@dataclass(frozen=True)
class Size:
    """Length, width and thickness in metres.

    Raises:
        OutOfRange: a size outside 1 mm…15 m.
    """

    length_m: float
    width_m: float
    thickness_m: float

    def __post_init__(self) -> None:
        for name in ("length_m", "width_m", "thickness_m"):
            check_range(name, getattr(self, name), *SIZE_M, " m")


@dataclass(frozen=True)
class Sized:
    """A part with its sizes: ``wanted`` where it is to be right, ``cut`` to make it today. ``width_low_m`` and ``width_high_m`` are its
    width at the driest and the dampest of its year, ``uncertainty_m`` what the species leaves open of the way there from today (two
    standard deviations).

    ``gap_m`` is the gap to leave at the wanted size so that the dampest still has the least one (of what is inset: what there is at the
    year's mean);
    ``groove_m`` the least depth of each groove, ``slot_m`` how far a screw must be able to travel each way. None where the fit does not ask
    for it.
    """

    wanted: Size
    cut: Size
    right_at: float
    width_low_m: float
    width_high_m: float
    uncertainty_m: float
    gap_m: float | None = None
    groove_m: float | None = None
    slot_m: float | None = None

    @property
    def added_m(self) -> float:
        """What is added to the width today; below nothing where the wood will still swell."""
        return self.cut.width_m - self.wanted.width_m


def sized(
    wanted: Size, shrinkage: Shrinkage, ring_angle_deg: float, now: float, year: Year, fit: Fit = Fit.FREE, least_gap_m: float = 0.0015
) -> Sized:
    """The sizes of a part.

    Args:
        wanted: at its year's mean; of what is inset, the opening it goes into with ``least_gap_m`` (0…50 mm in all) left at the damp
        extreme.
        ring_angle_deg: of its wide face, 0 flat-sawn … 90 quarter-sawn; now: today's moisture of the wood, 0…0.6.
    Raises:
        OutOfRange.

    >>> from wood.movement.shrinkage import of_species
    >>> from wood.species import species_named
    >>> oak = of_species(species_named("white_oak"))
    >>> top = sized(Size(1.5, 0.9, 0.022), oak, 10, 0.11, Year(0.085, 0.06, 0.11))
    >>> 0.907 < top.cut.width_m < 0.911
    True
    """
    check_range("ring_angle_deg", ring_angle_deg, *RING_DEG, "°")
    check_range("now", now, *MOISTURE)
    check_range("least_gap_m", least_gap_m, 0.0, 0.05, " m")
    across, through = shrinkage.at_ring_angle(ring_angle_deg), shrinkage.at_ring_angle(90 - ring_angle_deg)
    right_at = year.high if fit is Fit.INSET else year.mean
    target = wanted
    if fit is Fit.INSET:
        target = Size(wanted.length_m, check_positive(wanted.width_m - least_gap_m), wanted.thickness_m)

    def at(size: float, share: float, begin: float, end: float) -> float:
        return size * size_ratio(share, begin, end, shrinkage.fibre_saturation)

    cut = Size(
        at(target.length_m, shrinkage.longitudinal, right_at, now),
        at(target.width_m, across, right_at, now),
        at(target.thickness_m, through, right_at, now),
    )
    low, high, mean = (at(target.width_m, across, right_at, moisture) for moisture in (year.low, year.high, year.mean))
    uncertainty = 2 * SPREAD * abs(cut.width_m - target.width_m)
    # From the wanted size on, with what the species leaves open of the year's own movement.
    swells, shrinks = (high - mean) * (1 + 2 * SPREAD), (mean - low) * (1 + 2 * SPREAD)
    gap = groove = slot = None
    if fit is Fit.INSET:
        gap = wanted.width_m - mean
    elif fit is Fit.GROOVE:
        groove = max((shrinks + swells) / 2 + CLEAR_M + STAYS_IN_M, STAYS_IN_M)
        gap = swells / 2 + CLEAR_M
    elif fit is Fit.FIXED:
        slot = max(swells, shrinks) / 2
    return Sized(target, cut, right_at, low, high, uncertainty, gap, groove, slot)


def check_positive(size_m: float) -> float:
    """A width that something is left of when its gap is taken off.

    Raises:
        OutOfRange: less than 1 mm.
    """
    check_range("width_m", size_m, *SIZE_M, " m")
    return size_m
