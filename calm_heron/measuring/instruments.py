"""What people do with their instruments: set them, check them, retire them."""

from typing import Any

from django.db import IntegrityError, transaction
from django.utils import timezone

from calm_heron.logbook import actions as log
from calm_heron.measuring.models import Meter, MeterCheck
from calm_heron.site.numbers import counted, distance
from calm_heron.workshops.models import Membership, Role
from calm_heron.workshops.refusals import Refused, require

# A meter further off than this wants repair.
MOST_OFFSET = 0.05


@transaction.atomic
def check_meter(by: Membership, meter: Meter, of: str, expected: float, shown: float, *, day_only: bool = False) -> MeterCheck:
    """Keep a check against something known; a moisture meter's readings are put right by it from now on, or those of today alone
    (``day_only``): what a known board or the bench is read for before the others.

    Args:
        expected, shown: moistures, or kilograms for a scale.
    Raises:
        Refused: so far off that it wants repair, not an offset.
    """
    require(by, Role.HELPER)
    locked = Meter.locked(by, meter.pk)
    if locked.reads_moisture and abs(expected - shown) > MOST_OFFSET:
        raise Refused(
            f"It is {distance(expected - shown)} points off: that calls for a battery, clean contacts or a repair, not an offset.", "shown"
        )
    check = MeterCheck.objects.create(
        workshop=by.workshop, meter=locked, by=by.person, of=of, expected=expected, shown=shown, day_only=locked.reads_moisture and day_only
    )
    if locked.reads_moisture and day_only:
        locked.day_offset, locked.day_offset_on = check.offset, timezone.localdate(check.at)
    else:
        locked.checked_at = check.at
        locked.offset = check.offset if locked.reads_moisture else locked.offset
    locked.save(update_fields=["checked_at", "offset", "day_offset", "day_offset_on"])
    log.write(
        by,
        "meter",
        "checked_today" if day_only else "checked",
        subject=locked.name,
        of=of,
        shown=shown,
        expected=expected,
        is_mass=not locked.reads_moisture,
    )
    return check


@transaction.atomic
def remove_meter(by: Membership, meter: Meter) -> None:
    """Delete an instrument that nothing refers to.

    Raises:
        Refused: readings or checks were taken with it.
    """
    require(by, Role.MAKER)
    taken, checks = meter.readings.count(), meter.checks.count()
    if taken or checks:
        sources = f"{counted(taken, 'reading')}" if taken else f"{counted(checks, 'check')}"
        raise Refused(
            f"{sources} came from {meter.name} and would lose their source. Retire it instead: it is no longer offered, and they stay."
        )
    name = meter.name
    meter.delete()
    log.write(by, "meter", "removed", subject=name)


@transaction.atomic
def retire_meter(by: Membership, meter: Meter, retired: bool) -> None:
    """Offer an instrument no more, or again."""
    require(by, Role.MAKER)
    meter.retired = retired
    meter.save_changed("retired")
    log.write(by, "meter", "retired" if retired else "back_in_use", subject=meter.name)


@transaction.atomic
def keep_meter(by: Membership, meter: Meter | None, version: int, **values: Any) -> Meter:
    """Add a meter, or change one if nobody else has since ``version``. Readings kept earlier stay as they were corrected.

    Raises:
        Refused: the name is taken, or somebody else was first.
    """
    require(by, Role.MAKER)
    if meter is None:
        saved = Meter(workshop=by.workshop)
    else:
        saved = Meter.unchanged(by, meter.pk, version)
    for name, value in values.items():
        setattr(saved, name, value)
    try:
        with transaction.atomic():
            saved.save() if meter is None else saved.save_changed()
    except IntegrityError:
        raise Refused(f"There is a meter called {values['name']} already.", "name") from None
    log.write(by, "meter", "added" if meter is None else "changed", subject=saved.name)
    return saved
