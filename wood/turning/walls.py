"""How thick a bowl is roughed: the rule of thumb, and the two limits it has to lie between.

*Too thin will not true*: the wall must hold the finished wall, half the difference of the oval's two diameters, the rim's rise, and what
centring and cleaning up take (:class:`Least`); never less than the largest round bowl that fits would need
(:func:`wood.turning.oval.least_wall_m`). *Too thick cracks*: the thickest wall that is at no high risk, dried in the chosen way
(:mod:`wood.turning.cracking`). Both are computed for this bowl, and what is advised lies between them where there is room: one advice, one
limit. Where there is none, it is the least that trues, and a gentler way is named.

Sources: a tenth of the diameter, and the sum of the least wall, are common practice; how much a lively species, a closed form or dry wood
moves the tenth is our own judgement.
"""

import math
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from wood.air.climate import AirSeries
from wood.drying.diffusivity import Figures
from wood.errors import check_range
from wood.movement.shrinkage import Shrinkage
from wood.species import Species
from wood.turning import cracking
from wood.turning.bowls import Bowl, Form
from wood.turning.drying import Way, course
from wood.turning.oval import CLEAN_M, Ratios, dried, least_wall_m, ratios
from wood.units import INCH_M

TENTH = 0.10
# How far out of round a usual species goes, as a share of the diameter, and how much of the rule follows that.
USUAL_OVAL, BY_OVAL, FACTORS = 0.045, 0.35, (0.8, 1.35)
BY_FORM = {Form.CALABASH: 1.05, Form.ENCLOSED: 1.12}
# What mounting it anew and a clean cut on both sides take.
CENTRING_M = 2 * CLEAN_M
LOOKED_AT = (0.25, 0.5, 0.8, 1.0, 1.25, 1.6, 2.2, 3.0)
CRACK_DAYS = 240.0


class WallApproach(StrEnum):
    """The ways people settle a rough wall."""

    TENTH = "tenth"
    LIVELY = "lively"
    INCH = "inch"


@dataclass(frozen=True)
class Least:
    """The least rough wall, metres, as its parts: the finished wall, half the difference of the oval's two diameters, the rim's rise, and
    what centring takes. ``fits_m`` is what the largest round bowl on its best axis would need, infinite where no wall does.
    """

    end_wall_m: float
    half_oval_m: float
    rise_m: float
    centring_m: float
    fits_m: float

    @property
    def total_m(self) -> float:
        return max(self.end_wall_m + self.half_oval_m + self.rise_m + self.centring_m, self.fits_m)


@dataclass(frozen=True)
class Walls:
    """The wall to rough a bowl to, metres.

    ``chosen_m`` is ours; ``rules`` what the approaches say. ``least`` is the least that trues to the end wall, ``crack_m`` the thickest
    that is at no high risk in this way of drying: infinite where even the thickest looked at is not, 0 where the thinnest is already,
    ``None`` where the species' figures do not tell. ``tenon_m`` is how much wider than wanted a tenon is left. ``between`` says that there
    is a wall that does both.
    """

    chosen_m: float
    rules: dict[WallApproach, float]
    least: Least
    crack_m: float | None
    tenon_m: float
    out_of_round: float

    @property
    def true_m(self) -> float:
        """The least that trues; infinite where none does."""
        return self.least.total_m

    @property
    def between(self) -> bool:
        return math.isfinite(self.true_m) and (self.crack_m is None or self.true_m <= self.crack_m)


def rules(bowl: Bowl, k: Ratios) -> dict[WallApproach, float]:
    """What the approaches say for a bowl that moves like this.

    >>> round(rules(Bowl(0.25, 0.1, 0.02), Ratios(1.0, 0.97, 0.94))[WallApproach.TENTH], 4)
    0.025
    """
    oval = dried(bowl, k)
    lively = 1 - BY_OVAL + BY_OVAL * (oval.out_of_round_m / bowl.diameter_m) / USUAL_OVAL
    tenth = TENTH * bowl.diameter_m
    return {
        WallApproach.TENTH: tenth,
        WallApproach.LIVELY: tenth * float(np.clip(lively, *FACTORS)) * BY_FORM.get(bowl.form, 1.0),
        WallApproach.INCH: INCH_M,
    }


def least(bowl: Bowl, k: Ratios, end_wall_m: float) -> Least:
    """The least rough wall of a bowl that moves by ``k``, for a finished wall of 1 mm…0.1 m.

    Raises:
        OutOfRange.

    >>> round(least(Bowl(0.2, 0.08, 0.02), Ratios(1.0, 1.0, 1.0), 0.006).total_m, 4)
    0.0076
    """
    check_range("end_wall_m", end_wall_m, 0.001, 0.1, " m")
    oval = dried(bowl, k)
    return Least(end_wall_m, oval.out_of_round_m / 2, abs(oval.rise_m), CENTRING_M, least_wall_m(bowl, k, end_wall_m))


def crack_wall_m(bowl: Bowl, species: Species, figures: Figures, start: float, series: AirSeries, way: Way) -> float | None:
    """The thickest wall that is at no high risk; see :class:`Walls` for 0, infinite and ``None``."""
    most = 0.9 * min(bowl.diameter_m / 2, bowl.height_m)
    looked = np.unique(np.clip(np.array(LOOKED_AT) * TENTH * bowl.diameter_m, 0.003, most))
    questions = []
    for wall in looked:
        crack = course(bowl.with_wall(float(wall)), species, figures, start, series, way, CRACK_DAYS).crack
        if crack is None:
            return None
        questions.append(crack)
    # A thicker wall is never asked less: what the steps of a run leave of a dip is none.
    rising = np.maximum.accumulate(questions)
    if rising[0] >= cracking.LIMIT:
        return 0.0
    if rising[-1] < cracking.LIMIT:
        return math.inf
    k = int(np.argmax(rising >= cracking.LIMIT))
    return float(np.interp(cracking.LIMIT, rising[k - 1 : k + 1], looked[k - 1 : k + 1]))


def walls(
    bowl: Bowl,
    species: Species,
    figures: Figures,
    shrinkage: Shrinkage,
    start: float,
    final: float,
    end_wall_m: float,
    series: AirSeries,
    way: Way,
) -> Walls:
    """How thick to rough a bowl.

    Args:
        start, final: moisture when it is roughed and when it is turned again, fractions; end_wall_m: of the finished bowl, 1 mm…0.1 m.
    Raises:
        OutOfRange: the end wall, or one that is thicker than the bowl could be.
    """
    check_range("end_wall_m", end_wall_m, 0.001, min(0.1, 0.4 * bowl.diameter_m), " m")
    k = ratios(shrinkage, start, final)
    by_rule = rules(bowl, k)
    oval = dried(bowl, k)
    thinnest = least(bowl, k, end_wall_m)
    true = thinnest.total_m
    crack = crack_wall_m(bowl, species, figures, start, series, way)
    # Wood that has done half its shrinking needs half of what green wood is given beyond the end wall.
    to_come = float(np.clip((min(start, shrinkage.fibre_saturation) - final) / max(shrinkage.fibre_saturation - final, 1e-6), 0.0, 1.0))
    wish = end_wall_m + (max(by_rule[WallApproach.LIVELY], end_wall_m) - end_wall_m) * to_come
    chosen = max(wish, true) if math.isfinite(true) else wish
    if crack is not None and math.isfinite(true) and crack < chosen:
        chosen = max(crack, true)
    chosen = min(chosen, 0.9 * min(bowl.diameter_m / 2, bowl.height_m))
    tenon = abs(oval.tenon_along_m - oval.tenon_across_m) + 2 * CLEAN_M
    return Walls(chosen, by_rule, thinnest, crack, tenon, oval.out_of_round_m / bowl.diameter_m)
