"""Pieces of wood in stock. This version knows boards."""

from django.db import models
from django.utils import timezone

from calm_heron.air.models import Place
from calm_heron.workshops.models import Person, WorkshopRow
from wood.species import Species, species


class Seasoning(models.TextChoices):
    GREEN = "green", "Green"
    AIR = "air", "Air dried"
    KILN = "kiln", "Kiln dried"


class Grain(models.TextChoices):
    FLAT = "flat", "Flat-sawn"
    RIFT = "rift", "Rift"
    QUARTER = "quarter", "Quarter-sawn"


# The ring angle that stands for a grain chosen by its picture.
RING_ANGLE_DEG = {Grain.FLAT: 10.0, Grain.RIFT: 45.0, Grain.QUARTER: 85.0}

THICKNESS_M = (0.001, 0.5)
WIDTH_M = (0.005, 2.0)
LENGTH_M = (0.02, 15.0)
PITH_M = (0.0, 1.5)


class Piece(WorkshopRow):
    """A board. Its tag is what is written on the wood and never changes."""

    tag = models.CharField(max_length=24)
    species_key = models.CharField(max_length=40)
    thickness_m = models.FloatField()
    width_m = models.FloatField()
    length_m = models.FloatField()
    # Nominal size as typed, when it was a quarter size such as 5/4.
    nominal = models.CharField(max_length=12, blank=True)
    ring_angle_deg = models.FloatField(default=10.0)
    pith_distance_m = models.FloatField(default=0.15)
    seasoning = models.CharField(max_length=6, choices=Seasoning.choices, default=Seasoning.AIR)
    # Sealed ends keep a drying board from losing its water there first.
    ends_sealed = models.BooleanField(default=False)
    place = models.ForeignKey(Place, on_delete=models.PROTECT, null=True, blank=True, related_name="pieces")
    ovendry_mass_kg = models.FloatField(null=True, blank=True)
    note = models.CharField(max_length=200, blank=True)
    added_by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    added_at = models.DateTimeField(default=timezone.now)
    version = models.PositiveIntegerField(default=1)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["workshop", "tag"], name="tags_differ"),
            models.CheckConstraint(condition=models.Q(thickness_m__range=THICKNESS_M), name="thickness_possible"),
            models.CheckConstraint(condition=models.Q(width_m__range=WIDTH_M), name="width_possible"),
            models.CheckConstraint(condition=models.Q(length_m__range=LENGTH_M), name="length_possible"),
            models.CheckConstraint(condition=models.Q(ring_angle_deg__range=(0, 90)), name="ring_angle_possible"),
            models.CheckConstraint(condition=models.Q(pith_distance_m__range=PITH_M), name="pith_distance_possible"),
        ]
        indexes = [models.Index(fields=["workshop", "species_key"], name="pieces_of_a_species")]

    def __str__(self) -> str:
        return self.tag

    @property
    def species(self) -> Species:
        return species(self.species_key)

    @property
    def grain(self) -> str:
        """Flat, rift or quarter by the ring angle: below 30°, below 60°, above."""
        return (Grain.FLAT if self.ring_angle_deg < 30 else Grain.RIFT if self.ring_angle_deg < 60 else Grain.QUARTER).label
