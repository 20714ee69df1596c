"""What wood holds today where more is known of it than its last reading: it lies in a stack or a load that is followed day by day, or it
came out of one since it was read.

The one moisture of a lot: plans, lists and pages that begin from what it holds ask here. Apps that follow wood register how
(:data:`FOLLOWERS`).
"""

from collections.abc import Callable
from dataclasses import asdict, dataclass
from datetime import datetime, timedelta
from typing import Any

from django.db.models import F, Q
from django.utils import timezone

from calm_heron.answers.saved import KINDS, AnswerKind, Saved, answers_of
from calm_heron.plugs import Registry
from calm_heron.site.dates import day
from calm_heron.stock.models import Piece
from calm_heron.workshops.models import Workshop


@dataclass(frozen=True)
class WoodNow:
    """A moisture (fraction) as it is taken to be today, how that is known, in words after it (“in stack-02, worked out”), and the page that
    shows it."""

    moisture: float
    how: str
    address: str

    @property
    def to_begin_from(self) -> float:
        """To the tenth of a point, for a question to begin from."""
        return round(self.moisture, 3)


@dataclass(frozen=True)
class Follower:
    """An app that follows wood: what it knows of all of a workshop's, by piece id. The earlier in order, the nearer to the wood."""

    order: int
    now: Callable[[Workshop], dict[int, WoodNow]]


FOLLOWERS: Registry[Follower] = Registry()


def wood_now(workshop: Workshop, saved: Saved | None = None) -> dict[int, WoodNow]:
    """All wood of a workshop of which more is known than its last reading, by piece id."""
    return {int(pk): WoodNow(**item) for pk, item in _rows(saved or answers_of(workshop.pk), lambda: workshop).items()}


def of_piece(piece: Piece) -> WoodNow | None:
    """What a piece holds today where more is known of it than its last reading."""
    item = _rows(answers_of(piece.workshop_id), lambda: piece.workshop).get(str(piece.pk))
    return WoodNow(**item) if item else None


def unread_since(moment: str) -> Q:
    """Rows of a piece that was not read since a moment of theirs, by its column's name."""
    return Q(piece__moisture=None) | Q(piece__moisture__at__lt=F(moment))


def as_it_came(moisture: float, out_of: str, at: datetime, address: str) -> WoodNow:
    """Wood that came out of a stack or a load (by its tag) and was not read since."""
    return WoodNow(moisture, f"as it came out of {out_of} on {day(timezone.localdate(at))}", address)


def _rows(saved: Saved, workshop: Callable[[], Workshop]) -> dict[str, dict[str, Any]]:
    """As they are saved; the workshop itself is only wanted where they are worked out."""

    def work() -> dict[str, dict[str, Any]]:
        return {str(pk): asdict(item) for pk, item in _worked_out(workshop()).items()}

    rows: dict[str, dict[str, Any]] = saved.get(FOLLOWED, 0, work)
    return rows


def _worked_out(workshop: Workshop) -> dict[int, WoodNow]:
    known: dict[int, WoodNow] = {}
    for follower in FOLLOWERS:
        for pk, item in follower.now(workshop).items():
            known.setdefault(pk, item)
    return known


FOLLOWED = AnswerKind(
    20,
    "wood under way",
    "1",
    timedelta(hours=1),
    # Whoever follows wood may stand on anything.
    None,
    lambda workshop, saved: wood_now(workshop, saved),
)
KINDS.add(FOLLOWED)
