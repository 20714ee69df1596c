"""The page of a drying: how long will it take?"""

from typing import Any

from django.http import Http404, HttpResponse, QueryDict
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_safe

from calm_heron.drying import drawings, forecasts, questions
from calm_heron.drying import speed_up as speeding_up
from calm_heron.drying.forms import DryingForm, SpeedUpForm
from calm_heron.drying.questions import DryingQuestion
from calm_heron.drying.shown import complain, shown
from calm_heron.judging import queries as judging
from calm_heron.judging.queries import Chosen
from calm_heron.measuring.models import PieceMoisture
from calm_heron.stock.models import Piece
from calm_heron.stock.views import piece_or_404
from calm_heron.workshops.doors import WorkshopRequest, in_workshop
from wood.errors import OutOfRange


@in_workshop()
def imagined(request: WorkshopRequest) -> HttpResponse:
    """A piece that need not be there. ``fragment=drying`` gives the answer and the drawings alone."""
    return _page(request, None)


@in_workshop()
def of_piece(request: WorkshopRequest, tag: str) -> HttpResponse:
    """A piece in stock, from what its readings say; one known by its weights is sent to its own page, where they answer."""
    piece = piece_or_404(request, tag)
    if piece.traits.dries_by_weight:
        return redirect("piece", request.workshop.slug, piece.tag)
    return _page(request, piece)


@in_workshop()
def speed_up(request: WorkshopRequest, tag: str) -> HttpResponse:
    """How a piece is hurried, what each way buys, and how long it may lie elsewhere. ``fragment=speed_up`` gives the answer alone."""
    piece = piece_or_404(request, tag)
    if not piece.traits.is_judged:
        raise Http404
    if piece.traits.dries_by_weight:
        return redirect("piece", request.workshop.slug, piece.tag)
    about = judging.chosen(request.workshop, request.GET, piece)
    known = PieceMoisture.objects.filter(piece=piece).first()
    fields = QueryDict(mutable=True)
    usual = USUAL_CUT[request.workshop.system.length]
    fields.update({name: request.GET.get(name, usual[name])[:30] for name in usual})
    form = SpeedUpForm(fields, membership=request.membership)
    question = forecasts.usual_question(piece, known, about, request.membership, request.GET.get("start_date", "")) if known else None
    page = {
        "piece": piece,
        "form": form,
        "about": about,
        "question": question,
        "known": known,
        "fragment": request.GET.get("fragment") == "speed_up",
    }
    if form.is_valid() and question is not None:
        try:
            page["sped_up"] = speeding_up.sped_up(question, form.cleaned_data["skimmed_m"] or 0.0, form.cleaned_data["rough_length_m"])
            page["elsewhere"] = speeding_up.elsewhere(question, about.places)
        except OutOfRange as beyond:
            complain(form, beyond)
    return render(request, "drying/sped_up.html" if page["fragment"] else "drying/speed_up.html", page)


@require_safe
@in_workshop()
def hurry(request: WorkshopRequest, tag: str) -> HttpResponse:
    """Where the page of speeding it up was before."""
    address = reverse("speed_up", args=[request.workshop.slug, tag])
    question = request.GET.urlencode()
    return redirect(f"{address}?{question}" if question else address, permanent=True)


# Taken off each face, and cut to, where nobody said.
USUAL_CUT = {"in": {"skimmed_m": "1/16", "rough_length_m": "24"}, "mm": {"skimmed_m": "1.5", "rough_length_m": "600"}}


def _page(request: WorkshopRequest, piece: Piece | None) -> HttpResponse:
    known = PieceMoisture.objects.filter(piece=piece).first() if piece else None
    about = judging.chosen(
        request.workshop, {name: request.GET.get(name, "") for name in ("place", "use", "approach", "school", "moisture")}, piece
    )
    form = DryingForm(_fields(request, piece, known, about), membership=request.membership, places=about.places)
    fragment = request.GET.get("fragment") == "drying"
    page: dict[str, Any] = {"form": form, "piece": piece, "known": known, "fragment": fragment}
    if form.is_valid():
        try:
            question = questions.question_from(request.workshop, form.cleaned_data, piece, known, about)
            page |= {"species": question.species, "around": question.around, "start_date": question.start_date}
            if isinstance(question, DryingQuestion):
                # A screen that says how wide it is gets its own drawing alone.
                frame = drawings.FRAMES.get(request.GET.get("frame", ""), drawings.BOTH) if fragment else drawings.BOTH
                page |= shown(question, request.workshop.system, frame)
                if piece is not None and known is not None and not request.GET and question.place_target is not None:
                    forecasts.keep(piece, question, page["answer"])
            else:
                page |= {"no_air": question.no_air, "no_figure": question.no_air is None}
        except OutOfRange as beyond:
            complain(form, beyond)
    return render(request, "drying/answer.html" if fragment else "drying/drying.html", page)


def _fields(request: WorkshopRequest, piece: Piece | None, known: PieceMoisture | None, about: Chosen) -> QueryDict:
    """What was asked, over what is usual for the piece: every field shows the value it is computed with."""
    fields = QueryDict(mutable=True)
    fields.update(questions.usual(request.workshop, piece, known, about))
    for name, value in request.GET.items():
        fields[name] = value[:60]  # type: ignore[assignment]
    return fields
