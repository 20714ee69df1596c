"""Letting devices in, and shutting them out."""

import hashlib
import secrets

from django.db import transaction
from django.utils import timezone

from calm_heron.devices.models import Device
from calm_heron.logbook import actions as log
from calm_heron.workshops.models import Membership, Role
from calm_heron.workshops.refusals import Refused, require

MOST = 50


def digest(token: str) -> str:
    """What is kept of a token."""
    return hashlib.sha256(token.encode()).hexdigest()


@transaction.atomic
def let_in(by: Membership, name: str, kind: str, about: int, instrument: int | None = None) -> tuple[Device, str]:
    """A device and its token, which nobody can look up again.

    Raises:
        Refused: a name that is taken, or too many.
    """
    require(by, Role.MAKER)
    standing = Device.objects.of(by.workshop).filter(revoked_at=None)
    if standing.count() >= MOST:
        raise Refused(f"At most {MOST} devices: shut one out first.", "name")
    if standing.filter(name__iexact=name).exists():
        raise Refused(f"There is a device called {name} already.", "name")
    # Of letters and figures alone: one that begins with a dash is taken for an option where it is typed on a command line.
    token = secrets.token_hex(32)
    device = Device.objects.create(
        workshop=by.workshop, name=name, kind=kind, about=about, instrument=instrument, token_digest=digest(token), made_by=by.person
    )
    log.write(by, "device", "let_in", subject=name)
    return device, token


@transaction.atomic
def shut_out(by: Membership, device: Device, version: int) -> None:
    """Its token opens nothing any more; what it sent stays.

    Raises:
        Overtaken. Refused: it is shut out already.
    """
    require(by, Role.MAKER)
    row = Device.unchanged(by, device.pk, version)
    if row.revoked_at is not None:
        raise Refused(f"{row.name} is shut out already.")
    row.revoked_at = timezone.now()
    row.save_changed("revoked_at")
    log.write(by, "device", "shut_out", subject=row.name)
