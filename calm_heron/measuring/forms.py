"""Forms about meters and readings."""

from typing import Any

from django import forms

from calm_heron.measuring import queries
from calm_heron.measuring.actions import Taken
from calm_heron.measuring.kinds import READS_MOISTURE, Condition, Face, Layer, MeterKind, SlabTestKind
from calm_heron.measuring.models import Meter, Reading
from calm_heron.measuring.strip import Line, read
from calm_heron.stock import queries as stock
from calm_heron.stock.models import LotPart, Piece
from calm_heron.stock.species_forms import SpeciesField
from calm_heron.workshops.fields import CalmForm, DayField, LengthField, MassField, PercentField, TemperatureField, sentence
from wood.errors import CannotRead
from wood.measuring import meters
from wood.units import OUNCE_KG, System

USUAL_DEPTH_M, USUAL_TOLERANCE = 0.02, 0.01
WOOD_TEMPERATURE = {"low": -30, "high": 70, "usual_low": -20, "usual_high": 45}


def temperature_field(system: Any, **options: Any) -> TemperatureField:
    return TemperatureField(
        system,
        WOOD_TEMPERATURE["low"],
        WOOD_TEMPERATURE["high"],
        usual_low=WOOD_TEMPERATURE["usual_low"],
        usual_high=WOOD_TEMPERATURE["usual_high"],
        required=False,
        label=f"Wood temperature, °{system.temperature}",
        **options,
    )


class MeterChoice(forms.ModelChoiceField):  # type: ignore[type-arg]
    def label_from_instance(self, meter: Meter) -> str:
        return meter.name


def meter_field(form: CalmForm) -> MeterChoice:
    return MeterChoice(queries.meters_of(form.workshop), label="Meter", empty_label=None, initial=queries.usual_meter(form.membership))


class SpotForm(CalmForm):
    """One meter reading, and where on the piece it was taken."""

    layer = forms.ChoiceField(label="Depth", required=False, widget=forms.RadioSelect, initial="")
    face = forms.ChoiceField(label="On", choices=Face.choices, required=False)
    condition = forms.ChoiceField(label="The surface there", choices=Condition.choices, required=False)

    def __init__(self, *args: Any, piece: Piece, **kwargs: Any) -> None:
        self.piece = piece
        super().__init__(*args, **kwargs)

    def build(self) -> None:
        traits = self.piece.traits

        self.fields["layer"].choices = [(Layer.USUAL, "Usual"), (Layer.SHELL, traits.outer), (Layer.CORE, traits.inner)]  # type: ignore[attr-defined]
        self.fields["meter"] = meter_field(self)
        self.fields["raw"] = PercentField(
            self.system, *meters.READING, label="Reading, %", too_far="Type what the meter shows, in percent."
        )
        length, width = self.piece.seen_m
        self.fields["from_end"] = LengthField(
            self.system, 0, length, required=False, label=f"From the left end, {self.system.length}", too_far="That is past its end."
        )
        self.fields["from_edge"] = LengthField(
            self.system, 0, width, required=False, label=f"From the upper edge, {self.system.length}", too_far="That is past its edge."
        )
        self.fields["wood_temperature"] = temperature_field(self.system)
        self.fields["at"] = DayField(label="Read on", help_text="Empty: now.")
        if self.piece.is_lot:
            self.fields["part"] = forms.ChoiceField(
                label="The board lies", choices=LotPart.choices, required=False, widget=forms.RadioSelect, initial=""
            )
            del self.fields["from_end"], self.fields["from_edge"]
        self.order_fields(["meter", "raw", "layer", "part", "from_end", "from_edge", "face", "condition", "wood_temperature", "at"])

    def taken(self) -> Taken:
        """What was read, from a valid form."""
        cleaned, (length, width) = self.cleaned_data, self.piece.seen_m
        from_end, from_edge = cleaned.get("from_end"), cleaned.get("from_edge")
        return Taken(
            cleaned["raw"],
            cleaned["layer"],
            None if from_end is None else from_end / length,
            None if from_edge is None else from_edge / width,
            face=cleaned["face"],
            condition=cleaned["condition"],
            part=cleaned.get("part", ""),
        )


class StripForm(CalmForm):
    """The reading strip: lines of tags and numbers."""

    strip = forms.CharField(
        label="Readings",
        max_length=40_000,
        strip=False,
        widget=forms.Textarea(attrs={"rows": 3, "autocomplete": "off", "autocapitalize": "off", "spellcheck": "false"}),
    )

    def build(self) -> None:
        self.fields["meter"] = meter_field(self)
        self.fields["wood_temperature"] = temperature_field(self.system, help_text="Leave empty to use the air where each piece is.")
        self.fields["at"] = DayField(label="Read on", help_text="Empty: now.")

    def clean_strip(self) -> list[Line]:
        lines = read(self.cleaned_data["strip"])
        if not lines:
            raise forms.ValidationError("Write a tag and what the meter shows, like ash-07 11.2 11.8 12.1 core 14.")
        return lines


USUAL_SCALE_STEP_KG = 0.001


def scale_step(kilograms: float | None, system: System) -> str | None:
    """A small step of a scale, short in the system's own unit."""
    if kilograms is None:
        return None
    return f"{kilograms / OUNCE_KG:.5g} oz" if system.is_inch else f"{kilograms * 1000:g} g"


def add_scale(form: CalmForm) -> None:
    """How finely the scale reads, and the day it was read on."""
    scales = [scale for scale in queries.scales_of(form.workshop) if scale.step_kg is not None]
    form.fields["scale_step_kg"] = MassField(
        form.system,
        0,
        1,
        required=False,
        label=f"The scale reads to, {form.system.mass}",
        initial=scale_step(scales[0].step_kg, form.system) if scales else None,
        help_text=f"As {scales[0].name} does." if scales else "",
    )
    form.fields["at"] = DayField(label="Weighed on", help_text="Empty: now.")


class WeightForm(CalmForm):
    """The whole piece on a scale."""

    ids = "w-%s"
    estimated = forms.BooleanField(label="Not known: estimate it from size and species", required=False)

    def __init__(self, *args: Any, piece: Piece, **kwargs: Any) -> None:
        self.piece = piece
        super().__init__(*args, **kwargs)

    def build(self) -> None:
        unit = self.system.mass
        self.fields["mass_kg"] = MassField(self.system, 0.001, 2000, label=f"Weight now, {unit}")
        self.fields["ovendry_mass_kg"] = MassField(
            self.system,
            0.001,
            2000,
            required=False,
            initial=self.piece.ovendry_mass_kg,
            label=f"Ovendry weight, {unit}",
            help_text="Measured, or worked out by an oven test below.",
        )
        add_scale(self)


class OvenTestForm(CalmForm):
    """A section cut from the piece, weighed wet and ovendry."""

    ids = "o-%s"

    def build(self) -> None:
        unit = self.system.mass
        self.fields["wet_mass_kg"] = MassField(self.system, 0.0005, 50, label=f"Section when cut, {unit}")
        self.fields["dry_mass_kg"] = MassField(self.system, 0.0005, 50, label=f"Section ovendry, {unit}")
        self.fields["piece_mass_kg"] = MassField(
            self.system,
            0.001,
            2000,
            required=False,
            label=f"The piece itself when it was cut, {unit}",
            help_text="Gives the ovendry weight of the piece; from then on a scale is enough.",
        )
        add_scale(self)


class MeterForm(CalmForm):
    """An instrument and its settings; ``meter`` is given when it is being changed."""

    NAMES = (
        "name",
        "kind",
        "tolerance",
        "species_set_on_meter",
        "temperature_set_on_meter",
        "set_to",
        "insulated_pins",
        "pins_across",
        "density_setting",
        "own_scale",
        "depth_m",
        "step_kg",
    )

    name = forms.CharField(label="What you call it", max_length=60)
    kind = forms.ChoiceField(label="What it is", choices=MeterKind.choices, widget=forms.RadioSelect, initial=MeterKind.PIN)
    species_set_on_meter = forms.BooleanField(label="I set the species on the meter itself", required=False)
    temperature_set_on_meter = forms.BooleanField(label="It corrects for temperature itself", required=False)
    insulated_pins = forms.BooleanField(label="Its pins are insulated but for the tips, as on a hammer", required=False)
    pins_across = forms.BooleanField(label="I set them across the grain", required=False)
    density_setting = forms.FloatField(
        label="Specific gravity it is set to",
        required=False,
        min_value=0.1,
        max_value=1.3,
        widget=forms.TextInput(attrs={"inputmode": "decimal", "autocomplete": "off"}),
        help_text="As in 0.50. Leave empty if you set it to each species.",
    )
    own_scale = forms.CharField(
        label="or it has a scale of its own: setting = specific gravity",
        required=False,
        max_length=1500,
        strip=False,
        widget=forms.Textarea(attrs={"rows": 4, "autocomplete": "off", "spellcheck": "false", "placeholder": "20 = 0.35\n46 = 0.55"}),
        help_text="A line for each setting, from its leaflet.",
    )
    own_setting = forms.FloatField(
        label="and stands at",
        required=False,
        min_value=0,
        widget=forms.TextInput(attrs={"inputmode": "decimal", "autocomplete": "off"}),
        help_text="Leave empty if you set it to each species.",
    )
    version = forms.IntegerField(widget=forms.HiddenInput, required=False)

    def __init__(self, *args: Any, meter: Meter | None = None, **kwargs: Any) -> None:
        if meter:
            kwargs["initial"] = {name: getattr(meter, name) for name in (*self.NAMES, "version")} | {
                "step_kg": scale_step(meter.step_kg, kwargs["membership"].workshop.system),
                "own_scale": "\n".join(f"{setting:g} = {gravity:.2f}" for setting, gravity in meter.own_scale),
                "own_setting": None if meter.setting is None else f"{meter.setting:g}",
                "density_setting": None if meter.own_scale else meter.density_setting,
            }
        super().__init__(*args, **kwargs)

    def build(self) -> None:
        self.fields["tolerance"] = PercentField(
            self.system,
            0.001,
            0.1,
            label="Good to, ± % moisture",
            initial="1",
            help_text="From its leaflet; 1 if it does not say.",
            required=False,
        )
        self.fields["set_to"] = SpeciesField(
            self.workshop, label="and leave it set to", required=False, help_text="Empty: I set it anew for each species."
        )
        self.fields["depth_m"] = LengthField(
            self.system,
            0.002,
            0.06,
            required=False,
            label=f"It senses to a depth of, {self.system.length}",
            initial="3/4 in" if self.system.is_inch else "20 mm",
        )
        self.fields["step_kg"] = MassField(self.system, 0.00001, 1, required=False, label=f"It reads to, {self.system.mass}")
        self.order_fields(self.NAMES)

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean()
        if cleaned.get("set_to") and not cleaned.get("species_set_on_meter"):
            self.add_error("set_to", "Tick above that the species is set on the meter itself, or leave this empty.")
        scale, setting = cleaned.get("own_scale"), cleaned.get("own_setting")
        if setting is not None and "own_scale" not in self.errors:
            if not scale:
                self.add_error("own_setting", "Copy the meter’s scale above: without it the setting means nothing.")
            elif not scale[0][0] <= setting <= scale[-1][0]:
                self.add_error("own_setting", f"Its scale runs from {scale[0][0]:g} to {scale[-1][0]:g}.")
            else:
                cleaned["density_setting"] = meters.density_at(setting, scale)
        return cleaned

    def clean_own_scale(self) -> list[tuple[float, float]]:
        try:
            return meters.own_scale(self.cleaned_data["own_scale"])
        except CannotRead as error:
            raise forms.ValidationError(sentence(error.why)) from None

    def values(self) -> dict[str, Any]:
        """What the action takes, from a valid form."""
        result = {name: self.cleaned_data[name] for name in self.NAMES}
        return result | {"depth_m": result["depth_m"] or USUAL_DEPTH_M, "tolerance": result["tolerance"] or USUAL_TOLERANCE}


class CheckForm(CalmForm):
    """A check of an instrument: over a resistor, on a block whose moisture is known, or with a test weight."""

    def __init__(self, *args: Any, meter: Meter, **kwargs: Any) -> None:
        self.meter = meter
        super().__init__(*args, **kwargs)

    def build(self) -> None:
        if self.meter.traits.weighs:
            self.fields["expected"] = MassField(self.system, 0.0005, 500, label=f"The test weight weighs, {self.system.mass}")
            self.fields["shown"] = MassField(self.system, 0.0005, 500, label=f"The scale shows, {self.system.mass}")
            return
        if self.meter.traits.has_pins:
            self.fields["megohm"] = forms.FloatField(
                label="A resistor across the pins, megohms",
                required=False,
                min_value=meters.RESISTOR_MEGOHM[0],
                max_value=meters.RESISTOR_MEGOHM[1],
                widget=forms.TextInput(attrs={"inputmode": "decimal", "autocomplete": "off"}),
                help_text="With the meter on its softwood (Douglas-fir) scale: what it must show is known.",
            )
        self.fields["expected"] = PercentField(
            self.system,
            *meters.READING,
            required=False,
            label="or a reference block marked, %" if self.meter.traits.has_pins else "The reference block is marked, %",
        )
        self.fields["reference"] = forms.CharField(
            label="or a known board, or the bench",
            max_length=60,
            required=False,
            help_text="Pick it, and write above what it is at. Read it first, and the day’s readings are compared with it.",
        )
        self.fields["shown"] = PercentField(self.system, *meters.READING, label="The meter shows, %")
        self.fields["day_only"] = forms.BooleanField(label="For today’s readings only", required=False)

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean()
        if self.meter.traits.weighs:
            cleaned["of"] = "test weight"
        elif cleaned.get("megohm"):
            cleaned["expected"], cleaned["of"] = meters.resistor_reading(cleaned["megohm"]), f"resistor of {cleaned['megohm']:g} MΩ"
        elif cleaned.get("expected") is None:
            if not self.errors:
                self.add_error("expected", "Say what it was checked against.")
        else:
            cleaned["of"] = cleaned.get("reference") or "reference block"
        return cleaned


class SlabTestForm(CalmForm):
    """A concrete slab's own test, and what the flooring's maker allows by it."""

    how = forms.ChoiceField(label="Tested by", choices=SlabTestKind.choices, widget=forms.RadioSelect, initial=SlabTestKind.HOLE)

    def build(self) -> None:
        number = {"inputmode": "decimal", "autocomplete": "off"}
        for name, label, low in (("shown", "It showed", 0.0), ("allowed", "The flooring allows at most", 0.01)):
            self.fields[name] = forms.FloatField(label=label, min_value=low, max_value=200, widget=forms.TextInput(attrs=number))
        self.fields["allowed"].help_text = "From the maker’s instructions, for this test."
        self.fields["at"] = DayField(label="Tested on", help_text="Empty: now.")

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean()
        if cleaned.get("how") == SlabTestKind.HOLE and (cleaned.get("shown") or 0) > 100:
            self.add_error("shown", "Humidity in a hole lies between 0 and 100%.")
        return cleaned


class CorrectForm(CalmForm):
    """What a reading should have been: the number shown, or the weight; and the meter, the wood's temperature or the piece it was of."""

    def __init__(self, *args: Any, reading: Reading, **kwargs: Any) -> None:
        self.reading = reading
        super().__init__(*args, **kwargs)

    def build(self) -> None:
        traits = self.reading.piece.traits
        if self.reading.raw is not None:
            self.fields["raw"] = PercentField(self.system, *meters.READING, label="It showed, %", initial=self.reading.raw)
            self.fields["layer"] = forms.ChoiceField(
                label="Depth",
                choices=[(Layer.USUAL, "Usual"), (Layer.SHELL, traits.outer), (Layer.CORE, traits.inner)],
                required=False,
                widget=forms.RadioSelect,
                initial=self.reading.layer,
            )
            self.fields["meter"] = MeterChoice(
                queries.instruments(self.workshop).filter(kind__in=READS_MOISTURE),
                label="Meter",
                empty_label=None,
                required=False,
                initial=self.reading.meter_id,
            )
            self.fields["wood_temperature"] = temperature_field(self.system, initial=self.reading.wood_temperature_c)
        else:
            self.fields["mass_kg"] = MassField(
                self.system, 0.0005, 2000, label=f"It weighed, {self.system.mass}", initial=self.reading.wet_mass_kg
            )
        self.fields["tag"] = forms.CharField(label="Read on the piece", max_length=32, initial=self.reading.piece.tag, required=False)

    def clean_tag(self) -> Piece:
        tag = self.cleaned_data["tag"].strip()
        if not tag or tag.casefold() == self.reading.piece.tag.casefold():
            return self.reading.piece
        piece = stock.by_tag(self.workshop, tag)
        if piece is None:
            raise forms.ValidationError(f"No piece here has the tag “{tag}”. Tags are on the wood and in Stock.")
        return piece
