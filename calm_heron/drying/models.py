"""Forecasts as they were shown, so that they can be compared with what happened."""

from django.contrib.postgres.fields import ArrayField
from django.db import models
from django.utils import timezone

from calm_heron.stock.models import Piece
from calm_heron.workshops.models import WorkshopRow

FORECAST_RULE = "2026-12a"


class Forecast(WorkshopRow):
    """When a piece may be worked for what it is for, as it was worked out on a day. Added, never changed (see the migration).

    ``aim`` says for what, ``asked`` from where to where by which route; ``days``, ``low`` and ``high`` count from ``at`` and are empty
    where it never is. The curve is in columns: days, the mean, the edges between which eight boards in ten lie. ``digest`` tells equal
    ones.
    """

    append_only = is_of_a_piece = True

    piece = models.ForeignKey(Piece, on_delete=models.PROTECT, related_name="forecasts")
    at = models.DateTimeField(default=timezone.now)
    day = models.DateField(default=timezone.localdate)
    rule = models.CharField(max_length=10, default=FORECAST_RULE)
    aim = models.CharField(max_length=160)
    asked = models.JSONField(default=dict)
    state = models.CharField(max_length=12)
    days = models.FloatField(null=True)
    low = models.FloatField(null=True)
    high = models.FloatField(null=True)
    chances = models.JSONField(default=list)
    curve_days = ArrayField(models.FloatField())
    curve_mean = ArrayField(models.FloatField())
    curve_low = ArrayField(models.FloatField())
    curve_high = ArrayField(models.FloatField())
    # The days of every member of the set, for what waits for several pieces (infinite: never); empty in forecasts from before they were
    # kept.
    member_days = ArrayField(models.FloatField(), default=list)
    digest = models.CharField(max_length=40)

    class Meta:
        indexes = [models.Index(fields=["piece", "-at"], name="forecasts_newest_first")]
        constraints = [models.UniqueConstraint(fields=["piece", "day", "digest"], name="a_forecast_a_day")]
