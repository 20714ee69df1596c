"""The season dial: what a board of each species does between a dry and a damp season, flat and quarter, side by side.

Source: shrinkage of :mod:`wood.movement.shrinkage` (Wood Handbook ch. 4), as ratios of sizes.
"""

from collections.abc import Iterable
from dataclasses import dataclass

from wood.errors import NotKnown, check_range
from wood.movement import shrinkage
from wood.species import Species


@dataclass(frozen=True)
class Season:
    """One species: how much a width moves per point of moisture and over the season (metres), flat-sawn and quarter-sawn, and how
    alike the two are (flat over quarter)."""

    species: Species
    flat_point_m: float
    quarter_point_m: float
    flat_m: float
    quarter_m: float

    @property
    def ratio(self) -> float:
        return self.flat_m / self.quarter_m if self.quarter_m else 1.0


def dial(among: Iterable[Species], width_m: float, low: float, high: float) -> tuple[list[Season], list[Species]]:
    """The season of every species whose shrinkage is known, least movement of flat boards first, and those of which it is not.

    Args:
        width_m: at the middle of the season, 1 mm…60 m; low, high: moistures of the dry and of the damp season, 0.01…0.4, low below high.
    Raises:
        OutOfRange.

    >>> from wood.species import species_named
    >>> known, unknown = dial([species_named("white_oak")], 0.3048, 0.06, 0.10)
    >>> round(known[0].flat_m * 1000, 1), unknown
    (4.6, [])
    """
    check_range("width_m", width_m, 0.001, 60.0, " m")
    check_range("low", low, 0.01, high)
    check_range("high", high, low, 0.4)
    middle = (low + high) / 2
    known, unknown = [], []
    for species in among:
        try:
            figures = shrinkage.of_species(species)
        except NotKnown:
            unknown.append(species)
            continue
        saturation = figures.fibre_saturation

        def width(across: float, moisture: float, saturation: float = saturation) -> float:
            return width_m * shrinkage.size_ratio(across, middle, moisture, saturation)

        def moved(across: float) -> tuple[float, float]:
            return width(across, middle + 0.005) - width(across, middle - 0.005), width(across, high) - width(across, low)

        flat, quarter = moved(figures.tangential), moved(figures.radial)
        known.append(Season(species, flat[0], quarter[0], flat[1], quarter[1]))
    return sorted(known, key=lambda item: item.flat_m), unknown
