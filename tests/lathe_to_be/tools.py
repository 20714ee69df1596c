"""What the lathe answers: the smallest question there can be, with one of everything."""

from dataclasses import dataclass

from django import forms

from calm_heron.questions.forms import Group, QuestionForm
from calm_heron.questions.presentation import Lead, Presentation
from calm_heron.questions.tools import TOOLS, CannotPut, Example, Gist, Put, Tool, Why


class SpeedForm(QuestionForm):
    groups = (Group(("speed",)),)
    speed = forms.FloatField(label="Turns a second", required=False, min_value=0)


@dataclass(frozen=True)
class Spin:
    turns: float


def put(form, asker, subject) -> Put[Spin] | CannotPut:
    speed = form.cleaned_data["speed"]
    return CannotPut(Why.STILL_TO_SAY, "Say how fast it turns.") if speed is None else Put(Spin(speed))


TOOLS.add(
    Tool(
        65,
        "spin",
        "How fast does it spin?",
        "Spin",
        "turning",
        "M4 4H60",
        "lathe/spin/",
        "lathe/spin/",
        place=900,
        form=SpeedForm,
        put=put,
        work=lambda spin: spin.turns * 60,
        gist=lambda turns: Gist("spins"),
        present=lambda put, turns, reader: Presentation(Lead(f"{turns:.0f} a minute"), "It goes round."),
        examples=(Example({"inch": {"speed": "2"}, "metric": {"speed": "2"}}, "spins"),),
    )
)
