"""What people do with places and their air."""

from django.db import IntegrityError, transaction

from calm_heron.air.models import AirReading, Place
from calm_heron.logbook import actions as log
from calm_heron.workshops.actions import Refused, require
from calm_heron.workshops.models import Membership, Role
from wood import sorption


@transaction.atomic
def add_place(by: Membership, name: str, kind: str, rh_tolerance: float) -> Place:
    """A new place; names differ within a workshop.

    Raises:
        Refused: the name is taken.
    """
    require(by, Role.MAKER)
    try:
        with transaction.atomic():
            place = Place.objects.create(workshop=by.workshop, name=name, kind=kind, rh_tolerance=rh_tolerance)
    except IntegrityError:
        raise Refused(f"There is a place called {name} already.", "name") from None
    log.write(by, "air", f"New place: {name}", subject=name)
    return place


@transaction.atomic
def change_place(by: Membership, place: Place, version: int, **changes) -> None:
    """Change a place's name, kind or hygrometer, if nobody else has changed it since ``version``.

    Raises:
        Refused: somebody else was first, or the name is taken.
    """
    require(by, Role.MAKER)
    locked = Place.objects.of(by.workshop).select_for_update().get(pk=place.pk)
    if locked.version != version:
        raise Refused("Somebody else has changed this place meanwhile. What you typed is still here; keep it again to put it over theirs.")
    for name, value in changes.items():
        setattr(locked, name, value)
    locked.version += 1
    try:
        with transaction.atomic():
            locked.save()
    except IntegrityError:
        raise Refused(f"There is a place called {changes['name']} already.", "name") from None
    log.write(by, "air", f"Place changed: {locked.name}", subject=locked.name)


@transaction.atomic
def record_air(by: Membership, place: Place, temperature_c: float, relative_humidity: float, at=None) -> AirReading:
    """One reading of a place's air, with the EMC it means."""
    require(by, Role.HELPER)
    meant = sorption.measured_emc(temperature_c, relative_humidity, place.rh_tolerance)
    reading = AirReading(
        workshop=by.workshop, place=place, by=by.person, temperature_c=temperature_c, relative_humidity=relative_humidity,
        emc=meant.emc, emc_tolerance=meant.tolerance,
    )  # fmt: skip
    if at:
        reading.at = at
    reading.save()
    log.write(
        by, "air", f"{place.name}: {relative_humidity * 100:.0f} % RH, EMC {meant.emc * 100:.1f} ± {meant.tolerance * 100:.1f} %",
        subject=place.name, at=reading.at, temperature_c=temperature_c, relative_humidity=relative_humidity, emc=meant.emc,
    )  # fmt: skip
    return reading
