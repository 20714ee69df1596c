"""What a drying is asked about. Everything has a default; what is typed wrong says so beside its field."""

from datetime import date, timedelta
from typing import Any

from django import forms

from calm_heron.air.models import Place
from calm_heron.drying import queries
from calm_heron.drying.methods import METHODS
from calm_heron.stock.species_forms import SpeciesField
from calm_heron.workshops.fields import CalmForm, LengthField, PercentField, TemperatureField
from wood.drying.field import GREATEST_MOISTURE, THICKNESS_M
from wood.drying.methods import WINDS

WIND_WORDS = {"breezy": "open and breezy"}
YARDS = tuple((key, WIND_WORDS.get(key, key)) for key in WINDS)
ENDS = (("sealed", "sealed"), ("open", "open"))
# What it is dried until: a moisture, or what its air can do.
WANTED, AS_DRY_AS_IT_GETS = "wanted", "driest"
UNTIL = ((WANTED, "its target"), (AS_DRY_AS_IT_GETS, "as dry as it gets there"))
# Thickness of what is dried here: veneer to a beam.
MOST_THICKNESS_M = min(THICKNESS_M[1], 0.5)
YEARS_AHEAD = 5


class BeginField(forms.DateField):
    """The day something begins to dry, near enough to today for its years to be known; empty where the form says so."""

    def __init__(self, label: str) -> None:
        super().__init__(
            label=label,
            required=False,
            widget=forms.DateInput(attrs={"type": "date"}, format="%Y-%m-%d"),
            error_messages={"invalid": "That isn’t a date; write it like 2027-03-01."},
        )

    def clean(self, value: Any) -> date | None:
        day, most = super().clean(value), timedelta(days=365 * YEARS_AHEAD)
        if day is not None and abs(day - queries.today()) > most:
            raise forms.ValidationError(f"That is more than {YEARS_AHEAD} years away; choose a day nearer to today.")
        return day


class DryingForm(CalmForm):
    """The piece, from which moisture to which, where, from when."""

    # Nothing need be said twice: no field is called optional.
    all_have_defaults = True
    takes_section = True

    start_date = BeginField("From")
    wind = forms.ChoiceField(label="The yard is", choices=YARDS, required=False)
    until = forms.ChoiceField(label="Until it is at", choices=UNTIL, required=False)
    ends = forms.ChoiceField(label="Its ends are", choices=ENDS, required=False)

    def __init__(self, *args: Any, places: list[Place], **kwargs: Any) -> None:
        self.places = places
        super().__init__(*args, **kwargs)

    def build(self) -> None:
        unit = self.system.length
        self.fields["species_key"] = SpeciesField(self.workshop, label="Species", required=False)
        self.fields["thickness_m"] = LengthField(self.system, 0.001, MOST_THICKNESS_M, label=f"Thickness, {unit}", required=False)
        self.fields["width_m"] = LengthField(self.system, 0.005, 2.0, label=f"Width, {unit}", required=False)
        self.fields["length_m"] = LengthField(self.system, 0.02, 15.0, label=f"Length, {unit}", required=False)
        self.fields["start"] = PercentField(self.system, 0.0, GREATEST_MOISTURE, label="Moisture now, %", required=False)
        self.fields["start"].widget.attrs["placeholder"] = "green, as sawn"
        self.fields["target"] = PercentField(self.system, 0.01, 0.6, label="Target, %", required=False)
        self.fields["target"].widget.attrs["placeholder"] = "until it’s ready to work"
        self.fields["where"] = forms.ChoiceField(label="Air", choices=queries.where_choices(self.places), required=False)
        self.fields["then"] = forms.ChoiceField(label="Then moved to", choices=queries.then_choices(self.places), required=False)
        self.fields["carry"] = PercentField(self.system, 0.05, 0.6, label="when it reaches, %", required=False)
        self.fields["by"] = forms.ChoiceField(
            label="Method", choices=[(method.key, method.core.name) for method in METHODS], required=False
        )
        self.fields["temperature_c"] = TemperatureField(self.system, 5.0, 110.0, label=f"Kiln, °{self.system.temperature}", required=False)
        self.fields["humidity"] = PercentField(self.system, 0.0, 1.0, label="Kiln, % RH", required=False)

    @property
    def asked_by(self) -> dict[str, str]:
        """The methods that alone ask for a field, by its name: the others put it away."""
        return {name: " ".join(method.key for method in METHODS if name in method.asks) for name in self.fields}

    @property
    def indoors(self) -> str:
        """Places that are themselves the way the wood lies: nothing more is asked about them."""
        return " ".join(f"place-{place.pk}" for place in self.places if not place.traits.is_outdoors)


class SpeedUpForm(CalmForm):
    """What may be taken off, and how long the pieces are that it is cut to."""

    all_have_defaults = True

    def build(self) -> None:
        unit = self.system.length
        self.fields["skimmed_m"] = LengthField(self.system, 0.0, 0.02, label=f"Skimmed off each face, {unit}", required=False)
        self.fields["rough_length_m"] = LengthField(self.system, 0.02, 15.0, label=f"Cut to rough lengths of, {unit}", required=False)
