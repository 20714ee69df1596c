"""The gauge beside a verdict: the place's level as water, the tolerance as its edges, the board with its doubt above or below."""

from dataclasses import dataclass

import numpy as np

from calm_heron.site.drawing import Scale, Tick
from calm_heron.site.numbers import figure, points
from calm_heron.site.ramp import colour, ink_on
from wood.judging.readiness import Verdict
from wood.measuring.estimates import Estimate

WIDTH, HEIGHT = 200, 260
TOP, BOTTOM = 16, 244
LEFT, RIGHT = 34, 196


@dataclass(frozen=True)
class Gauge:
    """Heights in drawing units, downwards. ``board_low`` … ``board_high`` is the combined doubt about the difference."""

    width: int
    height: int
    left: float
    right: float
    bottom: float
    water: float
    tolerance_high: float
    tolerance_low: float
    # Between what wood that has been there for years holds today; None where that is no part of it.
    now: tuple[float, float] | None
    board: float
    board_high: float
    board_low: float
    board_x: float
    board_colour: str
    board_ink: str
    ticks: list[Tick]
    roomy: bool
    what: str
    summary: str


def gauge(verdict: Verdict, board: Estimate, what: str = "board") -> Gauge:
    """Geometry for a verdict about a board or ``what`` else it is."""
    edge_low, edge_high = (float(np.asarray(edge)) for edge in (verdict.edges.low, verdict.edges.high))
    now = tuple(float(np.asarray(edge)) for edge in (verdict.edges.now_low, verdict.edges.now_high)) if verdict.has_now else None
    widest = max((abs(edge - verdict.target) for edge in now), default=0.0) if now else 0.0
    reach = max(abs(verdict.difference) + verdict.uncertainty, 2.2 * verdict.tolerance, widest + 0.004, 0.02)
    low, high = max(0.0, verdict.target - reach * 1.08), verdict.target + reach * 1.08
    y = Scale(low, high, BOTTOM, TOP)
    step = 0.01 if high - low < 0.12 else 0.02 if high - low < 0.25 else 0.05
    first = int(low / step) + 1
    return Gauge(
        width=WIDTH,
        height=HEIGHT,
        left=LEFT,
        right=RIGHT,
        bottom=BOTTOM,
        water=y(verdict.target),
        tolerance_high=y(edge_high),
        tolerance_low=y(max(low, edge_low)),
        now=(y(now[1]), y(max(low, now[0]))) if now else None,
        board=y(board.mean),
        board_high=y(min(high, board.mean + verdict.uncertainty)),
        board_low=y(max(low, board.mean - verdict.uncertainty)),
        board_x=(LEFT + RIGHT) / 2 + 10,
        board_colour=colour(board.mean),
        board_ink=ink_on(board.mean),
        # Words between the lines only where they do not lie on each other.
        roomy=y(verdict.target) - y(edge_high) > 16,
        what=what,
        ticks=[Tick(y(k * step), points(k * step, 0)) for k in range(first, int(high / step) + 1)],
        summary=(
            f"The {what} at {points(board.mean)} percent, give or take {points(verdict.uncertainty)}, "
            f"against {points(verdict.target)} percent with {figure(verdict.tolerance)} allowed either way."
            + (f" Wood that has been there for years is between {points(now[0])} and {points(now[1])} percent today." if now else "")
        ),
    )
