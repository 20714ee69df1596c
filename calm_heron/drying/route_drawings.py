"""Routes on one waterline: each a thread from the saw to what is wanted."""

import math
from dataclasses import dataclass
from datetime import timedelta

import numpy as np

from calm_heron.drying.by_route import Compared, WoodByRoute
from calm_heron.drying.route_names import route_method_name
from calm_heron.questions.tools import Put, Reader
from calm_heron.site.dates import short_day
from calm_heron.site.drawing import BREAK, MoistureScale, Scale, Tick, moisture_ticks, path, shortened, spread_labels
from calm_heron.site.numbers import points
from wood.drying.stages import Moved

WIDE, NARROW, HEIGHT = 620, 380, 330
LEFT, ABOVE, BELOW, LABEL_GAP = 36, 16, 28, 19
RIGHT = {WIDE: 150, NARROW: 112}
# So many letters of a route's name.
LETTERS = {WIDE: 22, NARROW: 13}
# Beyond this many times the route to take, slow ones run out of the drawing.
MOST_TIMES, LEAST_DAYS, MOST_DAYS = 4.0, 60.0, 2000.0


@dataclass(frozen=True)
class Move:
    """Where a route's wood is moved on: a mark that can be dragged, the field it sets, and what it says."""

    x: float
    y: float
    sets: str
    percent: float
    said: str


@dataclass(frozen=True)
class RouteThread:
    """One route: its line, where it is moved, its label, and whether it is the one to take, or the one chosen."""

    key: str
    d: str
    moves: list[Move]
    end: tuple[float, float]
    label: str
    label_y: float
    best: bool


@dataclass(frozen=True)
class RoutesDrawing:
    width: int
    height: int
    left: float
    right: float
    wanted: float
    threads: list[RouteThread]
    across: list[Tick]
    up: list[Tick]
    levels: str
    summary: str


def drawing(put: Put[WoodByRoute], comparison: Compared, reader: Reader, narrow: bool) -> RoutesDrawing:
    """All routes side by side, as far as the one to take and some way on."""
    best, question, width = comparison.best, comparison.question.question, NARROW if narrow else WIDE
    longest = max((route.answer.days for route in comparison.routes if route.arrives), default=LEAST_DAYS)
    days = min(max(longest * 1.05, LEAST_DAYS), MOST_DAYS, max(best.answer.days * MOST_TIMES, LEAST_DAYS) if best else MOST_DAYS)
    right = width - RIGHT[width]
    x = Scale(0.0, days, LEFT, right)
    lowest = max(0.0, question.target - 0.03)
    y = MoistureScale(lowest, question.start, ABOVE, HEIGHT - BELOW)
    ends, lines = [], []
    for route in comparison.routes:
        history = route.answer.history
        # A route ends where the wood is what is wanted.
        at = np.linspace(0.0, min(days, route.answer.days if route.arrives else float(history.days[-1])), 90)
        mean = np.interp(at, history.days, history.mean)
        if route.arrives and route.answer.days <= days:
            # A load is run until its slow boards are there: its middle one is drier by then.
            mean = np.maximum(mean, question.target)
            mean[-1] = question.target
        lines.append([(x(float(day)), y(float(value))) for day, value in zip(at, mean, strict=True)])
        ends.append(lines[-1][-1])
    spread = spread_labels([end[1] for end in ends], LABEL_GAP, ABOVE + 6, HEIGHT - BELOW)
    threads = [
        RouteThread(
            item.route.key,
            path(line),
            [_move(move, x, y) for move in item.moved if move.day < days],
            end,
            shortened(comparison.question.name_of(item.route.key).short, LETTERS[width]),
            level,
            best is not None and item.route.key == best.route.key,
        )
        for item, line, end, level in zip(comparison.routes, lines, ends, spread, strict=True)
    ]
    step = next((size for size in (14, 30, 61, 91, 183, 365, 730) if days / size <= (6 if width == WIDE else 4)), 730)
    across = [Tick(x(day), short_day(put.tells["begun"] + timedelta(days=day))) for day in range(0, math.floor(days) + 1, step)]
    return RoutesDrawing(
        width,
        HEIGHT,
        LEFT,
        right,
        y(question.target),
        threads,
        across,
        moisture_ticks(lowest, question.start, y),
        " ".join(f"{y(at):.1f},{100 * at:.2f}" for at in sorted({lowest, min(BREAK, question.start), question.start}, reverse=True)),
        "Threads of moisture through time, one for each route, down to the target.",
    )


def _move(move: Moved, x: Scale, y: MoistureScale) -> Move:
    said = f"moved at {points(move.moisture, 0)} percent"
    return Move(x(move.day), y(move.moisture), route_method_name(move.where).set_by, round(100 * move.moisture, 1), said)
