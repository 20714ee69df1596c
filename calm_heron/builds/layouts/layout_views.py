"""Boards and what is cut from them: laid all at once or by hand, with what of each board is kept out."""

import re
from collections.abc import Sequence
from typing import Any
from urllib.parse import urlencode

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from calm_heron.builds import drawings
from calm_heron.builds.forms import FaceForm, FrameForm, LayForm, MarkForm, OfABoardForm, PlaceCutForm
from calm_heron.builds.layouts import allocation, eye, laying, layout_words
from calm_heron.builds.layouts.allocation import Saw
from calm_heron.builds.models import Build, Cut, Held, PhotoFrame
from calm_heron.builds.views import build_or_404
from calm_heron.site.dates import day
from calm_heron.stock.models import Photo, Piece
from calm_heron.workshops.doors import WorkshopRequest, in_workshop, once_or_again, once_or_told
from calm_heron.workshops.models import Role

# Boards to choose from in a list; more are found by laying all at once.
MOST_CHOICES = 60


def layout_of(build: Build) -> str:
    """The address of a build's boards."""
    return reverse("build_layout", args=[build.workshop.slug, build.pk])


@in_workshop()
def layout(request: WorkshopRequest, build_id: int) -> HttpResponse:
    """Which boards, and where they are sawn."""
    build = build_or_404(request, build_id)
    return _shown(request, build, allocation.saw(build))


def _shown(
    request: WorkshopRequest,
    build: Build,
    known: Saw,
    hand: PlaceCutForm | None = None,
    marking: MarkForm | None = None,
    framing: FrameForm | None = None,
    status: int = 200,
) -> HttpResponse:
    system = request.workshop.system
    boards = _boards(request, build, known, known.held, framing)
    page = {
        "build": build,
        "known": known,
        "boards": boards,
        "words": layout_words.describe(known, [board["sawn"] for board in boards], system),
        "system": system,
        "part": "layout",
        "panels": [part for part in known.parts if part.staves > 1],
        "form_lay": LayForm(initial={"version": build.version}, membership=request.membership),
        "form_mark": marking or (MarkForm(membership=request.membership, boards=_held(known)) if known.held else None),
        "unlaid": layout_words.unlaid(known, system),
        "unmet": eye.unmet(known, system),
        "to_buy": layout_words.to_buy(known, system),
        "form_hand": hand or (_hand(request, build, known) if request.membership.may_make and not build.done_on and known.parts else None),
    }
    return render(request, "builds/layout.html", page, status=status)


def _boards(
    request: WorkshopRequest, build: Build, known: Saw, shown: Sequence[Held], framing: FrameForm | None = None
) -> list[dict[str, Any]]:
    """Some boards of a build as they are drawn and told, each with its forms."""
    system, scale = request.workshop.system, drawings.scale_of(known.planks.values())
    boards: list[dict[str, Any]] = []
    photos = _photos(shown)
    frames = _frames(shown) if photos else {}
    for held in shown:
        sawn, walks = known.sawn(held), drawings.walked(known.planks[held.pk])
        boards.append(
            {
                "held": held,
                "sawn": sawn,
                "plank": known.planks[held.pk],
                "drawing": drawings.board(known, held, sawn, scale, system),
                "narrow": drawings.board(known, held, sawn, scale=walks[0], system=system, width=walks[1]),
                "cuts": [*(layout_words.cuts(sawn, system) if sawn else []), *layout_words.resaws(known, held, system)],
                "offcuts": layout_words.offcuts(sawn, system) if sawn else [],
                "sawing": known.sawn_up.get(held.pk),
                "form": OfABoardForm(board=held.pk, initial={"version": build.version}, membership=request.membership),
                "labels": _labels(request, known, held),
                "marks": layout_words.marks(known.planks[held.pk], system),
                "form_face": FaceForm(board=held.pk, initial={"version": build.version, "face": held.face}, membership=request.membership),
                "form_frame": framing if framing is not None and framing.board == held.pk else _frame_form(request, held, frames, photos),
                "photo": frames.get((held.piece_id, held.nth)),
            }
        )
    return boards


def _frames(shown: Sequence[Held]) -> dict[tuple[int, int], PhotoFrame]:
    """The photographs that some boards lie on, by piece and number."""
    rows = PhotoFrame.objects.filter(photo__piece__in={held.piece_id for held in shown}).select_related("photo__piece")
    rows = rows.defer("photo__jpeg")
    return {(row.photo.piece_id, row.nth): row for row in rows}


# So many of a board's photographs, the newest, are offered.
MOST_PHOTOS = 20


def _photos(shown: Sequence[Held]) -> dict[int, list[tuple[str, str]]]:
    """The photographs of some boards to choose from, by piece, the newest first."""
    results: dict[int, list[tuple[str, str]]] = {}
    rows = Photo.objects.filter(piece__in={held.piece_id for held in shown}).order_by("-at")
    for pk, piece, at in rows.values_list("pk", "piece_id", "at"):
        results.setdefault(piece, []).append((str(pk), day(at.date())))
    return {piece: choices[:MOST_PHOTOS] for piece, choices in results.items()}


def _frame_form(
    request: WorkshopRequest,
    held: Held,
    frames: dict[tuple[int, int], PhotoFrame],
    photos_of: dict[int, list[tuple[str, str]]],
    data: Any = None,
) -> FrameForm | None:
    """The form that lays a board on a photograph of it; None where there is none."""
    photos = photos_of.get(held.piece_id)
    if not photos:
        return None
    frame = frames.get((held.piece_id, held.nth))
    begins = {"photo": str(frame.photo_id), "left": frame.x0, "right": frame.x1, "top": frame.y0, "bottom": frame.y1} if frame else {}
    return FrameForm(data, board=held.pk, photos=photos, initial=begins, membership=request.membership)


def _labels(request: WorkshopRequest, known: Saw, held: Held) -> str:
    """Where the labels of what is left of a board are printed; empty where nothing is."""
    row = known.sawn_up.get(held.pk)
    tags = [offcut.piece.tag for offcut in row.offcuts.all()] if row else []
    return f"{reverse('labels', args=[request.workshop.slug])}?{urlencode({'tag': tags}, doseq=True)}" if tags else ""


def _held(known: Saw) -> list[tuple[str, str]]:
    """The boards of a build to choose from."""
    return [(board.key, board.name) for board in known.held]


def _hand(request: WorkshopRequest, build: Build, known: Saw, data: Any = None) -> PlaceCutForm:
    """The form that lays one piece by hand: what lies nowhere yet first, and the boards held before the others."""
    open_ones = known.unlaid
    laid = [(part, nth) for part in known.parts for nth in range(part.pieces) if (part, nth) not in open_ones]
    pieces = [
        (f"{part.pk}.{nth}", f"{part.piece_name(nth)} {part.name}" + ("" if at < len(open_ones) else " (laid)"))
        for at, (part, nth) in enumerate([*open_ones, *laid])
    ]
    planks = {plank.key: plank.name for plank in known.planks.values()}
    planks |= dict(allocation.names_of_free(build, known.parts, MOST_CHOICES))
    initial = {"version": build.version}
    return PlaceCutForm(data, initial=initial, membership=request.membership, pieces=pieces, boards=list(planks.items()))


@require_POST
@in_workshop(write=Role.MAKER)
def lay_out(request: WorkshopRequest, build_id: int) -> HttpResponse:
    """Lay everything, or what is still to place."""
    build = build_or_404(request, build_id)
    form = LayForm(request.POST, membership=request.membership)

    def do() -> str:
        missing = laying.lay_out(request.membership, build, form.cleaned_data["version"], anew="anew" in request.POST)
        if missing:
            known = allocation.saw(build)
            messages.error(request, layout_words.no_room(known.parts, missing))
        return layout_of(build)

    if not form.is_valid():
        return redirect(layout_of(build))
    return once_or_told(request, do, layout_of(build))


@require_POST
@in_workshop(write=Role.MAKER)
def place(request: WorkshopRequest, build_id: int) -> HttpResponse:
    """Lay one piece by hand; ``fragment=boards`` answers with the boards that changed alone."""
    build = build_or_404(request, build_id)
    if request.POST.get("fragment") == "boards":
        return _placed(request, build)
    known = allocation.saw(build)
    form = _hand(request, build, known, request.POST)
    if form.is_valid():
        typed = form.cleaned_data
        part_id, nth = _numbers(typed["piece"])
        piece_id, board = _numbers(typed["board"])
        piece = get_object_or_404(Piece.objects.of(request.workshop), pk=piece_id)

        def do() -> str:
            laying.place(request.membership, build, typed["version"], part_id, nth, piece, board, typed["x_m"], typed["y_m"])
            return layout_of(build)

        answer = once_or_again(request, form, do, changing=build)
        if answer is not None:
            return answer
    return _shown(request, build, allocation.saw(build), hand=form, status=422)


def _placed(request: WorkshopRequest, build: Build) -> HttpResponse:
    """A piece was dragged: the boards it lay and lies on, drawn anew, and what all of it comes to; a refusal in words alone (422)."""
    # What is offered to choose from is of no account for what was dragged: the action says whether it can lie there.
    typed = {name: request.POST.get(name, "")[:60] for name in ("piece", "board")}
    if not all(DRAGGED.fullmatch(text) for text in typed.values()):
        return HttpResponse(status=400)
    pieces, boards = ([(typed[name], typed[name])] for name in ("piece", "board"))
    form = PlaceCutForm(request.POST, membership=request.membership, pieces=pieces, boards=boards)
    if not form.is_valid():
        return _refused(form)
    (part_id, nth), (piece_id, board) = _numbers(typed["piece"]), _numbers(typed["board"])
    piece = get_object_or_404(Piece.objects.of(request.workshop), pk=piece_id)
    moved: list[Cut | None] = []

    def do() -> str:
        place = form.cleaned_data["x_m"], form.cleaned_data["y_m"]
        moved.extend(laying.place(request.membership, build, form.cleaned_data["version"], part_id, nth, piece, board, *place))
        return layout_of(build)

    if once_or_again(request, form, do) is None:
        return _refused(form)
    if moved and moved[0] is not None:
        build.version = moved[0].part.build.version
    known = allocation.saw(build, only_cuts=True)
    # What was sent twice was laid once, and shows where it lies.
    lies = moved or [cut for cut in known.cuts if (cut.part_id, cut.nth) == (part_id, nth)]
    changed = [held for held in known.held if held.pk in {cut.board_id for cut in lies if cut is not None}]
    page = {
        "build": build,
        "boards": _boards(request, build, known, changed),
        "order": [held.pk for held in known.held],
        "words": layout_words.describe(known, [known.sawn(held) for held in known.held], request.workshop.system),
        "unmet": eye.unmet(known, request.workshop.system),
        "system": request.workshop.system,
        "form": PlaceCutForm(initial={"version": build.version}, membership=request.membership, pieces=pieces, boards=boards),
    }
    return render(request, "builds/boards_changed.html", page)


DRAGGED = re.compile(r"\d{1,12}\.\d{1,6}", re.ASCII)


def _refused(form: PlaceCutForm) -> HttpResponse:
    """Why a piece cannot lie there, as plain text."""
    words = " ".join(str(error) for errors in form.errors.values() for error in errors)
    return HttpResponse(words, status=422, content_type="text/plain; charset=utf-8")


def _numbers(text: str) -> tuple[int, int]:
    first, _, second = text.partition(".")
    return int(first), int(second)


@require_POST
@in_workshop(write=Role.MAKER)
def take_off(request: WorkshopRequest, build_id: int, cut_id: int) -> HttpResponse:
    """Take one piece off its board."""
    build = build_or_404(request, build_id)

    def do() -> str:
        laying.take_off(request.membership, build, cut_id)
        return layout_of(build)

    return once_or_told(request, do, layout_of(build))


@require_POST
@in_workshop(write=Role.MAKER)
def mark(request: WorkshopRequest, build_id: int) -> HttpResponse:
    """Mark what of a held board is kept out."""
    build = build_or_404(request, build_id)
    known = allocation.saw(build)
    form = MarkForm(request.POST, membership=request.membership, boards=_held(known))
    if form.is_valid():
        typed = form.cleaned_data
        held = next(board for board in known.held if board.key == typed["board"])

        def do() -> str:
            sides = (typed["x0_m"], typed["x1_m"], typed["y0_m"], typed["y1_m"])
            off = laying.mark(request.membership, held.piece, held.nth, typed["kind"], *sides, build, points=typed["points"])
            if off:
                messages.success(request, f"Marked. {', '.join(off)} lay there and came off {held.name}.")
            return layout_of(build)

        answer = once_or_again(request, form, do)
        if answer is not None:
            return answer
    return _shown(request, build, allocation.saw(build), marking=form, status=422)


@require_POST
@in_workshop(write=Role.MAKER)
def face(request: WorkshopRequest, build_id: int, board_id: int) -> HttpResponse:
    """Which face of a board shows."""
    build = build_or_404(request, build_id)
    form = FaceForm(request.POST, board=board_id, membership=request.membership)
    address = f"{layout_of(build)}#board-{board_id}"

    def do() -> str:
        laying.show_face(request.membership, build, form.cleaned_data["version"], board_id, form.cleaned_data["face"])
        return address

    return once_or_told(request, do, address) if form.is_valid() else redirect(address)


@require_POST
@in_workshop(write=Role.MAKER)
def frame(request: WorkshopRequest, build_id: int, board_id: int) -> HttpResponse:
    """Where a board lies in a photograph of it."""
    build = build_or_404(request, build_id)
    known = allocation.saw(build)
    held = next((board for board in known.held if board.pk == board_id), None)
    form = _frame_form(request, held, _frames([held]), _photos([held]), request.POST) if held is not None else None
    if form is None:
        messages.error(request, "There is no photograph of that board any more.")
        return redirect(layout_of(build))
    if form.is_valid():

        def do() -> str:
            photo = form.cleaned_data["photo"]
            laying.frame_photo(request.membership, build, board_id, int(photo) if photo else None, form.sides)
            return f"{layout_of(build)}#board-{board_id}"

        answer = once_or_again(request, form, do)
        if answer is not None:
            return answer
    return _shown(request, build, known, framing=form, status=422)


@require_POST
@in_workshop(write=Role.MAKER)
def unmark(request: WorkshopRequest, build_id: int, mark_id: int) -> HttpResponse:
    """Take a mark away."""
    build = build_or_404(request, build_id)

    def do() -> str:
        laying.unmark(request.membership, mark_id)
        return layout_of(build)

    return once_or_told(request, do, layout_of(build))
