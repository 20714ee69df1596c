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


class StickersOf(models.TextChoices):
    OWN = "own", "the same wood, or another pale one"
    DARK = "dark", "oak, walnut or another dark wood"


class StackHappened(models.TextChoices):
    RAIN = "rain", "rain fell on it"
    UNCOVERED = "uncovered", "its cover was off"
    OTHER = "other", "something else"


# The same while it goes on.
GOES_ON = {StackHappened.RAIN: "rain falls on it", StackHappened.UNCOVERED: "its cover is off"}
