"""A board is sawn, or was not; a build is made, or is not."""

from typing import Any

from django import forms
from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from calm_heron.builds.layouts import allocation, layout_words, sawing
from calm_heron.builds.layouts.layout_views import layout_of
from calm_heron.builds.models import Held
from calm_heron.builds.views import build_or_404, page_of
from calm_heron.site import undo
from calm_heron.site.numbers import counted
from calm_heron.workshops.doors import WorkshopRequest, in_workshop, once_or_again, once_or_told
from calm_heron.workshops.fields import CalmForm
from calm_heron.workshops.models import Role
from calm_heron.workshops.refusals import Refused
from wood.written import handled_length


class SawnForm(CalmForm):
    """What came of a board: which of its pieces were cut, and which of what is left is kept."""

    version = forms.IntegerField(widget=forms.HiddenInput)
    note = forms.CharField(label="In words", max_length=200, required=False)

    def __init__(self, *args: Any, known: allocation.Saw, held: Held, **kwargs: Any) -> None:
        self.known, self.held = known, held
        super().__init__(*args, **kwargs)

    def build(self) -> None:
        for cut in self.known.by_board.get(self.held.pk, []):
            part = self.known.part_of(cut)
            self.fields[f"cut{cut.pk}"] = forms.BooleanField(
                required=False, initial=True, label=f"{part.piece_name(cut.nth)} {part.name} is cut"
            )
        for left in sawing.left_of(self.known, self.held):
            r = left.rect
            size = f"{handled_length(r.x1 - r.x0, self.system)} × {handled_length(r.y1 - r.y0, self.system)}"
            self.fields[f"left{left.number}"] = forms.BooleanField(required=False, initial=True, label=f"{size} is kept in stock")

    @property
    def rows(self) -> list[Any]:
        """What is ticked."""
        return [self[name] for name in self.fields if name.startswith(("cut", "left"))]

    def unticked(self, begins: str) -> set[int]:
        """The numbers of what was not ticked."""
        return {int(name.removeprefix(begins)) for name in self.fields if name.startswith(begins) and not self.cleaned_data[name]}


def _held(build: Any, board_id: int) -> tuple[allocation.Saw, Held | None]:
    known = allocation.saw(build)
    return known, next((held for held in known.held if held.pk == board_id), None)


@require_POST
@in_workshop(write=Role.MAKER)
def sawn(request: WorkshopRequest, build_id: int, board_id: int) -> HttpResponse:
    """It is sawn as it was planned."""
    build = build_or_404(request, build_id)
    text = request.POST.get("version", "")
    version = int(text) if text.isascii() and text.isdigit() and len(text) < 9 else 0

    def do() -> str:
        return _told(request, build, sawing.saw_board(request.membership, build, board_id, version))

    return once_or_told(request, do, layout_of(build))


@in_workshop(write=Role.MAKER, only=True)
def sawn_otherwise(request: WorkshopRequest, build_id: int, board_id: int) -> HttpResponse:
    """It is sawn otherwise: what came of it?"""
    build = build_or_404(request, build_id)
    known, held = _held(build, board_id)
    if held is None or held.pk in known.sawn_up or build.done_on:
        messages.error(request, "Someone else has sawn that board or let it go meanwhile.")
        return redirect(layout_of(build))
    form = SawnForm(request.POST or None, membership=request.membership, known=known, held=held, initial={"version": build.version})
    if form.is_valid():

        def do() -> str:
            made = sawing.saw_board(
                request.membership,
                build,
                board_id,
                form.cleaned_data["version"],
                not_cut=form.unticked("cut"),
                scrapped=form.unticked("left"),
                note=form.cleaned_data["note"].strip(),
            )
            return _told(request, build, made)

        answer = once_or_again(request, form, do, changing=build)
        if answer is not None:
            return answer
    page = {"build": build, "held": held, "form": form, "part": "layout"}
    return render(request, "builds/sawn.html", page, status=422 if form.errors else 200)


def _told(request: WorkshopRequest, build: Any, made: Any) -> str:
    tags = [offcut.piece.tag for offcut in made.offcuts.select_related("piece")]
    left = f" {', '.join(tags)} {'is' if len(tags) == 1 else 'are'} left of it, in stock." if tags else ""
    way = reverse("not_sawn", args=[request.workshop.slug, build.pk, made.board_id])
    undo.tell(request, f"{made.board.name} is sawn.{left}", way, {"do": "back"})
    return f"{layout_of(build)}#board-{made.board_id}"


@require_POST
@in_workshop(write=Role.MAKER)
def not_sawn(request: WorkshopRequest, build_id: int, board_id: int) -> HttpResponse:
    """It was not sawn after all."""
    build = build_or_404(request, build_id)
    try:
        sawing.take_back(request.membership, build, board_id)
        messages.success(request, "It is in stock again, and what was left of it is not.")
    except Refused as refused:
        messages.error(request, str(refused))
    return redirect(layout_of(build))


class MadeForm(CalmForm):
    """The build is made."""

    version = forms.IntegerField(widget=forms.HiddenInput)
    keep = forms.BooleanField(label="offcuts worth keeping go into stock", required=False, initial=True)


@in_workshop(write=Role.MAKER, only=True)
def made(request: WorkshopRequest, build_id: int) -> HttpResponse:
    """Is it made? What is laid and what is not, and what becomes of each board, before it is."""
    build = build_or_404(request, build_id)
    if build.done_on:
        return redirect(page_of(build))
    form = MadeForm(request.POST or None, membership=request.membership, initial={"version": build.version})
    if form.is_valid():

        def do() -> str:
            _, let_go = sawing.finish(request.membership, build, form.cleaned_data["version"], keep_offcuts=form.cleaned_data["keep"])
            way = reverse("build_not_made", args=[request.workshop.slug, build.pk])
            undo.tell(request, f"{build.name} is made.", way, {"held": let_go})
            return page_of(build)

        answer = once_or_again(request, form, do, changing=build)
        if answer is not None:
            return answer
    known = allocation.saw(build)
    boards = [(held, known.sawn_up.get(held.pk), known.by_board.get(held.pk, []), _left(known, held, request)) for held in known.held]
    page = {
        "build": build,
        "form": form,
        "part": "build",
        "pieces": sum(part.pieces for part in known.parts),
        "unlaid": layout_words.unlaid(known, request.workshop.system),
        "open": len(known.unlaid),
        "boards": boards,
    }
    return render(request, "builds/made.html", page, status=422 if form.errors else 200)


def _left(known: allocation.Saw, held: Held, request: WorkshopRequest) -> str:
    """What is left of a board, in words."""
    if held.pk in known.sawn_up:
        tags = [offcut.piece.tag for offcut in known.sawn_up[held.pk].offcuts.all()]
        return f"left: {', '.join(tags)}" if tags else "nothing left worth keeping"
    left = sawing.left_of(known, held)
    return counted(len(left), "offcut") + " worth keeping" if left else "nothing left worth keeping"


@require_POST
@in_workshop(write=Role.MAKER)
def not_made(request: WorkshopRequest, build_id: int) -> HttpResponse:
    """It is not made after all."""
    build = build_or_404(request, build_id)
    try:
        sawing.reopen(request.membership, build, request.POST.getlist("held")[:60])
        messages.success(request, f"{build.name} is being made again.")
    except Refused as refused:
        messages.error(request, str(refused))
    return redirect(page_of(build))
