"""How fast a workshop's own bowls dry beside their species' figures, by those that came to rest.

Source: normal errors in ln pace about a species' mean (conjugate); how far single bowls scatter is our own judgement.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from wood.errors import check_range

# How far (ln) bowls of one wood, dried one way in one workshop, lie apart, one standard deviation.
BOWL_SPREAD = 0.20
# A band that holds four in five, in standard deviations to each side.
FOUR_IN_FIVE = 1.2816


@dataclass(frozen=True)
class PaceLearnt:
    """How many times as fast as its species' figures a bowl dries here, one standard deviation of that (ln) for the next bowl, and by how
    many bowls that is known.
    """

    share: float
    spread: float
    count: int


def learnt_pace(paces: Sequence[tuple[float, float, float]], species_spread: float) -> PaceLearnt:
    """What the paces of bowls at rest say together of the next one, drawn towards the species' figures while there are few.

    Args:
        paces: of each bowl, best, low and high of the band that holds four in five, 0.01…100; species_spread: one standard deviation of ln
        pace that the figures themselves leave open, 0.01…3.
    Raises:
        OutOfRange.

    >>> learnt_pace([], 0.3).share, round(learnt_pace([(0.7, 0.65, 0.75)] * 6, 0.3).share, 2)
    (1.0, 0.72)
    """
    check_range("species_spread", species_spread, 0.01, 3.0)
    if not len(paces):
        return PaceLearnt(1.0, species_spread, 0)
    best, low, high = check_range("paces", np.asarray(paces, float).reshape(-1, 3), 0.01, 100.0).T
    own = np.hypot(np.abs(np.log(high / low)) / (2 * FOUR_IN_FIVE), BOWL_SPREAD)
    weight = 1 / own**2
    together = float(weight.sum()) + 1 / species_spread**2
    mean = float((weight * np.log(best)).sum()) / together
    return PaceLearnt(math.exp(mean), math.hypot(math.sqrt(1 / together), BOWL_SPREAD), len(paces))
