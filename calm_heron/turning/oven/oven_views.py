"""A bowl in the microwave: what to do next, a clock for it, and what each heat took out."""

from typing import Any

from django.contrib import messages
from django.http import Http404, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from calm_heron.turning.bowls.bowl_views import piece_of
from calm_heron.turning.models import OvenSession
from calm_heron.turning.oven import heating, oven_words
from calm_heron.turning.oven.oven_actions import begin_oven, end_oven
from calm_heron.turning.oven.oven_actions import heat as keep_heat
from calm_heron.turning.shelf import weighing
from calm_heron.turning.shelf.shelf_forms import OvenForm, OvenHeatForm
from calm_heron.turning.shelf.shelf_views import addresses
from calm_heron.workshops.doors import WorkshopRequest, in_workshop, once_or_again, once_or_told
from calm_heron.workshops.models import Role
from wood.turning import microwave
from wood.units import INCH_M

USUAL_W = 800.0


@in_workshop(write=Role.HELPER, only=True)
def oven(request: WorkshopRequest, tag: str) -> HttpResponse:
    """The session that runs, or how one begins."""
    piece = piece_of(request, tag)
    if not piece.traits.dries_by_weight:
        raise Http404
    session = piece.oven_sessions.filter(ended_at=None).select_related("workshop", "piece").first()
    if session is not None:
        return render(request, "turning/oven.html", _shown(request, session))
    weighed = weighing.renew(piece)
    plate = 12 * INCH_M if request.workshop.system.is_inch else microwave.USUAL_OVEN_M
    initial = {"watts": f"{USUAL_W:.0f}", "level": "1.0", "oven_m": plate} | ({"mass_kg": weighed.last_kg} if weighed else {})
    form = OvenForm(request.POST or None, initial=initial, membership=request.membership)
    if request.method == "POST" and form.is_valid():

        def do() -> str:
            typed = form.cleaned_data
            begin_oven(request.membership, piece, typed["watts"], typed["mass_kg"], float(typed["level"]), typed["oven_m"])
            return reverse("bowl_oven", args=[request.workshop.slug, piece.tag])

        answer = once_or_again(request, form, do)
        if answer is not None:
            return answer
    system = request.workshop.system
    # By the oven that the form begins with, so that both say the same of it.
    usual = heating.asked(piece, weighed, USUAL_W, 1.0, weighed.last_kg) if weighed else None
    coming = None if usual is None else oven_words.coming(usual, piece.width_m, plate, system)
    page = {"piece": piece, "form": form, "coming": coming, "addresses": addresses(request), "part": "", "system": system}
    return render(request, "turning/oven_begin.html", page, status=422 if form.errors else 200)


def _shown(request: WorkshopRequest, session: OvenSession, form: OvenHeatForm | None = None) -> dict[str, Any]:
    core = heating.session_of(session)
    step = microwave.next_step(core)
    initial = {"seconds": f"{step.seconds:.0f}" if step.seconds else "60", "level": f"{step.level:.1f}", "felt": "warm"}
    system = request.workshop.system
    return {
        "piece": session.piece,
        "session": session,
        "step": step,
        "said": oven_words.describe(core, step, system),
        "rows": oven_words.rows(session, system),
        "form": form or OvenHeatForm(initial=initial, membership=request.membership),
        "addresses": addresses(request),
        "part": "",
        "system": system,
        "stops": step.step in (microwave.Step.STOP_FLAT, microwave.Step.STOP_THERE),
        "drawing": oven_words.drawing(core, system),
    }


def _session(request: WorkshopRequest, session_id: int) -> OvenSession:
    session = (
        OvenSession.objects.of(request.workshop)
        .filter(pk=session_id)
        .select_related("workshop", "piece", "piece__workshop", "piece__place")
        .first()
    )
    if session is None:
        raise Http404
    return session


@require_POST
@in_workshop(write=Role.HELPER)
def heat(request: WorkshopRequest, session_id: int) -> HttpResponse:
    """A heat was given, and the bowl weighed."""
    session = _session(request, session_id)
    form = OvenHeatForm(request.POST, membership=request.membership)
    if form.is_valid():
        typed = form.cleaned_data

        def do() -> str:
            keep_heat(request.membership, session, typed["seconds"], float(typed["level"]), typed["mass_kg"], typed["felt"])
            return reverse("bowl_oven", args=[request.workshop.slug, session.piece.tag])

        answer = once_or_again(request, form, do)
        if answer is not None:
            return answer
    if session.ended_at is not None:
        return redirect("bowl", request.workshop.slug, session.piece.tag)
    return render(request, "turning/oven.html", _shown(request, session, form), status=422)


@require_POST
@in_workshop(write=Role.HELPER)
def end(request: WorkshopRequest, session_id: int) -> HttpResponse:
    """It is out of the oven."""
    session = _session(request, session_id)
    back = reverse("bowl", args=[request.workshop.slug, session.piece.tag])

    def do() -> str:
        end_oven(request.membership, session)
        messages.success(request, "Its last weight is in its log. Let it rest at its place and weigh it there.")
        return back

    return once_or_told(request, do, back)
