"""A build, its parts, the boards held for it, what is cut from them, what of a board is kept out, and how panels are glued up."""

from datetime import date
from functools import cached_property

from django.db import models
from django.utils import timezone

from calm_heron.air.models import Place
from calm_heron.builds.kinds import (
    ChalkKind,
    FaceKind,
    FigureKind,
    FitKind,
    GrainWanted,
    MarkKind,
    MeasuredKind,
    PointsKind,
    SapwoodKind,
)
from calm_heron.stock import woods
from calm_heron.stock.models import Photo, Piece
from calm_heron.workshops.models import Person, WorkshopRow
from calm_heron.workshops.versions import Versioned
from wood.builds.layout import KERF_M, Rect
from wood.species import Species
from wood.uses import FINE

# As much as a build may hold, and how many boards a glued panel may be of.
MOST_PARTS, MOST_PIECES, MOST_STAVES = 200, 600, 30
PART_M = {"length_m": (0.01, 6.0), "width_m": (0.005, 2.0), "thickness_m": (0.002, 0.3)}
EXTRA_M = {"extra_length_m": (0.0, 0.3), "extra_width_m": (0.0, 0.1), "extra_thickness_m": (0.0, 0.05)}
# Left on each side where nobody says otherwise: an inch of length, a quarter of width, three sixteenths of thickness for two flat faces.
USUAL_EXTRA_M = {"extra_length_m": 0.0254, "extra_width_m": 0.00635, "extra_thickness_m": 0.0047625}
USUAL_KERF_M, USUAL_END_M = 0.003175, 0.0254


def letters(number: int) -> str:
    """The letters that stand for a part: A for the first, Z, AA …

    >>> letters(1), letters(26), letters(27)
    ('A', 'Z', 'AA')
    """
    text = ""
    while number > 0:
        number, rest = divmod(number - 1, 26)
        text = chr(65 + rest) + text
    return text


def board_name(piece: Piece, nth: int) -> str:
    """What a board is called: its tag, and which one of a lot."""
    return f"{piece.tag} no. {nth}" if piece.is_lot else piece.tag


class Build(Versioned, WorkshopRow):
    """What is to be made: where it will live, for which use, when it is due, how it is finished, and how its boards are sawn up."""

    name = models.CharField(max_length=60)
    place = models.ForeignKey(Place, on_delete=models.PROTECT, related_name="builds")
    use_key = models.CharField(max_length=12, default=FINE.key)
    due = models.DateField(null=True, blank=True)
    # Key and coats of a finish; empty for bare wood.
    finish = models.CharField(max_length=30, blank=True, default="")
    coats = models.PositiveSmallIntegerField(default=0)
    kerf_m = models.FloatField(default=USUAL_KERF_M)
    # Cut off each end of every board.
    end_m = models.FloatField(default=USUAL_END_M)
    sapwood_out = models.BooleanField(default=True)
    made_by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    made_at = models.DateTimeField(default=timezone.now)
    done_on = models.DateField(null=True, blank=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["workshop", "name"], name="builds_differ"),
            models.CheckConstraint(condition=models.Q(kerf_m__range=KERF_M), name="build_kerf_possible"),
            models.CheckConstraint(condition=models.Q(end_m__range=(0, 1)), name="build_end_possible"),
        ]

    def __str__(self) -> str:
        return self.name

    def overtaken_words(self) -> str:
        return f"Someone else has changed {self.name} since you opened it."

    @property
    def purpose_in_address(self) -> dict[str, str]:
        """What its wood is for, as an address has it: every page that is asked so answers for this build."""
        return {"place": str(self.place_id), "use": self.use_key}

    def days_to_due(self, today: date) -> int | None:
        return (self.due - today).days if self.due else None


class BuildPart(WorkshopRow):
    """So many alike parts, at the size they are to have at the mean of their year, with what is left on them until then.

    ``staves`` above one says that each is glued from so many boards. ``stock`` is the board or lot it is to come from, where one was
    chosen.
    """

    build = models.ForeignKey(Build, on_delete=models.CASCADE, related_name="parts")
    number = models.PositiveIntegerField()
    name = models.CharField(max_length=60)
    count = models.PositiveIntegerField(default=1)
    length_m = models.FloatField()
    width_m = models.FloatField()
    thickness_m = models.FloatField()
    extra_length_m = models.FloatField(default=USUAL_EXTRA_M["extra_length_m"])
    extra_width_m = models.FloatField(default=USUAL_EXTRA_M["extra_width_m"])
    extra_thickness_m = models.FloatField(default=USUAL_EXTRA_M["extra_thickness_m"])
    species_key = models.CharField(max_length=40)
    grain = models.CharField(max_length=8, choices=GrainWanted.choices, blank=True, default="")
    staves = models.PositiveIntegerField(default=1)
    fit = models.CharField(max_length=8, choices=FitKind.choices, default=FitKind.FREE)
    figure = models.CharField(max_length=8, choices=FigureKind.choices, blank=True, default="")
    # All of them from one board, in a row: doors as a pair, fronts side by side.
    matched = models.BooleanField(default=False)
    stock = models.ForeignKey(Piece, on_delete=models.SET_NULL, null=True, blank=True, related_name="+")

    class Meta:
        ordering = ["number"]
        constraints = [
            models.UniqueConstraint(fields=["build", "number"], name="parts_differ", deferrable=models.Deferrable.DEFERRED),
            models.CheckConstraint(condition=models.Q(count__range=(1, MOST_PIECES)), name="part_count_possible"),
            models.CheckConstraint(condition=models.Q(staves__range=(1, MOST_STAVES)), name="part_staves_possible"),
        ]

    @property
    def is_matched(self) -> bool:
        """Whether its pieces come from one board, in a row."""
        return self.pieces > 1 and (self.matched or self.figure == FigureKind.ALONG)

    @property
    def letter(self) -> str:
        """By which it is named on sheets and drawings."""
        return letters(self.number)

    @property
    def pieces(self) -> int:
        """How many pieces are sawn for it."""
        return self.count * self.staves

    @property
    def species(self) -> Species:
        return woods.species_of(self.workshop_id, self.species_key)

    @property
    def rough_m(self) -> tuple[float, float, float]:
        """Length, width and thickness of each piece that is sawn for it."""
        return (
            self.length_m + self.extra_length_m,
            self.width_m / self.staves + self.extra_width_m,
            self.thickness_m + self.extra_thickness_m,
        )

    def piece_name(self, nth: int) -> str:
        """What its nth piece is called: A2, or A2-3 for the third stave of the second."""
        if self.staves == 1:
            return f"{self.letter}{nth + 1}" if self.count > 1 else self.letter
        return f"{self.letter}{nth // self.staves + 1 if self.count > 1 else ''}-{nth % self.staves + 1}"


class Held(WorkshopRow):
    """A board that a build keeps for itself; ``nth`` tells the boards of a lot apart. No board is held twice."""

    build = models.ForeignKey(Build, on_delete=models.CASCADE, related_name="held")
    piece = models.ForeignKey(Piece, on_delete=models.PROTECT, related_name="held_for")
    nth = models.PositiveIntegerField(default=1)
    # Which of its faces shows in what is made of it.
    face = models.CharField(max_length=8, choices=FaceKind.choices, blank=True, default="")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["piece", "nth"], name="a_board_is_held_once")]

    @property
    def key(self) -> str:
        return f"{self.piece_id}.{self.nth}"

    @property
    def name(self) -> str:
        """Its tag, and which board of a lot."""
        return board_name(self.piece, self.nth)


class Cut(WorkshopRow):
    """One piece of a part laid on a held board, with its rough size as it was laid."""

    part = models.ForeignKey(BuildPart, on_delete=models.CASCADE, related_name="cuts")
    nth = models.PositiveIntegerField()
    board = models.ForeignKey(Held, on_delete=models.CASCADE, related_name="cuts")
    x_m = models.FloatField()
    y_m = models.FloatField()
    length_m = models.FloatField()
    width_m = models.FloatField()
    # Which leaf of how many it is, where its blank is resawn; all leaves of a blank have one place.
    leaf = models.PositiveSmallIntegerField(default=0)
    leaves = models.PositiveSmallIntegerField(default=1)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["part", "nth"], name="a_piece_is_cut_once"),
            models.CheckConstraint(condition=models.Q(leaf__lt=models.F("leaves")), name="a_leaf_of_its_leaves"),
        ]

    @property
    def rect(self) -> Rect:
        return Rect(self.x_m, self.x_m + self.length_m, self.y_m, self.y_m + self.width_m)


class Sawing(WorkshopRow):
    """A held board that was sawn up: when, by whom, whether as it was planned, whether the end of its build did it, and what it was at
    (a fraction; None: nobody knows)."""

    board = models.OneToOneField(Held, on_delete=models.CASCADE, related_name="sawing")
    at = models.DateTimeField(default=timezone.now)
    by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    as_planned = models.BooleanField(default=True)
    at_the_end = models.BooleanField(default=False)
    moisture = models.FloatField(null=True)
    note = models.CharField(max_length=200, blank=True)


class Offcut(WorkshopRow):
    """A piece of the stock that was left of a board."""

    sawing = models.ForeignKey(Sawing, on_delete=models.CASCADE, related_name="offcuts")
    piece = models.OneToOneField(Piece, on_delete=models.CASCADE, related_name="left_of")


class PhotoFrame(WorkshopRow):
    """Where the board lies in a photograph of it: from which to which share of the picture, from the left and from the top. The drawing of
    its pieces then has the photograph beneath it."""

    photo = models.OneToOneField(Photo, on_delete=models.CASCADE, related_name="framed")
    nth = models.PositiveIntegerField(default=1)
    x0 = models.FloatField(default=0.0)
    x1 = models.FloatField(default=1.0)
    y0 = models.FloatField(default=0.0)
    y1 = models.FloatField(default=1.0)

    class Meta:
        constraints = [
            models.CheckConstraint(
                condition=models.Q(x0__gte=0, x1__lte=1, y0__gte=0, y1__lte=1, x0__lt=models.F("x1"), y0__lt=models.F("y1")),
                name="a_board_lies_in_its_picture",
            )
        ]

    @property
    def view_box(self) -> str:
        """What of the picture is the board, as a drawing has it."""
        wide, high = self.photo.width, self.photo.height
        return f"{self.x0 * wide:.1f} {self.y0 * high:.1f} {(self.x1 - self.x0) * wide:.1f} {(self.y1 - self.y0) * high:.1f}"


class Mark(WorkshopRow):
    """What of a board is kept out of every part, or what the eye sees there: from where to where along and across it, metres from its lower
    left corner as it lies face up.
    """

    piece = models.ForeignKey(Piece, on_delete=models.CASCADE, related_name="sawn_round")
    nth = models.PositiveIntegerField(default=1)
    kind = models.CharField(max_length=10, choices=MarkKind.choices, default=MarkKind.KNOT)
    # Where the tip of a cathedral points.
    points = models.CharField(max_length=8, choices=PointsKind.choices, blank=True, default="")
    x0_m = models.FloatField()
    x1_m = models.FloatField()
    y0_m = models.FloatField()
    y1_m = models.FloatField()
    by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(default=timezone.now)

    @cached_property
    def rect(self) -> Rect:
        return Rect(self.x0_m, self.x1_m, self.y0_m, self.y1_m)


class GlueUp(Versioned, WorkshopRow):
    """How one panel is glued: its staves in order from the left (which one, bark side up, turned end for end), which joints join a
    bookmatched pair, what was noted of the grain, a photograph of it, how it is chalked and where sapwood goes."""

    part = models.ForeignKey(BuildPart, on_delete=models.CASCADE, related_name="glueups")
    copy = models.PositiveIntegerField(default=0)
    # [stave, bark up, turned] from left to right.
    order = models.JSONField(default=list)
    # Staves that are halves of one board, opened like a book: kept side by side.
    pairs = models.JSONField(default=list, blank=True)
    note = models.CharField(max_length=200, blank=True, default="")
    photo = models.ForeignKey(Photo, on_delete=models.SET_NULL, null=True, blank=True, related_name="+")
    chalk = models.CharField(max_length=8, choices=ChalkKind.choices, default=ChalkKind.JOINTS)
    # Where sapwood goes that is not kept out of the build's parts.
    sapwood = models.CharField(max_length=8, choices=SapwoodKind.choices, default=SapwoodKind.OUT)
    glued_on = models.DateField(null=True, blank=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["part", "copy"], name="a_panel_is_glued_once")]

    def overtaken_words(self) -> str:
        return f"Someone else has laid the boards of {self.part.name} otherwise meanwhile."


class PartAsMade(WorkshopRow):
    """What a part was when its build was made: the moisture of its wood (a fraction; None: nobody knows), its sizes, its ring angle."""

    part = models.OneToOneField(BuildPart, on_delete=models.CASCADE, related_name="as_made")
    moisture = models.FloatField(null=True)
    length_m = models.FloatField()
    width_m = models.FloatField()
    thickness_m = models.FloatField()
    ring_angle_deg = models.FloatField(default=0.0)


class MeasuredLater(WorkshopRow):
    """Something measured of a part after it was made: its moisture (a fraction), its width or the gap beside it (metres)."""

    part = models.ForeignKey(BuildPart, on_delete=models.CASCADE, related_name="measured_later")
    what = models.CharField(max_length=8, choices=MeasuredKind.choices)
    value = models.FloatField()
    on = models.DateField(default=timezone.localdate)
    note = models.CharField(max_length=200, blank=True, default="")
    by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    struck = models.BooleanField(default=False)

    class Meta:
        ordering = ["on", "pk"]
