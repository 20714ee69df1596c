"""The species a workshop computes with: the published ones, with its own figures in their place, and its own species beside them."""

from dataclasses import dataclass
from functools import lru_cache
from typing import Any

from calm_heron.site.memory import RequestMemory
from calm_heron.site.numbers import points
from calm_heron.workshops.models import Workshop
from wood import species as published
from wood.errors import CannotRead, NotKnown
from wood.species import OWN_FIGURES, Species

# Read once a request: a list of fifty pieces must not ask fifty times.
_books: RequestMemory[dict[str, Species]] = RequestMemory()


def of_workshop(workshop_id: int) -> dict[str, Species]:
    """Every species by its key, a workshop's own first."""
    return _books.get(workshop_id, lambda: _book(workshop_id))


def _book(workshop_id: int) -> dict[str, Species]:
    from calm_heron.stock.models import OwnSpecies

    own = {row.key: row.species() for row in OwnSpecies.objects.filter(workshop=workshop_id)}
    there = _published()
    return own | {key: item for key, item in there.items() if key not in own} if own else there


@lru_cache(maxsize=1)
def _published() -> dict[str, Species]:
    """Species, and what else floors are laid on."""
    return published.all_species() | published.panels()


def forget() -> None:
    """The next reader asks the database again."""
    _books.forget()


def species_of(workshop_id: int, key: str) -> Species:
    """One species as the workshop computes with it.

    Raises:
        NotKnown: no such key.
    """
    try:
        return of_workshop(workshop_id)[key]
    except KeyError:
        raise NotKnown("species", key) from None


def search(workshop: Workshop, text: str, limit: int | None = None) -> list[Species]:
    """Species of the workshop by any of their names, as :func:`wood.species.search`; what the trade means by a name comes first."""
    book = of_workshop(workshop.pk)
    result = published.search(text, among=book.values())
    if meant := published.trade_name(text):
        result = [book[meant.key], *(item for item in result if item.key != meant.key)]
    return result[:limit]


def named(workshop: Workshop, text: str) -> str:
    """The key of the one species that a text names: its key, a name that is its own, what the trade means by it, or words that only it has.

    Raises:
        CannotRead: none, or several.
    """
    book = of_workshop(workshop.pk)
    if text in book:
        return text
    result = published.search(text, among=book.values()) if text.strip() else []
    said = text.strip().casefold()
    exact = [item for item in result if said in (item.common_name.casefold(), *(name.casefold() for name in item.other_names))]
    if len(exact) == 1 or len(result) == 1:
        return (exact or result)[0].key
    if meant := published.trade_name(text):
        return meant.key
    # How it was sawn, dried or graded is no part of its name.
    if not result and (bare := " ".join(word for word in text.split() if word.casefold() not in published.GRADES)) not in ("", text):
        return named(workshop, bare)
    said = f"“{text[:40]}”"
    if not result:
        raise CannotRead(
            "species", text, f"no species is called {said} here; try a shorter or a botanical name, or add it as a species of your own"
        )
    names = ", ".join(item.common_name for item in result[:5])
    raise CannotRead("species", text, f"{said} may be any of {len(result)}: {names}{' …' if len(result) > 5 else ''}; choose one")


def figures(row: Any) -> dict[str, float]:
    """The figures a row of own species has."""
    return {name: getattr(row, name) for name in OWN_FIGURES if getattr(row, name) is not None}


# What the figures are called, and whether they are shares.
FIGURE_NAMES = {
    "specific_gravity_green": ("specific gravity, green", False),
    "specific_gravity_12": ("specific gravity at 12%", False),
    "shrinkage_radial": ("% radial shrinkage", True),
    "shrinkage_tangential": ("% tangential shrinkage", True),
    "fibre_saturation": ("% fibre saturation", True),
}


@dataclass(frozen=True)
class Beside:
    """A figure of a workshop's own and the published one, as they are written; ``published`` is empty where nothing is."""

    name: str
    own: str
    published: str


def written(name: str, value: float | None) -> str:
    """A figure of a species as it is written; empty where it is not known."""
    return "" if value is None else points(value) if FIGURE_NAMES[name][1] else f"{value:.2f}"


def beside_published(species: Species) -> list[Beside]:
    """The figures of a species that are a workshop's own, each with what is published."""
    there = published.all_species().get(species.key)
    return [
        Beside(FIGURE_NAMES[name][0], written(name, getattr(species, name)), written(name, getattr(there, name) if there else None))
        for name in species.corrected
    ]
