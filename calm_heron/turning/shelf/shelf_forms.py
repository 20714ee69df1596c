"""What is kept of bowls: weights, what they are, tracings, cracks, heats."""

import json
from typing import Any

from django import forms

from calm_heron.turning.forms import END_WALL_M
from calm_heron.turning.kinds import ElsewhereKind, FeltKind, FormKind, GrainKind, HeldKind, MendKind, RimKind, WayKind, WhereKind
from calm_heron.turning.shelf.notebook import MOST_LETTERS, MOST_LINES
from calm_heron.workshops.fields import CalmForm, DayField, LengthField, MassField, PercentField, TemperatureField
from wood.turning import bowls, tracing
from wood.turning.drying import BOX_C
from wood.turning.weight_logs import MASS_KG

POINT_LIMIT = 20_000


class WeighForm(CalmForm):
    """What one bowl weighs."""

    ids = "w-%s"
    at = DayField(label="Weighed on")
    meant = forms.BooleanField(label="It really weighs that", required=False)

    def build(self) -> None:
        self.fields["mass_kg"] = MassField(self.system, *MASS_KG, label=f"It weighs, {self.system.mass}")
        self.order_fields(["mass_kg", "at", "meant"])


class LineForm(CalmForm):
    """A line: which bowl, and what it weighs: “bowl-03 812”; the end of a tag is enough."""

    ids = "l-%s"
    line = forms.CharField(label="Tag and weight", max_length=60)
    meant = forms.BooleanField(label="It really weighs that", required=False)

    def build(self) -> None:
        self.fields["line"].widget.attrs |= {
            "autocomplete": "off",
            "autocapitalize": "off",
            "autofocus": True,
            "enterkeyhint": "send",
            "placeholder": "bowl-03 812",
        }
        self.mass = MassField(self.system, *MASS_KG)

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean()
        word, _, mass = cleaned.get("line", "").strip().partition(" ")
        if "line" not in cleaned:
            return cleaned
        if not mass.strip():
            self.add_error("line", "Write the bowl’s tag, a space, and what it weighs: bowl-03 812.")
            return cleaned
        try:
            cleaned["mass_kg"], cleaned["word"] = self.mass.clean(mass.strip()), word
        except forms.ValidationError as wrong:
            self.add_error("line", wrong)
        return cleaned


class NotebookForm(CalmForm):
    """Past weights of one bowl or many, pasted."""

    ids = "n-%s"
    text = forms.CharField(label="Weights as they stand in your notebook", max_length=MOST_LETTERS, widget=forms.Textarea)

    def build(self) -> None:
        self.fields["text"].widget.attrs |= {"rows": 10, "spellcheck": "false"}

    def clean_text(self) -> str:
        text: str = self.cleaned_data["text"]
        lines = len(text.splitlines())
        if lines > MOST_LINES:
            raise forms.ValidationError(f"These are {lines} lines; {MOST_LINES} go at once. Paste the rest afterwards.")
        return text


class TurnedForm(CalmForm):
    """What a turned piece is."""

    ids = "t-%s"
    form = forms.ChoiceField(label="Its form is", choices=FormKind.choices)
    way = forms.ChoiceField(label="It dries", choices=WayKind.choices)
    turned_once = forms.BooleanField(label="Turned once, and left to move", required=False)
    held = forms.ChoiceField(label="Held by", choices=HeldKind.choices, required=False)
    rim = forms.ChoiceField(label="Its rim faced", choices=RimKind.choices)
    grain = forms.ChoiceField(label="Its grain runs", choices=GrainKind.choices)
    version = forms.IntegerField(widget=forms.HiddenInput, required=False)

    def build(self) -> None:
        unit = self.system.length
        self.fields["pith_m"] = LengthField(self.system, 0.0, 1.0, label=f"From rim or foot to the pith, {unit}")
        self.fields["aside_m"] = LengthField(self.system, -0.5, 0.5, required=False, label=f"The pith was off centre by, {unit}")
        self.fields["foot_m"] = LengthField(self.system, 0.001, 0.3, required=False, label=f"Wood under its inside, {unit}")
        self.fields["foot_m"].widget.attrs["placeholder"] = "as its wall"
        self.fields["end_wall_m"] = LengthField(self.system, *END_WALL_M, label=f"Finished wall, {unit}")
        self.fields["held_m"] = LengthField(self.system, 0.01, 0.6, required=False, label=f"That is wide, {unit}")


class RoughedForm(CalmForm):
    """A blank that was turned rough."""

    ids = "r-%s"
    version = forms.IntegerField(widget=forms.HiddenInput)

    def build(self) -> None:
        unit = self.system.length
        self.fields["diameter_m"] = LengthField(self.system, *bowls.DIAMETER_M, label=f"Diameter, {unit}")
        self.fields["height_m"] = LengthField(self.system, 0.02, bowls.HEIGHT_M[1], label=f"Height, {unit}")
        self.fields["wall_m"] = LengthField(self.system, *bowls.WALL_M, label=f"Wall, {unit}")

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean()
        wall, wide, high = (cleaned.get(name) for name in ("wall_m", "diameter_m", "height_m"))
        if wall and wide and high and wall >= min(wide / 2, high):
            self.add_error("wall_m", "That leaves no hollow: the wall is as thick as the bowl.")
        return cleaned


class TraceForm(CalmForm):
    """A rim as it is now: its two diameters, or points round it."""

    ids = "s-%s"
    stage = forms.CharField(label="When", max_length=80, required=False)
    points = forms.CharField(widget=forms.HiddenInput, required=False, max_length=POINT_LIMIT)

    def build(self) -> None:
        unit = self.system.length
        self.fields["along_m"] = LengthField(self.system, *tracing.SIZE_M, required=False, label=f"With the grain, {unit}")
        self.fields["across_m"] = LengthField(self.system, *tracing.SIZE_M, required=False, label=f"Across the grain, {unit}")
        self.fields["known_m"] = LengthField(self.system, 0.01, 2.0, required=False, label=f"The known length on the photograph, {unit}")
        self.fields["stage"].widget.attrs["placeholder"] = "rough, dry, finished"
        self.order_fields(["along_m", "across_m", "stage", "known_m", "points"])

    def clean_points(self) -> list[tuple[float, float]]:
        """Points as shares of the picture: the first two are the ends of the known length."""
        text = self.cleaned_data["points"]
        if not text:
            return []
        try:
            results = [(float(x), float(y)) for x, y in json.loads(text)]
        except (ValueError, TypeError, RecursionError):
            raise forms.ValidationError("What was tapped cannot be read. Tap it again, or type both diameters.") from None
        if any(not -10 < number < 10 for point in results for number in point):
            raise forms.ValidationError("What was tapped lies off the picture. Tap it again.")
        return results

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean()
        along, across, points = cleaned.get("along_m"), cleaned.get("across_m"), cleaned.get("points")
        if points and cleaned.get("known_m") is None:
            self.add_error("known_m", "Say how long the line is that you tapped first.")
        elif not points and not self.errors and (along is None or across is None):
            self.add_error("across_m" if across is None else "along_m", "Measure both, with the grain and across it.")
        return cleaned


class CrackForm(CalmForm):
    """A crack that was found."""

    ids = "c-%s"
    where = forms.ChoiceField(label="It lies", choices=WhereKind.choices)
    through = forms.BooleanField(label="it shows on both faces", required=False)
    at_pith = forms.BooleanField(label="it runs to the pith", required=False)

    def build(self) -> None:
        unit = self.system.length
        self.fields["depth_m"] = LengthField(self.system, 0.0001, 0.2, label=f"Depth, {unit}")
        self.fields["length_m"] = LengthField(self.system, 0.001, 1.0, label=f"Length, {unit}")
        self.fields["hour"] = forms.FloatField(
            required=False,
            min_value=0,
            max_value=12,
            label="Round the clock, grain from nine to three",
            widget=forms.TextInput(attrs={"inputmode": "decimal"}),
            error_messages=dict.fromkeys(("invalid", "min_value", "max_value"), "This must be an hour from 0 to 12."),
        )
        self.order_fields(["where", "depth_m", "length_m", "hour", "through", "at_pith"])


DAY = forms.DateInput(attrs={"type": "date"}, format="%Y-%m-%d")
NO_DAY = "That isn’t a date; write it like 2026-11-25."
# How warm it is where nobody says.
USUALLY_C = {ElsewhereKind.BOX: BOX_C, ElsewhereKind.FREEZER: -18.0, ElsewhereKind.KILN: 45.0}


class MendForm(CalmForm):
    """A crack was filled or glued."""

    ids = "m-%s"
    how = forms.ChoiceField(label="It was", choices=MendKind.choices)
    what = forms.CharField(label="With", max_length=60, required=False)

    def build(self) -> None:
        self.fields["what"].widget.attrs["placeholder"] = "thin glue, epoxy"


class LayElsewhereForm(CalmForm):
    """Where a bowl lay for a while instead of on its shelf."""

    ids = "e-%s"
    kind = forms.ChoiceField(label="It lay", choices=ElsewhereKind.choices)
    begins = forms.DateField(label="From", widget=DAY, error_messages={"invalid": NO_DAY})
    ends = forms.DateField(
        label="To", widget=DAY, required=False, help_text="Empty: it is there still.", error_messages={"invalid": NO_DAY}
    )

    def build(self) -> None:
        degrees = "°F" if self.system.is_inch else "°C"
        self.fields["temperature_c"] = TemperatureField(self.system, -40.0, 90.0, required=False, label=f"At, {degrees}")
        self.fields["temperature_c"].widget.attrs["placeholder"] = "as usual there"
        self.fields["relative_humidity"] = PercentField(self.system, 0.01, 1.0, required=False, label="And at, % RH")
        self.fields["relative_humidity"].widget.attrs["placeholder"] = "the room’s own vapour"

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean()
        if "kind" in cleaned and cleaned.get("temperature_c", 0.0) is None:
            cleaned["temperature_c"] = USUALLY_C[cleaned["kind"]]
        return cleaned


LEVELS = [(f"{share / 10:.1f}", f"{share * 10}% of full power") for share in range(1, 10)] + [("1.0", "full power")]


class OvenForm(CalmForm):
    """A session begins."""

    ids = "o-%s"
    watts = forms.FloatField(
        label="Watts it cooks with",
        min_value=200,
        max_value=2000,
        widget=forms.TextInput(attrs={"inputmode": "numeric"}),
        help_text="On its label; 700 to 1000 are usual. What it draws from the wall is more.",
        error_messages=dict.fromkeys(("invalid", "min_value", "max_value"), "This must be a number from 200 to 2000."),
    )
    level = forms.ChoiceField(label="Setting", choices=LEVELS[::-1])

    def build(self) -> None:
        unit = self.system.length
        self.fields["mass_kg"] = MassField(self.system, *MASS_KG, label=f"It weighs now, {self.system.mass}")
        self.fields["oven_m"] = LengthField(self.system, 0.1, 0.6, label=f"Widest thing that turns in it, {unit}")
        self.order_fields(["mass_kg", "watts", "level", "oven_m"])


class OvenHeatForm(CalmForm):
    """A heat, and what the bowl weighed after its rest."""

    ids = "h-%s"
    felt = forms.ChoiceField(label="Right after the heat it felt", choices=FeltKind.choices, initial=FeltKind.WARM)
    level = forms.ChoiceField(label="At", choices=LEVELS)
    seconds = forms.FloatField(
        label="For, seconds",
        min_value=5,
        max_value=600,
        widget=forms.TextInput(attrs={"inputmode": "numeric"}),
        error_messages=dict.fromkeys(("invalid", "min_value", "max_value"), "This must be a number of seconds from 5 to 600."),
    )

    def build(self) -> None:
        self.fields["mass_kg"] = MassField(self.system, *MASS_KG, label=f"After its rest it weighs, {self.system.mass}")
        self.order_fields(["mass_kg", "felt", "seconds", "level"])
