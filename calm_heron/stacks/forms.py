"""What a stack is planned from: a load, how wide it is to be, and how it is built. Nothing is required but the wood."""

import re
from typing import Any

from django import forms
from django.db.models.functions import Lower
from django.http import QueryDict

from calm_heron.air import queries as air
from calm_heron.air.models import Place
from calm_heron.drying import queries as drying
from calm_heron.drying import questions
from calm_heron.drying.forms import YARDS
from calm_heron.questions.forms import Group, QuestionForm
from calm_heron.stacks.kinds import GOES_ON, Cover, StackHappened, StackTurned, StickersOf
from calm_heron.stacks.models import CLEAR_M, MAP_M, SPACING_M, STICKER_M, WIDTH_M, StackLot
from calm_heron.stock import queries as stock
from calm_heron.stock.models import Piece
from calm_heron.stock.species_forms import SpeciesField
from calm_heron.workshops.askers import Asker
from calm_heron.workshops.fields import CalmForm, DayField, LengthField, PercentField, VolumeField, sentence
from calm_heron.workshops.models import Workshop
from calm_heron.workshops.spell_forms import SpellForm
from wood.errors import CannotRead
from wood.stacks import tally
from wood.stacks.pile import MOST_BOARDS
from wood.units import System

# What is usual, in inches and in millimetres.
USUAL = {
    "in": {"width_m": "48", "thickness_m": "4/4", "board_m": "8", "length_m": "8 ft", "count": "100"},
    "mm": {"width_m": "1200", "thickness_m": "27", "board_m": "200", "length_m": "2400", "count": "100"},
}


class LotsField(forms.CharField):
    """Lots and boards of a stock, by tags parted by commas or blanks; cleans to the pieces."""

    def __init__(self, workshop: Workshop, **kwargs: Any) -> None:
        self.stock_of = workshop
        super().__init__(max_length=400, widget=forms.TextInput(attrs={"autocomplete": "off"}), **kwargs)

    def clean(self, value: str) -> list[Piece]:
        pieces, unknown = by_tags(self.stock_of, super().clean(value))
        if unknown:
            raise forms.ValidationError(f"No lot or board of the stock has the tag {', '.join(unknown)}.")
        return pieces


def by_tags(workshop: Workshop, text: str) -> tuple[list[Piece], list[str]]:
    """The lots and boards of tags parted by commas or blanks, a standing stack's tag for all that lies in it; and the tags that are
    none.
    """
    tags = [tag for tag in text.replace(",", " ").split() if tag][:60]
    stacked: dict[str, list[str]] = {}
    lying = StackLot.objects.filter(stack__workshop=workshop, standing=True).annotate(small=Lower("stack__tag"))
    for row in lying.filter(small__in=[tag.casefold() for tag in tags]).values("small", "piece__tag"):
        stacked.setdefault(row["small"], []).append(row["piece__tag"])
    tags = [item for tag in tags for item in stacked.get(tag.casefold(), [tag])]
    pieces = stock.by_tags(workshop, tags)
    known = {tag: piece for tag, piece in pieces.items() if piece.traits.is_sawn and piece.lot_id is None}
    named = dict.fromkeys(tag.casefold() for tag in tags)
    return [known[tag] for tag in named if tag in known], [tag for tag in tags if tag.casefold() not in known]


class SizesField(LengthField):
    """Widths or lengths of boards: one, a range, a list, or counted (:func:`wood.stacks.tally.sizes`); cleans to these, or None."""

    def clean(self, value: Any) -> Any:
        text = forms.CharField.clean(self, value)
        if text in self.empty_values:
            return None
        try:
            found = tally.sizes(text, self.system)
        except CannotRead as unread:
            raise forms.ValidationError(sentence(unread.why)) from None
        for size in found:
            if not self.low <= size.metres <= self.high:
                raise forms.ValidationError(f"{self.write(size.metres)} is out of range: {self.limits()}.")
        return found

    def in_units(self, text: str, before: System) -> str:
        """Each bare size with the unit that it was meant in."""
        unit, parts = self.unit_in(before), re.split(r"([,;])", text)
        return "".join(f"{part.rstrip()} {unit}" if part.strip() and part.strip()[-1].isdigit() else part for part in parts)


IMAGINED, LOTS = "imagined", "lots"


class OfLotsForm(QuestionForm):
    """A question about wood that is imagined, or about lots of the stock; strangers have only the former."""

    @staticmethod
    def depends_on_wood(*imagined: str) -> dict[str, str]:
        """Which fields go with imagined wood; the tags of lots go with the stock."""
        return {"lots": f"of={LOTS}"} | dict.fromkeys(imagined, f"of={IMAGINED}")

    @staticmethod
    def lots_of(subject: Piece | None) -> dict[str, str]:
        """What the form begins with where it is asked about a piece."""
        return {"of": LOTS, "lots": subject.tag} if subject is not None else {}

    def __init__(self, data: QueryDict | dict[str, Any], *, asker: Asker) -> None:
        # An address that names lots and no more means them.
        if data.get("lots") and not data.get("of") and asker.is_member:
            data = data.copy()
            data["of"] = LOTS
        super().__init__(data, asker=asker)

    @property
    def is_of_lots(self) -> bool:
        """Whether a valid form is about lots of the stock."""
        return "of" in self.fields and self.chosen("of") == LOTS

    def add_lots(self, label: str) -> None:
        """For members: which wood, and the tags of lots."""
        if self.workshop.pk:
            choices = ((IMAGINED, "imagined"), (LOTS, "of lots of the stock"))
            self.fields["of"] = forms.ChoiceField(required=False, label=label, choices=choices)
            self.fields["lots"] = LotsField(self.workshop, required=False, label="Its lots, by their tags")


class StackForm(OfLotsForm):
    """A stack to be built."""

    takes_section = True
    groups = (
        Group(
            (
                "of",
                "lots",
                "species_key",
                "thickness_m",
                "count",
                "board_m",
                "length_m",
                "moisture",
                "width_m",
                "where",
                "wind",
                "turned",
                "cover",
            )
        ),
        Group(("tally",), "Boards counted by size and grade"),
        Group(
            ("sticker_m", "spacing_m", "stickers_of", "bearers_m", "overhang_m", "clear_m", "next_m", "stickers_moisture"),
            "Built otherwise than usual",
        ),
    )
    depends = OfLotsForm.depends_on_wood("species_key", "thickness_m", "count", "board_m", "length_m", "tally")
    wide = ("tally",)
    always = ("where",)
    called = {"boards": "count", "loads": "count", "stickers_width_m": "length_m"}

    @classmethod
    def begins_with(cls, asker: Asker, subject: Piece | None) -> dict[str, str]:
        where = questions.usual_anywhere(asker.workshop, list(air.places(asker.workshop)) if asker.is_member else [])["where"]
        return {"species_key": "white oak", **USUAL["in" if asker.system.is_inch else "mm"], "where": where, **cls.lots_of(subject)}

    def build(self) -> None:
        self.places: list[Place] = list(air.places(self.workshop)) if self.workshop.pk else []
        unit = self.system.length

        def size(name: str, label: str, low: float, high: float, placeholder: str = "") -> None:
            self.fields[name] = LengthField(self.system, low, high, required=False, label=f"{label}, {unit}")
            self.fields[name].widget.attrs["inputmode"] = "text"
            if placeholder:
                self.fields[name].widget.attrs["placeholder"] = placeholder

        self.add_lots("The stack is")
        self.fields["species_key"] = SpeciesField(self.workshop, required=False, label="Species")
        size("thickness_m", "Boards, thick", 0.003, 0.3)
        for name, label, low, high in (("board_m", "Boards, wide", 0.02, 1.5), ("length_m", "Boards, long", 0.1, 15.0)):
            self.fields[name] = SizesField(self.system, low, high, required=False, max_length=200, label=f"{label}, {unit}")
            self.fields[name].widget.attrs["inputmode"] = "text"
        self.fields["board_m"].help_text = "one, 6-10, or 12 at 8, 20 at 6" if unit == "in" else "one, 150-250, or 12 at 200, 20 at 150"
        rows = "12 at 8 x 10 ft, select" if unit == "in" else "12 at 200 x 3 m, select"
        self.fields["tally"] = forms.CharField(
            required=False, max_length=2000, label="Or a tally", widget=forms.Textarea(attrs={"rows": 4, "placeholder": rows})
        )
        self.fields["tally"].help_text = "A line a size: how many, wide, long, grade."
        self.fields["stickers_of"] = forms.ChoiceField(required=False, label="Stickers are of", choices=StickersOf.choices)
        self.fields["count"] = forms.IntegerField(
            required=False,
            label="How many",
            min_value=1,
            max_value=MOST_BOARDS,
            widget=forms.TextInput(attrs={"inputmode": "numeric"}),
            error_messages=dict.fromkeys(("invalid", "min_value", "max_value"), f"This must be a whole number from 1 to {MOST_BOARDS:,}."),
        )
        self.fields["moisture"] = PercentField(self.system, 0.02, 3.0, required=False, label="Moisture, %")
        self.fields["moisture"].widget.attrs["placeholder"] = "green, as sawn"
        size("width_m", "Stack, wide", 0.2, 4.0)
        size("sticker_m", "Stickers, thick", 0.004, 0.1, "as usual")
        size("spacing_m", "Stickers, apart", 0.1, 2.0, "as usual")
        size("bearers_m", "Bearers, apart", 0.1, 4.0, "one under each line")
        size("overhang_m", "Ends reach beyond", 0.0, 1.0, "0")
        size("clear_m", "Air beneath", 0.0, 2.0, "12" if unit == "in" else "300")
        size("next_m", "To the next stack or wall", 0.0, 100.0)
        self.fields["stickers_moisture"] = PercentField(self.system, 0.0, 2.0, required=False, label="Stickers’ moisture, %")
        self.fields["stickers_moisture"].widget.attrs["placeholder"] = "10"
        self.fields["turned"] = forms.ChoiceField(required=False, label="The wind blows", choices=StackTurned.choices)
        self.fields["cover"] = forms.ChoiceField(required=False, label="It lies", choices=Cover.choices)
        self.fields["wind"] = forms.ChoiceField(
            required=False, label="The yard is", choices=sorted(YARDS, key=lambda pair: pair[0] != "usual")
        )
        self.fields["where"] = forms.ChoiceField(required=False, label="Air", choices=drying.where_choices(self.places))

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean()
        cleaned["boards"] = None
        if not self.errors and not self.is_of_lots:
            self._count(cleaned)
        return cleaned

    def _count(self, cleaned: dict[str, Any]) -> None:
        """Its boards by size: by the tally, else by widths, lengths and how many; what cannot be is said beside its field."""
        try:
            if cleaned.get("tally", "").strip():
                cleaned["boards"] = tally.tally(cleaned["tally"], self.system)
            else:
                wide, long = cleaned["board_m"] or (tally.Size(0.2),), cleaned["length_m"] or (tally.Size(2.4),)
                cleaned["boards"] = tally.boards(wide, long, cleaned["count"] or 100)
        except CannotRead as unread:
            self.add_error("tally" if cleaned.get("tally", "").strip() else "count", sentence(unread.why))


# No stack and no load is larger.
MOST_M3 = 1000.0
# What is kept of how a stack is built, beside its place.
BUILT = (
    "width_m",
    "sticker_m",
    "spacing_m",
    "clear_m",
    "bearers_m",
    "overhang_m",
    "next_m",
    "weighted",
    "stickers_of",
    "turned",
    "cover",
    "x_m",
    "y_m",
    "note",
)


class BuiltForm(CalmForm):
    """A stack that stands, or was just built: where, since when, how."""

    def __init__(self, *args: Any, new: bool, **kwargs: Any) -> None:
        self.new = new
        super().__init__(*args, **kwargs)

    def build(self) -> None:
        unit = self.system.length
        if self.new:
            self.fields["lots"] = LotsField(self.workshop, label="Its lots, by their tags")
            self.fields["built_on"] = DayField(label="Built on")
            self.fields["start_moisture"] = PercentField(self.system, 0.02, 3.0, required=False, label="Its boards’ moisture then, %")
            self.fields["start_moisture"].widget.attrs["placeholder"] = "as it was read, or green"
            self.fields["now"] = PercentField(self.system, 0.02, 3.0, required=False, label="Or their moisture now, %")
            self.fields["now"].widget.attrs["placeholder"] = "where it stands already"
            self.fields["tag"] = forms.CharField(label="Tag", max_length=32, required=False)
            self.fields["tag"].widget.attrs["placeholder"] = "the next free one"
        else:
            self.fields["version"] = forms.IntegerField(widget=forms.HiddenInput)
        self.fields["place"] = forms.ModelChoiceField(air.places(self.workshop), label="Stands in", empty_label=None)
        for name, label, limits in (
            ("width_m", "Wide", WIDTH_M),
            ("sticker_m", "Stickers, thick", STICKER_M),
            ("spacing_m", "Stickers, apart", SPACING_M),
            ("clear_m", "Air beneath", CLEAR_M),
        ):
            self.fields[name] = LengthField(self.system, *limits, label=f"{label}, {unit}")
            self.fields[name].widget.attrs["inputmode"] = "text"
        for name, label, low, high, placeholder in (
            ("bearers_m", "Bearers, apart", 0.1, 4.0, "one under each line"),
            ("overhang_m", "Ends reach beyond", 0.0, 1.0, "0"),
            ("next_m", "To the next stack or wall", 0.0, 100.0, ""),
        ):
            self.fields[name] = LengthField(self.system, low, high, required=False, label=f"{label}, {unit}")
            self.fields[name].widget.attrs |= {"inputmode": "text"} | ({"placeholder": placeholder} if placeholder else {})
        self.fields["weighted"] = forms.BooleanField(required=False, label="weight lies on top")
        self.fields["stickers_of"] = forms.ChoiceField(required=False, label="Stickers are of", choices=StickersOf.choices)
        self.fields["turned"] = forms.ChoiceField(label="The wind blows", choices=StackTurned.choices)
        self.fields["cover"] = forms.ChoiceField(label="It lies", choices=Cover.choices)
        for name, label in (("x_m", "From the yard’s left"), ("y_m", "From its near side")):
            self.fields[name] = LengthField(self.system, *MAP_M, required=False, label=f"{label}, {unit}")
            self.fields[name].widget.attrs["inputmode"] = "text"
        self.fields["note"] = forms.CharField(label="Note", max_length=200, required=False)

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean()
        if cleaned.get("start_moisture") is not None and cleaned.get("now") is not None:
            self.add_error("now", "It is followed from one of the two: leave the other empty.")
        return cleaned

    @property
    def built(self) -> dict[str, Any]:
        """What a stack keeps of it."""
        return {name: self.cleaned_data[name] for name in ("place", *BUILT)} | {"stickers_of": self.chosen("stickers_of")}


class OutcomeForm(CalmForm):
    """What came of it: its good wood, and what was learnt."""

    ids = "u-%s"
    learnt = forms.CharField(label="What was learnt", max_length=300, required=False)

    def build(self) -> None:
        unit = "bd ft" if self.system.is_inch else "m³"
        self.fields["out_m3"] = VolumeField(self.system, 0.0, MOST_M3, required=False, label=f"Good wood out of it, {unit}")


class DownForm(OutcomeForm):
    """A stack is taken down: the version of it that was seen, and what came of it."""

    ids = "d-%s"
    version = forms.IntegerField(widget=forms.HiddenInput)


class HappenedForm(SpellForm):
    """Something that happened to a stack."""

    kinds = StackHappened.choices
    lasting = GOES_ON
