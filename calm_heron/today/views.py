"""The first page of a workshop: what is ready, what to read next, and everything against the waterline."""

from dataclasses import dataclass
from datetime import timedelta
from typing import Any

from django.http import HttpResponse
from django.shortcuts import render
from django.urls import reverse
from django.utils import timezone

from calm_heron.air import queries as air
from calm_heron.drying import forecasts as drying
from calm_heron.judging import queries as judging
from calm_heron.judging import stock_states
from calm_heron.judging.plugs import SEARCHED_BY
from calm_heron.judging.queries import Chosen
from calm_heron.measuring import queries as measuring
from calm_heron.measuring.models import PieceMoisture
from calm_heron.stock.models import Piece, Status
from calm_heron.today import drawings
from calm_heron.today.drawings import TodayScene
from calm_heron.workshops.doors import WorkshopRequest, in_workshop
from calm_heron.workshops.models import Workshop
from wood.judging.readiness import State
from wood.uses import Approach

THREADS = drawings.WIDE.threads
WEEKS_SHOWN = 26
ORDER = (
    State.READY,
    State.CRACKED,
    State.WORKS_NOW,
    State.DRY,
    State.CLOSE,
    State.TOO_UNEVEN,
    State.WAIT,
    State.TOO_DRY,
    State.CANNOT_TELL,
)


@in_workshop()
def today(request: WorkshopRequest) -> HttpResponse:
    about = judging.chosen(request.workshop, request.GET)
    place, use, wanted = about.place, about.use, about.target
    overview = stock_states.overview(request.workshop, about.purposes)
    # The chart shows the air of the place, whatever the use is judged against.
    level, year = about.purposes.air_of(place) if place else (None, None)
    since = timezone.now() - timedelta(weeks=WEEKS_SHOWN)
    shown = _shown(request.workshop, about)
    forecasts = {}
    if shown and not about.is_asked:
        forecasts = drying.in_list(request.workshop, shown, stock_states.states_of(shown, about.purposes), about.purposes)
    scene = TodayScene(
        air.weeks(place, since) if place else [],
        level,
        use.tolerance,
        measuring.daily_means(shown, since),
        shown,
        since,
        wanted.moisture if wanted and wanted.approach in (Approach.SETTLED, Approach.YEAR, Approach.TYPED) else None,
        air.days_ahead(year, level),
        forecasts,
    )
    page = {
        "about": about,
        "place": place,
        "use": use,
        "target": wanted,
        "overview": overview,
        "steps": first_steps(request, about, shown),
        "counts": [(state, SEARCHED_BY[state], overview.counts.get(state, 0)) for state in ORDER],
        "charts": [("wide-only", drawings.waterline(scene)), ("narrow-only", drawings.waterline(scene, drawings.NARROW))],
    }
    return render(request, "today/judged.html" if request.GET.get("fragment") == "today" else "today/today.html", page)


@dataclass(frozen=True)
class Step:
    """One of the first things to do in a workshop: where it is done, empty for who may not, and whether it is done."""

    words: str
    address: str
    done: bool


def first_steps(request: WorkshopRequest, about: Chosen, read: list[Piece]) -> list[Step]:
    """What is to be done before the first answer, each known to be done or not; empty once all of it is.

    ``read`` are pieces known to be.
    """
    workshop, membership = request.workshop, request.membership
    place = about.place
    aired = place is not None and about.purposes.air_of(place) != (None, None)
    piece = read[0] if read else Piece.objects.of(workshop).order_by("id").first()

    def address(name: str, *args: Any, may: bool = membership.may_make) -> str:
        return reverse(name, args=[workshop.slug, *args]) if may else ""

    steps = [
        Step("Add the place where the wood will live", address("new_place"), place is not None),
        Step("Read its air, or give it a year", address("place", place.pk, may=membership.may_record) if place else "", aired),
        Step("Say which meter you have, and how it is set", address("new_meter"), measuring.meters_of(workshop).exists()),
        Step("Add a board, and write its tag on it", address("new_piece"), piece is not None),
        Step(
            "Read it in three spots",
            address("measure", piece.tag, may=membership.may_record) if piece else "",
            bool(read) or PieceMoisture.objects.of(workshop).exists(),
        ),
    ]
    return [] if all(step.done for step in steps) else steps


def _shown(workshop: Workshop, about: Chosen) -> list[Piece]:
    """The pieces last read that are drawn against the place: those that are to live there, all of them where it was asked about."""
    newest = PieceMoisture.objects.of(workshop).select_related(*(f"piece__{name}" for name in drying.JOINS)).order_by("-at", "-piece_id")
    # Left out here and not in the query: the newest rows come straight from their index.
    there = (row.piece for row in newest[: 3 * THREADS] if row.piece.status == Status.IN_STOCK)
    results = [piece for piece in there if piece.lot_id is None and piece.traits.is_judged]
    if not about.is_asked:
        results = [piece for piece in results if about.purposes.of(piece, getattr(piece, "purpose", None)).place == about.place]
    return results[:THREADS]
