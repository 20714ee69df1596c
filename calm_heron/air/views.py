"""Pages about air."""

from typing import Any

import numpy as np
from django.contrib import messages
from django.http import HttpResponse, QueryDict
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from calm_heron.air import actions, drawings, queries
from calm_heron.air.forms import AirForm, CorrectAirForm, HygrometerForm, PlaceForm, SaltForm, YearForm
from calm_heron.air.models import AirReading, Hygrometer, Normals, Place, YearSource
from calm_heron.site import undo
from calm_heron.site.numbers import points, typed
from calm_heron.workshops.doors import WorkshopRequest, in_workshop, once, once_or_again
from calm_heron.workshops.models import Role
from calm_heron.workshops.refusals import Refused
from wood.air import sorption
from wood.air.climate import MONTHS, Climate, patterns, places_known
from wood.air.psychrometrics import Air
from wood.air.rooms import DWELLING, UNHEATED, Room
from wood.units import to_fahrenheit

PLACE_FIELDS = ("name", "kind", "rh_tolerance", "usual_humidity", "not_lived_in")
# A year that moves wood by less than this is the same all round.
STILL_YEAR = 0.003
# Moistures that rooms are held for.
WANTED = (0.06, 0.08, 0.10, 0.12, 0.14)


@in_workshop()
def air(request: WorkshopRequest) -> HttpResponse:
    """Every place as a point on the air chart."""
    latest = queries.latest_of_each(request.workshop)
    levels = queries.saved_levels(request.workshop.pk)
    shown = [(place.name, reading.temperature_c, reading.relative_humidity) for place, reading in latest if reading]
    page = {
        "rows": [(place, reading, levels.get(place.id)) for place, reading in latest],
        "charts": drawings.air_charts(shown, request.workshop.system),
        "retired": queries.retired(request.workshop),
    }
    return render(request, "air/air.html", page)


@in_workshop(write=Role.HELPER)
def place(request: WorkshopRequest, place_id: int) -> HttpResponse:
    """One place: what will wood come to here? And the form for today's air."""
    result = get_object_or_404(Place.objects.of(request.workshop), pk=place_id)
    if request.GET.get("fragment") == "emc":
        return _typed_emc(request, result)
    form = AirForm(request.POST or None, membership=request.membership, place=result)
    if form.is_valid():

        def do() -> str:
            cleaned = form.cleaned_data
            air_readings.append(
                actions.record_air(
                    request.membership,
                    result,
                    cleaned["temperature"],
                    cleaned["humidity"],
                    at=cleaned["at"],
                    hygrometer=cleaned["hygrometer"],
                )
            )
            return reverse("place", args=[request.workshop.slug, result.pk])

        air_readings: list[AirReading] = []
        answer = once(request, do)
        if air_readings:
            address = reverse("correct_air", args=[request.workshop.slug, result.pk, air_readings[0].pk])
            undo.tell(request, f"Saved: EMC {points(air_readings[0].emc)}% in {result.name}.", address, {"take_out": "1"})
        return answer
    readings = list(queries.recent_readings(result))
    newest = readings[0] if readings else None
    known = queries.known_year(result)
    trail = [(reading.temperature_c, reading.relative_humidity) for reading in readings[1:]]
    page = {
        "place": result,
        "form": form,
        "history": queries.history(result),
        "newest": newest,
        "level": queries.level(result),
        "hysteresis": sorption.hysteresis_band(newest.temperature_c, newest.relative_humidity) if newest else None,
        "moist": Air(newest.temperature_c, newest.relative_humidity) if newest else None,
        "slope": sorption.slope(newest.temperature_c, newest.relative_humidity) * 0.01 if newest else None,
        "humidity_for": _humidity_for(newest.temperature_c) if newest else [],
        "extrapolated": newest and sorption.is_extrapolated(newest.temperature_c),
        "charts": drawings.air_charts(
            [(result.name, newest.temperature_c, newest.relative_humidity)] if newest else [], request.workshop.system, trail, _loop(known)
        ),
        **_year_shown(known.climate if known else None),
        "known": known,
        "compared": queries.compared(result),
        "instruments": form.fields["hygrometer"].queryset.exists(),  # type: ignore[attr-defined]
    }
    return render(request, "air/place.html", page, status=422 if form.errors else 200)


@in_workshop(write=Role.MAKER, only=True)
def new_place(request: WorkshopRequest) -> HttpResponse:
    """A new place; with ``outdoors`` a room whose year is worked out from that place's air."""
    fed_by = _outdoors_asked(request)
    form = PlaceForm(request.POST or None, membership=request.membership)
    if fed_by is not None:
        form.fields["name"].initial = f"Room by {fed_by.name}"[:60]
    if form.is_valid():

        def do() -> str:
            made = actions.add_place(request.membership, *(form.cleaned_data[name] for name in PLACE_FIELDS))
            if fed_by is not None and made.traits.is_a_room:
                actions.keep_room(request.membership, made, 0, fed_by, DWELLING if made.traits.is_heated else UNHEATED)
            return reverse("place", args=[request.workshop.slug, made.pk])

        if answer := once_or_again(request, form, do):
            return answer
    return render(request, "air/place_form.html", {"form": form, "fed_by": fed_by}, status=422 if form.errors else 200)


def _outdoors_asked(request: WorkshopRequest) -> Place | None:
    """The outdoor place that a room is to be fed by, where the address names one."""
    typed = request.GET.get("outdoors", "")
    result = queries.places(request.workshop).filter(pk=int(typed)).first() if typed[:18].isdigit() else None
    return result if result is not None and result.traits.is_outdoors else None


def _typed_emc(request: WorkshopRequest, place: Place) -> HttpResponse:
    """What the air that is being typed would bring wood to, before it is kept."""
    form = AirForm(request.GET, membership=request.membership, place=place)
    form.is_valid()
    warm, damp = (form.cleaned_data.get(name) for name in ("temperature", "humidity"))
    if warm is None or damp is None:
        return render(request, "air/emc_typed.html")
    hygrometer = form.cleaned_data.get("hygrometer")
    result = actions.meant(request.membership, place, warm, damp, hygrometer)
    return render(request, "air/emc_typed.html", {"typed": {"emc": result.emc, "tolerance": result.emc_tolerance}})


@in_workshop(write=Role.MAKER, only=True)
def change_place(request: WorkshopRequest, place_id: int) -> HttpResponse:
    result = get_object_or_404(Place.objects.of(request.workshop), pk=place_id)
    form = PlaceForm(request.POST or None, membership=request.membership, place=result)
    if form.is_valid():
        changes = {name: form.cleaned_data[name] for name in PLACE_FIELDS}

        def do() -> str:
            actions.change_place(request.membership, result, form.cleaned_data["version"] or 0, **changes)
            return reverse("place", args=[request.workshop.slug, result.pk])

        if answer := once_or_again(request, form, do, changing=result):
            return answer
    return render(request, "air/place_form.html", {"form": form, "place": result}, status=422 if form.errors else 200)


@require_POST
@in_workshop(write=Role.MAKER)
def retire_place(request: WorkshopRequest, place_id: int) -> HttpResponse:
    """Offer a place no more, or (``again``) offer it again."""
    place = get_object_or_404(Place.objects.of(request.workshop), pk=place_id)
    version = request.POST.get("version", "")
    try:
        actions.retire_place(request.membership, place, int(version) if version[:9].isdigit() else 0, retired="again" not in request.POST)
    except Refused as refused:
        messages.error(request, str(refused))
        return redirect("change_place", request.workshop.slug, place.pk)
    return redirect("place", request.workshop.slug, place.pk)


@in_workshop(write=Role.HELPER, only=True)
def correct_air(request: WorkshopRequest, place_id: int, air_reading_id: int) -> HttpResponse:
    """Put right what was typed of the air, or take it out; the old entry stays to be seen."""
    standing = AirReading.objects.of(request.workshop).filter(place=place_id, struck=False).select_related("place", "hygrometer")
    reading = get_object_or_404(standing, pk=air_reading_id)
    here = reverse("place", args=[request.workshop.slug, reading.place_id])
    if request.method == "POST" and "take_out" in request.POST:
        try:
            if "put_back" in request.POST:
                actions.restore_air(request.membership, reading)
                messages.success(request, "Put back. The journal has both.")
            else:
                actions.strike_air(request.membership, reading)
                address = reverse("correct_air", args=[request.workshop.slug, place_id, reading.pk])
                undo.tell(request, "Struck out.", address, {"take_out": "1", "put_back": "1"})
        except Refused as refused:
            messages.error(request, str(refused))
        return redirect(here)
    form = CorrectAirForm(request.POST or None, membership=request.membership, reading=reading)
    if form.is_valid():
        cleaned = form.cleaned_data

        def do() -> str:
            actions.correct_air(
                request.membership,
                reading,
                cleaned["place"],
                cleaned["temperature"],
                cleaned["humidity"],
                cleaned["hygrometer"],
                form.moment,
            )
            return reverse("place", args=[request.workshop.slug, cleaned["place"].pk])

        if answer := once_or_again(request, form, do):
            return answer
    page = {"form": form, "reading": reading, "place": reading.place}
    return render(request, "air/correct.html", page, status=422 if form.errors else 200)


def _humidity_for(temperature_c: float) -> list[tuple[float, float]]:
    """The humidities that keep wood at some moistures at a temperature, as far as air can at all."""
    most = float(sorption.emc(temperature_c, 1.0))
    return [(moisture, sorption.relative_humidity_for(temperature_c, moisture)) for moisture in WANTED if moisture < most]


def _loop(known: queries.KnownYear | None) -> list[tuple[float, float]] | None:
    """A year as twelve points of the air chart."""
    return list(zip(known.climate.temperature_c, known.climate.relative_humidity, strict=True)) if known else None


def _year_shown(year: Climate | None, months: list[tuple[float, float] | None] | None = None) -> dict[str, Any]:
    """A year's figures and drawing; of a year that is still being typed, what is there of it."""
    if year is None:
        typed = [None if month is None else float(sorption.emc(*month)) for month in months or []]
        return {"year_charts": drawings.year_charts(typed) if any(typed) else [], "year": None}
    emc = year.monthly_emc
    return {
        "year_charts": drawings.year_charts(emc.tolist()),
        "year": {
            "low": float(emc.min()),
            "low_month": MONTHS[int(emc.argmin())],
            "high": float(emc.max()),
            "high_month": MONTHS[int(emc.argmax())],
            "mean": float(np.mean(emc)),
            "swings": float(np.ptp(emc)) > STILL_YEAR,
        },
    }


@in_workshop(write=Role.MAKER, only=True)
def year(request: WorkshopRequest, place_id: int) -> HttpResponse:
    """The usual year of a place: given, changed, and drawn while it is typed. ``fragment=year`` gives the drawing alone."""
    place = get_object_or_404(Place.objects.of(request.workshop), pk=place_id)
    given = Normals.objects.of(request.workshop).filter(place=place).first()
    fragment = request.GET.get("fragment") == "year"
    sent = request.POST or (request.GET if fragment or "kind" in request.GET else _as_given(place, given, request.workshop.system))
    form = YearForm(sent, request.FILES or None, membership=request.membership, place=place, given=given)
    valid = form.is_valid()
    if request.method == "POST" and valid and (answer := _keep_year(request, form, place)):
        return answer
    logged = queries.known_year(place)
    # Before anything is given, the page shows what the place's own log says of its year.
    untouched = sent is not request.POST and not fragment and given is None and "kind" not in request.GET
    shown = form.shown() if valid else None
    if shown is None and untouched and logged:
        shown = logged.climate
    loop = list(zip(shown.temperature_c, shown.relative_humidity, strict=True)) if shown else [month for month in form.months if month]
    page = {
        "place": place,
        "given": given,
        "form": form,
        "fragment": fragment,
        "logged": logged,
        "charts": drawings.air_charts([], request.workshop.system, None, loop if len(loop) > 2 else None) if loop else [],
        **_year_shown(shown, form.months if form.cleaned_data.get("kind") == YearSource.TYPED else None),
    }
    template = "air/year_shown.html" if fragment else "air/year.html"
    return render(request, template, page, status=422 if form.errors and not fragment and request.method == "POST" else 200)


def _as_given(place: Place, given: Normals | None, system: Any) -> QueryDict:
    """The form's fields as they stand for the year a place has, or empty."""
    fields = QueryDict(mutable=True)
    fields["kind"], fields["version"] = YearSource.TYPED, "0"
    fields.update(_room_fields(None if given is None or not given.is_of_a_room else given.room, place, system))
    if given is None:
        return fields
    fields["version"], fields["kind"] = str(given.version), given.source
    if given.source == YearSource.ROOM:
        fields["outdoors"] = str(given.outdoors_id)
        return fields

    named = {YearSource.PATTERN: patterns(), YearSource.PUBLISHED: places_known(), YearSource.EMC: patterns()}.get(given.source, {})  # type: ignore[call-overload]
    key = next((key for key, name in named.items() if name.name == given.words), "")
    fields["pattern"] = fields["like"] = key
    fields["published"] = key if given.source == YearSource.PUBLISHED else ""
    if given.source == YearSource.FILE:
        # A file is not kept, its months are: they are shown as what was typed.
        fields["kind"] = YearSource.TYPED if not place.traits.is_a_room else YearSource.FILE
    for k, moisture in enumerate(given.climate.monthly_emc, start=1):
        fields[f"e{k}"] = typed(moisture, 3)
    for k, (t, h) in enumerate(zip(given.temperature_c, given.relative_humidity, strict=True), start=1):
        fields[f"t{k}"], fields[f"h{k}"] = f"{t if system.temperature == 'C' else to_fahrenheit(t):.4g}", typed(h, 3)
    return fields


def _room_fields(room: Room | None, place: Place, system: Any) -> dict[str, str]:
    """A room's settings as they are typed: those it has, or what is usual for such a place. A room is heated unless somebody says not."""
    room = room or (DWELLING if place.traits.is_heated else UNHEATED)

    def degrees(value: float | None) -> str:
        return "" if value is None else f"{value if system.temperature == 'C' else to_fahrenheit(value):.4g} {system.temperature}"

    return {
        "heated_to": degrees(room.heated_to_c),
        "cooled_to": degrees(room.cooled_to_c),
        "gain": f"{room.moisture_gain:g}",
        "changes": f"{room.air_changes:g}",
        "at_least": typed(room.at_least) if room.at_least > 0 else "",
        "at_most": typed(room.at_most) if room.at_most < 1 else "",
        **({"floor": "on"} if room.floor_warmer_c else {}),
    }


def _keep_year(request: WorkshopRequest, form: YearForm, place: Place) -> HttpResponse | None:
    """Carry the form out, or put beside its fields what is missing."""
    cleaned, kind = form.cleaned_data, form.cleaned_data["kind"]
    version = cleaned.get("version") or 0
    year = form.climate()
    if kind in (YearSource.TYPED, YearSource.EMC) and form.missing():
        names = form.missing()
        count = f"{12 - len(names)} months where twelve belong" if len(names) < 12 else "no month yet"
        form.add_error(
            f"{'t' if kind == YearSource.TYPED else 'e'}{MONTHS.index(names[0]) + 1}",
            f"A year has twelve months: {count}. Missing: {', '.join(names)}.",
        )
        return None
    if year is None:
        complaint = {
            "pattern": ("pattern", "Choose one of the patterns."),
            "published": ("published", "Choose one of the published places."),
            "emc": (None, "These moistures cannot be had at those temperatures."),
            "file": ("file", "Choose a file, or paste twelve rows."),
            "room": ("outdoors", "Choose an outdoor place whose own year is known; give it one first."),
        }[kind]
        form.add_error(*complaint)
        return None

    def do() -> str:
        if kind == "room":
            actions.keep_room(request.membership, place, version, cleaned["outdoors"], cleaned["room"])
        else:
            words = year.name if kind in (YearSource.PATTERN, YearSource.PUBLISHED) else cleaned.get("words", "")
            actions.keep_year(request.membership, place, version, YearSource(kind), words, year, cleaned.get("room"))
        return reverse("place", args=[request.workshop.slug, place.pk])

    answer = once_or_again(request, form, do)
    if answer is None:
        # Sent again, it is meant: the form takes over the year that is there now.
        newest = Normals.objects.of(request.workshop).filter(place=place).first()
        form.data = form.data.copy()  # type: ignore[attr-defined]
        form.data["version"] = str(newest.version if newest else 0)  # type: ignore[index]
    return answer


@in_workshop(write=Role.MAKER)
def hygrometers(request: WorkshopRequest) -> HttpResponse:
    """The workshop's hygrometers: what each is good to now, and when it was last checked."""
    form = HygrometerForm(request.POST or None, membership=request.membership)
    if form.is_valid():

        def do() -> str:
            made = actions.add_hygrometer(request.membership, form.cleaned_data["name"], form.cleaned_data["rh_tolerance"])
            return reverse("check_hygrometer", args=[request.workshop.slug, made.pk])

        if answer := once_or_again(request, form, do):
            return answer
    page = {"hygrometers": queries.hygrometers(request.workshop), "form": form}
    return render(request, "air/hygrometers.html", page, status=422 if form.errors else 200)


@in_workshop(write=Role.HELPER)
def check_hygrometer(request: WorkshopRequest, hygrometer_id: int) -> HttpResponse:
    """A guided check over a saturated salt. ``fragment=salt`` says what the salt gives at the temperature typed so far."""
    hygrometer = get_object_or_404(Hygrometer.objects.of(request.workshop), pk=hygrometer_id)
    fragment = request.GET.get("fragment") == "salt"
    form = SaltForm(request.POST or (request.GET if fragment else None), membership=request.membership)
    if request.method == "POST" and form.is_valid():

        def do() -> str:
            cleaned = form.cleaned_data
            actions.check_hygrometer(
                request.membership,
                hygrometer,
                cleaned["salt"],
                cleaned["temperature"],
                cleaned["waited_hours"],
                cleaned["shown"],
                cleaned["since"],
            )
            return reverse("hygrometers", args=[request.workshop.slug])

        if answer := once_or_again(request, form, do):
            return answer
    if fragment:
        form.is_valid()
    expected = form.cleaned_data.get("expected") if form.is_bound else None
    shown = form.cleaned_data.get("shown") if form.is_bound else None
    page = {
        "hygrometer": hygrometer,
        "form": form,
        "expected": expected,
        "offset": expected - shown if expected is not None and shown is not None else None,
        "checks": hygrometer.checks.select_related("by").order_by("-at")[:12],
    }
    template = "air/salt_says.html" if fragment else "air/salt_check.html"
    return render(request, template, page, status=422 if form.errors and not fragment else 200)
