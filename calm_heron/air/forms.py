"""Forms about places and air."""

from django import forms

from calm_heron.air.models import USUAL_TEMPERATURE_C, Kind, Place
from calm_heron.workshops.fields import CalmForm, PercentField, TemperatureField


class PlaceForm(CalmForm):
    """A place; ``place`` is given when it is being changed."""

    name = forms.CharField(label="What you call it", max_length=60)
    kind = forms.ChoiceField(label="What it is", choices=Kind.choices, widget=forms.RadioSelect, initial=Kind.ROOM)
    version = forms.IntegerField(widget=forms.HiddenInput, required=False)

    field_order = ["name", "kind", "rh_tolerance"]

    def __init__(self, *args, place: Place | None = None, **kwargs) -> None:
        if place:
            kwargs["initial"] = {"name": place.name, "kind": place.kind, "rh_tolerance": place.rh_tolerance, "version": place.version}
        super().__init__(*args, **kwargs)

    def build(self) -> None:
        self.fields["rh_tolerance"] = PercentField(
            self.system, 0.005, 0.15, label="Its hygrometer is good to, ± % RH", initial="3",
            help_text="From its leaflet: a good one 2, a usual one 3, a dial 5 or more.",
        )  # fmt: skip
        self.order_fields(self.field_order)


class AirForm(CalmForm):
    """Temperature and humidity as the instrument shows them."""

    def __init__(self, *args, place: Place, **kwargs) -> None:
        self.place = place
        super().__init__(*args, **kwargs)

    def build(self) -> None:
        low, high = USUAL_TEMPERATURE_C[Kind(self.place.kind)]
        self.fields["temperature"] = TemperatureField(
            self.system, -40, 120 if self.place.kind == Kind.KILN else 60, usual_low=low, usual_high=high,
            label=f"Temperature, °{self.system.temperature}",
        )  # fmt: skip
        self.fields["humidity"] = PercentField(
            self.system, 0.01, 0.99, label="Relative humidity, %",
            too_far="A hygrometer that shows 0 or 100 is at its end stop: dry it, let it settle an hour, and read again.",
        )  # fmt: skip
