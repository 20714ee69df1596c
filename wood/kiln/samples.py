"""Sample boards: what their weights say of a load, which half drives the step, how fast they lose water, and which of them cannot be right.

Sources: Dry Kiln Operator's Manual (AH-188) ch. 6: moisture from sections, ovendry mass of the sample, the wettest half (high); safe daily
losses, :func:`wood.drying.defects.safe_rate`. When a sample is called suspect is our own judgement.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from wood.errors import OutOfRange, check_range
from wood.measuring.weighing import LARGEST_MASS_KG, moisture_from_masses

# Two sections from either side of a sample that differ by more than this share are no pair.
SECTIONS_DIFFER = 0.15
# A loss of more than this many times what its neighbours lose in the same days, or a gain of more than this moisture, is no drying.
OUT_OF_LINE, GAINED = 4.0, 0.01
LEAST_LOSS = 0.01
# What green boards lose in a day where nobody has seen how fast these do.
USUAL_LOSS = 0.03


class Doubt(StrEnum):
    """What is wrong with a sample: weighed less than it is ovendry, gained in a kiln that dries, lost far more or less than its neighbours,
    stands where another one belongs, or was not weighed."""

    LIGHTER = "lighter"
    GAINED = "gained"
    OUT_OF_LINE = "out_of_line"
    SWAPPED = "swapped"
    MISSING = "missing"


def from_sections(sections_kg: Sequence[tuple[float, float]]) -> float:
    """The moisture of a sample (fraction) from its sections: pairs of wet and ovendry mass, kg; their mean.

    Raises:
        OutOfRange: no section, or one that weighs more dry than wet; sections that differ by more than a seventh.

    >>> round(from_sections([(0.180, 0.100), (0.176, 0.100)]), 2)
    0.78
    """
    check_range("sections", len(sections_kg), 1, 4)
    results = [moisture_from_masses(wet, dry) for wet, dry in sections_kg]
    middle = sum(results) / len(results)
    if len(results) > 1 and max(results) - min(results) > SECTIONS_DIFFER * max(middle, 0.1):
        raise OutOfRange("sections_differ", max(results) - min(results), 0.0, SECTIONS_DIFFER * max(middle, 0.1))
    return middle


@dataclass(frozen=True)
class Sample:
    """A sample board: its tag, estimated ovendry mass (kg), and its weights in order as (days since the start, kg)."""

    tag: str
    dry_mass_kg: float
    weights: tuple[tuple[float, float], ...]

    def __post_init__(self) -> None:
        check_range("dry_mass_kg", self.dry_mass_kg, 1e-4, LARGEST_MASS_KG, " kg")
        for day, mass in self.weights:
            check_range("day", day, -1.0, 4000.0, " days")
            check_range("mass_kg", mass, 1e-4, LARGEST_MASS_KG, " kg")

    @property
    def moistures(self) -> tuple[tuple[float, float], ...]:
        """Its moistures in order; below nothing where it weighs less than it does ovendry."""
        return tuple((day, mass / self.dry_mass_kg - 1) for day, mass in self.weights)

    @property
    def now(self) -> float | None:
        """Its newest moisture."""
        return self.moistures[-1][1] if self.weights else None

    @property
    def daily_loss(self) -> float | None:
        """What it lost a day since the weighing before, as moisture; None with fewer than two."""
        if len(self.weights) < 2:
            return None
        (first, was), (last, now) = self.moistures[-2:]
        return (was - now) / max(last - first, 0.25)


@dataclass(frozen=True)
class Load:
    """What the samples of a load say: the mean of the wettest half, the wettest and the driest (moistures), and doubts by tag."""

    wettest_half: float
    wettest: float
    driest: float
    doubts: dict[str, Doubt]


def wettest_half(moistures: Sequence[float]) -> float:
    """The mean of the wettest half, the larger one of an odd number.

    Raises:
        OutOfRange: none, or a moisture 0…4.

    >>> wettest_half([0.5, 0.3, 0.4])
    0.45
    """
    check_range("moistures", len(moistures), 1, 1000)
    check_range("moisture", moistures, 0.0, 4.0)
    ordered = sorted(moistures, reverse=True)
    half = ordered[: (len(ordered) + 1) // 2]
    return float(sum(half) / len(half))


def load(samples: Sequence[Sample]) -> Load | None:
    """What samples say together; those in doubt do not drive the step. None where none was weighed.

    Args:
        samples: 1…100.
    Raises:
        OutOfRange.
    """
    check_range("samples", len(samples), 1, 100)
    doubts = _doubts(samples)
    counted = {
        sample.tag: sample.now
        for sample in samples
        if sample.now is not None and doubts.get(sample.tag) in (None, Doubt.MISSING) and sample.now >= 0
    }
    if not counted:
        counted = {sample.tag: max(sample.now, 0.0) for sample in samples if sample.now is not None}
    if not counted:
        return None
    values = [float(value) for value in counted.values() if value is not None]
    return Load(wettest_half(values), max(values), min(values), doubts)


@dataclass(frozen=True)
class Expected:
    """What a sample should weigh now (kg), and between which weights nothing needs to be asked."""

    mass_kg: float
    low: float
    high: float


def expected(weights: Sequence[tuple[float, float]], dry_mass_kg: float | None) -> Expected:
    """What a sample should weigh by its weights so far: as it went on losing; it is asked about where it gained, or lost as no neighbour
    would.

    Args:
        weights: pairs of days (before now, so at most 0) and kg, the newest last; dry_mass_kg: None where nobody knows it yet.
    Raises:
        OutOfRange: no weights, days above 0, masses that are none.

    >>> now = expected([(-2.0, 1.00), (-1.0, 0.97)], 0.60)
    >>> round(now.mass_kg, 3), round(now.low, 3), round(now.high, 3)
    (0.941, 0.85, 0.976)
    """
    check_range("weights", len(weights), 1, 10_000)
    for day, mass in weights:
        check_range("day", day, -4000.0, 0.0, " days")
        check_range("mass_kg", mass, 1e-4, LARGEST_MASS_KG, " kg")
    day, last = weights[-1]
    dry = last / 2 if dry_mass_kg is None else dry_mass_kg
    water = max(last - dry, 0.0)
    daily = USUAL_LOSS * dry
    if len(weights) > 1:
        was_day, was = weights[-2]
        daily = max((was - last) / max(day - was_day, 0.25), 0.0)
    # What is lost falls with what is left.
    share = 1 - np.exp(-daily * -day / water) if water > 0 else 0.0
    most = min(OUT_OF_LINE * max(daily, USUAL_LOSS * dry) * max(-day, 0.25), 0.6 * water)
    return Expected(float(last - water * share), float(last - max(most, GAINED * dry)), last + GAINED * dry)


def _doubts(samples: Sequence[Sample]) -> dict[str, Doubt]:
    results: dict[str, Doubt] = {}
    weighed = [sample for sample in samples if sample.weights]
    newest = max((weighing.weights[-1][0] for weighing in weighed), default=0.0)
    losses = {
        weighing.tag: loss for weighing in weighed if (loss := weighing.daily_loss) is not None and weighing.weights[-1][0] > newest - 0.5
    }
    middle = float(np.median(list(losses.values()))) if losses else 0.0
    for sample in samples:
        now = sample.now
        if now is None or sample.weights[-1][0] < newest - 0.5:
            results[sample.tag] = Doubt.MISSING
        elif now < 0:
            results[sample.tag] = Doubt.LIGHTER
        elif (loss := losses.get(sample.tag)) is not None and len(losses) > 2:
            if loss < -GAINED and middle > 0:
                results[sample.tag] = Doubt.GAINED
            elif loss > OUT_OF_LINE * max(middle, LEAST_LOSS):
                results[sample.tag] = Doubt.OUT_OF_LINE
    for first, second in _swapped(weighed, newest):
        results[first] = results[second] = Doubt.SWAPPED
    return results


def _swapped(weighed: Sequence[Sample], newest: float) -> list[tuple[str, str]]:
    """Pairs whose newest masses fit each other's row and not their own."""
    fresh = [weighing for weighing in weighed if len(weighing.weights) >= 2 and weighing.weights[-1][0] > newest - 0.5]
    results = []
    for position, reading in enumerate(fresh):
        for other in fresh[position + 1 :]:
            mine, theirs = (reading.weights[-2][1], reading.weights[-1][1]), (other.weights[-2][1], other.weights[-1][1])
            as_it_is = abs(mine[1] / mine[0] - 1) + abs(theirs[1] / theirs[0] - 1)
            changed = abs(theirs[1] / mine[0] - 1) + abs(mine[1] / theirs[0] - 1)
            gained = mine[1] > 1.01 * mine[0] or theirs[1] > 1.01 * theirs[0]
            if gained and changed < as_it_is / 3:
                results.append((reading.tag, other.tag))
    return results
