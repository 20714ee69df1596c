"""Pages about air."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, render
from django.urls import reverse

from calm_heron.air import actions, drawings, queries
from calm_heron.air.forms import AirForm, PlaceForm
from calm_heron.air.models import Place
from calm_heron.workshops.doors import in_workshop, once, once_or_again
from calm_heron.workshops.models import Role
from wood import sorption
from wood.air import Air


@in_workshop()
def air(request: HttpRequest) -> HttpResponse:
    """Every place as a point on the air chart."""
    found = queries.latest_of_each(request.workshop)
    levels = queries.levels(request.workshop)
    points = [(place.name, reading.temperature_c, reading.relative_humidity) for place, reading in found if reading]
    page = {
        "rows": [(place, reading, levels.get(place.id)) for place, reading in found],
        "charts": drawings.air_charts(points, request.workshop.system),
    }
    return render(request, "air/air.html", page)


@in_workshop(write=Role.HELPER)
def place(request: HttpRequest, place_id: int) -> HttpResponse:
    """One place: what will wood come to here? And the form for today's air."""
    found = get_object_or_404(Place.objects.of(request.workshop), pk=place_id)
    form = AirForm(request.POST or None, membership=request.membership, place=found)
    if form.is_valid():

        def do() -> str:
            actions.record_air(request.membership, found, form.cleaned_data["temperature"], form.cleaned_data["humidity"])
            return reverse("place", args=[request.workshop.slug, found.pk])

        return once(request, do)
    readings = list(queries.recent_readings(found))
    newest = readings[0] if readings else None
    trail = [(reading.temperature_c, reading.relative_humidity) for reading in readings[1:]]
    page = {
        "place": found,
        "form": form,
        "readings": readings,
        "newest": newest,
        "level": queries.level(found),
        "hysteresis": sorption.hysteresis_band(newest.temperature_c, newest.relative_humidity) if newest else None,
        "moist": Air(newest.temperature_c, newest.relative_humidity) if newest else None,
        "slope": sorption.slope(newest.temperature_c, newest.relative_humidity) * 0.01 if newest else None,
        "extrapolated": newest and sorption.is_extrapolated(newest.temperature_c),
        "charts": drawings.air_charts(
            [(found.name, newest.temperature_c, newest.relative_humidity)] if newest else [], request.workshop.system, trail
        ),
    }
    return render(request, "air/place.html", page, status=422 if form.errors else 200)


@in_workshop(write=Role.MAKER)
def new_place(request: HttpRequest) -> HttpResponse:
    form = PlaceForm(request.POST or None, membership=request.membership)
    if form.is_valid():

        def do() -> str:
            made = actions.add_place(request.membership, *(form.cleaned_data[name] for name in ("name", "kind", "rh_tolerance")))
            return reverse("place", args=[request.workshop.slug, made.pk])

        if answer := once_or_again(request, form, do):
            return answer
    return render(request, "air/place_form.html", {"form": form}, status=422 if form.errors else 200)


@in_workshop(write=Role.MAKER)
def change_place(request: HttpRequest, place_id: int) -> HttpResponse:
    found = get_object_or_404(Place.objects.of(request.workshop), pk=place_id)
    form = PlaceForm(request.POST or None, membership=request.membership, place=found)
    if form.is_valid():
        changes = {name: form.cleaned_data[name] for name in ("name", "kind", "rh_tolerance")}

        def do() -> str:
            actions.change_place(request.membership, found, form.cleaned_data["version"] or 0, **changes)
            return reverse("place", args=[request.workshop.slug, found.pk])

        if answer := once_or_again(request, form, do, changing=found):
            return answer
    return render(request, "air/place_form.html", {"form": form, "place": found}, status=422 if form.errors else 200)
