"""What a thing is asked by: its own sizes, and what all share: wood, thickness, the day it is built, its home, its finish."""

from typing import ClassVar

from django import forms

from calm_heron.air import queries as air
from calm_heron.measuring import queries as measuring
from calm_heron.movement.things import boards, homes
from calm_heron.movement.things.scene import MOST_DRAWN
from calm_heron.movement.things.thing import GRAINS, Thing, choice_field, count_field, length_field, percent_field
from calm_heron.questions.forms import Group, QuestionForm
from calm_heron.site.numbers import typed
from calm_heron.stock.models import Piece
from calm_heron.stock.species_forms import SpeciesField
from calm_heron.workshops.askers import Asker
from calm_heron.workshops.fields import CalmForm
from wood.air import climate
from wood.air.climate import MONTH_NAMES
from wood.errors import CannotRead
from wood.movement.finishes import all_finishes
from wood.units import System, number
from wood.written import typed_length

# The stops of the slider: the day it is built, and every month after it for two years.
STOPS = 24
MOISTURE = (0.02, 0.40)
BARE = ""


def finish_choices() -> list[tuple[str, str]]:
    """Bare wood, then every finish that was tested, by name."""
    named = {key: item.name for (key, _), item in all_finishes().items()}
    return [(BARE, "none"), *sorted(named.items(), key=lambda pair: pair[1].casefold())]


class HomeFields:
    """Fields that say where something lives; ``prefix`` tells two of them apart on one page."""

    def __init__(
        self, form: CalmForm, prefix: str = "", label: str = "It will live in", usual: str = homes.HEATED, climate_label: str = "Climate"
    ) -> None:
        self.form, self.prefix = form, prefix
        self.places = homes.liveable(list(air.places(form.workshop))) if form.workshop.pk else []
        kinds = sorted(homes.KINDS, key=lambda kind: kind[0] != usual)
        own = [(f"place-{place.pk}", place.name) for place in self.places]
        if usual == homes.OUTDOORS:
            own.sort(key=lambda pair: not next(place for place in self.places if pair[0] == f"place-{place.pk}").traits.is_outdoors)
        choice_field(form, f"{prefix}home", label, [*own, *kinds])
        choice_field(
            form,
            f"{prefix}climate",
            climate_label,
            sorted(((key, pattern.name) for key, pattern in climate.patterns().items()), key=lambda pair: pair[0] != homes.USUAL_PATTERN),
        )
        percent_field(form, f"{prefix}low", "At its driest", *MOISTURE, "6")
        percent_field(form, f"{prefix}high", "At its dampest", *MOISTURE, "10")

    def read(self) -> homes.Home | None:
        """Where it lives, None where a moisture is still to be named. Errors are put beside their fields."""
        cleaned, form, prefix = self.form.cleaned_data, self.form, self.prefix
        kind = form.chosen(f"{prefix}home")
        pattern = cleaned.get(f"{prefix}climate") or homes.USUAL_PATTERN
        if kind == homes.TYPED:
            low, high = cleaned.get(f"{prefix}low"), cleaned.get(f"{prefix}high")
            if low is None or high is None:
                return None
            if low >= high:
                form.add_error(f"{prefix}high", "The dampest must lie above the driest.")
                return None
            return homes.named_moistures(low, high)
        place = next((place for place in self.places if kind == f"place-{place.pk}"), None)
        return homes.of_kind(kind, pattern) if place is None else homes.of_place(place, pattern)


LIVES_IN, LIVES_IN_THERE = ("home", "climate", "low", "high"), ("to_home", "to_climate", "to_low", "to_high")


def depends_on_home(prefix: str = "") -> dict[str, str]:
    """Which home a climate or named moistures belong to."""
    in_a_climate = f"{prefix}home={homes.HEATED} {homes.FLOOR} {homes.SHED} {homes.OUTDOORS}"
    return {f"{prefix}climate": in_a_climate} | dict.fromkeys((f"{prefix}low", f"{prefix}high"), f"{prefix}home={homes.TYPED}")


class SeasonedForm(QuestionForm):
    """What all things share: asked in the address, nothing required."""

    takes_section = True
    depends = depends_on_home()

    def shared(self, usual_home: str = homes.HEATED, wettest: float = MOISTURE[1]) -> None:
        """Wood, thickness, grain, the moisture it is built at, home and finish."""
        self.fields["species_key"] = SpeciesField(self.workshop, required=False, label="Species")
        length_field(self, "thickness_m", "Thickness", 0.0005, 0.5)
        choice_field(self, "grain", "Grain", self._grains())
        percent_field(self, "built", "Built at, moisture", MOISTURE[0], wettest)
        self.fields["built"].widget.attrs["placeholder"] = "its year’s middle"
        self.home_fields = HomeFields(self, usual=usual_home)
        choice_field(self, "finish", "Finish, on all faces", finish_choices())
        count_field(self, "coats", "Coats", 1, 6)
        choice_field(self, "month", "Built in", [("", "this month"), *((str(n), name) for n, name in enumerate(MONTH_NAMES, 1))])

    def _grains(self) -> list[tuple[str, str]]:
        """The three words, and the angle that a board of the stock really has."""
        typed = str(self.data.get("grain", "")) if self.is_bound else ""
        known = [key for key, _ in GRAINS]
        try:
            angle = number(typed) if typed and typed not in known else None
        except CannotRead:
            angle = None
        own = [(typed, f"rings at {angle:.0f}°")] if angle is not None and 0 <= angle <= 90 else []
        return [*GRAINS, *own]


class MonthField(forms.Field):
    """Which month of the two years is looked at; cleans to a stop of the slider, None where it names none."""

    def clean(self, value: str | None) -> int | None:
        text = value or ""
        return int(text) if text.isdecimal() and len(text) < 4 and int(text) <= STOPS else None


class ThingForm(SeasonedForm):
    """One thing: ``thing`` is which."""

    thing: ClassVar[Thing]
    tells = ("stop", "go")
    wide = ("each",)
    # The slider's, and the one that a button names, which wins.
    stop, go = MonthField(required=False), MonthField(required=False)

    @classmethod
    def begins_with(cls, asker: Asker, subject: Piece | None) -> dict[str, str]:
        begun = cls.thing.defaults(asker.system)
        return begun if subject is None else of_piece(subject, begun, asker.system)

    @property
    def groups(self) -> tuple[Group, ...]:  # type: ignore[override]
        return (
            Group(("species_key", *self.own, "thickness_m", "grain", "built", *LIVES_IN, "finish", "coats")),
            Group(("month", "drawn", "each"), "More: when it is built, how it is drawn"),
        )

    def build(self) -> None:
        self.shared(self.thing.usual_home, self.thing.wettest)
        before = set(self.fields)
        self.thing.fields(self)
        self.own = [name for name in self.fields if name not in before]
        if self.thing.key == "top":
            self.fields["each"] = boards.BoardsField(label="Boards one by one, where they differ")
        self.fields["drawn"] = forms.FloatField(
            required=False,
            min_value=1,
            max_value=MOST_DRAWN,
            label="Movement drawn, times",
            widget=forms.TextInput(attrs={"inputmode": "decimal", "placeholder": "as it shows", "autocomplete": "off"}),
            error_messages=dict.fromkeys(("invalid", "min_value", "max_value"), f"This must be a number from 1 to {MOST_DRAWN:g}."),
        )


def of_piece(piece: Piece, example: dict[str, str], system: System) -> dict[str, str]:
    """The example's fields with a piece's own in them."""
    moisture = measuring.moisture_to_begin_from(piece)
    own = {
        "species_key": piece.species.common_name,
        "thickness_m": typed_length(piece.thickness_m, system),
        "grain": f"{piece.ring_angle_deg:g}",
    }
    if moisture is not None and moisture <= 0.35:
        own["built"] = typed(moisture)
    if "width_m" in example and example.get("species_key") and "boards" not in example:
        own["width_m"] = typed_length(piece.width_m, system)
    elif "boards" in example and piece.is_lot:
        # As wide a top as its boards make, up to eight of them.
        count = min(8, piece.count)
        own |= {"boards": str(count), "width_m": typed_length(count * piece.width_m, system)}
    if "board_m" in example:
        own["board_m"] = typed_length(piece.width_m, system)
    return example | own
