"""Devices that may speak for a workshop, and what they have sent already."""

from collections.abc import Mapping
from datetime import datetime
from typing import Any

from django.db import models
from django.utils import timezone

from calm_heron.plugs import RECEIVERS, Receiver
from calm_heron.workshops.models import Membership, Person, Role, WorkshopRow
from calm_heron.workshops.versions import Versioned
from wood.measuring import reporting

# A clock this far off is put right, once so many batches in a row agree about it; what else makes a batch late is no clock.
SKEWED_S, AGREED = 120.0, 3


class Device(Versioned, WorkshopRow):
    """A device by its name: what kind of receiver it speaks to, about which row of that receiver's, and the digest of its token, which is
    shown once and kept nowhere.

    ``skew_s`` is how far its clock was ahead when it last spoke, ``offsets`` how far in its newest batches, each with the moment that it
    said it was sent. ``instrument`` is which of the workshop's it is, where it is one; ``last`` the newest reading that was kept, as it was
    told; ``refused`` why its newest was not, until one is kept; ``heard_of`` what was heard of it so far (:class:`reporting.Heard`).
    """

    # When it was last heard of changes no answer.
    changes_answers = False

    name = models.CharField(max_length=60)
    kind = models.CharField(max_length=20)
    about = models.BigIntegerField()
    instrument = models.BigIntegerField(null=True, blank=True)
    token_digest = models.CharField(max_length=64, unique=True)
    made_by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    made_at = models.DateTimeField(default=timezone.now)
    seen_at = models.DateTimeField(null=True, blank=True)
    skew_s = models.FloatField(null=True, blank=True)
    offsets = models.JSONField(default=list, blank=True)
    last = models.JSONField(default=dict, blank=True)
    refused = models.CharField(max_length=200, blank=True, default="")
    heard_of = models.JSONField(default=dict, blank=True)
    revoked_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["workshop", "name"], condition=models.Q(revoked_at=None), name="device_names_differ")
        ]

    def __str__(self) -> str:
        return self.name

    @property
    def receiver(self) -> Receiver | None:
        """Who listens to devices of its kind."""
        return next((receiver for receiver in RECEIVERS if receiver.kind == self.kind), None)

    @property
    def speaker(self) -> Membership | None:
        """In whose name it speaks: of who let it in while they are here and may record, else of the first who owns the workshop."""
        members = Membership.objects.filter(workshop=self.workshop).select_related("workshop", "person")
        own = members.filter(person=self.made_by_id, role__gte=Role.HELPER).first()
        return own or members.filter(role=Role.OWNER).order_by("pk").first()

    @property
    def last_at(self) -> datetime | None:
        """The moment of the newest reading that was kept."""
        return datetime.fromisoformat(self.last["at"]) if self.last else None

    def troubles(self) -> list[reporting.Trouble]:
        """What is wrong with it now; of a kind that speaks only when somebody uses it nothing ever is."""
        receiver = self.receiver
        if receiver is None or not receiver.watched:
            return []
        return reporting.as_kept(self.heard_of).troubles(timezone.now(), self.made_at)

    def keep_last(self, kept: list[tuple[datetime, Mapping[str, Any]]], refused: str) -> None:
        """Note what was kept of a batch, each by its moment, and why its last one was not kept, if nothing was."""
        watched, heard = self.receiver.watched if self.receiver else (), reporting.as_kept(self.heard_of)
        for at, data in sorted(kept, key=lambda item: item[0]):
            values = {name: float(data[name]) for name in watched if data.get(name) is not None}
            if watched and values:
                heard = heard.then(at, values)
            if self.last_at is None or at >= self.last_at:
                self.last = {"at": at.isoformat(), **{name: value for name, value in data.items() if name not in ("at", "key")}}
        if watched:
            self.heard_of = heard.kept()
        self.refused = "" if kept else refused[:200]

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
