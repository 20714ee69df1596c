"""Builds: all of them, one, its parts, and taking it out again."""

from datetime import date
from typing import Any

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.urls import reverse
from django.views.decorators.http import require_POST

from calm_heron.builds import actions, parts_table, readiness, words
from calm_heron.builds.forms import BuildForm, DeleteForm, LayForm, PartForm, PartsForm
from calm_heron.builds.layouts import allocation
from calm_heron.builds.models import Build, BuildPart
from calm_heron.builds.readiness import BuildState
from calm_heron.site.numbers import counted
from calm_heron.stock.tables import NotATable
from calm_heron.workshops.doors import WorkshopRequest, in_workshop, once_or_again, once_or_told
from calm_heron.workshops.models import Role

ROWS_SHOWN = 200
# Builds that are judged on the page of all of them, those due first; the others are named.
MOST_LISTED = 20


def build_or_404(request: WorkshopRequest, build_id: int) -> Build:
    """A build of the workshop."""
    build = Build.objects.of(request.workshop).select_related("place", "workshop").filter(pk=build_id).first()
    if build is None:
        raise Http404
    return build


def page_of(build: Build) -> str:
    """The address of a build."""
    return reverse("build", args=[build.workshop.slug, build.pk])


def stands_of(request: WorkshopRequest, build: Build) -> BuildState:
    """The state of a build, for the member who asks."""
    return readiness.state_of(allocation.saw(build), request.membership)


@in_workshop()
def builds(request: WorkshopRequest) -> HttpResponse:
    """All builds: which can be begun, and when the others."""
    rows = []
    being_made = Build.objects.of(request.workshop).filter(done_on=None).select_related("place", "workshop").order_by("due", "pk")
    for build in being_made[:MOST_LISTED]:
        state = readiness.state_of(allocation.saw(build), request.membership, at_once=readiness.AT_ONCE_EACH)
        rows.append((build, state, words.build_words(state), words.due_words(state)))
    ready = [row for row in rows if row[1].is_ready]
    soonest = min(
        (row for row in rows if row[1].ready_on and not row[1].is_ready), key=lambda row: row[1].ready_on or date.max, default=None
    )
    done = Build.objects.of(request.workshop).exclude(done_on=None).select_related("workshop").order_by("-done_on")[:20]
    return render(
        request,
        "builds/builds.html",
        {
            "rows": rows,
            "ready": ready,
            "soonest": soonest,
            "done": done,
            "later": being_made[MOST_LISTED:],
            "system": request.workshop.system,
            "part": "builds",
        },
    )


@in_workshop()
def build(request: WorkshopRequest, build_id: int) -> HttpResponse:
    """One build: its answer, its parts, and what can be done next."""
    return _page(request, build_or_404(request, build_id))


def _page(request: WorkshopRequest, build: Build, delete: DeleteForm | None = None, status: int = 200) -> HttpResponse:
    state = stands_of(request, build)
    page = {
        "build": build,
        "state": state,
        "words": words.build_words(state),
        "about": state.about,
        "system": request.workshop.system,
        "part": "build",
        "rows": [(part, words.state_of(part), words.when_of(part, state.today)) for part in state.parts],
        "form_lay": LayForm(initial={"version": build.version}, membership=request.membership),
        "form_delete": delete or DeleteForm(membership=request.membership),
        "unlaid": len(state.saw.unlaid),
        "panels": [part.part for part in state.parts if part.part.staves > 1],
        "outdoors": words.outdoor_notes(state),
    }
    return render(request, "builds/build.html", page, status=status)


def _usual(request: WorkshopRequest) -> dict[str, Any]:
    """What a new build begins with."""
    if request.workshop.system.is_inch:
        return {"kerf_m": 0.003175, "end_m": 0.0254, "sapwood_out": True}
    return {"kerf_m": 0.003, "end_m": 0.025, "sapwood_out": True}


@in_workshop(write=Role.MAKER, only=True)
def new_build(request: WorkshopRequest) -> HttpResponse:
    form = BuildForm(request.POST or None, initial=_usual(request), membership=request.membership)
    if not form.places:
        return render(request, "builds/build_form.html", {"form": None, "part": "new"})
    if form.is_valid():
        answer = once_or_again(request, form, lambda: reverse("build_parts", args=[request.workshop.slug, _made(request, form).pk]))
        if answer is not None:
            return answer
    return render(request, "builds/build_form.html", {"form": form, "part": "new"}, status=422 if form.errors else 200)


def _made(request: WorkshopRequest, form: BuildForm) -> Build:
    return actions.make_build(request.membership, **form.figures)


@in_workshop(write=Role.MAKER, only=True)
def edit_build(request: WorkshopRequest, build_id: int) -> HttpResponse:
    build = build_or_404(request, build_id)
    initial = {
        name: getattr(build, name) for name in ("name", "use_key", "due", "finish", "coats", "kerf_m", "end_m", "sapwood_out", "version")
    } | {"place": str(build.place_id), "coats": build.coats or None}
    form = BuildForm(request.POST or None, initial=initial, membership=request.membership)
    if form.is_valid():

        def do() -> str:
            return page_of(actions.change_build(request.membership, build, form.cleaned_data["version"] or 0, **form.figures))

        answer = once_or_again(request, form, do, changing=build)
        if answer is not None:
            return answer
    return render(request, "builds/build_form.html", {"form": form, "build": build, "part": "edit"}, status=422 if form.errors else 200)


@require_POST
@in_workshop(write=Role.MAKER)
def delete_build(request: WorkshopRequest, build_id: int) -> HttpResponse:
    build = build_or_404(request, build_id)
    form = DeleteForm(request.POST, membership=request.membership)
    if form.is_valid():

        def do() -> str:
            actions.delete_build(request.membership, build, let_go=form.cleaned_data["let_go"])
            messages.success(request, f"{build.name} is taken out, and its boards are free.")
            return reverse("builds", args=[request.workshop.slug])

        answer = once_or_again(request, form, do)
        if answer is not None:
            return answer
    return _page(request, build, form, 422)


def _version(request: HttpRequest) -> int:
    """The version of a build that a button was pressed on."""
    text = request.POST.get("version", "")
    return int(text) if text.isascii() and text.isdigit() and len(text) < 9 else 0


# -- parts


@in_workshop(write=Role.MAKER, only=True)
def parts(request: WorkshopRequest, build_id: int) -> HttpResponse:
    """Parts added one by one, pasted as a table, or read from CSV."""
    build = build_or_404(request, build_id)
    is_table = "table" in request.POST
    form = PartForm(request.POST if request.method == "POST" and not is_table else None, membership=request.membership)
    many = PartsForm(request.POST if is_table else None, request.FILES if is_table else None, membership=request.membership)
    page: dict[str, Any] = {"columns": parts_table.COLUMNS, "needed": parts_table.LAYOUT.needed}
    if form.is_valid():
        answer = once_or_again(request, form, lambda: _added(request, build, [form.figures], again=True))
        if answer is not None:
            return answer
    if many.is_valid():
        text = many.cleaned_data["text"]
        many.show(text)
        try:
            read = parts_table.read(text, build)
            page |= {"read": read, "shown": (read.wrong or read.rows)[:ROWS_SHOWN], "remark": many.remark}
            if "keep" in request.POST and not read.wrong:
                answer = once_or_again(request, many, lambda: _added(request, build, [row.values for row in read.rows]))
                if answer is not None:
                    return answer
        except NotATable as wrong:
            many.add_error("text", str(wrong))
    there = list(build.parts.all())
    page |= {"build": build, "form": form, "form_table": many, "there": there, "system": request.workshop.system, "part": "parts"}
    return render(request, "builds/parts.html", page, status=422 if form.errors or many.errors else 200)


def _added(request: WorkshopRequest, build: Build, figures: list[dict[str, Any]], *, again: bool = False) -> str:
    made = actions.add_parts(request.membership, build, figures)
    messages.success(request, f"{counted(len(made), 'part')} added." if len(made) > 1 else f"{made[0].name} added.")
    return reverse("build_parts", args=[request.workshop.slug, build.pk]) if again else page_of(build)


@in_workshop(write=Role.MAKER, only=True)
def edit_part(request: WorkshopRequest, build_id: int, part_id: int) -> HttpResponse:
    build = build_or_404(request, build_id)
    part = build.parts.filter(pk=part_id).select_related("stock").first()
    if part is None:
        raise Http404
    part.build = build
    initial = {name: getattr(part, name) for name in PART_FIELDS} | {
        "stock": part.stock.tag if part.stock else "",
        "version": build.version,
    }
    form = PartForm(request.POST or None, initial=initial, membership=request.membership)
    if form.is_valid():

        def do() -> str:
            actions.change_part(request.membership, part, form.cleaned_data["version"] or 0, **form.figures)
            return page_of(build)

        answer = once_or_again(request, form, do, changing=build)
        if answer is not None:
            return answer
    laid = part.cuts.count()
    return render(
        request,
        "builds/part_form.html",
        {"form": form, "build": build, "build_part": part, "laid": laid, "part": "parts"},
        status=422 if form.errors else 200,
    )


PART_FIELDS = (
    "name",
    "count",
    "species_key",
    "length_m",
    "width_m",
    "thickness_m",
    "extra_length_m",
    "extra_width_m",
    "extra_thickness_m",
    "grain",
    "staves",
    "fit",
    "figure",
    "matched",
)


@require_POST
@in_workshop(write=Role.MAKER)
def delete_part(request: WorkshopRequest, build_id: int, part_id: int) -> HttpResponse:
    build = build_or_404(request, build_id)
    part = BuildPart.objects.filter(build=build, pk=part_id).first()
    if part is None:
        raise Http404
    part.build = build

    def do() -> str:
        actions.delete_part(request.membership, part)
        messages.success(request, f"{part.name} taken out.")
        return page_of(build)

    return once_or_told(request, do, page_of(build))
