"""How thick to saw green wood so that the size that is wanted is left when it is dry and planed.

Sources: shrinkage and the geometry of rings, Wood Handbook ch. 4 and :mod:`wood.movement.section`; sawing variation is a mill's own, usual
figures our own judgement (a band mill about 0.5 mm, a chain mill 1.5 mm, one standard deviation).
"""

from dataclasses import dataclass

from wood.errors import OutOfRange, check_range
from wood.movement.section import pith_for, settled_board, size_ratios
from wood.movement.shrinkage import Shrinkage

# One board in twenty may be sawn thinner than is asked.
ONE_IN_TWENTY = 1.645
USUAL_VARIATION_M, USUAL_PLANING_M = 0.0005, 0.0008
USUAL_PITH_M = 0.15
MOST_M = 0.3


@dataclass(frozen=True)
class Sawn:
    """The green size to set the saw to, and what becomes of it: metres, each taken off what was before."""

    green_m: float
    variation_m: float
    shrinks_m: float
    warp_m: float
    planing_m: float
    wanted_m: float


def green_thickness(
    shrinkage: Shrinkage,
    ring_angle_deg: float,
    width_m: float,
    wanted_m: float,
    moisture: float,
    *,
    planing_m: float = USUAL_PLANING_M,
    variation_m: float = USUAL_VARIATION_M,
    pith_m: float = USUAL_PITH_M,
) -> Sawn:
    """How thick to saw.

    Args:
        ring_angle_deg: between rings and the wide face, 0…90°; width_m: green, 10 mm…1.5 m; wanted_m: dry and planed, 2 mm…0.25 m.
        moisture: that it is planed at, fraction, 0.02…0.3.
        planing_m: taken off each face, 0…20 mm; variation_m: of the saw, one standard deviation, 0…10 mm; pith_m: how far off the pith
        lies, 20 mm…2 m.
    Raises:
        OutOfRange: also where no thickness up to 0.3 m would do.

    >>> from wood.species import species_named
    >>> from wood.movement.shrinkage import of_species
    >>> oak = green_thickness(of_species(species_named("white_oak")), 0.0, 0.2, 0.0206, 0.08)
    >>> 0.024 < oak.green_m < 0.029
    True
    """
    check_range("width_m", width_m, 0.01, 1.5, " m")
    check_range("wanted_m", wanted_m, 0.002, 0.25, " m")
    check_range("moisture", moisture, 0.02, 0.30)
    check_range("planing_m", planing_m, 0.0, 0.02, " m")
    check_range("variation_m", variation_m, 0.0, 0.01, " m")
    check_range("pith_m", pith_m, 0.02, 2.0, " m")
    ratios = size_ratios(shrinkage, max(shrinkage.fibre_saturation, moisture), moisture)
    pith = pith_for(ring_angle_deg, pith_m)
    needed = wanted_m + 2 * planing_m
    green = needed / min(ratios)
    for _ in range(8):
        board = settled_board(width_m, min(green, MOST_M), *pith, *ratios, rings=2)
        missing = needed - board.flat_thickness_m
        green += missing
        if green > MOST_M:
            raise OutOfRange("wanted_m", wanted_m, 0.002, MOST_M / 2, " m")
        if abs(missing) < 1e-6:
            break
    dry = settled_board(width_m, green, *pith, *ratios, rings=2)
    variation = ONE_IN_TWENTY * variation_m
    return Sawn(green + variation, variation, green - dry.thickness_m, dry.thickness_m - dry.flat_thickness_m, 2 * planing_m, wanted_m)
