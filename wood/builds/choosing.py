"""Wood for a use: what lasts outdoors, what moves little, what bears knocks; from the tables, each figure with what is not known of it. No
style is advised.

Outdoors the heartwood's resistance to decay counts (Wood Handbook, table 14-1); sapwood of every species is not resistant. Movement is what
a width does for four points of moisture, the year of many rooms (Wood Handbook ch. 4); hardness is the side hardness of ch. 5.
"""

from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum
from functools import lru_cache

from wood.errors import NotKnown, check_range
from wood.movement import shrinkage
from wood.movement.shrinkage import size_ratio
from wood.species import Species
from wood.tables import rows


class Durability(StrEnum):
    """How well heartwood resists decay; sapwood of every species does not."""

    VERY_RESISTANT = "very_resistant"
    RESISTANT = "resistant"
    MODERATE = "moderate"
    SLIGHT = "slight"
    NOT_KNOWN = ""


ORDER = list(Durability)


class Exposure(StrEnum):
    """Where it stands: indoors, outdoors under a roof, in the rain, or on the ground."""

    INDOORS = "indoors"
    ROOF = "roof"
    RAIN = "rain"
    GROUND = "ground"


# The least resistance for each: under a roof wood stays below 20% and does not rot; on the ground nothing less than the best will do for
# long.
LEAST = {
    Exposure.INDOORS: Durability.SLIGHT,
    Exposure.ROOF: Durability.SLIGHT,
    Exposure.RAIN: Durability.RESISTANT,
    Exposure.GROUND: Durability.VERY_RESISTANT,
}


class Suits(StrEnum):
    """Whether a species will do."""

    YES = "yes"
    WITH_CARE = "with_care"
    NO = "no"
    NOT_KNOWN = "not_known"


@dataclass(frozen=True)
class Choice:
    """What the tables say of a species for a use. ``moves`` is the share of a flat-sawn width between 8 and 12%, ``hardness_n`` the side
    hardness; None where they do not say."""

    species: Species
    durability: Durability
    suits: Suits
    moves: float | None
    ratio: float | None
    hardness_n: float | None


def durability_of(species: Species) -> Durability:
    """How well its heartwood resists decay."""
    try:
        return Durability(species.decay_resistance or "")
    except ValueError:
        return Durability.NOT_KNOWN


def suits(durability: Durability, exposure: Exposure) -> Suits:
    """Whether heartwood of a durability will do: one step short of what is asked does with care (off the ground, ends sealed, kept to dry
    off).

    >>> suits(Durability.SLIGHT, Exposure.RAIN).value, suits(Durability.MODERATE, Exposure.RAIN).value
    ('no', 'with_care')
    """
    least = LEAST[exposure]
    if least is Durability.SLIGHT:
        return Suits.YES
    if durability is Durability.NOT_KNOWN:
        return Suits.NOT_KNOWN
    short = ORDER.index(durability) - ORDER.index(least)
    return Suits.YES if short <= 0 else Suits.WITH_CARE if short == 1 else Suits.NO


def hardness_n(species: Species) -> float | None:
    """Its side hardness at 12%, newtons, where the tables have it."""
    return _hardnesses().get(species.key)


@lru_cache(maxsize=1)
def _hardnesses() -> dict[str, float]:
    return {row["key"]: float(row["side_hardness_n"]) for row in rows("mechanics") if row["side_hardness_n"]}


class Style(StrEnum):
    """The manner of a piece, as makers speak of it."""

    COUNTRY = "country"
    FORMAL = "formal"
    QUARTERED = "quartered"
    LIGHT = "light"
    MODERN = "modern"
    OUTDOOR = "outdoor"


@dataclass(frozen=True)
class Look:
    """What is seen of a species: for which styles it is customary, its heartwood's colour when fresh, and how it ages. Notes, no rules."""

    key: str
    styles: frozenset[Style]
    colour: str
    ages: str


@lru_cache(maxsize=1)
def looks() -> dict[str, Look]:
    """What is noted of each species' look, by its key."""
    return {
        row["key"]: Look(row["key"], frozenset(Style(style) for style in row["styles"].split()), row["colour"], row["ages"])
        for row in rows("looks")
    }


LOW, HIGH = 0.08, 0.12


def movement_of(species: Species, ring_angle_deg: float = 0.0) -> float | None:
    """The share by which a width moves between 8 and 12%; None where its shrinkage is not known.

    Raises:
        OutOfRange: ring_angle_deg 0…90°.
    """
    check_range("ring_angle_deg", ring_angle_deg, 0.0, 90.0, "°")
    try:
        figures = shrinkage.of_species(species)
    except NotKnown:
        return None
    return size_ratio(figures.at_ring_angle(ring_angle_deg), LOW, HIGH, figures.fibre_saturation) - 1


GOOD = {Suits.YES: 0, Suits.WITH_CARE: 1, Suits.NOT_KNOWN: 2, Suits.NO: 3}


def choices(book: Iterable[Species], exposure: Exposure, least_hardness_n: float = 0.0) -> list[Choice]:
    """What each species is good for, what suits best first, then what moves least.

    Args:
        book: woods; least_hardness_n: leaves out what is softer, 0…30 000 N; a species whose hardness is not known stays when nothing is
        asked.
    Raises:
        OutOfRange.
    """
    check_range("least_hardness_n", least_hardness_n, 0.0, 30_000.0, " N")
    hard = _hardnesses()
    results = []
    for species in book:
        known, hardness, moves = durability_of(species), hard.get(species.key), movement_of(species)
        if least_hardness_n and (hardness is None or hardness < least_hardness_n):
            continue
        quarter = movement_of(species, 90.0)
        ratio = moves / quarter if moves is not None and quarter else None
        results.append(Choice(species, known, suits(known, exposure), moves, ratio, hardness))
    return sorted(results, key=lambda item: (GOOD[item.suits], item.moves is None, item.moves or 0.0, item.species.common_name))
