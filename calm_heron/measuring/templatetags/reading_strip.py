"""What the reading strip on every page needs."""

import uuid

from django import template

from calm_heron.measuring import queries
from calm_heron.measuring.models import Meter
from calm_heron.stock import woods
from wood.errors import NotKnown

register = template.Library()


@register.simple_tag(takes_context=True)
def strip_meters(context) -> dict:
    """The workshop's meters, the one this person used last, and a token so that a line is kept once."""
    choices = list(queries.meters_of(context["workshop"]))
    usual = queries.usual_meter(context["membership"]) if len(choices) > 1 else next(iter(choices), None)
    return {"choices": choices, "usual": usual, "once": uuid.uuid4().hex}


@register.filter
def set_to_name(meter: Meter) -> str:
    """The species a meter stays set to, by its name."""
    try:
        return woods.species_of(meter.workshop_id, meter.set_to).common_name
    except NotKnown:
        return "a species that is not known any more"
