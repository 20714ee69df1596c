"""What is known of how fast a species dries: its fitted factor, how sure it is, and on what it stands (``data/diffusivity.csv``)."""

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from wood import field
from wood.errors import NotKnown
from wood.species import Species, species
from wood.tables import number, rows

# Moisture of green stock where nothing is tabulated.
USUAL_GREEN = 0.80


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
        return _estimated(one)
    gravity = one.basic_specific_gravity or species(row["stands_on"]).specific_gravity_green
    wood = field.Wood(gravity, number(row["factor"]), number(row["permeability"]), one.fibre_saturation)
    return Figures(wood, number(row["spread"]), number(row["green_moisture"]), row["basis"], row["stands_on"] or "")


def _estimated(one: Species) -> Figures:
    """A species that is not in the table: on the line of ln factor over ln specific gravity that its estimated kin lie on."""
    gravity = one.basic_specific_gravity
    if gravity is None:
        raise NotKnown("specific_gravity", one.common_name)
    kin = [
        (math.log(other.specific_gravity_green), math.log(float(row["factor"])), row)
        for row in _table().values()
        if row["basis"] == "estimated" and (other := species(row["key"])).group == one.group and other.specific_gravity_green
    ]
    slope, start = np.polyfit([x for x, _, _ in kin], [y for _, y, _ in kin], 1)
    factor = math.exp(start + slope * math.log(gravity))
    # The room there is for water, filled as far as it usually is in green stock (Wood Handbook ch. 4).
    green = min(USUAL_GREEN, 0.8 * (1.54 - gravity) / (1.54 * gravity))
    permeability = float(np.median([float(row["permeability"]) for _, _, row in kin]))
    spread = max(float(row["spread"]) for _, _, row in kin)
    return Figures(field.Wood(gravity, factor, permeability, one.fibre_saturation), spread, green, "estimated", "")
