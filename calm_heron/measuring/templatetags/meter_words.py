"""How meters are written."""

from django import template

from calm_heron.measuring.models import Meter
from calm_heron.stock import woods
from wood.errors import NotKnown

register = template.Library()


@register.filter
def set_to_name(meter: Meter) -> str:
    """The species a meter stays set to, by its name."""
    try:
        return woods.species_of(meter.workshop_id, meter.set_to).common_name
    except NotKnown:
        return "a species that is not known any more"
