"""How is a whole load heated through? The question, its answer, and how it is told: hours, power, resin, checks, and what is damp in it."""

from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from django import forms

from calm_heron.air import queries as air
from calm_heron.drying import methods, questions
from calm_heron.drying import queries as drying
from calm_heron.drying.by_route import no_air
from calm_heron.kiln import planning
from calm_heron.kiln.forms import number_field
from calm_heron.kiln.kinds import CHAMBERS, SOLAR
from calm_heron.kiln.models import Chamber as ChamberRow
from calm_heron.measuring.models import PieceMoisture
from calm_heron.questions.forms import Group
from calm_heron.questions.presentation import Caution, Cell, Folded, Lead, Manner, Part, Presentation, Row, Says, Table
from calm_heron.questions.tools import Bound, CannotPut, Gist, Put, Reader, StillToSay
from calm_heron.site.memory import Memory, digest_of
from calm_heron.site.numbers import percent
from calm_heron.stacks.forms import OfLotsForm
from calm_heron.stock import woods
from calm_heron.stock.models import Piece
from calm_heron.stock.species_forms import SpeciesField
from calm_heron.workshops.askers import Asker
from calm_heron.workshops.fields import LengthField, PercentField, TemperatureField, VolumeField
from wood.air.climate import AirSeries
from wood.drying.defects import Defect, RiskLevel
from wood.kiln import chambers, heat, heat_load
from wood.kiln.chambers import LOAD_M3, Chamber, Kind
from wood.kiln.heat_load import DAMP, SET_C, SET_H, Heated, Resin
from wood.kiln.sharing import Lot
from wood.measuring.readings import Bound as Limit
from wood.units import System, in_system
from wood.written import written_temperature

USUAL_THICKNESS_M, USUAL_MOISTURE, USUAL_HOLD_H = 0.0254, 0.13, 1.0
USUAL_CORE_C = {"F": 65.56, "C": 65.0}
# Boards of one load that are named because they are damp.
MOST_DAMP = 12
CHECKS = (Defect.FACE_CHECKS, Defect.END_CHECKS, Defect.HONEYCOMB)


class HeatLoadForm(OfLotsForm):
    """A load that is heated through: its woods, how warm its core is to be and for how long, and the chamber."""

    takes_section = True
    groups = (
        Group(
            (
                "of",
                "lots",
                "species_key",
                "with_species",
                "third_species",
                "thickness_m",
                "volume_m3",
                "moisture",
                "core_c",
                "hold_h",
                "chamber",
            )
        ),
        Group(("hottest_c", "heat_kw", "start_c", "where", "price"), "Its limits, the air around it, and what power costs"),
    )
    depends = OfLotsForm.depends_on_wood("species_key", "with_species", "third_species", "thickness_m", "volume_m3")
    always = ("where",)
    called = {"load_m3": "volume_m3", "start": "moisture"}

    @classmethod
    def begins_with(cls, asker: Asker, subject: Piece | None) -> dict[str, str]:
        inch = asker.system.is_inch
        begun = {
            "species_key": "eastern white pine",
            "thickness_m": "1" if inch else "25",
            "volume_m3": "500" if inch else "1.2",
            "moisture": "13",
            "where": questions.usual_anywhere(asker.workshop, list(air.places(asker.workshop)) if asker.is_member else [])["where"],
        }
        return begun | cls.lots_of(subject)

    def build(self) -> None:
        self.chambers = planning.chambers_of(self.workshop)
        self.places = list(air.places(self.workshop)) if self.workshop.pk else []
        unit, degrees, volume = self.system.length, self.system.temperature, "bd ft" if self.system.is_inch else "m³"
        self.add_lots("The load is")
        for name, label in (("species_key", "Wood"), ("with_species", "and"), ("third_species", "and")):
            self.fields[name] = SpeciesField(self.workshop, required=False, label=label)
        self.fields["thickness_m"] = LengthField(self.system, 0.006, 0.12, required=False, label=f"Thickness, {unit}")
        self.fields["volume_m3"] = VolumeField(self.system, *LOAD_M3, required=False, label=f"How much, {volume}")
        self.fields["moisture"] = PercentField(self.system, 0.04, 1.0, required=False, label="Its moisture, %")
        self.fields["core_c"] = TemperatureField(
            self.system, *heat_load.CORE_C, usual_low=45, usual_high=80, required=False, label=f"Its core brought to, °{degrees}"
        )
        self.fields["core_c"].widget.attrs["placeholder"] = "150" if degrees == "F" else "65"
        self.fields["hold_h"] = number_field("and held, hours", *heat_load.HOLD_H, placeholder="1")
        own = [(f"chamber-{chamber.pk}", chamber.name) for chamber in self.chambers]
        usual = [(key, said) for key, said in CHAMBERS if key != SOLAR]
        self.fields["chamber"] = forms.ChoiceField(
            required=False, label="Kiln", choices=[*own, *sorted(usual, key=lambda pair: pair[0] != Kind.VENTED)]
        )
        self.fields["hottest_c"] = TemperatureField(
            self.system, *chambers.LIMITS_C, usual_low=25, usual_high=95, required=False, label=f"Maximum temperature, °{degrees}"
        )
        self.fields["heat_kw"] = number_field("Its heat, kW", 0.05, 2000, "as usual")
        self.fields["start_c"] = TemperatureField(
            self.system, -40, 40, usual_low=-30, usual_high=40, required=False, label=f"The wood is at, °{degrees}"
        )
        self.fields["start_c"].widget.attrs["placeholder"] = "as it is outdoors"
        self.fields["where"] = forms.ChoiceField(required=False, label="It stands in the air of", choices=drying.where_choices(self.places))
        self.fields["price"] = number_field("A kilowatt hour costs", 0, 100)


@dataclass(frozen=True)
class LoadToHeat:
    """A load to be heated through: its lots, its chamber with them in it, the air around, how warm the wood is and is to be, and for how
    long."""

    lots: tuple[Lot, ...]
    chamber: Chamber
    outdoors: AirSeries
    start_c: float
    core_c: float
    hold_h: float


def put(form: HeatLoadForm, asker: Asker, subject: Piece | None) -> Put[LoadToHeat] | CannotPut:
    """A valid form as a question; the damp boards that were read, and the price, only tell.

    Raises:
        StillToSay: no wood. OutOfRange.
    """
    typed = form.cleaned_data
    lots, damp = _of_the_stock(form) if form.is_of_lots else (_imagined(form), [])
    around = drying.surroundings(form.places, form.chosen("where"), methods.named(methods.USUAL), drying.today())
    if not isinstance(around, drying.Surroundings):
        return no_air(around.name)
    series: AirSeries = around.setting.series
    start = float(np.mean(series.temperature_c[:24])) if typed["start_c"] is None else typed["start_c"]
    load = LoadToHeat(
        tuple(lots),
        _chamber(form, sum(lot.volume_m3 for lot in lots)),
        series,
        min(max(start, -40.0), 40.0),
        USUAL_CORE_C[form.system.temperature] if typed["core_c"] is None else typed["core_c"],
        USUAL_HOLD_H if typed["hold_h"] is None else typed["hold_h"],
    )
    return Put(load, {"damp": damp, "price": typed["price"]})


def _imagined(form: HeatLoadForm) -> list[Lot]:
    typed = form.cleaned_data
    keys = list(dict.fromkeys(typed[name] for name in ("species_key", "with_species", "third_species") if typed[name]))
    if not keys:
        raise StillToSay("Say which wood is to be heated.")
    thickness, volume = typed["thickness_m"] or USUAL_THICKNESS_M, typed["volume_m3"] or planning.USUAL_VOLUME_M3
    moisture = USUAL_MOISTURE if typed["moisture"] is None else typed["moisture"]
    woods_of = [woods.species_of(form.workshop.pk, key) for key in keys]
    return [Lot(species.common_name, species, thickness, moisture, volume / len(keys)) for species in woods_of]


def _of_the_stock(form: HeatLoadForm) -> tuple[list[Lot], list[tuple[str, float]]]:
    """The lots that are named, and those boards and lots among them that were read damp, the dampest first."""
    typed = form.cleaned_data
    if not typed["lots"]:
        raise StillToSay("List the lots of the load by their tags.")
    lots = [planning.lot_of(piece, typed["moisture"]) for piece in typed["lots"]]
    boards = [*typed["lots"], *Piece.objects.filter(lot__in=typed["lots"])]
    known = PieceMoisture.objects.filter(piece__in=boards, bound=Limit.NONE, mean__gt=DAMP).select_related("piece").order_by("-mean")
    damp = [(row.piece.tag, row.mean) for row in known[: MOST_DAMP + 1]]
    if typed["moisture"] is None:
        read = {tag for tag, _ in damp}
        damp += [(lot.name, lot.start) for lot in lots if lot.start > DAMP and lot.name not in read]
    return lots, damp


def _chamber(form: HeatLoadForm, volume_m3: float) -> Chamber:
    typed, chosen = form.cleaned_data, form.chosen("chamber")
    row: ChamberRow | None = next((row for row in form.chambers if chosen == f"chamber-{row.pk}"), None)
    chamber = row.core if row is not None else chambers.usual(Kind(chosen), max(volume_m3, LOAD_M3[0]))
    changes: dict[str, Any] = {name: typed[name] for name in ("hottest_c", "heat_kw") if typed[name] is not None}
    return planning.filled(replace(chamber, **changes), volume_m3)


_heated: Memory[Heated] = Memory(64)


def work(load: LoadToHeat) -> Heated:
    """The load as it is heated, remembered.

    Raises:
        OutOfRange. NotKnown.
    """
    key = digest_of((load.lots, load.chamber, load.outdoors, load.start_c, load.core_c, load.hold_h))
    return _heated.get(key, lambda: heat_load.heated(load.lots, load.chamber, load.outdoors, load.start_c, load.core_c, load.hold_h))


def gist(heated: Heated) -> Gist:
    """Whether its core is ever there, after how many hours, and with how much power."""
    if not heated.is_reached:
        return Gist("never there", {"core_c": Bound(heated.coldest_core_c)})
    return Gist("there", {"hours": Bound(heated.hours), "kwh": Bound(heated.energy_kwh)})


def present(put: Put[LoadToHeat], heated: Heated, reader: Reader) -> Presentation:
    """How long, with how much power, what it does to insects, resin, checks and colour, and which boards are damp."""
    load, system = put.question, reader.system
    core, held_in = written_temperature(load.core_c, system), written_temperature(heated.air_c, system)
    damp = _damp(put.tells["damp"], load)
    if not heated.is_reached:
        coldest = written_temperature(heated.coldest_core_c, system)
        return Presentation(
            Lead("Never", f"to {core}"),
            f"The kiln reaches {held_in} at most, and its coldest board comes to {coldest}: it takes a hotter one, or more heat.",
            (*([Says(damp, Manner.REASON)] if damp else []), Caution("treatment"), Caution("kiln"), Folded("How?", _working(system))),
        )
    power = f"{heated.energy_kwh:,.0f} kWh"
    price = put.tells["price"]
    rows = [
        ("Its slowest core is there", f"after {heated.to_core_h:.0f} hours"),
        ("It is held", f"{heated.hold_h:g} hours" if heated.hold_h != 1 else "1 hour"),
        ("Left closed, it has cooled", f"after {heated.cooled_h:.0f} hours in all"),
        ("Power", power + (f", {heated.energy_kwh * price:,.2f}" if price else "")),
        ("Set the air", f"{held_in}, {percent(heated.humidity, 0)} RH"),
        ("Its moisture", _moves(heated)),
    ]
    parts: list[Part] = [
        Says(_resin(load, system), Manner.REASON, first="Pitch"),
        Says(_checks(heated), Manner.REASON, first="Checks"),
        *([Says(damp, Manner.REASON, first="Damp boards")] if damp else []),
        *([Says(colour, Manner.REASON, first="Colour")] if (colour := _colour(load, heated)) else []),
        Says(_insects(load), Manner.REASON, first="Insects"),
        Table([Row(name, (Cell(said, is_number=True),)) for name, said in rows], caption="How it goes", narrow=True),
        Says("Put a probe into the core of the thickest and dampest board, farthest from the heat: it says when.", Manner.HINT),
        Caution("treatment"),
        Caution("kiln"),
        Folded("How?", _working(system)),
    ]
    reason = (
        f"In air of {held_in} its slowest core is at {core} after {heated.to_core_h:.0f} hours, and is held for {heated.hold_h:g};"
        f" then everything is off and it cools with the door shut."
    )
    return Presentation(Lead(f"{heated.hours:.0f} hours", f"of heat, {power}"), reason, parts)


def _resin(load: LoadToHeat, system: System) -> str:
    core, full = written_temperature(load.core_c, system), written_temperature(SET_C, system)
    said = {heat_load.resin(lot.species, load.core_c, load.hold_h) for lot in load.lots}
    if said == {Resin.NONE}:
        return "These woods have none."
    if Resin.AS_IT_IS in said:
        return f"It is not set: at {core} it only softens, and bleeds again when the sun warms it."
    if Resin.PARTLY in said:
        return (
            f"It is set for wood that stays cooler than {core}: in a room it stays hard, in the sun behind glass it may bleed. A full set"
            f" takes {full} and more for {SET_H:.0f} hours."
        )
    return "It is set."


def _checks(heated: Heated) -> str:
    worst = max((risk for _, risk in heated.risks if risk.kind in CHECKS), key=lambda risk: risk.worst, default=None)
    if worst is None:
        return "Not known for this wood."
    if worst.level is RiskLevel.LOW:
        return "Hardly any: the air is kept as damp as the wood, which neither dries nor takes up water to speak of."
    likely = "likely" if worst.level is RiskLevel.HIGH else "possible"
    return f"They are {likely}: so much water leaves wet wood in such air. Dry it first."


def _damp(read: list[tuple[str, float]], load: LoadToHeat) -> str:
    """Which boards are damp, by their tags; nothing where none is."""
    if read:
        shown = ", ".join(f"{tag} ({percent(moisture, 0)})" for tag, moisture in read[:MOST_DAMP])
        more = " and more" if len(read) > MOST_DAMP else ""
        return f"{shown}{more}: dry them before. Their cores hang near the wet bulb, and warm later than the rest."
    wet = [lot for lot in load.lots if lot.start > DAMP]
    if wet:
        return f"At {percent(wet[0].start, 0)} it is not air-dry: its core hangs near the wet bulb. Dry it before."
    return ""


def _colour(load: LoadToHeat, heated: Heated) -> str:
    names = [lot.species.spoken_name for lot in load.lots if heat_load.darkens(lot.species, lot.start, heated.air_c)]
    if not names:
        return ""
    return f"So warm while it is wet, {' and '.join(dict.fromkeys(names))} darkens or stains brown. Dry it under 25% first."


def _insects(load: LoadToHeat) -> str:
    cleared = [aim.against for aim in heat.AIMS.values() if load.core_c >= aim.core_c - 0.05 and load.hold_h * 60 >= aim.hold_min]
    thickest = max(lot.thickness_m for lot in load.lots)
    beetles = heat.powderpost_hours(thickest, load.core_c)
    if beetles is not None and load.hold_h >= beetles:
        cleared.append("powderpost beetles")
    left = "" if beetles is None or load.hold_h >= beetles else f" Powderpost beetles want {beetles:.0f} hours at this warmth."
    if not cleared:
        return f"This clears none of those that rules are known for.{left}"
    return f"It kills {', '.join(cleared)}.{left} It keeps none off afterwards."


def _moves(heated: Heated) -> str:
    change = 100 * heated.dried
    if abs(change) < 0.3:
        return "stays as it is"
    return f"falls by {change:.1f} points" if change > 0 else f"rises by {-change:.1f} points"


def _working(system: System) -> tuple[str, str]:
    figures = "{1.7·10⁻⁷ m²/s|0.00027 in²/s}"
    return (
        (
            "Eight boards of each wood are warmed by the hour in the air that the chamber can really hold, by its heat, its walls and its"
            f" spray; air {in_system('{6°C|11°F}', system)} over the core, as damp as the wood. The middle of a board lags behind its"
            f" mean by the diffusivity of wood ({in_system(figures, system)}, Wood Handbook)."
        ),
        (
            "Pitch: AH-188, medium confidence. Checks are those of every drying. Rules against insects: ISPM 15 and the treatment manual of"
            " the USDA, each with its own confidence; where a certificate is wanted, a licensed treatment is."
        ),
    )
