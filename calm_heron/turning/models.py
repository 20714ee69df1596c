"""What is known of turned pieces beside their size: how they lay in their log, how they are dried, traced and cracked. What they weighed
are readings like any other (:mod:`calm_heron.measuring`)."""

from typing import Any

from django.db import models
from django.utils import timezone

from calm_heron.stock.models import Photo, Piece
from calm_heron.turning.kinds import ElsewhereKind, FeltKind, FormKind, GrainKind, HeldKind, MendKind, RimKind, WayKind, WhereKind
from calm_heron.workshops.models import Person, WorkshopRow, WorkshopRows
from calm_heron.workshops.versions import Versioned
from wood.turning import bowls
from wood.turning.bowls import Bowl
from wood.turning.drying import Way

END_WALL_M = 0.008
PITH_M = 0.02


class LogEnd(Versioned, WorkshopRow):
    """The end of a log as it was drawn: sizes and pith in metres, strokes and knots as the core reads them, and what was cut from it."""

    piece = models.OneToOneField(Piece, on_delete=models.CASCADE, related_name="log_end")
    width_m = models.FloatField()
    height_m = models.FloatField()
    length_m = models.FloatField()
    pith_x_m = models.FloatField(default=0.0)
    pith_y_m = models.FloatField(default=0.0)
    soft_m = models.FloatField(default=0.0)
    # As typed or tapped: points in metres, how deep, and what it is.
    strokes = models.JSONField(default=list, blank=True)
    photo = models.ForeignKey(Photo, on_delete=models.SET_NULL, null=True, blank=True, related_name="+")
    # How many metres the photograph is wide, where it was scaled.
    photo_m = models.FloatField(null=True, blank=True)

    def overtaken_words(self) -> str:
        return f"Someone else has drawn the end of {self.piece.tag} meanwhile."


class Turned(Versioned, WorkshopRow):
    """A turned piece: its form, its place in the log it came from, and in what it dries. Pieces without one are as usual."""

    piece = models.OneToOneField(Piece, on_delete=models.CASCADE, related_name="as_turned")
    form = models.CharField(max_length=10, choices=FormKind.choices, default=FormKind.OPEN)
    grain = models.CharField(max_length=6, choices=GrainKind.choices, default=GrainKind.ACROSS)
    rim = models.CharField(max_length=4, choices=RimKind.choices, default=RimKind.PITH)
    pith_m = models.FloatField(default=PITH_M)
    aside_m = models.FloatField(default=0.0)
    foot_m = models.FloatField(null=True, blank=True)
    end_wall_m = models.FloatField(default=END_WALL_M)
    way = models.CharField(max_length=10, choices=WayKind.choices, default=WayKind.SHELF)
    # Turned once, thin, and left to move: nothing is turned true again.
    turned_once = models.BooleanField(default=False)
    # By what it is held on the lathe, and how wide that was green.
    held = models.CharField(max_length=8, choices=HeldKind.choices, blank=True, default="")
    held_m = models.FloatField(null=True, blank=True)
    # The log it came from, and in which half of it.
    log = models.ForeignKey(Piece, on_delete=models.SET_NULL, null=True, blank=True, related_name="blanks")
    upper = models.BooleanField(null=True, blank=True)

    class Meta:
        constraints = [
            models.CheckConstraint(condition=models.Q(pith_m__range=(0, 2)), name="turned_pith_possible"),
            models.CheckConstraint(condition=models.Q(aside_m__range=(-1, 1)), name="turned_aside_possible"),
            models.CheckConstraint(condition=models.Q(end_wall_m__range=(0.001, 0.1)), name="turned_end_wall_possible"),
        ]

    def overtaken_words(self) -> str:
        return f"Someone else has changed {self.piece.tag} since you opened it."

    def bowl(self) -> Bowl:
        """As the core computes with it.

        Raises:
            OutOfRange: sizes that no bowl has.
        """
        piece, form = self.piece, bowls.Form(self.form)
        solid = 0.45 * min(piece.width_m / 2, piece.length_m)
        return Bowl(
            piece.width_m,
            piece.length_m,
            solid if form is bowls.Form.SOLID else piece.thickness_m,
            form,
            bowls.Grain(self.grain),
            bowls.Rim(self.rim),
            self.pith_m,
            self.aside_m,
            self.foot_m,
        )

    @property
    def core_way(self) -> Way:
        """Ways to dry it, as the core calls it."""
        return Way(self.way)


def turned(piece: Piece) -> Turned:
    """What is known of a turned piece; as usual where nobody said."""
    result = getattr(piece, "as_turned", None)
    if result is None:
        return Turned(workshop=piece.workshop, piece=piece)
    result.piece = piece
    return result


class WeightForecast(WorkshopRow):
    """What a bowl's weights said when they were last asked, kept so that a whole shelf is drawn at once."""

    piece = models.OneToOneField(Piece, on_delete=models.CASCADE, related_name="weight_forecast")
    made_at = models.DateTimeField(default=timezone.now)
    # What it was made from; another digest makes it anew.
    digest = models.CharField(max_length=64)
    said = models.JSONField(default=dict)


class Tracing(WorkshopRow):
    """A rim as it was traced: its longest and shortest width, what was predicted of it, and the points where there are any."""

    append_only = True

    piece = models.ForeignKey(Piece, on_delete=models.PROTECT, related_name="tracings")
    at = models.DateTimeField(default=timezone.now)
    by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    stage = models.CharField(max_length=80, blank=True)
    along_m = models.FloatField()
    across_m = models.FloatField()
    off_m = models.FloatField(default=0.0)
    predicted_m = models.FloatField(null=True)
    points = models.JSONField(default=list, blank=True)


class StandingCracks(models.Manager[Any]):
    """The cracks that are still there: one that was turned away, or was none, is struck by a row of its own."""

    def get_queryset(self) -> models.QuerySet[Any]:
        return super().get_queryset().filter(struck_by=None)


class CrackFound(WorkshopRow):
    """A crack found in a bowl."""

    append_only = True

    piece = models.ForeignKey(Piece, on_delete=models.PROTECT, related_name="cracks")
    at = models.DateTimeField(default=timezone.now)
    by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    where = models.CharField(max_length=8, choices=WhereKind.choices)
    depth_m = models.FloatField()
    length_m = models.FloatField()
    through = models.BooleanField(default=False)
    at_pith = models.BooleanField(default=False)
    # Where it lies round the bowl, as the hour of a clock seen from above, the grain from nine to three.
    hour = models.FloatField(null=True, blank=True)

    objects = StandingCracks.from_queryset(WorkshopRows)()  # type: ignore[assignment, misc]

    class Meta:
        constraints = [models.CheckConstraint(condition=models.Q(hour__range=(0, 12)) | models.Q(hour=None), name="crack_hour_possible")]

    @property
    def mend(self) -> "CrackMended | None":
        """How it was mended; None where it is open."""
        newest = max(self.mends.all(), key=lambda row: (row.at, row.pk), default=None)
        return newest if newest is not None and newest.how != MendKind.OPEN else None


class CrackStruck(WorkshopRow):
    """A crack that was turned away, or was none."""

    append_only = True

    crack = models.OneToOneField(CrackFound, on_delete=models.PROTECT, related_name="struck_by")
    at = models.DateTimeField(default=timezone.now)
    by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")


class CrackMended(WorkshopRow):
    """A crack that was filled or glued, and with what; or open again. The newest counts."""

    append_only = True

    crack = models.ForeignKey(CrackFound, on_delete=models.PROTECT, related_name="mends")
    at = models.DateTimeField(default=timezone.now)
    by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    how = models.CharField(max_length=6, choices=MendKind.choices)
    what = models.CharField(max_length=60, blank=True)


class LayElsewhere(WorkshopRow):
    """Where a bowl lay for a while instead of on its shelf, from a day to a day (empty: it lies there still), at which temperature and
    humidity (empty: what its own room's vapour comes to there).
    """

    piece = models.ForeignKey(Piece, on_delete=models.CASCADE, related_name="spells")
    kind = models.CharField(max_length=8, choices=ElsewhereKind.choices)
    begins = models.DateField()
    ends = models.DateField(null=True, blank=True)
    temperature_c = models.FloatField()
    relative_humidity = models.FloatField(null=True, blank=True)
    at = models.DateTimeField(default=timezone.now)
    by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    struck_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        constraints = [models.CheckConstraint(condition=models.Q(temperature_c__range=(-40, 90)), name="elsewhere_temperature_possible")]


class OvenSession(Versioned, WorkshopRow):
    """A bowl in a microwave: since when, in an oven of how many watts and at which setting, and what it weighed before; over once
    ``ended_at`` is set.
    """

    piece = models.ForeignKey(Piece, on_delete=models.CASCADE, related_name="oven_sessions")
    by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    began_at = models.DateTimeField(default=timezone.now)
    watts = models.FloatField()
    level = models.FloatField(default=1.0)
    first_kg = models.FloatField()
    dry_kg = models.FloatField()
    rest_kg = models.FloatField()
    ended_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["piece"], condition=models.Q(ended_at=None), name="one_session_of_a_bowl")]

    def overtaken_words(self) -> str:
        return "Someone else has ended this session meanwhile."

    def last_heat(self) -> "OvenHeat | None":
        """The newest of its heats."""
        return self.heats.order_by("-at", "-pk").first()


class OvenHeat(WorkshopRow):
    """One heat of a session, and what the bowl weighed after it."""

    append_only = True

    session = models.ForeignKey(OvenSession, on_delete=models.PROTECT, related_name="heats")
    at = models.DateTimeField(default=timezone.now)
    by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    seconds = models.FloatField()
    level = models.FloatField()
    mass_kg = models.FloatField()
    felt = models.CharField(max_length=6, choices=FeltKind.choices, default=FeltKind.WARM)
