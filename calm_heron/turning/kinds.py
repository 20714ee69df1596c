"""How a bowl is formed, which way its rim and grain lie, in what it dries, how a heat felt, and where a crack lies."""

from django.db import models

from wood.turning.bowls import Form, Grain, Rim
from wood.turning.drying import Way
from wood.turning.lathe import Where
from wood.turning.microwave import Felt


class FormKind(models.TextChoices):
    OPEN = Form.OPEN.value, "open"
    CALABASH = Form.CALABASH.value, "calabash, a little closed"
    ENCLOSED = Form.ENCLOSED.value, "a hollow form, enclosed"
    PLATTER = Form.PLATTER.value, "a platter"
    GOBLET = Form.GOBLET.value, "a goblet, by its cup"
    BOX = Form.BOX.value, "a box or its lid, straight"
    SOLID = Form.SOLID.value, "a spindle or pen blank, solid"


class RimKind(models.TextChoices):
    PITH = Rim.PITH.value, "the pith"
    BARK = Rim.BARK.value, "the bark (natural edge)"


class GrainKind(models.TextChoices):
    ACROSS = Grain.ACROSS.value, "across the lathe (bowls)"
    ALONG = Grain.ALONG.value, "along the lathe (boxes, end grain)"


class WayKind(models.TextChoices):
    BAG = Way.PAPER_BAG.value, "in a paper bag"
    SHELF = Way.SHELF.value, "on an open shelf"
    ENDS = Way.ENDS_SEALED.value, "on a shelf, end grain waxed"
    BAG_ENDS = Way.BAG_ENDS_SEALED.value, "in a paper bag, end grain waxed"
    CARTON = Way.CARTON.value, "in a closed cardboard box"
    SHAVINGS = Way.SHAVINGS.value, "in shavings"
    SEALED = Way.ALL_SEALED.value, "waxed all over"
    BOX = Way.WARM_BOX.value, "a week in a warm box, then a shelf"


class FeltKind(models.TextChoices):
    COOL = Felt.COOL.value, "cool"
    WARM = Felt.WARM.value, "warm"
    HOT = Felt.HOT.value, "hot"
    STEAM = Felt.STEAM.value, "steaming"


class WhereKind(models.TextChoices):
    RIM = Where.RIM.value, "in the rim"
    OUTSIDE = Where.OUTSIDE.value, "outside"
    INSIDE = Where.INSIDE.value, "inside"
    FOOT = Where.FOOT.value, "in the foot"


class MendKind(models.TextChoices):
    FILLED = "filled", "filled"
    GLUED = "glued", "glued"
    OPEN = "open", "open again"


class ElsewhereKind(models.TextChoices):
    BOX = "box", "in a warm box"
    FREEZER = "freezer", "in a freezer"
    KILN = "kiln", "in a kiln"


class HeldKind(models.TextChoices):
    NOT_SAID = "", "not said"
    TENON = "tenon", "a tenon"
    RECESS = "recess", "a recess"
    PLATE = "plate", "a faceplate"
    GLUED = "glued", "a block glued on"
    CENTRES = "centres", "between centres"
