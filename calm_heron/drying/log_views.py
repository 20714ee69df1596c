"""How long does the log keep? Left in its bark until it is sawn, and what it splits if it never is."""

from django import forms
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from calm_heron.air import queries as air
from calm_heron.drying import methods, queries
from calm_heron.drying.forms import ENDS, BeginField
from calm_heron.drying.words import span
from calm_heron.stock import woods
from calm_heron.stock.species_forms import SpeciesField
from calm_heron.workshops.askers import said
from calm_heron.workshops.fields import CalmForm, LengthField
from wood.air import climate
from wood.drying import logs
from wood.errors import NotKnown
from wood.movement import shrinkage
from wood.species import trade_name

INDOORS, OUTDOORS = 0.08, 0.15


class LogForm(CalmForm):
    """A log, when it was felled, and where it lies."""

    all_have_defaults = True
    felled = BeginField("Felled on")
    ends = forms.ChoiceField(label="Its ends are", choices=ENDS, required=False)

    def build(self) -> None:
        del self.fields["once"]
        self.places = list(air.places(self.workshop)) if self.workshop.pk else []
        yards = [(f"place-{place.pk}", place.name) for place in self.places if place.traits.is_outdoors]
        patterns = sorted(((key, one.name) for key, one in climate.patterns().items()), key=lambda pair: pair[0] != queries.USUAL_PATTERN)
        self.fields["species_key"] = SpeciesField(self.workshop, required=False, label="Species")
        self.fields["diameter_m"] = LengthField(self.system, *logs.DIAMETER_M, required=False, label=f"Diameter, {self.system.length}")
        self.fields["where"] = forms.ChoiceField(required=False, label="Outdoors in the air of", choices=[*yards, *patterns])
        self.order_fields(["species_key", "diameter_m", "felled", "ends", "where"])


def log(request: HttpRequest) -> HttpResponse:
    """``fragment=log`` gives the answer alone."""
    asker = request.asker
    typed_in = said(request, {"species_key": "sugar maple", "diameter_m": "16" if asker.system.is_inch else "400"})
    form = LogForm(typed_in, membership=asker.membership)
    alone = request.GET.get("fragment") == "log"
    page = {
        "asker": asker,
        "system": asker.system,
        "layout": asker.layout,
        "form": form,
        "fragment": alone,
        "taken_as": trade_name(typed_in.get("species_key", "")[:60]),
    }
    page["roads_address"] = asker.address("roads")
    if form.is_valid():
        page |= _answer(form) if form.cleaned_data["species_key"] else {"missing": "Say which wood it is."}
    return render(request, "drying/log_answer.html" if alone else "drying/log.html", page)


def _answer(form: LogForm) -> dict:
    typed = form.cleaned_data
    species = woods.species_of(form.workshop.pk, typed["species_key"])
    day = typed["felled"] or queries.today()
    around = queries.surroundings(form.places, form.chosen("where"), methods.of_a_log(), day)
    if not isinstance(around, queries.Surroundings):
        return {"no_air": around.name}
    sealed, series = form.chosen("ends") == "sealed", around.setting.series
    found = logs.keeps(species, series, sealed=sealed)
    months = logs.keeps_by_month(species, series, sealed=sealed)
    most = max((one for one in months if one < float("inf")), default=1.0)
    diameter = typed["diameter_m"] or 0.4
    try:
        figures = shrinkage.of_species(species)
        splits = [(moisture, logs.split(figures, diameter, moisture)) for moisture in (OUTDOORS, INDOORS)]
    except NotKnown:
        splits = []
    return {
        "species": species, "keeps": found, "within": span(found.saw_within), "rots": span(found.heartwood_rots), "sap_rots": span(found.sapwood_rots), "sealed": sealed,
        "air_of": around.name, "splits": splits, "diameter": diameter,
        "months": [
            (name, 100 * one / most if one < float("inf") else 100.0, f"{one / 7:.0f}" if one < float("inf") else "150+")
            for name, one in zip("JFMAMJJASOND", months, strict=True)
        ],
    }  # fmt: skip
