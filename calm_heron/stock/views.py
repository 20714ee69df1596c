"""Pages about stock."""

from typing import Any
from urllib.parse import urlencode

from django.contrib import messages
from django.db.models import QuerySet
from django.db.models.functions import Lower
from django.http import Http404, HttpResponse, StreamingHttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from calm_heron.plugs import Question
from calm_heron.site import undo
from calm_heron.site.numbers import counted
from calm_heron.stock import actions, drawings, listing, queries, table, tables, woods
from calm_heron.stock import labels as printed
from calm_heron.stock.downloads import download
from calm_heron.stock.forms import FOR_MAKERS, BulkForm, GrainForm, LabelForm, PhotoForm, PieceForm, SampleForm, SplitForm, TableForm
from calm_heron.stock.kinds import PieceKind
from calm_heron.stock.models import Photo, Piece, Status
from calm_heron.stock.search import parse_search
from calm_heron.stock.species_forms import OwnSpeciesForm
from calm_heron.workshops.doors import WorkshopRequest, in_workshop, once, once_or_again, once_or_told
from calm_heron.workshops.models import Role
from calm_heron.workshops.refusals import Refused, require
from calm_heron.workshops.versions import Overtaken
from wood import species as published
from wood.units import INCH_M

GOOD_ROWS_SHOWN, WRONG_ROWS_SHOWN = 12, 200


def piece_or_404(request: WorkshopRequest, tag: str) -> Piece:
    piece = queries.by_tag(request.workshop, tag)
    if piece is None:
        raise Http404
    piece.workshop = request.workshop
    return piece


@in_workshop()
def species_found(request: WorkshopRequest) -> HttpResponse:
    """The species search as a fragment, for the form of a piece."""
    text = request.GET.get("species_key", "")[:60]
    page = {"result": woods.search(request.workshop, text, limit=12), "taken_as": published.trade_name(text)}
    return render(request, "stock/species_found.html", page)


@in_workshop(write=Role.MAKER, only=True)
def new_piece(request: WorkshopRequest) -> HttpResponse:
    typed = request.GET.get("kind", "")
    kind = PieceKind(typed) if typed in PieceKind.values else PieceKind.BOARD
    form = PieceForm(request.POST or None, membership=request.membership, kind=kind, by_picture=request.GET)
    if form.is_valid():

        def do() -> str:
            piece = actions.add_piece(request.membership, **form.values())
            # What is told by a scale, or by no meter, is not asked for a reading.
            own = "piece" if piece.is_lot or piece.traits.gives else "bowl" if piece.traits.is_turned else "measure"
            return reverse(own, args=[request.workshop.slug, piece.tag])

        return once(request, do)
    page = {"form": form, "grain_pictures": drawings.grain_pictures(), "kind": kind, "kinds": PieceKind}
    return render(request, "stock/piece_form.html", page, status=422 if form.errors else 200)


@in_workshop(write=Role.MAKER, only=True)
def change_piece(request: WorkshopRequest, tag: str) -> HttpResponse:
    piece = piece_or_404(request, tag)
    form = PieceForm(request.POST or None, membership=request.membership, piece=piece, by_picture=request.GET)
    if form.is_valid():

        def do() -> str:
            actions.change_piece(request.membership, piece, form.cleaned_data["version"] or 0, **form.values())
            return reverse("piece", args=[request.workshop.slug, piece.tag])

        if answer := once_or_again(request, form, do, changing=piece):
            return answer
    page = {"form": form, "piece": piece, "grain_pictures": drawings.grain_pictures()}
    return render(request, "stock/piece_form.html", page, status=422 if form.errors else 200)


@in_workshop()
def grain(request: WorkshopRequest) -> HttpResponse:
    """Compare the end of a board with drawn ones. ``fragment=grain`` gives what was found alone."""
    form = GrainForm(request.GET or None, membership=request.membership)
    typed = form.cleaned_data if form.is_valid() else {}
    piece = queries.by_tag(request.workshop, request.GET.get("piece", "")[:40])
    angle, distance = (typed.get(name) for name in ("ring_angle_deg", "pith_distance_m"))
    if angle is None:
        angle = piece.ring_angle_deg if piece else 30.0
    if distance is None:
        distance = piece.pith_distance_m if piece else 0.12
    page = {
        "of_piece": f"&{urlencode({'piece': piece.tag})}" if piece else "",
        "distance_shown": f"{distance / (INCH_M if form.system.is_inch else 0.001):g}",
        "piece": piece,
        "result": drawings.grain_found(angle, distance),
        "wall": drawings.grain_wall(angle, distance, form.system),
        "use": urlencode({"ring_angle": f"{angle:g}", "pith": form.fields["pith_distance_m"].write_plain(distance)}),  # type: ignore[attr-defined]
    }
    return render(request, "stock/grain_found.html" if request.GET.get("fragment") == "grain" else "stock/grain.html", page)


# -- many at once


def _tell_done(request: WorkshopRequest, what: str, said: str, before: dict[int, str]) -> None:
    """Report what was done to pieces, with a way to undo it: pieces used or scrapped go back into stock where all had one status before."""
    was = set(before.values())
    if what not in Status.values or len(was) != 1 or was == {what}:
        messages.success(request, said)
        return
    now = Piece.objects.of(request.workshop).filter(pk__in=before).values_list("pk", "version")
    fields: dict[str, str | list[str]] = {"do": was.pop(), "piece": [f"{pk}:{version}" for pk, version in now]}
    undo.tell(request, said, reverse("bulk", args=[request.workshop.slug]), fields)


@require_POST
@in_workshop(write=Role.HELPER)
def bulk(request: WorkshopRequest) -> HttpResponse:
    """One thing done to all chosen pieces, or to none."""
    if request.POST.get("do") in FOR_MAKERS:
        require(request.membership, Role.MAKER)
    form = BulkForm(request.POST, membership=request.membership)
    back = reverse("stock", args=[request.workshop.slug])
    typed = request.POST.get("asked", "")[:300]
    if piece := queries.by_tag(request.workshop, request.POST.get("of", "")[:40]):
        # Sent from its own page, which is where it leads back to.
        back, typed = reverse("piece", args=[request.workshop.slug, piece.tag]), ""
    chosen = urlencode([("chosen", pk) for pk, _ in form.chosen_pieces])
    again = f"{back}?{typed}{'&' if typed else ''}{chosen}"
    done_at = f"{back}?{typed}" if typed else back
    if not form.is_valid():
        messages.error(request, " ".join(message for errors in form.errors.values() for message in errors))  # type: ignore[misc]
        return redirect(again)
    what, place = form.cleaned_data["do"], form.cleaned_data["place"]
    if what == "labels":
        tags = (
            Piece.objects.of(request.workshop)
            .filter(pk__in=[pk for pk, _ in form.chosen_pieces])
            .order_by("tag")
            .values_list("tag", flat=True)
        )
        return redirect(f"{reverse('labels', args=[request.workshop.slug])}?{urlencode([('tag', tag) for tag in tags])}")
    done = {
        "move": lambda: f"{actions.move(request.membership, form.chosen_pieces, place)} moved to {place}.",
        "seal": lambda: f"{actions.seal_ends(request.membership, form.chosen_pieces)} noted as sealed.",
        **{
            status.value: lambda status=status: (  # type: ignore[misc]
                f"{actions.set_status(request.membership, form.chosen_pieces, status)} marked: {status.label.lower()}."
            )
            for status in Status
        },
    }

    def do() -> str:
        before = dict(Piece.objects.of(request.workshop).filter(pk__in=[pk for pk, _ in form.chosen_pieces]).values_list("pk", "status"))
        said = done[what]()  # type: ignore[no-untyped-call]
        _tell_done(request, what, said, before)
        return done_at

    try:
        return once(request, do)
    except Overtaken as overtaken:
        messages.error(request, f"{overtaken.what_happened} Nothing was done; look again, and do it again if it is still meant.")
    except Refused as refused:
        messages.error(request, str(refused))
    return redirect(again)


def _answering(request: WorkshopRequest) -> QuerySet[Piece]:
    """The pieces that answer the search in an address, the same as the list shows for it."""
    return listing.listed(Question(request.workshop, request.GET), parse_search(request.GET.get("q", "")[:100]))


def _for_labels(request: WorkshopRequest) -> list[Piece]:
    """The pieces named in an address by their tags, or all that answer a search."""
    if tags := request.GET.getlist("tag")[: printed.MOST_LABELS]:
        result = (
            Piece.objects.of(request.workshop)
            .annotate(small=Lower("tag"))
            .filter(small__in=[tag.casefold() for tag in tags])
            .order_by("tag")
        )
    else:
        result = _answering(request)
    return list(result.select_related("place")[: printed.MOST_LABELS])


@in_workshop()
def labels(request: WorkshopRequest) -> HttpResponse:
    pieces = _for_labels(request)
    form = LabelForm(membership=request.membership)
    return render(request, "stock/labels_page.html", {"form": form, "pieces": pieces, "most": printed.MOST_LABELS})


@in_workshop()
def labels_pdf(request: WorkshopRequest) -> HttpResponse:
    form = LabelForm(request.GET, membership=request.membership)
    pieces = _for_labels(request)
    if not form.is_valid():
        return render(request, "stock/labels_page.html", {"form": form, "pieces": pieces, "most": printed.MOST_LABELS}, status=422)
    sheet = printed.SHEETS[form.cleaned_data["sheet"]]

    def address_of(piece: Piece) -> str:
        return request.build_absolute_uri(reverse("piece", args=[request.workshop.slug, piece.tag]))

    content = printed.pdf(pieces, sheet, request.workshop.system, address_of, (form.cleaned_data["first"] or 1) - 1).output()
    return HttpResponse(bytes(content), content_type="application/pdf", headers={"Content-Disposition": 'inline; filename="labels.pdf"'})


# -- tables


@in_workshop()
def table_out(request: WorkshopRequest) -> StreamingHttpResponse:
    pieces = _answering(request)
    return download("stock.csv", table.write(pieces.iterator(chunk_size=1000), request.workshop.system))


@in_workshop(write=Role.MAKER, only=True)
def table_in(request: WorkshopRequest) -> HttpResponse:
    """A table of pieces: looked at first, kept when it is meant. Rows that cannot be taken stay to be mended."""
    form = TableForm(request.POST or None, request.FILES or None, membership=request.membership)
    page: dict[str, Any] = {"columns": table.COLUMNS, "needed": table.LAYOUT.needed}
    status = 200
    if form.is_valid():
        text = form.cleaned_data["text"]
        form.show(text)
        try:
            read = table.read(text, request.workshop)
            if "keep" in request.POST and read.right and (not read.wrong or "some" in request.POST):
                answer = _keep_table(request, form, read)
                if answer and not read.wrong:
                    return answer
                if answer:
                    read = table.read(read.left(), request.workshop)
            page |= {"read": read, "good": read.right[:GOOD_ROWS_SHOWN], "bad": read.wrong[:WRONG_ROWS_SHOWN], "remark": form.remark}
            form.show(read.text)
        except tables.NotATable as wrong:
            form.add_error("text", str(wrong))
    if form.errors:
        status = 422
    return render(request, "stock/table_in.html", page | {"form": form}, status=status)


def _keep_table(request: WorkshopRequest, form: TableForm, read: tables.TypedTable) -> HttpResponse | None:
    def do() -> str:
        made = table.keep(request.membership, read.right)
        messages.success(request, f"{counted(len(made), 'piece')} added, {made[0].tag} to {made[-1].tag}.")
        return reverse("stock", args=[request.workshop.slug])

    return once_or_again(request, form, do)


# -- lots


@in_workshop(write=Role.MAKER, only=True)
def split(request: WorkshopRequest, tag: str) -> HttpResponse:
    lot = piece_or_404(request, tag)
    form = SplitForm(request.POST or None, membership=request.membership, lot=lot)
    if form.is_valid():
        cleaned = form.cleaned_data

        def do() -> str:
            made = actions.split_lot(
                request.membership, lot, cleaned["version"], cleaned["count"], [item.pk for item in cleaned["samples"]]
            )
            return reverse("piece", args=[request.workshop.slug, made.tag])

        if answer := once_or_again(request, form, do, changing=lot):
            return answer
    return render(request, "stock/split.html", {"form": form, "lot": lot}, status=422 if form.errors else 200)


def _on_a_lot(request: WorkshopRequest, lot: Piece, act: Any) -> HttpResponse:
    """One press on a lot's page: done, or the reason why not."""

    def page_of(tag: str) -> str:
        return reverse("piece", args=[request.workshop.slug, tag])

    return once_or_told(request, lambda: page_of(act().tag), page_of(lot.tag))


@require_POST
@in_workshop(write=Role.MAKER)
def take(request: WorkshopRequest, tag: str) -> HttpResponse:
    """Take one piece out of a lot; ``sample`` names a sample board."""
    lot = piece_or_404(request, tag)
    named = request.POST.get("sample", "")
    if "\x00" in named:
        raise Http404
    sample = get_object_or_404(lot.samples, tag__iexact=named) if named else None
    version = request.POST.get("version", "")
    return _on_a_lot(
        request,
        lot,
        lambda: actions.take_out(request.membership, lot, int(version) if version.isdecimal() and len(version) < 10 else 0, sample),
    )


@require_POST
@in_workshop(write=Role.HELPER)
def sample(request: WorkshopRequest, tag: str) -> HttpResponse:
    lot = piece_or_404(request, tag)
    form = SampleForm(request.POST, membership=request.membership)
    part = form.cleaned_data["part"] if form.is_valid() else ""
    return _on_a_lot(request, lot, lambda: actions.add_sample(request.membership, lot, part))


# -- photographs


@require_POST
@in_workshop(write=Role.HELPER)
def photos(request: WorkshopRequest, tag: str) -> HttpResponse:
    piece = piece_or_404(request, tag)
    form = PhotoForm(request.POST, request.FILES, membership=request.membership)
    page = reverse("piece", args=[request.workshop.slug, piece.tag])
    if not form.is_valid():
        messages.error(request, " ".join(form.errors.get("photo", ["Choose a photograph first."])))  # type: ignore[arg-type]
        return redirect(page)

    def do() -> str:
        actions.add_photo(request.membership, piece, form.cleaned_data["photo"])
        return page + "#photos"

    return once_or_told(request, do, page)


@in_workshop()
def photo(request: WorkshopRequest, tag: str, photo_id: int) -> HttpResponse:
    result = get_object_or_404(Photo.objects.of(request.workshop), pk=photo_id, piece__tag__iexact=tag)
    headers = {"Cache-Control": "private, max-age=31536000, immutable", "X-Content-Type-Options": "nosniff"}
    return HttpResponse(bytes(result.jpeg), content_type="image/jpeg", headers=headers)


@require_POST
@in_workshop(write=Role.MAKER)
def remove_photo(request: WorkshopRequest, tag: str, photo_id: int) -> HttpResponse:
    result = get_object_or_404(Photo.objects.of(request.workshop).select_related("piece"), pk=photo_id, piece__tag__iexact=tag)
    actions.remove_photo(request.membership, result)
    return redirect("piece", request.workshop.slug, result.piece.tag)


# -- the species book


@in_workshop()
def species_book(request: WorkshopRequest) -> HttpResponse:
    text = request.GET.get("q", "")[:60]
    result = woods.search(request.workshop, text, limit=40) if text else []
    page = {"text": text, "result": result, "own": queries.own_species(request.workshop), "count": len(published.all_species())}
    return render(request, "stock/species_book.html", page)


@in_workshop(write=Role.MAKER, only=True)
def new_species(request: WorkshopRequest) -> HttpResponse:
    return _species_page(request, None, None)


@in_workshop(write=Role.MAKER, only=True)
def own_figures(request: WorkshopRequest, key: str) -> HttpResponse:
    """Figures of one's own, for a published species or for one that is in no table."""
    row = queries.own_species(request.workshop).filter(key=key).first()
    there = published.all_species().get(key)
    if row is None and there is None:
        raise Http404
    return _species_page(request, there, row)


def _species_page(request: WorkshopRequest, there: published.Species | None, row: Any) -> HttpResponse:
    form = OwnSpeciesForm(request.POST or None, membership=request.membership, published=there, row=row)
    if form.is_valid():

        def do() -> str:
            species = actions.keep_species(request.membership, row, form.cleaned_data["version"] or 0, **form.values())
            return reverse("species_book", args=[request.workshop.slug]) + "?" + urlencode({"q": species.common_name})

        if answer := once_or_again(request, form, do, changing=row):
            return answer
    page = {"form": form, "there": there, "row": row}
    return render(request, "stock/species_form.html", page, status=422 if form.errors else 200)


@require_POST
@in_workshop(write=Role.MAKER)
def drop_species(request: WorkshopRequest, key: str) -> HttpResponse:
    row = get_object_or_404(queries.own_species(request.workshop), key=key)
    try:
        actions.drop_species(request.membership, row)
        messages.success(
            request,
            f"Dropped. {row.common_name} goes by the published figures again." if row.is_published else f"{row.common_name} is dropped.",
        )
    except Refused as refused:
        messages.error(request, str(refused))
    return redirect("species_book", request.workshop.slug)
