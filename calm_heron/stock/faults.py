"""What is not sound about a piece and yet no danger: a shallow crack, one that was filled, checks in a log's end or a board. It stands
beside the tag in every list, and on the piece's own page.

Apps that know of such things register them (:data:`FAULTS`); what is dangerous is told by :mod:`calm_heron.stock.dangers`.
"""

from collections.abc import Callable
from dataclasses import asdict, dataclass
from datetime import timedelta

from calm_heron.answers.saved import KINDS, AnswerKind, Saved, answers_of
from calm_heron.plugs import Registry
from calm_heron.stock.models import Piece
from calm_heron.workshops.models import Workshop


@dataclass(frozen=True)
class Fault:
    """What is not sound about a piece: a word or two for lists, a sentence with what it is still good for, and the page that shows it."""

    short: str
    reason: str
    address: str


@dataclass(frozen=True)
class FaultSource:
    """An app that knows of faults: all of a workshop's wood in stock, by piece id (see :func:`saved`)."""

    order: int
    found: Callable[[Workshop], dict[int, Fault]]


FAULTS: Registry[FaultSource] = Registry()


def saved(order: int, name: str, found: Callable[[Workshop], dict[int, Fault]], stands_on: frozenset[str]) -> FaultSource:
    """A source whose faults are an answer that is saved: worked out anew when a row of the apps it stands on changes."""

    def rows(workshop: Workshop, answers: Saved) -> dict[int, Fault]:
        known = answers.get(kind, 0, lambda: {str(pk): asdict(fault) for pk, fault in found(workshop).items()})
        return {int(pk): Fault(**item) for pk, item in known.items()}

    kind = AnswerKind(order, name, "1", timedelta(hours=1), stands_on, rows)
    KINDS.add(kind)
    return FaultSource(order, lambda workshop: rows(workshop, answers_of(workshop.pk)))


def faults(workshop: Workshop) -> dict[int, Fault]:
    """All wood of a workshop in stock that is not quite sound, by piece id."""
    known: dict[int, Fault] = {}
    for source in FAULTS:
        known = source.found(workshop) | known
    return known


def fault_of(piece: Piece) -> Fault | None:
    """What is not sound about a piece; None where nothing is known to be."""
    return faults(piece.workshop).get(piece.pk)
