"""The shop's air now, at the foot of the rail."""

from django import template

from calm_heron.air import queries as air
from calm_heron.judging.models import Aim

register = template.Library()


@register.inclusion_tag("judging/shop_air.html", takes_context=True)
def shop_air(context) -> dict:
    """The newest air of the place the workshop aims for, or of its first place."""
    workshop = context["workshop"]
    aim = Aim.objects.of(workshop).select_related("place").first()
    place = aim.place if aim else air.places(workshop).first()
    return {"place": place, "reading": air.latest(place) if place else None, "workshop": workshop, "system": context["system"]}
