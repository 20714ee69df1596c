"""What is not sound about a piece and yet no danger: a shallow crack, one that was filled, checks in a log's end or a board. It stands
beside the tag in every list, and on the piece's own page.

Apps that know of such things register them (:data:`FAULTS`); what is dangerous is told by :mod:`calm_heron.stock.dangers`.
"""

from collections.abc import Callable
from dataclasses import asdict, dataclass
from datetime import timedelta
from typing import Any

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
    """An app that knows of faults: all of a workshop's wood in stock, by piece id."""

    order: int
    found: Callable[[Workshop], dict[int, Fault]]


FAULTS: Registry[FaultSource] = Registry()


def faults(workshop: Workshop, saved: Saved | None = None) -> dict[int, Fault]:
    """All wood of a workshop in stock that is not quite sound, by piece id."""
    return {int(pk): Fault(**item) for pk, item in _rows(saved or answers_of(workshop.pk), lambda: workshop).items()}


def fault_of(piece: Piece) -> Fault | None:
    """What is not sound about a piece; None where nothing is known to be."""
    item = _rows(answers_of(piece.workshop_id), lambda: piece.workshop).get(str(piece.pk))
    return Fault(**item) if item else None


def _rows(saved: Saved, workshop: Callable[[], Workshop]) -> dict[str, dict[str, Any]]:
    """As they are saved; the workshop itself is only wanted where they are worked out."""

    def work() -> dict[str, dict[str, Any]]:
        known: dict[str, dict[str, Any]] = {}
        for source in FAULTS:
            for pk, item in source.found(workshop()).items():
                known.setdefault(str(pk), asdict(item))
        return known

    rows: dict[str, dict[str, Any]] = saved.get(KNOWN, 0, work)
    return rows


KNOWN = AnswerKind(
    16,
    "faults",
    "1",
    timedelta(hours=1),
    frozenset(["air", "stock", "measuring", "turning", "builds", "workshops"]),
    lambda workshop, saved: faults(workshop, saved),
)
KINDS.add(KNOWN)
