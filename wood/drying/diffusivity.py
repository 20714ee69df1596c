"""What is known of how fast a species dries: its figures for bound and free water, how sure they are, and on what they stand
(``data/diffusivity.csv``).

Sources: fitted to Air Drying of Lumber (FPL-GTR-117); relatives and estimates as docs/science.md tells.
"""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from wood.drying import field
from wood.errors import NotKnown
from wood.species import Species, species_named
from wood.tables import Row, rows

# Moisture of green stock where nothing is tabulated.
USUAL_GREEN = 0.80


@dataclass(frozen=True)
class Figures:
    """A species' drying figures.

    ``spread`` is one standard deviation of ln f for a single board, ``permeability_spread`` of its ln permeability. ``basis`` is
    ``"fitted"`` (to published air-drying days), ``"estimated"`` (from kind of wood and specific gravity, so with a wider band) or
    ``"relative"`` (``stands_on`` says whose).
    """

    wood: field.Wood
    spread: float
    green_moisture: float
    basis: str
    stands_on: str
    permeability_spread: float = 0.0


@lru_cache(maxsize=1)
def _table() -> dict[str, Row]:
    return {row["key"]: row for row in rows("diffusivity")}


def of_species(species: Species) -> Figures:
    """The drying figures of a species.

    Raises:
        NotKnown: no specific gravity at hand, nor a near relative's, so nothing can be said.

    >>> of_species(species_named("white_oak")).basis
    'fitted'
    """
    row = _table().get(species.key)
    if row is None:
        return _estimated(species)
    gravity = species.basic_specific_gravity or species_named(row["stands_on"]).basic_specific_gravity
    if gravity is None:
        raise NotKnown("specific_gravity", species.common_name)
    wood = field.Wood(gravity, row.number("factor"), row.number("permeability"), species.fibre_saturation)
    return Figures(
        wood, row.number("spread"), row.number("green_moisture"), row["basis"], row["stands_on"], row.number("permeability_spread")
    )


def _estimated(species: Species) -> Figures:
    """A species that is not in the table: bound water by its specific gravity, free water as in its estimated kin."""
    gravity = species.basic_specific_gravity
    if gravity is None:
        raise NotKnown("specific_gravity", species.common_name)
    kin = [row for row in _table().values() if row["basis"] == "estimated" and species_named(row["key"]).group == species.group]
    # The room there is for water, filled as far as it usually is in green stock (Wood Handbook ch. 4).
    green = min(USUAL_GREEN, 0.8 * (1.54 - gravity) / (1.54 * gravity))
    permeability, spread, loose = (
        float(np.median([row.number(name) for row in kin])) for name in ("permeability", "spread", "permeability_spread")
    )
    return Figures(field.Wood(gravity, 1.0, permeability, species.fibre_saturation), spread, green, "estimated", "", loose)
