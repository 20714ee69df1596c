"""A load to be run: the question as its form asks it, and what was worked out."""

from dataclasses import dataclass, replace
from datetime import date, timedelta
from typing import Any

import numpy as np

from calm_heron.air import queries as air
from calm_heron.drying import methods
from calm_heron.drying import queries as drying
from calm_heron.drying.by_route import no_air
from calm_heron.drying.own_kilns import OwnKiln
from calm_heron.kiln.forms import LoadForm
from calm_heron.kiln.kinds import SOLAR
from calm_heron.kiln.models import Chamber as ChamberRow
from calm_heron.measuring import queries as measuring
from calm_heron.questions.tools import Bound, CannotPut, Gist, Put, StillToSay
from calm_heron.site.memory import Memory, digest_of
from calm_heron.site.numbers import percent
from calm_heron.stacks import planning as stacks
from calm_heron.stock import woods
from calm_heron.stock.models import Piece
from calm_heron.workshops.askers import Asker
from wood.air import rooms
from wood.air.climate import AirSeries
from wood.drying.solar import USUAL_CLEARNESS, SolarKiln
from wood.kiln import chambers, plans, sharing
from wood.kiln.chambers import Chamber, Kind
from wood.kiln.plans import Planned
from wood.kiln.programs import DRIER, TARGETS, Care
from wood.kiln.schedules import Step
from wood.kiln.sharing import Lot, Together

USUAL_THICKNESS_M, USUAL_VOLUME_M3, USUAL_LATITUDE = 0.027, 2.5, 45.0
LITRES_KWH = chambers.KWH_A_LITRE / 24


@dataclass(frozen=True)
class LoadToRun:
    """A load as it is asked about."""

    lots: tuple[Lot, ...]
    wanted: float
    chamber: Chamber
    outdoors: AirSeries
    outdoors_name: str
    start_date: date
    care: Care
    equalise: bool
    condition: bool
    own: tuple[Step, ...] | None
    solar: SolarKiln | None

    def day(self, days: float) -> date:
        """The date so many days on."""
        return self.start_date + timedelta(days=float(np.ceil(days)))


def put(form: LoadForm, asker: Asker, subject: Piece | None) -> Put[LoadToRun] | CannotPut:
    """A valid form as a question.

    Raises:
        StillToSay: no wood yet. OutOfRange: limits that do not go together.
    """
    typed = form.cleaned_data
    lots = lots_of(form)
    begun = typed["start_date"] or drying.today()
    around = drying.surroundings(form.places, form.chosen("where"), methods.named(methods.USUAL), begun)
    if not isinstance(around, drying.Surroundings):
        return no_air(around.name)
    series = around.setting.series
    volume = sum(lot.volume_m3 for lot in lots)
    solar = None
    if form.chosen("chamber") == SOLAR:
        clearness, latitude = drying.sky(form.places, form.chosen("where"))
        latitude = typed["latitude"] if typed["latitude"] is not None else latitude
        solar = SolarKiln(USUAL_LATITUDE if latitude is None else latitude, clearness or (USUAL_CLEARNESS,))
    load = LoadToRun(
        tuple(lots),
        wanted_of(form, series),
        chamber_of(form, volume),
        series,
        around.name,
        begun,
        Care(form.chosen("care")),
        form.chosen("even") == "yes",
        form.chosen("condition") == "yes",
        tuple(typed["own"]) if typed["own"] else None,
        solar,
    )
    driest_wanted = load.wanted - DRIER
    if all(lot.start < driest_wanted for lot in lots) and (solar is not None or not load.chamber.sprays):
        raise StillToSay(
            f"It is at {percent(max(lot.start for lot in lots))} and the target is {percent(load.wanted)}: this kiln only takes water out."
            " Choose one that sprays or steams, or lay the wood on stickers in a room whose air brings it there."
        )
    return Put(load, {"price": typed["price"]})


@dataclass(frozen=True)
class LoadPlan:
    """How a load would run, and what it costs its lots to be run together (None of one alone)."""

    planned: Planned
    together: Together | None


def work(load: LoadToRun) -> LoadPlan:
    """How it would run.

    Raises:
        NotKnown: no schedule, or a species' pace. OutOfRange.
    """
    return LoadPlan(planned(load), shared(load))


def gist(plan: LoadPlan) -> Gist:
    """Whether it gets there, and in how many days, between its ends."""
    planned = plan.planned
    if not planned.ran.finished:
        return Gist("never there", {"moisture": Bound(float(planned.ran.mean[-1]))})
    return Gist(
        "runs", {"days": Bound(planned.ran.days, planned.low_days, planned.high_days), "kwh": Bound(float(sum(planned.ran.energy_kwh)))}
    )


def lots_of(form: LoadForm) -> list[Lot]:
    """The wood that a valid form names.

    Raises:
        StillToSay.
    """
    typed = form.cleaned_data
    if form.is_of_lots:
        if not typed["lots"]:
            raise StillToSay("List the lots of the load by their tags.")
        return [lot_of(piece, typed["start"]) for piece in typed["lots"]]
    if not typed["species_key"]:
        raise StillToSay("Say which wood is to be dried.")
    first = _lot(form, "species_key", "thickness_m", "start", 1.0)
    if not typed["with_species"]:
        return [replace(first, volume_m3=typed["volume_m3"] or USUAL_VOLUME_M3)]
    second = _lot(form, "with_species", "with_thickness_m", "with_start", 1.0)
    half = (typed["volume_m3"] or USUAL_VOLUME_M3) / 2
    if second.name == first.name:
        second = replace(second, name=f"{second.name} (2)")
    return [replace(first, volume_m3=half), replace(second, volume_m3=half)]


def _lot(form: LoadForm, species_field: str, thickness_field: str, start_field: str, volume: float) -> Lot:
    typed = form.cleaned_data
    species = woods.species_of(form.workshop.pk, typed[species_field])
    start = stacks.green(species) if typed[start_field] is None else typed[start_field]
    return Lot(species.common_name, species, typed[thickness_field] or USUAL_THICKNESS_M, start, volume)


def lot_of(piece: Piece, moisture: float | None) -> Lot:
    """A lot of the stock as it goes into a chamber: at the moisture that is given, else as it was read, else green.

    Raises:
        OutOfRange: too thick or too thin for a kiln.
    """
    if moisture is None:
        moisture = measuring.moisture_to_begin_from(piece)
    return Lot(piece.tag, piece.species, piece.thickness_m, stacks.green(piece.species) if moisture is None else moisture, piece.volume_m3)


def wanted_of(form: LoadForm, outdoors: AirSeries) -> float:
    """What is wanted: as it was typed, else the mean of the year where it will live."""
    typed, home = form.cleaned_data["wanted"], form.chosen("home")
    if typed is not None:
        return float(typed)
    place = next((place for place in form.places if home == f"place-{place.pk}"), None)
    known = air.known_year(place) if place is not None else None
    settling = known.climate.year.settling if known else rooms.room(outdoors, rooms.DWELLING).settling
    return float(np.clip(round(float(settling.mean()), 3), *TARGETS))


def chamber_of(form: LoadForm, volume_m3: float) -> Chamber:
    """The chamber that a valid form names, with the limits that were typed.

    Raises:
        OutOfRange.
    """
    typed, chosen = form.cleaned_data, form.chosen("chamber")
    chamber = next((chamber for chamber in form.chambers if chosen == f"chamber-{chamber.pk}"), None)
    if chamber is not None:
        return filled(chamber.core, volume_m3)
    kind = Kind.BOX if chosen == SOLAR else Kind(chosen)
    built = chambers.usual(kind, typed["capacity_m3"] or max(volume_m3, 0.05))
    changes: dict[str, Any] = {}
    if typed["hottest_c"] is not None:
        changes |= {"hottest_c": typed["hottest_c"], "compressor_to_c": min(typed["hottest_c"], 90.0)}
    if typed["litres_a_day"] is not None and kind is Kind.DEHUMIDIFIER:
        changes |= {"litres_a_day": typed["litres_a_day"], "compressor_kw": typed["litres_a_day"] * LITRES_KWH}
    if typed["heat_kw"] is not None:
        changes["heat_kw"] = typed["heat_kw"]
    if form.chosen("spray"):
        changes["spray_kg_h"] = chambers.SPRAY_KG_H * built.load_m3 if form.chosen("spray") == "yes" else 0.0
    return filled(replace(built, **changes), volume_m3)


def filled(chamber: Chamber, volume_m3: float) -> Chamber:
    """A chamber with what is in it: its fire and its walls stay as they are, however much wood that is."""
    return replace(chamber, load_m3=volume_m3)


_plans: Memory[Planned] = Memory(64)
_shares: Memory[Together] = Memory(64)


def planned(load: LoadToRun, *, warmed: bool = False) -> Planned:
    """The load as it would run, remembered; ``warmed``: it is warm already.

    Raises:
        NotKnown: no schedule, or a species' pace. OutOfRange.
    """

    def make() -> Planned:
        return plans.plan(
            load.lots,
            load.wanted,
            load.chamber,
            load.outdoors,
            care=load.care,
            equalise=load.equalise,
            condition=load.condition,
            own=load.own,
            solar=load.solar,
            warmed=warmed,
        )

    return _plans.get(_key(load) + bytes([warmed]), make)


def shared(load: LoadToRun) -> Together | None:
    """What it costs several lots to be run together; None of one alone, or where the sun runs them.

    Raises:
        NotKnown. OutOfRange.
    """
    if len(load.lots) < 2 or load.solar is not None or load.own is not None:
        return None

    def make() -> Together:
        return sharing.together(
            load.lots,
            load.wanted,
            load.chamber,
            load.outdoors,
            care=load.care,
            equalise=load.equalise,
            condition=load.condition,
            ran=planned(load).ran,
        )

    return _shares.get(_key(load), make)


def _key(load: LoadToRun) -> bytes:
    """All that a load depends on, but for the words and the day's name."""
    return digest_of(
        (
            load.lots,
            load.wanted,
            load.chamber,
            load.outdoors,
            load.care.value,
            load.equalise,
            load.condition,
            load.own or (),
            load.solar or (),
        )
    )


def chambers_of(workshop: Any) -> list[Any]:
    """The chambers that a workshop keeps; strangers have none."""
    return list(ChamberRow.objects.of(workshop).order_by("name")) if workshop.pk else []


def own_kilns(workshop: Any) -> list[OwnKiln]:
    """Its chambers, as the routes ask for them."""
    return [OwnKiln(f"chamber-{chamber.pk}", chamber.name, chamber.core) for chamber in chambers_of(workshop)]


def outdoors_of(workshop: Any, begin: date) -> drying.Surroundings:
    """The air that a workshop's chambers stand in, from a day on: that of its first yard whose air is known, else a usual climate."""
    usual = methods.named(methods.USUAL)
    yards = [place for place in air.places(workshop) if place.traits.is_outdoors]
    for yard in yards:
        surroundings = drying.surroundings(yards, f"place-{yard.pk}", usual, begin)
        if isinstance(surroundings, drying.Surroundings):
            return surroundings
    pattern = drying.surroundings([], drying.USUAL_PATTERN, usual, begin)
    assert isinstance(pattern, drying.Surroundings)
    return pattern
