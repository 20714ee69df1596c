"""What is worked out for those who only ask: wood at the rack, and a board that is not here."""

from dataclasses import dataclass

from calm_heron.ask import homes
from calm_heron.ask.forms import USUAL_RH_TOLERANCE, WoodQuestion
from calm_heron.ask.homes import Home
from calm_heron.drying import queries as drying
from calm_heron.drying import questions
from calm_heron.measuring import actions as measuring
from calm_heron.measuring.models import Meter
from calm_heron.measuring.strip import Spoken
from calm_heron.stock import woods
from wood.drying import arrival
from wood.drying.asked import Question
from wood.drying.diffusivity import Figures, of_species
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
class Wood:
    """A board that is not in stock, as far as a meter's correction or a movement asks for it. Sizes in metres."""

    species: Species
    thickness_m: float
    width_m: float = 0.15
    length_m: float = 1.0


@dataclass(frozen=True)
class Rack:
    """Wood at the rack with what its numbers mean. ``odd`` are positions of readings that were left out; ``species`` is None where nobody knows
    it, and the days are then those of a quick and of a slow wood."""

    advised: AtTheRack
    home: Home
    read: list[tuple[Spoken, Corrected]]
    odd: list[int]
    species: Species | None
    thickness_m: float
    use: Use
    patience_days: int


def home(form: WoodQuestion) -> Home | None:
    """Where the wood will live, None where what that needs was not typed or is not known."""
    cleaned = form.cleaned_data
    chosen = cleaned["home"] or form.first("home")
    if chosen in homes.HOMES:
        return homes.of_kind(chosen)
    if chosen == homes.TYPED:
        if cleaned["temperature"] is None or cleaned["humidity"] is None:
            return None
        return homes.of_air(cleaned["temperature"], cleaned["humidity"], USUAL_RH_TOLERANCE)
    place = next(place for place in form.places if chosen == f"place-{place.pk}")
    return homes.of_place(place, form.places)


def at_the_rack(form: WoodQuestion, there: Home) -> Rack | None:
    """What a valid form with readings asks; None where none of the readings says anything.

    Raises:
        OutOfRange: the wood is thicker or wetter than can be computed with.
    """
    cleaned = form.cleaned_data
    line, thickness = cleaned["readings"], cleaned["thickness_m"] or USUAL_THICKNESS_M
    key = cleaned["species_key"]
    species = woods.species_of(form.workshop.pk, key) if key else None
    use = USES[cleaned["use"] or form.first("use")]
    meter = chosen_meter(form)
    temperature = USUAL_WOOD_C if line.wood_temperature_c is None else line.wood_temperature_c
    read = [(one, correct(one, meter, Wood(species or UNKNOWN_WOOD, thickness), temperature)) for one in line.readings]
    spots = [_spot(one, corrected, thickness, meter) for one, corrected in read]
    odd = rack.sorted_out(spots)
    found = rack.read_together(spots, odd)
    if found is None:
        return None
    days = _days_at_home(found, species, thickness, there, use)
    advised = rack.advise(found, there.moisture, there.uncertainty, use, thickness, days, cleaned["patience"])
    return Rack(advised, there, read, odd, species, thickness, use, cleaned["patience"])


def chosen_meter(form: WoodQuestion) -> Meter | str:
    """The workshop's meter that was chosen, or the key of a kind of meter."""
    chosen = form.cleaned_data["meter"] or form.first("meter")
    return next((meter for meter in form.meters if chosen == f"meter-{meter.pk}"), chosen)


def correct(spoken: Spoken, meter: Meter | str, wood: Wood, wood_temperature_c: float) -> Corrected:
    """What a reading means that is not kept."""
    if isinstance(meter, Meter):
        return measuring.correct(wood, meter, measuring.as_taken(spoken), wood_temperature_c)
    if meter == "pinless":
        depth = min(PINLESS_DEPTH_M, max(wood.thickness_m, meters.READING[0] / 10))
        return meters.correct_pinless(spoken.raw, wood.species, None, depth, wood.thickness_m, condition=spoken.condition)
    if meter == "any":
        return meters.correct_pin(
            spoken.raw, wood.species, wood_temperature_c, ANY_METER, species_set_on_meter=True, temperature_set_on_meter=True,
            condition=spoken.condition,
        )  # fmt: skip
    return meters.correct_pin(
        spoken.raw, wood.species, wood_temperature_c, species_set_on_meter=meter == "pin_set", condition=spoken.condition
    )


def _spot(spoken: Spoken, corrected: Corrected, thickness_m: float, meter: Meter | str) -> Spot:
    pinless = meter == "pinless" or (isinstance(meter, Meter) and meter.traits.senses_depth)
    inside = spoken.layer == Layer.CORE or spoken.condition == "fresh" or (pinless and thickness_m <= PINLESS_DEPTH_M)
    return Spot(
        corrected.moisture, corrected.uncertainty, spoken.layer, near_end=spoken.at_end and spoken.condition != "fresh",
        counts=corrected.counts, bound=corrected.bound, inside=inside,
    )  # fmt: skip


def _days_at_home(found: Estimate, species: Species | None, thickness_m: float, there: Home, use: Use) -> tuple[float, float, float] | None:
    """Low, usual and high days until it may be worked at home; between a quick and a slow wood where nobody knows which it is."""
    if found.bound:
        return None
    try:
        each = [of_species(one) for one in ([species] if species else [species_named(SLOW), species_named(FAST)])]
    except NotKnown:
        return None
    spans = [_days(found, figures, thickness_m, there, use) for figures in each]
    # Who does not know the species counts with the slow one.
    return min(low for low, _, _ in spans), spans[0][1], max(high for _, _, high in spans)


def _days(found: Estimate, figures: Figures, thickness_m: float, there: Home, use: Use) -> tuple[float, float, float]:
    wanted = arrival.around(there.moisture, use.tolerance, use.allowed_gradient)
    start = min(found.mean, figures.wood.greatest_moisture)
    question = Question(
        figures, thickness_m, start, questions.first_edge(wanted, start), there.setting,
        start_uncertainty=questions.uncertainty_of_reading(found), gradient=found.gradient or 0.0, wanted=wanted,
    )  # fmt: skip
    answer = drying.answered(question)
    return answer.low, answer.days, answer.high
