"""Reads of places: the air now, the level that wood there feels, and the level through the year."""

import itertools
from collections.abc import Hashable
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from typing import Any

import numpy as np
from django.db.models import Avg, Count, F, Max, OuterRef, QuerySet, Subquery, Sum
from django.db.models.functions import Exp, TruncDate, TruncWeek
from django.utils import timezone

from calm_heron.air.models import AirReading, Hygrometer, Normals, Place, YearSource
from calm_heron.answers.saved import KINDS, AnswerKind, Saved, answers_of, remembered
from calm_heron.site.memory import Memory, RowMemory
from calm_heron.workshops.models import Workshop
from wood.air import sorption
from wood.air.climate import AirSeries, Climate, constant, normals
from wood.air.hygrometers import Comparison, Shown, compare
from wood.air.rooms import Room, room
from wood.errors import OutOfRange

# Wood answers to weeks, not to hours: the level is the mean of the last four weeks, each day counting once.
LEVEL_DAYS = 28
# What air could hold, but for a constant (Magnus): warm hours carry more vapour to and from wood, so their humidity counts for more.
COULD_HOLD = Exp(F("temperature_c") * 17.27 / (F("temperature_c") + 237.3))
SUMS = {
    "warm": Sum("temperature_c"),
    "held": Sum(F("relative_humidity") * COULD_HOLD),
    "could_hold": Sum(COULD_HOLD),
    "doubt": Sum("emc_tolerance"),
    "last": Max("at"),
    "count": Count("id"),
}
# What an instrument leaves open of an EMC at the least, a fraction.
LEAST_DOUBT = 0.0005
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


def all_places(workshop: Workshop) -> QuerySet[Place]:
    return Place.objects.of(workshop).order_by("id")


def places(workshop: Workshop) -> QuerySet[Place]:
    """The places in use."""
    return all_places(workshop).filter(retired=False)


def retired(workshop: Workshop) -> QuerySet[Place]:
    """The places that are offered no more."""
    return all_places(workshop).filter(retired=True)


def latest(place: Place) -> AirReading | None:
    return place.readings.standing().order_by("-at", "-id").first()


def recent_readings(place: Place, limit: int = 60) -> QuerySet[AirReading]:
    return place.readings.standing().select_related("by").order_by("-at", "-id")[:limit]


def history(place: Place, limit: int = 12) -> list[AirReading]:
    """The newest readings, corrected and taken-out ones included and marked by ``superseded_by``."""
    return list(place.readings.filter(struck=False).select_related("superseded_by__by").order_by("-at", "-id")[:limit])


def latest_of_each(workshop: Workshop) -> list[tuple[Place, AirReading | None]]:
    """Every place with its newest reading, in two queries."""
    newest = AirReading.objects.standing().filter(place=OuterRef("pk")).order_by("-at", "-id").values("pk")[:1]
    result = list(places(workshop).annotate(newest=Subquery(newest)))
    readings = AirReading.objects.in_bulk([place.newest for place in result if place.newest])
    return [(place, readings.get(place.newest)) for place in result]


def levels(workshop_id: int) -> dict[int, Level]:
    """The level of every place that has air, by place id, worked out now. One query."""
    since = timezone.now() - timedelta(days=STALE_DAYS)
    rows = AirReading.objects.filter(workshop=workshop_id).standing().filter(at__gte=since)
    days_of: dict[int, list[dict[str, Any]]] = {}
    for row in _with_emc(_felt(rows.annotate(day=TruncDate("at")), "place", "day")):
        days_of.setdefault(row["place"], []).append(row)
    return {place: _level(days) for place, days in days_of.items()}


def _felt(readings: Any, *by: str) -> list[dict[str, Any]]:
    """The air of a day or a week as wood feels it, from which its EMC is worked out (as AirSeries.settling): never a mean of EMCs. A
    row for each combination of ``by``, with temperature (°C), humidity, tolerance, count and the last moment.

    Several instruments in one place count by how good they are. Of one instrument every reading counts alike: what it leaves open of an EMC
    grows with the humidity, and damp hours would count for less.
    """
    groups = readings.values(*by, "hygrometer").annotate(**SUMS).order_by(*by)
    result = []
    for key, group in itertools.groupby(groups, key=lambda row: [row[name] for name in by]):
        rows = list(group)
        sure = [1 / max(row["doubt"] / row["count"], LEAST_DOUBT) ** 2 for row in rows]

        def mean(of: str, over: str, rows: list[dict[str, Any]] = rows, sure: list[float] = sure) -> float:
            total = sum(weight * row[over] for weight, row in zip(sure, rows, strict=True))
            return float(sum(weight * row[of] for weight, row in zip(sure, rows, strict=True)) / total)

        count = sum(row["count"] for row in rows)
        result.append(
            {
                **dict(zip(by, key, strict=True)),
                "temperature": mean("warm", "count"),
                "humidity": mean("held", "could_hold"),
                "tolerance": sum(row["doubt"] for row in rows) / count,
                "last": max(row["last"] for row in rows),
                "count": count,
            }
        )
    return result


def _with_emc(rows: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """Rows of felt air with the EMC that each means."""
    if not rows:
        return []
    meant = sorption.emc(*(np.clip([row[name] for row in rows], *limits) for name, limits in _POSSIBLE.items()))
    return [{**row, "emc": float(item)} for row, item in zip(rows, meant, strict=True)]


_POSSIBLE = {"temperature": sorption.TEMPERATURE_C, "humidity": (0.0, 1.0)}


def level(place: Place) -> Level | None:
    return saved_levels(place.workshop_id).get(place.pk)


def saved_levels(workshop_id: int, saved: Saved | None = None) -> dict[int, Level]:
    """The level of every place of a workshop, by place id, as its readings stand."""

    def work() -> dict[str, Any]:
        return {
            str(pk): [item.emc, item.tolerance, item.days, item.last_at.isoformat(), item.stale] for pk, item in levels(workshop_id).items()
        }

    rows = (saved or answers_of(workshop_id)).get(LEVELS, 0, work)
    return {
        int(pk): Level(emc, tolerance, days, datetime.fromisoformat(last_at), stale)
        for pk, (emc, tolerance, days, last_at, stale) in rows.items()
    }


LEVELS = AnswerKind(
    10, "levels", "2", timedelta(hours=1), frozenset({"air", "workshops"}), lambda workshop, saved: saved_levels(workshop.pk, saved)
)
KINDS.add(LEVELS)


def _level(days: list[dict[str, Any]]) -> Level:
    today = timezone.localdate()
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
# What the mean of a year leaves open that was typed or published, and one that is a pattern or was worked out (fractions of moisture; our
# judgement: published years differ among themselves by half a point, rooms worked out by a point, docs/science.md).
PUBLISHED, IMAGINED = 0.005, 0.010
# How the name of a place ends whose months were compared with no source.
APPROXIMATE = " (approximate)"


@dataclass(frozen=True)
class KnownYear:
    """A year of air: its climate, and in words what it stands on. ``logged`` says that it was really read there; ``tolerance`` is what its
    mean leaves open (a fraction of moisture)."""

    climate: Climate
    basis: str
    logged: bool
    tolerance: float

    @property
    def mean(self) -> float:
        """What wood there comes to in the mean of the year."""
        return float(self.climate.monthly_emc.mean())

    @property
    def range(self) -> tuple[float, float]:
        """What its driest and its dampest month bring wood to."""
        months = self.climate.monthly_emc
        return float(months.min()), float(months.max())


def known_year(place: Place) -> KnownYear | None:
    """The best that is known of a place's year: its own readings where most months were read, else the year it was given, else nothing."""
    return remembered(_known_years, place.workshop_id, place.pk, lambda: _known_year(place), LEVELS.stands_on)


_known_years: RowMemory[KnownYear | None] = RowMemory(512)


def _known_year(place: Place) -> KnownYear | None:
    newest = latest(place)
    # The log of a place is another with every reading, every correction and every change of the place.
    last_kept = AirReading.objects.filter(place=place).order_by("-id").values_list("id", flat=True).first()
    logged = (
        _logged_years.get((place.pk, place.version, last_kept, timezone.get_current_timezone_name()), lambda: _logged_year(place))
        if newest and not place.not_lived_in
        else None
    )
    if logged:
        return logged
    given = Normals.objects.filter(place=place).select_related("outdoors", "place").first()
    return _given_year(given) if given else None


def _given_year(given: Normals) -> KnownYear | None:
    if given.outdoors is not None:
        outside = known_year(given.outdoors)
        if outside is None:
            return None
        worked_out = climate_of_room(outside.climate, given.room)
        return KnownYear(
            worked_out, f"the air of {given.outdoors.name}, as a room makes it ({outside.basis})", logged=False, tolerance=IMAGINED
        )
    basis = {
        YearSource.TYPED: "twelve months as they were typed",
        YearSource.EMC: "twelve moistures as they were typed, temperatures of a usual year",
        YearSource.PUBLISHED: f"the published months of {given.words} (FPL-RN-0268)",
        YearSource.PATTERN: f"the pattern “{given.words}”, a climate of our own",
        YearSource.FILE: f"the file {given.words}",
    }[YearSource(given.source)]
    approximate = given.source == YearSource.PUBLISHED and given.words.endswith(APPROXIMATE)
    if approximate:
        basis = f"the months of {given.words.removesuffix(APPROXIMATE)}, approximate and compared with no source"
    if given.comes_in:
        worked_out = climate_of_room(given.climate, given.room)
        return KnownYear(worked_out, f"the air outdoors, as a room makes it ({basis})", logged=False, tolerance=IMAGINED)
    tolerance = IMAGINED if approximate or given.source == YearSource.PATTERN else PUBLISHED
    return KnownYear(same_climate(given.climate), basis, logged=False, tolerance=tolerance)


_rooms: Memory[Climate] = Memory(64)
_climates: Memory[Climate] = Memory(64)


def climate_of_room(outdoors: Climate, settings: Room) -> Climate:
    """The monthly normals of a room fed from an outdoor climate."""
    return _rooms.get((outdoors, settings), lambda: normals(room(outdoors.year, settings)))


def same_climate(climate: Climate) -> Climate:
    """One climate object for equal figures, so that its hourly year is made once."""
    return _climates.get(climate, lambda: climate)


_logged_years: RowMemory[KnownYear | None] = RowMemory(128)


def _logged_year(place: Place) -> KnownYear | None:
    """The year a place has had, each day counting once."""
    if place.traits.is_held:
        return None
    by_day = _felt(place.readings.standing().filter(at__gte=timezone.now() - YEAR_LOOKS_BACK).annotate(day=TruncDate("at")), "day")
    tolerances: list[float] = []
    months: dict[int, list[tuple[float, float]]] = {}
    for row in by_day:
        months.setdefault(row["day"].month, []).append((row["temperature"], row["humidity"]))
        tolerances.append(row["tolerance"])
    if len(months) < MONTHS_KNOWN:
        return None
    known = sorted(months)
    means = [[sum(values) / len(values) for values in zip(*months[month], strict=True)] for month in known]
    # Going round, so that a missing January lies between December and February.
    temperature, humidity = (np.interp(range(1, 13), known, [mean[i] for mean in means], period=12) for i in (0, 1))
    kind = place.traits
    try:
        climate = Climate(
            tuple(temperature.tolist()), tuple(humidity.tolist()), (kind.wind_m_s,) * 12, (kind.swing_c,) * 12, name=place.name
        )
    except OutOfRange:
        return None
    read = "all twelve months" if len(months) == 12 else f"{len(months)} months"
    return KnownYear(climate, f"its own readings, in {read} of the last year", True, sum(tolerances) / len(tolerances))


def recent_air(place: Place) -> tuple[float, float] | None:
    """Mean temperature and humidity of the days that make up the place's level, or ``None``."""
    last = latest(place)
    if last is None or last.at < timezone.now() - timedelta(days=STALE_DAYS):
        return None
    since = min(last.at, timezone.now() - timedelta(days=LEVEL_DAYS))

    means = place.readings.standing().filter(at__gte=since).aggregate(temperature=Avg("temperature_c"), humidity=Avg("relative_humidity"))
    return means["temperature"], means["humidity"]


LAST_DAYS = timedelta(days=3)


def last_days(place: Place) -> tuple[float, float] | None:
    """What a place's air of the last days keeps wood between that follows it at once: the level of the regaining and of the drying curve
    (fractions); None where nothing was read lately."""
    rows = _felt(place.readings.standing().filter(at__gte=timezone.now() - LAST_DAYS))
    if not rows:
        return None
    held = constant(*(float(np.clip(rows[0][name], *limits)) for name, limits in _POSSIBLE.items()))
    level, half = float(held.settling.mean()), float(held.half_loop.mean())
    return level - half, level + half


@dataclass(frozen=True)
class KnownSeries:
    """The air of a place from 1 January on: its year, or the air of its last weeks, held. Two of one ``key`` are the same."""

    series: AirSeries
    basis: str
    key: Hashable


def series_of(place: Place, year: KnownYear | None) -> KnownSeries | None:
    """The air that wood in a place lives in, as far as it is known: its ``year``, else what was read there lately, held."""
    if year is not None:
        return KnownSeries(year.climate.year, year.basis, year.climate)
    recent = recent_air(place)
    if recent is None:
        return None
    kind = place.traits
    if kind.is_held:
        return KnownSeries(constant(*recent), "its air of the last weeks, held", recent)
    # Its days go on as those were, with their nights: in air that stood quite still wood would stay farther from its level
    # (hysteresis).
    held = same_climate(Climate((recent[0],) * 12, (recent[1],) * 12, (kind.wind_m_s,) * 12, (kind.swing_c,) * 12, name=place.name))
    return KnownSeries(held.year, "its air of the last weeks, held: a year of it was not read", held)


def days_ahead(year: KnownYear | None, level: Level | None, weeks: int = 26) -> list[tuple[date, float]]:
    """What a place brings wood to from tomorrow on, a mean for each week about its middle: as its year goes on where that is known, else at
    the level it has."""
    today = timezone.localdate()
    if year is None and level is None:
        return []
    daily = year.climate.year.settling if year is not None else np.array([level.emc if level is not None else 0.0])
    first = today.timetuple().tm_yday - 1
    return [
        (today + timedelta(days=7 * week + 4), float(daily[(first + 7 * week + np.arange(1, 8)) % daily.size].mean()))
        for week in range(weeks)
    ]


@dataclass(frozen=True)
class Week:
    """The mean level of one week, for the waterline."""

    monday: date
    emc: float
    tolerance: float


def weeks(place: Place, since: datetime) -> list[Week]:
    """The place's level week by week since a moment; weeks without air are left out."""
    rows = _felt(place.readings.standing().filter(at__gte=since).annotate(week=TruncWeek("at")), "week")
    return [Week(row["week"].date(), row["emc"], row["tolerance"]) for row in _with_emc(rows)]


# Readings of several instruments are of one air when they lie no farther apart than this.
TOGETHER = timedelta(hours=12)
COMPARED_SINCE = timedelta(days=60)


def hygrometers(workshop: Workshop) -> QuerySet[Hygrometer]:
    return Hygrometer.objects.of(workshop).order_by("name")


def compared(place: Place) -> tuple[list[AirReading], Comparison] | None:
    """The newest readings that two or more instruments took of a place's air together, and what they say of each other."""
    rows = list(
        place.readings.standing()
        .filter(at__gte=timezone.now() - COMPARED_SINCE, hygrometer__isnull=False)
        .select_related("hygrometer")
        .order_by("-at")[:60]
    )
    for start, newest in enumerate(rows):
        together: dict[int, AirReading] = {}
        for reading in rows[start:]:
            if newest.at - reading.at <= TOGETHER:
                together.setdefault(reading.hygrometer_id, reading)
        if len(together) > 1:
            readings = list(together.values())
            temperature = sum(reading.temperature_c for reading in readings) / len(readings)
            shown = [
                Shown(by.name, reading.relative_humidity, by.tolerance_now, by.freshly_checked)
                for reading in readings
                if (by := reading.hygrometer)
            ]
            return readings, compare(temperature, shown, place.usual_humidity)
    return None


def usual_hygrometer(place: Place) -> Hygrometer | None:
    """The instrument that read this place last."""
    last = place.readings.standing().select_related("hygrometer").order_by("-at").first()
    return last.hygrometer if last else None
