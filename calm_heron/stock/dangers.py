"""What is dangerous whatever it is at: a bowl with a crack that must not be turned. A danger is a state of the thing, and stands before
what its moisture says, on every page and list.

Apps that know of such things register them (:data:`DANGERS`).
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
class Danger:
    """What is wrong with a piece, in a sentence, what to do about it, and the page that shows it."""

    reason: str
    next_step: str
    address: str


@dataclass(frozen=True)
class DangerSource:
    """An app that knows of dangers: all of a workshop's wood, by piece id."""

    order: int
    found: Callable[[Workshop], dict[int, Danger]]


DANGERS: Registry[DangerSource] = Registry()


def dangers(workshop: Workshop, saved: Saved | None = None) -> dict[int, Danger]:
    """All wood of a workshop that is dangerous, by piece id."""
    return {int(pk): Danger(**item) for pk, item in _rows(saved or answers_of(workshop.pk), lambda: workshop).items()}


def danger_of(piece: Piece) -> Danger | None:
    """What is dangerous about a piece; None where nothing is known to be."""
    item = _rows(answers_of(piece.workshop_id), lambda: piece.workshop).get(str(piece.pk))
    return Danger(**item) if item else None


def _rows(saved: Saved, workshop: Callable[[], Workshop]) -> dict[str, dict[str, Any]]:
    """As they are saved; the workshop itself is only wanted where they are worked out."""

    def work() -> dict[str, dict[str, Any]]:
        known: dict[str, dict[str, Any]] = {}
        for source in DANGERS:
            for pk, item in source.found(workshop()).items():
                known.setdefault(str(pk), asdict(item))
        return known

    rows: dict[str, dict[str, Any]] = saved.get(KNOWN, 0, work)
    return rows


KNOWN = AnswerKind(
    15,
    "dangers",
    "1",
    timedelta(hours=1),
    # What a bowl's own page says of its cracks stands on these.
    frozenset({"air", "stock", "measuring", "turning", "workshops"}),
    lambda workshop, saved: dangers(workshop, saved),
)
KINDS.add(KNOWN)
