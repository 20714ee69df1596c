"""Form fields that understand what people type in the workshop's units; the one place where units come in."""

import re
import uuid
from collections.abc import Mapping
from datetime import datetime, time
from typing import Any

from django import forms
from django.utils import timezone

from calm_heron.site.dates import full_day
from calm_heron.site.numbers import typed
from wood import units, written
from wood.errors import CannotRead, OutOfRange
from wood.sizes import BOARD_FOOT_M3, section_m
from wood.units import System


def sentence(reason: str) -> str:
    """A reason as the core gives it, as a sentence."""
    return reason[0].upper() + reason[1:] + ("" if reason[-1] in ".?!" else ".")


# A number, or a fraction of an inch, with no unit behind it.
BARE = re.compile(r"\s*[+\-−]?\d+(?:[.,]\d+)?\s*")


class WrittenField(forms.CharField):
    """Text that stands for a number. Subclasses read it; the range is given in words that name the unit."""

    def __init__(self, system: System, low: float, high: float, *, too_far: str = "", **options: Any) -> None:
        self.system, self.low, self.high, self.too_far = system, low, high, too_far
        options.setdefault("max_length", 40)
        super().__init__(**options)
        self.widget.attrs |= {"inputmode": "decimal", "autocomplete": "off"}

    def clean(self, value: Any) -> Any:
        text = super().clean(value)
        if text in self.empty_values:
            return None
        try:
            number = self.read(text)
        except CannotRead as error:
            raise forms.ValidationError(sentence(error.why)) from None
        if not self.low <= number <= self.high:
            raise forms.ValidationError(
                f"{self._named(number)} is out of range: {self.limits()}." + (f" {self.too_far}" if self.too_far else "")
            )
        return number

    def _named(self, number: float) -> str:
        """The number as it is written, or not named where no such number is ever written."""
        try:
            return self.write(number)
        except OutOfRange:
            return "This"

    def limits(self) -> str:
        """Between which values, each itself allowed."""
        return f"{self.write(self.low)} to {self.write(self.high)}"

    @staticmethod
    def unit_in(system: System) -> str:
        """The unit that a bare number means in a system, as it may be written behind it; empty where it means the same in both."""
        return ""

    def in_units(self, text: str, before: System) -> str:
        """What was typed in another system, as a reader of this one reads it alike: a bare number gets the unit that it was meant in."""
        unit = self.unit_in(before) if BARE.fullmatch(text) else ""
        return f"{text.strip()} {unit}" if unit else text

    def prepare_value(self, value: Any) -> Any:
        return self.write_plain(value) if isinstance(value, float) else value

    def read(self, text: str) -> float:
        raise NotImplementedError

    def write(self, number: float) -> str:
        raise NotImplementedError

    def write_plain(self, number: float) -> str:
        """As it stands in the field, to be read back without loss."""
        return self.write(number)


class PercentField(WrittenField):
    """A percentage, kept as a fraction."""

    def read(self, text: str) -> float:
        return units.percent(text)

    def write(self, number: float) -> str:
        return f"{typed(number, 4)}%"

    def write_plain(self, number: float) -> str:
        return typed(number, 4)


class LengthField(WrittenField):
    """A length, kept in metres; fractions of an inch in either system."""

    @staticmethod
    def unit_in(system: System) -> str:
        return system.length

    def read(self, text: str) -> float:
        return units.length_m(text, self.system)

    def write(self, number: float) -> str:
        return written.cut_length(number, self.system)

    def limits(self) -> str:
        return " to ".join(written.length_limits(self.low, self.high, self.system))

    def write_plain(self, number: float) -> str:
        return written.typed_length(number, self.system)


def with_section(data: Any, system: System, thickness: str = "thickness_m", width: str = "width_m") -> Any:
    """A form's data in which a whole section typed as the thickness (``2x4``) stands as thickness and width, unless a width was typed, too.
    What cannot be read as one stays for the field to say so."""
    try:
        section = section_m((data or {}).get(thickness, ""))
    except CannotRead:
        return data
    if section is None:
        return data
    data = data.copy()
    data[thickness] = written.typed_length(section[0], system)
    if not data.get(width, "").strip():
        data[width] = written.typed_length(section[1], system)
    return data


class MassField(WrittenField):
    """A mass, kept in kilograms."""

    @staticmethod
    def unit_in(system: System) -> str:
        # A bare number is refused where the scale shows pounds and ounces.
        return "" if system.scale.key == "lb_oz" else system.scale.key

    def read(self, text: str) -> float:
        return units.mass_kg(text, self.system)

    def write(self, number: float) -> str:
        return written.weighed_mass(number, self.system)

    def limits(self) -> str:
        return " to ".join(written.mass_limits(self.low, self.high, self.system))

    def write_plain(self, number: float) -> str:
        return written.typed_mass(number, self.system)


class VolumeField(WrittenField):
    """How much sawn wood, kept in cubic metres; board feet in an inch workshop."""

    @staticmethod
    def unit_in(system: System) -> str:
        return "bd ft" if system.is_inch else "m3"

    def read(self, text: str) -> float:
        bare = text.lower().removesuffix("bd ft").removesuffix("board feet").removesuffix("m³").removesuffix("m3").strip()
        metric = not self.system.is_inch
        if text.lower().strip().endswith(("m³", "m3")):
            metric = True
        elif text.lower().strip().endswith(("bd ft", "board feet")):
            metric = False
        return units.number(bare) * (1.0 if metric else BOARD_FOOT_M3)

    def write(self, number: float) -> str:
        return written.sawn_volume(number, self.system)

    def write_plain(self, number: float) -> str:
        return f"{number / BOARD_FOOT_M3:.1f}" if self.system.is_inch else f"{number:.4g}"


class TemperatureField(WrittenField):
    """A temperature, kept in °C. ``usual_low`` … ``usual_high`` catches a value typed in the other unit: it is asked back
    unless the unit was written beside it."""

    def __init__(
        self, system: System, low: float, high: float, *, usual_low: float = -273, usual_high: float = 1000, **options: Any
    ) -> None:
        super().__init__(system, low, high, **options)
        self.usual_low, self.usual_high = usual_low, usual_high

    @staticmethod
    def unit_in(system: System) -> str:
        return system.temperature

    def read(self, text: str) -> float:
        typed = units.temperature(text, self.system)
        if not typed.unit_given and not self.usual_low <= typed.celsius <= self.usual_high:
            bare = text.strip()
            other = "C" if self.system.temperature == "F" else "F"
            swapped = bare_celsius(units.number(bare), other)
            if self.usual_low <= swapped <= self.usual_high:
                raise CannotRead(
                    "temperature",
                    text,
                    f"{bare}°{self.system.temperature} would be unusual here; if you mean °{other} write “{bare} {other}”, "
                    f"if it really is °{self.system.temperature} write “{bare} {self.system.temperature}”",
                )
        return typed.celsius

    def write(self, number: float) -> str:
        return written.written_temperature(number, self.system)


# What was read on a day gone by is kept as of its noon.
NOON = time(12)


class DayField(forms.DateField):
    """The day something was read or weighed; empty is now."""

    def __init__(self, **options: Any) -> None:
        super().__init__(
            required=False,
            widget=forms.DateInput(attrs={"type": "date"}, format="%Y-%m-%d"),
            error_messages={"invalid": "That isn’t a date; write it like 2026-11-25."},
            **options,
        )

    def clean(self, value: Any) -> datetime | None:
        day = super().clean(value)
        today = timezone.localdate()
        if day is None or day == today:
            return None
        if day > today:
            raise forms.ValidationError(f"{full_day(day)} is in the future. Add a reading once it’s taken.")
        if day.year < 1950:
            raise forms.ValidationError("Nobody read it then; is the year mistyped?")
        return timezone.make_aware(datetime.combine(day, NOON))


class MomentField(forms.DateTimeField):
    """When something happened, to the minute; not still to come. Empty stays empty."""

    def __init__(self, **options: Any) -> None:
        super().__init__(
            required=False,
            widget=forms.DateTimeInput(attrs={"type": "datetime-local"}, format="%Y-%m-%dT%H:%M"),
            input_formats=["%Y-%m-%dT%H:%M", "%Y-%m-%d %H:%M", "%Y-%m-%dT%H:%M:%S", "%Y-%m-%d"],
            error_messages={"invalid": "That is no moment of the calendar; write it as 2026-11-25 14:30."},
            **options,
        )

    def clean(self, value: Any) -> datetime | None:
        moment: datetime | None = super().clean(value)
        if moment is not None and moment > timezone.now():
            raise forms.ValidationError("That is in the future. Note it once it has happened.")
        if moment is not None and moment.year < 1950:
            raise forms.ValidationError("Is the year mistyped?")
        return moment


def bare_celsius(number: float, unit: str) -> float:
    return units.from_fahrenheit(number) if unit == "F" else number


class CalmForm(forms.Form):
    """A form that knows its workshop, carries a token so that it is done once, and shows errors beside their fields."""

    # Forms that stand on one page together need ids of their own.
    ids = "f-%s"
    # Whether a whole section may be typed as the thickness (:func:`with_section`).
    takes_section = False
    once = forms.CharField(widget=forms.HiddenInput, required=False, max_length=64)

    def __init__(self, *args: Any, membership: Any, **kwargs: Any) -> None:
        self.membership, self.workshop, self.system = membership, membership.workshop, membership.workshop.system
        if self.takes_section and args:
            args = (with_section(args[0], self.system), *args[1:])
        super().__init__(*args, auto_id=self.ids, label_suffix="", **kwargs)  # type: ignore[misc]
        self.fields["once"].initial = lambda: uuid.uuid4().hex
        self.build()

    def clean(self) -> dict[str, Any]:
        super().clean()
        return self.cleaned_data

    def build(self) -> None:
        """Add the fields that depend on the workshop."""

    def chosen(self, name: str) -> str:
        """What was chosen in a field, or the first there is to choose."""
        field = self.fields[name]
        assert isinstance(field, forms.ChoiceField)
        value, offered = next(iter(field.choices))  # type: ignore[arg-type]
        # The first of a group stands for it.
        return self.cleaned_data.get(name) or (value if isinstance(offered, str) else next(iter(offered))[0])

    def complain(
        self,
        beyond: OutOfRange,
        words: str = "With the other sizes this must lie between {low} and {high}.",
        called: Mapping[str, str] | None = None,
    ) -> None:
        """Values that are each possible and do not go together: said beside the one that must give way.

        ``called`` names fields that the core calls otherwise.
        """
        if beyond.unit == " m":
            low, high = written.length_limits(beyond.low, beyond.high, self.system)
        else:
            low, high = f"{beyond.low:,g}", f"{beyond.high:,g}"
        field = (called or {}).get(beyond.field, beyond.field)
        self.add_error(field if field in self.fields else None, words.format(low=low, high=high))

    def refuse(self, refusal: Any) -> None:
        """Put an action's refusal beside the field it is about."""
        self.add_error(refusal.field if refusal.field in self.fields else None, str(refusal))
