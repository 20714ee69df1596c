"""The first page of a workshop: what is ready, what to read next, and everything against the waterline."""

from datetime import timedelta

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.utils import timezone

from calm_heron.air import queries as air
from calm_heron.drying import forecasts as drying
from calm_heron.judging import queries as judging
from calm_heron.judging.queries import Chosen
from calm_heron.measuring import queries as measuring
from calm_heron.measuring.models import PieceMoisture
from calm_heron.stock.models import Piece, Status
from calm_heron.today import drawings
from calm_heron.today.drawings import Scene
from calm_heron.workshops.doors import in_workshop
from calm_heron.workshops.models import Workshop
from wood.judging.readiness import State
from wood.uses import School

THREADS = 18
WEEKS_SHOWN = 26
ORDER = (State.READY, State.CLOSE, State.TOO_UNEVEN, State.WAIT, State.TOO_DRY, State.CANNOT_TELL)


@in_workshop()
def today(request: HttpRequest) -> HttpResponse:
    about = judging.chosen(request.workshop, request.GET)
    place, use, wanted = about.place, about.use, about.target
    found = judging.overview(request.workshop, about.aims)
    # The chart shows the air of the place, whatever the use is judged against.
    level, year = about.aims.air_of(place) if place else (None, None)
    since = timezone.now() - timedelta(weeks=WEEKS_SHOWN)
    shown = _shown(request.workshop, about)
    forecasts = {}
    if shown and not about.is_asked:
        forecasts = drying.in_list(request.workshop, shown, judging.states_of(shown, about.aims), about.aims)
    scene = Scene(
        air.weeks(place, since) if place else [], level, use.tolerance, measuring.daily_means(shown, since), shown, since,
        wanted.moisture if wanted and wanted.school in (School.YEAR, School.TYPED) else None, air.days_ahead(year, level), forecasts,
    )  # fmt: skip
    page = {
        "about": about,
        "place": place,
        "use": use,
        "target": wanted,
        "overview": found,
        "have_meter": measuring.meters_of(request.workshop).exists(),
        "counts": [(state, found.counts.get(state, 0)) for state in ORDER],
        "charts": [("wide-only", drawings.waterline(scene)), ("narrow-only", drawings.waterline(scene, drawings.NARROW))],
    }
    return render(request, "today/today.html", page)


def _shown(workshop: Workshop, about: Chosen) -> list[Piece]:
    """The pieces last read that are drawn against the place: those that are to live there, all of them where it was asked about."""
    newest = PieceMoisture.objects.of(workshop).select_related(*(f"piece__{name}" for name in drying.JOINS)).order_by("-at", "-piece_id")
    # Left out here and not in the query: the newest rows come straight from their index.
    there = (row.piece for row in newest[: 3 * THREADS] if row.piece.status == Status.IN_STOCK)
    found = [piece for piece in there if piece.lot_id is None and piece.traits.is_judged]
    if not about.is_asked:
        found = [piece for piece in found if about.aims.of(piece, getattr(piece, "aim", None)).place == about.place]
    return found[:THREADS]
