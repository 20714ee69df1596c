"""How thick to saw: the question, its answer, and how it is told."""

from dataclasses import dataclass

from django import forms

from calm_heron.movement.things.thing import GRAINS
from calm_heron.questions.forms import Group, QuestionForm
from calm_heron.questions.presentation import Cell, Lead, Manner, Presentation, Row, Says, Table
from calm_heron.questions.tools import Bound, CannotPut, Gist, Put, Reader, Why
from calm_heron.stock import woods
from calm_heron.stock.models import Piece
from calm_heron.stock.species_forms import SpeciesField
from calm_heron.workshops.askers import Asker
from calm_heron.workshops.fields import LengthField, PercentField
from wood.movement import shrinkage
from wood.movement.shrinkage import Shrinkage
from wood.stacks import saw_thickness
from wood.stacks.saw_thickness import USUAL_PITH_M, USUAL_PLANING_M, USUAL_VARIATION_M, Sawn
from wood.written import cut_length, handled_length

USUAL_WIDTH_M, USUAL_MOISTURE = 0.2, 0.08


class SawForm(QuestionForm):
    """The size that is wanted, and the saw it comes from."""

    groups = (Group(("species_key", "wanted_m", "width_m", "grain", "moisture", "planing_m", "variation_m")),)

    @classmethod
    def begins_with(cls, asker: Asker, subject: Piece | None) -> dict[str, str]:
        inch = asker.system.is_inch
        return {"species_key": "white oak", "wanted_m": "13/16" if inch else "20", "width_m": "8" if inch else "200"}

    def build(self) -> None:
        unit = self.system.length
        self.fields["species_key"] = SpeciesField(self.workshop, required=False, label="Species")
        for name, label, low, high in (
            ("wanted_m", "Wanted, dry and planed", 0.002, 0.12),
            ("width_m", "Board, wide", 0.02, 1.5),
            ("planing_m", "Planed off each face", 0.0, 0.02),
            ("variation_m", "Saw variation", 0.0, 0.01),
        ):
            self.fields[name] = LengthField(self.system, low, high, required=False, label=f"{label}, {unit}")
            self.fields[name].widget.attrs["inputmode"] = "text"
        self.fields["grain"] = forms.ChoiceField(required=False, label="Grain", choices=GRAINS)
        self.fields["moisture"] = PercentField(self.system, 0.02, 0.30, required=False, label="Planed at, %")
        self.fields["moisture"].widget.attrs["placeholder"] = "8"


@dataclass(frozen=True)
class BoardToSaw:
    """A board to be sawn green, by what is wanted of it dry."""

    shrinkage: Shrinkage
    ring_angle_deg: float
    width_m: float
    wanted_m: float
    moisture: float
    planing_m: float
    variation_m: float


def put(form: SawForm, asker: Asker, subject: Piece | None) -> Put[BoardToSaw] | CannotPut:
    """A valid form as a question.

    Raises:
        NotKnown: how much the species shrinks.
    """
    typed = form.cleaned_data
    if not typed["species_key"] or typed["wanted_m"] is None:
        return CannotPut(Why.STILL_TO_SAY, "Say which wood, and how thick it is to be when it is dry and planed.")
    species = woods.species_of(form.workshop.pk, typed["species_key"])

    def usual(name: str, otherwise: float) -> float:
        return otherwise if typed[name] is None else float(typed[name])

    board = BoardToSaw(
        shrinkage.of_species(species),
        float(form.chosen("grain")),
        typed["width_m"] or USUAL_WIDTH_M,
        typed["wanted_m"],
        usual("moisture", USUAL_MOISTURE),
        usual("planing_m", USUAL_PLANING_M),
        usual("variation_m", USUAL_VARIATION_M),
    )
    return Put(board, {"wood": species.spoken_name})


def work(board: BoardToSaw) -> Sawn:
    """How thick to saw it.

    Raises:
        OutOfRange.
    """
    return saw_thickness.green_thickness(
        board.shrinkage,
        board.ring_angle_deg,
        board.width_m,
        board.wanted_m,
        board.moisture,
        planing_m=board.planing_m,
        variation_m=board.variation_m,
    )


def gist(sawn: Sawn) -> Gist:
    """The size to set the saw to."""
    return Gist("saw", {"green_m": Bound(sawn.green_m), "left_m": Bound(sawn.wanted_m)})


def present(put: Put[BoardToSaw], sawn: Sawn, reader: Reader) -> Presentation:
    """The size, and where it goes."""
    system = reader.system
    goes = (
        ("Saw variation", sawn.variation_m),
        ("Shrinkage", sawn.shrinks_m),
        ("Cup of its rings, planed away", sawn.warp_m),
        ("Planed off both faces", sawn.planing_m),
        ("Left", sawn.wanted_m),
    )
    return Presentation(
        Lead(cut_length(sawn.green_m, system), "green, off the saw"),
        f"So that {cut_length(sawn.wanted_m, system)} is left of {put.tells['wood']} when it is dry and planed, in 19 boards out of 20.",
        (
            Table(
                [Row(name, (Cell(cut_length(size, system), is_number=True),)) for name, size in goes], caption="Where it goes", narrow=True
            ),
            Says(
                "Twist, bow and spring can’t be predicted board by board; long and wide boards of warping woods want more. The pith is"
                f" taken to lie {handled_length(USUAL_PITH_M, system)} off.",
                Manner.HINT,
            ),
        ),
    )
