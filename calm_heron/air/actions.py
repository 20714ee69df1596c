"""What people do with places and their air."""

from collections.abc import Sequence
from dataclasses import fields
from datetime import datetime
from typing import Any

import numpy as np
from django.db import IntegrityError, transaction
from django.dispatch import Signal
from django.utils import timezone

from calm_heron.air.models import HIGHEST_HUMIDITY, LOWEST_HUMIDITY, AirReading, Hygrometer, HygrometerCheck, Normals, Place, YearSource
from calm_heron.logbook import actions as log
from calm_heron.site.numbers import points
from calm_heron.workshops.corrections import again, supersede
from calm_heron.workshops.models import Membership, Role
from calm_heron.workshops.refusals import Refused, require
from wood.air import sorption
from wood.air.climate import Climate
from wood.air.hygrometers import BELIEVABLE_OFFSET, salt_check
from wood.air.rooms import Room

TOO_LATE = "Someone else has corrected this reading or taken it out already."


@transaction.atomic
def add_place(
    by: Membership, name: str, kind: str, rh_tolerance: float, usual_humidity: float | None = None, not_lived_in: bool = False
) -> Place:
    """A new place; names differ within a workshop.

    Raises:
        Refused: the name is taken.
    """
    require(by, Role.MAKER)
    try:
        with transaction.atomic():
            place = Place.objects.create(
                workshop=by.workshop,
                name=name,
                kind=kind,
                rh_tolerance=rh_tolerance,
                usual_humidity=usual_humidity,
                not_lived_in=not_lived_in,
            )
    except IntegrityError:
        raise Refused(f"There is a place called {name} already.", "name") from None
    log.write(by, "air", "place_added", subject=name)
    return place


@transaction.atomic
def change_place(by: Membership, place: Place, version: int, **changes: Any) -> None:
    """Change a place's name, kind or hygrometer, if nobody else has changed it since ``version``.

    Raises:
        Refused: somebody else was first, or the name is taken.
    """
    require(by, Role.MAKER)
    locked = Place.unchanged(by, place.pk, version)
    for name, value in changes.items():
        setattr(locked, name, value)
    try:
        with transaction.atomic():
            locked.save_changed()
    except IntegrityError:
        raise Refused(f"There is a place called {changes['name']} already.", "name") from None
    log.write(by, "air", "place_changed", subject=locked.name)


@transaction.atomic
def record_air(
    by: Membership, place: Place, temperature_c: float, relative_humidity: float, at: Any = None, hygrometer: Hygrometer | None = None
) -> AirReading:
    """One reading of a place's air, with the EMC it means; a named hygrometer's reading is corrected by its offset."""
    require(by, Role.HELPER)
    reading = meant(by, place, temperature_c, relative_humidity, hygrometer, at)
    reading.save()
    log.write(
        by,
        "air",
        "air_read",
        subject=place.name,
        at=reading.at,
        temperature_c=temperature_c,
        relative_humidity=reading.relative_humidity,
        emc=reading.emc,
        tolerance=reading.emc_tolerance,
    )
    return reading


@transaction.atomic
def keep_told(
    by: Membership, place: Place, hygrometer: Hygrometer | None, readings: Sequence[tuple[datetime, float, float]], told_by: str
) -> None:
    """Keep many readings of a place that a device told: moment, °C, humidity as it was shown. They are corrected as a typed one is, and are
    too many for the journal, which has the device.
    """
    require(by, Role.HELPER)
    moments, temperature_c, shown = zip(*readings, strict=True)
    offsets, good_to = zip(*(hygrometer.through(moments) if hygrometer else [(0.0, place.rh_tolerance)] * len(moments)), strict=True)
    humidity = np.clip(np.add(shown, offsets), LOWEST_HUMIDITY, HIGHEST_HUMIDITY)
    meant, tolerance = sorption.measured_emcs(np.array(temperature_c), humidity, np.array(good_to))
    AirReading.objects.bulk_create(
        AirReading(
            workshop=by.workshop,
            place=place,
            at=at,
            by=by.person,
            temperature_c=warm,
            relative_humidity=damp,
            emc=emc,
            emc_tolerance=doubt,
            hygrometer=hygrometer,
            shown_humidity=was if hygrometer else None,
            told_by=told_by,
        )
        for at, warm, damp, emc, doubt, was in zip(
            moments, temperature_c, humidity.tolist(), meant.tolist(), tolerance.tolist(), shown, strict=True
        )
    )


def meant(
    by: Membership,
    place: Place,
    temperature_c: float,
    humidity: float,
    hygrometer: Hygrometer | None,
    at: datetime | None = None,
    adds: float | None = None,
) -> AirReading:
    """A reading of a moment (None: now), ready to be saved: what was shown, and what it means by the check that reaches that moment, or
    with what was added to it before (``adds``).
    """
    at = at or timezone.now()
    shown, tolerance = None, place.rh_tolerance
    if hygrometer is not None:
        offset, tolerance = hygrometer.at(at)
        offset = offset if adds is None else adds
        shown, humidity = humidity, min(max(humidity + offset, LOWEST_HUMIDITY), HIGHEST_HUMIDITY)
    meant = sorption.measured_emc(temperature_c, humidity, tolerance)
    return AirReading(
        workshop=by.workshop,
        place=place,
        at=at,
        by=by.person,
        temperature_c=temperature_c,
        relative_humidity=humidity,
        emc=meant.emc,
        emc_tolerance=meant.tolerance,
        hygrometer=hygrometer,
        shown_humidity=shown,
    )


@transaction.atomic
def correct_air(
    by: Membership, reading: AirReading, place: Place, temperature_c: float, humidity: float, hygrometer: Hygrometer | None, at: datetime
) -> AirReading:
    """Put right what was typed wrongly, its day and its place as well: a new entry supersedes the old one, which stays to be seen. The
    instrument is taken as it was then, not as it is today.

    Args:
        humidity: as the instrument showed it.
    Raises:
        Refused: it was corrected or taken out already.
    """
    require(by, Role.HELPER)
    same = hygrometer is not None and hygrometer.pk == reading.hygrometer_id and at == reading.at
    made = meant(by, place, temperature_c, humidity, hygrometer, at, reading.added if same else None)
    supersede(reading, made, TOO_LATE)
    log.write(
        by,
        "air",
        "air_corrected",
        subject=place.name,
        at=at,
        temperature_c=temperature_c,
        relative_humidity=made.relative_humidity,
        emc=made.emc,
        before={"temperature_c": reading.temperature_c, "relative_humidity": reading.relative_humidity, "emc": reading.emc},
    )
    return made


@transaction.atomic
def strike_air(by: Membership, reading: AirReading) -> None:
    """Take a mistaken reading of the air out: a new entry supersedes it, the old one stays to be seen.

    Raises:
        Refused: it was corrected or taken out already.
    """
    require(by, Role.HELPER)
    supersede(reading, again(reading, by, struck=True), TOO_LATE)
    log.write(by, "air", "air_taken_out", subject=reading.place.name, at=reading.at, emc=reading.emc)


@transaction.atomic
def restore_air(by: Membership, reading: AirReading) -> AirReading:
    """Put a reading of the air back that was taken out, as of its own day.

    Raises:
        Refused: it was not taken out, or somebody else was first.
    """
    require(by, Role.HELPER)
    taking_out = AirReading.objects.of(by.workshop).filter(supersedes=reading, struck=True, superseded_by=None).first()
    if taking_out is None:
        raise Refused("It stands already.")
    stands: AirReading = again(reading, by)
    supersede(taking_out, stands, TOO_LATE)
    log.write(by, "air", "air_put_back", subject=reading.place.name, at=reading.at, emc=reading.emc)
    return stands


@transaction.atomic
def retire_place(by: Membership, place: Place, version: int, retired: bool = True) -> None:
    """Offer a place no more, or offer it again; its air stays, and what was to live there is to be told where else.

    Raises:
        Refused: wood still lies there, it is what verdicts start from, or someone else has changed it.
    """
    require(by, Role.MAKER)
    locked = Place.unchanged(by, place.pk, version)
    if retired:
        place_retired.send(sender=Place, place=locked)
    locked.retired = retired
    locked.save_changed("retired")
    log.write(by, "air", "place_retired" if retired else "place_again", subject=locked.name)


# Sent before a place is retired; an app that still needs it raises Refused with the reason.
place_retired = Signal()


# What a year has for each month, as its columns and the core call it.
BY_MONTH = ("temperature_c", "relative_humidity", "wind_m_s", "daily_swing_c", "clearness")


@transaction.atomic
def keep_year(
    by: Membership, place: Place, version: int, source: YearSource, words: str, climate: Climate, room: Room | None = None
) -> Normals:
    """Give a place its usual year: typed, or outdoor air from a published place, a pattern or a file; to a room that air comes in, and
    ``room`` says what becomes of it.

    Raises:
        Refused: somebody else gave it another year since ``version`` (0: it had none).
    """
    columns = {name: list(getattr(climate, name)) for name in BY_MONTH}
    settings = _settings(room) if room else {}
    return _keep(
        by,
        place,
        version,
        {"source": source, "words": words[:120], "outdoors": None, "latitude_deg": climate.latitude_deg, **columns, **settings},
    )


@transaction.atomic
def keep_room(by: Membership, place: Place, version: int, outdoors: Place, room: Room) -> Normals:
    """Say that a place is a room fed with the air of an outdoor place; its year is worked out from that one's.

    Raises:
        Refused: the other place is no outdoor place of this workshop, or somebody else was first.
    """
    if outdoors.workshop_id != by.workshop.pk or not outdoors.traits.is_outdoors or outdoors == place:
        raise Refused("Choose one of this workshop’s outdoor places; its air is what comes in.", "outdoors")
    empty: dict[str, list[float]] = {name: [] for name in BY_MONTH}
    return _keep(
        by, place, version, {"source": YearSource.ROOM, "words": "", "outdoors": outdoors, "latitude_deg": None, **_settings(room), **empty}
    )


def _settings(room: Room) -> dict[str, Any]:
    """A room's settings by the columns that keep them, which have its own names."""
    return {field.name: getattr(room, field.name) for field in fields(room)}


def _keep(by: Membership, place: Place, version: int, values: dict[str, Any]) -> Normals:
    require(by, Role.MAKER)
    # The place's own row is locked, so that two first years cannot be given at once.
    locked = Place.locked(by, place.pk)
    given = Normals.objects.of(by.workshop).filter(place=locked).first() or Normals(workshop=by.workshop, place=locked, version=0)
    given.must_be(version)
    for name, value in values.items():
        setattr(given, name, value)
    given.save_changed()
    log.write(
        by,
        "air",
        "year_given",
        subject=locked.name,
        source=given.source,
        words=given.words,
        temperature_c=given.temperature_c,
        relative_humidity=given.relative_humidity,
    )
    return given


@transaction.atomic
def add_hygrometer(by: Membership, name: str, rh_tolerance: float) -> Hygrometer:
    """A new hygrometer; names differ within a workshop.

    Raises:
        Refused: the name is taken.
    """
    require(by, Role.MAKER)
    try:
        with transaction.atomic():
            made = Hygrometer.objects.create(workshop=by.workshop, name=name, rh_tolerance=rh_tolerance)
    except IntegrityError:
        raise Refused(f"There is a hygrometer called {name} already.", "name") from None
    log.write(by, "air", "hygrometer_added", subject=name)
    return made


@transaction.atomic
def check_hygrometer(
    by: Membership,
    hygrometer: Hygrometer,
    salt: str,
    temperature_c: float,
    waited_hours: float,
    shown: float,
    since: datetime | None = None,
) -> HygrometerCheck:
    """Keep a salt check; from now on its offset is added to what the instrument shows, and to what it showed ``since`` a moment, if one is
    given: those readings are entered anew.

    Raises:
        Refused: the instrument is too far off for an offset. OutOfRange: too early, or values that cannot be.
    """
    require(by, Role.HELPER)
    result = salt_check(salt, temperature_c, shown, waited_hours)
    if not result.believable:
        raise Refused(
            f"It is {points(abs(result.offset), 0)}% RH off, more than {points(BELIEVABLE_OFFSET, 0)}: see that the salt is wet but not"
            " drowned and the box tight, and try again. If it still is, the instrument has had its day.",
            "shown",
        )
    locked = Hygrometer.locked(by, hygrometer.pk)
    made = HygrometerCheck.objects.create(
        workshop=by.workshop,
        hygrometer=locked,
        by=by.person,
        salt=salt,
        temperature_c=temperature_c,
        waited_hours=waited_hours,
        shown=shown,
        expected=result.expected,
        offset=result.offset,
        since=since,
    )
    locked.offset, locked.checked_at = result.offset, made.at
    locked.save_changed()
    corrected = _corrected_since(by, locked, since) if since else 0
    log.write(
        by,
        "air",
        "hygrometer_checked",
        subject=locked.name,
        salt=salt,
        shown=shown,
        expected=result.expected,
        offset=result.offset,
        corrected=corrected,
    )
    return made


def _corrected_since(by: Membership, hygrometer: Hygrometer, since: datetime) -> int:
    """Enter anew what an instrument showed since a moment, with the offset it now has; how many readings those were."""
    readings = list(AirReading.objects.standing().filter(hygrometer=hygrometer, at__gte=since).select_related("place"))
    made = []
    for reading in readings:
        shown = reading.relative_humidity if reading.shown_humidity is None else reading.shown_humidity
        anew = meant(by, reading.place, reading.temperature_c, shown, hygrometer, reading.at)
        anew.supersedes = reading
        made.append(anew)
    try:
        with transaction.atomic():
            AirReading.objects.bulk_create(made)
    except IntegrityError:
        raise Refused("Someone else has corrected some of its readings meanwhile; save the check again.") from None
    return len(made)
