"""The list of the stock with its verdicts, the page of a piece, and whether two may be joined."""

from urllib.parse import urlencode

from django.contrib import messages
from django.core.paginator import Paginator
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils.http import url_has_allowed_host_and_scheme
from django.views.decorators.http import require_POST

from calm_heron.judging import actions, drawings, joining, queries
from calm_heron.judging.forms import UsesForm
from calm_heron.measuring import drawings as measuring_drawings
from calm_heron.measuring import queries as measuring
from calm_heron.measuring.words import warning_sentences
from calm_heron.stock import queries as stock_queries
from calm_heron.stock.forms import PhotoForm, SampleForm, SeveralForm
from calm_heron.stock.models import Kind, Piece
from calm_heron.stock.search import understand
from calm_heron.stock.views import piece_or_404
from calm_heron.workshops.doors import in_workshop, once, once_or_again
from calm_heron.workshops.models import Role
from wood.readiness import SUBFLOOR, Estimate
from wood.weighing import Contents

PER_PAGE = 50


@in_workshop()
def stock(request: HttpRequest) -> HttpResponse:
    """The stock as a list: search, order, verdicts against the aim, and things to do to several at once."""
    text, sort = request.GET.get("q", "")[:100], request.GET.get("sort", "")[:12]
    about = queries.chosen(request.workshop, request.GET)
    wanted = about.target
    search = understand(text)
    page = Paginator(queries.listed(request.workshop, search, wanted, about.use, sort), PER_PAGE).get_page(request.GET.get("page"))
    states = queries.states_of(page.object_list, wanted, about.use)
    asked = {name: value for name, value in (("q", text), ("sort", sort), ("page", request.GET.get("page", "")[:6])) if value}
    shown = {
        "page": page, "text": text, "sort": sort, "about": about, "rows": [(piece, states[piece.pk]) for piece in page],
        "asked": urlencode(asked), "chosen": set(request.GET.getlist("chosen")), "search": search,
        "several": SeveralForm(membership=request.membership),
    }  # fmt: skip
    return render(request, "judging/stock.html", shown)


@in_workshop()
def piece(request: HttpRequest, tag: str) -> HttpResponse:
    """The verdict, the board with its readings, and the way there. ``fragment=answer`` gives the answer alone."""
    found = piece_or_404(request, tag)
    about = queries.chosen(request.workshop, request.GET, found)
    given = queries.judged(found, about.place, about.use)
    page = {
        "piece": found,
        "about": about,
        "place": about.place,
        "use": about.use,
        "answer": given,
        "gauge": drawings.gauge(given, "lot" if found.is_lot else found.get_kind_display().split()[-1].lower()) if given.verdict else None,
    }
    if request.GET.get("fragment") == "answer":
        return render(request, "judging/answer.html", page)
    sitting = measuring.sitting(found)
    profile = measuring.inferred_profile(found, sitting)
    page |= {
        "maps": [] if found.is_lot else measuring_drawings.board_maps(found, sitting),
        "profile": measuring_drawings.profile_chart(found, profile, sitting) if profile else None,
        "warnings": warning_sentences(list(dict.fromkeys(code for reading in sitting for code in reading.warnings))),
        "history": measuring.history(found),
        "contents": _contents(found, given.estimate),
        "progress": queries.lot_progress(found, about.use) if found.is_lot else None,
        "sample_form": SampleForm(membership=request.membership),
        "photo_form": PhotoForm(membership=request.membership),
        "several": SeveralForm(membership=request.membership),
        "photos": found.photos.defer("jpeg").order_by("at"),
        "has_movement": found.kind not in (Kind.LOG, Kind.BLANK, Kind.BOWL, Kind.SPINDLE),
    }
    return render(request, "judging/piece.html", page)


def _contents(piece: Piece, board: Estimate | None) -> Contents | None:
    """What the piece weighs at its moisture; where it is wetter than the meter can measure, the least that it weighs."""
    if board is None or board.bound == "below":
        return None
    return piece.contents(board.least if board.bound and board.least is not None else board.mean)


@in_workshop()
def alike(request: HttpRequest) -> HttpResponse:
    """Whether two pieces or lots are close enough to be joined, and how differently they will move."""
    about = queries.chosen(request.workshop, request.GET)
    named = [request.GET.get(name, "").strip()[:40] for name in ("one", "other")]
    pieces = [stock_queries.by_tag(request.workshop, tag) if tag else None for tag in named]
    page = {"about": about, "named": named, "unknown": [tag for tag, found in zip(named, pieces, strict=True) if tag and found is None]}
    if all(pieces) and pieces[0] != pieces[1]:
        page |= {"one": pieces[0], "other": pieces[1], "answer": joining.joined(*pieces, about, request.workshop.system)}
    elif all(pieces):
        page["same"] = True
    return render(request, "judging/alike.html", page)


@require_POST
@in_workshop(write=Role.HELPER)
def keep_judgement(request: HttpRequest, tag: str) -> HttpResponse:
    found = piece_or_404(request, tag)
    about = queries.chosen(request.workshop, request.POST, found)
    given = queries.judged(found, about.place, about.use)
    if given.target is None:
        raise Http404

    def do() -> str:
        actions.keep_judgement(request.membership, found, about.place, about.use, given)
        question = {"place": about.place.pk} if about.place else {}
        return reverse("piece", args=[request.workshop.slug, found.tag]) + "?" + urlencode(question | {"use": about.use.key})

    messages.success(request, "Kept in the log.")
    return once(request, do)


@require_POST
@in_workshop(write=Role.MAKER)
def set_aim(request: HttpRequest) -> HttpResponse:
    about = queries.chosen(request.workshop, request.POST)
    if about.place is None:
        raise Http404
    actions.set_aim(request.membership, about.place, about.use)
    messages.success(request, f"From now on verdicts start from {about.place.name} and {about.use.name.lower()}.")
    back = request.POST.get("back", "")
    return redirect(back if url_has_allowed_host_and_scheme(back, allowed_hosts=None) else reverse("today", args=[request.workshop.slug]))


@in_workshop(write=Role.MAKER)
def uses(request: HttpRequest) -> HttpResponse:
    """How close each use must be, as this workshop wants it."""
    form = UsesForm(request.POST or None, membership=request.membership)
    if form.is_valid():

        def do() -> str:
            actions.set_uses(request.membership, form.values())
            return reverse("uses", args=[request.workshop.slug])

        if answer := once_or_again(request, form, do):
            messages.success(request, "Kept. Every verdict goes by it from now on.")
            return answer
    return render(request, "judging/uses.html", {"form": form, "subfloor": SUBFLOOR}, status=422 if form.errors else 200)
