"""The page of a piece: is it ready?"""

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils.http import url_has_allowed_host_and_scheme
from django.views.decorators.http import require_POST

from calm_heron.judging import actions, drawings, queries
from calm_heron.measuring import drawings as measuring_drawings
from calm_heron.measuring import queries as measuring
from calm_heron.measuring.words import warning_sentences
from calm_heron.stock.views import piece_or_404
from calm_heron.workshops.doors import in_workshop, once
from calm_heron.workshops.models import Role
from wood.readiness import USES


@in_workshop()
def piece(request: HttpRequest, tag: str) -> HttpResponse:
    """The verdict, the board with its readings, and the way there. ``fragment=answer`` gives the answer alone."""
    found = piece_or_404(request, tag)
    places, place, use, aim = queries.chosen(request.workshop, request.GET.get("place", ""), request.GET.get("use", ""))
    given = queries.judged(found, place, use)
    page = {
        "piece": found,
        "places": places,
        "place": place,
        "use": use,
        "uses": USES.values(),
        "answer": given,
        "gauge": drawings.gauge(given) if given.verdict else None,
    }
    if request.GET.get("fragment") == "answer":
        return render(request, "judging/answer.html", page)
    sitting = measuring.sitting(found)
    page |= {
        "aim": aim,
        "maps": measuring_drawings.board_maps(found, sitting),
        "warnings": warning_sentences(list(dict.fromkeys(code for reading in sitting for code in reading.warnings))),
        "history": measuring.history(found),
        "newest": sitting[-1] if sitting else None,
    }
    return render(request, "judging/piece.html", page)


@require_POST
@in_workshop(write=Role.HELPER)
def keep_judgement(request: HttpRequest, tag: str) -> HttpResponse:
    found = piece_or_404(request, tag)
    _, place, use, _ = queries.chosen(request.workshop, request.POST.get("place", ""), request.POST.get("use", ""))
    if place is None:
        raise Http404

    def do() -> str:
        actions.keep_judgement(request.membership, found, place, use, queries.judged(found, place, use))
        return reverse("piece", args=[request.workshop.slug, found.tag]) + f"?place={place.pk}&use={use.key}"

    messages.success(request, "Kept in the log.")
    return once(request, do)


@require_POST
@in_workshop(write=Role.MAKER)
def set_aim(request: HttpRequest) -> HttpResponse:
    _, place, use, _ = queries.chosen(request.workshop, request.POST.get("place", ""), request.POST.get("use", ""))
    if place is None:
        raise Http404
    actions.set_aim(request.membership, place, use)
    messages.success(request, f"From now on verdicts start from {place.name} and {use.name.lower()}.")
    back = request.POST.get("back", "")
    return redirect(back if url_has_allowed_host_and_scheme(back, allowed_hosts=None) else reverse("today", args=[request.workshop.slug]))
