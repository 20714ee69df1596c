"""Places where wood lies or will live, and the air that was measured there."""

from collections.abc import Sequence
from datetime import datetime
from typing import Any, Self

from django.contrib.postgres.fields import ArrayField
from django.db import models
from django.utils import timezone

from calm_heron.air.kinds import PLACE_TRAITS, PlaceKind, PlaceTraits
from calm_heron.workshops.corrections import RecordedRows
from calm_heron.workshops.models import Person, WorkshopRow
from calm_heron.workshops.versions import Versioned
from wood.air.climate import Climate
from wood.air.hygrometers import CHECK_GOOD_DAYS, tolerance_now
from wood.air.logger_files import LoggerClock
from wood.air.rooms import USUAL_AIR_CHANGES, Room


class Place(Versioned, WorkshopRow):
    """A room, a store, a yard, a kiln: somewhere with its own air.

    ``usual_humidity`` is what its people remember it to be about, where they do; a retired one is offered no more, and its readings stay.
    """

    name = models.CharField(max_length=60)
    kind = models.CharField(max_length=8, choices=PlaceKind.choices, default=PlaceKind.ROOM)
    # What the hygrometer that stands there is good to, as a fraction: 0.03 is ±3% RH.
    rh_tolerance = models.FloatField(default=0.03)
    usual_humidity = models.FloatField(null=True, blank=True)
    retired = models.BooleanField(default=False)
    # Its heating does not run yet as it will: what is read there now says nothing about its year.
    not_lived_in = models.BooleanField(default=False)

    class Meta:
        constraints = [
            models.CheckConstraint(
                condition=models.Q(usual_humidity__range=(0.01, 0.99)) | models.Q(usual_humidity=None), name="usual_humidity_possible"
            ),
            models.UniqueConstraint(fields=["workshop", "name"], name="place_names_differ"),
            models.CheckConstraint(
                condition=models.Q(rh_tolerance__gte=0.001, rh_tolerance__lte=0.2), name="hygrometer_tolerance_possible"
            ),
        ]

    def __str__(self) -> str:
        return self.name

    @property
    def traits(self) -> PlaceTraits:
        """What its kind is."""
        return PLACE_TRAITS[PlaceKind(self.kind)]


# A corrected humidity stays one that air can have.
LOWEST_HUMIDITY, HIGHEST_HUMIDITY = 0.005, 0.995


class Hygrometer(Versioned, WorkshopRow):
    """An instrument for the air. ``rh_tolerance`` is what its leaflet says; ``offset`` what its newest salt check adds to its readings."""

    name = models.CharField(max_length=60)
    rh_tolerance = models.FloatField(default=0.03)
    offset = models.FloatField(default=0.0)
    checked_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["workshop", "name"], name="hygrometer_names_differ"),
            models.CheckConstraint(condition=models.Q(rh_tolerance__range=(0.001, 0.2)), name="own_tolerance_possible"),
            models.CheckConstraint(condition=models.Q(offset__range=(-0.5, 0.5)), name="offset_possible"),
        ]

    def __str__(self) -> str:
        return self.name

    @property
    def days_since_check(self) -> float | None:
        return None if self.checked_at is None else (timezone.now() - self.checked_at).total_seconds() / 86_400

    def at(self, moment: datetime | None = None) -> tuple[float, float]:
        """What its check adds to what it showed at a moment (None: now), and what it was good to then.

        A check speaks of readings from its own moment on, or from as far back as was told when it was kept (``since``).
        """
        return self.through([moment or timezone.now()])[0]

    def through(self, moments: Sequence[datetime]) -> list[tuple[float, float]]:
        """As :meth:`at`, of many moments."""
        newest = self.checked_at
        earlier = list(self.checks.order_by("-at", "-pk")) if newest is not None and any(moment < newest for moment in moments) else []
        result = []
        for moment in moments:
            offset, checked = self.offset, newest
            if checked is not None and moment < checked:
                reaching = next((check for check in earlier if (check.since or check.at) <= moment), None)
                offset, checked = (reaching.offset, reaching.at) if reaching else (0.0, None)
            days = None if checked is None else abs((moment - checked).total_seconds()) / 86_400
            result.append((offset, tolerance_now(self.rh_tolerance, days)))
        return result

    @property
    def tolerance_now(self) -> float:
        return self.at()[1]

    @property
    def freshly_checked(self) -> bool:
        return self.days_since_check is not None and self.days_since_check < CHECK_GOOD_DAYS


# What a logger's clock goes by, where its file does not say.
CLOCKS = (
    (LoggerClock.LOCAL.value, "the time of the shop, summer time too"),
    (LoggerClock.WINTER.value, "winter time all year"),
    (LoggerClock.UTC.value, "UTC"),
)


class HygrometerCheck(WorkshopRow):
    """One check of a hygrometer over a saturated salt. Added, never changed (see the migration)."""

    append_only = True

    hygrometer = models.ForeignKey(Hygrometer, on_delete=models.PROTECT, related_name="checks")
    at = models.DateTimeField(default=timezone.now)
    by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    salt = models.CharField(max_length=12)
    temperature_c = models.FloatField()
    waited_hours = models.FloatField()
    shown = models.FloatField()
    expected = models.FloatField()
    offset = models.FloatField()
    # From when on what it showed is off by as much; empty: from the check on.
    since = models.DateTimeField(null=True, blank=True)


class LoggerFile(Versioned, WorkshopRow):
    """What a thermo-hygrometer's logger recorded of a place: looked at first (``is_saved`` is not set, ``content`` is its text, packed),
    then its readings are saved under it. With ``struck`` set none of them counts; they stay to be seen.

    ``digest`` is of its text: the same file is saved once.
    """

    place = models.ForeignKey(Place, on_delete=models.PROTECT, related_name="logger_files")
    by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(default=timezone.now)
    hygrometer = models.ForeignKey(Hygrometer, on_delete=models.PROTECT, null=True, related_name="+")
    clock = models.CharField(max_length=8, choices=CLOCKS, default=LoggerClock.LOCAL.value)
    name = models.CharField(max_length=80)
    digest = models.CharField(max_length=64)
    content = models.BinaryField(default=b"")
    is_saved = models.BooleanField(default=False)
    struck = models.BooleanField(default=False)
    count = models.PositiveIntegerField(default=0)
    begins = models.DateTimeField(null=True)
    ends = models.DateTimeField(null=True)
    # What its readings showed to be wrong with the logger, the longest first: of which kind, from when to when.
    faults = models.JSONField(default=list)

    class Meta:
        constraints = [
            models.UniqueConstraint(
                fields=["place", "digest"], condition=models.Q(is_saved=True), name="a_logger_file_is_saved_once_a_place"
            ),
        ]

    def __str__(self) -> str:
        return self.name


class AirRows(RecordedRows):
    """Readings of air; those of a logger's file that was struck out do not stand."""

    def standing(self) -> Self:
        # Asked for by themselves they keep no list from going down its index, as a join would.
        struck = LoggerFile.objects.filter(struck=True)
        return super().standing().filter(models.Q(file=None) | ~models.Q(file__in=struck.values("pk")))


class AirReading(WorkshopRow):
    """One reading of a place's air with the EMC it meant then. Added, never changed (see the migration).

    ``relative_humidity`` is corrected by the hygrometer's offset; ``shown_humidity`` is what it showed, where one is named. A correction is
    a new reading that ``supersedes`` the old one; one with ``struck`` set only takes the old one out.
    """

    append_only = True

    place = models.ForeignKey(Place, on_delete=models.PROTECT, related_name="readings")
    at = models.DateTimeField(default=timezone.now)
    by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    temperature_c = models.FloatField()
    relative_humidity = models.FloatField()
    emc = models.FloatField()
    emc_tolerance = models.FloatField()
    hygrometer = models.ForeignKey(Hygrometer, on_delete=models.PROTECT, null=True, related_name="readings")
    shown_humidity = models.FloatField(null=True)
    supersedes = models.OneToOneField("self", on_delete=models.PROTECT, null=True, related_name="superseded_by")
    struck = models.BooleanField(default=False)
    file = models.ForeignKey(LoggerFile, on_delete=models.PROTECT, null=True, related_name="readings")
    # Which device told it at the door; empty: a person did. Given by the database too, for rows that are copied in.
    told_by = models.CharField(max_length=60, blank=True, default="", db_default="")

    objects = AirRows.as_manager()  # type: ignore[misc]

    class Meta:
        indexes = [models.Index(fields=["place", "-at"], name="air_newest_first")]
        constraints = [
            models.CheckConstraint(condition=models.Q(relative_humidity__gt=0, relative_humidity__lt=1), name="humidity_is_a_fraction"),
            models.CheckConstraint(condition=models.Q(temperature_c__range=(-40, 150)), name="air_temperature_possible"),
        ]

    @property
    def added(self) -> float | None:
        """What its hygrometer's check added to what it showed; None where none is named, or where the sum met a limit and hides it."""
        if self.shown_humidity is None or not LOWEST_HUMIDITY < self.relative_humidity < HIGHEST_HUMIDITY:
            return None
        return self.relative_humidity - self.shown_humidity


class YearSource(models.TextChoices):
    TYPED = "typed", "typed"
    EMC = "emc", "typed as moistures"
    PUBLISHED = "published", "a published place"
    PATTERN = "pattern", "a climate pattern"
    FILE = "file", "a file"
    ROOM = "room", "worked out from another place"


# Years of outdoor air: given to a room or a store they are what comes in, not what wood there meets.
OUTDOOR_SOURCES = (YearSource.PUBLISHED, YearSource.PATTERN, YearSource.FILE)


def twelve() -> "ArrayField[Any]":  # type: ignore[type-arg]
    """A column of twelve monthly values, January first; empty where the year is worked out."""
    return ArrayField(models.FloatField(), size=12, default=list, blank=True)


class Normals(Versioned, WorkshopRow):
    """The usual year of a place: twelve monthly means, or the room it is and the outdoor place whose air comes in."""

    place = models.OneToOneField(Place, on_delete=models.CASCADE, related_name="normals")
    source = models.CharField(max_length=10, choices=YearSource.choices)
    # The pattern's or the file's name.
    words = models.CharField(max_length=120, blank=True)
    temperature_c = twelve()
    relative_humidity = twelve()
    wind_m_s = twelve()
    daily_swing_c = twelve()
    # The share of the sun that reaches the ground, and where: empty where the year does not tell.
    clearness = twelve()
    latitude_deg = models.FloatField(null=True, blank=True)
    outdoors = models.ForeignKey(Place, on_delete=models.PROTECT, null=True, blank=True, related_name="rooms")
    heated_to_c = models.FloatField(null=True, blank=True)
    cooled_to_c = models.FloatField(null=True, blank=True)
    moisture_gain = models.FloatField(default=0.0)
    at_least = models.FloatField(default=0.0)
    at_most = models.FloatField(default=1.0)
    floor_warmer_c = models.FloatField(default=0.0)
    air_changes = models.FloatField(default=USUAL_AIR_CHANGES)

    class Meta:
        constraints = [
            models.CheckConstraint(
                condition=models.Q(source="room", outdoors__isnull=False)
                | models.Q(temperature_c__len=12, relative_humidity__len=12, wind_m_s__len=12, daily_swing_c__len=12),
                name="a_year_has_twelve_months",
            )
        ]

    def overtaken_words(self) -> str:
        return "Someone else has given this place a year meanwhile."

    @property
    def climate(self) -> Climate:
        """The twelve months of a year that is not worked out."""
        columns = (self.temperature_c, self.relative_humidity, self.wind_m_s, self.daily_swing_c)
        return Climate(  # type: ignore[misc]
            *(tuple(column) for column in columns),  # type: ignore[arg-type]
            name=self.place.name,
            clearness=tuple(self.clearness),
            latitude_deg=self.latitude_deg,
        )

    @property
    def comes_in(self) -> bool:
        """Whether its months are of the air outdoors, which comes into a room."""
        return self.source in OUTDOOR_SOURCES and self.place.traits.is_a_room

    @property
    def is_of_a_room(self) -> bool:
        """Whether it was given with the settings of a room."""
        return self.comes_in or self.source == YearSource.ROOM

    @property
    def room(self) -> Room:
        return Room(
            self.heated_to_c,
            self.moisture_gain,
            self.at_least,
            self.at_most,
            cooled_to_c=self.cooled_to_c,
            floor_warmer_c=self.floor_warmer_c,
            air_changes=self.air_changes,
        )
