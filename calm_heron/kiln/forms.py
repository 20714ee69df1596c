"""What a load is asked about: the wood, the chamber and its limits, what is wanted, and how carefully."""

from typing import Any

from django import forms

from calm_heron.air import queries as air
from calm_heron.air.models import Place
from calm_heron.drying import queries as drying
from calm_heron.drying import questions
from calm_heron.drying.forms import BeginField
from calm_heron.kiln.kinds import CARES, CHAMBERS
from calm_heron.kiln.models import Chamber
from calm_heron.questions.forms import Group
from calm_heron.stacks.forms import OfLotsForm
from calm_heron.stock.models import Piece
from calm_heron.stock.species_forms import SpeciesField
from calm_heron.workshops.askers import Asker
from calm_heron.workshops.fields import (
    CalmForm,
    LengthField,
    PercentField,
    TemperatureField,
    VolumeField,
    WrittenField,
    bare_celsius,
)
from wood.errors import CannotRead
from wood.kiln import programs
from wood.kiln.chambers import LIMITS_C, LOAD_M3
from wood.kiln.schedules import Step
from wood.units import System, percent, to_fahrenheit
from wood.units import number as number_of

PINT_L, CFM_M3_H = 0.4732, 1.699


def number_field(label: str, low: float, high: float, placeholder: str = "") -> forms.FloatField:
    """A plain number with its limits; empty where it is as usual."""
    attrs = {"inputmode": "decimal"} | ({"placeholder": placeholder} if placeholder else {})
    words = f"This must be a number from {low:g} to {high:g}."
    return forms.FloatField(
        required=False,
        min_value=low,
        max_value=high,
        label=label,
        widget=forms.TextInput(attrs=attrs),
        error_messages=dict.fromkeys(("invalid", "min_value", "max_value"), words),
    )


class WaterField(WrittenField):
    """How much water a day, kept in litres; pints in an inch workshop."""

    @staticmethod
    def unit_in(system: System) -> str:
        return "pints" if system.is_inch else "l"

    def read(self, text: str) -> float:
        bare = text.lower().strip()
        in_pints = self.system.is_inch if bare[-1:].isdigit() else bare.endswith(("pints", "pint", "pt"))
        for unit in ("pints", "pint", "pt", "litres", "litre", "l"):
            bare = bare.removesuffix(unit)
        return number_of(bare.strip()) * (PINT_L if in_pints else 1.0)

    def write(self, number: float) -> str:
        shown, unit = (number / PINT_L, "pints") if self.system.is_inch else (number, "l")
        return f"{shown:,.0f} {unit}" if shown >= 10 else f"{shown:.1f} {unit}"

    def write_plain(self, number: float) -> str:
        return f"{number / (PINT_L if self.system.is_inch else 1.0):.4g}"


class AirflowField(WrittenField):
    """How much air fans move, kept in cubic metres an hour; cubic feet a minute in an inch workshop."""

    @staticmethod
    def unit_in(system: System) -> str:
        return "cubic feet a minute" if system.is_inch else "m³ an hour"

    def read(self, text: str) -> float:
        bare = text.lower().strip()
        in_feet = self.system.is_inch if bare[-1:].isdigit() else bare.endswith(("cfm", "a minute"))
        for unit in ("cubic feet a minute", "cfm", "m³ an hour", "m3/h", "m³/h"):
            bare = bare.removesuffix(unit)
        return number_of(bare.strip()) * (CFM_M3_H if in_feet else 1.0)

    def write(self, number: float) -> str:
        return f"{number / CFM_M3_H:,.0f} cubic feet a minute" if self.system.is_inch else f"{number:,.0f} m³ an hour"

    def write_plain(self, number: float) -> str:
        return f"{number / (CFM_M3_H if self.system.is_inch else 1.0):.4g}"


def water_field(system: System) -> WaterField:
    """What a compressor takes in a day."""
    label = "Its compressor takes, pints a day" if system.is_inch else "Its compressor takes, litres a day"
    field = WaterField(system, 0.5, 20_000, required=False, label=label)
    field.widget.attrs["placeholder"] = "as usual"
    return field


class LoadForm(OfLotsForm):
    """How do I run this load? Everything has a default but the wood, which is imagined or is that of lots of the stock."""

    takes_section = True
    groups = (
        Group(
            (
                "of",
                "lots",
                "species_key",
                "thickness_m",
                "volume_m3",
                "start",
                "wanted",
                "home",
                "chamber",
                "care",
                "where",
                "start_date",
                "price",
            )
        ),
        Group(("with_species", "with_thickness_m", "with_start"), "Another wood in the same load"),
        Group(
            ("capacity_m3", "hottest_c", "litres_a_day", "heat_kw", "spray", "even", "condition", "latitude", "own"),
            "The kiln’s limits, its end, your own steps",
        ),
    )
    depends = OfLotsForm.depends_on_wood("species_key", "thickness_m", "volume_m3", "with_species", "with_thickness_m", "with_start")
    wide = ("own",)
    always = ("where",)
    called = {"thickness_m": "thickness_m", "load_m3": "volume_m3", "start": "start", "hottest_c": "hottest_c", "width_m": "thickness_m"}
    start_date = BeginField("From")
    care = forms.ChoiceField(label="Run", choices=CARES, required=False)

    @classmethod
    def begins_with(cls, asker: Asker, subject: Piece | None) -> dict[str, str]:
        inch, workshop = asker.system.is_inch, asker.workshop
        begun = {
            "species_key": "white oak",
            "thickness_m": "4/4" if inch else "27",
            "volume_m3": "1000" if inch else "2.5",
            "where": questions.usual_anywhere(workshop, list(air.places(workshop)) if asker.is_member else [])["where"],
        }
        return begun | cls.lots_of(subject)

    def build(self) -> None:
        self.chambers = list(Chamber.objects.of(self.workshop).order_by("name")) if self.workshop.pk else []
        self.places: list[Place] = list(air.places(self.workshop)) if self.workshop.pk else []
        unit, inch = self.system.length, self.system.is_inch
        volume = "bd ft" if inch else "m³"
        self.add_lots("The load is")
        self.fields["species_key"] = SpeciesField(self.workshop, required=False, label="Species")
        self.fields["thickness_m"] = LengthField(self.system, 0.006, 0.12, required=False, label=f"Thickness, {unit}")
        self.fields["start"] = PercentField(self.system, 0.02, 3.0, required=False, label="Moisture now, %")
        self.fields["start"].widget.attrs["placeholder"] = "green, as sawn"
        self.fields["volume_m3"] = VolumeField(self.system, LOAD_M3[0], LOAD_M3[1], required=False, label=f"How much, {volume}")
        self.fields["with_species"] = SpeciesField(self.workshop, required=False, label="Together with")
        self.fields["with_thickness_m"] = LengthField(self.system, 0.006, 0.12, required=False, label=f"its thickness, {unit}")
        self.fields["with_start"] = PercentField(self.system, 0.02, 3.0, required=False, label="its moisture now, %")
        self.fields["wanted"] = PercentField(self.system, *programs.TARGETS, required=False, label="Target, %")
        self.fields["wanted"].widget.attrs["placeholder"] = "within its home"
        own = [(f"chamber-{chamber.pk}", chamber.name) for chamber in self.chambers]
        self.fields["chamber"] = forms.ChoiceField(required=False, label="Kiln", choices=[*own, *CHAMBERS])
        rooms = [(f"place-{place.pk}", place.name) for place in self.places if place.traits.is_a_room and place.traits.is_heated]
        self.fields["home"] = forms.ChoiceField(required=False, label="It will live in", choices=[*rooms, ("usual", "a heated room")])
        self.fields["hottest_c"] = TemperatureField(
            self.system, *LIMITS_C, usual_low=25, usual_high=95, required=False, label=f"Maximum temperature, °{self.system.temperature}"
        )
        self.fields["capacity_m3"] = VolumeField(self.system, LOAD_M3[0], LOAD_M3[1], required=False, label=f"Capacity, {volume}")
        self.fields["litres_a_day"] = water_field(self.system)
        self.fields["heat_kw"] = number_field("Its heat, kW", 0.05, 2000, "as usual")
        self.fields["spray"] = forms.ChoiceField(
            required=False, label="Can add steam or spray", choices=(("", "as usual"), ("yes", "yes"), ("no", "no"))
        )
        self.fields["even"] = forms.ChoiceField(required=False, label="Evened out in the end", choices=(("yes", "yes"), ("no", "no")))
        self.fields["condition"] = forms.ChoiceField(
            required=False, label="Conditioned", choices=(("yes", "yes, where it can be"), ("no", "no"))
        )
        self.fields["where"] = forms.ChoiceField(required=False, label="It stands in the air of", choices=drying.where_choices(self.places))
        self.fields["latitude"] = number_field("Latitude, for the sun", -60, 60, "45")
        self.fields["own"] = StepsField(self.system, label=f"Your own steps: until %, dry and wet bulb °{self.system.temperature}")
        self.fields["price"] = number_field("A kilowatt hour costs", 0, 100)


class StepsField(forms.CharField):
    """One's own schedule, a step a line: the moisture until which it holds, the dry bulb and the wet bulb; cleans to steps in order, or
    None.
    """

    def __init__(self, system: System, **options: Any) -> None:
        self.system = system
        super().__init__(required=False, max_length=2000, widget=forms.Textarea(attrs={"rows": 5, "placeholder": "40 43 41"}), **options)

    def in_units(self, text: str, before: System) -> str:
        """The steps for a reader of the other warmth: their bare degrees written anew. What cannot be read stays as it is."""
        lines = []
        for line in text.splitlines():
            cells = line.replace(";", " ").split()
            try:
                if len(cells) == 3:
                    warm = (bare_celsius(number_of(cell), before.temperature) for cell in cells[1:])
                    cells[1:] = [f"{celsius if self.system.temperature == 'C' else to_fahrenheit(celsius):.6g}" for celsius in warm]
                    line = " ".join(cells)
            except CannotRead:
                pass
            lines.append(line)
        return "\n".join(lines)

    def clean(self, value: str) -> list[Step] | None:
        text = super().clean(value)
        steps: list[Step] = []
        for number, line in enumerate((splitline for splitline in text.splitlines() if splitline.strip()), 1):
            cells = line.replace(";", " ").replace("\t", " ").split()
            if len(cells) != 3:
                raise forms.ValidationError(
                    f"Step {number}: three numbers belong there, the moisture until which it holds, the dry bulb and the wet bulb."
                )
            try:
                until, dry, wet = (
                    percent(cells[0]),
                    bare_celsius(number_of(cells[1]), self.system.temperature),
                    bare_celsius(number_of(cells[2]), self.system.temperature),
                )
            except CannotRead as unread:
                raise forms.ValidationError(f"Step {number}: {unread.why}.") from None
            if not 0.02 <= until <= 3.0 or not LIMITS_C[0] <= dry <= LIMITS_C[1] or not 5 <= wet <= dry:
                raise forms.ValidationError(f"Step {number}: no kiln is set so. The wet bulb is never above the dry one.")
            if steps and until >= steps[-1].until:
                raise forms.ValidationError(f"Step {number}: each step holds down to a lower moisture than the one before.")
            steps.append(Step(until, dry, wet))
        if len(steps) > programs.SETTINGS_MOST:
            raise forms.ValidationError(f"At most {programs.SETTINGS_MOST} steps.")
        return steps or None


def check_bulbs(form: forms.Form, cleaned: dict[str, Any]) -> None:
    """A wet bulb that is warmer than the dry one, said beside it."""
    dry, wet = cleaned.get("dry_bulb_c"), cleaned.get("wet_bulb_c")
    if dry is not None and wet is not None and wet > dry:
        form.add_error("wet_bulb_c", "A wet bulb is never warmer than the dry one: are the two changed about?")


class BulbsForm(CalmForm):
    """A form with a dry and a wet bulb."""

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean()
        check_bulbs(self, cleaned)
        return cleaned
