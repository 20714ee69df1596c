"""Devices that may speak for a workshop, and what they have sent already."""

from django.db import models
from django.utils import timezone

from calm_heron.workshops.models import Person, WorkshopRow
from calm_heron.workshops.versions import Versioned

# A clock this far off is put right by what it says it is.
SKEWED_S = 120.0


class Device(Versioned, WorkshopRow):
    """A device by its name: what kind of receiver it speaks to, about which row of that receiver's, and the digest of its token, which is
    shown once and kept nowhere.

    ``skew_s`` is how far its clock was ahead when it last spoke.
    """

    # When it was last heard of changes no answer.
    changes_answers = False

    name = models.CharField(max_length=60)
    kind = models.CharField(max_length=20)
    about = models.BigIntegerField()
    token_digest = models.CharField(max_length=64, unique=True)
    made_by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    made_at = models.DateTimeField(default=timezone.now)
    seen_at = models.DateTimeField(null=True, blank=True)
    skew_s = models.FloatField(null=True, blank=True)
    revoked_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["workshop", "name"], condition=models.Q(revoked_at=None), name="device_names_differ")
        ]

    def __str__(self) -> str:
        return self.name

    @property
    def clock_is_off(self) -> bool:
        """Whether its clock was so far off that its moments are put right."""
        return self.skew_s is not None and abs(self.skew_s) > SKEWED_S


class Received(WorkshopRow):
    """What a device has sent, by its own key: sent again, it is known."""

    changes_answers = False

    device = models.ForeignKey(Device, on_delete=models.CASCADE, related_name="received")
    key = models.CharField(max_length=64)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["device", "key"], name="received_once")]
