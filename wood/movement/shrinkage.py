"""Shrinkage and swelling: in each direction, at each ring angle, between any two moistures (Wood Handbook ch. 4 and 13)."""

from dataclasses import dataclass

import numpy as np

from wood.arrays import Same, Values
from wood.errors import NotKnown, check_range, like_input
from wood.species import Species

# Normal wood, Wood Handbook ch. 4: 0.1-0.2%; juvenile and reaction wood shrink along the grain up to 2%.
LONGITUDINAL = 0.0015
COEFFICIENT_RANGE = (0.06, 0.14)


@dataclass(frozen=True)
class Shrinkage:
    """Green-to-ovendry shrinkage of one species as fractions of the green dimension, with where it comes from.

    ``source`` is ``"published"`` or ``"coefficient"`` (turned back from the movement coefficient where no shrinkage is tabulated).
    """

    radial: float
    tangential: float
    fibre_saturation: float
    source: str
    longitudinal: float = LONGITUDINAL

    def at_ring_angle(self, ring_angle_deg: float) -> float:
        """Shrinkage across a face whose rings meet it at this angle: 0 flat-sawn … 90 quarter-sawn.

        S(θ) = S_T cos²θ + S_R sin²θ.
        """
        check_range("ring_angle_deg", ring_angle_deg, 0.0, 90.0, "°")
        cos2 = np.cos(np.radians(ring_angle_deg)) ** 2
        return float(self.tangential * cos2 + self.radial * (1 - cos2))


def of_species(species: Species) -> Shrinkage:
    """The shrinkage to compute with: the species' own, or turned back from its coefficient.

    Raises:
        NotKnown: neither is at hand.

    >>> from wood.species import species_named
    >>> of_species(species_named("black_cherry")).tangential
    0.071
    """
    if species.shrinkage_radial is not None and species.shrinkage_tangential is not None:
        return Shrinkage(species.shrinkage_radial, species.shrinkage_tangential, species.fibre_saturation, "published")
    if species.coefficient_radial is not None and species.coefficient_tangential is not None:
        radial, tangential = (
            shrinkage_from_coefficient(c, species.fibre_saturation) for c in (species.coefficient_radial, species.coefficient_tangential)
        )
        return Shrinkage(radial, tangential, species.fibre_saturation, "coefficient")
    raise NotKnown("shrinkage", species.common_name)


def remaining(shrinkage: float, moisture: Values, fibre_saturation: float = 0.30) -> Same:
    """What is left of the green dimension at ``moisture``: 1 − S·(M_fs − M)/M_fs below fibre saturation, 1 above it.

    Args:
        shrinkage: green to ovendry, 0…0.5.
        moisture: fraction from 0 up, scalar or array.
        fibre_saturation: 0.15…0.40.
    Source: Wood Handbook ch. 4.
    Raises:
        OutOfRange: shrinkage 0…0.5, fibre_saturation 0.15…0.4, moisture 0…10.

    >>> round(remaining(0.09, 0.10), 3)
    0.94
    """
    check_range("shrinkage", shrinkage, 0.0, 0.5)
    check_range("fibre_saturation", fibre_saturation, 0.15, 0.40)
    m = check_range("moisture", moisture, 0.0, 10.0)
    return like_input(1 - shrinkage * (fibre_saturation - np.minimum(m, fibre_saturation)) / fibre_saturation, moisture)


def size_ratio(shrinkage: float, moisture_from: float, moisture_to: float, fibre_saturation: float = 0.30) -> float:
    """New size over old size. A ratio of sizes, so that going there and back gives exactly one.

    >>> there, back = size_ratio(0.09, 0.20, 0.08), size_ratio(0.09, 0.08, 0.20)
    >>> round(there * back, 12)
    1.0
    """
    return float(remaining(shrinkage, moisture_to, fibre_saturation) / remaining(shrinkage, moisture_from, fibre_saturation))


def change_by_coefficient(size_m: float, coefficient: float, moisture_from: float, moisture_to: float) -> float:
    """Change of a dimension by the coefficient form, ΔD = D·C·ΔM, for moistures of 6-14% (Wood Handbook ch. 13).

    Args:
        size_m: the dimension at ``moisture_from``.
        coefficient: fraction of the dimension per percentage point of moisture.
    Raises:
        OutOfRange: a moisture outside 6-14%, where the form does not hold.

    >>> round(change_by_coefficient(0.3, 0.00369, 0.12, 0.08) * 1000, 2)
    -4.43
    """
    check_range("moisture_from", moisture_from, *COEFFICIENT_RANGE)
    check_range("moisture_to", moisture_to, *COEFFICIENT_RANGE)
    check_range("size_m", size_m, 0.0, 1e4, " m")
    check_range("coefficient", coefficient, 0.0, 0.02)
    return size_m * coefficient * (moisture_to - moisture_from) * 100


def coefficient_from_shrinkage(shrinkage: float, fibre_saturation: float = 0.30) -> float:
    """The coefficient that a shrinkage implies about 10% moisture, C = 1/(M_fs/S − M_fs + 10) per point (Wood Handbook ch. 13).

    Raises:
        OutOfRange: shrinkage 10⁻⁵…0.5, fibre_saturation 0.15…0.4.

    >>> round(coefficient_from_shrinkage(0.071), 5)
    0.00248
    """
    check_range("shrinkage", shrinkage, 1e-5, 0.5)
    check_range("fibre_saturation", fibre_saturation, 0.15, 0.40)
    points = fibre_saturation * 100
    return 1 / (points / shrinkage - points + 10)


def shrinkage_from_coefficient(coefficient: float, fibre_saturation: float = 0.30) -> float:
    """The inverse of :func:`coefficient_from_shrinkage`.

    Raises:
        OutOfRange: coefficient 10⁻⁷…0.02, fibre_saturation 0.15…0.4.

    >>> round(shrinkage_from_coefficient(0.00248), 3)
    0.071
    """
    check_range("coefficient", coefficient, 1e-7, 0.02)
    check_range("fibre_saturation", fibre_saturation, 0.15, 0.40)
    points = fibre_saturation * 100
    return points / (1 / coefficient + points - 10)
