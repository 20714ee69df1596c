"""Forms about stock."""

from collections.abc import Mapping
from typing import Any

from django import forms

from calm_heron.air import queries as air
from calm_heron.stock import checks, queries, tables, woods
from calm_heron.stock.kinds import TRAITS, PieceKind, Seasoning
from calm_heron.stock.labels import SHEETS
from calm_heron.stock.models import (
    LENGTH_M,
    MOST_IN_A_LOT,
    PITH_M,
    RING_ANGLE_DEG,
    THICKNESS_M,
    WIDTH_M,
    Grain,
    LotPart,
    Piece,
    Status,
    grain_of,
)
from calm_heron.stock.species_forms import PLAIN_NUMBER, SpeciesField
from calm_heron.workshops.fields import CalmForm, LengthField, sentence
from wood.units import in_system

LARGEST_FILE = 12 * 1024 * 1024


def date_field(label: str) -> forms.DateField:
    return forms.DateField(label=label, required=False, widget=forms.DateInput(attrs={"type": "date"}, format="%Y-%m-%d"))


# What a link may bring along that was typed elsewhere.
FOUND = ("species_key", "thickness_m", "width_m", "length_m")


class PieceForm(CalmForm):
    """A piece or a lot of one kind; ``piece`` is given when it is being changed."""

    takes_section = True

    grain = forms.ChoiceField(
        label="Grain, looking at the end", choices=Grain.choices, widget=forms.RadioSelect, required=False, initial=Grain.FLAT
    )
    ring_angle_deg = forms.FloatField(
        label="or the ring angle, degrees",
        required=False,
        min_value=0,
        max_value=90,
        help_text="Between the rings and the wide face: 0 flat-sawn, 90 quarter-sawn. Leave empty to go by the picture.",
        widget=forms.TextInput(attrs=PLAIN_NUMBER),
    )
    dressed = forms.BooleanField(label="Planed: it has the dressed size of that nominal one", required=False)
    count = forms.IntegerField(
        label="How many alike",
        required=False,
        min_value=1,
        max_value=MOST_IN_A_LOT,
        initial=1,
        widget=forms.TextInput(attrs={"inputmode": "numeric", "autocomplete": "off"}),
        help_text="More than one is a lot; sample boards stand for it.",
    )
    seasoning = forms.ChoiceField(label="Condition", choices=Seasoning.choices, widget=forms.RadioSelect, initial=Seasoning.AIR)
    ends_sealed = forms.BooleanField(label="Its ends are sealed", required=False)
    has_pith = forms.BooleanField(label="The pith is inside", required=False)
    has_sapwood = forms.BooleanField(label="It has sapwood", required=False)
    felled_on = date_field("Felled on")
    sawn_on = date_field("Sawn on")
    source = forms.CharField(label="Where it came from", max_length=80, required=False)
    defects = forms.CharField(label="Defects", max_length=120, required=False, help_text="Knots, checks, stain, insect holes, nails.")
    note = forms.CharField(label="Note", max_length=200, required=False)
    version = forms.IntegerField(widget=forms.HiddenInput, required=False)

    field_order = ["species_key", "thickness_m", "width_m", "length_m", "dressed", "count", "grain", "ring_angle_deg", "pith_distance_m"]
    PLAIN = (
        "species_key",
        "seasoning",
        "ends_sealed",
        "has_pith",
        "has_sapwood",
        "felled_on",
        "sawn_on",
        "source",
        "defects",
        "place",
        "note",
        "dressed",
        "count",
    )

    def __init__(
        self,
        *args: Any,
        kind: str = PieceKind.BOARD,
        piece: Piece | None = None,
        by_picture: Mapping[str, Any] | None = None,
        **kwargs: Any,
    ) -> None:
        """``by_picture`` carries a ring angle and pith that were found by comparing pictures."""
        self.kind, self.piece = PieceKind(piece.kind if piece else kind), piece
        self.traits = TRAITS[self.kind]
        if piece:
            kwargs["initial"] = {
                name: getattr(piece, name) for name in (*self.PLAIN, "thickness_m", "width_m", "length_m", "pith_distance_m", "version")
            } | {
                "ring_angle_deg": f"{piece.ring_angle_deg:g}",
                "grain": grain_of(piece.ring_angle_deg),
                "place": piece.place_id,
                "thickness_m": piece.nominal or piece.thickness_m,
            }
        if by_picture:
            typed = {name: by_picture[name][:40] for name in FOUND if by_picture.get(name)}
            kwargs["initial"] = kwargs.get("initial", {}) | typed
        if by_picture and by_picture.get("ring_angle"):
            kwargs["initial"] = kwargs.get("initial", {}) | {
                "ring_angle_deg": by_picture["ring_angle"][:8],
                "pith_distance_m": by_picture.get("pith", "")[:20],
            }
        super().__init__(*args, **kwargs)

    @property
    def is_sawn(self) -> bool:
        """Boards have a grain to look at; round wood has all of it."""
        return self.traits.has_grain

    def build(self) -> None:
        inch = self.system.is_inch
        self.fields["species_key"] = SpeciesField(self.workshop, label="Species")
        thickness, width, length = self.traits.size_names
        hints = {
            "thickness_m": (
                f"{'5/4 or 1 3/8' if inch else '27'}. The size now, not the finished size." if thickness == "Thickness" else ""
            ),
            "width_m": "Across the grain; the usual one of a lot." if width == "Width" else "",
            "length_m": "" if length != "Length" else "8 ft or 96." if inch else "2400 or 2.4 m.",
        }
        for name, label, (low, high) in (
            ("thickness_m", thickness, THICKNESS_M),
            ("width_m", width, WIDTH_M),
            ("length_m", length, LENGTH_M),
        ):
            if label:
                high = 0.5 if name == "thickness_m" else high
                self.fields[name] = LengthField(self.system, low, high, label=f"{label}, {self.system.length}", help_text=hints[name])
        self.fields["pith_distance_m"] = LengthField(
            self.system,
            *PITH_M,
            label=f"Pith to the middle of the board, {self.system.length}",
            required=False,
            initial='6"' if inch else "150 mm",
            help_text="How far off the centre of the tree lay. A guess will do; it bends the drawn cup.",
        )
        self.fields["place"] = forms.ModelChoiceField(
            air.places(self.workshop),
            label="Where it lies",
            required=False,
            empty_label="not said",
            initial=None if self.piece else queries.usual_place(self.workshop),
        )
        self.fields["seasoning"].initial = self.traits.seasoning
        left_out = [] if self.is_sawn else ["grain", "ring_angle_deg", "pith_distance_m", "dressed"]
        if not self.traits.is_sawn:
            left_out += ["sawn_on"]
        if not self.traits.may_hold_pith:
            left_out += ["has_pith"]
        if not self.traits.may_be_lot or (self.piece and self.piece.lot_id):
            left_out += ["count"]
        for name in left_out:
            del self.fields[name]
        self.order_fields(self.field_order)

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean()
        if "ring_angle_deg" in self.fields and cleaned.get("ring_angle_deg") is None and "ring_angle_deg" not in self.errors:
            cleaned["ring_angle_deg"] = RING_ANGLE_DEG[Grain(cleaned.get("grain") or Grain.FLAT)]
        if "pith_distance_m" in self.fields and cleaned.get("pith_distance_m") is None and "pith_distance_m" not in self.errors:
            cleaned["pith_distance_m"] = 0.15
        if "count" in self.fields and cleaned.get("count") is None and "count" not in self.errors:
            cleaned["count"] = 1
        for name, why in checks.complete(self.kind, cleaned, self.data.get("thickness_m", "").strip()).items():
            if name == "dressed":
                self.add_error("thickness_m", f"{sentence(why)} Type the measured thickness and leave “planed” open.")
            else:
                self.add_error(name if name in self.fields else None, sentence(why))
        return cleaned

    def values(self) -> dict[str, Any]:
        """What the actions take, from a valid form."""
        names = (*self.PLAIN, "thickness_m", "width_m", "length_m", "ring_angle_deg", "pith_distance_m", "nominal")
        result = {name: self.cleaned_data[name] for name in names if name in self.cleaned_data}
        return result | ({} if self.piece else {"kind": self.kind})

    @property
    def usual_species(self) -> Any:
        book = woods.of_workshop(self.workshop.pk)
        return [book[key] for key in queries.species_in_use(self.workshop) if key in book]


class SplitForm(CalmForm):
    """How many of a lot go, and which sample boards with them."""

    count = forms.IntegerField(
        label="How many go", min_value=1, max_value=MOST_IN_A_LOT, widget=forms.TextInput(attrs={"inputmode": "numeric"})
    )
    version = forms.IntegerField(widget=forms.HiddenInput)

    def __init__(self, *args: Any, lot: Piece, **kwargs: Any) -> None:
        self.lot = lot
        kwargs.setdefault("initial", {"version": lot.version})
        super().__init__(*args, **kwargs)

    def build(self) -> None:
        self.fields["samples"] = forms.ModelMultipleChoiceField(
            self.lot.samples.all(), label="Sample boards that go along", required=False, widget=forms.CheckboxSelectMultiple
        )


class SampleForm(CalmForm):
    ids = "s-%s"
    part = forms.ChoiceField(label="It lies", choices=LotPart.choices, required=False, widget=forms.RadioSelect, initial="")


class PhotoForm(CalmForm):
    ids = "p-%s"
    photo = forms.FileField(label="Photograph", widget=forms.FileInput(attrs={"accept": "image/jpeg,image/png,image/webp"}))

    def clean_photo(self) -> bytes:
        sent = self.cleaned_data["photo"]
        if sent.size > LARGEST_FILE:
            raise forms.ValidationError("This file is larger than 12 MB; send a smaller picture.")
        return sent.read()


class GrainForm(CalmForm):
    """The ring angle and the distance of the pith that a picture shows. Everything has a default."""

    all_have_defaults = True

    ring_angle_deg = forms.FloatField(
        label="Ring angle, degrees", required=False, min_value=0, max_value=90, widget=forms.TextInput(attrs=PLAIN_NUMBER)
    )

    def build(self) -> None:
        self.fields["pith_distance_m"] = LengthField(
            self.system, *PITH_M, label=f"Pith to the middle, {self.system.length}", required=False
        )


# What only makers do to pieces.
FOR_MAKERS = ("seal", *Status.values)


class BulkForm(CalmForm):
    """What is to be done to the pieces chosen in a list; each comes as its id and the version that was shown."""

    ids = "c-%s"

    do = forms.ChoiceField(
        label="Do with the chosen",
        choices=[
            ("move", "move them to"),
            ("seal", "note their ends as sealed"),
            ("labels", "print labels"),
            ("used", "mark as used"),
            ("scrapped", "mark as scrapped"),
            ("stock", "put back in stock"),
        ],
    )

    def build(self) -> None:
        self.fields["place"] = forms.ModelChoiceField(air.places(self.workshop), label="Place", required=False, empty_label="a place")
        if not self.membership.may_make:
            # Nothing is offered that would be refused.

            self.fields["do"].choices = [(value, words) for value, words in self.fields["do"].choices if value not in FOR_MAKERS]  # type: ignore[attr-defined]

    @property
    def chosen_pieces(self) -> list[tuple[int, int]]:
        result = []
        for item in self.data.getlist("piece"):  # type: ignore[attr-defined]
            pk, _, version = item.partition(":")
            if pk.isdecimal() and version.isdecimal() and len(item) < 40:
                result.append((int(pk), int(version)))
        return result

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean()
        if not self.chosen_pieces:
            raise forms.ValidationError("Choose some pieces first: a tick before each, or x on the keyboard.")
        if cleaned.get("do") == "move" and not cleaned.get("place") and "place" not in self.errors:
            self.add_error("place", "Say where they are moved to.")
        known = set(Piece.objects.of(self.workshop).filter(pk__in=[pk for pk, _ in self.chosen_pieces]).values_list("pk", flat=True))
        if len(known) < len({pk for pk, _ in self.chosen_pieces}):
            raise forms.ValidationError("Some of the chosen pieces are not here any more; look at the list again.")
        return cleaned


class LabelForm(CalmForm):
    all_have_defaults = True

    sheet = forms.ChoiceField(label="Sheet of labels", required=False, choices=[(key, key) for key in SHEETS])
    first = forms.IntegerField(
        label="Begin at label",
        required=False,
        min_value=1,
        max_value=60,
        initial=1,
        widget=forms.TextInput(attrs={"inputmode": "numeric"}),
        help_text="On a sheet that was begun, the first label left on it.",
    )

    def build(self) -> None:

        self.fields["sheet"].choices = [(key, in_system(sheet.name, self.system)) for key, sheet in SHEETS.items()]  # type: ignore[attr-defined]
        self.fields["sheet"].initial = "letter-30" if self.system.is_inch else "a4-24"

    def clean_sheet(self) -> str:
        return self.cleaned_data["sheet"] or self.fields["sheet"].initial


class TableForm(CalmForm):
    """A table of pieces, as a file or pasted; ``remark`` says where its encoding had to be guessed."""

    all_have_defaults = True

    file = forms.FileField(label="A table (CSV)", required=False, widget=forms.FileInput(attrs={"accept": ".csv,.txt,.tsv,text/csv"}))
    text = forms.CharField(
        label="or pasted", required=False, strip=False, widget=forms.Textarea(attrs={"rows": 9, "spellcheck": "false", "class": "rows"})
    )
    remark = ""

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean()
        if sent := cleaned.get("file"):
            try:
                if sent.size > tables.MOST_BYTES:
                    raise tables.NotATable(tables.TOO_LONG)
                cleaned["text"], self.remark = tables.decoded(sent.read())
            except tables.NotATable as wrong:
                self.add_error("file", str(wrong))
        elif not (cleaned.get("text") or "").strip():
            self.add_error("file", "Choose a file, or paste rows with a first line that names the columns.")
        return cleaned

    def show(self, text: str) -> None:
        """From now on the field holds this text: what was read from the file, so that it can be mended here."""
        self.data = {**{name: self.data[name] for name in self.data}, "text": text}
