"""What people do with places and their air."""

from dataclasses import fields

from django.db import IntegrityError, transaction

from calm_heron.air.models import AirReading, Hygrometer, HygrometerCheck, Normals, Place, YearSource
from calm_heron.logbook import actions as log
from calm_heron.site.numbers import points
from calm_heron.workshops.models import Membership, Role
from calm_heron.workshops.refusals import Refused, require
from wood.air import sorption
from wood.air.climate import Climate
from wood.air.hygrometers import BELIEVABLE_OFFSET, salt_check
from wood.air.rooms import Room

# A corrected humidity stays one that air can have.
LOWEST_HUMIDITY, HIGHEST_HUMIDITY = 0.005, 0.995


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
    log.write(by, "air", "place_added", subject=name)
    return place


@transaction.atomic
def change_place(by: Membership, place: Place, version: int, **changes) -> None:
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
    by: Membership, place: Place, temperature_c: float, relative_humidity: float, at=None, hygrometer: Hygrometer | None = None
) -> AirReading:
    """One reading of a place's air, with the EMC it means; a named hygrometer's reading is corrected by its offset."""
    require(by, Role.HELPER)
    shown = None if hygrometer is None else relative_humidity
    tolerance = place.rh_tolerance
    if hygrometer is not None:
        relative_humidity = min(max(relative_humidity + hygrometer.offset, LOWEST_HUMIDITY), HIGHEST_HUMIDITY)
        tolerance = hygrometer.tolerance_now
    meant = sorption.measured_emc(temperature_c, relative_humidity, tolerance)
    reading = AirReading(
        workshop=by.workshop, place=place, by=by.person, temperature_c=temperature_c, relative_humidity=relative_humidity,
        emc=meant.emc, emc_tolerance=meant.tolerance, hygrometer=hygrometer, shown_humidity=shown,
    )  # fmt: skip
    if at:
        reading.at = at
    reading.save()
    log.write(
        by, "air", "air_read", subject=place.name, at=reading.at,
        temperature_c=temperature_c, relative_humidity=relative_humidity, emc=meant.emc, tolerance=meant.tolerance,
    )  # fmt: skip
    return reading


@transaction.atomic
def keep_year(
    by: Membership, place: Place, version: int, source: YearSource, words: str, climate: Climate, room: Room | None = None
) -> Normals:  # fmt: skip
    """Give a place its usual year: typed, or outdoor air from a published place, a pattern or a file; to a room that air comes in, and
    ``room`` says what becomes of it.

    Raises:
        Refused: somebody else gave it another year since ``version`` (0: it had none).
    """
    columns = {name: list(getattr(climate, name)) for name in ("temperature_c", "relative_humidity", "wind_m_s", "daily_swing_c")}
    settings = _settings(room) if room else {}
    return _keep(by, place, version, {"source": source, "words": words[:120], "outdoors": None, **columns, **settings})


@transaction.atomic
def keep_room(by: Membership, place: Place, version: int, outdoors: Place, room: Room) -> Normals:
    """Say that a place is a room fed with the air of an outdoor place; its year is worked out from that one's.

    Raises:
        Refused: the other place is no outdoor place of this workshop, or somebody else was first.
    """
    if outdoors.workshop_id != by.workshop.pk or not outdoors.traits.is_outdoors or outdoors == place:
        raise Refused("Choose an outdoor place of this workshop; its air is what comes in.", "outdoors")
    empty: dict[str, list[float]] = {name: [] for name in ("temperature_c", "relative_humidity", "wind_m_s", "daily_swing_c")}
    return _keep(by, place, version, {"source": YearSource.ROOM, "words": "", "outdoors": outdoors, **_settings(room), **empty})


def _settings(room: Room) -> dict:
    """A room's settings by the columns that keep them, which have its own names."""
    return {field.name: getattr(room, field.name) for field in fields(room)}


def _keep(by: Membership, place: Place, version: int, values: dict) -> Normals:
    require(by, Role.MAKER)
    # The place's own row is locked, so that two first years cannot be given at once.
    locked = Place.locked(by, place.pk)
    given = Normals.objects.of(by.workshop).filter(place=locked).first() or Normals(workshop=by.workshop, place=locked, version=0)
    given.must_be(version)
    for name, value in values.items():
        setattr(given, name, value)
    given.save_changed()
    log.write(
        by, "air", "year_given", subject=locked.name, source=given.source, words=given.words,
        temperature_c=given.temperature_c, relative_humidity=given.relative_humidity,
    )  # fmt: skip
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
    by: Membership, hygrometer: Hygrometer, salt: str, temperature_c: float, waited_hours: float, shown: float
) -> HygrometerCheck:
    """Keep a salt check; from now on its offset is added to what the instrument shows.

    Raises:
        Refused: the instrument is too far off for an offset. OutOfRange: too early, or values that cannot be.
    """
    require(by, Role.HELPER)
    found = salt_check(salt, temperature_c, shown, waited_hours)
    if not found.believable:
        raise Refused(
            f"It is {points(abs(found.offset), 0)} % RH off, more than {points(BELIEVABLE_OFFSET, 0)}: see that the salt is wet but not drowned "
            "and the box tight, and try again. If it stays, the instrument has had its day.",
            "shown",
        )
    locked = Hygrometer.locked(by, hygrometer.pk)
    made = HygrometerCheck.objects.create(
        workshop=by.workshop, hygrometer=locked, by=by.person, salt=salt, temperature_c=temperature_c, waited_hours=waited_hours,
        shown=shown, expected=found.expected, offset=found.offset,
    )  # fmt: skip
    locked.offset, locked.checked_at = found.offset, made.at
    locked.save_changed()
    log.write(
        by, "air", "hygrometer_checked", subject=locked.name, salt=salt, shown=shown, expected=found.expected, offset=found.offset,
    )  # fmt: skip
    return made
