"""Meters, readings, and what the newest readings together say about a piece."""

from dataclasses import fields
from datetime import datetime
from typing import Any

from django.db import models
from django.utils import timezone

from calm_heron.measuring.kinds import METER_TRAITS, Condition, Face, Layer, MeterKind, MeterTraits, Method, SlabTestKind
from calm_heron.stock.models import LotPart, Piece
from calm_heron.workshops.corrections import RecordedRows
from calm_heron.workshops.models import Person, WorkshopRow
from calm_heron.workshops.versions import Versioned
from wood.measuring import estimates, meters
from wood.measuring.profile import pinless_depth
from wood.measuring.readings import Bound, StepKind


class Meter(Versioned, WorkshopRow):
    """An instrument as it is set in this workshop: a moisture meter, a scale, an oven.

    ``offset`` is what its newest check adds to what it shows; a retired one is offered no more, and its readings stay.
    """

    name = models.CharField(max_length=60)
    kind = models.CharField(max_length=8, choices=MeterKind.choices, default=MeterKind.PIN)
    tolerance = models.FloatField(default=0.01)
    # Pin: what the meter has corrected for itself.
    species_set_on_meter = models.BooleanField(default=False)
    temperature_set_on_meter = models.BooleanField(default=False)
    # The species it stays set to, where it is not set anew for each.
    set_to = models.CharField(max_length=40, blank=True, default="")
    # Bare only at their tips, as those of a hammer: a wet skin does not speak.
    insulated_pins = models.BooleanField(default=False)
    pins_across = models.BooleanField(default=False)
    # Pinless: the specific gravity it is set to (empty: set to the species itself), and how deep it senses.
    density_setting = models.FloatField(null=True, blank=True)
    depth_m = models.FloatField(default=0.02)
    # Its own scale of settings, where it has one: pairs of a setting and the specific gravity that it stands for, rising.
    own_scale = models.JSONField(default=list, blank=True)
    # Scale: the smallest step it shows.
    step_kg = models.FloatField(null=True, blank=True)
    offset = models.FloatField(default=0.0)
    # Taken against a known board or the bench: what it adds on that one day.
    day_offset = models.FloatField(default=0.0)
    day_offset_on = models.DateField(null=True, blank=True)
    checked_at = models.DateTimeField(null=True, blank=True)
    retired = models.BooleanField(default=False)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["workshop", "name"], name="meter_names_differ"),
            models.CheckConstraint(condition=models.Q(tolerance__range=(0, 0.1)), name="meter_tolerance_possible"),
            models.CheckConstraint(condition=models.Q(depth_m__range=(0.002, 0.06)), name="meter_depth_possible"),
            models.CheckConstraint(condition=models.Q(offset__range=(-0.1, 0.1)), name="meter_offset_possible"),
            models.CheckConstraint(condition=models.Q(day_offset__range=(-0.1, 0.1)), name="meter_day_offset_possible"),
        ]

    def __str__(self) -> str:
        return self.name

    @property
    def traits(self) -> MeterTraits:
        """What its kind is."""
        return METER_TRAITS[MeterKind(self.kind)]

    @property
    def reads_moisture(self) -> bool:
        return self.traits.reads_moisture

    def offset_on(self, at: datetime | None) -> float:
        """What its readings of a moment (None: now) are off by: as it was found that day against something known, else as its newest check
        before it says; nothing before its first.
        """
        at = at or timezone.now()
        day = timezone.localdate(at)
        if self.day_offset_on == day:
            return self.day_offset
        if (self.checked_at is None or at >= self.checked_at) and (self.day_offset_on is None or day > self.day_offset_on):
            return self.offset
        checks = list(self.checks.order_by("-at", "-pk"))
        of_that_day = [check for check in checks if check.day_only and timezone.localdate(check.at) == day]
        before = [check for check in checks if not check.day_only and check.at <= at]
        return next((check.offset for check in of_that_day or before), 0.0)

    def as_set(self, at: datetime | None = None) -> dict[str, Any]:
        """How it stood at a moment (None: now), as the correction of its readings takes it; kept with each of them."""
        own: dict[str, Any]
        if self.traits.senses_depth:
            own = {"density_setting": self.density_setting, "depth_m": self.depth_m}
        else:
            own = {
                "species_set_on_meter": self.species_set_on_meter,
                "temperature_set_on_meter": self.temperature_set_on_meter,
                "set_to": self.set_to,
                "insulated": self.insulated_pins,
                "across_grain": self.pins_across,
            }
        return own | {"tolerance": self.tolerance, "offset": self.offset_on(at)}

    @property
    def setting(self) -> float | None:
        """The setting on its own scale that it stands at, None where it has no such scale or is set anew for each species."""
        if not self.own_scale or self.density_setting is None:
            return None
        return meters.setting_for(self.density_setting, self.own_scale)


class MeterCheck(WorkshopRow):
    """One check of an instrument against something known: a resistor, a reference block, a test weight. Added, never changed.

    ``expected`` and ``shown`` are moistures, or masses in kilograms for a scale; ``of`` says what it was.
    """

    append_only = True

    meter = models.ForeignKey(Meter, on_delete=models.PROTECT, related_name="checks")
    at = models.DateTimeField(default=timezone.now)
    by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    of = models.CharField(max_length=60)
    expected = models.FloatField()
    shown = models.FloatField()
    # It speaks of the readings of its own day alone.
    day_only = models.BooleanField(default=False)

    @property
    def offset(self) -> float:
        return self.expected - self.shown


class SlabTest(WorkshopRow):
    """Concrete tested by its own test: what it showed and what the flooring allows, in that test's own unit. Added, never changed."""

    append_only = is_of_a_piece = True

    piece = models.ForeignKey(Piece, on_delete=models.PROTECT, related_name="slab_tests")
    at = models.DateTimeField(default=timezone.now)
    by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    how = models.CharField(max_length=8, choices=SlabTestKind.choices)
    shown = models.FloatField()
    allowed = models.FloatField()

    class Meta:
        constraints = [models.CheckConstraint(condition=models.Q(shown__gte=0, allowed__gt=0), name="slab_test_possible")]

    @property
    def passed(self) -> bool:
        return self.shown <= self.allowed


class Reading(WorkshopRow):
    """One reading: the raw value as the instrument showed it, what it was corrected to, how, and by which version of the rule.

    Added, never changed (see the migration). A correction is a new reading that ``supersedes`` the old one; one with ``struck``
    set only takes the old one out.
    """

    append_only = is_of_a_piece = True

    piece = models.ForeignKey(Piece, on_delete=models.CASCADE, related_name="readings")
    at = models.DateTimeField(default=timezone.now)
    by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    method = models.CharField(max_length=8, choices=Method.choices)
    meter = models.ForeignKey(Meter, on_delete=models.PROTECT, null=True, related_name="readings")
    raw = models.FloatField(null=True)
    wet_mass_kg = models.FloatField(null=True)
    dry_mass_kg = models.FloatField(null=True)
    wood_temperature_c = models.FloatField(null=True)
    layer = models.CharField(max_length=5, choices=Layer.choices, blank=True, default="")
    # Where on the board, as shares of its length and width from the left end and the upper edge; empty where not said.
    along = models.FloatField(null=True)
    across = models.FloatField(null=True)
    face = models.CharField(max_length=5, choices=Face.choices, blank=True, default="")
    condition = models.CharField(max_length=10, choices=Condition.choices, blank=True, default="")
    # In a lot: which part of its stack the board that was read lay in.
    part = models.CharField(max_length=6, choices=LotPart.choices, blank=True, default="")
    moisture = models.FloatField()
    uncertainty = models.FloatField()
    bound = models.CharField(max_length=5, blank=True, default=Bound.NONE)
    counts = models.BooleanField(default=True)
    near_end = models.BooleanField(default=False)
    warnings = models.JSONField(default=list)
    steps = models.JSONField(default=list)
    # How the meter stood when it was taken: see :meth:`Meter.as_set`. Empty in what was weighed, and in readings from before this was kept.
    as_set = models.JSONField(default=dict)
    # The version of the correction.
    rule = models.CharField(max_length=10)
    supersedes = models.OneToOneField("self", on_delete=models.PROTECT, null=True, related_name="superseded_by")
    struck = models.BooleanField(default=False)
    # Which device told it at the door (empty: a person did), and whether that stays in one spot of the piece.
    told_by = models.CharField(max_length=60, blank=True, default="")
    stays = models.BooleanField(default=False)

    objects = RecordedRows.as_manager()  # type: ignore[misc]

    class Meta:
        indexes = [models.Index(fields=["piece", "-at"], name="readings_newest_first")]
        constraints = [models.CheckConstraint(condition=models.Q(moisture__range=(0, 10)), name="moisture_possible")]

    @property
    def meter_then(self) -> dict[str, Any]:
        """How its meter stood when it was taken; of readings from before that was kept, only what its check added is known."""
        if self.as_set or self.meter is None:
            return self.as_set
        added = next((step["figures"]["adds"] for step in self.steps if step["kind"] == StepKind.CHECK_ADDS), 0.0)
        return self.meter.as_set(self.at) | {"offset": added}

    def spot(self) -> estimates.Spot:
        """This reading as the verdict sees it."""
        depth = None
        if self.method == Method.PINLESS and self.layer == Layer.USUAL and self.meter is not None:
            depth = pinless_depth(self.meter.depth_m, self.piece.thickness_m)
        fresh = self.condition == Condition.FRESH
        return estimates.Spot(self.moisture, self.uncertainty, self.layer, self.near_end, self.counts, self.bound, depth, inside=fresh)


# All but the profile, which is drawn anew.
KEPT_OF_AN_ESTIMATE = tuple(field.name for field in fields(estimates.Estimate) if field.name != "profile")


class PieceMoisture(WorkshopRow):
    """What the newest sitting of readings says about a piece: :class:`wood.measuring.estimates.Estimate`, kept so that lists need not
    recompute it.
    """

    is_of_a_piece = True

    piece = models.OneToOneField(Piece, on_delete=models.CASCADE, related_name="moisture")
    at = models.DateTimeField()
    mean = models.FloatField()
    instrument = models.FloatField()
    sampling = models.FloatField()
    spread = models.FloatField()
    count = models.PositiveIntegerField()
    reach = models.FloatField()
    gradient = models.FloatField(null=True)
    bound = models.CharField(max_length=5, blank=True)
    left_out = models.PositiveIntegerField(default=0)
    by_weight = models.BooleanField(default=False)
    # Where wood lies that is wetter than the meter can measure, and the least that the mean of the whole can then be.
    wet = models.CharField(max_length=6, blank=True, default="")
    least = models.FloatField(null=True)
    # Whether some reading tells of the inside.
    inside = models.BooleanField(default=False)

    class Meta:
        indexes = [models.Index(fields=["workshop", "-at"], name="moisture_newest_first")]

    def estimate(self) -> estimates.Estimate:
        return estimates.Estimate(**{name: getattr(self, name) for name in KEPT_OF_AN_ESTIMATE})
