"""Air as an instrument shows it, typed at the rack."""

from typing import Any

from django import forms

from calm_heron.workshops.fields import CalmForm, PercentField, TemperatureField
from wood.errors import CannotRead
from wood.units import number

USUAL_C = (-20, 45)
# What a hygrometer is good to where nobody says.
USUAL_RH_TOLERANCE = 0.03


def air_fields(form: CalmForm) -> None:
    """Temperature and humidity as an instrument shows them."""
    form.fields["temperature"] = TemperatureField(
        form.system, -40, 110, usual_low=USUAL_C[0], usual_high=USUAL_C[1], required=False, label=f"Temperature, °{form.system.temperature}"
    )
    form.fields["humidity"] = PercentField(
        form.system,
        0.01,
        0.99,
        required=False,
        label="Humidity, %",
        too_far="A hygrometer that shows 0 or 100 is at its end stop: let it settle an hour, and read again.",
    )


class WrongWayRound(forms.Form):
    """Catches the humidity in the temperature's field, and the other way round."""

    def clean(self) -> dict[str, Any]:
        super().clean()
        cleaned = self.cleaned_data
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
