"""Somebody else dries it: what to ask an operator, a slip that goes with the load, and what to check when it comes back."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from calm_heron.drying import queries as drying
from calm_heron.kiln import words
from calm_heron.kiln.forms import SlipForm
from calm_heron.site.dates import full_day
from calm_heron.stock import woods
from calm_heron.workshops.askers import said
from wood.sizes import BOARD_FOOT_M3
from wood.units import INCH


def questions(request: HttpRequest) -> HttpResponse:
    """What do I ask, and what do I hand over? The slip is a page that prints on one sheet."""
    asker = request.asker
    inch = asker.system is INCH
    form = SlipForm(
        said(request, {"species_key": "white oak", "thickness_m": "4/4" if inch else "27", "count": "60", "wanted": "8"}),
        membership=asker.membership,
    )
    page: dict = {
        "asker": asker, "system": asker.system, "layout": asker.layout, "form": form, "fragment": request.GET.get("fragment") == "kiln", "part": "dried_by",
        "addresses": {one: asker.address(one) for one in ("kiln", "heat", "prongs", "dried_by")}, "questions": words.QUESTIONS, "checks": words.CHECKS,
    }  # fmt: skip
    if form.is_valid() and form.cleaned_data["species_key"]:
        page |= _slip(form, inch)
    return render(request, "kiln/dried_by_answer.html" if page["fragment"] else "kiln/dried_by.html", page)


def _slip(form: SlipForm, inch: bool) -> dict:
    typed = form.cleaned_data
    species, volume = woods.species_of(form.workshop.pk, typed["species_key"]), typed["volume_m3"]
    return {
        "slip": True, "species": species, "made_on": full_day(drying.today()), "pale": words.marks_easily(species),
        "amount": "" if volume is None else (f"{volume / BOARD_FOOT_M3:,.0f} bd ft" if inch else f"{volume:.2f} m³"), "typed": typed,
    }  # fmt: skip
