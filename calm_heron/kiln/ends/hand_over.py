"""Sent out: what to ask an operator, a slip that goes with the load, and what to check when it comes back."""

from dataclasses import dataclass
from datetime import date

from django import forms

from calm_heron.drying import queries as drying
from calm_heron.kiln import words
from calm_heron.kiln.ends import slips
from calm_heron.questions.forms import Group, QuestionForm
from calm_heron.questions.presentation import Button, Caution, Pairs, Part, Presentation, Ruled
from calm_heron.questions.tools import Gist, Put, Reader, StillToSay
from calm_heron.site.dates import full_day
from calm_heron.site.numbers import percent
from calm_heron.stock import woods
from calm_heron.stock.species_forms import SpeciesField
from calm_heron.workshops.askers import Asker
from calm_heron.workshops.fields import LengthField, PercentField, VolumeField
from wood.kiln import programs
from wood.kiln.chambers import LOAD_M3
from wood.species import Species
from wood.units import System, in_system
from wood.written import said_length, sawn_volume, written_temperature

# The core of a board that is cleared of insects (°C).
CLEARED_C = 56


class SlipForm(QuestionForm):
    """What goes with a load that somebody else dries."""

    takes_section = True
    groups = (
        Group(("species_key", "thickness_m", "count", "volume_m3", "samples", "wanted")),
        Group(("whose", "insects", "own_stickers", "note")),
    )
    wide = ("whose", "insects", "own_stickers", "note")
    submit = "Write the slip"
    whose = forms.CharField(label="Whose wood it is, and whom to ring", max_length=120, required=False)
    samples = forms.CharField(label="Moisture by sample, as you read it, %", max_length=120, required=False)
    insects = forms.BooleanField(label="clear it of insects by heat", required=False)
    own_stickers = forms.BooleanField(label="it comes with its own stickers", required=False)
    note = forms.CharField(label="Besides", max_length=300, required=False)

    @classmethod
    def begins_with(cls, asker: Asker, subject: None) -> dict[str, str]:
        return {"species_key": "white oak", "thickness_m": "4/4" if asker.system.is_inch else "27", "count": "60", "wanted": "8"}

    def build(self) -> None:
        self.fields["species_key"] = SpeciesField(self.workshop, required=False, label="Species")
        self.fields["thickness_m"] = LengthField(self.system, 0.006, 0.12, required=False, label=f"Thickness, {self.system.length}")
        self.fields["count"] = forms.IntegerField(
            required=False,
            label="Boards",
            min_value=1,
            max_value=100_000,
            widget=forms.TextInput(attrs={"inputmode": "numeric"}),
            error_messages=dict.fromkeys(("invalid", "min_value", "max_value"), "This must be a whole number from 1 to 100,000."),
        )
        self.fields["volume_m3"] = VolumeField(
            self.system, *LOAD_M3, required=False, label="How much, bd ft" if self.system.is_inch else "How much, m³"
        )
        self.fields["wanted"] = PercentField(self.system, *programs.TARGETS, required=False, label="Target, %")


@dataclass(frozen=True)
class LoadForOthers:
    """A load that another kiln dries: species, volume, target moisture and the owner's wishes."""

    species: Species
    thickness_m: float | None
    count: int | None
    volume_m3: float | None
    samples: str
    wanted: float | None
    whose: str
    insects: bool
    own_stickers: bool
    note: str


@dataclass(frozen=True)
class Slip:
    """What a slip says of a load, and whether stickers of another wood would mark it."""

    load: LoadForOthers
    marks_easily: bool
    day: date


def put(form: SlipForm, asker: Asker, subject: None) -> Put[LoadForOthers]:
    """A valid form as a question.

    Raises:
        StillToSay: no wood.
    """
    typed = dict(form.cleaned_data)
    key = typed.pop("species_key")
    if not key:
        raise StillToSay("Say which wood it is.")
    return Put(LoadForOthers(species=woods.species_of(form.workshop.pk, key), **typed))


def work(load: LoadForOthers) -> Slip:
    """What goes on the slip."""
    return Slip(load, words.marks_easily(load.species), drying.today())


def gist(slip: Slip) -> Gist:
    """That there is one."""
    return Gist("slip")


def present(put: Put[LoadForOthers], slip: Slip, reader: Reader) -> Presentation:
    """The slip, what to ask before, and what to check after."""
    system = reader.system
    parts: tuple[Part, ...] = (
        Pairs(lines(slip, system), "Please dry this load", is_sheet=True),
        Button("One sheet to hand over (PDF)", f"?{reader.typed}&pdf=1"),
        Ruled("In on, Moisture in, Out on, Moisture out", 2),
        Pairs([(question, in_system(good, system)) for question, good in words.QUESTIONS], "Before: what to ask", screen_only=True),
        Pairs(words.CHECKS, "After: what to check before paying", screen_only=True),
        Caution("treatment"),
    )
    return Presentation(None, "", parts)


def sheet(put: Put[LoadForOthers], slip: Slip, reader: Reader) -> bytes:
    """The slip as a PDF of one page."""
    return slips.pdf(lines(slip, reader.system), reader.system)


def lines(slip: Slip, system: System) -> list[tuple[str, str]]:
    """What stands on the slip: a name and what is said, for each line that has something to say."""
    load = slip.load
    amount = [f"{load.count} boards"] if load.count else []
    if load.volume_m3 is not None:
        amount.append(sawn_volume(load.volume_m3, system))
    size = f", {said_length(load.thickness_m, system)}" if load.thickness_m else ""
    marks = "; none of oak or walnut: this wood is pale and keeps their mark" if slip.marks_easily else ""
    core = written_temperature(CLEARED_C, system)
    rows = [
        ("Wood", load.species.spoken_name + size),
        ("How much", ", ".join(amount)),
        ("Moisture now, by sample", f"{load.samples}%" if load.samples else ""),
        ("Target", f"{percent(load.wanted)}, shell and core within a point, prongs straight" if load.wanted is not None else ""),
        ("Insects", f"clear it: its core at {core} for 30 minutes at least" if load.insects else "no treatment asked for"),
        ("Stickers", ("its own" if load.own_stickers else "yours, dry and alike") + marks),
        ("Whose, and whom to ring", load.whose),
        ("Besides", load.note),
        ("Date", full_day(slip.day)),
    ]
    return [(name, said) for name, said in rows if said]
