"""Chambers, loads that ran and run, their samples and weights, the chamber as it was read, what was done to it, what was found after, and
which lots are promised.
"""

from dataclasses import replace
from datetime import datetime
from typing import Any

from django.db import models
from django.utils import timezone

from calm_heron.air.models import Place
from calm_heron.kiln.kinds import DISTURBS, GOES_ON, PLATE_AIR, CareChosen, ChamberKind, ChargedBy, Defect, Happened, PlateAir
from calm_heron.stock.models import Piece
from calm_heron.workshops.corrections import RecordedRows
from calm_heron.workshops.models import Person, WorkshopRow
from calm_heron.workshops.spells import Spell
from calm_heron.workshops.versions import Versioned
from wood.kiln import chambers
from wood.kiln.chambers import Inside, Kind
from wood.kiln.disturbances import Disturbed
from wood.sizes import FOUR_QUARTER_GREEN_M


class Chamber(Versioned, WorkshopRow):
    """A kiln, a box or a room that is kept warm, by its limits; ``place`` is where its loads then lie."""

    name = models.CharField(max_length=60)
    kind = models.CharField(max_length=12, choices=ChamberKind.choices)
    place = models.ForeignKey(Place, on_delete=models.PROTECT, null=True, blank=True, related_name="chambers")
    load_m3 = models.FloatField()
    hottest_c = models.FloatField()
    heat_kw = models.FloatField()
    litres_a_day = models.FloatField(default=0.0)
    sprays = models.BooleanField(default=False)
    # Its inside, as its owner measures it (metres): along the boards, across them, and high. Empty where nobody said.
    long_m = models.FloatField(null=True, blank=True)
    deep_m = models.FloatField(null=True, blank=True)
    high_m = models.FloatField(null=True, blank=True)
    # What its fans move (m³ an hour), and whether baffles send it all through the load.
    fans_m3_h = models.FloatField(null=True, blank=True)
    baffles = models.BooleanField(default=True)
    # What stands on the plate of its compressor: water a day (litres) in which air, and between which temperatures it works.
    plate_litres = models.FloatField(null=True, blank=True)
    plate_air = models.CharField(max_length=8, choices=PlateAir.choices, default=PlateAir.WARM)
    works_from_c = models.FloatField(null=True, blank=True)
    works_to_c = models.FloatField(null=True, blank=True)
    # What a kilowatt hour costs here.
    kwh_price = models.FloatField(null=True, blank=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["workshop", "name"], name="chamber_names_differ"),
            models.CheckConstraint(condition=models.Q(load_m3__range=chambers.LOAD_M3), name="chamber_size_possible"),
            models.CheckConstraint(condition=models.Q(hottest_c__range=chambers.LIMITS_C), name="chamber_heat_possible"),
        ]

    def __str__(self) -> str:
        return self.name

    @property
    def inside(self) -> Inside | None:
        """Its inside, where somebody measured it."""
        if self.long_m is None or self.deep_m is None or self.high_m is None:
            return None
        return Inside(self.long_m, self.deep_m, self.high_m)

    @property
    def core(self) -> chambers.Chamber:
        """As the core computes with it: what its owner knows of it, and what is usual for the rest."""
        usual, inside = chambers.usual(Kind(self.kind), self.load_m3), self.inside
        litres = 0.0
        if self.kind == ChamberKind.DEHUMIDIFIER:
            litres = self.litres_a_day
            if self.plate_litres is not None:
                litres = chambers.rated(self.plate_litres, *PLATE_AIR[PlateAir(self.plate_air)])
        known: dict[str, Any] = {}
        if inside is not None:
            known = {"walls_w_k": inside.walls_w_k, "leaks_m3_h": chambers.LEAKS_PER_HOUR * inside.air_m3}
            if usual.vents_m3_h:
                known["vents_m3_h"] = chambers.VENTS_PER_HOUR * inside.air_m3
            if self.fans_m3_h is not None:
                known["air_speed_m_s"] = inside.speed_m_s(self.fans_m3_h, FOUR_QUARTER_GREEN_M, baffles=self.baffles)
        if "air_speed_m_s" not in known and not self.baffles:
            known["air_speed_m_s"] = usual.air_speed_m_s * chambers.THROUGH_BARE / chambers.THROUGH
        return replace(
            usual,
            hottest_c=self.hottest_c,
            heat_kw=self.heat_kw,
            litres_a_day=litres,
            compressor_kw=litres / 24 * chambers.KWH_A_LITRE,
            compressor_to_c=min(max(self.hottest_c, 10.0), 90.0) if self.works_to_c is None else self.works_to_c,
            compressor_from_c=chambers.ICES_UP_C if self.works_from_c is None else self.works_from_c,
            spray_kg_h=chambers.SPRAY_KG_H * self.load_m3 if self.sprays else 0.0,
            **known,
        )


class Load(Versioned, WorkshopRow):
    """A load: in which chamber, since when, to which moisture (fraction), how carefully, whose wood it is. ``steps`` are one's own, as
    (until, °C dry, °C wet); empty: the published."""

    tag = models.CharField(max_length=32)
    chamber = models.ForeignKey(Chamber, on_delete=models.PROTECT, related_name="kiln_loads")
    began_at = models.DateTimeField(default=timezone.now)
    # From when on it is followed: later than it began where it was written down in its middle. Its lots' moistures are of then.
    joined_at = models.DateTimeField(null=True, blank=True)
    wanted = models.FloatField()
    care = models.CharField(max_length=8, choices=CareChosen.choices, default=CareChosen.USUAL)
    even = models.BooleanField(default=True)
    condition = models.BooleanField(default=True)
    steps = models.JSONField(default=list, blank=True)
    whose = models.CharField(max_length=80, blank=True)
    # What a thousand board feet or a cubic metre of it, or a hundred pounds or kilograms of its water, costs who owns it; nothing where
    # nobody said.
    price = models.FloatField(null=True, blank=True)
    charged_by = models.CharField(max_length=8, choices=ChargedBy.choices, default=ChargedBy.VOLUME)
    weighed_in_kg = models.FloatField(null=True, blank=True)
    weighed_out_kg = models.FloatField(null=True, blank=True)
    # In how many days it was foretold done when it began, between which eight in ten such loads are.
    foretold_days = models.FloatField(null=True, blank=True)
    foretold_low = models.FloatField(null=True, blank=True)
    foretold_high = models.FloatField(null=True, blank=True)
    # What came out of it as good wood, and what was learnt.
    out_m3 = models.FloatField(null=True, blank=True)
    learnt = models.CharField(max_length=300, blank=True)
    ended_at = models.DateTimeField(null=True, blank=True)
    added_by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["workshop", "tag"], name="load_tags_differ"),
            models.UniqueConstraint(fields=["chamber"], condition=models.Q(ended_at=None), name="one_load_in_a_chamber"),
            models.CheckConstraint(condition=models.Q(wanted__range=(0.04, 0.20)), name="load_wanted_possible"),
        ]

    def __str__(self) -> str:
        return self.tag

    @property
    def runs(self) -> bool:
        return self.ended_at is None

    @property
    def followed_from(self) -> datetime:
        """The moment that its lots' moistures are of, and its days of drying are counted from."""
        return self.joined_at or self.began_at


class LoadLot(WorkshopRow):
    """A lot that is in a load; in one running load only."""

    load = models.ForeignKey(Load, on_delete=models.CASCADE, related_name="lots")
    piece = models.ForeignKey(Piece, on_delete=models.PROTECT, related_name="in_loads")
    runs = models.BooleanField(default=True)
    # Its moisture when it went in, as it was read or as it is sawn, and when it came out, as its samples and the forecast have it.
    start = models.FloatField()
    came = models.FloatField(null=True)
    # Between which its boards then lay.
    driest = models.FloatField(null=True)
    wettest = models.FloatField(null=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["piece"], condition=models.Q(runs=True), name="a_lot_is_in_one_load"),
        ]


class Sample(WorkshopRow):
    """A sample board: a tag of its own in its load, from which lot, and its ovendry mass by its sections (kg), empty while these are in the
    oven."""

    load = models.ForeignKey(Load, on_delete=models.CASCADE, related_name="samples")
    tag = models.CharField(max_length=16)
    piece = models.ForeignKey(Piece, on_delete=models.PROTECT, related_name="+")
    dry_mass_kg = models.FloatField(null=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["load", "tag"], name="sample_tags_differ"),
            models.CheckConstraint(condition=models.Q(dry_mass_kg__gt=0), name="sample_weighs_something"),
        ]

    @property
    def weights_in_order(self) -> "list[SampleWeight]":
        """Its weights that still count, oldest first; those that were read with it, where they were."""
        read_with_it: list[SampleWeight] | None = getattr(self, "standing_weights", None)
        return list(self.weights.standing().order_by("at", "pk")) if read_with_it is None else read_with_it

    @property
    def newest_weights(self) -> "list[SampleWeight]":
        """Its newest weights that still count, but for the one it was cut with."""
        return self.weights_in_order[1:][::-1][:3]


class SampleSection(WorkshopRow):
    """A section that was cut beside a sample: weighed at once, and ovendry (kg; empty: it is in the oven)."""

    sample = models.ForeignKey(Sample, on_delete=models.CASCADE, related_name="sections")
    wet_kg = models.FloatField()
    dry_kg = models.FloatField(null=True)

    class Meta:
        constraints = [models.CheckConstraint(condition=models.Q(wet_kg__gt=0), name="section_weighs_something")]


class SampleWeight(WorkshopRow):
    """One weighing of a sample. Added, never changed; a wrong one is taken out by an entry that supersedes it."""

    append_only = True

    sample = models.ForeignKey(Sample, on_delete=models.PROTECT, related_name="weights")
    at = models.DateTimeField(default=timezone.now)
    mass_kg = models.FloatField()
    by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    supersedes = models.OneToOneField("self", on_delete=models.PROTECT, null=True, related_name="superseded_by")
    struck = models.BooleanField(default=False)

    objects = RecordedRows.as_manager()  # type: ignore[misc]

    class Meta:
        indexes = [models.Index(fields=["sample", "at"], name="sample_weights_in_order")]
        constraints = [models.CheckConstraint(condition=models.Q(mass_kg__gt=0), name="weight_is_a_weight")]


class ChamberReading(WorkshopRow):
    """The chamber at a moment, as somebody or a device read it, where the air enters the load; ``leaving_c`` is the dry bulb where it
    leaves. Power and water are what was counted since the reading before."""

    append_only = True

    load = models.ForeignKey(Load, on_delete=models.PROTECT, related_name="air")
    at = models.DateTimeField()
    dry_bulb_c = models.FloatField()
    humidity = models.FloatField()
    leaving_c = models.FloatField(null=True)
    power_kwh = models.FloatField(null=True)
    water_kg = models.FloatField(null=True)
    fault = models.CharField(max_length=60, blank=True)

    class Meta:
        indexes = [models.Index(fields=["load", "-at"], name="chamber_newest_first")]
        constraints = [
            models.CheckConstraint(condition=models.Q(dry_bulb_c__range=(-40, 130)), name="chamber_air_possible"),
            models.CheckConstraint(condition=models.Q(humidity__range=(0, 1)), name="chamber_humidity_possible"),
        ]


class ChamberHour(WorkshopRow):
    """An hour of a chamber's readings summed up, so that a controller that reports every ten seconds keeps no page waiting."""

    load = models.ForeignKey(Load, on_delete=models.CASCADE, related_name="hours")
    hour = models.DateTimeField()
    count = models.PositiveIntegerField(default=0)
    dry_bulb_sum = models.FloatField(default=0.0)
    humidity_sum = models.FloatField(default=0.0)
    power_kwh = models.FloatField(default=0.0)
    water_kg = models.FloatField(default=0.0)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["load", "hour"], name="an_hour_once")]

    @property
    def dry_bulb_c(self) -> float:
        return self.dry_bulb_sum / self.count

    @property
    def humidity(self) -> float:
        return self.humidity_sum / self.count


class LoadEvent(Spell):
    """Something that was done to a running load or happened to it; what disturbs its chamber is reckoned with from when to when it
    lasted."""

    while_it_goes_on = GOES_ON
    load = models.ForeignKey(Load, on_delete=models.PROTECT, related_name="events")
    kind = models.CharField(max_length=12, choices=Happened.choices)

    @property
    def disturbs(self) -> Disturbed | None:
        """What of the chamber it disturbs."""
        return DISTURBS.get(Happened(self.kind))


class DegradeFound(WorkshopRow):
    """What was found after a load: a defect, on how many boards of how many, and where."""

    append_only = True

    load = models.ForeignKey(Load, on_delete=models.PROTECT, related_name="degrade")
    kind = models.CharField(max_length=12, choices=Defect.choices)
    boards = models.PositiveIntegerField()
    of_boards = models.PositiveIntegerField()
    where = models.CharField(max_length=200, blank=True)
    by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")

    class Meta:
        constraints = [models.CheckConstraint(condition=models.Q(boards__lte=models.F("of_boards")), name="no_more_than_there_are")]


class Promise(WorkshopRow):
    """A lot that is promised dry by a day, to whom; a lot has one promise."""

    piece = models.OneToOneField(Piece, on_delete=models.CASCADE, related_name="promise")
    day = models.DateField()
    whom = models.CharField(max_length=80, blank=True)
    by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
