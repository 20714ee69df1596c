"""What a workshop usually works for: the place its wood will live in, and how close it must be."""

from django.db import models

from calm_heron.air.models import Place
from calm_heron.workshops.models import WorkshopRow
from wood.uses import FINE, USES

TOLERANCE = (0.0025, 0.10)
LIMITS = (0.08, 0.30)


class Aim(WorkshopRow):
    """The usual place and use of a workshop; a page may be opened for another."""

    place = models.ForeignKey(Place, on_delete=models.CASCADE, related_name="+")
    use_key = models.CharField(max_length=12, choices=[(use.key, use.name) for use in USES.values()], default=FINE.key)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["workshop"], name="one_aim_per_workshop")]


class UseRule(WorkshopRow):
    """How close a workshop wants a use to be, where it does not go by the usual rule. Fractions; empty means as usual."""

    use_key = models.CharField(max_length=12, choices=[(use.key, use.name) for use in USES.values()])
    tolerance = models.FloatField(null=True, blank=True)
    evenness = models.FloatField(null=True, blank=True)
    limit = models.FloatField(null=True, blank=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["workshop", "use_key"], name="one_rule_per_use"),
            models.CheckConstraint(
                condition=models.Q(tolerance__range=TOLERANCE) | models.Q(tolerance=None), name="use_tolerance_possible"
            ),
            models.CheckConstraint(condition=models.Q(evenness__range=TOLERANCE) | models.Q(evenness=None), name="use_evenness_possible"),
            models.CheckConstraint(condition=models.Q(limit__range=LIMITS) | models.Q(limit=None), name="use_limit_possible"),
        ]
