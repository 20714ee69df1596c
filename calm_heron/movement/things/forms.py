"""What a thing is asked by: its own sizes, and what all share: wood, thickness, the day it is built, its home, its finish."""

from django import forms

from calm_heron.air import queries as air
from calm_heron.movement.things import boards, homes
from calm_heron.movement.things.scene import MOST_DRAWN
from calm_heron.movement.things.thing import GRAINS, MONTHS, Thing, choice_field, count_field, length_field, percent_field
from calm_heron.stock.species_forms import SpeciesField
from calm_heron.workshops.fields import CalmForm
from wood.air import climate
from wood.movement.finishes import all_finishes
from wood.units import CannotRead, number

# The stops of the slider: the day it is built, and every month after it for two years.
STOPS = 24
MOISTURE = (0.02, 0.40)
BARE = ""


def finish_choices() -> list[tuple[str, str]]:
    """Bare wood, then every finish that was tested, by name."""
    named = {key: one.name for (key, _), one in all_finishes().items()}
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
        choice_field(form, f"{prefix}climate", climate_label, sorted(
            ((key, one.name) for key, one in climate.patterns().items()), key=lambda pair: pair[0] != homes.USUAL_PATTERN
        ))  # fmt: skip
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


class SeasonedForm(CalmForm):
    """What all things share: asked in the address, nothing required."""

    all_have_defaults = True
    takes_section = True

    def shared(self, usual_home: str = homes.HEATED) -> None:
        """Wood, thickness, grain, the moisture it is built at, home and finish."""
        del self.fields["once"]
        self.fields["species_key"] = SpeciesField(self.workshop, required=False, label="Species")
        length_field(self, "thickness_m", "Thickness", 0.0005, 0.5)
        choice_field(self, "grain", "Grain", self._grains())
        percent_field(self, "built", "Built at, moisture", *MOISTURE)
        self.fields["built"].widget.attrs["placeholder"] = "its year’s middle"
        self.home_fields = HomeFields(self, usual=usual_home)
        choice_field(self, "finish", "Finish, on all faces", finish_choices())
        count_field(self, "coats", "Coats", 1, 6)
        choice_field(self, "month", "Built in", [("", "this month"), *((str(n), name) for n, name in enumerate(MONTHS, 1))])

    def _grains(self) -> list[tuple[str, str]]:
        """The three words, and the angle that a board of the stock really has."""
        asked = str(self.data.get("grain", "")) if self.is_bound else ""
        known = [key for key, _ in GRAINS]
        try:
            angle = number(asked) if asked and asked not in known else None
        except CannotRead:
            angle = None
        own = [(asked, f"rings at {angle:.0f}°")] if angle is not None and 0 <= angle <= 90 else []
        return [*GRAINS, *own]


class ThingForm(SeasonedForm):
    """One thing."""

    def __init__(self, *args, thing: Thing, **kwargs) -> None:
        self.thing = thing
        super().__init__(*args, **kwargs)

    def build(self) -> None:
        self.shared(self.thing.usual_home)
        before = list(self.fields)
        self.thing.fields(self)
        self.own = [name for name in self.fields if name not in before]
        if self.thing.key == "top":
            self.fields["each"] = boards.BoardsField(label="Boards one by one, where they differ")
        self.fields["drawn"] = forms.FloatField(
            required=False, min_value=1, max_value=MOST_DRAWN, label="Movement drawn, times",
            widget=forms.TextInput(attrs={"inputmode": "decimal", "placeholder": "as it shows", "autocomplete": "off"}),
            error_messages=dict.fromkeys(("invalid", "min_value", "max_value"), f"This must be a number from 1 to {MOST_DRAWN:g}."),
        )  # fmt: skip
        self.order_fields(["species_key", *self.own, "thickness_m", "grain", "built", "home"])


class DialForm(CalmForm):
    """A width, and a season."""

    all_have_defaults = True

    def build(self) -> None:
        del self.fields["once"]
        length_field(self, "width_m", "Width", 0.01, 6.0)
        self.home_fields = HomeFields(self, label="In the air of")
        self.fields["species_key"] = SpeciesField(self.workshop, required=False, label="One of them, through its year")
        choice_field(
            self,
            "sort",
            "In the order of",
            [("flat", "movement, flat"), ("quarter", "movement, quarter"), ("ratio", "flat over quarter"), ("name", "name")],
        )


class ElsewhereForm(SeasonedForm):
    """Two places, and a finished piece that goes from the one to the other."""

    def build(self) -> None:
        self.shared()
        length_field(self, "width_m", "Width", 0.01, 6.0)
        self.there = HomeFields(self, "to_", "It goes to", climate_label="Climate there")
        self.fields["home"].label = "It has lived in"
        self.order_fields(["species_key", "width_m", "thickness_m", "grain", "home", "to_home"])
