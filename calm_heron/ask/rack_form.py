"""What is asked of wood at the rack."""

from typing import Any

from django import forms

from calm_heron.air import queries as air
from calm_heron.ask.forms import WrongWayRound, air_fields
from calm_heron.ask.homes import HOMES, TYPED
from calm_heron.measuring import queries as measuring
from calm_heron.measuring import strip
from calm_heron.measuring.strip import Line
from calm_heron.questions.forms import Group, QuestionForm, SeveralNumbers
from calm_heron.site.numbers import figure
from calm_heron.stock.species_forms import SpeciesField
from calm_heron.workshops.fields import LengthField
from wood.uses import FINE, GENERAL, INSTRUMENT, OUTDOORS

DONT_KNOW = ("", "?", "don't know", "don’t know", "dont know", "unknown")
PATIENCE = (("56", "two months"), ("14", "two weeks"), ("182", "half a year"))
# What meters leave open at a rack, fine work does not allow: general work comes first.
USES = (GENERAL, FINE, OUTDOORS, INSTRUMENT)
METERS = (
    ("any", "any meter, as it stands"),
    ("pin", "pins, not set to the species"),
    ("pin_set", "pins, set to the species"),
    ("pinless", "pinless, set to the species"),
)


class AnySpecies(SpeciesField):
    """A species, or that it is not known."""

    def clean(self, value: Any) -> Any:
        return "" if (value or "").strip().casefold() in DONT_KNOW else super().clean(value)


class RackForm(WrongWayRound, QuestionForm):
    """Wood at the rack, and the home it would come to."""

    takes_section = True
    answer_below = True
    groups = (
        Group(("readings", "thickness_m", "species_key", "home", "temperature", "humidity")),
        Group(("meter", "use", "patience"), "Meter, use, how long I can wait"),
    )
    depends = {"temperature": f"home={TYPED}", "humidity": f"home={TYPED}"}
    wide = ("readings", "home")
    readings = forms.CharField(
        label="It reads, %",
        required=False,
        max_length=2000,
        widget=SeveralNumbers(attrs={"placeholder": "11.2 11.8 12.1"}),
        help_text="As many as you took. Type core before one that was read deep.",
    )

    def build(self) -> None:
        self.places = list(air.places(self.workshop)) if self.workshop.pk else []
        self.meters = list(measuring.meters_of(self.workshop)) if self.workshop.pk else []
        unit = self.system.length
        self.fields["thickness_m"] = LengthField(self.system, 0.002, 0.5, required=False, label=f"Thickness, {unit}")
        self.fields["thickness_m"].widget.attrs |= {"inputmode": "text", "placeholder": "4/4" if self.system.is_inch else "27"}
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
            label="For", required=False, choices=[(use.key, f"{use.name.lower()}, ±{figure(use.tolerance)}") for use in USES]
        )
        self.fields["patience"] = forms.ChoiceField(label="I can wait", required=False, choices=PATIENCE)

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
