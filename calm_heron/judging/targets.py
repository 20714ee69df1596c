"""What a piece is judged against: the level of its place, the subfloor that lies there, or a moisture it may not exceed."""

from dataclasses import dataclass
from datetime import datetime, timedelta

from django.utils import timezone

from calm_heron.air import queries as air
from calm_heron.air.models import Place
from calm_heron.air.queries import Level
from calm_heron.measuring.models import PieceMoisture
from calm_heron.stock.kinds import NOT_JUDGED
from calm_heron.stock.models import Status
from wood.measuring.estimates import Board, estimate_lot
from wood.uses import Against, Use

# A subfloor changes slowly, but a wet trade may have been at it since.
SUBFLOOR_GOOD_FOR = timedelta(days=30)


@dataclass(frozen=True)
class Target:
    """A moisture ± its uncertainty (fractions), and where it comes from in words: ``of`` as in “8.1 % of Bench room”, ``basis`` for the working.

    ``weaker`` names the instrument behind it; ``stale`` that it is too old to trust; ``level`` is the place's, where that is what counts.
    """

    moisture: float
    tolerance: float
    of: str
    basis: str
    uncertainty_basis: str
    weaker: str
    days: int = 0
    last_at: datetime | None = None
    stale: bool = False
    level: Level | None = None


def target(place: Place | None, use: Use) -> Target | None:
    """What ``use`` asks of wood that will live in ``place``; ``None`` where nothing was read that would say so."""
    if use.against is Against.LIMIT:
        return Target(use.limit, 0.0, "the limit", use.rule, "a limit has none", "meter")
    if place is None:
        return None
    if use.against is Against.SUBFLOOR:
        return _subfloor(place)
    level = air.level(place)
    if level is None:
        return None
    days = f"mean EMC of {level.days} day{'s' if level.days != 1 else ''}"
    uncertainty_basis = "its tolerance through the slope of the sorption curve"
    return Target(
        level.emc, level.tolerance, place.name, days, uncertainty_basis, "hygrometer", level.days, level.last_at, level.stale, level
    )


def _subfloor(place: Place) -> Target | None:
    rows = list(
        PieceMoisture.objects.filter(piece__place=place, piece__kind__in=NOT_JUDGED, piece__status=Status.IN_STOCK).order_by("-at")[:50]
    )
    if not rows:
        return None
    fresh = [row for row in rows if row.at > timezone.now() - SUBFLOOR_GOOD_FOR]
    read = fresh or rows
    # One piece stands for the whole floor with the spots it was read in; of several, each is a part of it.
    result = read[0].estimate() if len(read) == 1 else estimate_lot([Board(row.estimate()) for row in read])
    if result is None or result.bound or result.mean > 0.4:
        return None
    basis = f"{len(read)} subfloor piece{'s' if len(read) != 1 else ''} read"
    return Target(
        result.mean,
        result.uncertainty,
        f"the subfloor in {place.name}",
        basis,
        "meter and few spots",
        "meter",
        last_at=rows[0].at,
        stale=not fresh,
    )
