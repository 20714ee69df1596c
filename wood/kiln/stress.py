"""Stress in drying boards, and the prongs that show it.

A board's cells all have one width, so that what would shrink more than its neighbours is stretched: strain is one through the thickness and
stresses sum to nothing. Strain is elastic, free shrinkage, creep that goes with changes of moisture (dε = m·σ·|dM|, Ranta-Maunus 1975 and
all since), and creep that goes with time and heat. The skin of a drying board is stretched while its core is wet, and sets so; when the
core shrinks in its turn the skin is too long and is pressed: case hardening. Damp hot air swells the skin, which cannot give way, and sets
it shorter: conditioning.

Sources: the form, Rice and Youngs (1990), Salin (1992), Ormarsson (1999); stiffness and strength, Wood Handbook ch. 5
(:mod:`wood.movement.strength`); m over the stiffness, 44 to 91 from the figures for spruce (medium), the same for all woods (low). How
creep goes with heat and how much less it is in a second change of moisture were set so that red oak by its schedule is stretched to about a
hundredth (McMillen 1955), turns about when its mean is at 30%, pinches its prongs unconditioned and leaves them straight conditioned as
AH-188 has it, and at 43°C does not (docs/science.md).
"""

from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from wood.arrays import Array
from wood.errors import NotKnown, OutOfRange, check_range
from wood.movement import strength
from wood.species import Species

# Creep with moisture at 20°C, as m times the stiffness at 12%; what of it is left in a change of moisture the wood has been through
# before.
CREEP_DRYING, SECOND_TIME = 55.0, 0.10
# Creep with time: how long stress takes to fade to a third in wet wood at 20°C; how many times longer in ovendry wood.
FADES_DAYS, DRY_FADES = 40.0, 15.0
# The block that tension is measured on is notched: wood under even pull bears about twice that (Wood Handbook: it understates).
EVEN_PULL = 2.0
# A prong is an outer third of the thickness, and this long.
PRONG_SHARE, PRONG_M = 1 / 3, 0.10


@dataclass(frozen=True)
class Give:
    """How a wood gives across its width: free tangential shrinkage (green to ovendry), its stiffness and what pull it bears at 12% and 20
    °C (MPa), and the pull as strain.
    """

    shrinkage: float
    stiffness_mpa: float
    bears_mpa: float

    @property
    def bears(self) -> float:
        """The pull it bears, as strain at 12% and 20°C."""
        return self.bears_mpa / self.stiffness_mpa

    @property
    def row(self) -> Array:
        """As the kernel takes it."""
        return np.array([self.shrinkage, CREEP_DRYING, CREEP_DRYING * SECOND_TIME, FADES_DAYS * 86_400, DRY_FADES])


def of_species(species: Species) -> Give:
    """How a species gives.

    Raises:
        NotKnown: no shrinkage or no gravity at hand.

    >>> from wood.species import species_named
    >>> round(of_species(species_named("white_oak")).bears, 4)
    0.0113
    """
    if species.shrinkage_tangential is None:
        raise NotKnown("shrinkage_tangential", species.common_name)
    result = strength.of_species(species)
    return Give(species.shrinkage_tangential, result.tangential_mpa, EVEN_PULL * result.tension_mpa)


def bears(give: Give, moisture: Array, temperature_c: Array) -> Array:
    """The pull that wood bears at a moisture and a temperature, as strain over the stiffness at 12% and 20°C (Wood Handbook ch. 5: +12%
    at 6%, −20% at 20%; a fifth less for 30 K more).

    Args:
        moisture: fractions, 0…3; temperature_c: −50…120.
    Raises:
        OutOfRange.
    """
    m = np.minimum(check_range("moisture", moisture, 0.0, 3.0), 0.28)
    t = check_range("temperature_c", temperature_c, -50.0, 120.0, "°C")
    try:
        np.broadcast_shapes(m.shape, t.shape)
    except ValueError:
        raise OutOfRange("temperatures", t.size, m.size, m.size) from None
    return give.bears * np.maximum(1 - 2.3 * (m - 0.12), 0.4) * np.exp(-0.0075 * (t - 20.0))


class Prongs(StrEnum):
    """What the prongs of a section do."""

    STRAIGHT = "straight"
    IN = "in"
    TOUCH = "touch"
    OUT = "out"


@dataclass(frozen=True)
class Test:
    """How far prongs lean as soon as they are cut and after a day in a room, as shares of the half gap between them: 0 straight, 1 and more
    touching, below 0 outwards.
    """

    now: float
    later: float

    @property
    def reading(self) -> Prongs:
        """What is read off after a day."""
        return lean(self.later)


# Under this lean prongs are called straight, as an eye at the bench calls them.
STRAIGHT_WITHIN = 0.3


def lean(share: float) -> Prongs:
    """What a lean is called.

    Raises:
        OutOfRange: −100…100.
    """
    check_range("share", share, -100.0, 100.0)
    if abs(share) <= STRAIGHT_WITHIN:
        return Prongs.STRAIGHT
    if share < 0:
        return Prongs.OUT
    return Prongs.TOUCH if share >= 1 else Prongs.IN


def prongs(
    give: Give, creep: Array, moisture: Array, depths_m: Array, widths_m: Array, thickness_m: float, fibre_saturation: float
) -> Test:
    """What the prongs of a section would do.

    The outer third of the thickness is set free: what it has crept, and at once what it has shrunk, bends it by the slope of its strain
    over its depth.

    Args:
        creep: strain of each cell that stays; moisture: of each cell, fraction; depths_m, widths_m: of the cells, metres from the face
        inwards; thickness_m: 3 mm…0.5 m.
    Raises:
        OutOfRange.
    """
    check_range("thickness_m", thickness_m, 0.003, 0.5, " m")
    check_range("fibre_saturation", fibre_saturation, 0.1, 0.5)
    check_range("cells", len(depths_m), 3, 2000)
    for name, values, low, high in (
        ("creep", creep, -1.0, 1.0),
        ("moisture", moisture, 0.0, 3.0),
        ("widths_m", widths_m, 1e-9, 1.0),
        ("depths_m", depths_m, 0.0, 1.0),
    ):
        check_range(f"{name}_values", len(values), len(depths_m), len(depths_m))
        check_range(name, values, low, high)
    creep, moisture, depths_m, widths_m = (np.asarray(values, float) for values in (creep, moisture, depths_m, widths_m))
    inner = depths_m <= max(thickness_m * PRONG_SHARE, depths_m[2])
    x, w = depths_m[inner], widths_m[inner]
    shrunk = give.shrinkage * (np.minimum(moisture, fibre_saturation) / fibre_saturation - 1)

    def share(strain: Array) -> float:
        middle = np.average(x, weights=w)
        slope = np.average((strain - np.average(strain, weights=w)) * (x - middle), weights=w) / np.average((x - middle) ** 2, weights=w)
        # A longer outside bends a prong inwards.
        tip = -slope * PRONG_M**2 / 2
        return float(np.clip(tip / (thickness_m * (1 - 2 * PRONG_SHARE) / 2), -99.0, 99.0))

    return Test(share((creep + shrunk)[inner]), share(creep[inner]))
