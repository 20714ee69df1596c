"""What is asked before anything is kept. Nothing is required: the answer comes when there is enough to answer."""

from django import forms

from calm_heron.air import queries as air
from calm_heron.ask.homes import HOMES, TYPED
from calm_heron.measuring import queries as measuring
from calm_heron.measuring import strip
from calm_heron.measuring.strip import Line
from calm_heron.site.numbers import figure
from calm_heron.stock.species_forms import SpeciesField
from calm_heron.workshops.fields import CalmForm, LengthField, PercentField, TemperatureField
from wood.units import CannotRead, number
from wood.uses import FINE, GENERAL, INSTRUMENT, OUTDOORS

USUAL_C = (-20, 45)
# What a hygrometer is good to, and what moisture is wished, where nobody says.
USUAL_RH_TOLERANCE, USUAL_WISH = 0.03, 0.08
DONT_KNOW = ("", "?", "don't know", "don’t know", "dont know", "unknown")
GRAINS = (("0", "flat: rings along the wide face"), ("45", "rift: rings at a slant"), ("90", "quarter: rings upright"))
PATIENCE = (("56", "two months"), ("14", "two weeks"), ("182", "half a year"))
MOST_WIDTH_M = 2.0
# What meters leave open at a rack, fine work does not allow: general work comes first.
USES = (GENERAL, FINE, OUTDOORS, INSTRUMENT)
METERS = (
    ("any", "any meter, as it stands"), ("pin", "pins, not set to the species"), ("pin_set", "pins, set to the species"),
    ("pinless", "pinless, set to the species"),
)  # fmt: skip


class AskForm(CalmForm):
    """A question that is asked in its address."""

    all_have_defaults = True

    def build(self) -> None:
        del self.fields["once"]


def air_fields(form: CalmForm) -> None:
    """Temperature and humidity as an instrument shows them."""
    form.fields["temperature"] = TemperatureField(
        form.system, -40, 110, usual_low=USUAL_C[0], usual_high=USUAL_C[1], required=False, label=f"Temperature, °{form.system.temperature}"
    )
    form.fields["humidity"] = PercentField(
        form.system, 0.01, 0.99, required=False, label="Humidity, %",
        too_far="A hygrometer that shows 0 or 100 is at its end stop: let it settle an hour, and read again.",
    )  # fmt: skip


class WrongWayRound(forms.Form):
    """Catches the humidity in the temperature's field, and the other way round."""

    def clean(self) -> dict:
        cleaned = super().clean()
        if "temperature" in self.errors:
            try:
                warm, damp = number(self.data.get("temperature", "")), number(self.data.get("humidity", ""))
            except CannotRead:
                return cleaned
            low, high = (5, 40) if self.system.temperature == "C" else (40, 100)  # type: ignore[attr-defined]
            if low <= damp <= high and 0 < warm < 100:
                self.errors["temperature"] = self.error_class(
                    [f"Are the two the wrong way round? {damp:g} would be a usual temperature, {warm:g} a usual humidity."]
                )
        return cleaned


class AirQuestion(WrongWayRound, AskForm):
    """The air, and the moisture that is wished of it."""

    def build(self) -> None:
        super().build()
        air_fields(self)
        self.fields["wish"] = PercentField(self.system, 0.02, 0.26, required=False, label="Wood wanted at, %")
        self.fields["wish"].widget.attrs["placeholder"] = figure(USUAL_WISH)
        self.fields["good_to"] = PercentField(self.system, 0.005, 0.15, required=False, label="Hygrometer, ± %")
        self.fields["good_to"].widget.attrs["placeholder"] = figure(USUAL_RH_TOLERANCE)


class AnySpecies(SpeciesField):
    """A species, or that it is not known."""

    def clean(self, value):
        return "" if (value or "").strip().casefold() in DONT_KNOW else super().clean(value)


class WoodQuestion(WrongWayRound, AskForm):
    """Wood at the rack, and the home it would come to."""

    takes_section = True
    readings = forms.CharField(label="It reads, %", required=False, max_length=2000)

    def build(self) -> None:
        super().build()
        self.places = list(air.places(self.workshop)) if self.workshop.pk else []
        self.meters = list(measuring.meters_of(self.workshop)) if self.workshop.pk else []
        unit = self.system.length
        # A keyboard with figures has no room for a space: the button beside the field makes one.
        self.fields["readings"].widget = forms.TextInput(
            attrs={"inputmode": "decimal", "autocomplete": "off", "placeholder": "11.2 11.8 12.1"}
        )
        self.fields["thickness_m"] = LengthField(self.system, 0.002, 0.5, required=False, label=f"Thickness, {unit}")
        self.fields["thickness_m"].widget.attrs["inputmode"] = "text"
        self.fields["thickness_m"].widget.attrs["placeholder"] = "4/4" if unit == "in" else "27"
        self.fields["species_key"] = AnySpecies(self.workshop, required=False, label="Species")
        self.fields["species_key"].widget.attrs["placeholder"] = "don’t know"
        own = [(f"meter-{meter.pk}", meter.name) for meter in self.meters]
        self.fields["meter"] = forms.ChoiceField(label="Read with", required=False, choices=[*own, *METERS])
        places = [(f"place-{place.pk}", place.name) for place in self.places]
        homes = [(key, home.name) for key, home in HOMES.items()]
        self.fields["home"] = forms.ChoiceField(
            label="It will live in", required=False, choices=[*places, *homes, (TYPED, "air I type below")]
        )
        air_fields(self)
        self.fields["use"] = forms.ChoiceField(
            label="For", required=False, choices=[(use.key, f"{use.name.lower()}, ± {figure(use.tolerance)}") for use in USES]
        )
        self.fields["patience"] = forms.ChoiceField(label="I can wait", required=False, choices=PATIENCE)

    def first(self, name: str) -> str:
        """What a choice stands at where nobody chose."""
        field = self.fields[name]
        assert isinstance(field, forms.ChoiceField)
        return next(iter(field.choices))[0]

    def clean_readings(self) -> Line | None:
        """The numbers as one line without a tag, None where there is none yet."""
        text = " ".join(self.cleaned_data["readings"].split())
        if not text:
            return None
        line = strip.read_numbers(text)
        if line.error:
            raise forms.ValidationError(line.error)
        return line

    def clean_patience(self) -> int:
        return int(self.cleaned_data["patience"] or PATIENCE[0][0])


class MovementQuestion(AskForm):
    """A board that is not here, between two moistures."""

    takes_section = True
    grain = forms.ChoiceField(label="Grain", choices=GRAINS, required=False)

    def build(self) -> None:
        super().build()
        unit = self.system.length
        self.fields["species_key"] = SpeciesField(self.workshop, required=False, label="Species")
        self.fields["width_m"] = LengthField(self.system, 0.005, MOST_WIDTH_M, required=False, label=f"Width, {unit}")
        self.fields["thickness_m"] = LengthField(self.system, 0.001, 0.5, required=False, label=f"Thickness, {unit}")
        self.fields["thickness_m"].widget.attrs["placeholder"] = "1" if unit == "in" else "25"
        for name in ("width_m", "thickness_m"):
            self.fields[name].widget.attrs["inputmode"] = "text"
        self.fields["from_moisture"] = PercentField(self.system, 0.0, 2.0, required=False, label="It is at, %")
        self.fields["to_moisture"] = PercentField(self.system, 0.0, 2.0, required=False, label="It goes to, %")
        self.order_fields(["species_key", "width_m", "from_moisture", "to_moisture", "grain", "thickness_m"])
