"""Reads: the sitting that stands, the history, the meter to offer, the temperature the wood probably has."""

from collections.abc import Sequence
from datetime import timedelta
from typing import Any

from django.db.models import Avg, QuerySet, Subquery
from django.db.models.functions import TruncDate
from django.utils import timezone

from calm_heron.air.models import AirReading
from calm_heron.measuring import wood_now
from calm_heron.measuring.estimates import SITTING, one_a_spot
from calm_heron.measuring.kinds import READS_MOISTURE, Layer, MeterKind
from calm_heron.measuring.models import Meter, PieceMoisture, Reading
from calm_heron.stock.models import Piece, Status
from calm_heron.workshops.models import Membership, Workshop
from wood.measuring import estimates
from wood.measuring.profile import Profile
from wood.measuring.readings import Bound
from wood.sizes import Shape

# With no air read lately, wood is taken to be at room temperature, where the correction is small.
USUAL_WOOD_TEMPERATURE_C = 20.0
TEMPERATURE_GOOD_FOR = timedelta(days=3)


def instruments(workshop: Workshop) -> QuerySet[Meter]:
    """Everything that measures wood here, retired ones last."""
    return Meter.objects.of(workshop).order_by("retired", "kind", "name")


def meters_of(workshop: Workshop) -> QuerySet[Meter]:
    """The moisture meters in use."""
    return Meter.objects.of(workshop).filter(kind__in=READS_MOISTURE, retired=False).order_by("name")


def scales_of(workshop: Workshop) -> QuerySet[Meter]:
    return Meter.objects.of(workshop).filter(kind=MeterKind.SCALE, retired=False).order_by("name")


def usual_meter(membership: Membership, meters: Sequence[Meter] | None = None) -> Meter | None:
    """The meter this person used last here, of those in use (``meters`` where they are at hand), else the first one."""
    meters = list(meters_of(membership.workshop)) if meters is None else meters
    last = (
        Reading.objects.filter(workshop=membership.workshop, by=membership.person, meter__isnull=False)
        .order_by("-id")
        .values_list("meter", flat=True)
        .first()
    )
    return next((meter for meter in meters if meter.pk == last), None) or next(iter(meters), None)


def read_last(workshop: Workshop, count: int) -> list[Piece]:
    """The pieces in stock that were read last, the newest first."""
    rows = PieceMoisture.objects.filter(workshop=workshop, piece__status=Status.IN_STOCK).select_related("piece").order_by("-at")[:count]
    return [row.piece for row in rows]


def moisture_to_begin_from(piece: Piece) -> float | None:
    """What a piece holds today, to the tenth of a point, for a question to begin from: as it is followed, else as it was read; None where
    nothing was read or only a bound is known ("28 or more").
    """
    followed = wood_now.of_piece(piece)
    if followed is not None:
        return followed.to_begin_from
    known = PieceMoisture.objects.filter(piece=piece, bound=Bound.NONE).first()
    return None if known is None else round(known.mean, 3)


def sitting(piece: Piece) -> list[Reading]:
    """The readings of the newest sitting, oldest first."""
    standing_here = Reading.objects.standing().filter(piece=piece)
    newest = Subquery(standing_here.order_by("-at").values("at")[:1])
    readings = one_a_spot(standing_here.filter(at__gt=newest - SITTING).select_related("meter", "by").order_by("at", "id"))
    for reading in readings:
        # The piece is at hand: it is not read anew with each of them.
        reading.piece = piece
    return readings


def inferred_profile(piece: Piece, readings: list[Reading]) -> Profile | None:
    """The moisture through the thickness that the readings of a sitting tell, where both outer and core were read."""
    result = estimates.estimate([reading.spot() for reading in readings], is_round=piece.traits.shape is Shape.LOG)
    return result.profile if result else None


def history(piece: Piece, limit: int) -> list[Reading]:
    """The newest readings, taken-out ones included and marked by ``superseded_by``."""
    return list(
        Reading.objects.filter(piece=piece, struck=False).select_related("meter", "by", "superseded_by").order_by("-at", "-id")[:limit]
    )


def daily_means(pieces: list[Piece], since: Any) -> dict[int, list[tuple[Any, ...]]]:
    """(day, mean moisture) of each piece since a moment, by piece id; one query."""
    rows = (
        Reading.objects.standing()
        .filter(piece__in=pieces, at__gte=since, counts=True, near_end=False, bound=Bound.NONE)
        .exclude(layer=Layer.CORE)
        .annotate(day=TruncDate("at"))
        .values_list("piece", "day")
        .annotate(mean=Avg("moisture"))
        .order_by("piece", "day")
    )
    result: dict[int, list[tuple[Any, ...]]] = {}
    for piece, day, mean in rows:
        result.setdefault(piece, []).append((day, mean))
    return result


def wood_temperatures(workshop: Workshop) -> dict[int, float]:
    """The newest air temperature of each place that was read lately, by place id: what wood lying there has, too."""
    rows = (
        AirReading.objects.of(workshop)
        .standing()
        .filter(at__gte=timezone.now() - TEMPERATURE_GOOD_FOR)
        .order_by("place", "-at")
        .distinct("place")
        .values_list("place", "temperature_c")
    )
    return dict(rows)


def wood_temperature(piece: Piece, temperatures: dict[int, float]) -> tuple[float, str]:
    """The temperature to correct for, and where it comes from in words."""
    if piece.place is not None and piece.place.pk in temperatures:
        return temperatures[piece.place.pk], f"air in {piece.place.name}"
    return USUAL_WOOD_TEMPERATURE_C, "not said"
