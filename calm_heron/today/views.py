"""The first page of a workshop: what is ready, what to read next, and everything against the waterline."""

from datetime import timedelta

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.utils import timezone

from calm_heron.air import queries as air
from calm_heron.judging import queries as judging
from calm_heron.measuring import queries as measuring
from calm_heron.measuring.models import PieceMoisture
from calm_heron.stock.models import Status
from calm_heron.today import drawings
from calm_heron.workshops.doors import in_workshop
from wood.judging.readiness import State

THREADS = 18
WEEKS_SHOWN = 26
ORDER = (State.READY, State.CLOSE, State.TOO_UNEVEN, State.WAIT, State.TOO_DRY, State.CANNOT_TELL)


@in_workshop()
def today(request: HttpRequest) -> HttpResponse:
    about = judging.chosen(request.workshop, request.GET)
    place, use, wanted = about.place, about.use, about.target
    found = judging.overview(request.workshop, about.aims)
    # The chart shows the air of the place, whatever the use is judged against.
    level = wanted.level if wanted and wanted.level else air.level(place) if place else None
    since = timezone.now() - timedelta(weeks=WEEKS_SHOWN)
    newest = PieceMoisture.objects.of(request.workshop).select_related("piece").order_by("-at", "-piece_id")[: 2 * THREADS]
    # Left out here and not in the query: the newest rows come straight from their index.
    there = (row.piece for row in newest if row.piece.status == Status.IN_STOCK)
    shown = [piece for piece in there if piece.lot_id is None and piece.traits.is_judged][:THREADS]
    water = (
        air.weeks(place, since) if place else [], level, use.tolerance, measuring.daily_means(shown, since), shown, since
    )  # fmt: skip
    page = {
        "about": about,
        "place": place,
        "use": use,
        "target": wanted,
        "overview": found,
        "have_meter": measuring.meters_of(request.workshop).exists(),
        "counts": [(state, found.counts.get(state, 0)) for state in ORDER],
        "charts": [("wide-only", drawings.waterline(*water)), ("narrow-only", drawings.waterline(*water, drawings.NARROW))],
    }
    return render(request, "today/today.html", page)
