"""A simulated thermo-hygrometer or weather station: it hangs in air that only it knows and tells what its sensors make of that.

./heron simulate hygrometer --door http://127.0.0.1:8000/devices/v1/ --token TOKEN --like room
./heron simulate weather --door http://127.0.0.1:8000/devices/v1/ --token TOKEN
"""

import argparse
from datetime import datetime
from typing import Any

import numpy as np

from simulators.door import Door
from simulators.reporting import report, schedule
from simulators.truths import HiddenAir

# Spread of its noise, how far it is off for good (both °C and a fraction of humidity), and how fast a failing one drifts.
NOISE, OFF, DRIFTS_A_DAY = (0.08, 0.004), (0.15, 0.01), 0.02


class Sensor:
    """A sensor in hidden air."""

    def __init__(self, air: HiddenAir, seed: int) -> None:
        self.air, self.chance = air, np.random.default_rng(seed + 1)
        self.off = self.chance.normal(0, OFF)

    def read(self, at: datetime, drifted_days: float) -> dict[str, Any]:
        """What it shows, after so many days of drift."""
        temperature_c, humidity = self.air.at(at)
        noise = self.chance.normal(0, NOISE)
        damp = humidity + self.off[1] + noise[1] + DRIFTS_A_DAY * drifted_days
        return {
            "temperature_c": round(temperature_c + float(self.off[0] + noise[0]), 1),
            "humidity": round(float(np.clip(damp, 0.0, 1.0)), 3),
        }

    def true(self, at: datetime) -> dict[str, float]:
        """What is really so."""
        temperature_c, humidity = self.air.at(at)
        return {"temperature_c": temperature_c, "humidity": humidity}


def main(options: argparse.Namespace) -> int:
    plan = schedule(options)
    sensor = Sensor(HiddenAir(getattr(options, "like", "yard"), plan.begins, options.seed), options.seed)
    door = Door(options.door, options.token)
    door.asked()
    report(door, plan, sensor.read, f"{options.device}-{options.seed}", true=sensor.true, truth=options.truth, goes_on=options.goes_on)
    return 0
