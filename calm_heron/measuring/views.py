"""Pages about measuring."""

from dataclasses import dataclass, field
from typing import Any

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from calm_heron.measuring import actions, drawings, instruments, queries, strip
from calm_heron.measuring.actions import Taken
from calm_heron.measuring.forms import (
    USUAL_SCALE_STEP_KG,
    CheckForm,
    CorrectForm,
    MeterForm,
    OvenTestForm,
    SlabTestForm,
    SpotForm,
    StripForm,
    WeightForm,
)
from calm_heron.measuring.models import Meter, Reading
from calm_heron.measuring.words import warning_sentences
from calm_heron.site import undo
from calm_heron.site.numbers import counted, points
from calm_heron.stock import queries as stock
from calm_heron.stock.models import Piece
from calm_heron.stock.views import piece_or_404
from calm_heron.workshops.doors import WorkshopRequest, in_workshop, once, once_or_again
from calm_heron.workshops.models import Role
from calm_heron.workshops.refusals import Refused
from wood.measuring.meters import Corrected
from wood.measuring.readings import Warn


@dataclass
class PreviewLine:
    """A strip line with what it will record, before it is kept."""

    line: strip.Line
    piece: Piece | None
    corrected: list[tuple[strip.Spoken, Corrected]]
    warnings: list[str]
    taken: list[Taken] = field(default_factory=list)
    temperature_c: float | None = None


def preview_lines(request: WorkshopRequest, form: StripForm) -> list[PreviewLine]:
    """Match the lines of a valid strip to pieces and correct their readings; unknown tags get their error."""
    lines = form.cleaned_data["strip"]
    pieces = stock.by_tags(request.workshop, [line.tag for line in lines])
    temperatures = queries.wood_temperatures(request.workshop)
    meter = form.cleaned_data["meter"]
    understood = []
    for line in lines:
        piece = pieces.get(line.tag.casefold())
        if not line.tag and not line.error:
            line.error = "Which piece is this? Choose it here, or write its tag in front."
            line.untagged = True
        elif piece is None and not line.error:
            line.error = f"No piece here has the tag “{line.tag}”. Tags are on the wood and in Stock."
        if piece is not None and piece.species.holds_no_moisture_content and not line.error:
            line.error = actions.NOT_WOOD
        made = PreviewLine(line, piece, [], [])
        if piece is not None and not line.error:
            temperature = form.cleaned_data["wood_temperature"]
            if temperature is None:
                temperature = line.wood_temperature_c
            if temperature is None:
                temperature = queries.wood_temperature(piece, temperatures)[0]
            made.temperature_c = temperature
            made.taken = [actions.as_taken(reading) for reading in line.readings]
            made.corrected = [
                (reading, actions.correct(piece, meter, taken, temperature, meter.as_set(form.cleaned_data.get("at"))))
                for reading, taken in zip(line.readings, made.taken, strict=True)
            ]
            codes = [code for _, corrected in made.corrected for code in corrected.warnings]
            if any(reading.at_end for reading in line.readings):
                codes.append(Warn.NEAR_END)
            made.warnings = warning_sentences(codes)
        understood.append(made)
    return understood


@in_workshop(write=Role.HELPER)
def read(request: WorkshopRequest) -> HttpResponse:
    """The reading strip as a page, and where every strip is sent. All lines are kept, or none."""
    sent = request.POST or ({"strip": request.GET["strip"]} if "strip" in request.GET else None)
    form = StripForm(request.POST or None, membership=request.membership, initial=sent)
    understood = preview_lines(request, form) if form.is_valid() else []
    wrong = [item.line for item in understood if item.line.error]
    if wrong:
        form.add_error(
            "strip", f"Nothing has been saved yet. {len(wrong)} of {len(understood)} lines cannot be read; they are marked below."
        )
    elif understood:
        readings: list[Reading] = []

        def do() -> str:
            for item in understood:
                readings.extend(
                    actions.record_readings(
                        request.membership,
                        item.piece,  # type: ignore[arg-type]
                        form.cleaned_data["meter"],
                        item.taken,
                        item.temperature_c,  # type: ignore[arg-type]
                        form.cleaned_data["at"],
                    )
                )
            if len(understood) == 1:
                return reverse("piece", args=[request.workshop.slug, understood[0].piece.tag])  # type: ignore[union-attr]
            return reverse("today", args=[request.workshop.slug])

        answer = once(request, do)
        count = sum(len(item.line.readings) for item in understood)
        _tell_kept(
            request,
            readings,
            f"Saved: {counted(count, 'reading')} on {counted(len(understood), 'piece')}.",
        )
        return answer
    have_meter = queries.meters_of(request.workshop).exists()
    newest = Reading.objects.of(request.workshop).filter(struck=False).select_related("piece", "by").order_by("-at", "-id")[:MOST_NEWEST]
    page = {"form": form, "understood": understood, "have_meter": have_meter, "newest": newest, **_offered(request, understood)}
    return render(request, "measuring/read.html", page, status=422 if form.errors else 200)


@in_workshop()
def preview(request: WorkshopRequest) -> HttpResponse:
    """What the strip would record, as a fragment; nothing is kept."""
    form = StripForm(request.GET, membership=request.membership)
    understood = preview_lines(request, form) if form.is_valid() else []
    return render(request, "measuring/preview.html", {"form": form, "understood": understood, **_offered(request, understood)})


def _offered(request: WorkshopRequest, understood: list[PreviewLine]) -> dict[str, Any]:
    """For a line without a tag: the pieces read last, one of which it may be."""
    if not any(item.line.untagged for item in understood):
        return {}
    return {"recent": queries.read_last(request.workshop, MOST_OFFERED)}


MOST_OFFERED = 8
# So many of the newest stand on the page where readings are typed, to be put right.
MOST_NEWEST = 8


def _tell_kept(request: WorkshopRequest, readings: list[Reading], text: str) -> None:
    """Say what was kept, with the way to take it out again; a form that had been carried out before has kept nothing new."""
    if not readings:
        messages.success(request, text)
        return
    address = reverse("undo_readings", args=[request.workshop.slug])
    undo.tell(request, text, address, {"do": "strike", "reading": [str(reading.pk) for reading in readings]})


@require_POST
@in_workshop(write=Role.HELPER)
def undo_readings(request: WorkshopRequest) -> HttpResponse:
    """Take readings out that were just kept, or (``do=restore``) put back what was just taken out."""
    ids = [int(pk) for pk in request.POST.getlist("reading") if pk[:18].isdigit()]
    of = Reading.objects.of(request.workshop).filter(pk__in=ids).values_list("piece__tag", flat=True).distinct()
    tags = list(of[:2])
    try:
        if request.POST.get("do") == "restore":
            count, said = actions.restore_readings(request.membership, ids), "Put back"
        else:
            count, said = actions.strike_readings(request.membership, ids), "Struck out"
        messages.success(request, f"{said}: {counted(count, 'reading')}. The journal has both.")
    except Refused as refused:
        messages.error(request, str(refused))
    return redirect("piece", request.workshop.slug, tags[0]) if len(tags) == 1 else redirect("today", request.workshop.slug)


@in_workshop(write=Role.HELPER)
def measure(request: WorkshopRequest, tag: str) -> HttpResponse:
    """Tap the board where you read it."""
    piece = piece_or_404(request, tag)
    if piece.species.holds_no_moisture_content:
        page = {"piece": piece, "form": SlabTestForm(membership=request.membership), "tests": piece.slab_tests.order_by("-at")[:12]}
        return render(request, "measuring/slab.html", page)
    temperature, source = queries.wood_temperature(piece, queries.wood_temperatures(request.workshop))
    form = SpotForm(request.POST or None, membership=request.membership, piece=piece)
    if form.is_valid():
        cleaned = form.cleaned_data
        warm = temperature if cleaned["wood_temperature"] is None else cleaned["wood_temperature"]

        def do() -> str:
            readings.extend(actions.record_readings(request.membership, piece, cleaned["meter"], [form.taken()], warm, cleaned["at"]))
            return reverse("measure", args=[request.workshop.slug, piece.tag])

        readings: list[Reading] = []
        answer = once(request, do)
        if readings:
            _tell_kept(request, readings, f"Saved: {points(readings[0].raw)}% on {piece.tag}.")
        return answer
    return render(
        request,
        "measuring/measure.html",
        measure_page(request, piece, form=form, temperature=temperature, temperature_source=source),
        status=422 if form.errors else 200,
    )


def measure_page(request: WorkshopRequest, piece: Piece, **more: Any) -> dict[str, Any]:
    sitting = queries.sitting(piece)
    return {
        "piece": piece,
        "maps": [] if piece.is_lot else drawings.board_maps(piece, sitting),
        "sitting": sitting,
        "newest": sitting[-1] if sitting else None,
        "newest_warnings": warning_sentences(sitting[-1].warnings) if sitting else [],
        "weight_form": more.pop("weight_form", None) or WeightForm(membership=request.membership, piece=piece),
        "oven_form": more.pop("oven_form", None) or OvenTestForm(membership=request.membership),
        "have_meter": queries.meters_of(request.workshop).exists(),
        **more,
    }


def _by_scale(request: WorkshopRequest, tag: str, name: str, form_class: Any, record: Any) -> HttpResponse:
    """Weighing and oven test go the same way: form, action, back to the measuring page or on to the verdict."""
    piece = piece_or_404(request, tag)
    extra = {"piece": piece} if form_class is WeightForm else {}
    form = form_class(request.POST, membership=request.membership, **extra)
    if form.is_valid():
        values = {key: value for key, value in form.cleaned_data.items() if key != "once"}
        values["scale_step_kg"] = USUAL_SCALE_STEP_KG if values["scale_step_kg"] is None else values["scale_step_kg"]

        readings: list[Reading] = []

        def do() -> str:
            readings.append(record(request.membership, piece, **values))
            return reverse("piece", args=[request.workshop.slug, piece.tag])

        if answer := once_or_again(request, form, do):
            _tell_kept(request, readings, f"Saved: {points(readings[0].moisture)}% on {piece.tag}, by weight." if readings else "Kept.")
            return answer
    temperature, source = queries.wood_temperature(piece, queries.wood_temperatures(request.workshop))
    spot = SpotForm(membership=request.membership, piece=piece)
    page = measure_page(request, piece, form=spot, temperature=temperature, temperature_source=source, **{name: form})
    return render(request, "measuring/measure.html", page, status=422)


@require_POST
@in_workshop(write=Role.HELPER)
def slab_test(request: WorkshopRequest, tag: str) -> HttpResponse:
    """What a concrete subfloor's own test showed."""
    piece = piece_or_404(request, tag)
    form = SlabTestForm(request.POST, membership=request.membership)
    if form.is_valid():
        cleaned = form.cleaned_data

        def do() -> str:
            actions.record_slab_test(request.membership, piece, cleaned["how"], cleaned["shown"], cleaned["allowed"], cleaned["at"])
            return reverse("piece", args=[request.workshop.slug, piece.tag])

        if answer := once_or_again(request, form, do):
            return answer
    return render(request, "measuring/slab.html", {"piece": piece, "form": form}, status=422)


@require_POST
@in_workshop(write=Role.HELPER)
def weigh(request: WorkshopRequest, tag: str) -> HttpResponse:
    return _by_scale(request, tag, "weight_form", WeightForm, actions.record_weight)


@require_POST
@in_workshop(write=Role.HELPER)
def oven(request: WorkshopRequest, tag: str) -> HttpResponse:
    return _by_scale(request, tag, "oven_form", OvenTestForm, actions.record_oven_test)


@in_workshop()
def reading(request: WorkshopRequest, tag: str, reading_id: int) -> HttpResponse:
    """How one reading came to what it means, and what can be done about it."""
    piece = piece_or_404(request, tag)
    of_piece = Reading.objects.of(request.workshop).filter(piece=piece, struck=False)
    shown = get_object_or_404(of_piece.select_related("meter", "by", "superseded_by__by"), pk=reading_id)
    shown.piece = piece
    template = "measuring/reading_how.html" if request.GET.get("fragment") == "how" else "measuring/reading.html"
    return render(request, template, {"piece": piece, "reading": shown})


@require_POST
@in_workshop(write=Role.HELPER)
def strike(request: WorkshopRequest, tag: str, reading_id: int) -> HttpResponse:
    piece = piece_or_404(request, tag)
    reading = get_object_or_404(Reading.objects.of(request.workshop).filter(piece=piece, struck=False), pk=reading_id)
    try:
        actions.strike_reading(request.membership, reading)
        address = reverse("undo_readings", args=[request.workshop.slug])
        undo.tell(request, "Struck out. It stays in the journal.", address, {"do": "restore", "reading": str(reading.pk)})
    except Refused as refused:
        messages.error(request, str(refused))
    return redirect("piece", request.workshop.slug, piece.tag)


@in_workshop(write=Role.HELPER, only=True)
def correct(request: WorkshopRequest, tag: str, reading_id: int) -> HttpResponse:
    """Put right what was typed wrongly; the old entry stays to be seen."""
    piece = piece_or_404(request, tag)
    reading = get_object_or_404(
        Reading.objects.of(request.workshop).filter(piece=piece, struck=False).select_related("meter"), pk=reading_id
    )
    form = CorrectForm(request.POST or None, membership=request.membership, reading=reading)
    if form.is_valid():
        cleaned = form.cleaned_data

        def do() -> str:
            actions.correct_reading(
                request.membership,
                reading,
                raw=cleaned.get("raw"),
                wet_mass_kg=cleaned.get("mass_kg"),
                layer=cleaned.get("layer"),
                meter=cleaned.get("meter"),
                wood_temperature_c=cleaned.get("wood_temperature"),
                piece=cleaned["tag"],
            )
            return reverse("piece", args=[request.workshop.slug, cleaned["tag"].tag])

        if answer := once_or_again(request, form, do):
            return answer
    page = {"form": form, "piece": piece, "reading": reading}
    return render(request, "measuring/correct.html", page, status=422 if form.errors else 200)


@in_workshop()
def meters(request: WorkshopRequest) -> HttpResponse:
    return render(request, "measuring/meters.html", {"meters": queries.instruments(request.workshop)})


@in_workshop(write=Role.MAKER, only=True)
def new_meter(request: WorkshopRequest) -> HttpResponse:
    return _meter_page(request, None)


@in_workshop(write=Role.MAKER, only=True)
def change_meter(request: WorkshopRequest, meter_id: int) -> HttpResponse:
    return _meter_page(request, get_object_or_404(Meter.objects.of(request.workshop), pk=meter_id))


def _meter_page(request: WorkshopRequest, meter: Meter | None) -> HttpResponse:
    form = MeterForm(request.POST or None, membership=request.membership, meter=meter)
    if form.is_valid():

        def do() -> str:
            instruments.keep_meter(request.membership, meter, form.cleaned_data["version"] or 0, **form.values())
            return reverse("meters", args=[request.workshop.slug])

        if answer := once_or_again(request, form, do, changing=meter):
            return answer
    return render(request, "measuring/meter_form.html", {"form": form, "meter": meter}, status=422 if form.errors else 200)


@in_workshop(write=Role.HELPER)
def check_meter(request: WorkshopRequest, meter_id: int) -> HttpResponse:
    meter = get_object_or_404(Meter.objects.of(request.workshop), pk=meter_id)
    form = CheckForm(request.POST or None, membership=request.membership, meter=meter)
    if form.is_valid():
        cleaned = form.cleaned_data

        def do() -> str:
            instruments.check_meter(
                request.membership, meter, cleaned["of"], cleaned["expected"], cleaned["shown"], day_only=cleaned.get("day_only", False)
            )
            return reverse("check_meter", args=[request.workshop.slug, meter.pk])

        if answer := once_or_again(request, form, do):
            return answer
    page = {"form": form, "meter": meter, "checks": meter.checks.select_related("by").order_by("-at")[:40]}
    return render(request, "measuring/check.html", page, status=422 if form.errors else 200)


@require_POST
@in_workshop(write=Role.MAKER)
def retire_meter(request: WorkshopRequest, meter_id: int) -> HttpResponse:
    """Retire an instrument, take it back, or remove one that nothing refers to."""
    meter = get_object_or_404(Meter.objects.of(request.workshop), pk=meter_id)
    try:
        if "remove" in request.POST:
            instruments.remove_meter(request.membership, meter)
            messages.success(request, f"{meter.name} is removed.")
        else:
            instruments.retire_meter(request.membership, meter, "back" not in request.POST)
            messages.success(request, f"{meter.name} is {'retired; its readings stay' if meter.retired else 'back in use'}.")
    except Refused as refused:
        messages.error(request, str(refused))
    return redirect("meters", request.workshop.slug)
