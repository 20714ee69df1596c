"""How long a log keeps in its bark until it is sawn, and what it splits if it never is."""

from dataclasses import dataclass

from django import forms

from calm_heron.air import queries as air
from calm_heron.drying import methods, queries
from calm_heron.drying.forms import ENDS, BeginField
from calm_heron.drying.words import span
from calm_heron.questions.forms import Group, QuestionForm
from calm_heron.questions.presentation import Cell, Columns, Heading, Lead, Manner, Presentation, Row, Says, Table
from calm_heron.questions.tools import Bound, CannotPut, Gist, Put, Reader, Why
from calm_heron.site.numbers import percent
from calm_heron.stock import woods
from calm_heron.stock.models import Piece
from calm_heron.stock.species_forms import SpeciesField
from calm_heron.workshops.askers import Asker
from calm_heron.workshops.fields import LengthField
from wood.air import climate
from wood.air.climate import AirSeries
from wood.drying import logs
from wood.drying.logs import Keeps, Split
from wood.errors import NotKnown
from wood.movement import shrinkage
from wood.species import Species
from wood.written import said_length, written_temperature

INDOORS, OUTDOORS = 0.08, 0.15
USUAL_DIAMETER_M = 0.4
MONTHS = "JFMAMJJASOND"
# At this warmth stain grows at its full pace.
WARM_C = 27.0


class LogForm(QuestionForm):
    """A log, when it was felled, and where it lies."""

    felled = BeginField("Felled on")
    ends = forms.ChoiceField(label="Its ends are", choices=ENDS, required=False)
    groups = (Group(("species_key", "diameter_m", "felled", "ends", "where")),)

    @classmethod
    def begins_with(cls, asker: Asker, subject: Piece | None) -> dict[str, str]:
        return {"species_key": "sugar maple", "diameter_m": "16" if asker.system.is_inch else "400"}

    def build(self) -> None:
        self.places = list(air.places(self.workshop)) if self.workshop.pk else []
        yards = [(f"place-{place.pk}", place.name) for place in self.places if place.traits.is_outdoors]
        patterns = sorted(
            ((key, pattern.name) for key, pattern in climate.patterns().items()), key=lambda pair: pair[0] != queries.USUAL_PATTERN
        )
        self.fields["species_key"] = SpeciesField(self.workshop, required=False, label="Species")
        self.fields["diameter_m"] = LengthField(self.system, *logs.DIAMETER_M, required=False, label=f"Diameter, {self.system.length}")
        self.fields["where"] = forms.ChoiceField(required=False, label="Outdoors in the air of", choices=[*yards, *patterns])


@dataclass(frozen=True)
class LogInBark:
    """A log in its bark from the day it was felled on, outdoors."""

    species: Species
    diameter_m: float
    sealed: bool
    series: AirSeries


@dataclass(frozen=True)
class LogLife:
    """How long the log keeps, how long it would keep if felled in each month, and its splits outdoors and indoors (empty: not known)."""

    question: LogInBark
    keeps: Keeps
    by_month: tuple[float, ...]
    splits: tuple[tuple[float, Split], ...]


def put(form: LogForm, asker: Asker, subject: Piece | None) -> Put[LogInBark] | CannotPut:
    """A valid form as a question."""
    typed = form.cleaned_data
    if not typed["species_key"]:
        return CannotPut(Why.STILL_TO_SAY, "Say which wood it is.")
    around = queries.surroundings(form.places, form.chosen("where"), methods.of_a_log(), typed["felled"] or queries.today())
    if not isinstance(around, queries.Surroundings):
        return CannotPut(Why.NO_AIR, f"The air of {around.name} is not known yet: read it, or choose a climate.")
    species = woods.species_of(form.workshop.pk, typed["species_key"])
    log = LogInBark(species, typed["diameter_m"] or USUAL_DIAMETER_M, form.chosen("ends") == "sealed", around.setting.series)
    return Put(log, {"place": around.name})


def work(log: LogInBark) -> LogLife:
    """How long it keeps."""
    try:
        figures = shrinkage.of_species(log.species)
        splits = tuple((moisture, logs.split(figures, log.diameter_m, moisture)) for moisture in (OUTDOORS, INDOORS))
    except NotKnown:
        splits = ()
    keeps, by_month = (act(log.species, log.series, sealed=log.sealed) for act in (logs.keeps, logs.keeps_by_month))
    return LogLife(log, keeps, by_month, splits)  # type: ignore[arg-type]


def gist(life: LogLife) -> Gist:
    """How long it is good for clean wood, and for any."""
    return Gist("keeps", {"saw_within_days": Bound(life.keeps.saw_within), "heartwood_rots_days": Bound(life.keeps.heartwood_rots)})


def present(put: Put[LogInBark], life: LogLife, reader: Reader) -> Presentation:
    """How long, why, by months, and the splits of a log that is left whole."""
    log, keeps, system, wood = put.question, life.keeps, reader.system, put.question.species.spoken_name
    most = max((days for days in life.by_month if days < float("inf")), default=1.0)
    months = [
        (name, 100 * days / most, f"{days / 7:.0f}") if days < float("inf") else (name, 100.0, "150+")
        for name, days in zip(MONTHS, life.by_month, strict=True)
    ]
    splits = [
        Row(
            f"At {percent(moisture)}, {where}",
            (Cell(f"{said_length(split.rim_m, system)} wide at its rim, if it is one split", is_number=True),),
        )
        for where, (moisture, split) in zip(("outdoors", "indoors"), life.splits, strict=False)
    ]
    whole = f"Left in the round until it is dry, {said_length(log.diameter_m, system)} splits to its pith"
    return Presentation(
        Lead(span(keeps.saw_within).capitalize(), "to saw it in, for clean wood"),
        f"In its bark and off the ground, {'its ends sealed the day it was felled' if log.sealed else 'its ends open'}, in the air of"
        f" {put.tells['place']}: after that the sapwood of {wood} stains. Sapwood begins to rot after {span(keeps.sapwood_rots)}, "
        "heartwood after"
        f" {span(keeps.heartwood_rots)}.",
        (
            Heading("Felled on the first of each month: weeks"),
            Columns(months),
            (
                Table(splits, caption=whole, narrow=True)
                if splits
                else Says(f"How much {wood} shrinks is not known, so nothing is said of its splits.", Manner.HINT)
            ),
            Says(
                f"Warm days count: none below freezing, all of one at {written_temperature(WARM_C, system)}. Sealed ends and whole bark are"
                " taken to keep it two and a half times as long as open ends: our own judgement. Insects come in the first warm weeks, and"
                " sooner where the bark is torn; water or frost keeps a log for longer.",
                Manner.HINT,
            ),
        ),
    )
