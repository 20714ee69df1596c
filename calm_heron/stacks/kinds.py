"""How a stack lies to the wind, and what covers it."""

from django.db import models


class StackTurned(models.TextChoices):
    ALL = "all", "to no side in particular"
    ACROSS = "across", "through the stickers"
    ALONG = "along", "along its boards"


class Cover(models.TextChoices):
    ROOF = "roof", "under a roof or lid of its own"
    SHADE = "shade", "under a roof, its sides hung with shade cloth"
    TARP = "tarp", "under a tarpaulin that reaches the ground"
    NONE = "none", "under nothing"
