"""How likely a rough bowl is to crack while it dries: a score to compare walls, ways and woods by, said in words and never as a chance.

*The pull.* The skin of each part of the shell wants to shrink and the bowl as a whole does not yet let it. Part of that fades as the wood
creeps (:func:`wood.drying.defects.pull_left`), part stays as long as the skin is held: what is dried slowly is asked less, but a thick wall
that stays wet for months within is never asked nothing. It counts until the bowl's mean falls below fibre saturation and its skin is set.

*What bears it.* That of a board's face (:func:`wood.drying.defects.pull_borne`), in two respects changed: the ends of the grain bear so
much, its sides some three times as much, since cracks of rough bowls begin where the grain runs out; and what opens a crack grows with
the depth that pulls, so that the pull a wall bears falls with the square root of its thickness, as in any brittle layer that shrinks
(Griffith). End grain under wax carries a tenth, as a board's end does. Woods that turners know to check beyond what their figures tell bear
less (``wood/data/checking_woods.csv``).

Sources: Wood Handbook ch. 4 for shrinkage; the rest is our own judgement after common practice. Set so that green maple of ten inches with
an inch of wall is at a high risk on an open shelf in a heated room and at some in a paper bag; nothing is fitted to counts, for nobody has
published any. A bowl that holds its pith is at a very high risk whatever its wall.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum
from functools import lru_cache

import numpy as np

from wood.arrays import Array
from wood.drying import defects, field
from wood.errors import check_range
from wood.sizes import FOUR_QUARTER_GREEN_M
from wood.species import Species
from wood.tables import rows
from wood.turning.bowls import WALL_M, Part
from wood.units import INCH_M

# The share of a pull that does not fade while the skin is held.
STAYS = 0.30
# What the sides of the grain are asked beside its ends.
SIDE_SHARE = 0.30
# Below the second share of fibre saturation nothing counts any more, from the first on all of it.
WET, SET = 1.0, 0.7
PITH_SCORE = 2.0


class CrackRisk(StrEnum):
    """How likely cracks are, from the scores in :data:`FROM` on."""

    LITTLE = "little"
    SOME = "some"
    HIGH = "high"
    VERY_HIGH = "very high"


FROM = {CrackRisk.LITTLE: 0.0, CrackRisk.SOME: 0.5, CrackRisk.HIGH: 1.0, CrackRisk.VERY_HIGH: 1.7}
# The one limit: what is thicker is at a high risk.
LIMIT = FROM[CrackRisk.HIGH]


def grade(score: float) -> CrackRisk:
    """A score, 0…1000, as a risk.

    Raises:
        OutOfRange.

    >>> grade(0.2).value, grade(0.7).value, grade(1.2).value, grade(3.0).value
    ('little', 'some', 'high', 'very high')
    """
    check_range("score", score, 0.0, 1000.0)
    return next(risk for risk, least in reversed(FROM.items()) if score >= least)


@lru_cache(maxsize=1)
def _known_to_check() -> dict[str, tuple[float, str]]:
    return {row["key"]: (row.number("times"), row["words"]) for row in rows("checking_woods")}


def known_to_check(species: Species) -> str:
    """What turners know of a wood that checks beyond what its figures tell; empty for others."""
    return _known_to_check().get(species.key, (1.0, ""))[1]


@dataclass(frozen=True)
class Shell:
    """A shell that dried: its parts and a run of each at the same moments, which of them are sealed, its wall (1 mm…0.3 m), and diffusion
    along over across the grain (0.1…100).

    Raises:
        OutOfRange: also where there is no part, or they differ in number.
    """

    parts: Sequence[Part]
    runs: Sequence[field.History]
    sealed: Sequence[bool]
    wall_m: float
    along_grain: float

    def __post_init__(self) -> None:
        check_range("parts", len(self.parts), 1, 10_000)
        check_range("runs", len(self.runs), len(self.parts), len(self.parts))
        check_range("sealed", len(self.sealed), len(self.parts), len(self.parts))
        check_range("wall_m", self.wall_m, *WALL_M, " m")
        check_range("along_grain", self.along_grain, 0.1, 100.0)


def scores(shell: Shell, species: Species, temperature_c: Array) -> Array:
    """How hard a shell is asked at each moment of its runs: from 1 on the risk is high.

    Args:
        temperature_c: of the wood at those moments, −100…300°C.
    Raises:
        OutOfRange. NotKnown: the species' shrinkage or specific gravity.
    """
    shares = np.array([part.share for part in shell.parts])
    pairs = [defects.skin_and_whole(ran, species, part.slab_m) for part, ran in zip(shell.parts, shell.runs, strict=True)]
    bowl = np.average([whole for _skin, whole in pairs], axis=0, weights=shares)
    mean = np.average([ran.mean for ran in shell.runs], axis=0, weights=shares)
    counts = np.clip((mean / species.fibre_saturation - SET) / (WET - SET), 0.0, 1.0)
    borne = defects.pull_borne(species, FOUR_QUARTER_GREEN_M) / _known_to_check().get(species.key, (1.0, ""))[0]
    asked = np.zeros(mean.size)
    for part, sealed, (skin, _whole) in zip(shell.parts, shell.sealed, pairs, strict=True):
        held = skin - bowl
        pull = STAYS * np.maximum(held, 0.0) + (1 - STAYS) * defects.pull_left(shell.runs[0].days, held, temperature_c)
        end = float(np.clip((part.faster - 1) / max(shell.along_grain - 1, 1e-9), 0.0, 1.0))
        asked = np.maximum(asked, pull * (SIDE_SHARE + (1 - SIDE_SHARE) * end) * (defects.SEALED_ENDS_SHARE if sealed else 1.0))
    return np.asarray(asked * counts / borne * np.sqrt(shell.wall_m / INCH_M))
