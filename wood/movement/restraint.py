"""Wood that is held while it moves: will it split, and with what force does it push?

A board that shrinks between two lines it is fastened to is stretched by what it may not shrink. Its fastenings let some of that
slip; slow creep eases most of the rest; what stays is a pull across the grain, against what so large a piece of wood bears for months.
None of this is known well for a single joint, so the answer is a chance, told in three words, and its parts are shown.

Sources: stiffness and tension across the grain, Wood Handbook ch. 5; its size effect, about (V₀/V)^0.2; months of load, 60-70% of short
strength; relaxation across the grain while moisture changes, 50-80% (low; see docs/science.md). Slips of fastenings are our own judgement
with bounds. Swelling that is held back presses with 1-4 MPa as measured (Perkitny), far below stiffness times strain.
"""

import math
from dataclasses import dataclass
from enum import StrEnum

from wood.errors import NotKnown, check_range
from wood.movement.strength import Strength

# What is left of the elastic stress after months of slow change (0.2…0.5).
STRESS_LEFT = 0.30
# The standard notched block tears unevenly: pulled evenly the same wood bears about half as much again (our judgement).
EVEN_PULL = 1.5
# Months of load.
LONG_LOAD = 0.65
# The stressed wood of the standard block, m³, and the power by which larger pieces are weaker. Small ones are not counted as stronger.
BLOCK_M3, SIZE_POWER = 6.5e-5, 0.2
# One standard deviation of ln(strain held back / strain borne): strength 0.25, stiffness 0.22, creep 0.30, size and test 0.25.
SPREAD = 0.52
SURE = 0.80
# How often fastenings give as little, as usual and as much as they may.
SLIP_WEIGHTS = (0.25, 0.5, 0.25)
# Swelling that is held all round presses with no more, however far it would go (MPa).
GREATEST_PRESSURE_MPA = 4.0


class Fate(StrEnum):
    """What becomes of wood that is held: it holds, it may split, it will split."""

    HOLDS = "holds"
    MAY_SPLIT = "may_split"
    SPLITS = "splits"


@dataclass(frozen=True)
class Fastening:
    """What holds a board at one line across its grain, and how far it gives there: least, usual and most (metres). Our judgement."""

    key: str
    name: str
    slip_m: tuple[float, float, float]

    @property
    def lets_move(self) -> bool:
        """Whether it is made to let wood move."""
        return self.slip_m[1] >= 0.003


FASTENINGS = {
    fastening.key: fastening
    for fastening in (
        Fastening("glue", "glued all along", (0.00005, 0.00015, 0.0003)),
        Fastening("glue_and_screws", "glued and screwed", (0.00004, 0.0001, 0.0002)),
        Fastening("screws", "screws in plain holes", (0.0004, 0.001, 0.002)),
        Fastening("nails", "nails", (0.0006, 0.0015, 0.003)),
        Fastening("slots", "screws in slots", (0.003, 0.005, 0.010)),
        Fastening("buttons", "buttons in a groove", (0.003, 0.006, 0.010)),
        Fastening("figure_eights", "figure-of-eight plates", (0.003, 0.005, 0.008)),
    )
}


def fastening(key: str) -> Fastening:
    """A way to fasten, by its key.

    Raises:
        NotKnown: no such way.
    """
    if key not in FASTENINGS:
        raise NotKnown("fastening", key)
    return FASTENINGS[key]


@dataclass(frozen=True)
class Held:
    """A board that is held between two lines while it moves.

    ``would_shrink_m`` is what it would do if it were free, ``slips_m`` what both fastenings give of that, ``strain`` what is left as a
    share of the width between, ``bears`` the strain at which half of such boards split, ``chance`` that this one does (fraction). Of the
    ``would_grow_m`` that it would have grown it is pressed shorter by ``crushed_m`` for good, which is pulled at in the next dry season.
    """

    fate: Fate
    chance: float
    strain: float
    bears: float
    would_shrink_m: float
    slips_m: float
    estimated: bool
    would_grow_m: float = 0.0
    crushed_m: float = 0.0


def held(
    strength: Strength,
    ring_angle_deg: float,
    span_m: float,
    would_shrink_m: float,
    volume_m3: float,
    fastened: Fastening,
    *,
    uncertainty: float = 0.2,
    would_grow_m: float = 0.0,
) -> Held:
    """What becomes of wood that may not shrink.

    Args:
        span_m: the width between the outermost fastenings, 1 mm…60 m; would_shrink_m: how much that width would shrink if it were free,
        0…60 m.
        volume_m3: the wood that is stretched, 10⁻⁹…100 m³: larger pieces hold weaker places.
        doubt: what the shrinkage leaves open, one standard deviation as a share of it, 0…3.
        would_grow_m: how much it would grow in the damp season if it were free, 0…60 m.
    Raises:
        OutOfRange.

    >>> from wood.movement.strength import of_species
    >>> from wood.species import species_named
    >>> oak = of_species(species_named("white_oak"))
    >>> held(oak, 0, 0.9, 0.018, 0.03, FASTENINGS["glue_and_screws"]).fate.value
    'splits'
    """
    check_range("span_m", span_m, 0.001, 60.0, " m")
    check_range("would_shrink_m", would_shrink_m, 0.0, 60.0, " m")
    check_range("uncertainty", uncertainty, 0.0, 3.0)
    check_range("would_grow_m", would_grow_m, 0.0, 60.0, " m")
    bears = strain_borne(strength, ring_angle_deg, volume_m3)
    spread = math.hypot(SPREAD, uncertainty)

    # What swelling that is held presses it shorter by, beyond what springs back.
    springs = min(GREATEST_PRESSURE_MPA, strength.crushing_mpa) / (strength.stiffness_mpa(ring_angle_deg) * STRESS_LEFT) * span_m

    def crushed(slip_m: float) -> float:
        return max(0.0, would_grow_m - 2 * slip_m - springs)

    def left(slip_m: float) -> float:
        return max(0.0, would_shrink_m + crushed(slip_m) - 2 * slip_m) / span_m

    # The fastenings give little, as usual, or much.
    chance = sum(
        weight * _below(math.log(left(slip) / bears) / spread)
        for slip, weight in zip(fastened.slip_m, SLIP_WEIGHTS, strict=True)
        if left(slip) > 0
    )
    slips, strain = min(2 * fastened.slip_m[1], would_shrink_m), left(fastened.slip_m[1])
    fate = Fate.SPLITS if chance >= SURE else Fate.HOLDS if chance <= 1 - SURE else Fate.MAY_SPLIT
    return Held(fate, chance, strain, bears, would_shrink_m, slips, strength.estimated, would_grow_m, crushed(fastened.slip_m[1]))


def strain_borne(strength: Strength, ring_angle_deg: float, volume_m3: float) -> float:
    """The strain across the grain, slowly put on over months, at which half of pieces so large split; a fraction.

    Args:
        ring_angle_deg: 0 flat … 90 quarter; volume_m3: 10⁻⁹…100 m³.
    Raises:
        OutOfRange.

    >>> from wood.movement.strength import of_species
    >>> from wood.species import species_named
    >>> oak = of_species(species_named("white_oak"))
    >>> small, large = strain_borne(oak, 0, 5e-5), strain_borne(oak, 0, 0.03)
    >>> bool(0.01 < small < 0.03 and 0.003 < large < 0.008)
    True
    """
    check_range("volume_m3", volume_m3, 1e-9, 100.0, " m³")
    elastic = strength.tears_at_mpa(ring_angle_deg) / strength.stiffness_mpa(ring_angle_deg)
    return elastic * EVEN_PULL * LONG_LOAD * min(1.0, BLOCK_M3 / volume_m3) ** SIZE_POWER / STRESS_LEFT


@dataclass(frozen=True)
class Push:
    """Wood that would swell and may not: its pressure on what holds it, and the force on a metre along the grain."""

    would_grow_m: float
    pressure_mpa: float
    newtons_per_m: float
    crushed: bool


def push(strength: Strength, ring_angle_deg: float, width_m: float, would_grow_m: float, thickness_m: float) -> Push:
    """How wood presses that would swell by so much and is held: eased by creep as it is, and never more than it takes to crush it.

    Args:
        width_m: 1 mm…60 m; would_grow_m: 0…60 m; thickness_m: 0.5 mm…1.5 m.
    Raises:
        OutOfRange.
    """
    check_range("width_m", width_m, 0.001, 60.0, " m")
    check_range("would_grow_m", would_grow_m, 0.0, 60.0, " m")
    check_range("thickness_m", thickness_m, 0.0005, 1.5, " m")
    eased = strength.stiffness_mpa(ring_angle_deg) * (would_grow_m / width_m) * STRESS_LEFT
    most = min(GREATEST_PRESSURE_MPA, strength.crushing_mpa)
    pressure = min(eased, most)
    return Push(would_grow_m, pressure, pressure * 1e6 * thickness_m, eased > most)


def _below(z: float) -> float:
    """The share of a normal distribution that lies below."""
    return 0.5 * (1 + math.erf(z / math.sqrt(2)))


def greatest_width(
    strength: Strength,
    ring_angle_deg: float,
    shrinks: float,
    length_m: float,
    thickness_m: float,
    fastened: Fastening,
    *,
    uncertainty: float = 0.2,
) -> float:
    """The widest board of which two fixed lines may hold both edges: it holds (:func:`held`) up to this width; metres, at most 2.

    Args:
        shrinks: how much of its width it would shrink, 0…0.5; length_m: 1 mm…60 m; thickness_m: 0.5 mm…1.5 m.
    Raises:
        OutOfRange.
    """
    check_range("shrinks", shrinks, 0.0, 0.5)
    check_range("length_m", length_m, 0.001, 60.0, " m")
    check_range("thickness_m", thickness_m, 0.0005, 1.5, " m")
    low, high = 0.001, 2.0

    def holds(width: float) -> bool:
        result = held(strength, ring_angle_deg, width, shrinks * width, width * length_m * thickness_m, fastened, uncertainty=uncertainty)
        return result.fate is Fate.HOLDS

    if holds(high):
        return high
    for _ in range(30):
        middle = (low + high) / 2
        low, high = (middle, high) if holds(middle) else (low, middle)
    return low
