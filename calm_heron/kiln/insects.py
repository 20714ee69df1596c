"""Will heat clear it of insects: the question, its answer, and how it is told."""

from dataclasses import dataclass
from typing import Any

from django import forms

from calm_heron.kiln.forms import check_bulbs
from calm_heron.kiln.kinds import AGAINST
from calm_heron.questions.forms import Group, QuestionForm
from calm_heron.questions.presentation import Caution, Cell, Folded, Lead, Manner, Presentation, Row, Says, Table
from calm_heron.questions.tools import Bound, CannotPut, Gist, Put, Reader, Why
from calm_heron.stock.models import Piece
from calm_heron.workshops.askers import Asker
from calm_heron.workshops.fields import LengthField, PercentField, TemperatureField
from wood.kiln import heat
from wood.kiln.heat import Aim, Treated
from wood.units import System, in_system
from wood.written import said_length, written_temperature

USUAL_MOISTURE = 0.10
# Where the published table of powderpost beetles begins and ends, and what a dehumidifier kiln of usual make reaches.
BEETLES_FROM_C, BEETLES_TO_M, SMALL_KILN_C = 52.0, 0.0762, 50.0
NEEDED = ("thickness_m", "width_m", "start_c", "dry_bulb_c", "wet_bulb_c")


class HeatForm(QuestionForm):
    """A board, the chamber's air, and against whom."""

    takes_section = True
    groups = (Group(("against", "thickness_m", "width_m", "moisture", "start_c", "dry_bulb_c", "wet_bulb_c")),)
    against = forms.ChoiceField(label="Against", choices=AGAINST, required=False)

    @classmethod
    def begins_with(cls, asker: Asker, subject: Piece | None) -> dict[str, str]:
        begun = (
            {"thickness_m": "8/4", "width_m": "8", "start_c": "60", "dry_bulb_c": "160", "wet_bulb_c": "140"}
            if asker.system.is_inch
            else {"thickness_m": "50", "width_m": "200", "start_c": "15", "dry_bulb_c": "71", "wet_bulb_c": "60"}
        )
        return begun | {"moisture": "10"}

    def build(self) -> None:
        unit, degrees = self.system.length, self.system.temperature
        self.fields["thickness_m"] = LengthField(self.system, 0.006, 0.6, required=False, label=f"Thickness, {unit}")
        self.fields["width_m"] = LengthField(self.system, 0.01, 1.5, required=False, label=f"Width, {unit}")
        self.fields["moisture"] = PercentField(self.system, 0.02, 3.0, required=False, label="Its moisture, %")
        for name, label, low, high, usual_low, usual_high in (
            ("start_c", "The wood is at", -40, 60, -30, 45),
            ("dry_bulb_c", "Dry bulb", 20, 110, 35, 105),
            ("wet_bulb_c", "Wet bulb", 5, 100, 20, 99),
        ):
            self.fields[name] = TemperatureField(
                self.system, low, high, usual_low=usual_low, usual_high=usual_high, required=False, label=f"{label}, °{degrees}"
            )

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean()
        check_bulbs(self, cleaned)
        return cleaned


@dataclass(frozen=True)
class BoardToHeat:
    """A board in the air of a given chamber, and what heat is to clear it of."""

    aim: Aim
    thickness_m: float
    width_m: float
    start_c: float
    dry_bulb_c: float
    wet_bulb_c: float
    moisture: float


@dataclass(frozen=True)
class Heated:
    """How the treatment goes, and the hours of the published table for powderpost beetles (None: it has none)."""

    aim: Aim
    treated: Treated
    beetles_h: float | None


def put(form: HeatForm, asker: Asker, subject: Piece | None) -> Put[BoardToHeat] | CannotPut:
    """A valid form as a question."""
    typed = form.cleaned_data
    if any(typed[name] is None for name in NEEDED):
        return CannotPut(Why.STILL_TO_SAY, "Say how thick it is, how warm, and what the chamber is held at.")
    moisture = USUAL_MOISTURE if typed["moisture"] is None else typed["moisture"]
    return Put(BoardToHeat(heat.AIMS[form.chosen("against")], *(typed[name] for name in NEEDED), moisture))  # type: ignore[call-arg]


def work(board: BoardToHeat) -> Heated:
    """When its core is there, and when it was held there long enough.

    Raises:
        OutOfRange.
    """
    air = (board.start_c, board.dry_bulb_c, board.wet_bulb_c, board.moisture)
    treated = heat.treated(board.aim, board.thickness_m, board.width_m, *air)
    return Heated(board.aim, treated, heat.powderpost_hours(board.thickness_m, board.dry_bulb_c))


def gist(heated: Heated) -> Gist:
    """Whether it clears, and after how long."""
    return Gist(
        "clears" if heated.treated.is_reached else "never",
        {"minutes": Bound(heated.treated.in_all_min), "air_c": Bound(heated.treated.air_c)},
    )


def present(put: Put[BoardToHeat], heated: Heated, reader: Reader) -> Presentation:
    """How long, why, what the table has against beetles, and what must be minded."""
    system, treated, aim = reader.system, heated.treated, heated.aim
    air, core, small, from_c = (written_temperature(warm, system) for warm in (treated.air_c, aim.core_c, SMALL_KILN_C, BEETLES_FROM_C))
    if treated.is_reached:
        lead = Lead(_long(treated.in_all_min), "from a kiln you have")
        reason = (
            f"After {_long(treated.to_core_min)} the core is at {core}, and is held there for {aim.hold_min:.0f} minutes, against"
            f" {aim.against}. To wood of this moisture the air is worth {air}."
        )
    else:
        lead = Lead("Never")
        reason = (
            f"The air is worth {air} to wood this wet, and the core is never at {core}: it takes a hotter or damper kiln, or drier"
            f" wood. A dehumidifier kiln of {small} clears nothing."
        )
    if heated.beetles_h is None:
        ends = said_length(BEETLES_TO_M, system)
        beetles = f"Against powderpost beetles the published table begins at {from_c} and ends at {ends}: nothing is known here."
    else:
        beetles = (
            f"Against powderpost beetles the published table has {heated.beetles_h:.0f} hours at this warmth, for this thickness (T404-b-4;"
            " medium)."
        )
    working = (
        "Conduction through a long board with the diffusivity of wood {(1.7·10⁻⁷ m²/s, Wood Handbook)|(0.00027 in²/s, Wood Handbook)},"
        " the film of air as a little more wood. While wood is wet its core hangs near the wet bulb (RP-604, RP-607), at 12% it follows"
        f" the dry bulb; between is our own judgement. The rule: {aim.source}, {aim.confidence} confidence. A solid pile heats far more"
        " slowly than a stickered one."
    )
    return Presentation(
        lead,
        reason,
        (
            insects_by_warmth(put.question, system),
            Says(beetles, Manner.HINT),
            Says(
                "Measure it: a probe in the core of the thickest board, farthest from the heat. Heat keeps nothing off afterwards.",
                Manner.HINT,
            ),
            Caution("treatment"),
            Caution("kiln"),
            Folded("How?", (in_system(working, system),)),
        ),
    )


def insects_by_warmth(board: BoardToHeat, system: System) -> Table:
    """Which insect is dead after how many hours, for cores of four warmths."""
    heads = ("Hours in all, with the core at", *(written_temperature(core, system) for core in heat.CORES_C))
    rows = []
    for found in heat.compared(board.thickness_m, board.width_m, board.start_c, board.moisture):
        name = "powderpost beetles, by the published table" if found.aim is None else found.aim.against
        cells = tuple(Cell("–" if hours is None else f"{hours:.1f}", is_number=True) for hours in found.hours)
        rows.append(Row(name[0].upper() + name[1:], cells))
    return Table(rows, heads, "Against whom, at which warmth; – where the rule wants it hotter", narrow=True)


def _long(minutes: float) -> str:
    return f"{minutes / 60:.1f} hours" if minutes >= 90 else f"{minutes:.0f} minutes"
