"""Wood at the rack: the question, what its readings mean, and the answer."""

from dataclasses import dataclass

from calm_heron.ask import homes
from calm_heron.ask.forms import USUAL_RH_TOLERANCE
from calm_heron.ask.homes import RackHome
from calm_heron.ask.rack_form import RackForm
from calm_heron.drying import queries as drying
from calm_heron.drying import questions
from calm_heron.judging import settled
from calm_heron.judging.settled import SizedWood
from calm_heron.measuring import actions as measuring
from calm_heron.measuring.models import Meter
from calm_heron.measuring.strip import Spoken
from calm_heron.questions.tools import Bound, CannotPut, Gist, Put, Why
from calm_heron.stock import woods
from calm_heron.workshops.askers import Asker
from wood.drying.diffusivity import Figures, of_species
from wood.drying.questions import Question
from wood.errors import NotKnown
from wood.judging import rack
from wood.judging.rack import AtTheRack
from wood.measuring import meters
from wood.measuring.estimates import Estimate, Spot
from wood.measuring.meters import Corrected
from wood.measuring.readings import Layer
from wood.species import Species, own, species_named
from wood.units import INCH_M
from wood.uses import USES, Use

# Wood whose species nobody knows: no figure of it is used.
UNKNOWN_WOOD = own("unknown", "Wood")
# Wood of which nobody knows the species dries no slower than the one of these and no faster than the other.
SLOW, FAST = "white_oak", "eastern_white_pine"
# What a reading may be off by that is taken as it stands.
ANY_METER = 0.018
USUAL_WOOD_C, PINLESS_DEPTH_M = 20.0, 0.02
USUAL_THICKNESS_M = INCH_M


@dataclass(frozen=True)
class RackWood:
    """A board that is not in stock, as far as a meter's correction asks for it. Metres."""

    species: Species
    thickness_m: float


@dataclass(frozen=True)
class WoodAtTheRack:
    """Boards at the rack: what their readings mean, how thick they are, the home they would come to and its use. ``species`` is None where
    nobody knows it, and the days are then those of a quick and of a slow wood."""

    spots: tuple[Spot, ...]
    species: Species | None
    thickness_m: float
    home: RackHome
    use: Use
    patience_days: int


@dataclass(frozen=True)
class Rack:
    """What is advised, None where none of the readings says anything. ``odd`` are positions of readings that were left out."""

    advised: AtTheRack | None
    odd: tuple[int, ...]


def put(form: RackForm, asker: Asker, subject: None) -> Put[WoodAtTheRack] | CannotPut:
    """A valid form as a question: the readings corrected for their meter, and the air of the home."""
    typed = form.cleaned_data
    line = typed["readings"]
    if line is None:
        return CannotPut(Why.STILL_TO_SAY, "Read some boards with your meter, away from their ends, and type what it shows.")
    there = home(form)
    if there is None and form.chosen("home") == homes.TYPED:
        return CannotPut(Why.STILL_TO_SAY, "Type the temperature and humidity of its home, too.")
    if there is None:
        return CannotPut(Why.NO_AIR, "The air of that place hasn’t been read lately: read it, or choose another home.")
    thickness = typed["thickness_m"] or USUAL_THICKNESS_M
    species = woods.species_of(form.workshop.pk, typed["species_key"]) if typed["species_key"] else None
    meter = chosen_meter(form)
    temperature = USUAL_WOOD_C if line.wood_temperature_c is None else line.wood_temperature_c
    read = [(spoken, correct(spoken, meter, RackWood(species or UNKNOWN_WOOD, thickness), temperature)) for spoken in line.readings]
    spots = tuple(_spot(spoken, corrected, thickness, meter) for spoken, corrected in read)
    return Put(
        WoodAtTheRack(spots, species, thickness, there, USES[form.chosen("use")], typed["patience"]),
        {"read": read},
    )


def work(wood: WoodAtTheRack) -> Rack:
    """Take it, wait, or walk away.

    Raises:
        OutOfRange: the wood is thicker or wetter than can be computed with.
    """
    odd = rack.sorted_out(wood.spots)
    rack_reading = rack.read_together(wood.spots, odd)
    if rack_reading is None:
        return Rack(None, tuple(odd))
    days = _days_at_home(rack_reading, wood.species, wood.thickness_m, wood.home, wood.use)
    there = wood.home
    own = settled.wood_of(wood.species) if wood.species else settled.MIDDLE
    edges = there.wanted(wood.use, SizedWood(own, wood.thickness_m)).on(0.0)
    return Rack(rack.advise(rack_reading, edges, there.uncertainty, wood.use, wood.thickness_m, days, wood.patience_days), tuple(odd))


def gist(rack: Rack) -> Gist:
    """The advice, why, what it is at and the days that it needs."""
    advised = rack.advised
    if advised is None:
        return Gist("cannot tell")
    low, usual, high = advised.days or (None, None, None)
    return Gist(f"{advised.advice}: {advised.why}", {"moisture": Bound(advised.estimate.mean), "days": Bound(usual, low, high)})


def home(form: RackForm) -> RackHome | None:
    """Where the wood will live, None where what that needs was not typed or is not known."""
    cleaned, chosen = form.cleaned_data, form.chosen("home")
    if chosen in homes.HOMES:
        return homes.of_kind(chosen)
    if chosen == homes.TYPED:
        if cleaned["temperature"] is None or cleaned["humidity"] is None:
            return None
        return homes.of_air(cleaned["temperature"], cleaned["humidity"], USUAL_RH_TOLERANCE)
    place = next(place for place in form.places if chosen == f"place-{place.pk}")
    return homes.of_place(place, form.places)


def chosen_meter(form: RackForm) -> Meter | str:
    """The workshop's meter that was chosen, or the key of a kind of meter."""
    chosen = form.chosen("meter")
    return next((meter for meter in form.meters if chosen == f"meter-{meter.pk}"), chosen)


def correct(spoken: Spoken, meter: Meter | str, wood: RackWood, wood_temperature_c: float) -> Corrected:
    """What a reading means that is not kept."""
    if isinstance(meter, Meter):
        return measuring.correct(wood, meter, measuring.as_taken(spoken), wood_temperature_c)
    if meter == "pinless":
        depth = min(PINLESS_DEPTH_M, max(wood.thickness_m, meters.READING[0] / 10))
        return meters.correct_pinless(spoken.raw, wood.species, None, depth, wood.thickness_m, condition=spoken.condition)
    if meter == "any":
        return meters.correct_pin(
            spoken.raw,
            wood.species,
            wood_temperature_c,
            ANY_METER,
            species_set_on_meter=True,
            temperature_set_on_meter=True,
            condition=spoken.condition,
        )
    return meters.correct_pin(
        spoken.raw, wood.species, wood_temperature_c, species_set_on_meter=meter == "pin_set", condition=spoken.condition
    )


def _spot(spoken: Spoken, corrected: Corrected, thickness_m: float, meter: Meter | str) -> Spot:
    pinless = meter == "pinless" or (isinstance(meter, Meter) and meter.traits.senses_depth)
    inside = spoken.layer == Layer.CORE or spoken.condition == "fresh" or (pinless and thickness_m <= PINLESS_DEPTH_M)
    return Spot(
        corrected.moisture,
        corrected.uncertainty,
        spoken.layer,
        near_end=spoken.at_end and spoken.condition != "fresh",
        counts=corrected.counts,
        bound=corrected.bound,
        inside=inside,
    )


def _days_at_home(
    estimate: Estimate, species: Species | None, thickness_m: float, there: RackHome, use: Use
) -> tuple[float, float, float] | None:
    """Low, usual and high days until it’s ready to work at home; between a quick and a slow wood where nobody knows which it is."""
    if estimate.bound:
        return None
    try:
        each = [of_species(item) for item in ([species] if species else [species_named(SLOW), species_named(FAST)])]
    except NotKnown:
        return None
    spans = [_days(estimate, figures, thickness_m, there, use) for figures in each]
    # Who does not know the species counts with the slow one.
    return min(low for low, _, _ in spans), spans[0][1], max(high for _, _, high in spans)


def _days(estimate: Estimate, figures: Figures, thickness_m: float, there: RackHome, use: Use) -> tuple[float, float, float]:
    wanted = there.wanted(use, SizedWood(figures.wood, thickness_m))
    start = min(estimate.mean, figures.wood.greatest_moisture)
    question = Question(
        figures,
        thickness_m,
        start,
        questions.first_edge(wanted, start),
        there.setting,
        start_uncertainty=questions.uncertainty_of_reading(estimate),
        gradient=estimate.gradient or 0.0,
        wanted=wanted,
    )
    answer = drying.answered(question)
    return answer.low, answer.days, answer.high
