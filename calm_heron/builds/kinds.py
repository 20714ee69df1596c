"""What parts of a build are wanted to be, how they meet, and what of a board is kept out of them."""

from django.db import models

from wood.builds.first_year import Measured
from wood.builds.glueups import RingApproach
from wood.builds.sizes import Fit


class GrainWanted(models.TextChoices):
    ANY = "", "any"
    FLAT = "flat", "flat-sawn"
    RIFT = "rift", "rift"
    QUARTER = "quarter", "quarter-sawn"


class FitKind(models.TextChoices):
    FREE = Fit.FREE.value, "on its own"
    GROOVE = Fit.GROOVE.value, "a panel in grooves"
    INSET = Fit.INSET.value, "inset: a drawer or door in its opening"
    FIXED = Fit.FIXED.value, "a top screwed to a frame"


class FigureKind(models.TextChoices):
    NONE = "", "no matter"
    UP = "up", "cathedral, pointing up, as in a door"
    STRAIGHT = "straight", "straight along it"
    FIGURED = "figured", "where the figure lies"
    ALONG = "along", "runs level and on from front to front, as in drawers"
    LEG = "leg", "straight on four alike faces, as in a leg"


class SheetKind(models.TextChoices):
    BENCH = "bench", "for the bench: parts, panels and boards"
    SAW = "saw", "for the saw: each board with its cuts"
    GLUE = "glue", "for the glue-up: each panel in its order"
    RACK = "rack", "for the rack: which boards to bring down"
    OWNER = "owner", "for its owner: the air it likes, and what is no fault"


class Paper(models.TextChoices):
    LETTER = "letter", "Letter"
    A4 = "a4", "A4"


class PaperTurned(models.TextChoices):
    LANDSCAPE = "landscape", "landscape"
    PORTRAIT = "portrait", "portrait"


class MarkKind(models.TextChoices):
    KNOT = "knot", "knot"
    CHECK = "check", "check or split"
    SAPWOOD = "sapwood", "sapwood"
    PITH = "pith", "pith"
    WANE = "wane", "wane or bark"
    OTHER = "other", "other"
    # What the eye sees there; nothing of it is kept out.
    CATHEDRAL = "cathedral", "a cathedral"
    STRAIGHT = "straight", "straight grain"
    FIGURE = "figure", "figure"
    # A line of the grain, from corner to corner.
    ASKEW = "askew", "grain that runs askew, from corner to corner"


LOOKS = (MarkKind.CATHEDRAL, MarkKind.STRAIGHT, MarkKind.FIGURE, MarkKind.ASKEW)


class PointsKind(models.TextChoices):
    NOWHERE = "", "nowhere"
    RIGHT = "right", "to the right"
    LEFT = "left", "to the left"


class FaceKind(models.TextChoices):
    ANY = "", "either"
    BARK = "bark", "the bark side"
    HEART = "heart", "the pith side"


class ChalkKind(models.TextChoices):
    JOINTS = "joints", "each joint’s number on both of its boards"
    TRIANGLE = "triangle", "the boards’ numbers, and one triangle over all"


class SapwoodKind(models.TextChoices):
    OUT = "out", "turned to the outer edges"
    BACK = "back", "turned to the back"


class MeasuredKind(models.TextChoices):
    GAP = Measured.GAP.value, "the gap beside it"
    WIDTH = Measured.WIDTH.value, "its width, across the grain"
    MOISTURE = Measured.MOISTURE.value, "its moisture"


class ApproachKind(models.TextChoices):
    BY_TURNS = RingApproach.BY_TURNS.value, "by turns"
    BARK_UP = RingApproach.BARK_UP.value, "all bark side up"
    HEART_UP = RingApproach.HEART_UP.value, "all pith side up"
