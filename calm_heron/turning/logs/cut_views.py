"""A log's end is kept as it was drawn, and its blanks are taken into stock."""

from typing import Any

from django.contrib import messages
from django.http import Http404, HttpResponse, QueryDict
from django.shortcuts import redirect
from django.urls import reverse
from django.views.decorators.http import require_POST

from calm_heron.questions.views import MOST_LETTERS, typed_in
from calm_heron.turning import actions
from calm_heron.turning.forms import KNOT, CutForm
from calm_heron.turning.logs import cutting
from calm_heron.workshops.askers import Asker
from calm_heron.workshops.doors import WorkshopRequest, in_workshop, once_or_told
from calm_heron.workshops.models import Role
from wood.errors import WoodError


@require_POST
@in_workshop(write=Role.MAKER)
def keep_cut(request: WorkshopRequest, tag: str) -> HttpResponse:
    """A log's drawing is kept, or its blanks are taken into stock as they were shown."""
    piece = cutting.log_named(request.workshop, tag)
    if piece is None:
        raise Http404
    state = request.POST.get("state", "")[:MOST_LETTERS]
    back = f"{reverse('ask_cut', args=[request.workshop.slug])}?{state or f'piece={piece.tag}'}"
    asker = Asker(request.membership)
    form = CutForm(typed_in(QueryDict(state), CutForm, asker, piece), asker=asker)
    if not form.is_valid():
        messages.error(request, "Something in the question is not right yet; see beside its field.")
        return redirect(back)

    def do() -> str:
        question = cutting.question_from(form, piece)
        _keep_drawing(request, piece, form, question)
        if request.POST.get("do") != "cut":
            messages.success(request, f"The end of {piece.tag} is kept as you drew it.")
            return f"{reverse('ask_cut', args=[request.workshop.slug])}?piece={piece.tag}"
        plan = cutting.answered(question).chosen
        made = actions.keep_blanks(request.membership, piece, plan.blanks if plan else ())
        messages.success(request, f"{piece.tag} is cut: {', '.join(item.tag for item in made)} in stock, each with its place in the log.")
        return reverse("bowl", args=[request.workshop.slug, made[0].tag])

    try:
        return once_or_told(request, do, back)
    except WoodError:
        messages.error(request, "This log cannot be as it was drawn; see beside the field.")
        return redirect(back)


def _keep_drawing(request: WorkshopRequest, piece: Any, form: CutForm, question: cutting.LogToCut) -> None:
    log = question.log
    seen = request.POST.get("version", "")
    strokes = [{"p": [list(point) for point in stroke.points], "d": stroke.depth_m, "f": stroke.flaw.value} for stroke in log.strokes]
    strokes += [{"p": [[knot.x_m, knot.y_m], [knot.x_m + knot.radius_m, knot.y_m]], "d": None, "f": KNOT} for knot in log.knots]
    sizes = {name: getattr(log, name) for name in ("width_m", "height_m", "length_m", "pith_x_m", "pith_y_m", "soft_m")}
    version = int(seen) if seen.isdecimal() and len(seen) < 10 else 0
    actions.draw_log(request.membership, piece, version, strokes=strokes, **sizes)
