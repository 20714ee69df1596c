"""The question of a drying in full, and everything its answer rests on: what is usual fills every gap, one set of runs gives all."""

from dataclasses import dataclass, replace
from datetime import date, timedelta
from typing import Any

import numpy as np

from calm_heron.air.models import Place
from calm_heron.drying import methods, queries
from calm_heron.drying.forms import AS_DRY_AS_IT_GETS, WANTED
from calm_heron.drying.methods import DryingMethod
from calm_heron.drying.queries import NoAir, OwnLog, Surroundings
from calm_heron.judging.queries import Chosen, judged_by
from calm_heron.judging.settled import SizedWood
from calm_heron.judging.targets import Purpose, Target
from calm_heron.measuring import wood_now
from calm_heron.measuring.models import PieceMoisture
from calm_heron.site import numbers
from calm_heron.stock import woods
from calm_heron.stock.kinds import Seasoning
from calm_heron.stock.models import Piece
from calm_heron.workshops.models import Workshop
from wood.air.climate import day_of_year
from wood.drying import answers, settled
from wood.drying.answers import WhyNot
from wood.drying.arrival import READ_PER_MEAN, Wanted
from wood.drying.diffusivity import Figures, of_species
from wood.drying.field import THICKNESS_M
from wood.drying.methods import Stage
from wood.drying.questions import GREEN_SPREAD, Question, as_slab_of_log_m
from wood.errors import NotKnown
from wood.judging.readiness import State
from wood.measuring.estimates import Estimate, Wet
from wood.measuring.profile import DRIEST_SURFACE
from wood.measuring.readings import Bound
from wood.species import Species
from wood.uses import Against
from wood.written import typed_length

USUAL_SPECIES = "white_oak"
AIR_DRY, INDOORS = 0.20, 0.09
# Seasoning of a piece that nobody has read yet.
BY_SEASONING = {Seasoning.AIR: 0.16, Seasoning.KILN: 0.08}
CHAMBER_C, CHAMBER_HUMIDITY = 40.0, 0.60
USUAL_THICKNESS_M = 0.027
# What a typed start may be off by, as a share of it (one standard deviation).
TYPED_UNCERTAINTY = 0.04
LEAST_WANTED = 0.01
# So near to what its air can do, wood is as dry as it gets there.
WITHIN = 0.01
# A moisture counts as the one that was read when it shows the same three figures.
AS_READ = 6e-4


def usual(workshop: Workshop, piece: Piece | None, known: PieceMoisture | None, about: Chosen) -> dict[str, str]:
    """What is usual for a piece, as it would be typed, by the names of the form's fields."""
    system = workshop.system
    fields = usual_anywhere(workshop, about.places)
    if piece is None:
        return fields
    yard = _yard(about.places)
    del fields["target"], fields["where"]
    start = _start_of(piece, known)
    fields |= {
        "species_key": piece.species.common_name,
        "thickness_m": piece.thickness_as_typed(system),
        "width_m": typed_length(piece.width_m, system),
        "length_m": typed_length(piece.length_m, system),
        "ends": "sealed" if piece.ends_sealed else "open",
        **_route(piece, start, about, yard),
    }
    if not piece.traits.is_sawn:
        fields["by"] = methods.of_a_log().key
    if start is not None:
        fields["start"] = numbers.typed(start, 3)
    if about.target is None and about.use.against is not Against.LIMIT:
        fields["target"] = numbers.typed(AIR_DRY)
    return fields


def _yard(places: list[Place]) -> Place | None:
    return next((place for place in places if place.traits.is_outdoors), None)


def usual_anywhere(workshop: Workshop, places: list[Place]) -> dict[str, str]:
    """What is usual where there is no piece."""
    yard = _yard(places)
    return {
        "start_date": queries.today().isoformat(),
        "until": WANTED,
        "wind": "usual",
        "ends": "open",
        "by": methods.USUAL,
        "carry": numbers.typed(AIR_DRY),
        "temperature_c": f"{CHAMBER_C:g} C",
        "humidity": numbers.typed(CHAMBER_HUMIDITY),
        "species_key": woods.species_of(workshop.pk, USUAL_SPECIES).common_name,
        "thickness_m": "4/4" if workshop.system.is_inch else "27",
        "target": numbers.typed(AIR_DRY),
        "where": f"place-{yard.pk}" if yard else queries.USUAL_PATTERN,
    }


def _route(piece: Piece, start: float | None, about: Chosen, yard: Place | None) -> dict[str, str]:
    """Where the wood is dried, and where it is carried then: wet wood stays out of the room it will live in until it is air dry."""
    lies, lives = piece.place, about.place
    if lives is None or about.use.against is Against.LIMIT:
        there = lies or lives
        return {"where": f"place-{there.pk}" if there else queries.USUAL_PATTERN}
    if (start is None or start > AIR_DRY) and not lives.traits.is_outdoors:
        outside = lies if lies is not None and not lies.traits.is_held else yard
        if outside is not None and outside != lives:
            return {"where": f"place-{outside.pk}", "then": f"place-{lives.pk}"}
    return {"where": f"place-{lives.pk}"}


def _start_of(piece: Piece, known: PieceMoisture | None) -> float | None:
    """The moisture the piece starts at: as it is followed, else as it was read; None where it is green. A piece that reads beyond the
    meter's range everywhere counts as green; one that does so only in places counts as wet as its lowest bound."""
    followed = wood_now.of_piece(piece)
    if followed is not None:
        return followed.to_begin_from
    if known is None:
        return BY_SEASONING.get(Seasoning(piece.seasoning))
    if known.bound != Bound.ABOVE:
        return known.mean
    if known.wet == Wet.CORE:
        return known.mean - (known.mean - DRIEST_SURFACE) / 3
    return None if known.wet in (Wet.ALL, Wet.NOWHERE) else known.least


def _gradient_of(read: Estimate) -> float:
    """How much wetter a reading in the middle is than one at the usual depth. Of a core beyond the meter's range it is that of the parabola
    from the driest face there may be, which holds the most water that both readings allow."""
    if read.wet == Wet.CORE:
        return READ_PER_MEAN / 3 * (read.mean - DRIEST_SURFACE)
    return read.gradient or 0.0


@dataclass(frozen=True)
class DryingQuestion:
    """A question with every gap filled: what is usual where nothing was typed.

    ``figures`` are the species', ``question.figures`` the piece's own where its log tells of them; ``as_read`` says that it starts at
    what was read, ``at_least`` that some of it is wetter than could be measured. ``then`` is the place that it is carried to,
    ``carried_on`` the day of that, at ``carried_at``. ``purpose`` and ``place_target`` are what it is to be ready for, where nothing else
    is wanted; ``state`` is then its verdict now.
    """

    species: Species
    figures: Figures
    around: Surroundings
    question: Question
    log: OwnLog
    thickness_m: float
    start_date: date
    ends_sealed: bool
    as_read: bool
    at_least: bool = False
    # What wood that has lain there for years holds on the day that this one is as dry, where it is dried as far as that.
    driest: float | None = None
    then: Surroundings | None = None
    carried_on: date | None = None
    carried_at: float = 0.0
    purpose: Purpose | None = None
    place_target: Target | None = None
    state: State | None = None

    @property
    def last(self) -> Surroundings:
        """Where it lies in the end."""
        return self.then or self.around

    @property
    def start(self) -> float:
        return self.question.start

    @property
    def target(self) -> float:
        return self.question.target

    @property
    def sized(self) -> SizedWood:
        """Its wood and size, for its settled board."""
        return SizedWood(self.figures.wood, min(max(self.question.as_slab_m, THICKNESS_M[0]), THICKNESS_M[1]))

    @property
    def has_own_pace(self) -> bool:
        return self.question.figures != self.figures


@dataclass(frozen=True)
class Unanswerable:
    """A question that cannot be put: the place's air is not known, or no figure of the species is."""

    species: Species
    around: Surroundings | NoAir
    start_date: date

    @property
    def no_air(self) -> NoAir | None:
        return self.around if isinstance(self.around, NoAir) else None


def question_from(
    workshop: Workshop,
    typed: dict[str, Any],
    piece: Piece | None,
    known: PieceMoisture | None,
    about: Chosen | None,
    places: list[Place] | None = None,
) -> DryingQuestion | Unanswerable:
    """The question that valid fields of the form put. Where no moisture is typed as wanted, it is until the wood may be worked where it
    lies in the end, for the use that the page is ``about``; None is about nothing but the moisture, among ``places``.

    Raises:
        OutOfRange: each value is possible by itself, and not all of them together.
    """
    places = about.places if about else places or []
    species = woods.species_of(workshop.pk, typed["species_key"] or USUAL_SPECIES)
    start_date = typed["start_date"] or queries.today()
    method = methods.named(typed["by"])
    around = queries.surroundings(places, typed["where"], method, start_date, _conditions(method, typed))
    then = queries.surroundings(places, typed["then"], methods.named(methods.USUAL), start_date) if typed["then"] else None
    for item in (around, then):
        if isinstance(item, NoAir):
            return Unanswerable(species, item, start_date)
    assert isinstance(around, Surroundings)
    assert not isinstance(then, NoAir)
    try:
        figures = of_species(species)
    except NotKnown:
        return Unanswerable(species, around, start_date)
    same_wood = piece if piece is not None and piece.species_key == species.key else None
    log = queries.own_log(same_wood, figures, places) if same_wood else OwnLog([], [], None)
    start = figures.green_moisture if typed["start"] is None else typed["start"]
    thickness = typed["thickness_m"] or (piece.thickness_m if piece else USUAL_THICKNESS_M)
    of_a_log, read = around.method.core.of_a_log, known.estimate() if known is not None else None
    own_start = _start_of(piece, known) if piece is not None else None
    as_read = read is not None and own_start is not None and abs(own_start - start) < AS_READ
    at_least = as_read and read is not None and read.bound == Bound.ABOVE
    question = Question(
        queries.with_own_pace(figures, log.learned),
        as_slab_of_log_m(thickness) if of_a_log else thickness,
        start,
        typed["target"] or (AIR_DRY if around.outdoors else INDOORS),
        around.setting,
        width_m=None if of_a_log else typed["width_m"],
        length_m=typed["length_m"],
        ends_open=typed["ends"] != "sealed",
        start_uncertainty=_start_uncertainty(start, read if as_read else None, figures),
        gradient=_gradient_of(read) if as_read and read else 0.0,
    )
    whole = DryingQuestion(species, figures, around, question, log, thickness, start_date, typed["ends"] == "sealed", as_read, at_least)
    if then is not None:
        whole = _carried(whole, then, typed["carry"] or AIR_DRY)
    if typed.get("until") == AS_DRY_AS_IT_GETS:
        return _as_dry_as_it_gets(whole)
    if typed["target"] or about is None:
        return whole
    ready = _until_ready(whole, about)
    if piece is None or ready.place_target is None or ready.purpose is None or not as_read or start_date != queries.today():
        return ready
    return replace(ready, state=judged_by(piece, known, ready.purpose, ready.place_target).state)


def _as_dry_as_it_gets(question: DryingQuestion) -> DryingQuestion:
    """Until it is within a point of what the same wood holds that has lain there for years: waiting longer hardly dries it."""
    last = question.question.setting.last
    board = settled.settled_board(question.figures.wood, question.sized.slab_m, settled.felt_year(last.series, last.exposure))
    wanted = board.come_down_to_within(WITHIN)
    days = answers.middle_days(replace(question.question, wanted=wanted, target=first_edge(wanted, question.start)))
    edge = float(wanted.at(days)[1]) if np.isfinite(days) else float(board.wet.min()) + WITHIN
    return replace(question, question=replace(question.question, target=edge, wanted=wanted), driest=edge - WITHIN)


def _carried(question: DryingQuestion, then: Surroundings, at: float) -> DryingQuestion:
    """First where it is dried, then carried to another place once it has come down so far, or as far as the first place helps."""
    if question.start <= at:
        return replace(question, around=then, question=replace(question.question, setting=then.setting))
    there = replace(question.question, target=at)
    first = queries.answered(there)
    if first.why_not is WhyNot.TOO_SLOW or (question.around.method.core.of_a_log and not np.isfinite(first.days)):
        return replace(question, question=there)
    if not np.isfinite(first.days):
        at = max(at, first.lowest_month_emc + HELPS)
        first = queries.answered(replace(there, target=at)) if at < question.start else first
    if not np.isfinite(first.days):
        return replace(question, around=then, question=replace(question.question, setting=then.setting))
    day = float(np.ceil(first.days))
    setting = replace(question.question.setting, then=(Stage(day, then.setting),))
    carried_on = question.start_date + timedelta(days=day)
    return replace(question, question=replace(question.question, setting=setting), then=then, carried_on=carried_on, carried_at=at)


def _until_ready(question: DryingQuestion, about: Chosen) -> DryingQuestion:
    """Until it may be worked for what the page is about, in the place where it lies in the end; as it is where that asks for nothing."""
    purpose, last = about.purpose, question.last
    if about.use.against is not Against.LIMIT:
        if last.place is None or (last.place != about.place and last.place.traits.is_outdoors):
            return question
        purpose = replace(purpose, place=last.place)
    place_target = about.purposes.target(purpose)
    if place_target is None:
        return question
    wanted = place_target.wanted(purpose.use, question.sized, day_of_year(question.start_date), last.setting.series)
    target = first_edge(wanted, question.start)
    return replace(question, question=replace(question.question, target=target, wanted=wanted), purpose=purpose, place_target=place_target)


def first_edge(wanted: Wanted, start: float) -> float:
    """The edge of the wanted range that the wood reaches first; its own moisture where it already lies within the range."""
    low, high = (float(edge) for edge in wanted.outer_at(0.0))
    return min(max(start, low, LEAST_WANTED), max(high, LEAST_WANTED))


# Outdoors wood is worth leaving until it is so near to what the driest month would bring it to.
HELPS = 0.02


def _conditions(method: DryingMethod, typed: dict[str, Any]) -> dict[str, Any]:
    """The conditions that the method asks for, as typed or as usual."""
    known = {
        "wind": typed["wind"] or "usual",
        "temperature_c": CHAMBER_C if typed["temperature_c"] is None else typed["temperature_c"],
        "humidity": CHAMBER_HUMIDITY if typed["humidity"] is None else typed["humidity"],
    }
    return {CONDITION_OF.get(name, name): value for name, value in known.items() if name in method.asks}


# Fields of the form that the core calls otherwise.
CONDITION_OF = {"humidity": "relative_humidity"}


def uncertainty_of_reading(read: Estimate) -> float:
    """What a start that was read may be off by, as a share of it (one standard deviation)."""
    return min(read.uncertainty / 2 / max(read.mean, 0.05), 0.5)


def _start_uncertainty(start: float, read: Estimate | None, figures: Figures) -> float:
    """What the start may be off by, as a share of it (one standard deviation)."""
    if read is not None:
        return uncertainty_of_reading(read)
    return GREEN_SPREAD if abs(start - figures.green_moisture) < 5e-4 else TYPED_UNCERTAINTY


def frozen_days(question: DryingQuestion, answer: answers.Answer) -> int:
    """On how many days of its drying outdoors the air is below freezing while the wood still holds free water."""
    series, history = question.around.setting.series, answer.history
    wet = history.core > question.question.figures.wood.fibre_saturation
    until = float(history.days[wet][-1]) if wet.any() else 0.0
    if question.carried_on is not None:
        until = min(until, float((question.carried_on - question.start_date).days))
    daily = series.by_day(series.temperature_c)
    return int((daily[np.arange(int(until)) % daily.size] < 0.0).sum())
