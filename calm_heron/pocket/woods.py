"""What the phone knows of each species: its name and how much it shrinks."""

from functools import cache
from typing import Any

from wood.errors import NotKnown
from wood.movement import shrinkage
from wood.species import all_species


@cache
def woods() -> list[list[Any]]:
    """Name, radial and tangential shrinkage and fibre saturation (fractions) of each species whose shrinkage is known, by its name."""
    known = []
    for species in all_species().values():
        try:
            figures = shrinkage.of_species(species)
        except NotKnown:
            continue
        known.append([species.common_name, figures.radial, figures.tangential, figures.fibre_saturation])
    return sorted(known)
