"""Finishes as resistances against vapour. A finish slows the movement of wood and does not stop it.

Published is the moisture-excluding effectiveness: pine panels kept at 30 % RH are moved to 90 % RH at 26.7 °C, and after 14 days the
water they took up is compared with that of bare ones (Forest Products Laboratory, FPL-RP-462; Wood Handbook ch. 16). The
resistance given here is the one with which the moisture field repeats that very test.
"""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from scipy.optimize import brentq

from wood import climate, field
from wood.diffusivity import of_species
from wood.errors import NotKnown
from wood.species import species
from wood.stacks import OpenBoard
from wood.tables import number, rows

# The panels of the test: ponderosa pine sapwood, 5/8 in thick, coated all over.
PANEL_M = 0.0159
TEST_DAYS = 14.0
TEST_C, DRY_AIR, DAMP_AIR = 26.7, 0.30, 0.90
RESISTANCE_S_M = (1.0, 1e8)


@dataclass(frozen=True)
class Finish:
    """A finish of so many coats. ``excluded`` is the published effectiveness after 14 days (fraction)."""

    key: str
    name: str
    coats: int
    excluded: float
    confidence: str

    @property
    def resistance_s_m(self) -> float:
        """Resistance against vapour, s/m; 0 where the test found no effect."""
        return _resistance(self.excluded)


@lru_cache(maxsize=1)
def all_finishes() -> dict[str, Finish]:
    """Every finish at hand, the loosest first."""
    found = [
        Finish(row["key"], row["name"], int(number(row["coats"])), number(row["excluded_14_days"], 0.01), row["confidence"])
        for row in rows("finishes")
    ]
    return {one.key: one for one in sorted(found, key=lambda one: (one.excluded, one.coats))}


def finish(key: str) -> Finish:
    """The finish with this key.

    Raises:
        NotKnown.

    >>> finish("shellac").excluded
    0.42
    """
    if key not in all_finishes():
        raise NotKnown("finish", key)
    return all_finishes()[key]


def effectiveness(resistance_s_m: float) -> float:
    """The share of the water that a bare panel takes up in the test which this resistance keeps out.

    >>> effectiveness(0.0)
    0.0
    """
    return 1 - _taken_up(resistance_s_m) / _taken_up(0.0)


@lru_cache(maxsize=256)
def _taken_up(resistance_s_m: float) -> float:
    pine = of_species(species("ponderosa_pine")).wood
    start = float(climate.constant(TEST_C, DRY_AIR).emc[0])
    drive = field.driven(climate.constant(TEST_C, DAMP_AIR), OpenBoard(), resistance_s_m)
    return float(field.dry(pine, PANEL_M, start, drive, TEST_DAYS, out_days=[TEST_DAYS], tolerance=3e-5).mean[0]) - start


@lru_cache(maxsize=64)
def _resistance(excluded: float) -> float:
    if excluded <= 0:
        return 0.0
    low, high = np.log(RESISTANCE_S_M)
    return float(np.exp(brentq(lambda log: effectiveness(float(np.exp(log))) - excluded, low, high, xtol=0.005)))
