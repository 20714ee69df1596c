"""What was measured of a build after it was made, and what a part was when it was made."""

from collections.abc import Iterable
from typing import Any

from django import forms
from django.utils import timezone

from calm_heron.builds.kinds import MeasuredKind
from calm_heron.builds.models import BuildPart
from calm_heron.workshops.fields import CalmForm, DayField, LengthField, PercentField, WrittenField
from wood.builds.first_year import Measured

MOISTURE, WIDTH_M, GAP_M = (0.0, 0.6), (0.001, 3.0), (0.0, 0.05)


class MeasuredField(forms.CharField):
    """What was measured, as it was typed: read once it is known what it is of."""

    def __init__(self, **options: Any) -> None:
        super().__init__(max_length=40, **options)
        self.widget.attrs |= {"inputmode": "decimal", "autocomplete": "off"}


class OfAPartForm(CalmForm):
    """About one of some parts."""

    def __init__(self, *args: Any, parts: Iterable[BuildPart], **kwargs: Any) -> None:
        self.parts = parts
        super().__init__(*args, **kwargs)

    def build(self) -> None:
        choices = [(part.pk, f"{part.letter} {part.name}") for part in self.parts]
        self.fields["part"] = forms.TypedChoiceField(label="Part", coerce=int, choices=choices)


class MeasuredForm(OfAPartForm):
    """Something measured of a part."""

    ids = "f-measured-%s"

    def build(self) -> None:
        super().build()
        unit = self.system.length
        self.fields["what"] = forms.ChoiceField(label="Measured", choices=MeasuredKind.choices, initial=MeasuredKind.WIDTH)
        self.fields["value"] = MeasuredField(label=f"It is, {unit} or %")
        self.fields["on"] = DayField(label="On")
        self.fields["note"] = forms.CharField(label="In words", max_length=200, required=False)

    def clean(self) -> dict[str, Any]:
        typed = super().clean()
        if typed.get("value") and typed.get("what"):
            fields: dict[str, WrittenField] = {
                Measured.MOISTURE: PercentField(self.system, *MOISTURE),
                Measured.WIDTH: LengthField(self.system, *WIDTH_M),
                Measured.GAP: LengthField(self.system, *GAP_M),
            }
            try:
                typed["number"] = fields[typed["what"]].clean(typed["value"])
            except forms.ValidationError as wrong:
                self.add_error("value", wrong)
        return typed

    @property
    def day(self) -> Any:
        """The day it was measured, None for today."""
        moment = self.cleaned_data.get("on")
        return timezone.localtime(moment).date() if moment else None


class AsMadeForm(OfAPartForm):
    """What a part was on the day its build was made."""

    ids = "f-as-made-%s"
    version = forms.IntegerField(widget=forms.HiddenInput)

    def build(self) -> None:
        super().build()
        self.fields["moisture"] = PercentField(self.system, *MOISTURE, required=False, label="Its wood was at, %")
        self.fields["width_m"] = LengthField(self.system, *WIDTH_M, required=False, label=f"Its width was, {self.system.length}")

    def clean(self) -> dict[str, Any]:
        typed = super().clean()
        if not self.errors and typed.get("moisture") is None and typed.get("width_m") is None:
            self.add_error("moisture", "Say what its wood was at, or how wide it was.")
        return typed
