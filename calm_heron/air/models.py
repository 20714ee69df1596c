"""Places where wood lies or will live, and the air that was measured there."""

from datetime import datetime
from typing import Any

from django.contrib.postgres.fields import ArrayField
from django.db import models
from django.utils import timezone

from calm_heron.air.kinds import PLACE_TRAITS, PlaceKind, PlaceTraits
from calm_heron.workshops.corrections import RecordedRows
from calm_heron.workshops.models import Person, WorkshopRow
from calm_heron.workshops.versions import Versioned
from wood.air.climate import Climate
from wood.air.hygrometers import CHECK_GOOD_DAYS, tolerance_now
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
        moment = moment or timezone.now()
        offset, checked = self.offset, self.checked_at
        if checked is not None and moment < checked:
            reaching = [check for check in self.checks.order_by("-at", "-pk") if (check.since or check.at) <= moment]
            offset, checked = (reaching[0].offset, reaching[0].at) if reaching else (0.0, None)
        days = None if checked is None else abs((moment - checked).total_seconds()) / 86_400
        return offset, tolerance_now(self.rh_tolerance, days)

    @property
    def tolerance_now(self) -> float:
        return self.at()[1]

    @property
    def freshly_checked(self) -> bool:
        return self.days_since_check is not None and self.days_since_check < CHECK_GOOD_DAYS


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

    objects = RecordedRows.as_manager()  # type: ignore[misc]

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
