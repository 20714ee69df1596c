"""A simulated kiln controller: a chamber and a load whose true state only it knows, speaking to Calm Heron through its door for devices as
a real one would.

    ./heron simulate kiln --door http://127.0.0.1:8000/devices/v1/ --token TOKEN --species sugar_maple

It asks what is to be set, runs its chamber so for as long as its clock says, and tells dry bulb, wet bulb, power and condensate. It can be
told to fail. It knows nothing of the application but its door: the physics is that of the core, the load's true pace and moisture are its
own.
"""

import argparse
import random
import time
from collections.abc import Callable
from contextlib import nullcontext
from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta
from typing import Any, TextIO

from simulators.door import AnyDoor, Door
from simulators.reporting import truth_line
from wood.air import climate
from wood.air.climate import AirSeries
from wood.air.psychrometrics import Air
from wood.kiln import chambers, loads
from wood.kiln.chambers import Kind
from wood.kiln.disturbances import Disturbance, Disturbed
from wood.kiln.programs import Phase, Program, Setting
from wood.kiln.sharing import Lot, boards_of
from wood.species import species_named

# Failures of the chamber itself; and those that its controller notices by itself, in its words.
DISTURBS = {what.value for what in Disturbed}
# How closely its sensor reads.
SENSES_K = 0.05
NOTICED = {"fans": "fans do not turn", "heat": "no heat", "sensor": "sensor reads nonsense"}


@dataclass
class Chamber:
    """A chamber with its load, hour by hour: what was set at each is remembered, and what comes of all of it is the core's run from the
    first hour on.
    """

    lot: Lot
    core: chambers.Chamber
    outdoors: AirSeries
    pace: float
    set_points: list[tuple[float, float]] = field(default_factory=list)
    failing: list[str] = field(default_factory=list)

    def hour(self, dry_bulb_c: float, humidity: float, fails: str = "") -> dict[str, float]:
        """One hour at a set point; what is read of it at its end."""
        self.set_points.append((dry_bulb_c, humidity))
        self.failing.append(fails)
        hours = len(self.set_points)
        settings, lengths = self._settings()
        disturbed = [
            Disturbance(Disturbed(failed), hour / 24, (hour + 1) / 24) for hour, failed in enumerate(self.failing) if failed in DISTURBS
        ]
        program = Program(
            tuple(Setting(Phase.CONDITIONING, 0.0, dry, damp, length) for (dry, damp), length in zip(settings, lengths, strict=True)),
            0.08,
            "",
            "",
            False,
            -1.0,
            0.08,
        )
        ran = loads.run(
            boards_of([self.lot]),
            program,
            self.core,
            self.outdoors,
            pace=self.pace,
            days=max(hours / 24, 0.05),
            disturbed=disturbed,
        )
        last = min(hours, ran.hours) - 1
        air = Air(float(ran.temperature_c[last]), min(float(ran.humidity[last]), 1.0))
        read = {
            "dry_bulb_c": round(air.temperature_c, 2),
            "wet_bulb_c": round(air.wet_bulb_c, 2),
            "leaving_c": round(air.temperature_c - ran.drop_k(last), 2),
            "power_kwh": round(float(ran.power_w[last].sum()) / 1000, 3),
            "water_kg": round(float(ran.water_kg_h[last, 1]), 3),
            "moisture": float(ran.mean[last]),
        }
        if fails == "sensor":
            read["dry_bulb_c"], read["wet_bulb_c"] = 129.0, 20.0
        return read

    def _settings(self) -> tuple[list[tuple[float, float]], list[float]]:
        """Set points that were held, and for how many hours each."""
        held: list[tuple[float, float]] = []
        lengths: list[float] = []
        for point in self.set_points:
            if held and held[-1] == point:
                lengths[-1] += 1.0
            else:
                held.append(point)
                lengths.append(1.0)
        return held, lengths


def run(
    door: AnyDoor,
    chamber: Chamber,
    *,
    hours: int,
    begins: datetime,
    fails: Callable[[int], str] = lambda hour: "",
    say: Callable[[str], None] = lambda words: None,
    wait_s: float = 0.0,
    notices: bool = True,
    each_hour: int = 1,
    written: TextIO | None = None,
) -> list[dict[str, Any]]:
    """So many hours of the controller's life: it asks, holds, and tells; what it told.

    Args:
        begins: the moment of its first hour; fails: what fails in an hour (one of :data:`simulators.lines.FAILURES`); wait_s: how long an
        hour takes; notices: whether its controller tells of the failures that it can see; each_hour: how often it tells within an
        hour, 1…60; written: a file for what is true.
    """
    lines: list[dict[str, Any]] = []
    chance = random.Random(1)
    for hour in range(hours):
        wanted = door.asked()
        if "dry_bulb_c" not in wanted:
            say("No load, or its program is over: everything is off.")
            break
        failed = fails(hour)
        read = chamber.hour(wanted["dry_bulb_c"], wanted["humidity"], failed)
        if failed in ("silent", "power"):
            say(f"hour {hour}: nothing is told.")
            continue
        told = []
        for number in range(each_hour):
            at = begins + timedelta(hours=hour + number / each_hour)
            key = f"{begins:%Y%m%d%H%M}-{hour}" + (f".{number}" if number else "")
            reading = {"key": key, "at": at.isoformat()} | {name: value for name, value in read.items() if name != "moisture"}
            if number:
                # No sensor reads alike twice, and what was counted is told once.
                reading |= {"dry_bulb_c": round(read["dry_bulb_c"] + chance.gauss(0, SENSES_K), 2), "power_kwh": 0.0, "water_kg": 0.0}
                reading["wet_bulb_c"] = min(reading["wet_bulb_c"], reading["dry_bulb_c"])
            if notices and failed in NOTICED:
                reading["fault"] = NOTICED[failed]
            if failed == "stuck" and lines:
                reading = lines[-1] | {"key": key, "at": reading["at"]}
            lines.append(reading)
            told.append(reading)
        say(f"hour {hour}: {read['dry_bulb_c']}°C, wet {read['wet_bulb_c']}°C, {read['power_kwh']} kWh, {read['water_kg']} kg")
        refused = {item["key"] for item in door.told(datetime.now(UTC), told)["refused"]}
        if written:
            for reading in told:
                key, at = str(reading["key"]), datetime.fromisoformat(str(reading["at"]))
                written.write(truth_line(key, at, key not in refused, {"moisture": read["moisture"]}))
        time.sleep(wait_s)
    return lines


def main(options: argparse.Namespace) -> int:
    species = species_named(options.species)
    lot = Lot("load", species, options.thickness_mm / 1000, options.moisture / 100, options.volume_m3)
    chamber = Chamber(lot, chambers.usual(Kind.DEHUMIDIFIER, options.volume_m3), climate.pattern("mild_inland").year, options.pace)
    # Its hours end now, and none lies before the load began.
    door, begins = Door(options.door, options.token), datetime.now(UTC) - timedelta(hours=options.hours)
    if "began_at" in (first := door.asked()):
        begins = max(begins, datetime.fromisoformat(first["began_at"]))
    with options.truth.open("w", encoding="utf-8") if options.truth else nullcontext() as written:
        run(
            door,
            chamber,
            hours=options.hours,
            begins=begins,
            wait_s=options.seconds_an_hour,
            say=print,
            fails=lambda hour: options.fail if options.fail and hour >= options.fail_from else "",
            written=written,
        )
    return 0
