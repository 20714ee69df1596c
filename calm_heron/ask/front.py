"""The front page: a board comes down to the waterline of a heated room, from whatever number is typed."""

from dataclasses import dataclass, replace

import numpy as np
from django.conf import settings
from django.http import HttpResponse
from django.shortcuts import redirect, render

from calm_heron.air.kinds import PlaceKind
from calm_heron.drying import drawings, methods, queries, words
from calm_heron.questions.forms import Group, QuestionForm
from calm_heron.site.numbers import percent
from calm_heron.workshops.askers import Asker, AskerRequest, asked_by_anybody
from calm_heron.workshops.fields import PercentField
from wood.drying.answers import Answer
from wood.drying.diffusivity import of_species
from wood.drying.questions import Question
from wood.species import species_named
from wood.units import INCH_M

# What the board is where only one number is typed: an inch of white oak that comes into a heated room.
FRAME = replace(drawings.NARROW, width=460, right=404)
WOOD, THICKNESS_M, BEGINS_AT, WANTED = "white_oak", INCH_M, "14", 0.10


class FrontBoardForm(QuestionForm):
    """What the meter shows."""

    groups = (Group(("reading",)),)

    @classmethod
    def begins_with(cls, asker: Asker, subject: object) -> dict[str, str]:
        return {"reading": BEGINS_AT}

    def build(self) -> None:
        self.fields["reading"] = PercentField(self.system, 0.04, 1.0, required=False, label="Your meter shows, %")


@dataclass(frozen=True)
class FrontBoard:
    """The board of the front page: whether it is ready, when, and why; and its way down to the waterline."""

    word: str
    band: str
    reason: str
    course: drawings.Course

    @property
    def top(self) -> int:
        """Above this the drawing shows the inside of the board, which is not shown here."""
        return int(self.course.top) - 18

    @property
    def height(self) -> int:
        return self.course.height - self.top


def board(moisture: float) -> FrontBoard:
    """What becomes of a board at a moisture, 0.04…1, that comes into a heated room today."""
    around = queries.surroundings([], queries.USUAL_PATTERN, methods.of_place(PlaceKind.ROOM), queries.today())
    assert isinstance(around, queries.Surroundings)
    question = Question(of_species(species_named(WOOD)), THICKNESS_M, moisture, WANTED, around.setting)
    answer: Answer = queries.answered(question)
    today = queries.today()
    course = drawings.course(answer, question, today, [(today, moisture)], [], today, FRAME)
    if moisture <= WANTED:
        return FrontBoard("Yes", "", f"At {percent(moisture)} an inch of white oak is as dry as a heated room makes it, or drier.", course)
    if not np.isfinite(answer.high):
        # The season carries the slow boards past it: said as the page of a drying says it.
        said = words.describe(answer, moisture, WANTED, today, around, [])
        return FrontBoard(f"Not yet: {said.word[0].lower()}{said.word[1:]}", said.band, said.reason, course)
    reason = (
        f"An inch of white oak, on stickers in a heated room from today, comes down from {percent(moisture)} to {percent(WANTED)} by "
        f"{words.on(today, answer.days)}; eight boards in ten between {words.on(today, answer.low)} and {words.on(today, answer.high)}."
    )
    return FrontBoard(f"Not yet: {words.span(answer.days)}", words.band_of(answer.days, answer.low, answer.high), reason, course)


@asked_by_anybody
def door(request: AskerRequest) -> HttpResponse:
    """The front page for a stranger, or its board alone (``fragment=answer``)."""
    asker: Asker = request.asker
    typed = {"reading": request.GET.get("reading", BEGINS_AT)[:40]}
    form = FrontBoardForm(typed, asker=asker)
    alone = request.GET.get("fragment") == "answer"
    page = {"form": form, "system": asker.system, "asker": asker, "fragment": alone, "demo": settings.DEMO}
    if form.is_valid():
        reading = form.cleaned_data["reading"]
        page["board"] = board(float(BEGINS_AT) / 100 if reading is None else reading)
    return render(request, "ask/front_board.html" if alone else "ask/front.html", page)


def front(request: AskerRequest) -> HttpResponse:
    """The door: strangers see at once what this is, members go to their workshop."""
    return redirect("workshops") if request.user.is_authenticated else door(request)
