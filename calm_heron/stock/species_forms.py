"""Forms about species: naming one, and a workshop's own figures."""

from typing import Any

from django import forms

from calm_heron.stock import woods
from calm_heron.stock.models import OwnSpecies
from calm_heron.workshops.fields import CalmForm, PercentField, sentence
from wood.errors import CannotRead
from wood.species import OWN_FIGURES, Species

PLAIN_NUMBER = {"inputmode": "decimal", "autocomplete": "off"}


class SpeciesField(forms.CharField):
    """A species by any of its names; one unmistakable match is enough."""

    def __init__(self, workshop: Any, **options: Any) -> None:
        self.workshop = workshop
        super().__init__(max_length=60, **options)

    @property
    def book(self) -> dict[str, Any]:
        return woods.of_workshop(self.workshop.pk)

    def clean(self, value: Any) -> Any:
        text = super().clean(value)
        if text in self.empty_values:
            return text
        try:
            return woods.named(self.workshop, text)
        except CannotRead as error:
            raise forms.ValidationError(sentence(error.why)) from None

    def prepare_value(self, value: Any) -> Any:
        return self.book[value].common_name if value in self.book else value


class OwnSpeciesForm(CalmForm):
    """Figures of the workshop's own: for a published species (``published`` given), or for a new one."""

    asks_back = False

    common_name = forms.CharField(label="Name", max_length=60)
    botanical_name = forms.CharField(label="Botanical name", max_length=80, required=False)
    group = forms.ChoiceField(
        label="It is a", choices=[("hardwood", "Hardwood"), ("softwood", "Softwood")], widget=forms.RadioSelect, initial="hardwood"
    )
    source = forms.CharField(label="Where the figures come from", max_length=120, required=False, help_text="A book, a test of your own.")
    surely = forms.BooleanField(label="Yes, it shrinks more radially than tangentially", required=False)
    version = forms.IntegerField(widget=forms.HiddenInput, required=False)

    GRAVITY = ("specific_gravity_green", "specific_gravity_12")
    SHARES = {
        "shrinkage_radial": "Shrinkage to ovendry, radial, %",
        "shrinkage_tangential": "Shrinkage to ovendry, tangential, %",
        "fibre_saturation": "Fibre saturation, %",
    }

    def __init__(self, *args: Any, published: Species | None = None, row: OwnSpecies | None = None, **kwargs: Any) -> None:
        self.published, self.row = published, row
        if row:
            names = ("common_name", "botanical_name", "group", "source", "version", *OWN_FIGURES)
            kwargs["initial"] = {name: getattr(row, name) for name in names}
        super().__init__(*args, **kwargs)

    def build(self) -> None:
        for name, label in zip(self.GRAVITY, ("Specific gravity, green volume", "Specific gravity at 12%"), strict=True):
            low, high = OWN_FIGURES[name]
            self.fields[name] = forms.FloatField(
                label=label, min_value=low, max_value=high, required=False, widget=forms.TextInput(attrs=PLAIN_NUMBER)
            )
        for name, label in self.SHARES.items():
            self.fields[name] = PercentField(self.system, *OWN_FIGURES[name], label=label, required=False)
        if self.published:
            for name in ("common_name", "botanical_name", "group"):
                del self.fields[name]

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean()
        gravity = [cleaned.get(name) for name in self.GRAVITY]
        if all(gravity) and (gravity[0] or 0.0) >= (gravity[1] or 0.0):
            self.add_error("specific_gravity_12", "At 12% the wood has shrunk, so this figure is the larger of the two.")
        radial, tangential = (cleaned.get(name) for name in ("shrinkage_radial", "shrinkage_tangential"))
        if self.published:
            radial, tangential = radial or self.published.shrinkage_radial, tangential or self.published.shrinkage_tangential
        self.asks_back = bool(radial and tangential and radial > tangential)
        if self.asks_back and not cleaned.get("surely"):
            self.add_error(
                "surely",
                "Nearly all wood shrinks more tangentially. Are the two the wrong way round? If not, say so here and keep it again.",
            )
        if not any(cleaned.get(name) for name in OWN_FIGURES) and not self.errors:
            self.add_error("specific_gravity_12", "Give at least one figure; without any there is nothing to compute with.")
        return cleaned

    @property
    def figures(self) -> list[dict[str, Any]]:
        """Each figure's field, with what is published."""
        return [
            {"field": self[name], "published": woods.written(name, getattr(self.published, name) if self.published else None)}
            for name in OWN_FIGURES
        ]

    def values(self) -> dict[str, Any]:
        names = [name for name in ("common_name", "botanical_name", "group") if name in self.fields]
        result = {name: self.cleaned_data[name] for name in (*names, "source", *OWN_FIGURES)}
        if self.published:
            result |= {
                "key": self.published.key,
                "common_name": self.published.common_name,
                "botanical_name": self.published.botanical_name,
                "group": self.published.group,
            }
        return result
