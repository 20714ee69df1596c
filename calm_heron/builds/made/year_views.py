"""What a build does in its first year, and what was measured of it."""

from typing import Any

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from calm_heron.builds import readiness
from calm_heron.builds.layouts import allocation
from calm_heron.builds.made import following, year_words
from calm_heron.builds.made.following import BuildYear, FollowedPart
from calm_heron.builds.made.forms import AsMadeForm, MeasuredForm
from calm_heron.builds.made.year_drawing import year_drawing
from calm_heron.builds.models import Build
from calm_heron.builds.views import build_or_404
from calm_heron.site import undo
from calm_heron.workshops.doors import WorkshopRequest, in_workshop, once_or_again
from calm_heron.workshops.models import Role
from calm_heron.workshops.refusals import Refused


def year_page(build: Build) -> str:
    """The address of a build's first year."""
    return reverse("build_year", args=[build.workshop.slug, build.pk])


@in_workshop()
def first_year(request: WorkshopRequest, build_id: int) -> HttpResponse:
    """What does it do in its first year? ``part`` is the one that is looked at month by month."""
    return _page(request, build_or_404(request, build_id))


def _page(
    request: WorkshopRequest, build: Build, measured: MeasuredForm | None = None, as_made: AsMadeForm | None = None, status: int = 200
) -> HttpResponse:
    year, system = _year_of(request, build), request.workshop.system
    parts = [part.part for part in year.parts]
    looked_at = _looked_at(year, request.GET.get("part", ""))
    begins = {"version": build.version, "part": looked_at.part.pk if looked_at else None}
    page: dict[str, Any] = {
        "build": build,
        "part": "year",
        "panels": [part for part in parts if part.staves > 1],
        "year": year,
        "system": system,
        "words": year_words.year_words(year, system),
        "rows": year_words.rows(year, system),
        "looked_at": looked_at,
        "likes": year_words.likes(year),
        "form_measured": measured or MeasuredForm(membership=request.membership, parts=parts, initial=begins),
        "form_as_made": as_made or AsMadeForm(membership=request.membership, parts=parts, initial=begins),
        "found": _found(year, request),
    }
    if looked_at is not None and looked_at.year is not None:
        page["drawings"] = [(year_drawing(looked_at, year, system, narrow=narrow), narrow) for narrow in (False, True)]
        page["months"] = year_words.months(looked_at, year, system)
    return render(request, "builds/year.html", page, status=status)


def _year_of(request: WorkshopRequest, build: Build) -> BuildYear:
    """A build through its first year; when its boards will be ready is not asked here, so no forecast is worked out for it."""
    return following.follow(readiness.state_of(allocation.saw(build), request.membership, at_once=0))


def _looked_at(year: BuildYear, asked: str) -> FollowedPart | None:
    """The part that was asked for, else the one that the answer is about."""
    return next((part for part in year.known if str(part.part.pk) == asked), year_words.speaks_of(year))


def _found(year: BuildYear, request: WorkshopRequest) -> list[tuple[Any, str]]:
    """What was measured, the newest first, each with how it stands to its forecast in words."""
    rows = [(row, part, against) for part in year.parts for row, against in part.measured]
    rows.sort(key=lambda entry: (entry[0].on, entry[0].pk), reverse=True)
    system = request.workshop.system
    return [(row, year_words.found_words(part, row, against, system)) for row, part, against in rows]


@require_POST
@in_workshop(write=Role.MAKER)
def measured(request: WorkshopRequest, build_id: int) -> HttpResponse:
    """Something was measured of it."""
    build = build_or_404(request, build_id)
    form = MeasuredForm(request.POST, membership=request.membership, parts=build.parts.all())
    if form.is_valid():
        typed = form.cleaned_data

        def do() -> str:
            made = following.measure(
                request.membership, build, typed["part"], typed["what"], typed["number"], form.day, typed["note"].strip()
            )
            way = reverse("measured_changed", args=[request.workshop.slug, build.pk, made.pk])
            undo.tell(request, f"{made.part.name}: kept.", way, {"do": "strike"})
            return f"{year_page(build)}?part={made.part_id}"

        answer = once_or_again(request, form, do)
        if answer is not None:
            return answer
    return _page(request, build, measured=form, status=422)


@require_POST
@in_workshop(write=Role.MAKER)
def measured_changed(request: WorkshopRequest, build_id: int, measured_id: int) -> HttpResponse:
    """A measurement is struck out, or counts again."""
    build, back = build_or_404(request, build_id), request.POST.get("do") == "back"
    try:
        row = following.strike(request.membership, build, measured_id, back=back)
    except Refused as refused:
        messages.error(request, str(refused))
        return redirect(year_page(build))
    way = reverse("measured_changed", args=[request.workshop.slug, build.pk, row.pk])
    undo.tell(request, "It counts again." if back else "It is struck out.", way, {"do": "strike" if back else "back"})
    return redirect(f"{year_page(build)}?part={row.part_id}")


@require_POST
@in_workshop(write=Role.MAKER)
def as_made(request: WorkshopRequest, build_id: int) -> HttpResponse:
    """A part was made otherwise than the cut list had it."""
    build = build_or_404(request, build_id)
    form = AsMadeForm(request.POST, membership=request.membership, parts=build.parts.all())
    if form.is_valid():
        typed = form.cleaned_data

        def do() -> str:
            following.correct(
                request.membership, build, typed["version"], typed["part"], moisture=typed["moisture"], width_m=typed["width_m"]
            )
            messages.success(request, "Its year is reckoned from that.")
            return f"{year_page(build)}?part={typed['part']}"

        answer = once_or_again(request, form, do, changing=build)
        if answer is not None:
            return answer
    return _page(request, build, as_made=form, status=422)
