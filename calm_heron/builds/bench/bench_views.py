"""When a build can be begun, how it is milled, which wood would suit it, and its sheets."""

from typing import Any

import numpy as np
from django import forms
from django.http import HttpResponse
from django.shortcuts import render

from calm_heron.builds import drawings
from calm_heron.builds.bench import beginning, milling_plan, sheet
from calm_heron.builds.kinds import Paper, PaperTurned, SheetKind
from calm_heron.builds.models import Build
from calm_heron.builds.views import build_or_404, stands_of
from calm_heron.builds.words import FLOORS
from calm_heron.drying.words import span
from calm_heron.site.numbers import percent
from calm_heron.workshops.doors import WorkshopRequest, in_workshop
from calm_heron.workshops.fields import CalmForm, LengthField
from wood.drying.speeding_up import Step
from wood.judging.readiness import INSIDE_FROM_M
from wood.units import System
from wood.written import cut_length


class BeginBuildForm(CalmForm):
    """What is skimmed off each face, and left on each end."""

    all_have_defaults = True

    def build(self) -> None:
        del self.fields["once"]
        unit = self.system.length
        self.fields["skim_m"] = LengthField(self.system, 0.0, 0.02, required=False, label=f"Skimmed off each face, {unit}")
        self.fields["ends_m"] = LengthField(self.system, 0.0, 0.5, required=False, label=f"Left on each end, {unit}")


USUAL = {"in": {"skim_m": "1/16", "ends_m": "2"}, "mm": {"skim_m": "1.5", "ends_m": "50"}}


@in_workshop()
def begin(request: WorkshopRequest, build_id: int) -> HttpResponse:
    """How can I safely start sooner? ``fragment=begin`` gives the answer alone."""
    build = build_or_404(request, build_id)
    state = stands_of(request, build)
    usual = USUAL[request.workshop.system.length]
    form = BeginBuildForm({name: request.GET.get(name, value)[:30] for name, value in usual.items()}, membership=request.membership)
    page = {
        "build": build,
        "state": state,
        "form": form,
        "system": request.workshop.system,
        "part": "begin",
        "fragment": request.GET.get("fragment") == "begin",
        "panels": [part.part for part in state.parts if part.part.staves > 1],
        "is_floor": build.use_key in FLOORS,
    }
    if form.is_valid():
        typed = form.cleaned_data
        start = beginning.begun(state, request.membership, typed["skim_m"] or 0.0, typed["ends_m"] or 0.0)
        if start is not None:
            page |= {"words": start, "order": beginning.order_of(start) if start.boards else [], "boards": _boards(start)}
    return render(request, "builds/begun.html" if page["fragment"] else "builds/begin.html", page)


def _boards(start: beginning.Begun) -> list[tuple[Any, ...]]:
    """Each board with its days on stickers and in all ways together, in words."""
    rows = []
    for board in start.boards:
        usual, together = (board.days.get(step) for step in (Step.STICKERED, Step.ALL))
        corner = board.days.get(Step.CORNER)
        best = together if together is not None else corner
        rows.append((board, _span(usual), _span(best)))
    return rows


def _span(days: float | None) -> str:
    return "–" if days is None else "not in this air" if not np.isfinite(days) else span(days)


@in_workshop()
def milling(request: WorkshopRequest, build_id: int) -> HttpResponse:
    """What is milled when: the first pass, the rest, the last."""
    build = build_or_404(request, build_id)
    state = stands_of(request, build)
    system = request.workshop.system
    boards = milling_plan.boards(state, request.membership)
    rests = [board.rest.days for board in boards if board.rest is not None and not board.waits]
    longest = max((days for days in rests if np.isfinite(days)), default=None)
    endless = any(not np.isfinite(days) for days in rests) or (not rests and any(board.waits for board in boards))
    rows = [(board, _rest(board), _leaf(board, system), board.rest and percent(board.rest.mean)) for board in boards]
    legs = [
        (each_leg.part, [(words, leg, drawings.leg(leg), _leg_words(leg, system)) for words, leg in each_leg.ways])
        for each_leg in milling_plan.legs_of(state)
    ]
    page = {
        "build": build,
        "state": state,
        "rows": rows,
        "longest": _nights(longest) if longest is not None else "",
        "endless": endless,
        "system": system,
        "waits": [board for board in boards if board.waits],
        "legs": legs,
        "part": "milling",
        "through": [drawings.grain_through(False), drawings.grain_through(True)],
        "panels": [part.part for part in state.parts if part.part.staves > 1],
    }
    return render(request, "builds/milling.html", page)


def _nights(days: float) -> str:
    return "a night" if days <= 1 else span(days)


def _rest(board: milling_plan.MilledBoard) -> str:
    if board.rest is None:
        return board.why
    if board.waits:
        return "first it must reach its target"
    if not np.isfinite(board.rest.days):
        return "over four months: its inside is still too wet"
    if not board.gradient_read and board.now_m > INSIDE_FROM_M:
        return "read its inside first: thick wood is dry outside long before it is dry within"
    return _nights(board.rest.days)


def _leaf(board: milling_plan.MilledBoard, system: System) -> str:
    if board.leaf is None:
        return ""
    leaf = board.leaf
    cup = cut_length(abs(leaf.cup_m), system)
    side = "on the new face" if leaf.cup_m > 0 else "on the old face"
    bends = f"each leaf goes hollow {side} by {cup}" if abs(leaf.cup_m) > 2e-4 else "the leaves stay flat"
    rest = "over four months" if not np.isfinite(leaf.rest.days) else span(leaf.rest.days)
    return (
        f"Resawn into two: {percent(leaf.core)} at the new face, {percent(leaf.face)} at the old one; {bends},"
        f" {cut_length(leaf.flat_m, system)} is left flat; rests {rest}."
    )


def _leg_words(leg: Any, system: System) -> str:
    if leg.alike:
        return f"four alike faces; a diamond by {cut_length(leg.diamond_m, system)} from corner to corner"
    return f"{leg.faces[0].value} and {leg.faces[1].value} faces; {cut_length(leg.out_of_square_m, system)} out of square"


# -- sheets


class SheetForm(CalmForm):
    """Which sheet is printed, and on what."""

    all_have_defaults = True

    def build(self) -> None:
        del self.fields["once"]
        papers = sorted(Paper.choices, key=lambda choice: choice[0] != sheet.paper_of(self.system))
        self.fields["kind"] = forms.ChoiceField(required=False, label="Sheet", choices=SheetKind.choices)
        self.fields["paper"] = forms.ChoiceField(required=False, label="Paper", choices=papers)
        self.fields["turned"] = forms.ChoiceField(required=False, label="Turned", choices=PaperTurned.choices)


@in_workshop()
def sheets(request: WorkshopRequest, build_id: int) -> HttpResponse:
    """What do I print? The bench sheet, or the part of it that one place needs."""
    return _sheets(request, build_or_404(request, build_id), SheetForm(membership=request.membership))


def _sheets(request: WorkshopRequest, build: Build, form: SheetForm, status: int = 200) -> HttpResponse:
    panels = [part for part in build.parts.all() if part.staves > 1]
    return render(request, "builds/sheets.html", {"build": build, "part": "sheets", "form": form, "panels": panels}, status=status)


@in_workshop()
def bench_sheet(request: WorkshopRequest, build_id: int) -> HttpResponse:
    """A sheet as a PDF; the bench's on the usual paper where nothing is chosen."""
    build = build_or_404(request, build_id)
    form = SheetForm(request.GET, membership=request.membership)
    if not form.is_valid():
        return _sheets(request, build, form, 422)
    kind = SheetKind(form.chosen("kind"))
    content = sheet.pdf(
        stands_of(request, build), request.workshop.system, kind, Paper(form.chosen("paper")), PaperTurned(form.chosen("turned"))
    )
    return HttpResponse(
        content, content_type="application/pdf", headers={"Content-Disposition": f'inline; filename="{kind.value}-sheet-{build.pk}.pdf"'}
    )


@in_workshop()
def part_labels(request: WorkshopRequest, build_id: int) -> HttpResponse:
    """A label for each piece, as a PDF."""
    build = build_or_404(request, build_id)
    state = stands_of(request, build)
    content = sheet.labels(state, request.workshop.system)
    return HttpResponse(
        content, content_type="application/pdf", headers={"Content-Disposition": f'inline; filename="part-labels-{build.pk}.pdf"'}
    )
