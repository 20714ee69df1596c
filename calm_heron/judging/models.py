"""What wood is for, a workshop's usual purpose and each piece's own, and how close it must be."""

from dataclasses import replace

from django.db import models

from calm_heron.air.models import Place
from calm_heron.stock.models import Piece
from calm_heron.workshops.models import WorkshopRow
from wood.uses import GENERAL, USES, Approach, Use

TOLERANCE = (0.0025, 0.10)
LIMITS = (0.08, 0.30)


# What a moisture may be that somebody names as wanted.
NAMED = (0.03, 0.30)


class StoredPurpose(WorkshopRow):
    """Where wood will live, for which use, and by which approach; ``moisture`` is the one that somebody named."""

    place = models.ForeignKey(Place, on_delete=models.CASCADE, related_name="+")
    use_key = models.CharField(max_length=12, choices=[(use.key, use.name) for use in USES.values()], default=GENERAL.key)
    approach = models.CharField(max_length=5, choices=[(item.value, item.value) for item in Approach], default=Approach.SETTLED.value)
    moisture = models.FloatField(null=True, blank=True)

    class Meta:
        abstract = True

    @property
    def settings(self) -> tuple[int, str, str, float | None]:
        return self.place_id, self.use_key, self.approach, self.moisture


class WorkshopPurpose(StoredPurpose):
    """The usual purpose of a workshop; a page may be opened for another."""

    class Meta:
        db_table = "judging_aim"
        constraints = [models.UniqueConstraint(fields=["workshop"], name="one_aim_per_workshop")]


class PiecePurpose(StoredPurpose):
    """What one piece or lot is for, where that is not the workshop's usual purpose."""

    is_of_a_piece = True

    piece = models.OneToOneField(Piece, on_delete=models.CASCADE, related_name="purpose")

    class Meta:
        db_table = "judging_pieceaim"
        constraints = [
            models.CheckConstraint(condition=models.Q(moisture__range=NAMED) | models.Q(moisture=None), name="named_moisture_possible")
        ]


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

    def applied_to(self, use: Use) -> Use:
        """The use as this workshop wants it."""
        wanted = {name: getattr(self, name) for name in ("tolerance", "evenness", "limit") if getattr(self, name) is not None}
        return replace(use, **wanted)
