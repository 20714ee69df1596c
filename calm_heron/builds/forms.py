"""What is asked about a build, its parts, its boards and its panels."""

import json
from typing import Any

from django import forms

from calm_heron.air import queries as air
from calm_heron.builds.kinds import LOOKS, ChalkKind, FaceKind, FigureKind, FitKind, GrainWanted, MarkKind, PointsKind, SapwoodKind
from calm_heron.builds.models import EXTRA_M, MOST_PIECES, MOST_STAVES, PART_M, USUAL_END_M, USUAL_EXTRA_M, USUAL_KERF_M
from calm_heron.judging.purposes import uses
from calm_heron.movement.things.forms import finish_choices
from calm_heron.movement.things.homes import liveable
from calm_heron.site.dates import day
from calm_heron.stock.forms import TableForm
from calm_heron.stock.models import Piece
from calm_heron.stock.species_forms import SpeciesField
from calm_heron.workshops.fields import CalmForm, LengthField, PercentField
from wood.movement import finishes

WHOLE = "This must be a whole number."


class BuildForm(CalmForm):
    """What is to be made, where it will live, and when it is due."""

    name = forms.CharField(label="What is it?", max_length=60)
    due = forms.DateField(
        label="Wood needed by",
        required=False,
        widget=forms.DateInput(attrs={"type": "date"}, format="%Y-%m-%d"),
        error_messages={"invalid": "That isn’t a date; write it like 2027-03-31."},
    )
    coats = forms.IntegerField(label="Coats", required=False, min_value=1, max_value=6, error_messages={"invalid": WHOLE})
    sapwood_out = forms.BooleanField(label="Keep sapwood out of its parts", required=False)
    version = forms.IntegerField(widget=forms.HiddenInput, required=False)

    def build(self) -> None:
        unit = self.system.length
        self.places = {str(place.pk): place for place in liveable(list(air.places(self.workshop)))}
        self.fields["place"] = forms.ChoiceField(label="It will live in", choices=[(key, place.name) for key, place in self.places.items()])
        self.fields["use_key"] = forms.ChoiceField(
            label="It is", choices=[(key, use.name.lower()) for key, use in uses(self.workshop).items()]
        )
        self.fields["finish"] = forms.ChoiceField(label="Finish, on all faces", choices=finish_choices(), required=False)
        self.fields["kerf_m"] = LengthField(self.system, 0.0005, 0.02, label=f"Saw kerf, {unit}", initial=USUAL_KERF_M)
        self.fields["end_m"] = LengthField(self.system, 0.0, 1.0, label=f"Cut off each end of a board, {unit}", initial=USUAL_END_M)
        self.order_fields(["name", "place", "use_key", "due", "finish", "coats", "kerf_m", "end_m", "sapwood_out"])

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean()
        if cleaned.get("finish"):
            tested = [count for name, count in finishes.all_finishes() if name == cleaned["finish"]]
            if cleaned.get("coats") is None:
                cleaned["coats"] = min(max(tested), 3)
            elif not min(tested) <= cleaned["coats"] <= max(tested):
                self.add_error(
                    "coats",
                    f"This finish was tested with {min(tested)} to {max(tested)} coats."
                    if max(tested) > 1
                    else "This finish was tested with one coat.",
                )
        if "place" in cleaned:
            cleaned["place"] = self.places[cleaned["place"]]
        cleaned["coats"] = cleaned.get("coats") or 0
        return cleaned

    @property
    def figures(self) -> dict[str, Any]:
        """What the build is made of."""
        return {name: value for name, value in self.cleaned_data.items() if name not in ("once", "version")}


class PartForm(CalmForm):
    """One part."""

    ids = "p-%s"
    name = forms.CharField(label="Part", max_length=60)
    count = forms.IntegerField(label="How many", min_value=1, max_value=MOST_PIECES, initial=1, error_messages={"invalid": WHOLE})
    grain = forms.ChoiceField(label="Grain wanted", choices=GrainWanted.choices, required=False)
    staves = forms.IntegerField(
        label="Boards in each panel", min_value=1, max_value=MOST_STAVES, initial=1, error_messages={"invalid": WHOLE}
    )
    fit = forms.ChoiceField(label="It is", choices=FitKind.choices, required=False)
    figure = forms.ChoiceField(label="Its grain to the eye", choices=FigureKind.choices, required=False)
    matched = forms.BooleanField(label="all from one board, in a row", required=False)
    stock = forms.CharField(label="From which board or lot", max_length=40, required=False)
    version = forms.IntegerField(widget=forms.HiddenInput, required=False)

    def build(self) -> None:
        unit = self.system.length
        self.fields["species_key"] = SpeciesField(self.workshop, label="Species")
        for name, words in (("length_m", "Length"), ("width_m", "Width"), ("thickness_m", "Thickness")):
            self.fields[name] = LengthField(self.system, *PART_M[name], label=f"{words}, {unit}")
            self.fields[f"extra_{name}"] = LengthField(
                self.system,
                *EXTRA_M[f"extra_{name}"],
                required=False,
                label=f"Left on the {words.lower()}, {unit}",
                initial=USUAL_EXTRA_M[f"extra_{name}"],
            )
        self.fields["stock"].widget.attrs |= {"autocomplete": "off", "autocapitalize": "off", "placeholder": "a tag, or any that fits"}
        self.order_fields(
            ["name", "count", "species_key", "length_m", "width_m", "thickness_m", "grain", "staves", "fit", "figure", "matched", "stock"]
        )

    def clean_stock(self) -> Any:
        tag = self.cleaned_data["stock"].strip()
        if not tag or "\0" in tag:
            return None
        piece = Piece.objects.of(self.workshop).in_stock().filter(tag__iexact=tag).first()
        if piece is None:
            raise forms.ValidationError(f"No piece in stock is called “{tag}”.")
        return piece

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean()
        for name, usual in USUAL_EXTRA_M.items():
            if cleaned.get(name) is None and name not in self.errors:
                cleaned[name] = usual
        cleaned["fit"] = cleaned.get("fit") or FitKind.FREE
        return cleaned

    @property
    def figures(self) -> dict[str, Any]:
        return {name: value for name, value in self.cleaned_data.items() if name not in ("once", "version")}


class PartsForm(TableForm):
    """A table of parts, as a file or pasted."""

    ids = "t-%s"


class LayForm(CalmForm):
    """Laying all parts at once."""

    ids = "a-%s"
    version = forms.IntegerField(widget=forms.HiddenInput)


class OfABoardForm(LayForm):
    """The same about one of the boards of a page."""

    begins = "s"

    def __init__(self, *args: Any, board: int, **kwargs: Any) -> None:
        self.ids = f"{self.begins}{board}-%s"
        super().__init__(*args, **kwargs)


class FaceForm(OfABoardForm):
    """Which face of a board shows."""

    begins = "b"
    face = forms.ChoiceField(label="Shows", choices=FaceKind.choices, required=False)


class FrameForm(CalmForm):
    """Where a board lies in a photograph of it."""

    photo = forms.ChoiceField(label="On the photograph", required=False)

    def __init__(self, *args: Any, board: int, photos: Any, **kwargs: Any) -> None:
        self.ids, self.board, self.photos = f"p{board}-%s", board, photos
        super().__init__(*args, **kwargs)

    def build(self) -> None:
        self.fields["photo"].choices = [("", "none"), *self.photos]  # type: ignore[attr-defined]
        for name, words in SIDES.items():
            self.fields[name] = PercentField(self.system, 0.0, 1.0, required=False, label=f"{words}, %")

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean()
        for name, usual in (("left", 0.0), ("right", 1.0), ("top", 0.0), ("bottom", 1.0)):
            if name not in self.errors and cleaned.get(name) is None:
                cleaned[name] = usual
        for first, last in (("left", "right"), ("top", "bottom")):
            if not {first, last} & self.errors.keys() and cleaned[last] <= cleaned[first] + 0.01:
                self.add_error(last, "It ends before it begins.")
        return cleaned

    @property
    def sides(self) -> tuple[float, float, float, float]:
        """From which to which share of the picture the board reaches: left, right, top, bottom."""
        typed = self.cleaned_data
        return typed["left"], typed["right"], typed["top"], typed["bottom"]


SIDES = {"left": "Its left end is at", "right": "Its right end at", "top": "Its upper edge at", "bottom": "Its lower edge at"}


class PlaceCutForm(CalmForm):
    """One piece laid by hand."""

    ids = "h-%s"
    piece = forms.ChoiceField(label="Piece")
    board = forms.ChoiceField(label="On board")
    version = forms.IntegerField(widget=forms.HiddenInput)

    def __init__(self, *args: Any, pieces: Any, boards: Any, **kwargs: Any) -> None:
        self.offered = pieces, boards
        super().__init__(*args, **kwargs)

    def build(self) -> None:
        unit = self.system.length
        self.fields["piece"].choices, self.fields["board"].choices = self.offered  # type: ignore[attr-defined]
        self.fields["x_m"] = LengthField(self.system, -1.0, 15.0, required=False, label=f"From its left end, {unit}")
        self.fields["y_m"] = LengthField(self.system, -1.0, 2.0, required=False, label=f"From its lower edge, {unit}")
        for name in ("x_m", "y_m"):
            self.fields[name].widget.attrs["placeholder"] = "first clear place"


FLAWS = [(kind.value, kind.label) for kind in MarkKind if kind not in LOOKS]
SEEN = [(kind.value, kind.label) for kind in LOOKS]


class MarkForm(CalmForm):
    """What of a board is kept out, or what the eye sees there."""

    ids = "m-%s"
    board = forms.ChoiceField(label="On board")
    kind = forms.ChoiceField(label="There is", choices=[("Kept out", FLAWS), ("What the eye sees", SEEN)])
    points = forms.ChoiceField(label="Its tip points, or the grain rises", choices=PointsKind.choices, required=False)

    def __init__(self, *args: Any, boards: Any, **kwargs: Any) -> None:
        self.boards = boards
        super().__init__(*args, **kwargs)

    def build(self) -> None:
        self.fields["board"].choices = self.boards  # type: ignore[attr-defined]
        unit = self.system.length
        for name, words in (("x0_m", "Along it, from"), ("x1_m", "Along it, to"), ("y0_m", "Across it, from"), ("y1_m", "Across it, to")):
            self.fields[name] = LengthField(self.system, 0.0, 15.0, required=name != "x0_m", label=f"{words}, {unit}")

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean()
        if "x0_m" not in self.errors:
            cleaned["x0_m"] = cleaned.get("x0_m") or 0.0
        for first, last in (("x0_m", "x1_m"), ("y0_m", "y1_m")):
            if (
                first in cleaned
                and last in cleaned
                and cleaned[first] is not None
                and cleaned[last] is not None
                and cleaned[last] <= cleaned[first]
            ):
                self.add_error(last, "It ends before it begins.")
        return cleaned


class DeleteForm(CalmForm):
    """Taking a build out."""

    ids = "d-%s"
    let_go = forms.BooleanField(label="The boards it holds may go back to the others", required=False)


class GlueForm(CalmForm):
    """The boards of a panel in order: stave, bark side up, turned end for end; and pairs that stay side by side."""

    ids = "g-%s"
    order = forms.CharField(widget=forms.HiddenInput, max_length=2000)
    pairs = forms.CharField(label="Bookmatched pairs", max_length=120, required=False)
    note = forms.CharField(label="What the grain does", max_length=200, required=False)
    glued = forms.BooleanField(label="It is glued up", required=False)
    version = forms.IntegerField(widget=forms.HiddenInput, required=False)

    def __init__(self, *args: Any, staves: int, photos: Any = (), **kwargs: Any) -> None:
        self.staves = staves
        super().__init__(*args, **kwargs)
        seen = [(str(photo.pk), f"{photo.piece.tag}, {day(photo.at.date())}") for photo in photos]
        self.fields["photo"] = forms.ChoiceField(label="The photograph that shows the match", choices=[("", "none"), *seen], required=False)
        self.fields["chalk"] = forms.ChoiceField(label="Chalked with", choices=ChalkKind.choices, required=False)
        self.fields["sapwood"] = forms.ChoiceField(label="Sapwood", choices=SapwoodKind.choices, required=False)
        self.fields["pairs"].widget.attrs |= {"placeholder": "1 2, 4 5", "autocomplete": "off"}

    def clean_order(self) -> list[list[Any]]:
        return read_order(self.cleaned_data["order"], self.staves)

    def clean_pairs(self) -> list[list[int]]:
        pairs = []
        for text in self.cleaned_data["pairs"].replace("-", " ").split(","):
            numbers = text.split()
            if not numbers:
                continue
            if (
                len(numbers) != 2
                or not all(number.isascii() and number.isdigit() and 1 <= int(number[:4]) <= self.staves for number in numbers)
                or numbers[0] == numbers[1]
            ):
                raise forms.ValidationError(
                    f"“{text.strip()[:20]}” is no pair: write two boards’ numbers, 1 to {self.staves}, as in “1 2, 4 5”."
                )
            pairs.append([int(numbers[0]) - 1, int(numbers[1]) - 1])
        return pairs


def read_order(text: str, staves: int) -> list[list[Any]]:
    """The order of a panel's boards as a form brings it.

    Raises:
        ValidationError: it is none.
    """
    try:
        rows = json.loads(text)
        order = [[int(row[0]), bool(row[1]), bool(row[2])] for row in rows]
    except (ValueError, TypeError, IndexError, KeyError, RecursionError, OverflowError):
        raise forms.ValidationError("The order of the boards did not arrive whole; lay them again.") from None
    if sorted(step[0] for step in order) != list(range(staves)):
        raise forms.ValidationError("Every board of the panel is in it once.")
    return order
