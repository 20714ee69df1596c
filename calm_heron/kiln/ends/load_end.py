"""Is the load done? By shell and core, and by prongs cut from a sample: the question, its answer, and how it is told."""

from dataclasses import dataclass
from typing import Any

from django import forms

from calm_heron.kiln import drawings, words
from calm_heron.kiln.ends import end_words
from calm_heron.questions.forms import Group, QuestionForm
from calm_heron.questions.presentation import Folded, Lead, Manner, Presentation, Says
from calm_heron.questions.tools import Bound, Gist, Put, Reader, StillToSay
from calm_heron.workshops.askers import Asker
from calm_heron.workshops.fields import PercentField
from wood.kiln import finish, programs
from wood.kiln.finish import Ended
from wood.kiln.stress import Prongs

PRONGS = tuple((prongs.value, words.PRONGS[prongs][0]) for prongs in Prongs)


class DrawnProngs(forms.RadioSelect):
    """Prongs as they stand, to choose from by their drawings."""

    template_name = "kiln/drawn_prongs.html"
    is_whole = True

    def __init__(self, legend: str) -> None:
        self.legend = legend
        super().__init__()

    def get_context(self, name: Any, value: Any, attrs: Any) -> Any:
        drawn = [(prongs.value, words.PRONGS[prongs][0], drawings.prongs(prongs)) for prongs in Prongs]
        return super().get_context(name, value, attrs) | {"legend": self.legend, "looks": drawn, "chosen": value}


class LoadEndForm(QuestionForm):
    """Its shell, its core, what was wanted of it, and how its prongs stand."""

    groups = (
        Group(
            ("shell", "core", "wanted", "mean"),
            hint="As they really are: weighed and dried, or by a meter and corrected for species and heat.",
        ),
        Group(("now", "later")),
    )
    wide = ("now", "later")
    always = ("wanted",)
    submit = "Read it"
    now = forms.ChoiceField(label="The prongs, at once", required=False, choices=PRONGS, widget=DrawnProngs("The prongs, at once"))
    later = forms.ChoiceField(
        label="The prongs, after a day in a warm room",
        required=False,
        choices=PRONGS,
        widget=DrawnProngs("The prongs, after a day in a warm room"),
    )

    @classmethod
    def begins_with(cls, asker: Asker, subject: None) -> dict[str, str]:
        return {"wanted": "8"}

    def build(self) -> None:
        self.fields["wanted"] = PercentField(self.system, *programs.TARGETS, required=False, label="Target, %")
        for name, label in (("shell", "Shell, %"), ("core", "Core, %"), ("mean", "Mean, %")):
            self.fields[name] = PercentField(self.system, *finish.MOISTURES, required=False, label=label)
        self.fields["mean"].widget.attrs["placeholder"] = "from both"

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean()
        both = [cleaned[name] for name in ("shell", "core") if cleaned.get(name) is not None]
        mean = cleaned.get("mean")
        if mean is not None and len(both) == 2:
            low, high = min(both), max(both)
            if not low - finish.READ_WITHIN <= mean <= high + finish.READ_WITHIN:
                self.add_error("mean", "A mean lies between the shell and the core: is one of the three another board’s?")
        return cleaned


@dataclass(frozen=True)
class LoadEnd:
    """A sample of a load at its end (fractions, None where nobody read it), and its prongs, where they were cut."""

    shell: float | None
    core: float | None
    mean: float | None
    wanted: float
    now: Prongs | None
    later: Prongs | None


def put(form: LoadEndForm, asker: Asker, subject: None) -> Put[LoadEnd]:
    """A valid form as a question.

    Raises:
        StillToSay: one of the two moistures alone, or nothing that was wanted.
    """
    typed = form.cleaned_data
    missing = [typed[name] is None for name in ("shell", "core")]
    if any(missing) and not (all(missing) and typed["mean"] is None):
        raise StillToSay("Read both, the shell and the core: a mean alone hides a wet core.")
    if not any(missing) and typed["wanted"] is None:
        raise StillToSay("Say which moisture was the target.")
    now, later = (Prongs(typed[name]) if typed[name] else None for name in ("now", "later"))
    return Put(LoadEnd(typed["shell"], typed["core"], typed["mean"], typed["wanted"] or 0.0, now, later))


def work(load_end: LoadEnd) -> Ended | None:
    """How its moistures stand to what was wanted; None where they were not read."""
    if load_end.shell is None or load_end.core is None:
        return None
    return finish.ended(load_end.shell, load_end.core, load_end.wanted, load_end.mean)


def gist(ending: Ended | None) -> Gist:
    """Whether its moisture is right, and by how much it is not."""
    if ending is None:
        return Gist("not read")
    return Gist(ending.ending, {"over": Bound(ending.over), "gap": Bound(ending.gap)})


def present(put: Put[LoadEnd], ending: Ended | None, reader: Reader) -> Presentation:
    """Done or not, and why; how a section is cut."""
    question = put.question
    word, reasons = end_words.done(ending, question.wanted, question.now, question.later)
    section = (
        "An inch along the grain, from the middle of a sample board. Under an inch and a half thick: three prongs, the middle one sawn out;"
        " thicker: six, the second and the fifth sawn out. Read at once, and again after 12 to 24 hours in a room, once its moisture has"
        " evened out (AH-188, GTR-118)."
    )
    more = [Says(reason, Manner.REASON) for reason in reasons[1:]]
    return Presentation(Lead(word, is_word=True), reasons[0], (*more, Folded("How is a section cut?", (section,))))
