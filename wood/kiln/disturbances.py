"""What disturbs a chamber at work, from when to when: the power cut, the door open, fans or heat that stand still, a spray that sticks.

Source: what each stops or lets in follows from what it is; how much air an open door changes is our own judgement (thirty times an hour, a
twin door on a calm day).
"""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from wood.arrays import Array
from wood.errors import check_range

# Columns of what works in an hour, as shares of it: fans, heat, compressor, the program's own spray, an open door, a spray that sticks.
FANS, HEAT, COMPRESSOR, SPRAYS, OPEN, STUCK = range(6)
UNDISTURBED = (1.0, 1.0, 1.0, 1.0, 0.0, 0.0)


class Disturbed(StrEnum):
    """What is wrong: no power, an open door, fans or heat that stand still, a spray that cannot be shut."""

    POWER = "power"
    DOOR = "door"
    FANS = "fans"
    HEAT = "heat"
    SPRAY = "spray"


STOPS = {
    Disturbed.POWER: (FANS, HEAT, COMPRESSOR, SPRAYS),
    Disturbed.DOOR: (),
    Disturbed.FANS: (FANS,),
    Disturbed.HEAT: (HEAT,),
    Disturbed.SPRAY: (),
}
BEGINS = {Disturbed.DOOR: OPEN, Disturbed.SPRAY: STUCK}


@dataclass(frozen=True)
class Disturbance:
    """What was wrong from when to when, in days since the run's first hour.

    Raises:
        OutOfRange: days −4000…4000, an end before the beginning.
    """

    what: Disturbed
    from_day: float
    to_day: float

    def __post_init__(self) -> None:
        check_range("from_day", self.from_day, -4000.0, 4000.0, " days")
        check_range("to_day", self.to_day, self.from_day, 4000.0, " days")


def by_hour(disturbances: Sequence[Disturbance], hours: int) -> Array:
    """What works in each hour: a row an hour, a column for each of :data:`FANS` … :data:`STUCK`, shares of the hour.

    Args:
        hours: 1…20 000.
    Raises:
        OutOfRange.

    >>> by_hour([Disturbance(Disturbed.FANS, 0.0, 1.5 / 24)], 3)[:, FANS].tolist()
    [0.0, 0.5, 1.0]
    """
    rows = np.tile(np.array(UNDISTURBED), (int(check_range("hours", hours, 1, 20_000)), 1))
    begins = np.arange(len(rows), dtype=float)
    for disturbance in disturbances:
        within = np.clip(np.minimum(disturbance.to_day * 24, begins + 1) - np.maximum(disturbance.from_day * 24, begins), 0.0, 1.0)
        for column in STOPS[disturbance.what]:
            rows[:, column] = np.maximum(rows[:, column] - within, 0.0)
        if disturbance.what in BEGINS:
            column = BEGINS[disturbance.what]
            rows[:, column] = np.minimum(rows[:, column] + within, 1.0)
    return rows
