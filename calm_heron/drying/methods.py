"""The methods of drying that can be asked about; an app that brings another one registers it from its plugs."""

from collections.abc import Mapping
from dataclasses import dataclass, field

from calm_heron.air.kinds import PlaceKind
from calm_heron.plugs import Registry
from wood.drying.defects import Defect
from wood.drying.methods import Method


@dataclass(frozen=True)
class DryingMethod:
    """A method as pages offer it.

    ``where`` begins a sentence about it; ``at_a_yard`` does so where a yard's own air is taken for it. Places of the ``place_kinds`` are
    themselves the method. ``asks`` are the fields of the form that it alone needs, ``advice`` what helps against a defect on it, where
    that is something else than usual. ``is_heated`` says that no place indoors is drier.
    """

    order: int
    core: Method
    where: str
    at_a_yard: str = "In {place}"
    place_kinds: tuple[PlaceKind, ...] = ()
    asks: tuple[str, ...] = ()
    advice: Mapping[Defect, str] = field(default_factory=dict, hash=False)
    is_heated: bool = False

    @property
    def key(self) -> str:
        return self.core.key


METHODS: Registry[DryingMethod] = Registry()
USUAL = "yard"


def named(key: str) -> DryingMethod:
    """The method with this key, or the usual one."""
    by_key = {method.key: method for method in METHODS}
    return by_key.get(key) or by_key[USUAL]


def of_place(kind: str) -> DryingMethod:
    """The method that a kind of place is itself."""
    return next(method for method in METHODS if kind in method.place_kinds)


def of_a_log() -> DryingMethod:
    """How wood lies that was not sawn yet."""
    return next(method for method in METHODS if method.core.of_a_log)
