"""The questions at the rack: asked in the address, answered at once, nothing kept."""

from django.http import HttpRequest, HttpResponse, QueryDict
from django.shortcuts import render

from calm_heron.air import queries as air_queries
from calm_heron.drying import drawings as drying_drawings
from calm_heron.drying import questions
from calm_heron.drying.forms import DryingForm
from calm_heron.drying.questions import AskedDrying
from calm_heron.drying.shown import complain, shown
from calm_heron.stock import woods
from wood.errors import OutOfRange
from wood.species import trade_name

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
        **page,
    }
    return render(request, f"ask/{name}_answer.html" if alone else f"ask/{name}.html", context)


def index(request: HttpRequest) -> HttpResponse:
    """Every question there is."""
    return _page(request, "index", {})


def species(request: HttpRequest) -> HttpResponse:
    """The species search as a fragment, for strangers."""
    found = woods.search(request.asker.workshop, request.GET.get("species_key", "")[:60], limit=8)
    return render(request, "stock/species_found.html", {"found": found})


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
            if isinstance(asked, AskedDrying):
                page |= shown(asked, asker.system, drying_drawings.FRAMES.get(fields.get("frame", ""), drying_drawings.BOTH))
            else:
                page |= {"no_air": asked.no_air, "no_figure": asked.no_air is None}
        except OutOfRange as beyond:
            complain(form, beyond)
    return _page(request, "drying", page)
