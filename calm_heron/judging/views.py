"""Whether two may be joined, what verdicts start from, and how close uses must be."""

import functools
from collections.abc import Callable
from typing import Any

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from calm_heron.air.models import Place
from calm_heron.judging import actions, joining, queries, sites, words
from calm_heron.judging.forms import UsesForm
from calm_heron.judging.purposes import purpose_of
from calm_heron.judging.targets import SUBFLOOR_GOOD_FOR
from calm_heron.site import undo
from calm_heron.site.addresses import back
from calm_heron.site.numbers import typed
from calm_heron.stock import queries as stock_queries
from calm_heron.stock.views import piece_or_404
from calm_heron.workshops.doors import WorkshopRequest, in_workshop, once, once_or_again
from calm_heron.workshops.models import Role
from calm_heron.workshops.refusals import Refused
from calm_heron.workshops.versions import Overtaken, as_seen
from wood.uses import Against


@in_workshop()
def site_record(request: WorkshopRequest, place_id: int) -> HttpResponse:
    """What was found of a site before a floor is laid in it; it prints."""
    place = get_object_or_404(Place.objects.of(request.workshop), pk=place_id)
    record = sites.record_of(place)
    word, reason = words.SITES[record.standing]
    page = {"place": place, "record": record, "word": word, "reason": reason, "good_for": SUBFLOOR_GOOD_FOR.days}
    return render(request, "judging/site_record.html", page)


@in_workshop()
def compare(request: WorkshopRequest) -> HttpResponse:
    """Whether two pieces or lots are close enough to be joined, and how differently they will move."""
    about = queries.chosen(request.workshop, request.GET)
    named = [request.GET.get(name, "").strip()[:40] for name in ("one", "other")]
    pieces = [stock_queries.by_tag(request.workshop, tag) if tag else None for tag in named]
    page: dict[str, Any] = {
        "about": about,
        "named": named,
        "unknown": [tag for tag, result in zip(named, pieces, strict=True) if tag and result is None],
    }
    first, other = pieces
    if first and other and first != other:
        page |= {"first": first, "other": other, "answer": joining.joined(first, other, about, request.workshop.system)}
    elif first and other:
        page["same"] = True
    return render(request, "judging/comparison.html", page)


@require_POST
@in_workshop(write=Role.HELPER)
def keep_judgement(request: WorkshopRequest, tag: str) -> HttpResponse:
    result = piece_or_404(request, tag)
    about = queries.chosen(request.workshop, request.POST, result)
    verdict = queries.judged(result, about.purpose, about.target)
    if verdict.target is None:
        raise Http404

    def do() -> str:
        actions.keep_judgement(request.membership, result, verdict)
        return reverse("piece", args=[request.workshop.slug, result.tag]) + (f"?{about.question}" if about.is_asked else "")

    messages.success(request, "Recorded in the journal.")
    return once(request, do)


@require_POST
@in_workshop(write=Role.MAKER)
def set_workshop_purpose(request: WorkshopRequest) -> HttpResponse:
    about = queries.chosen(request.workshop, request.POST)
    said = f"From now on verdicts are for {words.purpose(about.purpose)}, unless you choose otherwise."
    _told(request, said, lambda: actions.set_workshop_purpose(request.membership, about.purpose, request.POST.get("seen", "")))
    return back(request, reverse("today", args=[request.workshop.slug]))


@require_POST
@in_workshop(write=Role.HELPER)
def set_piece_purpose(request: WorkshopRequest, tag: str) -> HttpResponse:
    """Keep what a piece is for, as the page was asked, or take that back (``usual``)."""
    piece = piece_or_404(request, tag)
    about = queries.chosen(request.workshop, request.POST, piece)
    wanted = None if "usual" in request.POST else about.purpose
    said = f"{piece.tag} is for {words.purpose(wanted)}." if wanted else f"{piece.tag} is for the usual purpose here."
    # Undone, it is for what it was for before: the page's own purpose of then, or none.
    before = about.own_purpose.settings if about.own_purpose else None
    back_to = {"usual": "1"} if before is None else dict(zip(("place", "use", "approach", "moisture"), _as_sent(before), strict=True))
    address = reverse("piece_aim", args=[request.workshop.slug, piece.tag])

    def way_back() -> tuple[str, dict[str, Any]]:
        return address, back_to | {"seen": as_seen(*queries.purpose_settings(purpose_of(piece)))}

    act = functools.partial(actions.set_piece_purpose, request.membership, piece, wanted, request.POST.get("seen", ""))
    saved = _told(request, said, act, way_back if wanted or before else None)
    page = reverse("piece", args=[request.workshop.slug, piece.tag])
    return redirect(page if saved or not about.is_asked else f"{page}?{about.question}")


def _as_sent(settings: tuple[int | None, str, str, float | None]) -> tuple[str, str, str, str]:
    """A purpose's settings as a form sends them."""
    place, use, approach, moisture = settings
    return str(place or ""), use, approach, typed(moisture) if moisture else ""


def _told(
    request: HttpRequest, said: str, act: Callable[[], object], way_back: Callable[[], tuple[str, dict[str, Any]]] | None = None
) -> bool:
    """Carry out a change of purpose and say so, with the way back where there is one, or say why not; whether it was done."""
    try:
        act()
    except Overtaken as overtaken:
        messages.error(request, f"{overtaken.what_happened} Look at it, and choose again if you mean it.")
    except Refused as refused:
        messages.error(request, str(refused))
    else:
        if way_back:
            undo.tell(request, said, *way_back())
        else:
            messages.success(request, said)
        return True
    return False


@in_workshop(write=Role.MAKER, only=True)
def uses(request: WorkshopRequest) -> HttpResponse:
    """How close each use must be, as this workshop wants it."""
    form = UsesForm(request.POST or None, membership=request.membership)
    if form.is_valid():

        def do() -> str:
            actions.set_uses(request.membership, form.values(), request.POST.get("seen", ""))
            return reverse("uses", args=[request.workshop.slug])

        if answer := once_or_again(request, form, do):
            messages.success(request, "Saved. Every verdict goes by it from now on.")
            return answer
    page = {"form": form, "subfloor": Against.SUBFLOOR, "seen": as_seen(*queries.rule_settings(request.workshop))}
    return render(request, "judging/uses.html", page, status=422 if form.errors else 200)
