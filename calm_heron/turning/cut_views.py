"""Where do I cut? Drawn on the log's end, asked in the address, answered at once."""

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse, QueryDict
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from calm_heron.turning import actions, cut_drawings, cut_words, cutting, drawings
from calm_heron.turning.forms import DEPTHS_MM, KNOT, CutForm
from calm_heron.turning.models import LogEnd
from calm_heron.workshops.askers import said
from calm_heron.workshops.doors import in_workshop, once_or_told
from calm_heron.workshops.models import Role
from wood.errors import CannotRead, OutOfRange, WoodError
from wood.species import trade_name


def answered(request: HttpRequest, name: str, page: dict) -> HttpResponse:
    """One of turning's questions as a page, or its answer alone (``fragment=turning``)."""
    asker = request.asker
    alone = request.GET.get("fragment") == "turning"
    about = {"asker": asker, "system": asker.system, "layout": asker.layout, "fragment": alone, "part": name}
    return render(request, f"turning/{name}_answer.html" if alone else f"turning/{name}.html", about | page)


# Fields that the core calls otherwise.
CUT_FIELDS = {"pith": "pith_x_m", "strokes": "checks", "depth_m": "checks", "cut_off_m": "felled_days"}


def cut(request: HttpRequest) -> HttpResponse:
    """Where do I cut this log?"""
    asker = request.asker
    piece = cutting.log_named(asker.workshop, request.GET.get("piece", "")) if asker.is_member else None
    typed = said(request, cutting.usual(asker.system.is_inch, piece), ("rim", "shape", "ends"))
    form = CutForm(typed, membership=asker.membership)
    page: dict = {
        "form": form,
        "piece": piece,
        "taken_as": trade_name(typed.get("species_key", "")[:60]),
        "depths": DEPTHS_MM[asker.system.length],
        "drawn": LogEnd.objects.filter(piece=piece).first() if piece is not None else None,
    }
    if form.is_valid():
        try:
            page |= _cut(cutting.answered(cutting.asked(form, piece)), asker.system)
        except OutOfRange as beyond:
            _wrong_log(form, beyond)
        except CannotRead as unread:
            form.add_error("checks", unread.why)
    return answered(request, "cut", page)


def _cut(found: cutting.Answer, system) -> dict:
    figure, beside, reason = cut_words.answer(found, system)
    return {
        "found": found, "figure": figure, "beside": beside, "reason": reason, "cost": cut_words.cost(found, system), "lost": cut_words.lost(found, system),
        "order": cut_words.order(found, system), "rows": cut_words.rows(found, system),
        "drawings": [
            ("wide-only", cut_drawings.log_end(found, system)), ("narrow-only", cut_drawings.log_end(found, system, drawings.NARROW)),
        ],
    }  # fmt: skip


def _wrong_log(form: CutForm, beyond: OutOfRange) -> None:
    """What cannot be in this log, beside the field it was typed into."""
    if beyond.field == "pith":
        form.add_error("pith_x_m", "The pith lies outside the log: its shares of both half diameters together must stay below one.")
    elif beyond.field == "strokes":
        form.add_error("checks", "A check lies outside the log, or there are more than forty. Draw it again within the bark.")
    elif beyond.field == "depth_m":
        form.add_error("checks", "A check goes deeper than the log is long.")
    else:
        form.complain(beyond, called=CUT_FIELDS)


@require_POST
@in_workshop(write=Role.MAKER)
def keep_cut(request: HttpRequest, tag: str) -> HttpResponse:
    """A log's drawing is kept, or its blanks are taken into stock as they were shown."""
    piece = cutting.log_named(request.workshop, tag)
    if piece is None:
        raise Http404
    state = request.POST.get("state", "")[:8000]
    back = f"{reverse('ask_cut', args=[request.workshop.slug])}?{state or f'piece={piece.tag}'}"
    form = CutForm(
        QueryDict(state) if state else said(request, cutting.usual(request.workshop.system.is_inch, piece)), membership=request.membership
    )
    if not form.is_valid():
        messages.error(request, "Something in the question is not right yet; see beside its field.")
        return redirect(back)

    def do() -> str:
        question = cutting.asked(form, piece)
        _keep_drawing(request, piece, form, question)
        if request.POST.get("do") != "cut":
            messages.success(request, f"The end of {piece.tag} is kept as you drew it.")
            return f"{reverse('ask_cut', args=[request.workshop.slug])}?piece={piece.tag}"
        plan = cutting.answered(question).chosen
        made = actions.keep_blanks(request.membership, piece, plan.blanks if plan else ())
        messages.success(request, f"{piece.tag} is cut: {', '.join(one.tag for one in made)} in stock, each with its place in the log.")
        return reverse("bowl", args=[request.workshop.slug, made[0].tag])

    try:
        return once_or_told(request, do, back)
    except WoodError:
        messages.error(request, "This log cannot be as it was drawn; see beside the field.")
        return redirect(back)


def _keep_drawing(request: HttpRequest, piece, form: CutForm, question: cutting.Question) -> None:
    log = question.log
    seen = request.POST.get("version", "")
    strokes = [{"p": [list(point) for point in one.points], "d": one.depth_m, "f": one.flaw.value} for one in log.strokes]
    strokes += [{"p": [[one.x_m, one.y_m], [one.x_m + one.radius_m, one.y_m]], "d": None, "f": KNOT} for one in log.knots]
    sizes = {name: getattr(log, name) for name in ("width_m", "height_m", "length_m", "pith_x_m", "pith_y_m", "soft_m")}
    version = int(seen) if seen.isdecimal() and len(seen) < 10 else 0
    actions.draw_log(request.membership, piece, version, strokes=strokes, **sizes)
