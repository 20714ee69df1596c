"""What routes are asked about: the wood, where it can lie outdoors, where it will live, and what energy costs."""

from typing import Any

from django import forms

from calm_heron.air import queries as air
from calm_heron.air.models import Place
from calm_heron.drying import own_kilns, queries
from calm_heron.drying.forms import ENDS, YARDS, BeginField
from calm_heron.measuring import queries as measuring
from calm_heron.questions.forms import Group, QuestionForm
from calm_heron.site.numbers import typed
from calm_heron.stock.models import Piece
from calm_heron.stock.species_forms import SpeciesField
from calm_heron.workshops.askers import Asker
from calm_heron.workshops.fields import LengthField, PercentField, VolumeField
from wood.air import climate
from wood.drying.insects import Origin
from wood.kiln.chambers import LOAD_M3

HEATED = "heated"
ORIGINS = (
    (Origin.FRESH.value, "fresh from the saw, its bark off"),
    (Origin.BARK.value, "with bark or wane left on"),
    (Origin.RECLAIMED.value, "out of an old building, or from the woodpile"),
)


class RoutesForm(QuestionForm):
    """By which route? Everything has a default but the wood."""

    takes_section = True
    groups = (
        Group(
            (
                "species_key",
                "thickness_m",
                "start",
                "volume_m3",
                "where",
                "wind",
                "home",
                "target",
                "carry",
                "to_kiln",
                "moved_on",
                "start_date",
                "ends",
                "origin",
                "price",
            )
        ),
        Group(("width_m", "length_m", "latitude"), "Small pieces, and where the sun stands"),
    )
    tells = ("road",)
    called = {"diameter_m": "thickness_m"}
    # The route whose months are looked at.
    road = forms.CharField(required=False, max_length=60)
    start_date = BeginField("From")
    wind = forms.ChoiceField(label="The yard is", required=False, choices=sorted(YARDS, key=lambda pair: pair[0] != "usual"))
    ends = forms.ChoiceField(label="Its ends are", choices=ENDS, required=False)
    origin = forms.ChoiceField(label="Condition", choices=ORIGINS, required=False)
    moved_on = BeginField("or moved on")

    @classmethod
    def begins_with(cls, asker: Asker, subject: Piece | None) -> dict[str, str]:
        system = asker.system
        begun = {"species_key": "white oak", "thickness_m": "4/4" if system.is_inch else "27"}
        if subject is not None:
            moisture = measuring.moisture_to_begin_from(subject)
            begun |= {
                "species_key": subject.species.common_name,
                "thickness_m": subject.thickness_as_typed(system),
                "ends": "sealed" if subject.ends_sealed else "open",
            }
            if moisture is not None:
                begun["start"] = typed(moisture)
        return begun

    def build(self) -> None:
        self.places: list[Place] = list(air.places(self.workshop)) if self.workshop.pk else []
        yards = [(f"place-{place.pk}", place.name) for place in self.places if place.traits.is_outdoors]
        patterns = sorted(
            ((key, pattern.name) for key, pattern in climate.patterns().items()), key=lambda pair: pair[0] != queries.USUAL_PATTERN
        )
        rooms = [(f"place-{place.pk}", place.name) for place in self.places if place.traits.is_a_room and place.traits.is_heated]
        unit = self.system.length
        self.fields["species_key"] = SpeciesField(self.workshop, required=False, label="Species")
        self.fields["thickness_m"] = LengthField(self.system, 0.003, 0.5, required=False, label=f"Thickness, {unit}")
        self.fields["width_m"] = LengthField(self.system, 0.01, 2.0, required=False, label=f"Width, {unit}")
        self.fields["length_m"] = LengthField(self.system, 0.03, 15.0, required=False, label=f"Length, {unit}")
        self.fields["start"] = PercentField(self.system, 0.05, 3.0, required=False, label="Moisture now, %")
        self.fields["start"].widget.attrs["placeholder"] = "green, as sawn"
        self.fields["target"] = PercentField(self.system, 0.04, 0.30, required=False, label="Target, %")
        self.fields["target"].widget.attrs["placeholder"] = "within 1 of its room"
        self.fields["carry"] = PercentField(self.system, 0.08, 0.60, required=False, label="Moved indoors at, %")
        self.fields["carry"].widget.attrs["placeholder"] = "20"
        self.fields["to_kiln"] = PercentField(self.system, 0.08, 0.60, required=False, label="Into a kiln at, %")
        self.fields["to_kiln"].widget.attrs["placeholder"] = "25"
        if own_kilns.of(self.workshop):
            volume = "bd ft" if self.system.is_inch else "m³"
            self.fields["volume_m3"] = VolumeField(self.system, *LOAD_M3, required=False, label=f"How much, {volume}")
            self.fields["volume_m3"].widget.attrs["placeholder"] = "a kiln full"
        self.fields["where"] = forms.ChoiceField(required=False, label="Outdoors in the air of", choices=[*yards, *patterns])
        self.fields["home"] = forms.ChoiceField(required=False, label="It will live in", choices=[*rooms, (HEATED, "a heated room there")])
        self.fields["latitude"] = forms.FloatField(
            required=False,
            min_value=-60,
            max_value=60,
            label="Latitude, for the sun",
            widget=forms.TextInput(attrs={"inputmode": "decimal", "placeholder": "45"}),
            error_messages=dict.fromkeys(("invalid", "min_value", "max_value"), "This must be a latitude from −60 to 60."),
        )
        self.fields["price"] = forms.FloatField(
            required=False,
            min_value=0,
            max_value=100,
            label="A kilowatt hour costs",
            widget=forms.TextInput(attrs={"inputmode": "decimal"}),
            error_messages=dict.fromkeys(("invalid", "min_value", "max_value"), "This must be a price from 0 to 100."),
        )

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean()
        moved, begun = cleaned.get("moved_on"), cleaned.get("start_date") or queries.today()
        if moved and moved <= begun:
            self.add_error("moved_on", "It is moved on a day after the one it begins on.")
        return cleaned
