"""Recording what instruments show: correct it, keep raw and corrected, renew what is known of the piece, log it."""

from collections.abc import Sequence
from dataclasses import asdict, dataclass, fields
from datetime import datetime, timedelta

from django.db import IntegrityError, transaction
from django.utils import timezone

from calm_heron.logbook import actions as log
from calm_heron.measuring.models import Layer, Meter, MeterKind, Method, PieceMoisture, Reading
from calm_heron.stock.models import Piece
from calm_heron.workshops.actions import Refused, require
from calm_heron.workshops.models import Membership, Role
from wood import meters, readiness, weighing

# Readings belong to one sitting when they lie within a day of the newest.
SITTING = timedelta(hours=24)
# An ovendry mass worked out from one small section may be off by this share of it (AH-188 takes two sections for that reason).
SECTION_DOUBT = 0.01
# A section tells of the board it was cut from to about a point.
SECTION_UNCERTAINTY = 0.01


@dataclass(frozen=True)
class Taken:
    """A meter reading as it was taken: ``raw`` fraction as shown, ``layer``, and where on the board (shares of length and width)."""

    raw: float
    layer: str = ""
    along: float | None = None
    across: float | None = None
    at_end: bool = False


def correct(piece: Piece, meter: Meter, taken: Taken, wood_temperature_c: float) -> meters.Corrected:
    """What a reading means, without keeping it; previews and :func:`record_readings` both go through here."""
    if meter.kind == MeterKind.PINLESS:
        return meters.correct_pinless(taken.raw, piece.species, meter.density_setting, meter.depth_m, piece.thickness_m, meter.tolerance)
    return meters.correct_pin(
        taken.raw, piece.species, wood_temperature_c, meter.tolerance,
        species_set_on_meter=meter.species_set_on_meter, temperature_set_on_meter=meter.temperature_set_on_meter,
    )  # fmt: skip


def is_near_end(piece: Piece, taken: Taken) -> bool:
    if taken.along is None:
        return taken.at_end
    return min(taken.along, 1 - taken.along) * piece.length_m < meters.end_zone_m(piece.length_m)


def build_reading(by: Membership, piece: Piece, meter: Meter, taken: Taken, wood_temperature_c: float, at: datetime) -> Reading:
    """A reading ready to be saved."""
    corrected = correct(piece, meter, taken, wood_temperature_c)
    near_end = is_near_end(piece, taken)
    return Reading(
        workshop=by.workshop, piece=piece, at=at, by=by.person, method=Method(meter.kind), meter=meter, raw=taken.raw,
        wood_temperature_c=wood_temperature_c, layer=taken.layer, along=taken.along, across=taken.across,
        moisture=corrected.moisture, uncertainty=corrected.uncertainty, bound=corrected.bound, counts=corrected.counts,
        near_end=near_end, warnings=[*corrected.warnings, *(["near_end"] if near_end else [])],
        steps=[asdict(step) for step in corrected.steps], version=corrected.version,
    )  # fmt: skip


@transaction.atomic
def record_readings(
    by: Membership, piece: Piece, meter: Meter, taken: Sequence[Taken], wood_temperature_c: float, at: datetime | None = None
) -> list[Reading]:
    """Keep a row of meter readings of one piece."""
    require(by, Role.HELPER)
    _lock(by, piece)
    at = at or timezone.now()
    readings = Reading.objects.bulk_create(build_reading(by, piece, meter, one, wood_temperature_c, at) for one in taken)
    renew_moisture(piece)
    _log_readings(by, piece, readings, f"with {meter.name}")
    return readings


@transaction.atomic
def record_weight(
    by: Membership, piece: Piece, mass_kg: float, ovendry_mass_kg: float | None, scale_step_kg: float, at: datetime | None = None
) -> Reading:
    """Keep a weighing of the whole piece; ``ovendry_mass_kg`` may be left out once the piece has one.

    Raises:
        Refused: no ovendry mass is known, or the piece weighs less than it.
    """
    require(by, Role.HELPER)
    locked = _lock(by, piece)
    known = locked.ovendry_mass_kg
    dry = ovendry_mass_kg or known
    if dry is None:
        raise Refused("The ovendry weight of this piece is not known yet. Type it, or do an oven test first.", "ovendry_mass_kg")
    if mass_kg < dry:
        raise Refused("It cannot weigh less than its ovendry weight. One of the two is wrong.", "mass_kg")
    moisture = weighing.moisture_from_masses(mass_kg, dry)
    _need_possible(piece, moisture, "mass_kg")
    reading = _weighed(by, piece, Method.WEIGHT, Layer.WHOLE, mass_kg, dry, at)
    reading.uncertainty = weighing.weighing_uncertainty(mass_kg, dry, scale_step_kg, SECTION_DOUBT)
    reading.save()
    if dry != known:
        locked.ovendry_mass_kg = dry
        locked.save(update_fields=["ovendry_mass_kg"])
    renew_moisture(piece)
    _log_readings(by, piece, [reading], "by weight")
    return reading


@transaction.atomic
def record_oven_test(
    by: Membership, piece: Piece, wet_mass_kg: float, dry_mass_kg: float, scale_step_kg: float,
    piece_mass_kg: float | None = None, at: datetime | None = None,
) -> Reading:  # fmt: skip
    """Keep an oven test on a section cut from the piece; with the piece's own weight at the time, its ovendry weight follows.

    Raises:
        Refused: the section gained weight in the oven, or held more water than wood can.
    """
    require(by, Role.HELPER)
    locked = _lock(by, piece)
    if wet_mass_kg < dry_mass_kg:
        raise Refused("It cannot weigh more dry than wet. Are the two the wrong way round?", "dry_mass_kg")
    moisture = weighing.moisture_from_masses(wet_mass_kg, dry_mass_kg)
    _need_possible(piece, moisture, "dry_mass_kg")
    reading = _weighed(by, piece, Method.OVEN, Layer.USUAL, wet_mass_kg, dry_mass_kg, at)
    reading.uncertainty = max(SECTION_UNCERTAINTY, weighing.weighing_uncertainty(wet_mass_kg, dry_mass_kg, scale_step_kg))
    reading.save()
    if piece_mass_kg:
        locked.ovendry_mass_kg = weighing.ovendry_mass_kg(piece_mass_kg, moisture)
        locked.save(update_fields=["ovendry_mass_kg"])
    renew_moisture(piece)
    _log_readings(by, piece, [reading], "by oven test")
    return reading


@transaction.atomic
def strike_reading(by: Membership, reading: Reading) -> None:
    """Take a mistaken reading out: a new entry supersedes it, the old one stays in the log.

    Raises:
        Refused: it was taken out already.
    """
    require(by, Role.HELPER)
    _lock(by, reading.piece)
    copied = {
        field.name: getattr(reading, field.name)
        for field in Reading._meta.concrete_fields
        if field.name not in ("id", "by", "at", "supersedes", "struck", "workshop")
    }
    try:
        with transaction.atomic():
            Reading.objects.create(**copied, workshop=by.workshop, by=by.person, supersedes=reading, struck=True)
    except IntegrityError:
        raise Refused("This reading was taken out already.") from None
    renew_moisture(reading.piece)
    log.write(
        by,
        "reading",
        f"{reading.piece.tag}: reading of {reading.moisture * 100:.1f} % taken out",
        subject=reading.piece.tag,
        reading=reading.pk,
    )


def renew_moisture(piece: Piece) -> PieceMoisture | None:
    """Bring the kept estimate up to date with the newest sitting; without any reading that tells something there is none."""
    standing = Reading.objects.standing().filter(piece=piece)
    newest = standing.filter(counts=True).order_by("-at").first()
    if newest is None:
        PieceMoisture.objects.filter(piece=piece).delete()
        return None
    sitting = standing.filter(at__gt=newest.at - SITTING, at__lte=newest.at)
    estimate = readiness.estimate([reading.spot() for reading in sitting])
    values = {one.name: getattr(estimate, one.name) for one in fields(estimate) if one.name != "profile"}
    kept, _ = PieceMoisture.objects.update_or_create(
        piece=piece, defaults={**values, "at": newest.at}, create_defaults={**values, "at": newest.at, "workshop_id": piece.workshop_id}
    )
    return kept


@transaction.atomic
def keep_meter(by: Membership, meter: Meter | None, version: int, **values) -> Meter:
    """Add a meter, or change one if nobody else has since ``version``. Readings kept earlier stay as they were corrected.

    Raises:
        Refused: the name is taken, or somebody else was first.
    """
    require(by, Role.MAKER)
    if meter is None:
        kept = Meter(workshop=by.workshop)
    else:
        kept = Meter.objects.of(by.workshop).select_for_update().get(pk=meter.pk)
        if kept.version != version:
            raise Refused(
                "Somebody else has changed this meter meanwhile. What you typed is still here; keep it again to put it over theirs."
            )
        kept.version += 1
    for name, value in values.items():
        setattr(kept, name, value)
    try:
        with transaction.atomic():
            kept.save()
    except IntegrityError:
        raise Refused(f"There is a meter called {values['name']} already.", "name") from None
    log.write(by, "meter", f"{'New meter' if meter is None else 'Meter changed'}: {kept.name}", subject=kept.name)
    return kept


# -- inside


def _lock(by: Membership, piece: Piece) -> Piece:
    """One writer per piece at a time, so that the kept estimate always follows the readings."""
    return Piece.objects.of(by.workshop).select_for_update(of=("self",)).get(pk=piece.pk)


def _weighed(by: Membership, piece: Piece, method: Method, layer: Layer, wet_kg: float, dry_kg: float, at: datetime | None) -> Reading:
    moisture = weighing.moisture_from_masses(wet_kg, dry_kg)
    return Reading(
        workshop=by.workshop, piece=piece, at=at or timezone.now(), by=by.person, method=method, layer=layer,
        wet_mass_kg=wet_kg, dry_mass_kg=dry_kg, moisture=moisture, version=meters.CORRECTION_VERSION,
        steps=[{"name": "(wet − dry) / dry", "moisture": moisture, "source": "AH-188 ch. 6"}],
    )  # fmt: skip


def _need_possible(piece: Piece, moisture: float, field: str) -> None:
    most = piece.species.greatest_moisture * 1.15
    if moisture > most:
        raise Refused(
            f"That would be {moisture * 100:.0f} % moisture; {piece.species.common_name.lower()} can hold about {most * 100:.0f} %. "
            "Check the weights and their units.",
            field,
        )


def _log_readings(by: Membership, piece: Piece, readings: Sequence[Reading], how: str) -> None:
    raw = " ".join(
        f"{reading.layer + ' ' if reading.layer in ('core', 'shell') else ''}{reading.raw * 100:g}" for reading in readings if reading.raw
    )
    corrected = " ".join(f"{reading.moisture * 100:.1f}" for reading in readings)
    log.write(
        by, "reading", f"{piece.tag} {how}: {raw + ' read, ' if raw else ''}{corrected} % corrected", subject=piece.tag, at=readings[0].at,
        readings=[reading.pk for reading in readings], version=meters.CORRECTION_VERSION,
    )  # fmt: skip
