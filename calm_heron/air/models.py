"""Places where wood lies or will live, and the air that was measured there."""

from django.db import models
from django.utils import timezone

from calm_heron.workshops.models import Person, WorkshopRow


class Kind(models.TextChoices):
    ROOM = "room", "Heated room"
    STORE = "store", "Unheated building"
    YARD = "yard", "Outdoors, under cover"
    KILN = "kiln", "Kiln or warm box"


# Air temperatures (°C) that are usual in such a place; outside them a number without its unit is asked back.
USUAL_TEMPERATURE_C = {Kind.ROOM: (5, 40), Kind.STORE: (-20, 40), Kind.YARD: (-30, 45), Kind.KILN: (5, 110)}


class Place(WorkshopRow):
    """A room, a store, a yard, a kiln: somewhere with its own air."""

    name = models.CharField(max_length=60)
    kind = models.CharField(max_length=8, choices=Kind.choices, default=Kind.ROOM)
    # What the hygrometer that stands there is good to, as a fraction: 0.03 is ± 3 % RH.
    rh_tolerance = models.FloatField(default=0.03)
    version = models.PositiveIntegerField(default=1)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["workshop", "name"], name="place_names_differ"),
            models.CheckConstraint(
                condition=models.Q(rh_tolerance__gte=0.001, rh_tolerance__lte=0.2), name="hygrometer_tolerance_possible"
            ),
        ]

    def __str__(self) -> str:
        return self.name


class AirReading(WorkshopRow):
    """One reading of a place's air with the EMC it meant then. Added, never changed (see the migration)."""

    place = models.ForeignKey(Place, on_delete=models.PROTECT, related_name="readings")
    at = models.DateTimeField(default=timezone.now)
    by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    temperature_c = models.FloatField()
    relative_humidity = models.FloatField()
    emc = models.FloatField()
    emc_tolerance = models.FloatField()

    class Meta:
        indexes = [models.Index(fields=["place", "-at"], name="air_newest_first")]
        constraints = [
            models.CheckConstraint(condition=models.Q(relative_humidity__gt=0, relative_humidity__lt=1), name="humidity_is_a_fraction"),
            models.CheckConstraint(condition=models.Q(temperature_c__range=(-40, 150)), name="air_temperature_possible"),
        ]
