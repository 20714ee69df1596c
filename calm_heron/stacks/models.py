"""Stacks as they stand: what lies in them, where, since when, and how they are built."""

from datetime import date

from django.db import models
from django.utils import timezone

from calm_heron.air.models import Place
from calm_heron.stacks.kinds import GOES_ON, Cover, StackHappened, StackTurned, StickersOf
from calm_heron.stock.models import Piece
from calm_heron.workshops.models import Person, WorkshopRow
from calm_heron.workshops.spells import Spell
from calm_heron.workshops.versions import Versioned

WIDTH_M, STICKER_M, SPACING_M, CLEAR_M, MAP_M = (0.2, 4.0), (0.004, 0.1), (0.1, 2.0), (0.0, 2.0), (0.0, 200.0)


class Stack(Versioned, WorkshopRow):
    """A stack that was built: its tag, its place, how it is built (metres), and what its boards were at on the day (fraction).

    ``x_m`` and ``y_m`` say where it stands in its yard, seen from a corner; empty where nobody said.
    """

    tag = models.CharField(max_length=32)
    place = models.ForeignKey(Place, on_delete=models.PROTECT, related_name="stacks")
    built_on = models.DateField(default=timezone.localdate)
    width_m = models.FloatField()
    sticker_m = models.FloatField()
    spacing_m = models.FloatField()
    clear_m = models.FloatField()
    turned = models.CharField(max_length=8, choices=StackTurned.choices, default=StackTurned.ALL)
    cover = models.CharField(max_length=8, choices=Cover.choices, default=Cover.ROOF)
    start_moisture = models.FloatField()
    # The day its boards' moisture is of: later than it was built where it was written down in its middle.
    joined_on = models.DateField(null=True, blank=True)
    # Bearers apart (empty: one under each line of stickers), how far boards reach beyond the last line, how far the next stack or wall is,
    # whether there is weight on top, and of what wood the stickers are.
    bearers_m = models.FloatField(null=True, blank=True)
    overhang_m = models.FloatField(null=True, blank=True)
    next_m = models.FloatField(null=True, blank=True)
    weighted = models.BooleanField(default=False)
    stickers_of = models.CharField(max_length=8, choices=StickersOf.choices, default=StickersOf.OWN)
    x_m = models.FloatField(null=True, blank=True)
    y_m = models.FloatField(null=True, blank=True)
    note = models.CharField(max_length=200, blank=True)
    standing = models.BooleanField(default=True)
    # In how many days its middle was foretold air-dry when it was built; what was lost of it, and what was learnt.
    foretold_days = models.FloatField(null=True, blank=True)
    out_m3 = models.FloatField(null=True, blank=True)
    learnt = models.CharField(max_length=300, blank=True)
    added_by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["workshop", "tag"], name="stack_tags_differ"),
            models.CheckConstraint(condition=models.Q(width_m__range=WIDTH_M), name="stack_width_possible"),
            models.CheckConstraint(condition=models.Q(sticker_m__range=STICKER_M), name="stickers_possible"),
            models.CheckConstraint(condition=models.Q(spacing_m__range=SPACING_M), name="spacing_possible"),
            models.CheckConstraint(condition=models.Q(clear_m__range=CLEAR_M), name="clear_possible"),
        ]

    def __str__(self) -> str:
        return self.tag

    @property
    def followed_from(self) -> date:
        """The day that its boards' moisture is of, and its days of drying are counted from."""
        return self.joined_on or self.built_on


class StackLot(WorkshopRow):
    """A lot that lies in a stack; in one standing stack only. ``came`` is what it was at when it was taken out (a fraction) and ``out_at``
    when that was; empty where nobody knows."""

    stack = models.ForeignKey(Stack, on_delete=models.CASCADE, related_name="lots")
    piece = models.ForeignKey(Piece, on_delete=models.PROTECT, related_name="stacked")
    standing = models.BooleanField(default=True)
    came = models.FloatField(null=True)
    out_at = models.DateTimeField(null=True)
    driest = models.FloatField(null=True)
    wettest = models.FloatField(null=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["piece"], condition=models.Q(standing=True), name="a_lot_lies_in_one_stack"),
        ]


class StackEvent(Spell):
    """Something that happened to a stack: rain on it, its cover off; what wets it is reckoned with for as long as it lasted."""

    while_it_goes_on = GOES_ON
    stack = models.ForeignKey(Stack, on_delete=models.PROTECT, related_name="events")
    kind = models.CharField(max_length=12, choices=StackHappened.choices)
