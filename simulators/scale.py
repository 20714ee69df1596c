"""A simulated scale: rough bowls, or the sample boards of a kiln's load, whose true state only it knows, weighed every few days and told to
Calm Heron through its door for devices.

    ./heron simulate scale --door http://127.0.0.1:8000/devices/v1/ --token TOKEN --bowl maple-bowl-02=sugar_maple:250:25
    ./heron simulate scale --door http://127.0.0.1:8000/devices/v1/ --token TOKEN --sample A=sugar_maple:28.6:64:1900

It knows nothing of the application but its door: what is to be weighed it asks, what it weighs is the core's shell or board with a pace and
a wetness of its own.
"""

import argparse
from collections.abc import Callable, Iterable, Sequence
from contextlib import nullcontext
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Any, TextIO

import numpy as np

from simulators.door import AnyDoor, Door
from simulators.reporting import truth_line
from wood.air.climate import AirSeries, constant
from wood.drying import field
from wood.drying.diffusivity import of_species
from wood.kiln import chambers, loads
from wood.kiln.chambers import Kind
from wood.kiln.sharing import Lot, boards_of, program_of
from wood.species import species_named
from wood.turning.bowls import Bowl, parts
from wood.turning.drying import SHELF, wood_of

STEP_KG, NOISE = 0.001, 0.001


@dataclass(frozen=True)
class Hidden:
    """A bowl as it really is: its wood, size, pace and wetness beside its species'."""

    tag: str
    species_key: str
    bowl: Bowl
    pace: float = 1.0
    wet: float = 1.0

    def masses_kg(self, days: Iterable[float], air: AirSeries) -> np.ndarray:
        """What it weighs so many days after it was turned."""
        figures = of_species(species_named(self.species_key))
        own = field.Wood(
            figures.wood.specific_gravity, figures.wood.factor * self.pace, figures.wood.permeability, figures.wood.fibre_saturation
        )
        looked, drive = np.asarray(list(days), float), field.driven(air, SHELF)
        start = min(figures.green_moisture * self.wet, 0.9 * own.greatest_moisture)
        shell = parts(self.bowl, own.along_grain)
        means = [field.dry(wood_of(part, own), part.slab_m, start, drive, max(looked[-1], 1.0), out_days=looked).mean for part in shell]
        return own.density * self.bowl.volume_m3 * (1 + np.average(means, axis=0, weights=[part.share for part in shell]))


@dataclass(frozen=True)
class HiddenSample:
    """A sample board as it really is, in a kiln that runs by the published schedule of its wood: its ovendry mass, moisture and pace."""

    tag: str
    species_key: str
    thickness_m: float
    moisture: float
    dry_kg: float
    pace: float = 0.9

    def masses_kg(self, days: Iterable[float], air: AirSeries) -> np.ndarray:
        """What it weighs so many days after it was cut."""
        species = species_named(self.species_key)
        lot = Lot(self.tag, species, self.thickness_m, self.moisture, 1.0)
        chamber = chambers.usual(Kind.DEHUMIDIFIER, 1.0)
        ran = loads.run(boards_of([lot], 1), program_of([lot], 0.08, chamber), chamber, air, pace=self.pace)
        hours = np.clip(np.round(np.asarray(list(days), float) * 24).astype(int) - 1, -1, ran.hours - 1)
        return self.dry_kg * (1 + np.where(hours < 0, self.moisture, ran.means[0, hours]))


def run(
    door: AnyDoor,
    bowls: Sequence[Hidden | HiddenSample],
    *,
    days: list[float],
    begins: datetime,
    seed: int = 1,
    slip: str = "",
    say: Callable[[str], None] = lambda words: None,
    air: AirSeries | None = None,
    written: TextIO | None = None,
) -> list[dict[str, Any]]:
    """Weigh bowls or samples on some days after ``begins`` and tell it, each weighing once; what was told.

    ``slip`` names a bowl whose last weight is told ten times; ``written`` is a file for what is true.
    """
    chance = np.random.default_rng(seed)
    lines: list[dict[str, Any]] = []
    masses: dict[str, float] = {}
    for hidden in bowls:
        true = hidden.masses_kg(days, air or constant(18.0, 0.5))
        noisy = true * (1 + chance.normal(0, NOISE, len(days)))
        for number, (day, mass) in enumerate(zip(days, noisy, strict=True)):
            shown = round(float(mass) / STEP_KG) * STEP_KG
            if hidden.tag == slip and number == len(days) - 1:
                shown *= 10
            at, key = begins + timedelta(days=day), f"{hidden.tag}-{begins:%Y%m%d}-{number}"
            masses[key] = float(true[number])
            lines.append({"key": key, "at": at.isoformat(), "tag": hidden.tag, "mass_kg": round(shown, 4)})
    lines.sort(key=lambda item: item["at"])
    for reading in lines:
        answer = door.told(datetime.now(UTC), [reading])
        why = answer["refused"][0]["why"] if answer["refused"] else "kept"
        if written:
            at, mass_kg = datetime.fromisoformat(reading["at"]), masses[reading["key"]]
            written.write(truth_line(reading["key"], at, not answer["refused"], {reading["tag"]: mass_kg}))
        say(f"{reading['tag']}: {reading['mass_kg'] * 1000:.0f} g, {why}")
    return lines


def _hidden(tag: str, species: str, diameter_mm: float, wall_mm: float) -> Hidden:
    wide = diameter_mm / 1000
    # It dries a little slower than its species, and is wetter.
    return Hidden(tag, species, Bowl(wide, 0.4 * wide, wall_mm / 1000), 0.85, 1.05)


def _sample(tag: str, species: str, thickness_mm: float, moisture: float, dry_g: float) -> HiddenSample:
    return HiddenSample(tag, species, thickness_mm / 1000, moisture / 100, dry_g / 1000)


def main(options: argparse.Namespace) -> int:
    door = Door(options.door, options.token)
    print(f"To be weighed: {', '.join(door.asked().get('weigh', [])) or 'none'}.")
    begins = datetime.now(UTC) - timedelta(days=max(options.days), minutes=1)
    hidden: list[Hidden | HiddenSample] = [*(_hidden(*item) for item in options.bowl), *(_sample(*item) for item in options.sample)]
    with options.truth.open("w", encoding="utf-8") if options.truth else nullcontext() as written:
        run(door, hidden, days=options.days, begins=begins, slip=options.slip, say=print, written=written)
    return 0
