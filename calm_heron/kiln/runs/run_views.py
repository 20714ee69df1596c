"""Loads at work: what runs, chambers, beginning, weighing, noting, ending, and what was found."""

from collections.abc import Callable
from dataclasses import astuple
from functools import partial
from typing import Any

from django.contrib import messages
from django.http import Http404, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_POST

from calm_heron.kiln import actions, drawings, outcomes, planning, words
from calm_heron.kiln.kinds import ChamberKind, ChargedBy, PlateAir
from calm_heron.kiln.models import Chamber, Load, LoadEvent
from calm_heron.kiln.runs import run_words, running
from calm_heron.kiln.runs.run_forms import (
    KNOWN_OF_IT,
    BeginLoadForm,
    ChamberAirForm,
    ChamberForm,
    DegradeForm,
    EndForm,
    LoadSampleForm,
    NoteForm,
    SectionsForm,
    WeighSamplesForm,
)
from calm_heron.measuring.wood_now import wood_now
from calm_heron.site import undo
from calm_heron.site.numbers import points
from calm_heron.stacks.actions import CameOut
from calm_heron.stacks.forms import OutcomeForm
from calm_heron.workshops import spell_views
from calm_heron.workshops.doors import WorkshopRequest, in_workshop, once_or_again
from calm_heron.workshops.fields import CalmForm
from calm_heron.workshops.models import Membership, Role
from calm_heron.workshops.refusals import Refused
from wood.air.psychrometrics import from_wet_bulb
from wood.errors import OutOfRange
from wood.kiln.chambers import STICKER_M
from wood.sizes import FOUR_QUARTER_GREEN_M


def load_of(request: WorkshopRequest, load_tag: str) -> Load:
    load = Load.objects.of(request.workshop).select_related("chamber", "chamber__place").filter(tag__iexact=load_tag).first()
    if load is None:
        raise Http404
    return load


@in_workshop()
def kiln(request: WorkshopRequest) -> HttpResponse:
    """What runs, and what wants somebody?"""
    rows = running.loads_of(request.workshop)
    runs = [(load, running.now(load)) for load in rows if load.runs]
    system = request.workshop.system
    page = {
        "runs": [
            (
                load,
                result,
                run_words.setting(result, system) if result else None,
                [run_words.alarm(code, data, system) for code, data in result.alarms] if result else [],
            )
            for load, result in runs
        ],
        "over": [load for load in rows if not load.runs],
        "chambers": planning.chambers_of(request.workshop),
    }
    return render(request, "kiln/kiln.html", page)


@in_workshop(write=Role.MAKER, only=True)
def chamber(request: WorkshopRequest, chamber_id: int = 0) -> HttpResponse:
    """Add a kiln, or change one."""
    chamber = Chamber.objects.of(request.workshop).filter(pk=chamber_id).first() if chamber_id else None
    if chamber_id and chamber is None:
        raise Http404
    initial = _as_known(chamber) if chamber else {}
    form = ChamberForm(request.POST or None, membership=request.membership, initial=initial)
    if form.is_valid():

        def do() -> str:
            row = actions.keep_chamber(request.membership, chamber, form.cleaned_data["version"] or 0, **form.figures)
            messages.success(request, f"{row.name} is kept.")
            return reverse("kiln", args=[request.workshop.slug])

        answer = once_or_again(request, form, do, changing=chamber)
        if answer is not None:
            return answer
    page = {"form": form, "chamber": chamber, "sticker_m": STICKER_M}
    if chamber is not None and chamber.inside is not None:
        page["holds"] = chamber.inside.holds_m3(FOUR_QUARTER_GREEN_M)
    return render(request, "kiln/chamber.html", page, status=422 if form.errors else 200)


def _as_known(chamber: Chamber) -> dict[str, Any]:
    """What the form shows of a chamber; a compressor that was kept by its water alone as its plate would have it."""
    names = (*KNOWN_OF_IT, "name", "kind", "load_m3", "hottest_c", "heat_kw", "plate_air", "baffles", "sprays", "kwh_price", "version")
    known = {name: getattr(chamber, name) for name in names} | {"place": chamber.place_id}
    if chamber.plate_litres is None and chamber.kind == ChamberKind.DEHUMIDIFIER:
        known |= {"plate_litres": chamber.litres_a_day, "plate_air": PlateAir.WARM}
    return known


@in_workshop(write=Role.MAKER, only=True)
def begin(request: WorkshopRequest) -> HttpResponse:
    """Begin a load."""
    chosen = request.GET.get("chamber", "")
    initial = {
        "lots": request.GET.get("lots", "")[:400],
        "chamber": int(chosen) if chosen.isdecimal() and len(chosen) < 10 else None,
        "wanted": 0.08,
        "even": True,
        "condition": True,
    }
    form = BeginLoadForm(request.POST or None, membership=request.membership, initial=initial)
    if form.is_valid():
        answer = once_or_again(request, form, lambda: _begin(request, form))
        if answer is not None:
            return answer
    return render(
        request,
        "kiln/begin.html",
        {"form": form, "none": not form.fields["chamber"].queryset.exists()},  # type: ignore[attr-defined]
        status=422 if form.errors else 200,
    )


def _begin(request: WorkshopRequest, form: BeginLoadForm) -> str:
    typed = form.cleaned_data
    lots = [(piece, form.start_of(piece)) for piece in typed["lots"]]
    settings = {name: typed[name] for name in ("wanted", "care", "even", "condition", "whose", "price", "weighed_in_kg")}
    now = timezone.now()
    load = actions.begin_load(
        request.membership,
        lots,
        typed["chamber"],
        typed["began_on"] or now,
        tag=typed["tag"].strip(),
        charged_by=typed["charged_by"] or ChargedBy.VOLUME,
        steps=[[item.until, item.dry_bulb_c, item.wet_bulb_c] for item in typed["own"] or []],
        joined_at=None if typed["now"] is None else now,
        **settings,
    )
    foretold = running.foretold(load)
    if foretold is not None:
        actions.foretell(request.membership, load, *foretold)
    messages.success(request, f"{load.tag} has begun. Cut its samples next.")
    return reverse("load", args=[request.workshop.slug, load.tag])


@in_workshop()
def load(request: WorkshopRequest, load_tag: str) -> HttpResponse:
    """What do I set now, and how does it go?"""
    return render(request, "kiln/run.html", shown_load(request, load_of(request, load_tag)))


def _events(load: Load, current: running.LoadNow | None) -> list[LoadEvent]:
    """What happened to a load, what goes on first, then the newest."""
    events = list(load.events.standing().select_related("by")) if current is None else list(current.events)
    return sorted(events, key=lambda event: (event.goes_on, event.at), reverse=True)[:30]


def shown_load(request: WorkshopRequest, load: Load, **forms: CalmForm) -> dict[str, Any]:
    """A load as its page shows it; ``forms`` are those that were sent and are shown again."""
    system, by = request.workshop.system, request.membership
    current = running.now(load)
    typed: Any = forms.get("form_oven")
    page: dict[str, Any] = {
        "load": load,
        "current": current,
        "wanted": points(load.wanted),
        "lots": [(row, None) for row in load.lots.select_related("piece").order_by("piece__tag")],
        "events": _events(load, current),
        "degrade": list(load.degrade.all()),
        "counted": running.counted(load),
        "in_the_oven": [
            (sample, typed if typed is not None and typed.sample == sample else SectionsForm(membership=by, sample=sample))
            for sample in load.samples.filter(dry_mass_kg=None).order_by("tag")
        ],
        "form_weigh": WeighSamplesForm(membership=by, samples=load.samples.order_by("tag")),
        "outcome": None if load.runs else outcomes.of_load(load),
        "form_outcome": OutcomeForm(membership=by, initial={"out_m3": load.out_m3, "learnt": load.learnt}),
        "form_degrade": DegradeForm(membership=by),
    }
    # What is done to it now and then is one click away, unless a form was sent and is shown again, or it has no sample yet.
    page["all_forms"] = bool(forms.keys() & OFTEN_NOT) or current is None or not current.samples
    if page["all_forms"]:
        page |= _other_forms(by, load)
    if current is not None:
        air = running.air_of(load)
        dots = [(day, moisture) for sample in current.samples for day, moisture in sample.rows]
        figure, beside, reason = run_words.setting(current, system)
        moistures = _moistures(request, load, current)
        happened = [(running.days_since(load.followed_from, item.at), item.said) for item in page["events"]]
        page |= {
            "charge": run_words.charge(current, page["counted"][1], system),
            "figure": figure,
            "beside": beside,
            "reason": reason,
            "pace": run_words.pace(current),
            "lots": [(row, moistures.get(row.piece.tag) if load.runs else None) for row, _ in page["lots"]],
            "comes_out": run_words.comes_out(current, moistures),
            "steps": words.steps(current.planned, system, current.position),
            "alarms": [run_words.alarm(code, data, system) for code, data in current.alarms],
            "samples": [(sample, run_words.doubt(sample)) for sample in current.samples],
            "drawings": [
                (
                    shown,
                    drawings.drawing(
                        current.question, current.planned, system, width, dots=dots, air=air, today=max(current.day, 0.0), happened=happened
                    ),
                )
                for shown, width in (("wide-only", drawings.WIDE), ("narrow-only", drawings.NARROW))
            ],
        }
    return page | forms


OFTEN_NOT = {"form_sample", "form_air", "form_note", "form_end"}


def _other_forms(by: Membership, load: Load) -> dict[str, CalmForm]:
    """The forms of what is done to a load now and then: a sample cut, the chamber read, something that happened, its end."""
    return {
        "form_sample": LoadSampleForm(membership=by, load=load),
        "form_air": ChamberAirForm(membership=by),
        "form_note": NoteForm(membership=by),
        "form_end": EndForm(membership=by, initial={"version": load.version}),
    }


@in_workshop(write=Role.HELPER, only=True)
def other_forms(request: WorkshopRequest, load_tag: str) -> HttpResponse:
    """What else was done to a load; ``fragment=how`` brings the forms alone."""
    load = load_of(request, load_tag)
    if not load.runs:
        return redirect("load", request.workshop.slug, load.tag)
    current = running.now(load)
    page: dict[str, Any] = {"load": load, "current": current, **_other_forms(request.membership, load)}
    if current is not None:
        page["comes_out"] = run_words.comes_out(current, _moistures(request, load, current))
    template = "kiln/run_forms.html" if request.GET.get("fragment") == "how" else "kiln/more.html"
    return render(request, template, page)


def _moistures(request: WorkshopRequest, load: Load, current: running.LoadNow) -> dict[str, float]:
    """What each lot of a load is at, by tag: the very moisture that plans begin with, and other pages show."""
    moistures = running.moistures(current)
    if load.runs:
        followed = wood_now(request.workshop)
        for row in load.lots.select_related("piece"):
            if row.piece_id in followed:
                moistures[row.piece.tag] = followed[row.piece_id].moisture
    return moistures


def done(request: WorkshopRequest, load_tag: str, name: str, form: CalmForm, do: Callable[[Load], str | None]) -> HttpResponse:
    """One of the page's forms: done once, or shown again with what was typed."""
    load = load_of(request, load_tag)
    if form.is_valid():

        def act() -> str:
            said = do(load)
            # Empty: it has said so itself, with the way back.
            if said != "":
                messages.success(request, said or "Kept.")
            return reverse("load", args=[request.workshop.slug, load.tag])

        answer = once_or_again(request, form, act, changing=load if name == "form_end" else None)
        if answer is not None:
            return answer
    return render(request, "kiln/run.html", shown_load(request, load, **{name: form}), status=422)


@require_POST
@in_workshop(write=Role.HELPER)
def read_air(request: WorkshopRequest, load_tag: str) -> HttpResponse:
    """The chamber as it was read."""
    form = ChamberAirForm(request.POST, membership=request.membership)
    if form.is_valid():
        try:
            humidity = from_wet_bulb(form.cleaned_data["dry_bulb_c"], form.cleaned_data["wet_bulb_c"]).relative_humidity
        except OutOfRange:
            form.add_error("wet_bulb_c", "No air has so large a difference between its bulbs.")
        else:
            return done(request, load_tag, "form_air", form, lambda saved: _read(request, saved, form.cleaned_data["dry_bulb_c"], humidity))
    return render(request, "kiln/run.html", shown_load(request, load_of(request, load_tag), form_air=form), status=422)


def _read(request: WorkshopRequest, load: Load, dry_bulb_c: float, humidity: float) -> str:
    actions.read_chamber(request.membership, load, dry_bulb_c, humidity)
    return "Kept."


@require_POST
@in_workshop(write=Role.HELPER)
def note(request: WorkshopRequest, load_tag: str) -> HttpResponse:
    """Something happened."""
    form = NoteForm(request.POST, membership=request.membership)

    def do(load: Load) -> None:
        actions.note(request.membership, load, form.cleaned_data["kind"], form.cleaned_data["words"], **form.span)

    return done(request, load_tag, "form_note", form, do)


@require_POST
@in_workshop(write=Role.HELPER)
def event(request: WorkshopRequest, load_tag: str, event_id: int) -> HttpResponse:
    """Something that was noted is over, or was not so."""
    load = load_of(request, load_tag)
    spell_views.change(
        request,
        LoadEvent.objects.of(request.workshop).filter(load=load),
        event_id,
        partial(actions.change_event, request.membership, load),
        lambda pk: reverse("load_event", args=[request.workshop.slug, load.tag, pk]),
    )
    return redirect("load", request.workshop.slug, load.tag)


@require_POST
@in_workshop(write=Role.HELPER)
def end(request: WorkshopRequest, load_tag: str) -> HttpResponse:
    """The load is out."""
    form = EndForm(request.POST, membership=request.membership)

    def do(load: Load) -> str:
        typed, now = form.cleaned_data, running.now(load)
        by_tag = running.lots_now(now) if now is not None else {}
        came = {
            row.piece_id: CameOut(*astuple(by_tag[row.piece.tag])) for row in load.lots.select_related("piece") if row.piece.tag in by_tag
        }
        actions.end_load(
            request.membership,
            load,
            typed["version"],
            typed["weighed_out_kg"],
            came=came,
            place=typed["place"],
            out_m3=typed["out_m3"],
            learnt=typed["learnt"].strip(),
        )
        undo.tell(request, f"{load.tag} is out.", reverse("run_again", args=[request.workshop.slug, load.tag]), {"do": "again"})
        return ""

    return done(request, load_tag, "form_end", form, do)


@require_POST
@in_workshop(write=Role.HELPER)
def again(request: WorkshopRequest, load_tag: str) -> HttpResponse:
    """It was not out after all."""
    load = load_of(request, load_tag)
    try:
        actions.run_again(request.membership, load)
        messages.success(request, f"{load.tag} runs again.")
    except Refused as refused:
        messages.error(request, str(refused))
    return redirect("load", request.workshop.slug, load.tag)


@require_POST
@in_workshop(write=Role.HELPER)
def outcome(request: WorkshopRequest, load_tag: str) -> HttpResponse:
    """What came of it."""
    form = OutcomeForm(request.POST, membership=request.membership)

    def do(load: Load) -> None:
        actions.tell_outcome(request.membership, load, form.cleaned_data["out_m3"], form.cleaned_data["learnt"].strip())

    return done(request, load_tag, "form_outcome", form, do)


@require_POST
@in_workshop(write=Role.HELPER)
def add_degrade(request: WorkshopRequest, load_tag: str) -> HttpResponse:
    """What was found on its boards."""
    form = DegradeForm(request.POST, membership=request.membership)

    def do(load: Load) -> None:
        typed = form.cleaned_data
        actions.find_degrade(request.membership, load, typed["kind"], typed["boards"], typed["of_boards"], typed["where"])

    return done(request, load_tag, "form_degrade", form, do)
