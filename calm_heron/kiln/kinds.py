"""What chambers there are, how a load is run, and what can be done with one."""

from django.db import models

from wood.kiln.chambers import Kind
from wood.kiln.disturbances import Disturbed
from wood.kiln.heat import AIMS
from wood.kiln.programs import Care

SOLAR = "solar"
CHAMBERS = (
    (Kind.DEHUMIDIFIER.value, "with a dehumidifier"),
    (Kind.VENTED.value, "with vents and steam or spray"),
    (SOLAR, "driven by the sun"),
    (Kind.BOX.value, "a hot box"),
    (Kind.ROOM.value, "a warm room"),
)
CARES = ((Care.USUAL.value, "as published"), (Care.GENTLE.value, "gentler"), (Care.FAST.value, "faster"))
AGAINST = tuple((aim.key, aim.against) for aim in AIMS.values())


class ChamberKind(models.TextChoices):
    DEHUMIDIFIER = Kind.DEHUMIDIFIER.value, "with a dehumidifier"
    VENTED = Kind.VENTED.value, "with vents and steam or spray"
    BOX = Kind.BOX.value, "a hot box"
    ROOM = Kind.ROOM.value, "a warm room"


class PlateAir(models.TextChoices):
    """The air that a maker rates a compressor in."""

    MILD = "27/60", "27°C and 60%"
    WARM = "38/60", "38°C and 60%"
    DAMP = "32/90", "32°C and 90%"


PLATE_AIR = {PlateAir.MILD: (26.7, 0.60), PlateAir.WARM: (37.8, 0.60), PlateAir.DAMP: (32.2, 0.90)}


class CareChosen(models.TextChoices):
    USUAL = Care.USUAL.value, "as published"
    GENTLE = Care.GENTLE.value, "gentler"
    FAST = Care.FAST.value, "faster"


class ChargedBy(models.TextChoices):
    VOLUME = "volume", "for its wood"
    WATER = "water", "for the water that left it"


class Happened(models.TextChoices):
    OPENED = "opened", "its door was open"
    FANS = "fans", "its fans stood still"
    POWER = "power", "the power was cut"
    HEAT = "heat", "its heat failed"
    SPRAY = "spray", "its spray stuck open"
    VENTS = "vents", "its vents were changed"
    OTHER = "other", "something else"


# What disturbs the chamber for as long as it lasts.
DISTURBS = {
    Happened.OPENED: Disturbed.DOOR,
    Happened.FANS: Disturbed.FANS,
    Happened.POWER: Disturbed.POWER,
    Happened.HEAT: Disturbed.HEAT,
    Happened.SPRAY: Disturbed.SPRAY,
}
# The same while it goes on.
GOES_ON = {
    Happened.OPENED: "its door is open",
    Happened.FANS: "its fans stand still",
    Happened.POWER: "the power is cut",
    Happened.HEAT: "its heat has failed",
    Happened.SPRAY: "its spray is stuck open",
}


class Defect(models.TextChoices):
    FACE_CHECKS = "face_checks", "checks in the faces"
    END_CHECKS = "end_checks", "checks in the ends"
    HONEYCOMB = "honeycomb", "honeycomb"
    WARP = "warp", "warp"
    STAIN = "stain", "stain"
    SET = "set", "case-hardening"
