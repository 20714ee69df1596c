"""How meters are written."""

from django import template

from calm_heron.measuring import words
from calm_heron.measuring.models import Meter, Reading
from calm_heron.stock import woods
from wood.errors import NotKnown
from wood.units import System

register = template.Library()


@register.filter
def steps_told(reading: Reading, system: System) -> list[words.StepTold]:
    """How a reading came to what it means, in words and in the reader's units."""
    return words.steps_told(reading.steps, system)


@register.filter
def set_to_name(meter: Meter) -> str:
    """The species a meter stays set to, by its name."""
    try:
        return woods.species_of(meter.workshop_id, meter.set_to).common_name
    except NotKnown:
        return "a species that is not known any more"
