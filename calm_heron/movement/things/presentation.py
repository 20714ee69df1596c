"""A thing on the spine: how it is put, told and drawn, whichever it is."""

from typing import Any

from calm_heron.movement.things import queries
from calm_heron.movement.things.forms import STOPS, ThingForm
from calm_heron.movement.things.scene import NARROW, WIDE, DrawnScene, draw
from calm_heron.movement.things.thing import ThingQuestion, WorkedThing, slowed, too_wet, when
from calm_heron.questions.presentation import Cell, Drawn, Folded, Heading, Lead, Manner, Part, Presentation, Row, Says, Steps, Table
from calm_heron.questions.tools import Bound, Gist, Put, Reader
from calm_heron.site.numbers import percent, points
from calm_heron.stock.models import Piece
from calm_heron.stock.subjects import piece_or_lot
from calm_heron.workshops.askers import Asker
from wood.movement.course import COURSE_DAYS
from wood.movement.restraint import Fate
from wood.written import cut_length, uncertain_length

# From the best to the worst.
FATES = (Fate.HOLDS, Fate.MAY_SPLIT, Fate.SPLITS)


def piece_of(asker: Asker, tag: str) -> Piece | None:
    """A piece or a lot of the workshop that a thing is to be made of."""
    piece = piece_or_lot(asker, tag)
    return piece if piece is not None and piece.traits.moves_in_width else None


def put(form: ThingForm, asker: Asker, subject: Piece | None) -> Put[ThingQuestion]:
    """A valid form as a question; the month that is looked at and how large its movement is drawn only tell.

    Raises:
        StillToSay, NotKnown, ValidationError: see :func:`calm_heron.movement.things.queries.question_from`.
    """
    typed = form.cleaned_data
    stop = typed["stop"] or 0 if typed["go"] is None else typed["go"]
    return Put(queries.question_from(form), {"stop": stop, "drawn": typed["drawn"]})


def work(question: ThingQuestion) -> WorkedThing:
    """Its figures.

    Raises:
        OutOfRange: sizes that do not go together.
    """
    return question.thing.work(question)


def gist(worked: WorkedThing) -> Gist:
    """What becomes of it where it is held, at the worst, and how far it swings."""
    fates = [held.fate for _, held in worked.held]
    moved = worked.swing
    return Gist(
        max(fates, key=FATES.index) if fates else "free",
        {"range_m": Bound(moved.range_m, moved.range_m - moved.range_uncertainty_m, moved.range_m + moved.range_uncertainty_m)},
    )


def present(put: Put[ThingQuestion], worked: WorkedThing, reader: Reader) -> Presentation:
    """What it does, what to do about it, and its sizes through two years."""
    question = put.question
    said = question.thing.present(question, worked)
    parts: list[Part] = [Says(too_wet(question), Manner.REASON)] if too_wet(question) else []
    parts += [Drawn("scene"), Drawn("stops")]
    if said.todo:
        parts += [Heading("So"), Steps(said.todo)]
    if question.thing.approaches(question, worked):
        parts.append(Drawn("schools"))
    if said.table:
        rows = [Row(Cell(first), [Cell(cell, is_number=True) for cell in cells]) for first, *cells in said.table.rows]
        parts.append(Table(rows, said.table.heads, said.table.caption, narrow=True))
    parts += [*_swings(question, worked, reader), *(Says(beside, Manner.HINT) for beside in said.beside), _working(question)]
    if said.rows:
        place = next(at for at, part in enumerate(parts) if isinstance(part, Says) and part.text == slowed(question))
        parts.insert(place, Table([Row(name, (Cell(value, is_number=True),)) for name, value in said.rows], narrow=True))
    return Presentation(Lead(said.figure, said.small), said.reason, parts)


def _swings(question: ThingQuestion, worked: WorkedThing, reader: Reader) -> list[Part]:
    """What its air alone would make of it, and what it really does."""
    course, air, real = question.course, worked.air, worked.swing

    def size(metres: float) -> str:
        return cut_length(metres, reader.system)

    def row(name: str, by_air: float, really: float, uncertainty: float) -> Row:
        sure = f"{size(really)} ± {uncertain_length(uncertainty, reader.system)}"
        return Row(name, (Cell(size(by_air), is_number=True), Cell(sure, is_number=True)))

    moisture = [
        Cell(f"{points(low)} to {percent(high)}", is_number=True)
        for low, high in ((course.level_low, course.level_high), (course.low, course.high))
    ]
    rows = [
        Row("Moisture", moisture),
        row("Shrinks at most", air.shrink_m, real.shrink_m, real.shrink_uncertainty_m),
        row("Grows at most", air.growth_m, real.growth_m, real.growth_uncertainty_m),
        row("In all", air.range_m, real.range_m, real.range_uncertainty_m),
    ]
    named = f"{worked.named[0].upper()}{worked.named[1:]}"
    said: list[Part] = [
        Table(rows, ("", "If it kept up with the air", "In practice"), f"{named}, from the day it is built", narrow=True),
        Says(slowed(question), Manner.HINT),
    ]
    if question.home.instead:
        said.append(
            Says(
                f"No year of {question.home.instead} is known, so {question.home.name} is taken for it: give the place a year under Air.",
                Manner.HINT,
            )
        )
    if not course.settled:
        said.append(Says("After two years it has not come to rest: it goes on a little in the third.", Manner.HINT))
    return said


def _working(question: ThingQuestion) -> Folded:
    figures, species, home = question.shrinkage, question.species, question.home
    worked_back = " (worked back from its movement coefficient)" if figures.source == "coefficient" else ""
    return Folded(
        "How?",
        (
            (
                f"It lives in {home.name}: {home.basis}. {species.common_name} shrinks {points(figures.radial)}% radially and"
                f" {points(figures.tangential)}% tangentially from green to ovendry{worked_back}, in proportion below fibre saturation at"
                f" {points(figures.fibre_saturation, 0)}% (Wood Handbook ch. 4; confidence {species.confidence}). Its rings stand at"
                f" {question.ring_angle_deg:.0f}° to the wide face. The moisture through its thickness is followed day by day for two years"
                " from the day it is built; a finish is a resistance fitted to its published test (Wood Handbook ch. 16) and slows what"
                " passes, on all faces alike."
            ),
            (
                "± is two standard deviations: boards differ from their species by 15% of the movement each, the meter left a point open"
                f" on the day, and the air of its home {points(home.uncertainty)} points. Gaps, grooves and slots are made for the far end"
                " of that."
            ),
            (
                "Whether held wood splits is a chance: stiffness and strength across the grain (Wood Handbook ch. 5), how much creep eases"
                " over months (little is published, so the spread is wide), how much larger pieces are weaker, and how far fastenings give,"
                " which is our own judgement. Under one in five is told as “will hold”, over four in five as “will split”."
            ),
        ),
    )


def scene(put: Put[ThingQuestion], worked: WorkedThing, reader: Reader, narrow: bool) -> dict[str, Any]:
    """The thing in the month that is looked at, over what it was on the day."""
    question, course, thing = put.question, put.question.course, put.question.thing
    day = _day(put)
    moisture = course.at(day)
    built, low, high, now = (thing.scene(question, worked, at) for at in (course.built, course.low, course.high, moisture))
    drawn = draw(now, built, (low, high), moisture, put.tells["drawn"], NARROW if narrow else WIDE)
    said = thing.present(question, worked)
    return {"scene": drawn, "when": when(question, day), "says": f"{said.figure} {said.small}"}


def stops(put: Put[ThingQuestion], worked: WorkedThing, reader: Reader, narrow: bool) -> dict[str, Any]:
    """Which month that is, and where the driest and the dampest lie."""
    question, course, day = put.question, put.question.course, _day(put)
    marks = [
        (name, round(at * STOPS / COURSE_DAYS)) for name, at in (("built", 0), ("driest", course.low_day), ("dampest", course.high_day))
    ]
    return {"when": when(question, day), "moisture": course.at(day), "marks": marks}


def approaches(put: Put[ThingQuestion], worked: WorkedThing, reader: Reader, narrow: bool) -> list[tuple[str, DrawnScene]]:
    """Each of the ways that practitioners do it."""
    question, wanted = put.question, put.tells["drawn"]
    return [(words, draw(then, was, (then,), at, wanted, NARROW)) for words, then, was, at in question.thing.approaches(question, worked)]


def _day(put: Put[ThingQuestion]) -> int:
    return round(put.tells["stop"] * COURSE_DAYS / STOPS)
