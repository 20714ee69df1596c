"""A log that is left as it is: how long it keeps before its sapwood stains and its wood rots, and what it will split when it dries in the
round.

Sources: warm days until stain and decay by class, as for boards (:mod:`wood.drying.defects`, after AH-188 and Wood Handbook ch. 14); that
bark and sealed ends keep a log two and a half times as long as open ends do is our own judgement. The split is ring geometry
(:func:`wood.movement.section.total_split_rad`).
"""

from dataclasses import dataclass

import numpy as np

from wood.air.climate import MONTH_BEGINS, AirSeries
from wood.drying import defects
from wood.errors import check_range
from wood.movement.section import size_ratios, total_split_rad
from wood.movement.shrinkage import Shrinkage
from wood.species import Species

# Warm days that bark and sealed ends put off stain by, against open ends; sapwood of any species does not resist decay.
SEALED_KEEPS, SAPWOOD_ROTS_DAYS = 2.5, 150.0
LONGEST_DAYS = 3 * 365.0
DIAMETER_M = (0.05, 2.0)


@dataclass(frozen=True)
class Keeps:
    """How long a log keeps, in days from the day it was felled (infinite: over three years): until its sapwood stains, until its sapwood
    rots, until its heartwood does.
    """

    stains: float
    sapwood_rots: float
    heartwood_rots: float
    susceptible: str

    @property
    def saw_within(self) -> float:
        """The days in which it is to be sawn for clean wood."""
        return min(self.stains, self.sapwood_rots)


def keeps(species: Species, series: AirSeries, *, sealed: bool) -> Keeps:
    """How long a log keeps in its bark.

    Args:
        series: the air outdoors from the day it was felled on, a whole year; sealed: whether its ends are.

    >>> from wood.air.climate import pattern
    >>> from wood.species import species_named
    >>> maple, year = species_named("sugar_maple"), pattern("four_seasons").year
    >>> winter, summer = (keeps(maple, year.starting(day), sealed=True) for day in (335.0, 152.0))
    >>> winter.stains > summer.stains
    True
    """
    share = defects.fungal_share(series.by_day(series.temperature_c))
    warm = np.cumsum(np.tile(share, int(np.ceil(LONGEST_DAYS / share.size))))
    longer = SEALED_KEEPS if sealed else 1.0
    susceptible = defects.stain_class(species)

    def after(limit: float) -> float:
        day = int(np.searchsorted(warm, limit))
        return float(day) if day < LONGEST_DAYS else float("inf")

    heart = defects.DECAY_DAYS.get(species.decay_resistance, defects.DECAY_DAYS[None])
    return Keeps(after(defects.STAIN_DAYS[susceptible] * longer), after(SAPWOOD_ROTS_DAYS * longer), after(heart * longer), susceptible)


def keeps_by_month(species: Species, series: AirSeries, *, sealed: bool) -> tuple[float, ...]:
    """The days in which a log is to be sawn that is felled on the first of each month, January first, outdoors in a whole year of air."""
    return tuple(keeps(species, series.starting(float(first)), sealed=sealed).saw_within for first in MONTH_BEGINS)


@dataclass(frozen=True)
class Split:
    """What a log opens to when it dries in the round: the whole angle (degrees), and how wide one split is at its rim (metres)."""

    angle_deg: float
    rim_m: float


def split(shrinkage: Shrinkage, diameter_m: float, moisture: float) -> Split:
    """The split of a log that holds its pith, dried to a moisture throughout.

    Args:
        diameter_m: green, 50 mm…2 m; moisture: fraction, 0…0.3.
    Raises:
        OutOfRange.

    >>> from wood.movement.shrinkage import of_species
    >>> from wood.species import species_named
    >>> oak = split(of_species(species_named("white_oak")), 0.4, 0.12)
    >>> 8 < oak.angle_deg < 14 and 0.02 < oak.rim_m < 0.05
    True
    """
    check_range("diameter_m", diameter_m, *DIAMETER_M, " m")
    check_range("moisture", moisture, 0.0, 0.30)
    k_radial, k_tangential = size_ratios(shrinkage, max(shrinkage.fibre_saturation, moisture), moisture)
    angle = total_split_rad(k_radial, k_tangential)
    return Split(float(np.degrees(angle)), angle * diameter_m / 2 * k_radial)
