"""Reads for a drying: the air it may happen in, the piece's own log, and what was learnt from it."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from datetime import date, timedelta
from typing import Any

import numpy as np
from django.utils import timezone

from calm_heron.air import queries as air
from calm_heron.air.models import Place
from calm_heron.drying import methods
from calm_heron.drying.methods import DryingMethod
from calm_heron.measuring import queries as measuring
from calm_heron.site.memory import Memory, digest_of
from calm_heron.stock.models import Piece
from wood.air import climate
from wood.air.climate import YEAR_DAYS, day_of_year
from wood.drying.answers import RUNS, Answer, answer
from wood.drying.diffusivity import Figures
from wood.drying.learning import Learned, Log, learn
from wood.drying.methods import SMALL_STACK, Setting, setting
from wood.drying.questions import Question
from wood.errors import OutOfRange, WoodError

LOG_LOOKS_BACK = timedelta(days=400)
# What a daily mean of readings leaves open (95%).
LOG_UNCERTAINTY = 0.01
# A log that leaves a board's pace as unsure as its species' does has said nothing of it.
LOG_SAYS_NOTHING = 0.95
USUAL_PATTERN = "mild_inland"


def pattern_keys() -> list[str]:
    """The climate patterns, by key."""
    return list(climate.patterns())


def where_choices(places: list[Place]) -> list[Any]:
    """The air to choose from: the workshop's own places, then the climate patterns."""
    own = [(f"place-{place.pk}", place.name) for place in places]
    patterns = [(key, pattern.name) for key, pattern in climate.patterns().items()]
    return ([("Places of this workshop", own)] if own else []) + [("Climate patterns of our own", patterns)]


def then_choices(places: list[Place]) -> list[Any]:
    """Where wood may be carried to."""
    return [("", "it stays there"), *((f"place-{place.pk}", place.name) for place in places if not place.traits.is_outdoors)]


@dataclass(frozen=True)
class Surroundings:
    """The air of a drying: its setting from the start on, the method it amounts to, and in words where it comes from.

    ``place`` is the place of the workshop that it is, None for a climate pattern.
    """

    setting: Setting
    method: DryingMethod
    name: str
    basis: str
    outdoors: bool
    place: Place | None = None

    @property
    def of_place(self) -> bool:
        return self.place is not None


@dataclass(frozen=True)
class NoAir:
    """A place whose air is not known, or is none that wood dries in: then ``why`` says so."""

    name: str
    why: str = ""


def surroundings(
    places: list[Place], where: str, method: DryingMethod, start: date, conditions: Mapping[str, Any] | None = None
) -> Surroundings | NoAir:
    """The air that ``where`` (a pattern's key or ``place-…``) and the method amount to, beginning on a day.

    ``conditions`` are those of :class:`wood.drying.methods.Conditions` that were asked for.
    """
    begin, question = day_of_year(start), dict(conditions or {})
    if where.startswith("place-"):
        place = next((place for place in places if f"place-{place.pk}" == where), None)
        if place is not None:
            try:
                return _in_place(place, method, begin, question)
            except OutOfRange as beyond:
                return NoAir(place.name, str(beyond))
    if not method.core.outdoors:
        return _held(method, question)
    pattern = climate.patterns().get(where) or climate.pattern(USUAL_PATTERN)
    result = setting(method.core, pattern.year.starting(begin), **question)
    return Surroundings(
        result, method, f"the pattern “{pattern.name.lower()}”", f"a climate pattern of our own: {pattern.words}", outdoors=True
    )


def sky(places: list[Place], where: str) -> tuple[tuple[float, ...], float | None]:
    """How clear the sky is over ``where`` (a pattern's key or ``place-…``), month by month, and its latitude; empty and None where nobody
    knows.
    """
    place = next((place for place in places if f"place-{place.pk}" == where), None)
    known = air.known_year(place) if place is not None else None
    result = known.climate if known else climate.patterns().get(where)
    return (result.clearness, result.latitude_deg) if result is not None else ((), None)


def _held(method: DryingMethod, question: dict[str, Any]) -> Surroundings:
    return Surroundings(setting(method.core, **question), method, f"the {method.core.name.lower()}", "held at its settings", outdoors=False)


def _in_place(place: Place, method: DryingMethod, begin: float, question: dict[str, Any]) -> Surroundings | NoAir:
    kind = place.traits
    if kind.is_outdoors and not method.core.outdoors:
        return _held(method, question)
    year = air.known_year(place)
    known = air.series_of(place, year)
    if known is None:
        return NoAir(place.name)
    if kind.is_held and year is None:
        own = methods.of_place(place.kind)
        held = known.series
        kiln = setting(own.core, temperature_c=float(held.temperature_c[0]), relative_humidity=float(held.relative_humidity[0]))
        return Surroundings(kiln, own, place.name, known.basis, outdoors=False, place=place)
    series, basis = known.series.starting(begin), known.basis
    if kind.is_outdoors:
        return Surroundings(setting(method.core, series, **question), method, place.name, basis, outdoors=True, place=place)
    return Surroundings(Setting(series, SMALL_STACK), methods.of_place(place.kind), place.name, basis, outdoors=False, place=place)


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
    around = surroundings(places, f"place-{piece.place_id}", methods.named(methods.USUAL), today()) if piece.place_id else NoAir("")
    if not rows or not isinstance(around, Surroundings):
        return OwnLog(days, moistures, None)
    return OwnLog(days, moistures, learnt(tuple(days), tuple(moistures), figures, piece.thickness_m, around))


# The same question is asked again with every look at the same page.
_answers: Memory[Answer] = Memory(160)


def answered(question: Question, runs: int = RUNS) -> Answer:
    """How long, as :func:`wood.drying.answers.answer`, worked out once for each question."""
    return _answers.get(digest_of((question, runs)), lambda: answer(question, runs=runs))


# The same log in the same air is fitted once, because sliders ask again and again.
_fits: Memory[Learned | None] = Memory(200)


def learnt(days: tuple[date, ...], moistures: tuple[float, ...], figures: Figures, slab_m: float, around: Surroundings) -> Learned | None:
    """What a log, oldest first, says of the wood's own pace in its surroundings; None where it says nothing that can be fitted."""
    series = around.setting.series.starting(day_of_year(days[0])) if around.setting.series.days >= YEAR_DAYS - 1 else around.setting.series

    def fitted() -> Learned | None:
        try:
            log = Log([(day - days[0]).days for day in days], moistures, uncertainty=LOG_UNCERTAINTY)
            return learn(log, figures, slab_m, series, around.setting.exposure)
        except WoodError:
            return None

    air_of_it = (around.name, around.method.key, around.setting.exposure, float(series.settling.mean()))
    return _fits.get((days, moistures, figures, round(slab_m, 6), *air_of_it), fitted)


def with_own_pace(figures: Figures, learned: Learned | None) -> Figures:
    """The species' figures, or the board's own where its log has said something of its pace."""
    if learned is None or learned.factor_spread > LOG_SAYS_NOTHING * figures.spread:
        return figures
    factor = float(np.clip(figures.wood.factor * learned.factor_share, 1e-3, 100.0))
    return replace(figures, wood=replace(figures.wood, factor=factor), spread=learned.factor_spread)


def today() -> date:
    return timezone.localdate()
