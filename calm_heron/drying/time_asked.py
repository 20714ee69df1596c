"""How long wood that is not here would take to dry: the question, its answer, and how it is told."""

from typing import Any

import numpy as np
from django import forms

from calm_heron.air import queries as air
from calm_heron.drying import drawings, queries, questions
from calm_heron.drying.forms import MOST_THICKNESS_M, UNTIL, WANTED, BeginField
from calm_heron.drying.methods import METHODS
from calm_heron.drying.questions import AIR_DRY, DryingQuestion, Unanswerable
from calm_heron.drying.shown import shown
from calm_heron.drying.words import span
from calm_heron.questions.forms import Group, QuestionForm
from calm_heron.questions.presentation import Caution, Drawn, Heading, Lead, Manner, Part, Presentation, Says
from calm_heron.questions.tools import Bound, CannotPut, Gist, Put, Reader, StillToSay, Why
from calm_heron.questions.worth_keeping import as_a_piece
from calm_heron.site.numbers import percent
from calm_heron.stock.species_forms import SpeciesField
from calm_heron.workshops.askers import Asker
from calm_heron.workshops.fields import LengthField, PercentField
from wood.drying import logs
from wood.drying.answers import Answer
from wood.drying.field import GREATEST_MOISTURE

ASKED = ("species_key", "thickness_m", "start", "until", "target", "where", "by", "start_date")


class DryingTimeForm(QuestionForm):
    """The wood, from which moisture to which, where, from when. What else the page of a drying asks is as usual here."""

    takes_section = True
    answer_below = True
    groups = (Group(ASKED),)
    always = ("until", "where", "by", "target", "start_date")
    called = {"diameter_m": "thickness_m"}
    start_date = BeginField("From")

    @classmethod
    def begins_with(cls, asker: Asker, subject: None) -> dict[str, str]:
        usual = questions.usual_anywhere(asker.workshop, list(air.places(asker.workshop)) if asker.is_member else [])
        return {name: usual[name] for name in cls.always}

    def build(self) -> None:
        self.places = list(air.places(self.workshop)) if self.workshop.pk else []
        self.fields["species_key"] = SpeciesField(self.workshop, label="Species", required=False)
        self.fields["thickness_m"] = LengthField(
            self.system, 0.001, MOST_THICKNESS_M, label=f"Thickness, {self.system.length}", required=False
        )
        self.fields["start"] = PercentField(self.system, 0.0, GREATEST_MOISTURE, label="Moisture now, %", required=False)
        self.fields["start"].widget.attrs["placeholder"] = "green, as sawn"
        self.fields["until"] = forms.ChoiceField(label="Until it is at", choices=UNTIL, required=False)
        self.fields["target"] = PercentField(self.system, 0.01, 0.6, label="Target, %", required=False)
        self.fields["where"] = forms.ChoiceField(label="Air", choices=queries.where_choices(self.places), required=False)
        self.fields["by"] = forms.ChoiceField(
            label="Method", choices=[(method.key, method.core.name) for method in METHODS], required=False
        )
        # Places that are themselves the way the wood lies ask nothing more.
        outdoors = [f"place-{place.pk}" for place in self.places if place.traits.is_outdoors]
        self.depends = {"by": f"where={' '.join([*outdoors, *queries.pattern_keys()])}", "target": f"until={WANTED}"}  # type: ignore[misc]


def put(form: DryingTimeForm, asker: Asker, subject: None) -> Put[DryingQuestion] | CannotPut:
    """A valid form as a question.

    Raises:
        StillToSay: no wood, or no thickness. OutOfRange.
    """
    typed = form.cleaned_data
    if not typed["species_key"] or not typed["thickness_m"]:
        raise StillToSay("Say which wood and how thick. It counts as green, as sawn, unless you say what it is at.")
    usual = {
        "then": "",
        "carry": None,
        "width_m": None,
        "length_m": None,
        "ends": "open",
        "wind": "",
        "temperature_c": None,
        "humidity": None,
    }
    whole = {
        **usual,
        **{name: typed[name] for name in ASKED},
        "where": form.chosen("where"),
        "by": form.chosen("by"),
        "until": form.chosen("until"),
        "target": typed["target"] or AIR_DRY,
    }
    question = questions.question_from(asker.workshop, whole, None, None, None, form.places)
    if isinstance(question, Unanswerable):
        if question.no_air is None:
            gives = (
                f"None of our sources gives the specific gravity of {question.species.spoken_name} or of a near relative, so how fast it"
                f" dries is not known.{_between(form, asker, whole)}"
            )
            return CannotPut(Why.NO_FIGURE, gives)
        why = question.no_air.why or "it was not read in the last months"
        return CannotPut(
            Why.NO_AIR,
            f"Nothing can be worked out for the air in {question.no_air.name}: {why}. Read its temperature and humidity, or choose a"
            " climate pattern.",
        )
    return Put(question)


# A quick wood and a slow one.
QUICK, SLOW = "eastern_white_pine", "white_oak"


def _between(form: DryingTimeForm, asker: Asker, whole: dict[str, Any]) -> str:
    """What thickness and air alone tell: how long a quick wood as thick takes, and a slow one; empty where either never gets there."""
    said = []
    for key in (QUICK, SLOW):
        # Green where nothing is typed, each as its own green wood is.
        other = questions.question_from(asker.workshop, whole | {"species_key": key}, None, None, None, form.places)
        if not isinstance(other, DryingQuestion):
            return ""
        days = queries.answered(other.question).days
        if not np.isfinite(days):
            return ""
        said.append(f"as thick, {other.species.spoken_name} takes about {span(days)} to {percent(other.target)}")
    return f" It lies between these in all likelihood: {said[0]}, and {said[1]}."


def work(question: DryingQuestion) -> Answer:
    """When it is there, with its band."""
    return queries.answered(question.question)


def gist(answer: Answer) -> Gist:
    """Days, between their ends."""
    return Gist(answer.why_not or "dries", {"days": Bound(answer.days, answer.low, answer.high)})


def present(put: Put[DryingQuestion], answer: Answer, reader: Reader) -> Presentation:
    """How long, why, what to do, what may go wrong, and what it stands on."""
    question = put.question
    page = shown(question, reader.system, ())
    described, method = page["described"], question.around.method.core
    hints = [said for said in (page["driest"], page["frost"], page["beside"]) if said]
    parts: list[Part] = [Says(described.next_step, Manner.NEXT, first="Next."), *(Says(said, Manner.HINT) for said in hints)]
    if method.of_a_log:
        parts.append(_keeps(question, reader))
    parts += [*as_a_piece(reader, "drying"), Drawn("course"), *([Drawn("months")] if method.outdoors else []), Heading("What may go wrong")]
    if page["risks_unknown"]:
        parts.append(Says(f"The shrinkage of {question.species.common_name} is not known, so its checks cannot be judged."))
    else:
        parts += [risk.as_part() for risk in page["risks"]] or [Says("Nothing to speak of.")]
        if page["low_risks"]:
            little = f"Low risk: {', '.join(page['low_risks'])}. At 1 or more, expect the defect."
            parts.append(Says(little, Manner.HINT))
    if not method.outdoors:
        parts.append(Caution("hot_chamber"))
    elif question.around.outdoors:
        parts.append(Caution("stack"))
    parts.append(Drawn("working"))
    return Presentation(Lead(described.word, described.band), described.reason, parts)


def _keeps(question: DryingQuestion, reader: Reader) -> Says:
    """How long a log keeps, which is far shorter than it dries."""
    life = logs.keeps(question.species, question.around.setting.series, sealed=question.ends_sealed)
    ends = "with sealed ends" if question.ends_sealed else "with open ends"
    return Says(
        f"In its bark, {ends}, it keeps {span(life.saw_within)} for clean wood; its sapwood rots after {span(life.sapwood_rots)}, its"
        f" heartwood after {span(life.heartwood_rots)}. Saw it before it dries.",
        first="It keeps less long.",
        link=reader.asker.address("log"),
        link_words="By months, and its splits",
    )


def course(put: Put[DryingQuestion], answer: Answer, reader: Reader, narrow: bool) -> dict[str, Any]:
    """Moisture through the thickness, and its mean, shell and core coming down to the air."""
    return shown(put.question, reader.system, (drawings.NARROW if narrow else drawings.WIDE,))


def months(put: Put[DryingQuestion], answer: Answer, reader: Reader, narrow: bool) -> dict[str, Any]:
    """The same begun in each month."""
    frames = (drawings.NARROW if narrow else drawings.WIDE,)
    return {"strips": drawings.month_strips(answer, put.question.start_date, queries.today(), frames)}


def working(put: Put[DryingQuestion], answer: Answer, reader: Reader, narrow: bool) -> dict[str, Any]:
    """What the answer stands on, in a table, and the course in numbers."""
    return shown(put.question, reader.system, ())
