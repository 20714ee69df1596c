"""Devices that may speak for a workshop, and what they have sent already."""

from django.db import models
from django.utils import timezone

from calm_heron.workshops.models import Person, WorkshopRow
from calm_heron.workshops.versions import Versioned

# A clock this far off is put right, once so many batches in a row agree about it; what else makes a batch late is no clock.
SKEWED_S, AGREED = 120.0, 3


class Device(Versioned, WorkshopRow):
    """A device by its name: what kind of receiver it speaks to, about which row of that receiver's, and the digest of its token, which is
    shown once and kept nowhere.

    ``skew_s`` is how far its clock was ahead when it last spoke, ``offsets`` how far in its newest batches, each with the moment that it
    said it was sent.
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
    offsets = models.JSONField(default=list, blank=True)
    revoked_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["workshop", "name"], condition=models.Q(revoked_at=None), name="device_names_differ")
        ]

    def __str__(self) -> str:
        return self.name

    @property
    def steady_offset_s(self) -> float:
        """How far its clock is ahead for sure: what its newest batches, each sent at a moment of its own, agree about; else 0."""
        offsets = [float(off) for _sent, off in self.offsets]
        steady = len(offsets) >= AGREED and max(offsets) - min(offsets) <= SKEWED_S
        middle = sorted(offsets)[len(offsets) // 2] if offsets else 0.0
        return middle if steady and abs(middle) > SKEWED_S else 0.0

    @property
    def clock_is_off(self) -> bool:
        """Whether its clock was so far off when it last spoke."""
        return self.skew_s is not None and abs(self.skew_s) > SKEWED_S

    def heard(self, sent: str, off_s: float) -> None:
        """Note how far its clock was off in a batch; one that is sent once more counts once."""
        self.skew_s = off_s
        if all(sent != known for known, _off in self.offsets):
            self.offsets = [*self.offsets, [sent, off_s]][-AGREED:]


class Received(WorkshopRow):
    """What a device has sent, by its own key: sent again, it is known."""

    changes_answers = False

    device = models.ForeignKey(Device, on_delete=models.CASCADE, related_name="received")
    key = models.CharField(max_length=64)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["device", "key"], name="received_once")]
