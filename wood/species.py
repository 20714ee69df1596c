"""Species: the figures of one kind of wood, with how far they can be trusted, and a search by the names people use."""

import re
from dataclasses import dataclass
from functools import lru_cache

from wood.errors import NotKnown
from wood.tables import number, rows

USUAL_FIBRE_SATURATION = 0.30


@dataclass(frozen=True)
class Species:
    """One species. Fractions throughout; ``None`` where no source at hand gives the figure.

    ``specific_gravity_green`` is ovendry mass over green volume, ``specific_gravity_12`` over the volume at 12 %.
    ``shrinkage_*`` are green to ovendry, of the green dimension. ``coefficient_*`` are fractions of the dimension per
    percentage point of moisture, for 6-14 %. ``air_dry_days`` is the published range for 1-in stock to about 20 %.
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

    @property
    def specific_gravity(self) -> float | None:
        """Specific gravity at 12 % moisture, from the green one where only that is tabulated.

        Source: Wood Handbook ch. 4, G_M = G_b / (1 − 0.265·a·G_b) with a = (30 − M)/30.
        """
        if self.specific_gravity_12 is not None:
            return self.specific_gravity_12
        basic = self.specific_gravity_green
        return None if basic is None else basic / (1 - 0.265 * 0.6 * basic)

    @property
    def greatest_moisture(self) -> float:
        """All the water that fits into the wood (Wood Handbook ch. 4): (1.54 − G)/(1.54·G); 2.6 where G is not known."""
        basic = self.specific_gravity_green
        return 2.6 if basic is None else (1.54 - basic) / (1.54 * basic)


@lru_cache(maxsize=1)
def all_species() -> dict[str, Species]:
    """Every species by its key, in the order of the table."""
    names: dict[str, list[str]] = {}
    for row in rows("common_names"):
        names.setdefault(row["key"], []).append(row["name"])
    return {row["key"]: _from_row(row, tuple(names.get(row["key"], ()))) for row in rows("species")}


def _from_row(row: dict[str, str | None], other_names: tuple[str, ...]) -> Species:
    percent = {
        name: number(row[name], 0.01)
        for name in (
            "shrinkage_radial", "shrinkage_tangential", "shrinkage_volumetric",
            "green_moisture_heartwood", "green_moisture_sapwood",
        )
    }  # fmt: skip
    as_given = {
        name: number(row[name])
        for name in ("specific_gravity_green", "specific_gravity_12", "coefficient_radial", "coefficient_tangential")
    }
    text = {
        name: row[name]
        for name in (
            "key", "common_name", "botanical_name", "group", "region", "porosity",
            "coefficient_basis", "decay_resistance", "confidence", "doubt",
        )
    }  # fmt: skip
    low, high = number(row["air_dry_days_low"]), number(row["air_dry_days_high"])
    return Species(
        **text,
        **percent,
        **as_given,
        fibre_saturation=number(row["fibre_saturation"], 0.01) or USUAL_FIBRE_SATURATION,
        air_dry_days=None if low is None or high is None else (low, high),
        other_names=other_names,
    )


def species(key: str) -> Species:
    """The species with this key.

    Raises:
        NotKnown: no such key.

    >>> species("white_oak").common_name
    'White oak'
    """
    try:
        return all_species()[key]
    except KeyError:
        raise NotKnown("species", key) from None


def search(text: str, limit: int | None = None) -> list[Species]:
    """Species whose common, other, or botanical names contain every word of ``text``; best matches first.

    An empty text finds all. A name that equals the text comes first, then names that begin with it, then the rest.

    >>> [found.key for found in search("hard maple")]
    ['sugar_maple', 'black_maple']
    """
    words = _words(text)
    joined = " ".join(words)
    found = []
    for position, one in enumerate(all_species().values()):
        names = [" ".join(_words(name)) for name in (one.common_name, *one.other_names, one.botanical_name)]
        whole = " ".join(names)
        if not all(word in whole for word in words):
            continue
        rank = 0 if joined in names else 1 if any(name.startswith(joined) for name in names) else 2
        # The species' own name counts before one it shares with others; among those, the species with more names is the usual one.
        found.append((rank, joined not in names[0], -len(names), position, one))
    found.sort(key=lambda entry: entry[:4])
    return [one for *_, one in found][:limit]


def _words(text: str) -> list[str]:
    return re.sub(r"[^\w]+", " ", text.casefold()).split()
