"""What is kept of chambers and of loads that run."""

from datetime import date
from typing import Any

from django import forms

from calm_heron.air import queries as air
from calm_heron.drying import queries
from calm_heron.drying.forms import BeginField
from calm_heron.kiln import planning
from calm_heron.kiln.forms import AirflowField, BulbsForm, StepsField, number_field, water_field
from calm_heron.kiln.kinds import DISTURBS, PLATE_AIR, CareChosen, ChamberKind, ChargedBy, Defect, Happened, PlateAir
from calm_heron.kiln.models import Chamber, Load
from calm_heron.kiln.runs import doubts, weighing
from calm_heron.site.dates import full_day
from calm_heron.stacks.forms import LotsField, OutcomeForm
from calm_heron.stock.models import Piece
from calm_heron.workshops.fields import CalmForm, DayField, LengthField, MassField, PercentField, TemperatureField, VolumeField
from calm_heron.workshops.spell_forms import SpellForm
from wood.kiln import chambers, programs
from wood.kiln.chambers import LIMITS_C, LOAD_M3, Inside, Kind
from wood.sizes import FOUR_QUARTER_GREEN_M
from wood.units import System
from wood.written import written_temperature

# What an owner knows of a chamber, empty where nobody does.
KNOWN_OF_IT = ("long_m", "deep_m", "high_m", "fans_m3_h", "plate_litres", "works_from_c", "works_to_c")
SAMPLE_KG, SECTION_KG = (0.01, 200.0), (0.003, 20.0)
SECTIONS = ("One", "The other")


class LoadMassField(MassField):
    """What a whole load weighs: a number without its unit is of pounds or kilograms."""

    def read(self, text: str) -> float:
        bare = text.strip().replace(",", "").replace(".", "").replace(" ", "").isdecimal()
        return super().read(f"{text} {'lb' if self.system.is_inch else 'kg'}" if bare else text)


def load_mass(label: str, system: System) -> LoadMassField:
    """A load's weight on a bridge or a beam."""
    return LoadMassField(system, 1, 200_000, required=False, label=f"{label}, {'lb' if system.is_inch else 'kg'}")


class ChamberForm(CalmForm):
    """A chamber by its limits."""

    name = forms.CharField(label="Its name", max_length=60)
    kind = forms.ChoiceField(label="It is", choices=ChamberKind.choices)
    version = forms.IntegerField(widget=forms.HiddenInput, required=False)

    def build(self) -> None:
        degrees, unit = self.system.temperature, self.system.length
        self.fields["place"] = forms.ModelChoiceField(
            air.places(self.workshop), label="Its loads lie in", required=False, empty_label="no place of its own"
        )
        for name, label in (("long_m", "Inside, along the boards"), ("deep_m", "across the boards"), ("high_m", "high")):
            self.fields[name] = LengthField(self.system, *chambers.INSIDE_M, required=False, label=f"{label}, {unit}")
            self.fields[name].widget.attrs |= {"inputmode": "text", "placeholder": "as usual"}
        self.fields["load_m3"] = VolumeField(
            self.system, *LOAD_M3, required=False, label="Capacity, bd ft" if self.system.is_inch else "Capacity, m³"
        )
        self.fields["load_m3"].widget.attrs["placeholder"] = "by its inside"
        self.fields["hottest_c"] = TemperatureField(
            self.system, *LIMITS_C, usual_low=25, usual_high=95, required=False, label=f"Maximum temperature, °{degrees}"
        )
        self.fields["heat_kw"] = number_field("Its heat, kW", 0.05, 2000, "as usual")
        self.fields["fans_m3_h"] = AirflowField(
            self.system, 10, 1e6, required=False, label=f"Its fans move, {AirflowField.unit_in(self.system)}"
        )
        self.fields["fans_m3_h"].widget.attrs["placeholder"] = "as usual"
        self.fields["baffles"] = forms.BooleanField(label="baffles send all the air through the load", required=False, initial=True)
        self.fields["sprays"] = forms.BooleanField(label="it can make its air damp: steam or spray", required=False)
        water = "pints a day" if self.system.is_inch else "litres a day"
        self.fields["plate_litres"] = water_field(self.system)
        self.fields["plate_litres"].label = f"Its plate says, {water}"
        warm = {air: f"in air of {written_temperature(celsius, self.system)} and {damp:.0%}" for air, (celsius, damp) in PLATE_AIR.items()}
        self.fields["plate_air"] = forms.ChoiceField(
            label="as rated", required=False, choices=[(air.value, said) for air, said in warm.items()]
        )
        for name, label in (("works_from_c", "It works from"), ("works_to_c", "to")):
            self.fields[name] = TemperatureField(
                self.system, -10, 95, usual_low=0, usual_high=70, required=False, label=f"{label}, °{degrees}"
            )
        self.fields["kwh_price"] = number_field("A kilowatt hour costs", 0, 100)

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean()
        sizes = [cleaned.get(name) for name in ("long_m", "deep_m", "high_m")]
        if any(size is not None for size in sizes) and not all(size is not None for size in sizes):
            missing = next(name for name in ("long_m", "deep_m", "high_m") if cleaned.get(name) is None)
            self.add_error(missing, "Type all three of its inside, or none.")
        elif not self.errors and cleaned.get("load_m3") is None and None in sizes:
            self.add_error("load_m3", "Type what it is built for, or what it measures inside.")
        if cleaned.get("fans_m3_h") is not None and None in sizes and "fans_m3_h" not in self.errors:
            self.add_error("fans_m3_h", "How fast that is between the boards depends on its inside: type that too.")
        low, high = cleaned.get("works_from_c"), cleaned.get("works_to_c")
        if low is not None and high is not None and high <= low:
            self.add_error("works_to_c", "It works up to more than it works from: are the two changed about?")
        return cleaned

    @property
    def holds_m3(self) -> float:
        """What it is built for: as it was typed, else what its inside holds of 4/4 on usual stickers."""
        typed = self.cleaned_data
        if typed["load_m3"] is not None:
            return float(typed["load_m3"])
        inside = Inside(typed["long_m"], typed["deep_m"], typed["high_m"])
        return min(max(inside.holds_m3(FOUR_QUARTER_GREEN_M), LOAD_M3[0]), LOAD_M3[1])

    @property
    def figures(self) -> dict[str, Any]:
        """Its figures as they are kept; those that nobody typed as they are usual."""
        typed = self.cleaned_data
        usual = chambers.usual(Kind(typed["kind"]), self.holds_m3)
        as_typed = (*KNOWN_OF_IT, "place", "sprays", "baffles", "kwh_price")
        return {name: typed[name] for name in as_typed} | {
            "name": typed["name"].strip(),
            "kind": typed["kind"],
            "load_m3": self.holds_m3,
            "plate_air": typed["plate_air"] or PlateAir.WARM,
            "hottest_c": usual.hottest_c if typed["hottest_c"] is None else typed["hottest_c"],
            "heat_kw": usual.heat_kw if typed["heat_kw"] is None else typed["heat_kw"],
            "litres_a_day": usual.litres_a_day,
        }


class BeginLoadForm(CalmForm):
    """A load that begins, or has begun."""

    care = forms.ChoiceField(label="Run", choices=CareChosen.choices)
    even = forms.BooleanField(label="evened out in the end", required=False, initial=True)
    condition = forms.BooleanField(label="conditioned, where the kiln can", required=False, initial=True)
    whose = forms.CharField(label="Whose wood it is, if not ours", max_length=80, required=False)
    charged_by = forms.ChoiceField(label="It is charged", choices=ChargedBy.choices, required=False)
    tag = forms.CharField(label="Tag", max_length=32, required=False)

    def build(self) -> None:
        self.fields["lots"] = LotsField(self.workshop, label="Its lots, by their tags")
        self.fields["chamber"] = forms.ModelChoiceField(Chamber.objects.of(self.workshop).order_by("name"), label="Kiln", empty_label=None)
        self.fields["began_on"] = DayField(label="Begun on")
        self.fields["wanted"] = PercentField(self.system, *programs.TARGETS, label="Target, %")
        self.fields["start"] = PercentField(self.system, 0.02, 3.0, required=False, label="Its moisture then, %")
        self.fields["start"].widget.attrs["placeholder"] = "as it was read, or green"
        self.fields["now"] = PercentField(self.system, 0.02, 3.0, required=False, label="Or its moisture now, %")
        self.fields["now"].widget.attrs["placeholder"] = "where it runs already"
        self.fields["weighed_in_kg"] = load_mass("Weighed in", self.system)
        by_volume, by_water = ("1,000 bd ft", "100 lb") if self.system.is_inch else ("a m³", "100 kg")
        self.fields["price"] = number_field(f"Price, for {by_volume} of wood or {by_water} of water", 0, 1_000_000)
        self.fields["own"] = StepsField(self.system, label=f"Your own steps: until %, dry and wet bulb °{self.system.temperature}")
        self.fields["tag"].widget.attrs["placeholder"] = "the next free one"
        self.fields["anyway"] = forms.BooleanField(required=False, label="begin it all the same")
        self.doubts: list[str] = []

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean()
        if cleaned.get("start") is not None and cleaned.get("now") is not None:
            self.add_error("now", "It is followed from one of the two: leave the other empty.")
        if not self.errors:
            self.doubts = doubts.of_a_load(self)
            if self.doubts and not cleaned["anyway"]:
                self.add_error("lots", " ".join(self.doubts) + " Change it, or tick that it begins all the same.")
        return cleaned

    def start_of(self, piece: Piece) -> float:
        """What a lot begins with: what was typed, else as it was read, else green."""
        typed = self.cleaned_data
        return planning.lot_of(piece, typed["start"] if typed["now"] is None else typed["now"]).start


class LoadSampleForm(CalmForm):
    """A sample that is cut: what it weighs, and what its sections weigh, wet and ovendry; or its moisture, where that is known."""

    ids = "s-%s"
    tag = forms.CharField(label="Tag", max_length=16)

    def __init__(self, *args: Any, load: Load, **kwargs: Any) -> None:
        self.load = load
        super().__init__(*args, **kwargs)

    def build(self) -> None:
        self.fields["piece"] = forms.ModelChoiceField(
            Piece.objects.filter(in_loads__load=self.load).order_by("tag"), label="From", empty_label=None
        )
        self.fields["mass_kg"] = MassField(self.system, *SAMPLE_KG, label=f"Weighs, {self.system.mass}")
        for number, name in enumerate(SECTIONS, 1):
            for state, label in (("wet", "wet"), ("dry", "ovendry")):
                self.fields[f"{state}_{number}"] = MassField(
                    self.system, *SECTION_KG, required=False, label=f"{name} section, {label}, {self.system.mass}"
                )
        self.fields["moisture"] = PercentField(self.system, 0.02, 3.0, required=False, label="Or its moisture, %")
        self.fields["at"] = DayField(label="Cut on")

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean()
        for number in range(1, len(SECTIONS) + 1):
            wet, dry = cleaned.get(f"wet_{number}"), cleaned.get(f"dry_{number}")
            if dry is not None and wet is None and f"wet_{number}" not in self.errors:
                self.add_error(f"wet_{number}", "What did it weigh when it was cut?")
            elif wet is not None and dry is not None and dry >= wet:
                self.add_error(f"dry_{number}", "A section never weighs more dry than wet: are the two changed about?")
        if self.sections and cleaned.get("moisture") is not None:
            self.add_error("moisture", "Its sections say that already. Leave one of the two empty.")
        elif not self.errors and not self.sections and cleaned.get("moisture") is None:
            self.add_error("wet_1", "Type what its sections weigh, or its moisture.")
        return cleaned

    @property
    def sections(self) -> list[tuple[float, float | None]]:
        """Its sections as (wet, ovendry kg); None while they are in the oven."""
        pairs = [(self.cleaned_data.get(f"wet_{number}"), self.cleaned_data.get(f"dry_{number}")) for number in range(1, len(SECTIONS) + 1)]
        return [(wet, dry) for wet, dry in pairs if wet is not None]


class SectionsForm(CalmForm):
    """The sections of a sample come out of the oven."""

    def __init__(self, *args: Any, sample: Any, **kwargs: Any) -> None:
        self.sample = sample
        self.ids = f"o{sample.pk}-%s"
        super().__init__(*args, **kwargs)

    def build(self) -> None:
        for section in self.sample.sections.order_by("pk"):
            field = MassField(self.system, *SECTION_KG)
            field.label = f"Ovendry, {self.system.mass}; it was {field.write(section.wet_kg)} wet"
            self.fields[f"dry_{section.pk}"] = field

    @property
    def dry_kg(self) -> list[float]:
        """The ovendry masses in the order of the sections."""
        return [mass for name, mass in self.cleaned_data.items() if name.startswith("dry_")]


class WeighSamplesForm(CalmForm):
    """What the samples of a load weigh now; those that are left empty were not weighed. What can hardly be is asked about first."""

    ids = "w-%s"
    all_have_defaults = True
    at = DayField(label="Weighed on")

    def __init__(self, *args: Any, samples: Any, **kwargs: Any) -> None:
        self.samples = list(samples)
        super().__init__(*args, **kwargs)

    def build(self) -> None:
        for sample in self.samples:
            self.fields[f"m{sample.pk}"] = MassField(self.system, *SAMPLE_KG, required=False, label=f"{sample.tag}, {self.system.mass}")
            self.fields[f"so{sample.pk}"] = forms.BooleanField(required=False, label=f"{sample.tag} does weigh that")

    @property
    def rows(self) -> list[Any]:
        """The fields of the samples; behind one that is asked about, whether it is so."""
        rows = []
        for sample in self.samples:
            rows.append(self[f"m{sample.pk}"])
            if sample.pk in self.asked_about:
                rows.append(self[f"so{sample.pk}"])
        return rows

    @property
    def asked_about(self) -> set[int]:
        """The samples whose weight was asked about."""
        return {pk for pk in (sample.pk for sample in self.samples) if self.is_bound and getattr(self, "_doubted", {}).get(pk)}

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean()
        self._doubted: dict[int, str] = {}
        for sample in self.samples:
            mass = cleaned.get(f"m{sample.pk}")
            if mass is None:
                continue
            field = self.fields[f"m{sample.pk}"]
            assert isinstance(field, MassField)
            if sample.dry_mass_kg is not None and mass < sample.dry_mass_kg * 0.99:
                written = field.write(sample.dry_mass_kg)
                self.add_error(f"m{sample.pk}", f"It is {written} ovendry and cannot weigh less. Is it another sample’s?")
                continue
            doubt = weighing.doubted(sample, mass, cleaned.get("at"), self.data.get(f"m{sample.pk}", ""), field)
            if doubt:
                self._doubted[sample.pk] = doubt
                if not cleaned.get(f"so{sample.pk}"):
                    self.add_error(f"m{sample.pk}", doubt)
        return cleaned

    @property
    def masses(self) -> list[tuple[Any, ...]]:
        """What was typed, by sample."""
        return [
            (sample, self.cleaned_data[f"m{sample.pk}"]) for sample in self.samples if self.cleaned_data.get(f"m{sample.pk}") is not None
        ]


class ChamberAirForm(BulbsForm):
    """The chamber as it is read at its door."""

    ids = "a-%s"

    def build(self) -> None:
        degrees = self.system.temperature
        self.fields["dry_bulb_c"] = TemperatureField(self.system, -40, 120, usual_low=5, usual_high=110, label=f"Dry bulb, °{degrees}")
        self.fields["wet_bulb_c"] = TemperatureField(self.system, -40, 100, usual_low=3, usual_high=99, label=f"Wet bulb, °{degrees}")


class NoteForm(SpellForm):
    """Something that happened to a load."""

    kinds = Happened.choices
    lasting = DISTURBS


class EndForm(OutcomeForm):
    """The load comes out."""

    ids = "e-%s"
    version = forms.IntegerField(widget=forms.HiddenInput)

    def build(self) -> None:
        super().build()
        self.fields["weighed_out_kg"] = load_mass("Weighed out", self.system)
        self.fields["place"] = forms.ModelChoiceField(
            air.places(self.workshop), required=False, label="It goes to", empty_label="It stays where it is"
        )


class DegradeForm(CalmForm):
    """What was found on its boards."""

    ids = "d-%s"
    kind = forms.ChoiceField(label="Found", choices=Defect.choices)
    boards = forms.IntegerField(label="on how many boards", min_value=0, max_value=100_000)
    of_boards = forms.IntegerField(label="of how many", min_value=1, max_value=100_000)
    where = forms.CharField(label="and where", max_length=200, required=False)


class PromiseForm(CalmForm):
    """Lots that are promised, and by when; without a day they are no more."""

    day = BeginField("Dry by")
    whom = forms.CharField(label="To whom", max_length=80, required=False)

    def build(self) -> None:
        self.fields["lots"] = LotsField(self.workshop, label="Lots, by their tags")
        self.order_fields(["lots", "day", "whom"])

    def clean_day(self) -> date | None:
        day = self.cleaned_data["day"]
        if day is not None and day < queries.today():
            raise forms.ValidationError(f"{full_day(day)} is over.")
        return day
