"""Forms about places and air."""

import io
from datetime import datetime
from typing import Any

from django import forms
from django.utils import timezone

from calm_heron.air import queries
from calm_heron.air.kinds import PlaceKind
from calm_heron.air.models import OUTDOOR_SOURCES, AirReading, Normals, Place, YearSource
from calm_heron.site.numbers import points
from calm_heron.workshops.fields import CalmForm, DayField, PercentField, TemperatureField, sentence
from wood.air import climate, typical_year
from wood.air.climate import MONTHS, Climate
from wood.air.hygrometers import HOUSEHOLD_SALTS, WAITING_HOURS
from wood.air.psychrometrics import salt_relative_humidity
from wood.air.rooms import DWELLING_GAIN, LEAKY, TIGHT, USUAL_AIR_CHANGES, WORKSHOP_GAIN, Room
from wood.errors import CannotRead, OutOfRange
from wood.written import written_temperature


class PlaceForm(CalmForm):
    """A place; ``place`` is given when it is being changed."""

    name = forms.CharField(label="What you call it", max_length=60)
    kind = forms.ChoiceField(label="What it is", choices=PlaceKind.choices, widget=forms.RadioSelect, initial=PlaceKind.ROOM)
    version = forms.IntegerField(widget=forms.HiddenInput, required=False)

    field_order = ["name", "kind", "rh_tolerance"]

    def __init__(self, *args: Any, place: Place | None = None, **kwargs: Any) -> None:
        if place:
            kwargs["initial"] = {
                name: getattr(place, name) for name in ("name", "kind", "rh_tolerance", "usual_humidity", "not_lived_in", "version")
            }
        super().__init__(*args, **kwargs)

    def build(self) -> None:
        self.fields["rh_tolerance"] = PercentField(
            self.system,
            0.005,
            0.15,
            label="Its hygrometer is good to, ± % RH",
            initial="3",
            help_text="From its leaflet: a good one 2, a usual one 3, a dial 5 or more.",
        )
        self.fields["usual_humidity"] = PercentField(
            self.system,
            0.05,
            0.95,
            label="From memory it is usually about, % RH",
            required=False,
            help_text="If anyone knows. It counts a little, and helps tell which of two hygrometers to trust.",
        )
        self.fields["not_lived_in"] = forms.BooleanField(
            label="Nobody lives in it yet: its heating does not run as it will",
            required=False,
            help_text="Then what counts is its year as it will be heated, not what is read there now.",
        )
        self.order_fields(self.field_order)


def instrument_field(place: Place, label: str) -> forms.ModelChoiceField:  # type: ignore[type-arg]
    """Which of the workshop's hygrometers it was; the one that is usual in the place where nobody says."""
    return forms.ModelChoiceField(
        queries.hygrometers(place.workshop),
        label=label,
        required=False,
        empty_label="the place’s own instrument",
        initial=queries.usual_hygrometer(place),
    )


class AirForm(CalmForm):
    """Temperature and humidity as the instrument shows them."""

    def __init__(self, *args: Any, place: Place, **kwargs: Any) -> None:
        self.place = place
        super().__init__(*args, **kwargs)

    def build(self) -> None:
        low, high = self.place.traits.usual_c
        self.fields["temperature"] = TemperatureField(
            self.system, -40, self.place.traits.hottest_c, usual_low=low, usual_high=high, label=f"Temperature, °{self.system.temperature}"
        )
        self.fields["humidity"] = PercentField(
            self.system,
            0.01,
            0.99,
            label="Relative humidity, %",
            too_far="A hygrometer that shows 0 or 100 is at its end stop: dry it, let it settle an hour, and read again.",
        )
        self.fields["hygrometer"] = instrument_field(self.place, "Read with")
        self.fields["at"] = DayField(label="Read on", help_text="Empty: now.")


class CorrectAirForm(AirForm):
    """What a reading of the air should have been, where and when."""

    def __init__(self, *args: Any, reading: AirReading, **kwargs: Any) -> None:
        self.reading = reading
        super().__init__(*args, place=reading.place, **kwargs)

    def build(self) -> None:
        super().build()
        reading = self.reading
        # Where it was really read may be another kind of place, with other temperatures.
        self.fields["temperature"] = TemperatureField(
            self.system, -40, 120, label=f"Temperature, °{self.system.temperature}", initial=reading.temperature_c
        )
        self.fields["humidity"].initial = reading.relative_humidity if reading.shown_humidity is None else reading.shown_humidity
        self.fields["hygrometer"].initial = reading.hygrometer_id
        self.fields["at"].initial = timezone.localdate(reading.at)
        self.fields["at"].help_text = ""
        self.fields["place"] = forms.ModelChoiceField(
            queries.places(self.workshop), label="Read in", empty_label=None, initial=reading.place_id
        )

    @property
    def moment(self) -> datetime:
        """When it was read: as it stands where its day was left."""
        if "at" not in self.changed_data:
            return self.reading.at
        return self.cleaned_data["at"] or timezone.now()


class HygrometerForm(CalmForm):
    """A hygrometer of the workshop."""

    name = forms.CharField(label="What you call it", max_length=60)

    def build(self) -> None:
        self.fields["rh_tolerance"] = PercentField(
            self.system,
            0.005,
            0.15,
            label="It is good to, ± % RH",
            initial="3",
            help_text="From its leaflet: a good one 2, a usual one 3, a dial 5 or more.",
        )


class SaltForm(CalmForm):
    """A check over a saturated salt."""

    salt = forms.ChoiceField(
        label="Over",
        choices=[(key, words) for key, words in HOUSEHOLD_SALTS.items()],
        widget=forms.RadioSelect,
        initial="NaCl",
        required=False,
    )
    waited_hours = forms.FloatField(
        label="Hours in the closed box",
        min_value=0,
        max_value=720,
        help_text=f"At least {WAITING_HOURS:.0f}; a night is best.",
        widget=forms.TextInput(attrs={"inputmode": "decimal", "autocomplete": "off"}),
    )

    def build(self) -> None:
        self.fields["temperature"] = TemperatureField(
            self.system, 10, 40, usual_low=10, usual_high=40, label=f"In the box, °{self.system.temperature}"
        )
        self.fields["shown"] = PercentField(self.system, 0.0, 1.0, label="It shows, % RH")
        self.fields["since"] = DayField(
            label="It has been off since",
            help_text="Its readings from that day on are corrected by the check. Empty: only from now on.",
        )
        self.order_fields(["salt", "temperature", "waited_hours", "shown", "since"])

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean()
        cleaned["salt"] = cleaned.get("salt") or "NaCl"
        hours = cleaned.get("waited_hours")
        if hours is not None and hours < WAITING_HOURS:
            self.add_error(
                "waited_hours", f"After {hours:g} hours the air in the box is still moving. Wait {WAITING_HOURS:.0f}; a night is best."
            )
        if cleaned.get("temperature") is not None:
            try:
                cleaned["expected"] = salt_relative_humidity(cleaned["salt"], cleaned["temperature"])
            except OutOfRange as beyond:
                self.add_error("temperature", f"The salt’s humidity is known from {beyond.low:g} to {beyond.high:g}°C only.")
        return cleaned


# Moisture that people and work add to a room's air, kg per kg of dry air.
GAINS = (
    ("0", "nobody: a store"),
    (f"{WORKSHOP_GAIN:g}", "a workshop in use"),
    (f"{DWELLING_GAIN:g}", "a dwelling"),
    ("0.005", "a kitchen, a full house"),
)
CHANGES = (
    (f"{TIGHT:g}", "hardly: a tight new house"),
    (f"{USUAL_AIR_CHANGES:g}", "usually"),
    (f"{LEAKY:g}", "freely: an old, draughty one"),
)
# What a room is heated to where nobody said; a target is never taken from an unheated one by default.
HEATED_TO_C = 20.0
ROOM_TEMPERATURE = "room"
LARGEST_FILE = 8_000_000
FLOOR_WARMER_C = 6.0


class YearForm(CalmForm):
    """A place's usual year: typed, a pattern, a file or pasted rows, or a room fed from an outdoor place."""

    all_have_defaults = True

    kind = forms.ChoiceField(
        label="Take it from",
        widget=forms.RadioSelect,
        required=False,
        initial=YearSource.TYPED,
        choices=[
            (YearSource.TYPED, "its own air, twelve months typed"),
            (YearSource.EMC, "its own moistures (EMC), twelve months typed"),
            (YearSource.PUBLISHED, "a published place"),
            (YearSource.PATTERN, "a climate pattern"),
            (YearSource.FILE, "a file or pasted rows"),
            (YearSource.ROOM, "another place of yours outdoors"),
        ],
    )
    version = forms.IntegerField(widget=forms.HiddenInput, required=False)
    file = forms.FileField(label="A weather file (EPW) or a table (CSV)", required=False)
    pasted = forms.CharField(required=False, max_length=4000, widget=forms.Textarea(attrs={"rows": 5}))
    gain = forms.ChoiceField(label="Moisture comes from", choices=GAINS, required=False)
    changes = forms.ChoiceField(label="Air comes in", choices=CHANGES, required=False)
    floor = forms.BooleanField(label="heated floor: show what the boards on it live in", required=False)

    def __init__(self, *args: Any, place: Place, given: Normals | None, **kwargs: Any) -> None:
        self.place, self.given = place, given
        super().__init__(*args, **kwargs)

    def build(self) -> None:
        degrees = self.system.temperature
        self.fields["pasted"].label = f"or twelve rows pasted: month, °{degrees}, % RH"
        for k, month in enumerate(MONTHS, start=1):
            self.fields[f"t{k}"] = TemperatureField(
                self.system, -45, 60, usual_low=-40, usual_high=45, label=f"{month}, °{degrees}", required=False
            )
            self.fields[f"h{k}"] = PercentField(self.system, 0.01, 1.0, label=f"{month}, % RH", required=False)
            self.fields[f"e{k}"] = PercentField(self.system, 0.02, 0.30, label=f"{month}, EMC %", required=False)
        patterns = [(key, pattern.name) for key, pattern in climate.patterns().items()]
        temperatures = [(ROOM_TEMPERATURE, f"a room at {written_temperature(HEATED_TO_C, self.system)}"), *patterns]
        self.fields["like"] = forms.ChoiceField(
            label="Temperatures of", required=False, choices=temperatures if self.place.traits.is_a_room else patterns
        )
        self.fields["published"] = forms.ChoiceField(
            label="Place",
            required=False,
            choices=[
                ("", "choose one"),
                ("United States, published", [(key, item.name) for key, item in climate.published_places().items()]),
                ("Elsewhere, approximate", [(key, item.name) for key, item in climate.approximate_places().items()]),
            ],
        )
        self.fields["pattern"] = forms.ChoiceField(
            label="Pattern",
            required=False,
            choices=[(key, f"{pattern.name}: {pattern.words}") for key, pattern in climate.patterns().items()],
        )
        yards = queries.places(self.workshop).filter(kind=PlaceKind.YARD).exclude(pk=self.place.pk)
        self.fields["outdoors"] = forms.ModelChoiceField(yards, label="Outdoor air of", required=False, empty_label=None)
        self.fields["heated_to"] = TemperatureField(
            self.system,
            -10,
            35,
            usual_low=5,
            usual_high=30,
            label=f"Heated to, °{degrees}",
            required=False,
            help_text="Empty: nobody heats it.",
        )
        self.fields["cooled_to"] = TemperatureField(
            self.system, 10, 40, usual_low=15, usual_high=35, label=f"Cooled to, °{degrees}", required=False, help_text="Empty: not cooled."
        )
        self.fields["at_least"] = PercentField(self.system, 0.05, 0.9, label="A humidifier holds at least, % RH", required=False)
        self.fields["at_most"] = PercentField(self.system, 0.1, 0.99, label="A dehumidifier holds at most, % RH", required=False)

    @property
    def grid(self) -> list[tuple[Any, ...]]:
        """The twelve months' two fields."""
        return [(self[f"t{k}"], self[f"h{k}"]) for k in range(1, 13)]

    @property
    def moistures(self) -> list[tuple[Any, ...]]:
        """The twelve months' fields of moisture with their names."""
        return [(name, self[f"e{k}"]) for k, name in enumerate(MONTHS, start=1)]

    @property
    def kinds_of_room(self) -> str:
        """The kinds of year to which a room's settings belong: outdoor air that comes in."""
        return " ".join([YearSource.ROOM, *(OUTDOOR_SOURCES if self.place.traits.is_a_room else ())])

    @property
    def months(self) -> list[tuple[float, float] | None]:
        """The months that can be read so far; what the drawing shows while it is typed."""
        typed = [(self.cleaned_data.get(f"t{k}"), self.cleaned_data.get(f"h{k}")) for k in range(1, 13)]
        return [None if t is None or h is None else (t, h) for t, h in typed]

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean()
        kind = cleaned["kind"] = cleaned.get("kind") or YearSource.TYPED
        try:
            if kind == YearSource.FILE:
                self._read_file(cleaned)
            if kind in self.kinds_of_room.split():
                self._build_room(cleaned)
            if kind == YearSource.EMC:
                self._build_from_moistures(cleaned)
        except CannotRead as unread:
            self.add_error("pasted" if cleaned.get("pasted") else "file", sentence(unread.why))
        except OutOfRange as beyond:
            field = {"at_most": "at_most", "at_least": "at_least", "cooled_to_c": "cooled_to", "heated_to_c": "heated_to"}.get(beyond.field)
            self.add_error(field, self._why_not(beyond, field, cleaned))
        return cleaned

    def _why_not(self, beyond: OutOfRange, field: str | None, cleaned: dict[str, Any]) -> str:
        """What is wrong with a room's settings, in words."""
        if field == "at_most":
            return "The two limits contradict each other."
        if field == "cooled_to" and cleaned.get("heated_to") is not None and cleaned["heated_to"] > beyond.value:
            return "It cannot be cooled to less than it is heated to."
        if beyond.field == "moisture":
            return f"One of these moistures is more than any air at that temperature gives wood: at most {points(beyond.high)}%."
        return f"{str(beyond).capitalize()}."

    def missing(self) -> list[str]:
        """Months of a typed year that still want a value."""
        months = self.months
        if self.cleaned_data.get("kind") == YearSource.EMC:
            months = [self.cleaned_data.get(f"e{k}") for k in range(1, 13)]
        return [name for name, month in zip(MONTHS, months, strict=True) if month is None]

    def _build_from_moistures(self, cleaned: dict[str, Any]) -> None:
        typed = [cleaned.get(f"e{k}") for k in range(1, 13)]
        if None in typed:
            return
        like = cleaned.get("like") or ""
        usual = climate.patterns().get(like) or self.with_usual((HEATED_TO_C,) * 12, (0.5,) * 12)
        cleaned["climate"] = climate.with_emc(usual, typed, self.place.name)  # type: ignore[arg-type]
        cleaned["words"] = "" if like in ("", ROOM_TEMPERATURE) else climate.pattern(like).name

    def _read_file(self, cleaned: dict[str, Any]) -> None:
        upload, pasted = cleaned.get("file"), cleaned.get("pasted")
        if not upload and not pasted:
            return
        if upload and upload.size > LARGEST_FILE:
            raise CannotRead("file", "", "this file is larger than a year of weather can be")
        text = pasted or typical_year.text_of(upload.read())  # type: ignore[union-attr]
        if text.lstrip("\ufeff")[:8].upper() == "LOCATION":
            cleaned["climate"] = typical_year.from_epw(io.StringIO(text))
        else:
            cleaned["climate"] = self.with_usual(*typical_year.from_table(text, self.system.temperature))
        cleaned["words"] = upload.name[:80] if upload else "pasted rows"

    def _build_room(self, cleaned: dict[str, Any]) -> None:
        cleaned["room"] = Room(
            cleaned.get("heated_to"),
            float(cleaned.get("gain") or 0),
            cleaned.get("at_least") or 0.0,
            cleaned.get("at_most") or 1.0,
            cooled_to_c=cleaned.get("cooled_to"),
            floor_warmer_c=FLOOR_WARMER_C if cleaned.get("floor") else 0.0,
            air_changes=float(cleaned.get("changes") or USUAL_AIR_CHANGES),
        )

    def with_usual(self, temperature_c: tuple[float, ...], relative_humidity: tuple[float, ...]) -> Climate:
        """Twelve typed months with the wind and the daily swing that are usual for the kind of place."""
        kind = self.place.traits
        return Climate(temperature_c, relative_humidity, (kind.wind_m_s,) * 12, (kind.swing_c,) * 12, name=self.place.name)

    def climate(self) -> Climate | None:
        """The twelve months as they are kept: outdoor air where it is that, the room's own where it was typed; once it is whole."""
        cleaned = self.cleaned_data
        match cleaned.get("kind"):
            case YearSource.PATTERN:
                return climate.patterns().get(cleaned.get("pattern") or "")
            case YearSource.PUBLISHED:
                place = climate.places_known().get(cleaned.get("published") or "")
                return place.climate if place else None
            case YearSource.FILE | YearSource.EMC:
                return cleaned.get("climate")
            case YearSource.ROOM:
                outside = queries.known_year(cleaned["outdoors"]) if cleaned.get("outdoors") else None
                return queries.climate_of_room(outside.climate, cleaned["room"]) if outside and "room" in cleaned else None
        if self.missing():
            return None
        months = self.months
        return self.with_usual(tuple(t for t, _ in months), tuple(h for _, h in months))  # type: ignore[misc]

    def shown(self) -> Climate | None:
        """The air that wood meets in this place: the stored year, or that year as the room changes it."""
        year = self.climate()
        if year is None or self.cleaned_data.get("kind") not in OUTDOOR_SOURCES or not self.place.traits.is_a_room:
            return year
        return queries.climate_of_room(year, self.cleaned_data["room"]) if "room" in self.cleaned_data else None
