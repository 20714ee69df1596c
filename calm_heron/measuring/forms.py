"""Forms about meters and readings."""

from django import forms

from calm_heron.measuring import queries
from calm_heron.measuring.models import Meter, MeterKind
from calm_heron.measuring.strip import Line, read
from calm_heron.stock.models import Piece
from calm_heron.workshops.fields import CalmForm, LengthField, MassField, PercentField, TemperatureField
from wood import meters

WOOD_TEMPERATURE = {"low": -30, "high": 70, "usual_low": -20, "usual_high": 45}


def temperature_field(system, **options) -> TemperatureField:
    return TemperatureField(
        system, WOOD_TEMPERATURE["low"], WOOD_TEMPERATURE["high"], usual_low=WOOD_TEMPERATURE["usual_low"],
        usual_high=WOOD_TEMPERATURE["usual_high"], required=False, label=f"Wood temperature, °{system.temperature}", **options,
    )  # fmt: skip


class MeterChoice(forms.ModelChoiceField):
    def label_from_instance(self, meter: Meter) -> str:
        return meter.name


def meter_field(form: CalmForm) -> MeterChoice:
    return MeterChoice(queries.meters_of(form.workshop), label="Meter", empty_label=None, initial=queries.usual_meter(form.membership))


class SpotForm(CalmForm):
    """One meter reading, and where on the board it was taken."""

    layer = forms.ChoiceField(
        label="Depth", choices=[("", "Usual"), ("shell", "Shell"), ("core", "Core")], required=False, widget=forms.RadioSelect, initial=""
    )

    def __init__(self, *args, piece: Piece, **kwargs) -> None:
        self.piece = piece
        super().__init__(*args, **kwargs)

    def build(self) -> None:
        self.fields["meter"] = meter_field(self)
        self.fields["raw"] = PercentField(
            self.system, *meters.READING, label="Reading, %", too_far="Type what the meter shows, in percent."
        )
        self.fields["from_end"] = LengthField(
            self.system, 0, self.piece.length_m, required=False, label=f"From the left end, {self.system.length}",
            too_far="That is past the end of this board.",
        )  # fmt: skip
        self.fields["from_edge"] = LengthField(
            self.system, 0, self.piece.width_m, required=False, label=f"From the upper edge, {self.system.length}",
            too_far="That is past the edge of this board.",
        )  # fmt: skip
        self.fields["wood_temperature"] = temperature_field(self.system)
        self.order_fields(["meter", "raw", "layer", "from_end", "from_edge", "wood_temperature"])


class StripForm(CalmForm):
    """The reading strip: lines of tags and numbers."""

    strip = forms.CharField(
        label="Readings", max_length=40_000, strip=False,
        widget=forms.Textarea(attrs={"rows": 3, "autocomplete": "off", "autocapitalize": "off", "spellcheck": "false"}),
    )  # fmt: skip

    def build(self) -> None:
        self.fields["meter"] = meter_field(self)
        self.fields["wood_temperature"] = temperature_field(self.system, help_text="Leave empty to take the air where each piece lies.")

    def clean_strip(self) -> list[Line]:
        lines = read(self.cleaned_data["strip"])
        if not lines:
            raise forms.ValidationError("Write a tag and what the meter shows, like ash-07 11.2 11.8 12.1 core 14.")
        return lines


class WeightForm(CalmForm):
    """The whole piece on a scale."""

    def __init__(self, *args, piece: Piece, **kwargs) -> None:
        self.piece = piece
        super().__init__(*args, **kwargs)

    def build(self) -> None:
        unit = self.system.mass
        self.fields["mass_kg"] = MassField(self.system, 0.001, 2000, label=f"Weight now, {unit}")
        self.fields["ovendry_mass_kg"] = MassField(
            self.system, 0.001, 2000, required=False, initial=self.piece.ovendry_mass_kg, label=f"Ovendry weight, {unit}",
            help_text="Measured, or worked out by an oven test below.",
        )  # fmt: skip
        self.fields["scale_step_kg"] = MassField(self.system, 0, 1, required=False, label=f"The scale reads to, {unit}")


class OvenForm(CalmForm):
    """A section cut from the piece, weighed wet and ovendry."""

    def build(self) -> None:
        unit = self.system.mass
        self.fields["wet_mass_kg"] = MassField(self.system, 0.0005, 50, label=f"Section when cut, {unit}")
        self.fields["dry_mass_kg"] = MassField(self.system, 0.0005, 50, label=f"Section ovendry, {unit}")
        self.fields["piece_mass_kg"] = MassField(
            self.system, 0.001, 2000, required=False, label=f"The piece itself when it was cut, {unit}",
            help_text="Gives the ovendry weight of the piece; from then on a scale is enough.",
        )  # fmt: skip
        self.fields["scale_step_kg"] = MassField(self.system, 0, 1, required=False, label=f"The scale reads to, {unit}")


class MeterForm(CalmForm):
    """A meter and its settings; ``meter`` is given when it is being changed."""

    name = forms.CharField(label="What you call it", max_length=60)
    kind = forms.ChoiceField(label="What it is", choices=MeterKind.choices, widget=forms.RadioSelect, initial=MeterKind.PIN)
    species_set_on_meter = forms.BooleanField(label="I set the species on the meter itself", required=False)
    temperature_set_on_meter = forms.BooleanField(label="It corrects for temperature itself", required=False)
    density_setting = forms.FloatField(
        label="Specific gravity it is set to", required=False, min_value=0.1, max_value=1.3,
        widget=forms.TextInput(attrs={"inputmode": "decimal", "autocomplete": "off"}),
        help_text="As in 0.50. Leave empty if you set it to each species.",
    )  # fmt: skip
    version = forms.IntegerField(widget=forms.HiddenInput, required=False)

    def __init__(self, *args, meter: Meter | None = None, **kwargs) -> None:
        if meter:
            names = (
                "name",
                "kind",
                "tolerance",
                "species_set_on_meter",
                "temperature_set_on_meter",
                "density_setting",
                "depth_m",
                "version",
            )
            kwargs["initial"] = {name: getattr(meter, name) for name in names}
        super().__init__(*args, **kwargs)

    def build(self) -> None:
        self.fields["tolerance"] = PercentField(
            self.system, 0.001, 0.1, label="Good to, ± % moisture", initial="1", help_text="From its leaflet; 1 if it does not say."
        )
        self.fields["depth_m"] = LengthField(
            self.system, 0.002, 0.06, required=False, label=f"It senses to a depth of, {self.system.length}",
            initial="3/4 in" if self.system.length == "in" else "20 mm",
        )  # fmt: skip
        self.order_fields(["name", "kind", "tolerance", "species_set_on_meter", "temperature_set_on_meter", "density_setting", "depth_m"])

    def values(self) -> dict:
        """What the action takes, from a valid form."""
        names = ("name", "kind", "tolerance", "species_set_on_meter", "temperature_set_on_meter", "density_setting")
        return {name: self.cleaned_data[name] for name in names} | {"depth_m": self.cleaned_data["depth_m"] or 0.02}
