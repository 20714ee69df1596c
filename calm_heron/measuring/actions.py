"""Recording what instruments show: correct it, keep raw and corrected, renew what is known of the piece, log it."""

from collections.abc import Sequence
from dataclasses import asdict, dataclass, fields
from datetime import datetime, timedelta

from django.db import IntegrityError, transaction
from django.dispatch import receiver
from django.utils import timezone

from calm_heron.logbook import actions as log
from calm_heron.measuring.models import (
    Condition,
    Face,
    Layer,
    Meter,
    MeterCheck,
    MeterKind,
    Method,
    PieceMoisture,
    Reading,
)  # fmt: skip
from calm_heron.stock import actions as stock
from calm_heron.stock.models import Kind, Piece, Status
from calm_heron.workshops.actions import Refused, require
from calm_heron.workshops.models import Membership, Role
from wood import meters, readiness, weighing

# Readings belong to one sitting when they lie within a day of the newest.
SITTING = timedelta(hours=24)
# An ovendry mass worked out from one small section may be off by this share of it (AH-188 takes two sections for that reason).
SECTION_DOUBT = 0.01
# A section tells of the board it was cut from to about a point.
SECTION_UNCERTAINTY = 0.01
# Boards of a lot are one picture when they were read within this time; a lot hardly moves in it once it is below fibre saturation.
LOT_SITTING = timedelta(days=14)
MOST_LOOSE = 200
# A meter further off than this wants repair.
MOST_OFFSET = 0.05


@dataclass(frozen=True)
class Taken:
    """A meter reading as it was taken: ``raw`` fraction as shown, ``layer``, and where on the board (shares of length and width)."""

    raw: float
    layer: str = ""
    along: float | None = None
    across: float | None = None
    at_end: bool = False
    face: str = ""
    condition: str = ""
    part: str = ""


def correct(piece: Piece, meter: Meter, taken: Taken, wood_temperature_c: float) -> meters.Corrected:
    """What a reading means, without keeping it; previews and :func:`record_readings` both go through here."""
    if meter.kind == MeterKind.PINLESS:
        return meters.correct_pinless(
            taken.raw, piece.species, meter.density_setting, meter.depth_m, piece.thickness_m, meter.tolerance,
            offset=meter.offset, condition=taken.condition,
        )  # fmt: skip
    return meters.correct_pin(
        taken.raw, piece.species, wood_temperature_c, meter.tolerance,
        species_set_on_meter=meter.species_set_on_meter, temperature_set_on_meter=meter.temperature_set_on_meter,
        set_to=meter.set_to, offset=meter.offset, insulated=meter.insulated_pins, across_grain=meter.pins_across,
        condition=taken.condition,
    )  # fmt: skip


def is_near_end(piece: Piece, taken: Taken) -> bool:
    """Ends dry first; but where the wood was just cut, what was inside lies open."""
    if taken.condition == Condition.FRESH:
        return False
    if taken.along is None:
        return taken.at_end or taken.face == Face.END
    length = piece.seen_m[0]
    return min(taken.along, 1 - taken.along) * length < meters.end_zone_m(length)


def build_reading(by: Membership, piece: Piece, meter: Meter, taken: Taken, wood_temperature_c: float, at: datetime) -> Reading:
    """A reading ready to be saved."""
    corrected = correct(piece, meter, taken, wood_temperature_c)
    near_end = is_near_end(piece, taken)
    return Reading(
        workshop=by.workshop, piece=piece, at=at, by=by.person, method=Method(meter.kind), meter=meter, raw=taken.raw,
        wood_temperature_c=wood_temperature_c, layer=taken.layer, along=taken.along, across=taken.across, face=taken.face,
        condition=taken.condition, part=taken.part,
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
    by: Membership, piece: Piece, mass_kg: float, ovendry_mass_kg: float | None, scale_step_kg: float, at: datetime | None = None,
    estimated: bool = False,
) -> Reading:  # fmt: skip
    """Keep a weighing of the whole piece; ``ovendry_mass_kg`` may be left out once the piece has one, or where it is ``estimated``
    from the piece's size and species, which leaves much open.

    Raises:
        Refused: no ovendry mass is known, or the piece weighs less than it.
    """
    require(by, Role.HELPER)
    locked = _lock(by, piece)
    known = locked.ovendry_mass_kg
    dry, doubt = ovendry_mass_kg or known, SECTION_DOUBT
    if dry is None and estimated:
        dry, doubt = _estimated_ovendry_mass(locked), 2 * weighing.DENSITY_SPREAD
        # Lighter than its species usually is: all that can be said is that it is about dry.
        dry = min(dry, mass_kg)
    if dry is None:
        raise Refused(
            "The ovendry weight of this piece is not known yet. Type it, do an oven test first, or have it estimated.", "ovendry_mass_kg"
        )
    if mass_kg < dry:
        raise Refused("It cannot weigh less than its ovendry weight. One of the two is wrong.", "mass_kg")
    moisture = weighing.moisture_from_masses(mass_kg, dry)
    _need_possible(piece, moisture, "mass_kg")
    reading = _weighed(by, piece, Method.WEIGHT, Layer.WHOLE, mass_kg, dry, at)
    reading.uncertainty = weighing.weighing_uncertainty(mass_kg, dry, scale_step_kg, doubt)
    if doubt != SECTION_DOUBT:
        reading.warnings = ["estimated_ovendry"]
    reading.save()
    if dry != known and doubt == SECTION_DOUBT:
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
        Refused: it was taken out or corrected already.
    """
    require(by, Role.HELPER)
    _lock(by, reading.piece)
    taking_out = _copied(by, reading)
    taking_out.struck = True
    _supersede(reading, taking_out)
    renew_moisture(reading.piece)
    log.write(
        by,
        "reading",
        f"{reading.piece.tag}: reading of {reading.moisture * 100:.1f} % taken out",
        subject=reading.piece.tag,
        reading=reading.pk,
    )


@transaction.atomic
def correct_reading(
    by: Membership, reading: Reading, *, raw: float | None = None, wet_mass_kg: float | None = None, layer: str | None = None
) -> Reading:
    """Put right what was typed wrongly: a new entry with the day of the old one supersedes it; the old one stays to be seen.

    Args:
        raw: what the meter showed; wet_mass_kg: what the scale showed; layer: how deep, where that was wrong.
    Raises:
        Refused: it was corrected already, or the weight cannot be.
    """
    require(by, Role.HELPER)
    piece = _lock(by, reading.piece)
    if reading.meter and reading.raw is not None:
        taken = Taken(
            reading.raw if raw is None else raw, reading.layer if layer is None else layer, reading.along, reading.across,
            reading.near_end and reading.along is None, reading.face, reading.condition, reading.part,
        )  # fmt: skip
        made = build_reading(by, piece, reading.meter, taken, reading.wood_temperature_c, reading.at)
    else:
        if wet_mass_kg is None or wet_mass_kg < reading.dry_mass_kg:
            raise Refused("It cannot weigh less than its ovendry weight.", "mass_kg")
        _need_possible(piece, weighing.moisture_from_masses(wet_mass_kg, reading.dry_mass_kg), "mass_kg")
        made = _weighed(by, piece, Method(reading.method), Layer(reading.layer), wet_mass_kg, reading.dry_mass_kg, reading.at)
        made.uncertainty = reading.uncertainty
    _supersede(reading, made)
    renew_moisture(piece)
    log.write(
        by, "reading", f"{piece.tag}: reading of {reading.moisture * 100:.1f} % corrected to {made.moisture * 100:.1f} %", subject=piece.tag,
        reading=made.pk, instead_of=reading.pk,
    )  # fmt: skip
    return made


def _copied(by: Membership, reading: Reading) -> Reading:
    same = {
        field.name: getattr(reading, field.name)
        for field in Reading._meta.concrete_fields
        if field.name not in ("id", "by", "at", "supersedes", "struck", "workshop")
    }
    return Reading(**same, workshop=by.workshop, by=by.person)


def _supersede(reading: Reading, made: Reading) -> None:
    made.supersedes = reading
    try:
        with transaction.atomic():
            made.save()
    except IntegrityError:
        raise Refused("This reading was taken out or corrected already; look at the page again.") from None


def renew_moisture(piece: Piece) -> PieceMoisture | None:
    """Bring the kept estimate up to date with the newest sitting, and that of the lot the piece stands for; without any reading
    that tells something there is none."""
    if piece.is_lot:
        return renew_lot(piece)
    standing = Reading.objects.standing().filter(piece=piece)
    newest = standing.filter(counts=True).order_by("-at").first()
    kept = None
    if newest is None:
        PieceMoisture.objects.filter(piece=piece).delete()
    else:
        sitting = standing.filter(at__gt=newest.at - SITTING, at__lte=newest.at)
        kept = _keep_estimate(piece, readiness.estimate([reading.spot() for reading in sitting], round=piece.kind == Kind.LOG), newest.at)
    if piece.lot_id:
        renew_lot(piece.lot)
    return kept


@receiver(stock.lot_changed)
def _other_boards_stand_for_it(lot: Piece, **_) -> None:
    renew_moisture(lot)


def renew_lot(lot: Piece) -> PieceMoisture | None:
    """The estimate of a lot: its sample boards and the boards read in it without a name, each of them one board."""
    boards = lot_boards(lot)
    estimate = readiness.estimate_lot([readiness.Board(board.estimate, board.part) for board in boards], lot.count)
    if estimate is None:
        PieceMoisture.objects.filter(piece=lot).delete()
        return None
    return _keep_estimate(lot, estimate, max(board.at for board in boards))


@dataclass(frozen=True)
class LotBoard:
    """One board read in a lot: a sample board by its tag, or one without a name."""

    name: str
    part: str
    estimate: readiness.Estimate
    at: datetime

    @property
    def mean(self) -> float:
        return self.estimate.mean


def lot_boards(lot: Piece) -> list[LotBoard]:
    """The boards read in a lot within two weeks of the newest, sample boards first."""
    rows = PieceMoisture.objects.filter(piece__lot=lot, piece__status=Status.IN_STOCK).select_related("piece").order_by("piece__tag")
    boards = [LotBoard(row.piece.tag, row.piece.part, row.estimate(), row.at) for row in rows]
    loose = Reading.objects.standing().filter(piece=lot, counts=True).order_by("-at")[:MOST_LOOSE]
    for number, reading in enumerate(reversed(loose), start=1):
        boards.append(LotBoard(f"board {number}", reading.part, readiness.estimate([reading.spot()]), reading.at))
    newest = max((board.at for board in boards), default=None)
    return [board for board in boards if board.at > newest - LOT_SITTING]


def _keep_estimate(piece: Piece, estimate: readiness.Estimate, at: datetime) -> PieceMoisture:
    values = {one.name: getattr(estimate, one.name) for one in fields(estimate) if one.name != "profile"} | {"at": at}
    kept, _ = PieceMoisture.objects.update_or_create(
        piece=piece, defaults=values, create_defaults={**values, "workshop_id": piece.workshop_id}
    )
    return kept


@transaction.atomic
def check_meter(by: Membership, meter: Meter, of: str, expected: float, shown: float) -> MeterCheck:
    """Keep a check against something known; a moisture meter's readings are put right by it from now on.

    Args:
        expected, shown: moistures, or kilograms for a scale.
    Raises:
        Refused: so far off that it wants repair, not an offset.
    """
    require(by, Role.HELPER)
    locked = Meter.objects.of(by.workshop).select_for_update().get(pk=meter.pk)
    if locked.reads_moisture and abs(expected - shown) > MOST_OFFSET:
        raise Refused(
            f"It is {abs(expected - shown) * 100:.1f} points off: that wants a battery, clean contacts or a repair, not an offset.", "shown"
        )
    check = MeterCheck.objects.create(workshop=by.workshop, meter=locked, by=by.person, of=of, expected=expected, shown=shown)
    locked.checked_at = check.at
    if locked.reads_moisture:
        locked.offset = check.offset
    locked.save(update_fields=["checked_at", "offset"])
    told = f"{shown * 100:.1f} % for {expected * 100:.1f} %" if locked.reads_moisture else f"{shown * 1000:g} g for {expected * 1000:g} g"
    log.write(by, "meter", f"{locked.name} checked, {of}: showed {told}", subject=locked.name)
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
        told = f"{taken} reading{'s' if taken != 1 else ''}" if taken else f"{checks} check{'s' if checks != 1 else ''}"
        raise Refused(
            f"{told} came from {meter.name} and would lose their source. Retire it instead: it is offered no more, and they stay."
        )
    name = meter.name
    meter.delete()
    log.write(by, "meter", f"{name} removed", subject=name)


@transaction.atomic
def retire_meter(by: Membership, meter: Meter, retired: bool) -> None:
    """Offer an instrument no more, or again."""
    require(by, Role.MAKER)
    meter.retired, meter.version = retired, meter.version + 1
    meter.save(update_fields=["retired", "version"])
    log.write(by, "meter", f"{meter.name} {'retired' if retired else 'back in use'}", subject=meter.name)


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


def _estimated_ovendry_mass(piece: Piece) -> float:
    basic = piece.species.basic_specific_gravity
    if basic is None:
        raise Refused(f"No specific gravity is known for {piece.species.common_name.lower()}, so it cannot be estimated.", "estimated")
    return piece.volume_m3 * basic * weighing.WATER_KG_M3


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
