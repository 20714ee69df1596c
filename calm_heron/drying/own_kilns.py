"""A workshop's own chambers, as whoever keeps them offers them to the routes."""

from collections.abc import Callable
from dataclasses import dataclass

from calm_heron.plugs import Registry
from calm_heron.workshops.models import Workshop
from wood.kiln.chambers import Chamber


@dataclass(frozen=True)
class OwnKiln:
    """A chamber: a code for it, its name, and the chamber as the core knows it."""

    key: str
    name: str
    chamber: Chamber


@dataclass(frozen=True)
class KeepsKilns:
    """Who keeps chambers, and which they are in a workshop."""

    order: int
    kilns: Callable[[Workshop], list[OwnKiln]]


OWN_KILNS: Registry[KeepsKilns] = Registry()


def of(workshop: Workshop) -> list[OwnKiln]:
    """The chambers of a workshop; strangers have none."""
    return [kiln for keeper in OWN_KILNS for kiln in keeper.kilns(workshop)] if workshop.pk else []
