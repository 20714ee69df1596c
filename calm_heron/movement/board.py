"""How much a board moves between two moistures: the question, its answer, and how it is told; for a board of the workshop, too."""

import math
from dataclasses import dataclass

from django import forms

from calm_heron.movement import drawings, queries
from calm_heron.movement.drawings import NARROW, WIDE, SectionDrawing
from calm_heron.movement.queries import Movement
from calm_heron.movement.things.thing import GRAINS
from calm_heron.questions.forms import Group, QuestionForm
from calm_heron.questions.presentation import Cell, Drawn, Folded, Lead, Presentation, Row, Table
from calm_heron.questions.tools import Bound, CannotPut, Gist, Put, Reader, Why
from calm_heron.questions.worth_keeping import as_a_piece
from calm_heron.site.numbers import points
from calm_heron.stock import woods
from calm_heron.stock.species_forms import SpeciesField
from calm_heron.workshops.askers import Asker
from calm_heron.workshops.fields import LengthField, PercentField
from wood.movement.section import pith_for, ring_angle_deg
from wood.species import Species
from wood.units import INCH_M
from wood.written import cut_length, uncertain_length

# Where the pith of a board lay that nobody saw: as far off as it is wide and half as much again, and never nearer than this. Boards are
# sawn from logs that are wider than they are.
LEAST_PITH_M, PITH_PER_WIDTH = 0.15, 1.5
# What is wider than this is hardly one board: it is a top of boards side by side, which cups board by board.
WIDEST_BOARD_M = 0.33
USUAL_THICKNESS_M, USUAL_LENGTH_M, USUAL_END = INCH_M, 1.0, 0.08
MOST_WIDTH_M = 2.0


class BoardForm(QuestionForm):
    """A board that is not here, between two moistures."""

    takes_section = True
    answer_below = True
    groups = (Group(("species_key", "width_m", "from_moisture", "to_moisture", "grain", "thickness_m")),)
    grain = forms.ChoiceField(label="Grain", choices=GRAINS, required=False)

    def build(self) -> None:
        unit = self.system.length
        self.fields["species_key"] = SpeciesField(self.workshop, required=False, label="Species")
        self.fields["width_m"] = LengthField(self.system, 0.005, MOST_WIDTH_M, required=False, label=f"Width, {unit}")
        self.fields["thickness_m"] = LengthField(self.system, 0.001, 0.5, required=False, label=f"Thickness, {unit}")
        self.fields["thickness_m"].widget.attrs["placeholder"] = "1" if self.system.is_inch else "25"
        for name in ("width_m", "thickness_m"):
            self.fields[name].widget.attrs["inputmode"] = "text"
        self.fields["from_moisture"] = PercentField(self.system, 0.0, 2.0, required=False, label="It is at, %")
        self.fields["to_moisture"] = PercentField(self.system, 0.0, 2.0, required=False, label="It goes to, %")


@dataclass(frozen=True)
class MovingBoard:
    """A board as it is at one moisture (metres, fractions), the pith as seen from its middle, and the moisture it goes to."""

    species: Species
    width_m: float
    thickness_m: float
    length_m: float
    pith: tuple[float, float]
    from_moisture: float
    to_moisture: float

    @property
    def is_a_top(self) -> bool:
        """Wider than one board: several, glued side by side."""
        return self.width_m > WIDEST_BOARD_M


def put(form: BoardForm, asker: Asker, subject: None) -> Put[MovingBoard] | CannotPut:
    """A valid form as a question."""
    typed = form.cleaned_data
    if not typed["species_key"] or typed["width_m"] is None or typed["from_moisture"] is None:
        return CannotPut(
            Why.STILL_TO_SAY, "Say which wood, how wide it is and what it reads now. Where nothing else is said, it goes to 8%."
        )
    return Put(
        MovingBoard(
            woods.species_of(form.workshop.pk, typed["species_key"]),
            typed["width_m"],
            typed["thickness_m"] or USUAL_THICKNESS_M,
            USUAL_LENGTH_M,
            pith_for(float(form.chosen("grain")), max(LEAST_PITH_M, PITH_PER_WIDTH * typed["width_m"])),
            typed["from_moisture"],
            USUAL_END if typed["to_moisture"] is None else typed["to_moisture"],
        )
    )


def work(board: MovingBoard) -> Movement:
    """Its sizes at the other moisture.

    Raises:
        NotKnown: how much the species shrinks.
    """
    return queries.movement(board, board.from_moisture, board.to_moisture, board.pith)


def gist(moved: Movement) -> Gist:
    """How much its width changes, with two standard deviations of a single board."""
    change, uncertainty = moved.width_change_m, moved.uncertainty_m
    code = "shrinks" if moved.shows and change < 0 else "swells" if moved.shows else "no change"
    return Gist(code, {"width_change_m": Bound(change, change - uncertainty, change + uncertainty)})


def present(put: Put[MovingBoard], moved: Movement, reader: Reader) -> Presentation:
    """How much, what it then measures, its section drawn, and how that was worked out."""
    board, system = put.question, reader.system
    after = moved.section
    if moved.shows:
        sign = "−" if moved.width_change_m < 0 else "+"
        lead = Lead(f"{sign}{cut_length(moved.width_size, system)}", f"± {uncertain_length(moved.uncertainty_m, system)} in width")
    else:
        lead = Lead("No change", "that shows in its width")
    reason = (
        f"From {points(board.from_moisture)}% to {points(board.to_moisture)}% it will measure {cut_length(after.width_m, system)} "
        f"by {cut_length(after.thickness_m, system)}"
    )
    if board.is_a_top:
        return Presentation(
            lead, f"{reason}. {AS_A_TOP}", (Drawn("section"), _working(board, moved, reader), *as_a_piece(reader, "movement"))
        )
    if moved.cup_size > LEAST_CUP_M:
        reason += f", with a cup of {cut_length(moved.cup_size, system)} hollow on the {'bark' if after.cup_m > 0 else 'pith'} side"
    if after.split_rad:
        reason += ", and will split from the pith to its nearest face"
    reason += "."
    if after.flat_thickness_m < after.thickness_m:
        reason += f" Planed flat, it is {cut_length(after.flat_thickness_m, system)} thick."
    return Presentation(lead, reason, (Drawn("section"), _working(board, moved, reader), *as_a_piece(reader, "movement")))


AS_A_TOP = "Hardly a board is as wide as that: it is worked out as a top of boards side by side, each of which cups by itself."
# Half of what is written at the least.
LEAST_CUP_M = 5e-5


def _working(board: MovingBoard, moved: Movement, reader: Reader) -> Folded:
    system, species, figures, after = reader.system, board.species, moved.shrinkage, moved.section

    def number(metres: float) -> Cell:
        return Cell(cut_length(metres, system), is_number=True)

    def becomes(before: float, then: float) -> Cell:
        return Cell(f"{cut_length(before, system)} → {cut_length(then, system)}", is_number=True)

    rows = [
        Row("Width", (becomes(board.width_m, after.width_m),)),
        Row("Thickness", (becomes(board.thickness_m, after.thickness_m),)),
        Row("Length (0.15%)", (number(moved.length_change_m),)),
        Row("Corners out of square, by the diagonals", (number(after.diamond_m),)),
    ]
    if moved.by_coefficient_m is not None:
        borrowed = "" if species.coefficient_basis == "own" else ", which stands on other figures"
        rows.append(Row(f"Width by the published coefficient{borrowed}", (number(moved.by_coefficient_m),)))
    worked_back = " (worked back from its movement coefficient)" if figures.source == "coefficient" else ""
    return Folded(
        "How?",
        (
            (
                f"Rings at {ring_angle_deg(*board.pith):.0f}° to the wide face. Where its pith lay is not known; it is taken to be"
                f" {cut_length(math.hypot(*board.pith), system)} from the middle, half as far again as the board is wide."
                f" {species.common_name} shrinks {points(figures.radial)}% radially and {points(figures.tangential)}% tangentially from"
                f" green to ovendry{worked_back}, in proportion below fibre saturation at"
                f" {points(figures.fibre_saturation, 0)}% (Wood Handbook ch. 4; confidence {species.confidence}). Each point of the"
                " section moves by those two about the pith, which is exact for a piece that does not hold it."
            ),
            (
                "± is two standard deviations of a single board about its species’ mean (15% of the movement each). A finish slows this"
                " and does not stop it."
            ),
        ),
        table=Table(rows, narrow=True),
    )


def section(put: Put[MovingBoard], moved: Movement, reader: Reader, narrow: bool) -> SectionDrawing:
    """The section before and after."""
    return drawings.section_drawing(put.question, moved, reader.system, NARROW if narrow else WIDE)
