"""What is known of how fast a species dries: its fitted factor, how sure it is, and on what it stands (``data/diffusivity.csv``)."""

from dataclasses import dataclass
from functools import lru_cache

from wood import field
from wood.errors import NotKnown
from wood.species import Species, species
from wood.tables import number, rows


@dataclass(frozen=True)
class Figures:
    """A species' drying figures.

    ``spread`` is one standard deviation of ln f for a single board. ``basis`` is ``"fitted"`` (to published air-drying days),
    ``"estimated"`` (from specific gravity and kind of wood, so with a wider band) or ``"relative"`` (``stands_on`` says whose).
    """

    wood: field.Wood
    spread: float
    green_moisture: float
    basis: str
    stands_on: str


@lru_cache(maxsize=1)
def _table() -> dict[str, dict]:
    return {row["key"]: row for row in rows("diffusivity")}


def of_species(one: Species) -> Figures:
    """The drying figures of a species.

    Raises:
        NotKnown: no specific gravity at hand, nor a near relative's, so nothing can be said.

    >>> of_species(species("white_oak")).basis
    'fitted'
    """
    row = _table().get(one.key)
    if row is None:
        raise NotKnown("specific_gravity", one.common_name)
    gravity = one.specific_gravity_green or species(row["stands_on"]).specific_gravity_green
    wood = field.Wood(gravity, number(row["factor"]), number(row["permeability"]), one.fibre_saturation)
    return Figures(wood, number(row["spread"]), number(row["green_moisture"]), row["basis"], row["stands_on"] or "")
