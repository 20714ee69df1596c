"""What a logger's file is turned into: looked at, saved as readings of a place, struck out and put back."""

import gzip
import hashlib
from collections.abc import Sequence
from datetime import UTC, datetime, timedelta
from zoneinfo import ZoneInfo

import numpy as np
from django.db import IntegrityError, connection, transaction
from django.utils import timezone

from calm_heron.air.models import HIGHEST_HUMIDITY, LOWEST_HUMIDITY, AirReading, Hygrometer, LoggerFile, Place
from calm_heron.logbook import actions as log
from calm_heron.site.dates import AMERICAN, full_moment
from calm_heron.workshops.models import Membership, Role, Workshop
from calm_heron.workshops.refusals import Refused, require
from wood.air import logger_files
from wood.air.logger_files import DateOrder, FaultKind, LoggerAir, LoggerClock, LoggerFault
from wood.air.sorption import measured_emcs

# A logger's clock may be so far ahead of ours.
AHEAD = timedelta(hours=2)
# Files that were looked at and not saved are forgotten after so long.
FORGOTTEN_AFTER = timedelta(days=2)
# What is wrong with a logger is told on Today for so long after its file was saved; and so much of it is kept, of so many files told.
TOLD_FOR = timedelta(days=3)
MOST_FAULTS, MOST_ON_TODAY = 1000, 5
COLUMNS = (
    "workshop_id",
    "place_id",
    "by_id",
    "at",
    "temperature_c",
    "relative_humidity",
    "emc",
    "emc_tolerance",
    "hygrometer_id",
    "shown_humidity",
    "struck",
    "file_id",
)


@transaction.atomic
def look_at(by: Membership, place: Place, name: str, text: str, hygrometer: Hygrometer | None, clock: str) -> LoggerFile:
    """A file that is to be looked at before anything of it is saved.

    Raises:
        Refused: it was saved here before.
        CannotRead: it is no such file.
    """
    require(by, Role.HELPER)
    digest = hashlib.sha256(text.encode()).hexdigest()
    before = LoggerFile.objects.of(by.workshop).filter(place=place, digest=digest, is_saved=True).select_related("by").first()
    if before is not None:
        then = "it was struck out since, and can be put back below" if before.struck else "nothing of it is new"
        raise Refused(f"This file was saved here on {full_moment(before.at)} by {before.by}; {then}.", "file")
    logger_files.read(text)
    LoggerFile.objects.of(by.workshop).filter(is_saved=False, at__lt=timezone.now() - FORGOTTEN_AFTER).delete()
    packed = gzip.compress(text.encode(), 4)
    return LoggerFile.objects.create(
        workshop=by.workshop, place=place, by=by.person, hygrometer=hygrometer, clock=clock, name=name, digest=digest, content=packed
    )


def understood(file: LoggerFile, order: DateOrder | None = None, fahrenheit: bool | None = None) -> LoggerAir:
    """What a file that is not saved yet says, as it is read with what is known about it."""
    text = gzip.decompress(bytes(file.content)).decode()
    return logger_files.read(text, order=order, fahrenheit=fahrenheit, month_first=file.workshop.language == AMERICAN)


def moments(file: LoggerFile, air: LoggerAir) -> np.ndarray:
    """When its readings were taken (UTC, datetime64 in seconds)."""
    return logger_files.in_utc(air, LoggerClock(file.clock), ZoneInfo(file.workshop.time_zone))


def new_ones(file: LoggerFile, at: np.ndarray) -> np.ndarray:
    """Which moments are not among the place's readings by the same instrument yet."""
    begins, ends = (moment_of(moment) for moment in (at[0], at[-1]))
    same = AirReading.objects.filter(place=file.place_id, hygrometer=file.hygrometer_id, at__range=(begins, ends)).standing()
    known = [int(moment.timestamp()) for moment in same.values_list("at", flat=True)]
    return ~np.isin(at.astype("int64"), known)


@transaction.atomic
def save_readings(by: Membership, file: LoggerFile, version: int, order: DateOrder | None = None, fahrenheit: bool | None = None) -> int:
    """Save the readings of a file that was looked at, all of them or none; how many were new.

    Raises:
        Refused: it was saved meanwhile, its readings are still to come, or none of them is new.
    """
    require(by, Role.HELPER)
    locked = LoggerFile.unchanged(by, file.pk, version)
    if locked.is_saved:
        raise Refused("This file is saved already.")
    air = understood(locked, order, fahrenheit)
    at = moments(locked, air)
    last = moment_of(at[-1])
    if last > timezone.now() + AHEAD:
        raise Refused(f"Its last reading would be on {full_moment(last)}, which is still to come. Is its day read in the right order?")
    new = new_ones(locked, at)
    if not new.any():
        raise Refused("All its readings are here already; nothing of it is new.")
    _copy(by, locked, at[new], air.temperature_c[new], air.relative_humidity[new])
    locked.content, locked.is_saved, locked.count = b"", True, int(new.sum())
    locked.begins, locked.ends = (moment_of(moment) for moment in (at[new][0], at[new][-1]))
    found = logger_files.faults(at, air.temperature_c, air.relative_humidity)[:MOST_FAULTS]
    locked.faults = [[fault.kind, *(moment_of(moment).isoformat() for moment in (fault.begins, fault.ends))] for fault in found]
    try:
        with transaction.atomic():
            locked.save_changed()
    except IntegrityError:
        raise Refused("Someone else has saved this file meanwhile.") from None
    log.write(by, "air", "logger_saved", subject=locked.place.name, count=locked.count, name=locked.name)
    return locked.count


def _copy(by: Membership, file: LoggerFile, at: np.ndarray, temperature_c: np.ndarray, humidity: np.ndarray) -> None:
    """Readings as rows, by the quickest way into the database; corrected by the instrument's checks as a typed reading is."""
    offsets, good_to = _instrument(file, at)
    corrected = np.clip(humidity + offsets, LOWEST_HUMIDITY, HIGHEST_HUMIDITY)
    meant, tolerance = measured_emcs(temperature_c, corrected, good_to)
    shown: Sequence[float | None] = humidity.tolist() if file.hygrometer_id else [None] * len(at)
    alike = (by.workshop.pk, file.place_id, by.person.pk)
    columns = (at.astype("int64").tolist(), *(values.tolist() for values in (temperature_c, corrected, meant, tolerance)), shown)
    table, names = AirReading._meta.db_table, ", ".join(COLUMNS)
    with connection.cursor() as cursor, cursor.copy(f"COPY {table} ({names}) FROM STDIN") as copy:
        for second, warm, damp, emc, doubt, was in zip(*columns, strict=True):
            moment = datetime.fromtimestamp(second, UTC)
            copy.write_row((*alike, moment, warm, damp, emc, doubt, file.hygrometer_id, was, False, file.pk))


def _instrument(file: LoggerFile, at: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """What the instrument's checks add at each moment, and what it was good to then."""
    if file.hygrometer is None:
        return np.zeros(len(at)), np.full(len(at), file.place.rh_tolerance)
    offsets, good_to = zip(*file.hygrometer.through([moment_of(moment) for moment in at]), strict=True)
    return np.array(offsets), np.array(good_to)


def moment_of(at: np.datetime64) -> datetime:
    """A moment in UTC as the rest of the program has it."""
    return datetime.fromtimestamp(int(at.astype("int64")), UTC)


@transaction.atomic
def strike_file(by: Membership, file: LoggerFile, version: int, *, struck: bool) -> None:
    """Let none of a file's readings count, or let them count again.

    Raises:
        Refused: somebody else was first, or it is not saved yet.
    """
    require(by, Role.HELPER)
    locked = LoggerFile.unchanged(by, file.pk, version)
    if not locked.is_saved:
        raise Refused("This file is not saved yet, so there is nothing of it to strike out.")
    locked.struck = struck
    locked.save_changed()
    log.write(by, "air", "logger_struck" if struck else "logger_put_back", subject=locked.place.name, count=locked.count, name=locked.name)


@transaction.atomic
def forget_file(by: Membership, file: LoggerFile) -> None:
    """Forget a file that was looked at and is not saved."""
    require(by, Role.HELPER)
    LoggerFile.objects.of(by.workshop).filter(pk=file.pk, is_saved=False).delete()


def faults_of(file: LoggerFile) -> list[LoggerFault]:
    """What is wrong with a saved file's logger, the longest first."""

    def moment(text: str) -> np.datetime64:
        return np.datetime64(int(datetime.fromisoformat(text).timestamp()), "s")

    return [LoggerFault(FaultKind(kind), moment(begins), moment(ends)) for kind, begins, ends in file.faults]


def lately_wrong(workshop: Workshop) -> list[LoggerFile]:
    """Files of the last days whose loggers left gaps, stuck or jumped."""
    rows = LoggerFile.objects.of(workshop).filter(is_saved=True, struck=False, at__gte=timezone.now() - TOLD_FOR)
    return list(rows.exclude(faults=[]).select_related("place").order_by("-at")[:MOST_ON_TODAY])
