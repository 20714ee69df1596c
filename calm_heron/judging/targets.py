"""What a piece is judged against: the level of its place, the subfloor that lies there, or a moisture it may not exceed."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from datetime import datetime, timedelta

import numpy as np
from django.utils import timezone

from calm_heron.air import queries as air
from calm_heron.air.models import Place
from calm_heron.air.queries import KnownYear, Level
from calm_heron.judging.settled import HomeAir, SizedWood, for_instruments, home_of
from calm_heron.measuring.models import PieceMoisture, SlabTest
from calm_heron.site.numbers import counted, points
from calm_heron.stock.kinds import NOT_JUDGED
from calm_heron.stock.models import Piece, Status
from wood.air.climate import YEAR_DAYS, AirSeries, day_of_year
from wood.air.levels import LEVEL_DAYS, level_through
from wood.arrays import Values
from wood.drying import arrival
from wood.drying.arrival import Wanted
from wood.drying.settled import SettledBoard
from wood.judging.readiness import Edges, around
from wood.measuring.estimates import Board, estimate_lot
from wood.species import panels
from wood.uses import Against, Approach, Use

# A subfloor changes slowly, but a wet trade may have been at it since.
SUBFLOOR_GOOD_FOR = timedelta(days=30)


@dataclass(frozen=True)
class Purpose:
    """What wood is for: where it will live, for which use, and by which approach; ``moisture`` is the one that somebody named. The mean of
    a year that is not known gives way to the last four weeks."""

    place: Place | None
    use: Use
    approach: Approach = Approach.SETTLED
    moisture: float | None = None


@dataclass(frozen=True)
class Target:
    """A moisture ± its uncertainty (fractions), and in words what it is: ``name``, as in “the level of Bench room”, ``at`` with the
    moisture, as in “the 8.1% of Bench room”, ``basis`` for the working.

    ``weaker`` names the instrument behind it; ``stale`` that it is too old to trust; ``level`` and ``year`` are the place's, where known,
    ``approach`` which of them counts. ``also`` is a second one that must be met: of a floor the room it lies in.
    """

    moisture: float
    tolerance: float
    name: str
    at: str
    basis: str
    uncertainty_basis: str
    weaker: str
    days: int = 0
    last_at: datetime | None = None
    stale: bool = False
    level: Level | None = None
    year: KnownYear | None = None
    approach: Approach | None = None
    # A slab under the floor that is not known to be dry enough: then nothing is judged, and this says why.
    blocked: str = ""
    also: "Target | None" = None
    # Where it lives, where wood is held against the settled board there.
    home: HomeAir | None = None

    def settled(self, wood: SizedWood, day: float) -> SettledBoard | None:
        """The settled board of a piece there, from a day of the year on; None where it is held against something else."""
        return self.home.board(wood).starting(day) if self.home is not None else None

    def wanted(self, use: Use, wood: SizedWood, day: float, series: AirSeries | None = None) -> Wanted:
        """What this asks of a piece for a use, day by day from a day of the year on; ``series`` is the air that it then lies in."""
        own = self._wanted(use, wood, day, series)
        return arrival.both(own, self.also._wanted(use, wood, day, series)) if self.also is not None else own

    def _wanted(self, use: Use, wood: SizedWood, day: float, series: AirSeries | None) -> Wanted:
        if self.home is not None:
            return self.home.wanted_from(day, wood, use)
        if use.against is Against.LIMIT:
            return arrival.at_most(self.moisture)
        level: Values = self.moisture
        if self.approach is Approach.WEEKS and series is not None and series.days >= YEAR_DAYS - 1:
            # The level as it will then be; from what it is today it goes over into that of the year.
            ahead = level_through(AirSeries.starting(series, series.start_day - LEVEL_DAYS), YEAR_DAYS + LEVEL_DAYS)
            usual = ahead[LEVEL_DAYS : LEVEL_DAYS + YEAR_DAYS]
            fades = np.clip(1 - np.arange(YEAR_DAYS) / LEVEL_DAYS, 0.0, 1.0)
            level = usual + (self.moisture - usual[0]) * fades
        return arrival.around(level, use.tolerance, use.allowed_gradient)

    def edges(self, use: Use, wood: SizedWood, at: datetime) -> Edges:
        """What this itself, without what must be met ``also``, asks of a piece on a day."""
        if self.home is None:
            return around(self.moisture, use)
        return self.home.wanted(wood, use).on(day_of_year(at.date()))


# The level and the year of a place, as far as they are known.
AirOf = tuple[Level | None, KnownYear | None]


def air_of(place: Place) -> AirOf:
    return air.level(place), air.known_year(place)


def target(purpose: Purpose, known: Callable[[Place], AirOf] = air_of) -> Target | None:
    """What is asked of wood for a purpose; ``None`` where nothing is known that would say so. ``known`` gives the air of a place."""
    place, use = purpose.place, purpose.use
    if use.against is Against.LIMIT:
        return Target(use.limit, 0.0, "the limit", "that", use.rule, "a limit has none", "meter")
    if place is None or place.retired:
        return None
    if use.is_held and purpose.approach is Approach.SETTLED:
        return _held()
    if use.against is Against.SUBFLOOR:
        floor = _subfloor(place)
        if floor is None:
            return _on_concrete(place, in_room(place, purpose.approach, purpose.moisture, known))
        room = in_room(place, purpose.approach, purpose.moisture, known)
        return replace(floor, also=room if room and not room.stale else None)
    return in_room(place, purpose.approach, purpose.moisture, known)


def in_room(
    place: Place, approach: Approach = Approach.SETTLED, moisture: float | None = None, known: Callable[[Place], AirOf] = air_of
) -> Target | None:
    """What a room asks of wood that will live there, by an approach; ``None`` where what that needs is not known."""
    level, year = known(place)
    if approach is Approach.TYPED:
        if moisture is None:
            return None
        return Target(
            moisture,
            0.0,
            "the target",
            f"the target of {points(moisture)}%",
            "as it was named",
            "none, it was named",
            "meter",
            level=level,
            year=year,
            approach=approach,
        )
    if approach in (Approach.YEAR, Approach.SETTLED) and year is not None:
        mean = year.mean
        return Target(
            mean,
            year.tolerance,
            f"the mean of {place.name}’s year",
            f"the {points(mean)}% that {place.name} averages over the year",
            f"mean of twelve months: {year.basis}",
            "what is not known of the year" if not year.logged else "its hygrometer, through the sorption curve",
            "hygrometer" if year.logged else "year",
            level=level,
            year=year,
            approach=approach,
            home=home_of(place, year) if approach is Approach.SETTLED else None,
        )
    if level is None or place.not_lived_in:
        return None
    return Target(
        level.emc,
        level.tolerance,
        f"the four-week EMC of {place.name}",
        f"the {points(level.emc)}% of {place.name}",
        f"mean EMC of {counted(level.days, 'day')}",
        "its tolerance through the slope of the sorption curve",
        "hygrometer",
        level.days,
        level.last_at,
        level.stale,
        level,
        year,
        Approach.WEEKS if approach is Approach.YEAR else approach,
        home=home_of(place, None) if approach is Approach.SETTLED and not level.stale else None,
    )


def _held() -> Target:
    """The air that instruments are built for, whatever the place does through the year."""
    home = for_instruments()
    emc = float(home.year.settling.mean())
    name = "what instruments are built for"
    return Target(
        emc,
        0.0,
        name,
        f"the {points(emc)}% that instruments are built for",
        home.basis,
        "none, it is a rule",
        "meter",
        approach=Approach.SETTLED,
        home=home,
    )


NOT_TESTED, TOO_WET = "slab_not_tested", "slab_too_wet"


def _on_concrete(place: Place, room: Target | None) -> Target | None:
    """What a floor on concrete is judged against: the room, once the slab's own test was passed lately; None where there is no slab."""
    slabs = Piece.objects.filter(place=place, kind__in=NOT_JUDGED, species_key__in=CONCRETE, status=Status.IN_STOCK)
    newest = SlabTest.objects.filter(piece__in=slabs).order_by("piece", "-at").distinct("piece")
    tests = {test.piece_id: test for test in newest}
    ids = list(slabs.values_list("pk", flat=True))
    if not ids:
        return None
    fresh = [tests[pk] for pk in ids if pk in tests and tests[pk].at > timezone.now() - SUBFLOOR_GOOD_FOR]
    blocked = TOO_WET if any(not test.passed for test in fresh) else NOT_TESTED if len(fresh) < len(ids) else ""
    if blocked:
        last = max((test.at for test in tests.values()), default=None)
        name = f"the slab in {place.name}"
        return Target(0.0, 0.0, name, name, "its own test", "none", "meter", last_at=last, stale=True, blocked=blocked)
    return replace(room, basis=f"{room.basis}; the slab passed its own test") if room else None


CONCRETE = [key for key, panel in panels().items() if panel.holds_no_moisture_content]


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
    name = f"the subfloor in {place.name}"
    return Target(
        result.mean,
        result.uncertainty,
        name,
        f"the {points(result.mean)}% of {name}",
        f"{counted(len(read), 'subfloor piece')} read",
        "meter and few spots",
        "meter",
        last_at=rows[0].at,
        stale=not fresh,
    )
