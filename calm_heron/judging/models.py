"""What a workshop usually works for: the place its wood will live in, and how close it must be."""

from django.db import models

from calm_heron.air.models import Place
from calm_heron.workshops.models import WorkshopRow
from wood.readiness import FINE, USES, Use


class Aim(WorkshopRow):
    """The usual place and use of a workshop; a page may be opened for another."""

    place = models.ForeignKey(Place, on_delete=models.CASCADE, related_name="+")
    use_key = models.CharField(max_length=12, choices=[(use.key, use.name) for use in USES.values()], default=FINE.key)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["workshop"], name="one_aim_per_workshop")]

    @property
    def use(self) -> Use:
        return USES[self.use_key]
