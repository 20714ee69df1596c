"""Instruments: fret ends that stand proud, plates held by their braces, and the humidity a finished one is safe in.

Sources: :mod:`wood.movement.restraint` for plates; a fret end is felt from about a twentieth of a millimetre on (our judgement).
"""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from wood.air import sorption
from wood.errors import check_range
from wood.movement.restraint import Fastening, Fate, Held, held
from wood.movement.shrinkage import Shrinkage, size_ratio
from wood.movement.strength import Strength

# A fret end is felt from here on, and catches the hand from there.
FELT_M, CATCHES_M = 0.00005, 0.00015
# A plate that swells between its edges bulges: more than this share of its width lifts the bridge (our judgement).
BULGES = 0.004
HUMIDITY = (0.05, 0.95)
PLATE_M = (0.01, 2.0)


def fret_ends_m(shrinkage: Shrinkage, ring_angle_deg: float, width_m: float, built: float, moisture: float) -> float:
    """How far each end of a fret stands out of a board that was flush with it on the day; below nothing, the board stands over it. Metres.

    Args:
        width_m: 10 mm…2 m; built, moisture: 0…1.
    Raises:
        OutOfRange.

    >>> ebony = Shrinkage(0.05, 0.07, 0.30, "published")
    >>> round(fret_ends_m(ebony, 45, 0.055, 0.08, 0.05) * 1000, 2)
    0.17
    """
    check_range("width_m", width_m, *PLATE_M, " m")
    across = shrinkage.at_ring_angle(ring_angle_deg)
    return width_m * (1 - size_ratio(across, built, moisture, shrinkage.fibre_saturation)) / 2


@dataclass(frozen=True)
class SafeBand:
    """The humidities (fractions) between which a finished instrument stays unharmed at a room's temperature; ``dry_end``, ``damp_end`` as
    moistures.

    ``empty`` where not even the humidity it was built in is safe.
    """

    low: float
    high: float
    dry_end: float
    damp_end: float

    @property
    def empty(self) -> bool:
        return self.low >= self.high


def plate_held(
    strength: Strength,
    shrinkage: Shrinkage,
    ring_angle_deg: float,
    width_m: float,
    length_m: float,
    thickness_m: float,
    built: float,
    moisture: float,
    fastened: Fastening,
) -> Held:
    """A plate whose edges or braces do not let it shrink, at a moisture below the one it was built at.

    Args:
        width_m, length_m: 10 mm…2 m; thickness_m: 0.5 mm…0.2 m; built, moisture: 0…1.
    Raises:
        OutOfRange.
    """
    for name, value in (("width_m", width_m), ("length_m", length_m)):
        check_range(name, value, *PLATE_M, " m")
    check_range("thickness_m", thickness_m, 0.0005, 0.2, " m")
    ratio = size_ratio(shrinkage.at_ring_angle(ring_angle_deg), built, moisture, shrinkage.fibre_saturation)
    return held(strength, ring_angle_deg, width_m, max(0.0, width_m * (1 - ratio)), width_m * length_m * thickness_m, fastened)


def safe_band(harmed_dry: Callable[[float], bool], harmed_damp: Callable[[float], bool], built: float, temperature_c: float) -> SafeBand:
    """The band of humidity between the first harm on the dry and on the damp side.

    Args:
        harmed_dry, harmed_damp: whether a moisture (fraction) below, or above, does harm; built: the moisture it was built at, 0.02…0.25.
        temperature_c: of the room, −10…50°C.
    Raises:
        OutOfRange.

    >>> band = safe_band(lambda m: m < 0.05, lambda m: m > 0.11, 0.08, 20.0)
    >>> 0.2 < band.low < 0.3 and 0.5 < band.high < 0.65
    True
    """
    check_range("built", built, 0.02, 0.25)
    check_range("temperature_c", temperature_c, -10.0, 50.0, "°C")
    humidities = np.linspace(*HUMIDITY, 91)
    moistures = np.asarray(sorption.emc(temperature_c, humidities))
    there = float(sorption.relative_humidity_for(temperature_c, built))
    low = next((h for h, m in zip(humidities[::-1], moistures[::-1], strict=True) if m <= built and harmed_dry(float(m))), None)
    high = next((h for h, m in zip(humidities, moistures, strict=True) if m >= built and harmed_damp(float(m))), None)
    step = float(humidities[1] - humidities[0])
    # The harm begins within the step before.
    low_end = min(float(low) + step, there) if low is not None else HUMIDITY[0]
    high_end = max(float(high) - step, there) if high is not None else HUMIDITY[1]
    return SafeBand(low_end, high_end, float(sorption.emc(temperature_c, low_end)), float(sorption.emc(temperature_c, high_end)))


def bulges(shrinkage: Shrinkage, ring_angle_deg: float, built: float, moisture: float) -> bool:
    """Whether a plate held at the edges would bulge more than it should, having swollen from one moisture to another.

    Moistures are fractions, the angle is in degrees.

    Raises:
        OutOfRange.
    """
    return size_ratio(shrinkage.at_ring_angle(ring_angle_deg), built, moisture, shrinkage.fibre_saturation) - 1 > BULGES


def first_harm(held: Held) -> bool:
    """Whether a plate that is held this way may split."""
    return held.fate is not Fate.HOLDS
