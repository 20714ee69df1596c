"""How meters are written."""

from django import template

from calm_heron.measuring import words
from calm_heron.measuring.models import Meter, Reading
from calm_heron.measuring.strip import Spoken
from calm_heron.stock import woods
from wood.errors import NotKnown
from wood.units import System
from wood.written import said_length, weighed_mass

register = template.Library()


@register.filter
def describe_steps(reading: Reading, system: System) -> list[words.StepDescription]:
    """How a reading came to what it means, in words and in the reader's units."""
    return words.describe_steps(reading.steps, system)


@register.filter
def where_and_how(reading: Reading) -> str:
    """Where on the piece and how a reading was taken; the meter's name apart."""
    return words.where_and_how(reading)


@register.filter
def taken(spoken: Spoken) -> str:
    """A reading of the strip as it was understood: how deep, where, and the number."""
    return words.spoken(spoken)


@register.filter
def setting_of(meter: Meter, system: System) -> str:
    """What an instrument is set to, or how fine it shows."""
    traits = meter.traits
    if traits.has_pins:
        if meter.set_to:
            return set_to_name(meter)
        return "the species itself" if meter.species_set_on_meter else "its softwood scale; corrected here"
    if traits.senses_depth:
        density = f"specific gravity {meter.density_setting:.2f}" if meter.density_setting else "the species itself"
        return f"{density}, senses {said_length(meter.depth_m, system)} deep"
    return f"reads to {weighed_mass(meter.step_kg, system)}" if meter.step_kg else "–"


@register.filter
def set_to_name(meter: Meter) -> str:
    """The species a meter stays set to, by its name."""
    try:
        return woods.species_of(meter.workshop_id, meter.set_to).common_name
    except NotKnown:
        return "a species that is not known any more"
