"""The form of a board."""

import re

from django import forms

from calm_heron.air import queries as air
from calm_heron.stock import queries
from calm_heron.stock.models import LENGTH_M, PITH_M, RING_ANGLE_DEG, THICKNESS_M, WIDTH_M, Grain, Piece, Seasoning
from calm_heron.workshops.fields import CalmForm, LengthField
from wood import species


class SpeciesField(forms.CharField):
    """A species by any of its names; one unmistakable match is enough."""

    def clean(self, value):
        text = super().clean(value)
        if text in species.all_species() or text in self.empty_values:
            return text
        found = species.search(text)
        exact = [one for one in found if text.casefold() in (one.common_name.casefold(), *(n.casefold() for n in one.other_names))]
        if len(exact) == 1 or len(found) == 1:
            return (exact or found)[0].key
        if not found:
            raise forms.ValidationError(f"No species is called “{text[:40]}” here. Try a shorter or a botanical name.")
        names = ", ".join(one.common_name for one in found[:5])
        raise forms.ValidationError(f"“{text[:40]}” may be any of {len(found)}: {names}{' …' if len(found) > 5 else ''}. Choose one.")

    def prepare_value(self, value):
        return species.all_species()[value].common_name if value in species.all_species() else value


class BoardForm(CalmForm):
    """A board; ``piece`` is given when it is being changed."""

    species_key = SpeciesField(label="Species", max_length=60)
    grain = forms.ChoiceField(
        label="Grain, looking at the end", choices=Grain.choices, widget=forms.RadioSelect, required=False, initial=Grain.FLAT
    )
    ring_angle_deg = forms.FloatField(
        label="or the ring angle, degrees", required=False, min_value=0, max_value=90,
        help_text="Between the rings and the wide face: 0 flat-sawn, 90 quarter-sawn. Leave empty to go by the picture.",
        widget=forms.TextInput(attrs={"inputmode": "decimal", "autocomplete": "off"}),
    )  # fmt: skip
    seasoning = forms.ChoiceField(label="It comes", choices=Seasoning.choices, widget=forms.RadioSelect, initial=Seasoning.AIR)
    ends_sealed = forms.BooleanField(label="Its ends are sealed", required=False)
    note = forms.CharField(label="Note", max_length=200, required=False)
    version = forms.IntegerField(widget=forms.HiddenInput, required=False)

    field_order = [
        "species_key",
        "thickness_m",
        "width_m",
        "length_m",
        "grain",
        "ring_angle_deg",
        "pith_distance_m",
        "seasoning",
        "ends_sealed",
        "place",
        "note",
    ]

    def __init__(self, *args, piece: Piece | None = None, **kwargs) -> None:
        if piece:
            names = ("species_key", "thickness_m", "width_m", "length_m", "pith_distance_m", "seasoning", "ends_sealed", "note", "version")
            kwargs["initial"] = {name: getattr(piece, name) for name in names} | {
                "ring_angle_deg": f"{piece.ring_angle_deg:g}",
                "grain": next(grain for grain in Grain if grain.label == piece.grain),
                "place": piece.place_id,
                "thickness_m": piece.nominal or piece.thickness_m,
            }
        super().__init__(*args, **kwargs)

    def build(self) -> None:
        inch = self.system.length == "in"
        sizes = {
            "thickness_m": ("Thickness", THICKNESS_M, "5/4, 1 3/8 or 27 mm. The size it has, not the size it will have."),
            "width_m": ("Width", WIDTH_M, "Across the grain."),
            "length_m": ("Length", LENGTH_M, "8 ft, 96 or 2.4 m." if inch else "2400, 2.4 m or 8 ft."),
        }
        for name, (label, (low, high), hint) in sizes.items():
            self.fields[name] = LengthField(self.system, low, high, label=f"{label}, {self.system.length}", help_text=hint)
        self.fields["pith_distance_m"] = LengthField(
            self.system, *PITH_M, label=f"Pith to the middle of the board, {self.system.length}", required=False,
            initial='6"' if inch else "150 mm", help_text="How far off the centre of the tree lay. A guess will do; it bends the drawn cup.",
        )  # fmt: skip
        self.fields["place"] = forms.ModelChoiceField(
            air.places(self.workshop), label="Where it lies", required=False, empty_label="not said"
        )
        self.order_fields(self.field_order)

    def clean(self) -> dict:
        cleaned = super().clean()
        if cleaned.get("ring_angle_deg") is None and "ring_angle_deg" not in self.errors:
            cleaned["ring_angle_deg"] = RING_ANGLE_DEG[Grain(cleaned.get("grain") or Grain.FLAT)]
        thickness, width = cleaned.get("thickness_m"), cleaned.get("width_m")
        if thickness and width and thickness > width:
            self.add_error("width_m", "The width is less than the thickness. Are they the wrong way round?")
        if cleaned.get("pith_distance_m") is None and "pith_distance_m" not in self.errors:
            cleaned["pith_distance_m"] = 0.15
        return cleaned

    def sizes(self) -> dict:
        """What the actions take, from a valid form."""
        names = (
            "species_key", "thickness_m", "width_m", "length_m", "ring_angle_deg", "pith_distance_m", "seasoning", "ends_sealed", "place",
            "note",
        )  # fmt: skip
        typed = self.data.get("thickness_m", "").strip()
        nominal = typed if re.fullmatch(r"\d{1,2}/4", typed) else ""
        return {name: self.cleaned_data[name] for name in names} | {"nominal": nominal}

    @property
    def usual_species(self):
        return [species.all_species()[key] for key in queries.species_in_use(self.workshop) if key in species.all_species()]
