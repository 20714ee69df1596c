"""A load that runs, followed by its weighings: at which pace its boards really dry, and when it is over.

Source: runs of :mod:`wood.kiln.loads`; one pace for all of a load, so that the model's mean of the weighed boards is theirs, held to three
times the usual at most (ours).
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from wood.air.climate import AirSeries
from wood.errors import check_range
from wood.kiln import loads
from wood.kiln.chambers import Chamber
from wood.kiln.disturbances import Disturbance
from wood.kiln.loads import Followed, Ran
from wood.kiln.programs import Program

PACES = (1 / 3, 3.0)
TRIES = 7
NEAR = 0.001
# A weighing so early says more of the warming than of the wood.
FROM_DAY = 0.75


@dataclass(frozen=True)
class Weighed:
    """A board as it was weighed: its number among the boards, the day, its moisture (fraction)."""

    board: int
    day: float
    moisture: float


@dataclass(frozen=True)
class Forecast:
    """The run that fits the weighings, and how many times as fast as usual that is."""

    ran: Ran
    pace: float

    def expected(self, weighed: Weighed) -> float:
        """What the model has a board at on the day it was weighed."""
        hour = min(max(round(weighed.day * 24) - 1, 0), self.ran.hours - 1)
        return float(self.ran.means[weighed.board, hour])


def follow(
    boards: Sequence[Followed],
    program: Program,
    chamber: Chamber,
    outdoors: AirSeries,
    weighed: Sequence[Weighed],
    disturbed: Sequence[Disturbance] = (),
) -> Forecast:
    """The run of a load that fits what was weighed; at the usual pace where nothing was weighed late enough to say.

    Args:
        boards: 1…200, those that are weighed among them; weighed: any number, newest last; disturbed: what was wrong
        with the chamber meanwhile, in days since the first hour.
    Raises:
        OutOfRange: a board that is not among them. NotKnown.
    """
    check_range("boards", len(boards), 1, loads.MOST_BOARDS)
    for weighing in weighed:
        check_range("board", weighing.board, 0, len(boards) - 1)
        check_range("day", weighing.day, -1.0, loads.LONGEST_DAYS, " days")
        check_range("moisture", weighing.moisture, -0.5, 4.0)
    newest: dict[int, Weighed] = {weighing.board: weighing for weighing in weighed if weighing.day >= FROM_DAY}

    def run(pace: float) -> Ran:
        return loads.run(boards, program, chamber, outdoors, pace=pace, disturbed=disturbed)

    if not newest:
        return Forecast(run(1.0), 1.0)

    def off(ran: Ran) -> float:
        """How much wetter the model is than the boards, in the mean."""
        forecast = Forecast(ran, 1.0)
        return float(np.mean([forecast.expected(item) - item.moisture for item in newest.values()]))

    low, high = np.log(PACES)
    middle, tried = 0.0, run(1.0)
    for _ in range(TRIES):
        miss = off(tried)
        if abs(miss) < NEAR:
            break
        low, high = (middle, high) if miss > 0 else (low, middle)
        middle = (low + high) / 2
        tried = run(float(np.exp(middle)))
    return Forecast(tried, float(np.exp(middle)))
