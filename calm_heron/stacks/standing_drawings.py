"""Stacks from above in their yard, and one across: wet heart, dry edges."""

from dataclasses import dataclass

import numpy as np

from calm_heron.site.drawing import shortened
from calm_heron.site.numbers import points
from calm_heron.site.ramp import colour, ink_on
from calm_heron.stacks.standing import StackNow
from wood.units import FOOT_M, System
from wood.written import said_length

# Drawing units in a metre at the most: a yard with one stack is no bigger than others.
WIDE, NARROW, MOST_HEIGHT, SIDE, MOST_SCALE = 620, 340, 420, 40, 46.0
# Stacks of which nobody said where they stand are set in a row, this far apart (metres).
APART_M, MARGIN_M = 1.0, 1.0
# What is written at a stack: its letters, how many of them of its tag, and how high both lines are, drawing units.
LETTER, MOST_LETTERS, WORDS_HIGH = 7.8, 16, 36.0
ACROSS_WIDTH, ACROSS_HEIGHT = 300, 84


@dataclass(frozen=True)
class OnMap:
    """A stack from above: its rectangle in drawing units, the colour of its moisture, its tag and what is said under it."""

    tag: str
    x: float
    y: float
    width: float
    height: float
    fill: str
    ink: str
    said: str
    ready: bool
    # The tag as it is written, and where: above the stack, higher where another's words are.
    name: str
    said_y: float


@dataclass(frozen=True)
class YardMap:
    width: int
    height: int
    stacks: list[OnMap]
    scale_x: float
    scale_width: float
    scale_y: float
    scale_text: str
    summary: str


def yards(stacks: list[StackNow], system: System) -> list[tuple[str, YardMap]]:
    """A yard for a wide and for a narrow screen, each with the class that shows it there."""
    return [("wide-only", yard(stacks, system)), ("narrow-only", yard(stacks, system, NARROW))]


def yard(result: list[StackNow], system: System, width: int = WIDE) -> YardMap:
    """Stacks where they stand, to scale; those whose place was not said in a row in front."""
    placed, free = [], APART_M
    for item in result:
        long, wide = (item.pile.length_m if item.pile else 2.4), item.stack.width_m
        if item.stack.x_m is not None and item.stack.y_m is not None:
            placed.append((item, item.stack.x_m, item.stack.y_m, long, wide))
        else:
            placed.append((item, free, 0.0, long, wide))
            free += long + APART_M
    # Only the part of the yard that something stands on is drawn.
    left_m, near_m = min(x for _, x, *_ in placed), min(y for _, _, y, *_ in placed)
    right = max(x + long for _, x, _, long, _ in placed) - left_m + MARGIN_M
    far = max(y + wide for _, _, y, _, wide in placed) - near_m
    scale = min((width - 2 * SIDE) / right, (MOST_HEIGHT - 2 * SIDE - 20) / far, MOST_SCALE)
    height = round(far * scale + 2 * SIDE + 20)
    stacks: list[OnMap] = []
    for placement, x, y, long, wide in placed:
        moisture = _mean(placement)
        said = "ready to move" if placement.is_ready else f"{points(moisture, 0)}%, day {placement.days}"
        name = shortened(placement.stack.tag, MOST_LETTERS)
        left, top = SIDE + (x - left_m) * scale, height - SIDE - 20 - (y - near_m + wide) * scale
        length, said_y = LETTER * max(len(name), len(said)), top
        while any(abs(left - one.x) < length and abs(said_y - one.said_y) < WORDS_HIGH for one in stacks):
            said_y -= 2
        stacks.append(
            OnMap(
                placement.stack.tag,
                left,
                top,
                long * scale,
                wide * scale,
                colour(moisture),
                ink_on(moisture),
                said,
                placement.is_ready,
                name,
                said_y,
            )
        )
    unit = FOOT_M if system.is_inch else 1.0
    step = unit * next((size for size in (1.0, 2.0, 5.0, 10.0, 20.0, 50.0) if size * unit * scale > 50), 50.0)
    return YardMap(
        width, height, stacks, SIDE, step * scale, height - 14, said_length(step, system), f"{len(result)} stacks from above, to scale."
    )


def _mean(stack: StackNow) -> float:
    """A stack's moisture now: that of its slowest lot."""
    return stack.slowest.moisture if stack.slowest else stack.stack.start_moisture


@dataclass(frozen=True)
class StackCell:
    x: float
    width: float
    fill: str
    ink: str
    text: str


@dataclass(frozen=True)
class Across:
    """A stack across, from edge to edge: each place in the colour of its moisture."""

    width: int
    height: int
    cells: list[StackCell]
    summary: str


def across(stack: StackNow) -> Across:
    """By the model today."""
    assert stack.progress is not None
    ran, days = stack.progress.by_place, stack.progress.days
    now = [float(np.interp(days, ran.days, ran.means[:, place])) for place in range(ran.places.size)]
    wide = ACROSS_WIDTH / len(now)
    cells = [
        StackCell(position * wide, wide, colour(moisture), ink_on(moisture), points(moisture, 0)) for position, moisture in enumerate(now)
    ]
    return Across(ACROSS_WIDTH, ACROSS_HEIGHT, cells, f"From edge to edge: {', '.join(cell.text for cell in cells)} percent.")
