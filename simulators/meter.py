"""Simulated moisture meters: a pin or a pinless one that goes round boards by hand, and a probe that stays in one, in wood that only they
know.

    ./heron simulate pin --door http://127.0.0.1:8000/devices/v1/ --token TOKEN --board oak-04=white_oak:27:18
    ./heron simulate probe --door http://127.0.0.1:8000/devices/v1/ --token TOKEN --board oak-04=white_oak:27:18

What a meter shows of a moisture is found backwards from its published correction, with a deviation of the board's own and the noise of a
hand beside it.
"""

import argparse
from collections.abc import Callable
from datetime import datetime
from typing import Any

import numpy as np

from simulators.door import Door
from simulators.reporting import report, schedule
from simulators.truths import HiddenBoard
from wood.measuring import meters
from wood.species import Species, species_named

# A board's own deviation from its species and the noise of a single reading (fractions of moisture); how fast a failing meter drifts.
OWN, NOISE, DRIFTS_A_DAY = 0.004, 0.002, 0.004
# By how much a board is heavier or lighter than its species (a share): what a pinless meter feels.
DENSITY = 0.04
WOOD_C = 20.0
# To which share of half the thickness a meter feels.
DEPTHS = {"pin": 0.42, "pinless": 0.5, "probe": 1.0}
LAYERS = {"probe": "core"}


def shown_by_pins(moisture: float, species: Species, temperature_c: float) -> float:
    """What pins show in such wood, a fraction: between what a meter can show, found by halving."""
    return _backwards(lambda raw: meters.correct_pin(raw, species, temperature_c).steps[-1].moisture, moisture)


def shown_by_pinless(moisture: float, species: Species, setting: float | None) -> float:
    """What a pinless meter of a density setting shows of such wood, a fraction."""
    if setting is None or species.specific_gravity is None:
        return moisture
    return moisture * species.specific_gravity / setting


def _backwards(corrected: Callable[[float], float], wanted: float) -> float:
    low, high = meters.READING
    for _ in range(40):
        middle = (low + high) / 2
        low, high = (middle, high) if corrected(middle) < wanted else (low, middle)
    return (low + high) / 2


class InWood:
    """A meter in hidden boards, one after the other; a probe in one."""

    def __init__(self, kind: str, boards: list[HiddenBoard], seed: int, setting: float | None = None) -> None:
        self.kind, self.boards, self.setting = kind, boards, setting
        self.chance = np.random.default_rng(seed)
        self.own = {board.tag: self.chance.normal(0, OWN) for board in boards}
        self.heavier = {board.tag: 1 + self.chance.normal(0, DENSITY) for board in boards}
        self.turn = 0

    def board(self, at: datetime) -> HiddenBoard:
        """Which is read next."""
        return self.boards[self.turn % len(self.boards)]

    def read(self, at: datetime, drifted_days: float) -> dict[str, Any]:
        """What it shows of the next board, after so many days of drift."""
        board = self.board(at)
        self.turn += 1
        species = species_named(board.species_key)
        true = board.at_depth(at, DEPTHS[self.kind]) + self.own[board.tag] + float(self.chance.normal(0, NOISE))
        true += DRIFTS_A_DAY * drifted_days
        if self.kind == "pinless":
            shown = shown_by_pinless(true, species, self.setting) * self.heavier[board.tag]
        else:
            shown = shown_by_pins(true, species, WOOD_C)
        reading: dict[str, Any] = {"shown": round(min(max(shown, meters.READING[0]), meters.READING[1]), 3), "wood_temperature_c": WOOD_C}
        if self.kind in LAYERS:
            return reading | {"layer": LAYERS[self.kind]}
        return reading | {"tag": board.tag}


def main(options: argparse.Namespace) -> int:
    plan = schedule(options)
    boards = [
        HiddenBoard(tag, species, thickness_mm / 1000, plan.begins, moisture / 100)
        for tag, species, thickness_mm, moisture in options.board
    ]
    meter = InWood(options.device, boards, options.seed, options.setting)

    def true(at: datetime) -> dict[str, float]:
        return {board.tag: board.mean(at) for board in boards}

    door = Door(options.door, options.token)
    door.asked()
    report(door, plan, meter.read, f"{options.device}-{options.seed}", true=true, truth=options.truth, goes_on=options.goes_on)
    return 0
