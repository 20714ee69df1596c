"""Reads for a drying: the air it may happen in, the piece's own log, and what was learnt from it."""

from dataclasses import dataclass, replace
from datetime import date, timedelta

import numpy as np
from django.utils import timezone

from calm_heron.air import queries as air
from calm_heron.air.models import Kind, Place
from calm_heron.measuring import queries as measuring
from calm_heron.stock.models import Piece
from wood import climate, drying
from wood.climate import YEAR_DAYS
from wood.diffusivity import Figures
from wood.drying import CHAMBER, LOG, ROADS, SHED, SHOP, SMALL_STACK, YARD, Road, Setting
from wood.errors import OutOfRange, WoodError
from wood.learning import Learned, Log, learn

# Places whose air is outdoor air; in the others the place itself is the road.
OUTDOOR_ROADS = (LOG, YARD, SHED, SHOP)
ROAD_OF = {Kind.ROOM: SHOP, Kind.STORE: SHED, Kind.KILN: CHAMBER}
LOG_LOOKS_BACK = timedelta(days=400)
# A log that leaves a board's pace as unsure as its species' does has said nothing of it.
LOG_SAYS_NOTHING = 0.95
USUAL_PATTERN = "mild_inland"


def where_choices(places: list[Place]) -> list:
    """The air to choose from: the workshop's own places, then the climate patterns."""
    own = [(f"place-{place.pk}", place.name) for place in places]
    patterns = [(key, pattern.name) for key, pattern in climate.patterns().items()]
    return ([("Places of this workshop", own)] if own else []) + [("Climate patterns of our own", patterns)]


@dataclass(frozen=True)
class Surroundings:
    """The air of a drying: its setting from the start on, the road it amounts to, and in words where it comes from."""

    setting: Setting
    road: Road
    name: str
    basis: str
    outdoors: bool


@dataclass(frozen=True)
class NoAir:
    """A place whose air is not known, or is none that wood dries in: then ``why`` says so."""

    name: str
    why: str = ""


def day_of_year(day: date) -> float:
    """Days since 1 January, in a year of 365."""
    return min(day.timetuple().tm_yday - 1, YEAR_DAYS - 1)


def surroundings(places: list[Place], where: str, road: Road, start: date, wind: str, chamber: dict) -> Surroundings | NoAir:
    """The air that ``where`` (a pattern's key or ``place-…``) and the road amount to, beginning on a day."""
    begin = day_of_year(start)
    if where.startswith("place-"):
        place = next((place for place in places if f"place-{place.pk}" == where), None)
        if place is not None:
            try:
                return _in_place(place, road, begin, wind, chamber)
            except OutOfRange as beyond:
                return NoAir(place.name, str(beyond))
    if road is CHAMBER:
        return _in_chamber(chamber)
    pattern = climate.patterns().get(where) or climate.pattern(USUAL_PATTERN)
    found = drying.setting(road, pattern.year.starting(begin), wind=wind)
    return Surroundings(
        found, road, f"the pattern “{pattern.name.lower()}”", f"a climate pattern of our own: {pattern.words}", outdoors=True
    )


def _in_chamber(chamber: dict) -> Surroundings:
    return Surroundings(drying.setting(CHAMBER, **chamber), CHAMBER, "the chamber", "held at its settings", outdoors=False)


def _in_place(place: Place, road: Road, begin: float, wind: str, chamber: dict) -> Surroundings | NoAir:
    outdoors = place.kind == Kind.YARD
    if outdoors and road is CHAMBER:
        return _in_chamber(chamber)
    known = air.known_year(place)
    if known:
        series, basis = known.climate.year.starting(begin), known.basis
    else:
        recent = air.recent_air(place)
        if recent is None:
            return NoAir(place.name)
        if place.kind == Kind.KILN:
            settings = drying.setting(CHAMBER, temperature_c=recent[0], relative_humidity=recent[1])
            return Surroundings(settings, CHAMBER, place.name, "its air of the last weeks, held", outdoors=False)
        series = climate.constant(recent[0], recent[1], air.wind_m_s(Kind(place.kind)))
        basis = "its air of the last weeks, held: a year of it was not read"
    if outdoors:
        chosen = road if road in OUTDOOR_ROADS else YARD
        return Surroundings(drying.setting(chosen, series, wind=wind), chosen, place.name, basis, outdoors=True)
    own_road = ROAD_OF[Kind(place.kind)]
    return Surroundings(Setting(series, SMALL_STACK), own_road, place.name, basis, outdoors=False)


@dataclass(frozen=True)
class OwnLog:
    """A piece's own log: moments and daily mean moistures, oldest first, and what was learnt from them where enough were taken."""

    days: list[date]
    moistures: list[float]
    learned: Learned | None


def own_log(piece: Piece, figures: Figures, places: list[Place]) -> OwnLog:
    """The daily means of a piece over the last year, and the board's own pace learnt from them in the air of the place it lies in."""
    rows = measuring.daily_means([piece], timezone.now() - LOG_LOOKS_BACK).get(piece.pk, [])
    days, moistures = [day for day, _ in rows], [moisture for _, moisture in rows]
    around = surroundings(places, f"place-{piece.place_id}", YARD, today(), "usual", {}) if piece.place_id else NoAir("")
    known = rows and isinstance(around, Surroundings)
    learned = _learn(tuple(days), tuple(moistures), figures, piece.thickness_m, around) if known else None
    return OwnLog(days, moistures, learned)


_learnt: dict = {}


def _learn(days: tuple[date, ...], moistures: tuple[float, ...], figures: Figures, slab_m: float, around: Surroundings) -> Learned | None:
    """Fit the log; the same log in the same air is fitted once, because sliders ask again and again."""
    series = around.setting.series.starting(day_of_year(days[0])) if around.setting.series.days >= YEAR_DAYS - 1 else around.setting.series
    key = (days, moistures, figures, round(slab_m, 6), around.name, around.road.key, float(series.settling.mean()))
    if key not in _learnt:
        if len(_learnt) > 200:
            _learnt.clear()
        try:
            log = Log([(day - days[0]).days for day in days], moistures, uncertainty=0.01)
            _learnt[key] = learn(log, figures, slab_m, series, around.setting.exposure)
        except WoodError:
            _learnt[key] = None
    return _learnt[key]


def with_own_pace(figures: Figures, learned: Learned | None) -> Figures:
    """The species' figures, or the board's own where its log has said something of its pace."""
    if learned is None or learned.factor_spread > LOG_SAYS_NOTHING * figures.spread:
        return figures
    factor = float(np.clip(figures.wood.factor * learned.factor_share, 1e-3, 100.0))
    return replace(figures, wood=replace(figures.wood, factor=factor), spread=learned.factor_spread)


def road_named(key: str) -> Road:
    return ROADS.get(key, YARD)


def today() -> date:
    return timezone.localdate()
