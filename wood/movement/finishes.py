"""Finishes as resistances against vapour. A finish slows the movement of wood and does not stop it.

Published is the moisture-excluding effectiveness: pine panels kept at 30% RH are moved to 90% RH at 26.7°C, and after 1, 7 and
14 days the water they took up is compared with that of bare ones (Forest Products Laboratory, FPL-RP-462; Wood Handbook
ch. 16; 28 finishes by coats, 92 rows). The resistance given here is the one with which the moisture field comes nearest to all
three days of that very test. One number cannot repeat all three exactly: oils and thin latex let less through at first than later.
"""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from wood.air import climate
from wood.drying import field
from wood.drying.diffusivity import of_species
from wood.errors import NotKnown, OutOfRange, check_range
from wood.species import species_named
from wood.stacks.air import OpenBoard
from wood.tables import rows

# The panels of the test: ponderosa pine sapwood, 5/8 in thick, coated all over.
PANEL_M = 0.0159
TEST_DAYS = (1.0, 7.0, 14.0)
TEST_C, DRY_AIR, DAMP_AIR = 26.7, 0.30, 0.90
# Resistances tried, s/m, from as good as bare to as good as tight.
RESISTANCES_S_M = np.concatenate([[0.0], np.geomspace(3.0, 3e8, 80)])


@dataclass(frozen=True)
class Finish:
    """A finish of so many coats. ``excluded`` is the published effectiveness after 1, 7 and 14 days (fractions)."""

    key: str
    name: str
    coats: int
    excluded: tuple[float, float, float]
    confidence: str

    @property
    def resistance_s_m(self) -> float:
        """Resistance against vapour, s/m, to put to a face; 0 where the test found no effect."""
        return _fitted(self.excluded)[0]

    @property
    def misfit(self) -> float:
        """How far the field with that resistance stays from the published effectiveness, root mean square over the three days
        (fraction).
        """
        return _fitted(self.excluded)[1]


@lru_cache(maxsize=1)
def all_finishes() -> dict[tuple[str, int], Finish]:
    """Every finish at hand by its key and coats, in the order of the table."""
    return {
        (row["key"], int(row["coats"])): Finish(
            row["key"],
            row["name"],
            int(row["coats"]),
            (row.number("excluded_1_day", 0.01), row.number("excluded_7_days", 0.01), row.number("excluded_14_days", 0.01)),
            row["confidence"],
        )
        for row in rows("finishes")
    }


def finish(key: str, coats: int) -> Finish:
    """The finish with this key and so many coats.

    Raises:
        NotKnown: no such finish. OutOfRange: a number of coats that was not tested; none is no finish.

    >>> finish("shellac", 3).excluded[2]
    0.42
    """
    tested = [count for name, count in all_finishes() if name == key]
    if not tested:
        raise NotKnown("finish", key)
    check_range("coats", coats, min(tested), max(tested))
    if (key, int(coats)) not in all_finishes() or int(coats) != coats:
        raise OutOfRange("coats", float(coats), min(tested), max(tested))
    return all_finishes()[key, int(coats)]


def effectiveness(resistance_s_m: float) -> tuple[float, float, float]:
    """The shares of the water that a bare panel takes up in 1, 7 and 14 days of the test which this resistance keeps out.

    Args:
        resistance_s_m: 0…10⁹ s/m.
    Raises:
        OutOfRange.

    >>> effectiveness(0.0)
    (0.0, 0.0, 0.0)
    """
    return tuple((1 - _taken_up(resistance_s_m) / _taken_up(0.0)).tolist())


@lru_cache(maxsize=256)
def _taken_up(resistance_s_m: float) -> np.ndarray:
    pine = of_species(species_named("ponderosa_pine")).wood
    start = float(climate.constant(TEST_C, DRY_AIR).emc[0])
    drive = field.driven(climate.constant(TEST_C, DAMP_AIR), OpenBoard(), resistance_s_m)
    return field.dry(pine, PANEL_M, start, drive, TEST_DAYS[-1], out_days=TEST_DAYS, tolerance=3e-5).mean - start


@lru_cache(maxsize=1)
def _tried() -> tuple[np.ndarray, np.ndarray]:
    """Resistances on a fine scale and the effectiveness of each on the three days, between the ones that were run."""
    run = np.array([effectiveness(float(item)) for item in RESISTANCES_S_M])
    scale = np.log(np.maximum(RESISTANCES_S_M, 1.0))
    fine = np.linspace(scale[0], scale[-1], 4000)
    return np.where(fine < scale[1] / 2, 0.0, np.exp(fine)), np.column_stack([np.interp(fine, scale, column) for column in run.T])


@lru_cache(maxsize=256)
def _fitted(excluded: tuple[float, float, float]) -> tuple[float, float]:
    resistances, tried = _tried()
    distance = np.sqrt(((tried - np.array(excluded)) ** 2).mean(axis=1))
    nearest = int(np.argmin(distance))
    return float(resistances[nearest]), float(distance[nearest])
