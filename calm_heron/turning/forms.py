"""What turning asks: a bowl to be roughed, a log to be cut, weights, tracings, cracks and heats."""

import math
import re
from collections.abc import Sequence
from typing import Any

from django import forms

from calm_heron.air import queries as air
from calm_heron.air.kinds import PlaceKind
from calm_heron.drying import methods
from calm_heron.drying import queries as drying
from calm_heron.questions.forms import Group, QuestionForm
from calm_heron.stock.models import Piece
from calm_heron.stock.species_forms import SpeciesField
from calm_heron.turning.kinds import FormKind, RimKind, WayKind
from calm_heron.turning.models import LogEnd, turned
from calm_heron.workshops.askers import Asker
from calm_heron.workshops.fields import LengthField, PercentField
from wood.air import climate
from wood.errors import CannotRead
from wood.turning import blanks, bowls, logs
from wood.turning.logs import Flaw, Knot, Stroke
from wood.units import System
from wood.written import typed_length

# How deep drawn checks go along the log, in the script's millimetres: right through, or so much.
DEPTHS_MM = {
    "in": (("25", "1 in deep"), ("51", "2 in deep"), ("102", "4 in deep")),
    "mm": (("25", "25 mm deep"), ("50", "50 mm deep"), ("100", "100 mm deep")),
}
# Air that anybody may ask about: a climate pattern, in a heated room or in a shed.
ROOMS = (("heated", "in a heated room"), ("shed", "in an unheated shed"))
END_WALL_M = (0.001, 0.06)


class RoughForm(QuestionForm):
    """A bowl to be roughed, and where and how it will dry."""

    groups = (
        Group(("species_key", "diameter_m", "height_m", "end_wall_m", "form", "way", "where", "climate")),
        Group(("rim", "pith_m", "aside_m", "start", "wall_m"), "Where it lay in the log, how wet it is, another wall"),
    )
    depends = {"climate": "where=heated shed"}
    always = ("way",)
    form = forms.ChoiceField(
        label="Its form is", choices=[item for item in FormKind.choices if item[0] != FormKind.SOLID.value], required=False
    )
    rim = forms.ChoiceField(label="Its rim faces", choices=RimKind.choices, required=False)
    way = forms.ChoiceField(label="It dries", choices=WayKind.choices, required=False)

    @classmethod
    def begins_with(cls, asker: Asker, subject: Piece | None) -> dict[str, str]:
        inch = asker.system.is_inch
        fields = {
            "species_key": "sugar maple",
            "diameter_m": "10 in" if inch else "250 mm",
            "height_m": "4 in" if inch else "100 mm",
            "end_wall_m": "5/16 in" if inch else "8 mm",
            "pith_m": "3/4 in" if inch else "20 mm",
            "form": "open",
            "rim": "pith",
            "way": "bag",
        }
        if subject is None:
            return fields
        known, rough = turned(subject), subject.traits.dries_by_weight
        sizes = {
            "diameter_m": subject.width_m,
            "height_m": subject.length_m if rough else subject.thickness_m,
            "pith_m": known.pith_m,
            "aside_m": known.aside_m,
            "end_wall_m": known.end_wall_m,
            **({"wall_m": subject.thickness_m} if rough else {}),
        }
        fields |= {"species_key": subject.species.common_name, "form": known.form, "rim": known.rim, "way": known.way}
        fields |= {name: typed_length(size, asker.system) for name, size in sizes.items()}
        return fields | ({"where": f"place-{subject.place_id}"} if subject.place_id else {})

    def build(self) -> None:
        unit = self.system.length
        self.places = (
            []
            if not self.workshop.pk
            else [place for place in air.places(self.workshop) if not place.traits.is_outdoors and not place.traits.is_held]
        )
        own = [(f"place-{place.pk}", place.name) for place in self.places]
        self.fields["species_key"] = SpeciesField(self.workshop, required=False, label="Species")
        self.fields["diameter_m"] = LengthField(self.system, *bowls.DIAMETER_M, required=False, label=f"Diameter, {unit}")
        self.fields["height_m"] = LengthField(self.system, *bowls.HEIGHT_M, required=False, label=f"Height, {unit}")
        self.fields["end_wall_m"] = LengthField(self.system, *END_WALL_M, required=False, label=f"Finished wall, {unit}")
        self.fields["wall_m"] = LengthField(self.system, *bowls.WALL_M, required=False, label=f"Try a wall of, {unit}")
        self.fields["wall_m"].widget.attrs["placeholder"] = "ours"
        self.fields["pith_m"] = LengthField(self.system, 0.0, 1.0, required=False, label=f"From rim or foot to the pith, {unit}")
        self.fields["aside_m"] = LengthField(self.system, -0.5, 0.5, required=False, label=f"The pith is off centre by, {unit}")
        self.fields["start"] = PercentField(self.system, 0.02, 2.5, required=False, label="Moisture now, %")
        self.fields["start"].widget.attrs["placeholder"] = "green"
        self.fields["where"] = forms.ChoiceField(
            label="Where", required=False, choices=[*own, *((key, f"{words} of …") for key, words in ROOMS)] if own else ROOMS
        )
        self.fields["climate"] = forms.ChoiceField(
            label="In the climate", required=False, choices=[(key, pattern.name) for key, pattern in climate.patterns().items()]
        )

    @property
    def method(self) -> methods.DryingMethod:
        """What a climate pattern's air is turned into."""
        kind = PlaceKind.STORE if self.chosen("where") == "shed" else PlaceKind.ROOM
        return methods.of_place(kind)


# A stroke as it stands in an address, where nothing of it has to be escaped: points in millimetres, x and y parted by a dot, points by a
# star; then b for bark, k for a knot (its middle and a point of its edge), d and millimetres for how deep. Strokes are parted by a line.
POINT = re.compile(r"(-?\d{1,4})\.(-?\d{1,4})")
DEPTH = re.compile(r"d(\d{1,5})")
BARK, KNOT = "b", "k"


class StrokesField(forms.CharField):
    """What was drawn on a log's end, as the page's script writes it: “12.-34*45.60*d30_…”."""

    widget = forms.HiddenInput

    def clean(self, value: Any) -> list[dict[str, Any]]:
        text = super().clean(value)
        made = []
        for item in filter(None, text.split("_")):
            stroke: dict[str, Any] = {"p": [], "d": None, "f": Flaw.CHECK.value}
            for part in item.split("*"):
                if point := POINT.fullmatch(part):
                    stroke["p"].append([int(point[1]) / 1000, int(point[2]) / 1000])
                elif depth := DEPTH.fullmatch(part):
                    stroke["d"] = int(depth[1]) / 1000
                elif part == BARK:
                    stroke["f"] = Flaw.BARK.value
                elif part == KNOT:
                    stroke["f"] = KNOT
                else:
                    raise forms.ValidationError("What was drawn on the log cannot be read. Draw it again, or type the checks below.")
            if not 2 <= len(stroke["p"]) <= logs.MOST_POINTS:
                raise forms.ValidationError("A stroke that was drawn is too short or too long. Draw it again.")
            made.append(stroke)
        if len(made) > logs.MOST_CHECKS:
            raise forms.ValidationError(f"At most {logs.MOST_CHECKS} checks can be drawn.")
        return made


def written(saved: list[dict[str, Any]]) -> str:
    """What was drawn, as it stands in the field.

    >>> written([{"p": [[0.012, -0.034], [0.045, 0.06]], "d": 0.03, "f": "check"}])
    '12.-34*45.60*d30'
    """
    strokes = []
    for item in saved:
        parts = [f"{round(x * 1000)}.{round(y * 1000)}" for x, y in item["p"]]
        parts += [BARK] if item["f"] == Flaw.BARK.value else [KNOT] if item["f"] == KNOT else []
        parts += [] if item["d"] is None else [f"d{round(item['d'] * 1000)}"]
        strokes.append("*".join(parts))
    return "_".join(strokes)


def strokes_of(saved: list[dict[str, Any]]) -> tuple[Stroke, ...]:
    """What was drawn as strokes, as the core reads it."""
    return tuple(Stroke(tuple((x, y) for x, y in item["p"]), item["d"], Flaw(item["f"])) for item in saved if item["f"] != KNOT)


def knots_of(saved: list[dict[str, Any]]) -> tuple[Knot, ...]:
    """What was drawn as knots: each by its middle and its radius."""
    return tuple(
        Knot(item["p"][0][0], item["p"][0][1], max(math.dist(item["p"][0], item["p"][-1]), 0.003)) for item in saved if item["f"] == KNOT
    )


class TypedChecks(forms.CharField):
    """Checks by numbers, a line each: the clock's hour they lie at, from and to in shares of the radius, and how deep along the log: “2
    0.3-1 4 cm”.
    """

    def __init__(self, system: System, **options: Any) -> None:
        self.system = system
        super().__init__(required=False, max_length=2000, widget=forms.Textarea(attrs={"rows": 3, "placeholder": "2 0.3-1"}), **options)

    def in_units(self, text: str, before: System) -> str:
        """The checks as a reader of another system reads them alike: a bare depth gets the unit that it was meant in."""
        return "\n".join(re.sub(r"^(\s*\S+\s+\S+\s+[\d.,/ ]*\d)\s*$", rf"\1 {before.length}", line) for line in text.splitlines())


CUT_SHAPES = (
    (blanks.Shape.BOWL.value, "bowls"),
    (blanks.Shape.RIM.value, "platters"),
    (blanks.Shape.HEMISPHERE.value, "hemispheres"),
    (blanks.Shape.SPHERE.value, "spheres"),
    (blanks.Shape.CYLINDER.value, "cylinders"),
)


TRUNKS = (
    (logs.Trunk.ROUND.value, "a round log"),
    (logs.Trunk.CROTCH.value, "a crotch, two piths"),
    (logs.Trunk.BURL.value, "a burl, cut off flat"),
)


class CutForm(QuestionForm):
    """A log as it lies, and what is wanted of it. What is drawn on its end, and the lines that are moved, travel in hidden fields."""

    groups = (
        Group(("species_key", "trunk", "width_m", "height_m", "length_m", "felled_days", "ends", "rim", "shape")),
        Group(
            (
                "checked",
                "pith_x_m",
                "pith_y_m",
                "second_x_m",
                "second_y_m",
                "soft_m",
                "diameter_m",
                "least_m",
                "plank_m",
                "side_m",
                "checks",
            ),
            "Pith, punky centre and checks by numbers; sizes you want",
            "The hour of a clock, from-to with 0 at the pith and 1 at the bark, and how deep along the log if you know.",
        ),
    )
    tells = ("strokes", "angle", "upper", "lower", "off", "plan")
    wide = ("checks",)
    always = ("rim", "shape", "ends", "trunk", "checked")
    called = {"cut_off_m": "felled_days"}
    rim = forms.ChoiceField(label="Rims face", choices=RimKind.choices, required=False)
    shape = forms.ChoiceField(label="Look for", choices=CUT_SHAPES, required=False)
    ends = forms.ChoiceField(label="Its ends are", choices=(("open", "open"), ("sealed", "sealed")), required=False)
    trunk = forms.ChoiceField(label="It is", choices=TRUNKS, required=False)
    checked = forms.ChoiceField(
        label="What is drawn lies in", choices=(("both", "both ends alike"), ("one", "this end only")), required=False
    )

    @classmethod
    def begins_with(cls, asker: Asker, subject: Piece | None) -> dict[str, str]:
        system = asker.system
        inch = system.is_inch
        begun = {
            "species_key": "black cherry",
            "width_m": typed_length(0.4064 if inch else 0.4, system),
            "length_m": typed_length(0.508 if inch else 0.5, system),
            "felled_days": "0",
            "ends": "open",
            "trunk": "round",
            "checked": "both",
            "rim": "pith",
            "shape": "bowl",
            "least_m": typed_length(0.127 if inch else 0.13, system),
        }
        return begun if subject is None else begun | of_log(subject, system)

    @property
    def depths(self) -> Sequence[tuple[str, str]]:
        """How deep a check that is drawn may go, in words."""
        return DEPTHS_MM[self.system.length]

    def build(self) -> None:
        unit = self.system.length
        self.fields["species_key"] = SpeciesField(self.workshop, required=False, label="Species")
        self.fields["width_m"] = LengthField(self.system, *logs.DIAMETER_M, required=False, label=f"Diameter without bark, {unit}")
        self.fields["height_m"] = LengthField(self.system, *logs.DIAMETER_M, required=False, label=f"The other way, if oval, {unit}")
        self.fields["length_m"] = LengthField(self.system, *logs.LENGTH_M, required=False, label=f"Length, {unit}")
        self.fields["pith_x_m"] = LengthField(self.system, -1.0, 1.0, required=False, label=f"Pith right of the middle, {unit}")
        self.fields["pith_y_m"] = LengthField(self.system, -1.0, 1.0, required=False, label=f"Pith above the middle, {unit}")
        self.fields["second_x_m"] = LengthField(self.system, -1.0, 1.0, required=False, label=f"Second pith, to the right, {unit}")
        self.fields["second_y_m"] = LengthField(self.system, -1.0, 1.0, required=False, label=f"Second pith, above the middle, {unit}")
        self.fields["soft_m"] = LengthField(self.system, 0.0, 0.5, required=False, label=f"Punky centre, radius, {unit}")
        self.fields["felled_days"] = forms.IntegerField(
            label="Days since it was felled or cut back",
            required=False,
            min_value=0,
            max_value=1500,
            widget=forms.TextInput(attrs={"inputmode": "numeric"}),
            error_messages=dict.fromkeys(("invalid", "min_value", "max_value"), "This must be a whole number of days from 0 to 1500."),
        )
        self.fields["strokes"] = StrokesField(required=False, max_length=20_000)
        self.fields["checks"] = TypedChecks(self.system, label="Checks by numbers, one a line")
        self.fields["least_m"] = LengthField(self.system, 0.05, 1.0, required=False, label=f"The smallest bowl worth it, {unit}")
        self.fields["plank_m"] = LengthField(self.system, 0.0, 0.3, required=False, label=f"Slab between, at least, {unit}")
        self.fields["diameter_m"] = LengthField(self.system, 0.03, 1.5, required=False, label=f"I want bowls of, {unit}")
        self.fields["diameter_m"].widget.attrs["placeholder"] = "the largest"
        self.fields["side_m"] = LengthField(self.system, 0.01, 0.5, required=False, label=f"Or squares of, {unit}")
        for name, label in (
            ("angle", "Angle"),
            ("upper", "First cut from the pith"),
            ("lower", "Second cut from the pith"),
            ("off", "Off each end"),
        ):
            self.fields[name] = forms.FloatField(required=False, label=label, widget=forms.HiddenInput, min_value=-360, max_value=360)
        self.fields["plan"] = forms.ChoiceField(
            required=False, widget=forms.HiddenInput, choices=[(kind.value, kind.value) for kind in blanks.Kind]
        )

    def clean_checks(self) -> list[dict[str, Any]]:
        """The typed checks as shares: hour, from, to, depth in metres; where they lie is known once the log's size is."""
        made = []
        for number, line in enumerate(filter(None, (splitline.strip() for splitline in self.cleaned_data["checks"].splitlines())), 1):
            parts = line.replace("–", "-").split(maxsplit=2)
            try:
                hour = float(parts[0])
                begin, _, end = parts[1].partition("-")
                begin, end = float(begin), float(end)
                depth = LengthField(self.system, 0.0, logs.LENGTH_M[1]).clean(parts[2]) if len(parts) > 2 else None
            except (ValueError, IndexError, CannotRead):
                raise forms.ValidationError(
                    f"Line {number}: write the hour of a clock, from-to in shares of the radius, and how deep if you know."
                ) from None
            if not (0 <= hour <= 12 and 0 <= begin < end <= 1):
                raise forms.ValidationError(f"Line {number}: hours go from 0 to 12, and a check from 0 at the pith to 1 at the bark.")
            made.append({"hour": hour, "begin": begin, "end": end, "depth": depth})
        return made


def of_log(log: Piece, system: System) -> dict[str, str]:
    """What a log of the stock brings: its wood, its sizes, its age, and its end as it was drawn."""
    fields = {
        "species_key": log.species.common_name,
        "width_m": typed_length(log.width_m, system),
        "length_m": typed_length(log.length_m, system),
        "ends": "sealed" if log.ends_sealed else "open",
    }
    if log.felled_on:
        fields["felled_days"] = str(min(max((drying.today() - log.felled_on).days, 0), 1500))
    drawn = LogEnd.objects.filter(piece=log).first()
    if drawn is not None:
        names = ("width_m", "height_m", "length_m", "pith_x_m", "pith_y_m", "soft_m")
        fields |= {name: typed_length(getattr(drawn, name), system) for name in names} | {"strokes": written(drawn.strokes)}
    return fields
