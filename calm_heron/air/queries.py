"""Reads of places: the air now, the level that wood there feels, and the level through the year."""

from dataclasses import dataclass
from datetime import date, datetime, timedelta

import numpy as np
from django.db.models import Avg, Count, Max, OuterRef, QuerySet, Subquery
from django.db.models.functions import TruncDate, TruncWeek
from django.utils import timezone

from calm_heron.air.models import AirReading, Place
from calm_heron.workshops.models import Workshop

# Wood answers to weeks, not to hours: the level is the mean of the last four weeks, each day counting once.
LEVEL_DAYS = 28
# Air older than this says nothing about the place now.
STALE_DAYS = 120


@dataclass(frozen=True)
class Level:
    """The EMC that wood in a place moves towards: mean of recent days ± the hygrometer's worth; fractions.

    ``days`` is on how many days the air was read; ``stale`` that none of them is recent.
    """

    emc: float
    tolerance: float
    days: int
    last_at: datetime
    stale: bool = False


def places(workshop: Workshop) -> QuerySet[Place]:
    return Place.objects.of(workshop).order_by("id")


def latest(place: Place) -> AirReading | None:
    return place.readings.order_by("-at").first()


def recent_readings(place: Place, limit: int = 60) -> QuerySet[AirReading]:
    return place.readings.select_related("by").order_by("-at")[:limit]


def latest_of_each(workshop: Workshop) -> list[tuple[Place, AirReading | None]]:
    """Every place with its newest reading, in two queries."""
    newest = AirReading.objects.filter(place=OuterRef("pk")).order_by("-at").values("pk")[:1]
    found = list(places(workshop).annotate(newest=Subquery(newest)))
    readings = AirReading.objects.in_bulk([place.newest for place in found if place.newest])
    return [(place, readings.get(place.newest)) for place in found]


def levels(workshop: Workshop, only: Place | None = None) -> dict[int, Level]:
    """The level of every place that has air, by place id; of one place with ``only``. One query."""
    since = timezone.now() - timedelta(days=STALE_DAYS)
    rows = AirReading.objects.of(workshop).filter(at__gte=since)
    if only:
        rows = rows.filter(place=only)
    by_day = (
        rows.annotate(day=TruncDate("at"))
        .values("place", "day")
        .annotate(emc=Avg("emc"), tolerance=Avg("emc_tolerance"), last=Max("at"), count=Count("id"))
        .order_by("place", "day")
    )
    days_of: dict[int, list[dict]] = {}
    for row in by_day:
        days_of.setdefault(row["place"], []).append(row)
    return {place: _level(days) for place, days in days_of.items()}


def level(place: Place) -> Level | None:
    return levels(place.workshop, only=place).get(place.pk)


def _level(days: list[dict]) -> Level:
    today = timezone.now().date()
    recent = [day for day in days if day["day"] > today - timedelta(days=LEVEL_DAYS)]
    used = recent or days[-1:]
    return Level(
        emc=sum(day["emc"] for day in used) / len(used),
        tolerance=sum(day["tolerance"] for day in used) / len(used),
        days=len(used),
        last_at=days[-1]["last"],
        stale=not recent,
    )


# A year is known when it has readings in this many of its months; the others are drawn between their neighbours.
MONTHS_KNOWN = 9
YEAR_LOOKS_BACK = timedelta(days=400)


@dataclass(frozen=True)
class PlaceYear:
    """A place's own year from its log: twelve monthly means (°C, fraction), January first, and how many months were really read."""

    temperature_c: tuple[float, ...]
    relative_humidity: tuple[float, ...]
    months_read: int


def year(place: Place) -> PlaceYear | None:
    """The year a place has had, each day counting once; ``None`` where too few of its months were read."""
    by_day = (
        place.readings.filter(at__gte=timezone.now() - YEAR_LOOKS_BACK)
        .annotate(day=TruncDate("at"))
        .values("day")
        .annotate(temperature=Avg("temperature_c"), humidity=Avg("relative_humidity"))
        .order_by("day")
    )
    months: dict[int, list[tuple[float, float]]] = {}
    for row in by_day:
        months.setdefault(row["day"].month, []).append((row["temperature"], row["humidity"]))
    if len(months) < MONTHS_KNOWN:
        return None
    known = sorted(months)
    means = [[sum(values) / len(values) for values in zip(*months[month], strict=True)] for month in known]
    # Going round, so that a missing January lies between December and February.
    temperature, humidity = (np.interp(range(1, 13), known, [mean[i] for mean in means], period=12) for i in (0, 1))
    return PlaceYear(tuple(temperature.tolist()), tuple(humidity.tolist()), len(months))


def recent_air(place: Place) -> tuple[float, float] | None:
    """Mean temperature and humidity of the days that make up the place's level, or ``None``."""
    last = latest(place)
    if last is None or last.at < timezone.now() - timedelta(days=STALE_DAYS):
        return None
    since = min(last.at, timezone.now() - timedelta(days=LEVEL_DAYS))
    means = place.readings.filter(at__gte=since).aggregate(temperature=Avg("temperature_c"), humidity=Avg("relative_humidity"))
    return means["temperature"], means["humidity"]


@dataclass(frozen=True)
class Week:
    """The mean level of one week, for the waterline."""

    monday: date
    emc: float
    tolerance: float


def weeks(place: Place, since: datetime) -> list[Week]:
    """The place's level week by week since a moment; weeks without air are left out."""
    rows = (
        place.readings.filter(at__gte=since)
        .annotate(week=TruncWeek("at"))
        .values("week")
        .annotate(mean=Avg("emc"), tolerance=Avg("emc_tolerance"))
        .order_by("week")
    )
    return [Week(row["week"].date(), row["mean"], row["tolerance"]) for row in rows]
