"""What becomes of a finished piece that goes from one place to another: the question, its answer, and how it is told."""

from dataclasses import dataclass

from django.core.exceptions import ValidationError

from calm_heron.movement import season_drawings
from calm_heron.movement.season_drawings import CourseChart
from calm_heron.movement.things import homes, queries
from calm_heron.movement.things.forms import LIVES_IN, LIVES_IN_THERE, HomeFields, SeasonedForm, depends_on_home
from calm_heron.movement.things.homes import Home
from calm_heron.movement.things.queries import USUAL_THICKNESS_M
from calm_heron.movement.things.thing import FATES, LEAST_TOLD_M, length_field, strength_of
from calm_heron.questions.forms import Group
from calm_heron.questions.presentation import Cell, Drawn, Lead, Manner, Presentation, Row, Says, Table
from calm_heron.questions.tools import Bound, Gist, Put, Reader, StillToSay
from calm_heron.site.numbers import percent
from calm_heron.workshops.askers import Asker
from wood.air.climate import month_of
from wood.movement import restraint
from wood.movement.course import Course
from wood.movement.finishes import Finish
from wood.movement.restraint import FASTENINGS, Held
from wood.movement.shrinkage import Shrinkage
from wood.movement.widths import SPREAD, Strip, Swing, swing, swing_of_air
from wood.species import Species
from wood.units import System
from wood.written import both_ways, cut_length, uncertain_length

USUAL_WIDTH_M = 0.3
# Where a piece goes in the example: winters that dry it.
FAR_AWAY = "cold_winter"
ADVICE = (
    "Move it in the season in which both places are most alike, leave its finish whole on every face, and keep it from stoves and sun while"
    " it settles. Parts that are free to move take no harm; those that are held are the ones to look at first."
)


class ElsewhereForm(SeasonedForm):
    """Two places, and a finished piece that goes from the one to the other."""

    groups = (Group(("species_key", "width_m", "thickness_m", "grain", *LIVES_IN, *LIVES_IN_THERE, "finish", "coats", "month")),)
    depends = depends_on_home() | depends_on_home("to_")

    @classmethod
    def begins_with(cls, asker: Asker, subject: None) -> dict[str, str]:
        inch = asker.system.is_inch
        sizes = {"width_m": "36" if inch else "900", "thickness_m": "7/8" if inch else "22"}
        return {"species_key": "white oak", **sizes, "to_home": homes.HEATED, "to_climate": FAR_AWAY}

    def build(self) -> None:
        self.shared()
        del self.fields["built"]
        length_field(self, "width_m", "Width", 0.01, 6.0)
        self.there = HomeFields(self, "to_", "It goes to", climate_label="Climate there")
        self.fields["home"].label = "It has lived in"


@dataclass(frozen=True)
class PieceThatMoves:
    """A finished piece, the place where it lived until it had settled, and the one it goes to, on a day of the year."""

    species: Species
    shrinkage: Shrinkage
    thickness_m: float
    width_m: float
    ring_angle_deg: float
    here: Home
    there: Home
    finish: Finish | None
    day: float


@dataclass(frozen=True)
class MovedElsewhere:
    """Its two years there after those here, how far it and its air swing, and what would become of it if it were held."""

    before: Course
    course: Course
    swing: Swing
    air: Swing
    held: Held | None


def put(form: ElsewhereForm, asker: Asker, subject: None) -> Put[PieceThatMoves]:
    """A valid form as a question.

    Raises:
        StillToSay, NotKnown, ValidationError: see :func:`calm_heron.movement.things.queries.question_from`.
    """
    typed = form.cleaned_data
    species, figures = queries.wood_of(form)
    here, there, finish = form.home_fields.read(), form.there.read(), queries.finish_of(form)
    if form.errors:
        raise ValidationError("errors")
    if here is None or there is None:
        raise StillToSay("Give the moistures of each place, at its driest and at its dampest.")
    return Put(
        PieceThatMoves(
            species,
            figures,
            typed["thickness_m"] or USUAL_THICKNESS_M,
            typed["width_m"] or USUAL_WIDTH_M,
            float(typed["grain"] or 0),
            here,
            there,
            finish,
            queries.first_day(form),
        )
    )


def work(piece: PieceThatMoves) -> MovedElsewhere:
    """Two years in the other place, from what the last day here left it at."""
    pace = queries.figures_of(piece.species)
    before = queries.course_of(pace, piece.thickness_m, None, piece.here, piece.finish, piece.day)
    course = queries.course_of(pace, piece.thickness_m, float(before.mean[-1]), piece.there, piece.finish, piece.day, before.uncertainty)
    strip = Strip(piece.shrinkage, piece.ring_angle_deg, piece.width_m)
    moved, strength = swing([strip], course), strength_of(piece.species)
    held = (
        None
        if strength is None
        else restraint.held(
            strength,
            piece.ring_angle_deg,
            piece.width_m,
            moved.shrink_m,
            piece.width_m * piece.thickness_m,
            FASTENINGS["glue_and_screws"],
            uncertainty=max(SPREAD, min(1.5, moved.shrink_uncertainty_m / 2 / max(moved.shrink_m, 1e-6))),
        )
    )
    return MovedElsewhere(before, course, moved, swing_of_air([strip], course), held)


def gist(move: MovedElsewhere) -> Gist:
    """Whether it shrinks or grows more, and by how much at most."""
    moved = move.swing
    return Gist(
        "shrinks" if moved.shrink_m >= moved.growth_m else "grows",
        {
            "shrink_m": Bound(moved.shrink_m, moved.shrink_m - moved.shrink_uncertainty_m, moved.shrink_m + moved.shrink_uncertainty_m),
            "growth_m": Bound(moved.growth_m, moved.growth_m - moved.growth_uncertainty_m, moved.growth_m + moved.growth_uncertainty_m),
            "leaves_at": Bound(move.course.built),
        },
    )


def present(put: Put[PieceThatMoves], move: MovedElsewhere, reader: Reader) -> Presentation:
    """How far it moves at most, when, and what to do."""
    piece, system, course, moved, air = put.question, reader.system, move.course, move.swing, move.air

    def size(metres: float) -> str:
        return cut_length(metres, system)

    most = f"−{size(moved.shrink_m)}" if moved.shrink_m >= moved.growth_m else f"+{size(moved.growth_m)}"
    low_when, high_when = (month_of(piece.day + day) for day in (course.low_day, course.high_day))
    days = half_way(course)
    half = f"after {days} days" if days > 1 else "at once"
    rows = [
        Row("Shrinks at most", (Cell(f"{size(moved.shrink_m)} ± {uncertain_length(moved.shrink_uncertainty_m, system)}", is_number=True),)),
        Row("Grows at most", (Cell(f"{size(moved.growth_m)} ± {uncertain_length(moved.growth_uncertainty_m, system)}", is_number=True),)),
        Row("If it kept up with the air", (Cell(both_ways(air.growth_m, air.shrink_m, system), is_number=True),)),
    ]
    instead = [
        Says(f"No year of {home.instead} is known, so {home.name} is taken for it.", Manner.HINT)
        for home in (piece.here, piece.there)
        if home.instead
    ]
    return Presentation(
        Lead(most, f"at most, in {size(piece.width_m)}"),
        f"It leaves {piece.here.name} at {percent(course.built)}. In {piece.there.name} it is driest in {low_when} ({percent(course.low)})"
        f" and dampest in {high_when} ({percent(course.high)}) of its first two years; half the change is done {half}.",
        (Drawn("years"), Table(rows, narrow=True), Says(risk(move.held, system), Manner.HINT), Says(ADVICE, Manner.HINT), *instead),
    )


def years(put: Put[PieceThatMoves], move: MovedElsewhere, reader: Reader, narrow: bool) -> CourseChart:
    """Its two years there."""
    return season_drawings.chart(move.course, put.question.day, 380 if narrow else 620)


def risk(held: Held | None, system: System) -> str:
    """What the worst way to fasten it would mean there."""
    if held is None:
        return "What this wood bears across its grain is not known, so nothing is said of parts that are held."
    if held.would_shrink_m < LEAST_TOLD_M:
        return "It never shrinks below what it left with, so nothing that is held is pulled apart; look for what it may push."
    size = cut_length(held.would_shrink_m, system)
    return (
        f"Held fast on both sides, glued and screwed, {FATES[held.fate].lower()} (a chance of about {percent(held.chance, 0)}): it wants to"
        f" shrink {size}."
    )


def half_way(course: Course) -> int:
    """Days until half of the farthest way from where it came is gone."""
    away = abs(course.mean - course.built)
    return int((away >= away.max() / 2).argmax())
