"""Species: the figures of one kind of wood, with how far they can be trusted, and a search by the names people use.

Sources: Wood Handbook (FPL-GTR-282) ch. 4 and 5 and the tables of data/README.md. Fractions throughout.
"""

import re
from collections.abc import Iterable
from dataclasses import dataclass, fields, replace
from functools import lru_cache
from typing import Any

from wood.errors import NotKnown, check_range
from wood.tables import Row, rows

USUAL_FIBRE_SATURATION = 0.30
PANEL, MINERAL = "panel", "mineral"


@dataclass(frozen=True)
class Species:
    """One species. Fractions throughout; ``None`` where no source at hand gives the figure.

    ``specific_gravity_green`` is ovendry mass over green volume, ``specific_gravity_12`` over the volume at 12%.
    ``shrinkage_*`` are green to ovendry, of the green dimension. ``coefficient_*`` are fractions of the dimension per
    percentage point of moisture, for 6-14%. ``air_dry_days`` is the published range for 1-in stock to about 20%.
    """

    key: str
    common_name: str
    botanical_name: str
    group: str
    region: str
    porosity: str | None
    specific_gravity_green: float | None
    specific_gravity_12: float | None
    shrinkage_radial: float | None
    shrinkage_tangential: float | None
    shrinkage_volumetric: float | None
    coefficient_radial: float | None
    coefficient_tangential: float | None
    coefficient_basis: str | None
    fibre_saturation: float
    green_moisture_heartwood: float | None
    green_moisture_sapwood: float | None
    decay_resistance: str | None
    air_dry_days: tuple[float, float] | None
    confidence: str
    doubt: str | None
    other_names: tuple[str, ...] = ()
    # Figures that a workshop put in the place of published ones, or of none.
    corrected: tuple[str, ...] = ()

    @property
    def is_wood(self) -> bool:
        """Whether it grew: a panel has no ring, no species' scale of a meter, and no figures here."""
        return self.group in ("hardwood", "softwood")

    @property
    def holds_no_moisture_content(self) -> bool:
        """Concrete is dried too, but is told by its own test: a wood meter on it says nothing."""
        return self.group == MINERAL

    @property
    def specific_gravity(self) -> float | None:
        """Specific gravity at 12% moisture, from the green one where only that is tabulated.

        Source: Wood Handbook ch. 4, G_M = G_b / (1 − 0.265·a·G_b) with a = (30 − M)/30.
        """
        if self.specific_gravity_12 is not None:
            return self.specific_gravity_12
        basic = self.specific_gravity_green
        return None if basic is None else basic / (1 - 0.265 * 0.6 * basic)

    @property
    def basic_specific_gravity(self) -> float | None:
        """Specific gravity by green volume, turned back from that at 12% where only that is known."""
        if self.specific_gravity_green is not None:
            return self.specific_gravity_green
        dense = self.specific_gravity_12
        return None if dense is None else dense / (1 + 0.265 * 0.6 * dense)

    @property
    def spoken_name(self) -> str:
        """The common name as it stands within a sentence: “white oak”, “European oak”."""
        first = re.split(r"[ ,-]", self.common_name)[0]
        return self.common_name if first in PROPER or self.confidence == "own" else self.common_name[0].lower() + self.common_name[1:]

    @property
    def greatest_moisture(self) -> float:
        """All the water that fits into the wood (Wood Handbook ch. 4): (1.54 − G)/(1.54·G); 2.6 where G is not known."""
        basic = self.specific_gravity_green
        return 2.6 if basic is None else (1.54 - basic) / (1.54 * basic)


# What stands beside a name at the rack and says how the wood was sawn, dried, planed or graded.
GRADES = frozenset(
    ["kd", "ad", "kdat", "qs", "rift", "quartersawn", "flatsawn", "plainsawn", "fas", "select", "s2s", "s4s", "rough", "clear", "common"]
)
# First words of common names that are names of people and places, and keep their capital.
PROPER = frozenset(
    [
        "African",
        "American",
        "Atlantic",
        "Brazilian",
        "California",
        "Douglas",
        "Engelmann",
        "European",
        "Indian",
        "Norway",
        "Oregon",
        "Pacific",
        "Port",
        "Scots",
        "Sitka",
        "Spanish",
        "Virginia",
    ]
)


@lru_cache(maxsize=1)
def all_species() -> dict[str, Species]:
    """Every species by its key, in the order of the table."""
    names: dict[str, list[str]] = {}
    for row in rows("common_names"):
        names.setdefault(row["key"], []).append(row["name"])
    return {row["key"]: _from_row(row, tuple(names.get(row["key"], ()))) for row in rows("species")}


def _from_row(row: Row, other_names: tuple[str, ...]) -> Species:
    low, high = row.maybe("air_dry_days_low"), row.maybe("air_dry_days_high")
    return Species(
        key=row["key"],
        common_name=row["common_name"],
        botanical_name=row["botanical_name"],
        group=row["group"],
        region=row["region"],
        porosity=row.said("porosity"),
        specific_gravity_green=row.maybe("specific_gravity_green"),
        specific_gravity_12=row.maybe("specific_gravity_12"),
        shrinkage_radial=row.maybe("shrinkage_radial", 0.01),
        shrinkage_tangential=row.maybe("shrinkage_tangential", 0.01),
        shrinkage_volumetric=row.maybe("shrinkage_volumetric", 0.01),
        coefficient_radial=row.maybe("coefficient_radial"),
        coefficient_tangential=row.maybe("coefficient_tangential"),
        coefficient_basis=row.said("coefficient_basis"),
        fibre_saturation=row.maybe("fibre_saturation", 0.01) or USUAL_FIBRE_SATURATION,
        green_moisture_heartwood=row.maybe("green_moisture_heartwood", 0.01),
        green_moisture_sapwood=row.maybe("green_moisture_sapwood", 0.01),
        decay_resistance=row.said("decay_resistance"),
        air_dry_days=None if low is None or high is None else (low, high),
        confidence=row["confidence"],
        doubt=row.said("doubt"),
        other_names=other_names,
    )


# What a workshop may put in: the name of the figure and its possible range. Shrinkage beyond these was never published.
OWN_FIGURES = {
    "specific_gravity_green": (0.08, 1.25),
    "specific_gravity_12": (0.09, 1.35),
    "shrinkage_radial": (0.001, 0.15),
    "shrinkage_tangential": (0.001, 0.25),
    "fibre_saturation": (0.18, 0.40),
}


def corrected(published: Species, **figures: float) -> Species:
    """A published species with some figures replaced by a workshop's own (names and ranges as in :data:`OWN_FIGURES`).

    A new shrinkage takes the movement coefficients of the same directions with it: they said the same thing of another figure.

    Raises:
        OutOfRange.

    >>> corrected(species_named("white_oak"), shrinkage_tangential=0.11).corrected
    ('shrinkage_tangential',)
    """
    for name, value in figures.items():
        check_range(name, value, *OWN_FIGURES[name])
    besides: dict[str, Any] = {f"coefficient_{way}": None for way in ("radial", "tangential") if f"shrinkage_{way}" in figures}
    if "specific_gravity_green" in figures and "specific_gravity_12" not in figures:
        besides["specific_gravity_12"] = None
    besides |= figures
    return replace(published, **besides, corrected=tuple(figures))


@lru_cache(maxsize=1)
def panels() -> dict[str, Species]:
    """What floors are laid on besides wood, by key: panels, and concrete.

    No figure of theirs is known here, so that nothing is computed.
    """
    result = {}
    for row in rows("panels"):
        group = MINERAL if row["key"] == "concrete" else PANEL
        names = tuple(name.strip() for name in row["other_names"].split(";"))
        result[row["key"]] = replace(own(row["key"], row["common_name"], group=group, other_names=names), confidence="none")
    return result


@dataclass(frozen=True)
class TradeName:
    """A name that the trade uses for several species, and the one that is then meant most often: ``meaning`` says which, in words."""

    name: str
    key: str
    meaning: str


def trade_name(text: str) -> TradeName | None:
    """The species that a trade name usually stands for, None where the text is not a trade name.

    >>> trade_name("Hem-Fir").key, trade_name("oak tree")
    ('western_hemlock', None)
    """
    return _trade_names().get(" ".join(_words(text)))


@lru_cache(maxsize=1)
def _trade_names() -> dict[str, TradeName]:
    return {" ".join(_words(row["name"])): TradeName(row["name"], row["key"], row["meaning"]) for row in rows("trade_names")}


def own(
    key: str, common_name: str, botanical_name: str = "", group: str = "hardwood", other_names: tuple[str, ...] = (), **figures: float
) -> Species:
    """A species that is in no table here, with the figures a workshop has for it; the others stay unknown.

    >>> own("own-1", "Laburnum", specific_gravity_12=0.82).shrinkage_radial is None
    True
    """
    unknown: dict[str, Any] = dict.fromkeys(field.name for field in fields(Species))
    answer = {"key": key, "common_name": common_name, "botanical_name": botanical_name, "group": group, "other_names": other_names}
    empty = Species(**{**unknown, **answer, "region": "", "fibre_saturation": USUAL_FIBRE_SATURATION, "confidence": "own", "corrected": ()})
    return corrected(empty, **figures)


def species_named(key: str) -> Species:
    """The species with this key.

    Raises:
        NotKnown: no such key.

    >>> species_named("white_oak").common_name
    'White oak'
    """
    try:
        return all_species()[key]
    except KeyError:
        raise NotKnown("species", key) from None


def search(text: str, limit: int | None = None, among: Iterable[Species] | None = None) -> list[Species]:
    """Species (of the table, or of ``among``) whose common, other, or botanical names contain every word of ``text``; best first.

    An empty text finds all. A name that equals the text comes first, then names that begin with it, then the rest.

    >>> [result.key for result in search("hard maple")]
    ['sugar_maple', 'black_maple']
    """
    words = _words(text)
    joined = " ".join(words)
    result = []
    for position, species in enumerate(all_species().values() if among is None else among):
        names = [" ".join(_words(name)) for name in (species.common_name, *species.other_names, species.botanical_name)]
        whole = " ".join(names)
        if not all(word in whole for word in words):
            continue
        rank = 0 if joined in names else 1 if any(name.startswith(joined) for name in names) else 2
        # The species' own name counts before one it shares with others; among those, the species with more names is the usual one.
        result.append((rank, joined not in names[0], -len(names), position, species))
    result.sort(key=lambda entry: entry[:4])
    return [item for *_, item in result][:limit]


def _words(text: str) -> list[str]:
    return re.sub(r"[^\w]+", " ", text.casefold()).split()
