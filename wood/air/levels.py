"""The level: what the air of four weeks brings wood to, as verdicts go by it, through time.

Sources: four weeks are our own choice; the loop between both sorption curves, :attr:`wood.air.climate.AirSeries.half_loop`.
"""

import numpy as np

from wood.air.climate import AirSeries
from wood.arrays import Array, Values
from wood.errors import check_range

# The level is the mean EMC of four weeks, as in every verdict.
LEVEL_DAYS = 28
GREATEST_MOISTURE = 3.0


def level_through(series: AirSeries, days: float, moisture: Values | None = None) -> Array:
    """The four-week mean of what each day from the start brings wood to; fractions.

    Args:
        days: how many; 0…20 000.
        moisture: the wood's own moisture each day, or one value, to tell on which side of the loop between both sorption curves it
            lies; the table's EMC where it is not given. Wood inside the loop is where it would come to.
    Raises:
        OutOfRange.
    """
    check_range("days", days, 0.0, 20_000.0, " days")
    count = int(np.ceil(days)) + 1
    at = np.arange(count + LEVEL_DAYS) % series.settling.size
    table, half = _four_weeks(series.settling[at], count), _four_weeks(series.half_loop[at], count)
    if moisture is None:
        return table
    own = check_range("moisture", moisture, 0.0, GREATEST_MOISTURE)
    if own.size != 1:
        check_range("moistures", own.size, count, count)
    return np.clip(own, table - half, table + half)


def _four_weeks(daily: np.ndarray, count: int) -> np.ndarray:
    """Running means of the four weeks back, or of what there is since the wood came."""
    sums = np.concatenate([[0.0], np.cumsum(daily)])
    last = np.arange(1, count + 1)
    first = np.maximum(last - LEVEL_DAYS, 0)
    return (sums[last] - sums[first]) / (last - first)
