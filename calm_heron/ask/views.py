"""The questions at the rack: asked in the address, answered at once, nothing kept."""

import math
import uuid

from django.http import HttpRequest, HttpResponse, QueryDict
from django.shortcuts import render

from calm_heron.air import drawings as air_drawings
from calm_heron.air import queries as air_queries
from calm_heron.ask import queries, words
from calm_heron.ask.forms import USUAL_RH_TOLERANCE, USUAL_WISH, AirQuestion, MovementQuestion, WoodQuestion
from calm_heron.ask.queries import USUAL_THICKNESS_M, Wood
from calm_heron.drying import drawings as drying_drawings
from calm_heron.drying import questions
from calm_heron.drying.forms import DryingForm
from calm_heron.drying.questions import Asked
from calm_heron.drying.shown import complain, shown
from calm_heron.movement import drawings as movement_drawings
from calm_heron.movement.queries import NoFigure
from calm_heron.movement.queries import movement as moved_by
from calm_heron.stock import woods
from wood.air import sorption
from wood.errors import OutOfRange
from wood.movement.section import pith_for, ring_angle_deg
from wood.species import trade_name

# A ring angle is drawn about a pith that lay so far away.
USUAL_PITH_M = 0.15
# The climates to choose from and the way to dry begin as they are on the page of a drying; what is dried is asked.
TO_BE_TYPED = ("species_key", "thickness_m")


def _page(request: HttpRequest, name: str, page: dict) -> HttpResponse:
    """One question: the whole page, or its answer alone (``fragment=ask``)."""
    asker = request.asker
    alone = request.GET.get("fragment") == "ask"
    context = {
        "system": asker.system,
        "asker": asker,
        "layout": asker.layout,
        "fragment": alone,
        "once": uuid.uuid4().hex,
        **page,
    }
    return render(request, f"ask/{name}_answer.html" if alone else f"ask/{name}.html", context)


def index(request: HttpRequest) -> HttpResponse:
    """The four questions."""
    return _page(request, "index", {})


def species(request: HttpRequest) -> HttpResponse:
    """The species search as a fragment, for strangers."""
    found = woods.search(request.asker.workshop, request.GET.get("species_key", "")[:60], limit=8)
    return render(request, "stock/species_found.html", {"found": found})


def air_points(asker, temperature: float, humidity: float) -> list[tuple[str, float, float]]:
    """The air that was asked about, and a member's places beside it."""
    own = (
        [(place.name, one.temperature_c, one.relative_humidity) for place, one in air_queries.latest_of_each(asker.workshop) if one]
        if asker.is_member
        else []
    )
    return [("here", temperature, humidity), *own]


def _air_asked(request: HttpRequest) -> dict:
    """The form as it was sent, and its answer where there is one."""
    asker = request.asker
    form = AirQuestion(request.GET, membership=asker.membership)
    page: dict = {"form": form}
    if form.is_valid():
        cleaned = form.cleaned_data
        temperature, humidity = cleaned["temperature"], cleaned["humidity"]
        if temperature is not None and humidity is not None:
            wish = cleaned["wish"] or USUAL_WISH
            good_to = cleaned["good_to"] or USUAL_RH_TOLERANCE
            hot, damp = sorption.TEMPERATURE_C[1], float(sorption.emc(temperature, 1.0))
            page |= {
                "found": sorption.measured_emc(temperature, humidity, good_to),
                "settles": sorption.hysteresis_band(temperature, humidity),
                "temperature": temperature,
                "humidity": humidity,
                "good_to": good_to,
                "wish": wish,
                "holds": float(sorption.relative_humidity_for(temperature, wish)) if wish < damp and temperature <= hot else None,
                "chart": air_drawings.air_chart(air_points(asker, temperature, humidity), asker.system, width=air_drawings.NARROW),
            }
    return page


def air(request: HttpRequest) -> HttpResponse:
    """What the air here is worth: EMC, what the hygrometer leaves open, and the humidity that would hold wood at a wish."""
    page = _air_asked(request)
    if page.get("found") and request.asker.is_member and request.asker.membership.may_record:
        page["places"] = air_queries.places(request.asker.workshop)
    return _page(request, "air", page)


def wood(request: HttpRequest) -> HttpResponse:
    """Wood at the rack: take it, wait, or walk away."""
    form = WoodQuestion(request.GET, membership=request.asker.membership)
    page: dict = {"form": form, "taken_as": trade_name(request.GET.get("species_key", "")[:60])}
    if form.is_valid() and form.cleaned_data["readings"]:
        there = queries.home(form)
        page["no_home"] = there is None
        if there is not None:
            try:
                found = queries.at_the_rack(form, there)
            except OutOfRange as beyond:
                complain(form, beyond)
            else:
                page |= {"found": found, "in_vain": found is None}
                if found is not None:
                    page["told"] = words.at_the_rack(found)
    return _page(request, "wood", page)


def movement(request: HttpRequest) -> HttpResponse:
    """How much a board would move between two moistures."""
    asker = request.asker
    form = MovementQuestion(request.GET, membership=asker.membership)
    page: dict = {"form": form, "taken_as": trade_name(request.GET.get("species_key", "")[:60])}
    if form.is_valid():
        cleaned = form.cleaned_data
        starts, width = cleaned["from_moisture"], cleaned["width_m"]
        if cleaned["species_key"] and width is not None and starts is not None:
            board = Wood(woods.species_of(asker.workshop.pk, cleaned["species_key"]), cleaned["thickness_m"] or USUAL_THICKNESS_M, width)
            ends = USUAL_WISH if cleaned["to_moisture"] is None else cleaned["to_moisture"]
            pith = pith_for(float(cleaned["grain"] or 0), USUAL_PITH_M)
            moved = moved_by(board, starts, ends, pith)
            page |= {
                "board": board,
                "starts": starts,
                "ends": ends,
                "ring_angle": ring_angle_deg(*pith),
                "pith_distance": math.hypot(*pith),
            }
            if isinstance(moved, NoFigure):
                page["no_figure"] = moved
            else:
                page |= {"moved": moved, "drawing": movement_drawings.section_drawing(board, moved, movement_drawings.NARROW)}
    return _page(request, "movement", page)


def drying(request: HttpRequest) -> HttpResponse:
    """How long a board would take to dry that is not here."""
    asker = request.asker
    places = list(air_queries.places(asker.workshop)) if asker.is_member else []
    fields = QueryDict(mutable=True)
    usual = questions.usual_anywhere(asker.workshop, places)
    fields.update({name: "" if name in TO_BE_TYPED else value for name, value in usual.items()})
    for name, value in request.GET.items():
        fields[name] = value[:60]
    form = DryingForm(fields, membership=asker.membership, places=places)
    page: dict = {"form": form, "taken_as": trade_name(fields["species_key"])}
    if form.is_valid() and form.cleaned_data["species_key"] and form.cleaned_data["thickness_m"]:
        cleaned = {**form.cleaned_data, "target": form.cleaned_data["target"] or questions.AIR_DRY}
        try:
            asked = questions.asked(asker.workshop, cleaned, None, None, None, places)
            page |= {"one": asked.species, "around": asked.around, "start_date": asked.start_date}
            if isinstance(asked, Asked):
                page |= shown(asked, asker.system, drying_drawings.FRAMES.get(fields.get("frame", ""), drying_drawings.BOTH))
            else:
                page |= {"no_air": asked.no_air, "no_figure": asked.no_air is None}
        except OutOfRange as beyond:
            complain(form, beyond)
    return _page(request, "drying", page)
