"""Pieces of wood in stock, lots of alike pieces, their photographs, and a workshop's own species."""

from typing import Self

from django.db import models
from django.utils import timezone

from calm_heron.air.models import Place
from calm_heron.logbook import queries as log
from calm_heron.logbook.words import describe
from calm_heron.stock import woods
from calm_heron.stock.kinds import TRAITS, PieceKind, Seasoning, Traits
from calm_heron.workshops.models import Person, WorkshopRow, WorkshopRows
from calm_heron.workshops.versions import Versioned
from wood import sizes, written
from wood import species as published
from wood.measuring import weighing
from wood.measuring.lots import Stratum
from wood.species import OWN_FIGURES, Species
from wood.units import System


class Grain(models.TextChoices):
    FLAT = "flat", "Flat-sawn"
    RIFT = "rift", "Rift"
    QUARTER = "quarter", "Quarter-sawn"


# The ring angle that stands for a grain chosen by its picture.
RING_ANGLE_DEG = {Grain.FLAT: 10.0, Grain.RIFT: 45.0, Grain.QUARTER: 85.0}
RIFT_FROM_DEG, QUARTER_FROM_DEG = 30.0, 60.0


def grain_of(ring_angle_deg: float) -> Grain:
    """Flat, rift or quarter by the ring angle."""
    return Grain.FLAT if ring_angle_deg < RIFT_FROM_DEG else Grain.RIFT if ring_angle_deg < QUARTER_FROM_DEG else Grain.QUARTER


THICKNESS_M = (0.001, 2.0)
WIDTH_M = (0.005, 2.0)
LENGTH_M = (0.02, 15.0)
PITH_M = (0.0, 1.5)
MOST_IN_A_LOT = 100_000


class Status(models.TextChoices):
    IN_STOCK = "stock", "In stock"
    USED = "used", "Used"
    SCRAPPED = "scrapped", "Scrapped"


class LotPart(models.TextChoices):
    """Where in its stack a sample board lies."""

    NOT_SAID = "", "not said"
    OUTER = Stratum.OUTER, "outside of the stack"
    MIDDLE = Stratum.MIDDLE, "half way in"
    DEEP = Stratum.DEEP, "deep in the stack"


class Pieces(WorkshopRows):
    """Pieces; ``in_stock`` leaves out what was used up or scrapped."""

    def in_stock(self) -> Self:
        return self.filter(status=Status.IN_STOCK)


class Piece(Versioned, WorkshopRow):
    """A piece of wood, or with ``count`` above one a lot of alike pieces that sample boards (pieces with this ``lot``) stand for.

    Its tag is what is written on the wood and never changes. Sizes are those of one piece as it is now; of a log
    ``width_m`` is the diameter, of a bowl ``thickness_m`` its wall and ``length_m`` its height (see :mod:`kinds`).
    """

    is_of_a_piece = True

    tag = models.CharField(max_length=32)
    kind = models.CharField(max_length=10, choices=PieceKind.choices, default=PieceKind.BOARD)
    count = models.PositiveIntegerField(default=1)
    lot = models.ForeignKey("self", on_delete=models.PROTECT, null=True, blank=True, related_name="samples")
    part = models.CharField(max_length=6, choices=LotPart.choices, blank=True, default="")
    status = models.CharField(max_length=8, choices=Status.choices, default=Status.IN_STOCK)
    species_key = models.CharField(max_length=40)
    thickness_m = models.FloatField()
    width_m = models.FloatField()
    length_m = models.FloatField()
    # Nominal size as typed, when it was a quarter size such as 5/4, and whether it was planed.
    nominal = models.CharField(max_length=12, blank=True)
    dressed = models.BooleanField(default=False)
    ring_angle_deg = models.FloatField(default=10.0)
    pith_distance_m = models.FloatField(default=0.15)
    seasoning = models.CharField(max_length=6, choices=Seasoning.choices, default=Seasoning.AIR)
    # Sealed ends keep a drying board from losing its water there first.
    ends_sealed = models.BooleanField(default=False)
    has_pith = models.BooleanField(default=False)
    has_sapwood = models.BooleanField(default=False)
    felled_on = models.DateField(null=True, blank=True)
    sawn_on = models.DateField(null=True, blank=True)
    source = models.CharField(max_length=80, blank=True, default="")
    defects = models.CharField(max_length=120, blank=True, default="")
    place = models.ForeignKey(Place, on_delete=models.PROTECT, null=True, blank=True, related_name="pieces")
    # Since when it lies there, where it lay somewhere else before.
    moved_at = models.DateTimeField(null=True, blank=True)
    ovendry_mass_kg = models.FloatField(null=True, blank=True)
    note = models.CharField(max_length=200, blank=True)
    added_by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    added_at = models.DateTimeField(default=timezone.now)

    objects = Pieces.as_manager()  # type: ignore[misc]

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["workshop", "tag"], name="tags_differ"),
            models.CheckConstraint(condition=models.Q(thickness_m__range=THICKNESS_M), name="thickness_possible"),
            models.CheckConstraint(condition=models.Q(width_m__range=WIDTH_M), name="width_possible"),
            models.CheckConstraint(condition=models.Q(length_m__range=LENGTH_M), name="length_possible"),
            models.CheckConstraint(condition=models.Q(ring_angle_deg__range=(0, 90)), name="ring_angle_possible"),
            models.CheckConstraint(condition=models.Q(pith_distance_m__range=PITH_M), name="pith_distance_possible"),
            models.CheckConstraint(condition=models.Q(count__range=(1, MOST_IN_A_LOT)), name="count_possible"),
            models.CheckConstraint(condition=models.Q(lot=None) | models.Q(count=1), name="a_sample_board_is_one_board"),
        ]
        indexes = [
            models.Index(fields=["workshop", "species_key"], name="pieces_of_a_species"),
            models.Index(fields=["workshop", "status", "tag"], name="pieces_in_stock_by_tag"),
        ]

    def __str__(self) -> str:
        return self.tag

    def overtaken_words(self) -> str:
        """Who did what to it, as the log has it."""
        last = log.entries(self.workshop, "stock", self.tag).first()
        if last is None:
            return f"Someone else has changed {self.tag} since you opened it."
        return f"{last.by} was first: “{describe(last, self.workshop.system)}”."

    @property
    def species(self) -> Species:
        return woods.species_of(self.workshop_id, self.species_key)

    def thickness_as_typed(self, system: System) -> str:
        """The nominal size where it has one and was not planed, else the thickness, so that it reads back as itself."""
        return self.nominal if self.nominal and not self.dressed else written.typed_length(self.thickness_m, system)

    @property
    def is_lot(self) -> bool:
        return self.count > 1

    @property
    def traits(self) -> Traits:
        """What its kind is."""
        return TRAITS[PieceKind(self.kind)]

    @property
    def is_round(self) -> bool:
        return self.traits.is_round

    @property
    def seen_m(self) -> tuple[float, float]:
        """Length and width as it lies on the bench with its wider side up, where it is read: of a bowl or blank the diameter both."""
        return (self.width_m, self.width_m) if self.traits.shape.is_disc else (self.length_m, self.width_m)

    @property
    def volume_m3(self) -> float:
        """The wood in it, all pieces of a lot together."""
        return sizes.volume_m3(self.traits.shape, self.thickness_m, self.width_m, self.length_m) * self.count

    @property
    def board_feet(self) -> float | None:
        """As lumber is counted; ``None`` for round wood."""
        return None if self.is_round else sizes.board_feet(self.thickness_m, self.width_m, self.length_m, self.nominal) * self.count

    def contents(self, moisture: float) -> weighing.Contents | None:
        """Weight and water at a moisture: from its own ovendry weight where that is known, else from its size and species."""
        if self.ovendry_mass_kg:
            return weighing.Contents(self.ovendry_mass_kg * (1 + moisture), self.ovendry_mass_kg, self.ovendry_mass_kg * moisture, 0.0)
        basic = self.species.basic_specific_gravity
        return None if basic is None else weighing.contents(self.volume_m3, basic, moisture)

    @property
    def grain(self) -> str:
        """Flat, rift or quarter by the ring angle; nothing for round wood, which has all of it."""
        return grain_of(self.ring_angle_deg).label if self.traits.has_grain else ""


class Photo(WorkshopRow):
    """A photograph of a piece, kept small and without what the camera wrote into it."""

    changes_answers = False

    piece = models.ForeignKey(Piece, on_delete=models.CASCADE, related_name="photos")
    jpeg = models.BinaryField()
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()
    by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(default=timezone.now)


class OwnSpecies(Versioned, WorkshopRow):
    """Figures of a workshop's own: for a published species (the key is its), or for one that is in no table here."""

    key = models.CharField(max_length=40)
    common_name = models.CharField(max_length=60)
    botanical_name = models.CharField(max_length=80, blank=True)
    group = models.CharField(max_length=8, choices=[("hardwood", "Hardwood"), ("softwood", "Softwood")], default="hardwood")
    specific_gravity_green = models.FloatField(null=True, blank=True)
    specific_gravity_12 = models.FloatField(null=True, blank=True)
    shrinkage_radial = models.FloatField(null=True, blank=True)
    shrinkage_tangential = models.FloatField(null=True, blank=True)
    fibre_saturation = models.FloatField(null=True, blank=True)
    # Where the figures come from, in the workshop's own words.
    source = models.CharField(max_length=120, blank=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["workshop", "key"], name="own_species_differ"),
            *(
                models.CheckConstraint(
                    condition=models.Q(**{f"{name}__range": limits}) | models.Q(**{name: None}), name=f"own_{name}_possible"
                )
                for name, limits in OWN_FIGURES.items()
            ),
        ]

    def __str__(self) -> str:
        return self.common_name

    def overtaken_words(self) -> str:
        return "Someone else has changed these figures since you opened it."

    @property
    def is_published(self) -> bool:
        return self.key in published.all_species()

    def species(self) -> Species:
        """The species as the core sees it."""
        figures = woods.figures(self)
        if self.is_published:
            return published.corrected(published.species_named(self.key), **figures)
        return published.own(self.key, self.common_name, self.botanical_name, self.group, **figures)  # type: ignore[arg-type]
