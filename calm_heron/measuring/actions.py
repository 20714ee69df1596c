"""Recording what instruments show: correct it, keep raw and corrected, renew what is known of the piece, log it."""

from collections.abc import Sequence
from dataclasses import asdict, dataclass
from datetime import datetime
from typing import Any, Protocol

from django.db import transaction
from django.utils import timezone

from calm_heron.logbook import actions as log
from calm_heron.measuring.estimates import renew_moisture
from calm_heron.measuring.kinds import Condition, Face, Layer, Method
from calm_heron.measuring.models import Meter, Reading, SlabTest
from calm_heron.measuring.strip import Spoken
from calm_heron.site.numbers import points
from calm_heron.stock.models import Piece
from calm_heron.workshops.corrections import supersede
from calm_heron.workshops.models import Membership, Role
from calm_heron.workshops.refusals import Refused, require
from wood.measuring import meters, weighing
from wood.measuring.readings import StepKind, Warn
from wood.species import Species

# An ovendry mass worked out from one small section may be off by this share of it (AH-188 takes two sections for that reason).
SECTION_SHARE_UNCERTAINTY = 0.01
# A section tells of the board it was cut from to about a point.
SECTION_UNCERTAINTY = 0.01

TOO_LATE = "This reading has already been struck out or corrected; look at the page again."


class Wooden(Protocol):
    """What a correction asks of a piece, in stock or not: its species, and its thickness in metres."""

    @property
    def species(self) -> Species: ...
    @property
    def thickness_m(self) -> float: ...


@dataclass(frozen=True)
class Taken:
    """A meter reading as it was taken: ``raw`` fraction as shown, ``layer``, and where on the board (shares of length and width)."""

    raw: float
    layer: str = Layer.USUAL
    along: float | None = None
    across: float | None = None
    at_end: bool = False
    face: str = Face.UPPER
    condition: str = Condition.PLAIN
    part: str = ""


def correct(piece: Wooden, meter: Meter, taken: Taken, wood_temperature_c: float, as_set: dict[str, Any] | None = None) -> meters.Corrected:
    """What a reading means by a meter as it stood (None: as it stands), without keeping it; previews and :func:`record_readings` both go
    through here.
    """
    as_set = meter.as_set() if as_set is None else as_set
    if meter.traits.senses_depth:
        return meters.correct_pinless(taken.raw, piece.species, thickness_m=piece.thickness_m, condition=taken.condition, **as_set)
    return meters.correct_pin(taken.raw, piece.species, wood_temperature_c, condition=taken.condition, **as_set)


def as_taken(spoken: Spoken) -> Taken:
    """A reading as it was said in a line, as it was taken."""
    return Taken(spoken.raw, spoken.layer, at_end=spoken.at_end, part=spoken.part, condition=spoken.condition)


# Said where somebody would lay a wood meter on concrete.
NOT_WOOD = "A wood meter can’t read concrete. Enter its own test on its page."


@transaction.atomic
def record_slab_test(by: Membership, piece: Piece, how: str, shown: float, allowed: float, at: datetime | None = None) -> SlabTest:
    """Keep what a slab's own test showed, and what the flooring allows.

    Raises:
        Refused: the piece is no concrete.
    """
    require(by, Role.HELPER)
    if not piece.species.holds_no_moisture_content:
        raise Refused("Only concrete has a test of this kind; wood is read or weighed.", "how")
    test = SlabTest.objects.create(
        workshop=by.workshop, piece=piece, by=by.person, how=how, shown=shown, allowed=allowed, at=at or timezone.now()
    )
    log.write(by, "reading", "slab_tested", subject=piece.tag, how=how, shown=shown, allowed=allowed)
    return test


def is_near_end(piece: Piece, taken: Taken) -> bool:
    """Ends dry first; but where the wood was just cut, what was inside lies open."""
    if taken.condition == Condition.FRESH:
        return False
    if taken.along is None:
        return taken.at_end or taken.face == Face.END
    length = piece.seen_m[0]
    return min(taken.along, 1 - taken.along) * length < meters.end_zone_m(length)


def build_reading(
    by: Membership, piece: Piece, meter: Meter, taken: Taken, wood_temperature_c: float, at: datetime, as_set: dict[str, Any] | None = None
) -> Reading:
    """A reading ready to be saved, by its meter as it stood at that moment (``as_set``, where that is known)."""
    as_set = meter.as_set(at) if as_set is None else as_set
    corrected = correct(piece, meter, taken, wood_temperature_c, as_set)
    near_end = is_near_end(piece, taken)
    return Reading(
        workshop=by.workshop,
        piece=piece,
        at=at,
        by=by.person,
        method=meter.traits.method,
        meter=meter,
        raw=taken.raw,
        wood_temperature_c=wood_temperature_c,
        layer=taken.layer,
        along=taken.along,
        across=taken.across,
        face=taken.face,
        condition=taken.condition,
        part=taken.part,
        moisture=corrected.moisture,
        uncertainty=corrected.uncertainty,
        bound=corrected.bound,
        counts=corrected.counts,
        near_end=near_end,
        warnings=[*corrected.warnings, *([Warn.NEAR_END] if near_end else [])],
        steps=[asdict(step) for step in corrected.steps],
        as_set=as_set,
        rule=corrected.rule,
    )


@transaction.atomic
def record_readings(
    by: Membership,
    piece: Piece,
    meter: Meter,
    taken: Sequence[Taken],
    wood_temperature_c: float,
    at: datetime | None = None,
    *,
    told_by: str = "",
    stays: bool = False,
) -> list[Reading]:
    """Keep a row of meter readings of one piece; of a device's, its name and whether it stays in one spot."""
    require(by, Role.HELPER)
    if piece.species.holds_no_moisture_content:
        raise Refused(NOT_WOOD, "raw")
    _lock(by, piece)
    at = at or timezone.now()
    as_set = meter.as_set(at)
    readings = [build_reading(by, piece, meter, spot, wood_temperature_c, at, as_set) for spot in taken]
    for reading in readings:
        reading.told_by, reading.stays = told_by, stays
    Reading.objects.bulk_create(readings)
    renew_moisture(piece)
    _log_readings(by, piece, readings)
    return readings


@transaction.atomic
def record_weight(
    by: Membership,
    piece: Piece,
    mass_kg: float,
    ovendry_mass_kg: float | None,
    scale_step_kg: float,
    at: datetime | None = None,
    estimated: bool = False,
) -> Reading:
    """Keep a weighing of the whole piece; ``ovendry_mass_kg`` may be left out once the piece has one, or where it is ``estimated``
    from the piece's size and species, which leaves much open.

    Raises:
        Refused: no ovendry mass is known, or the piece weighs less than it.
    """
    require(by, Role.HELPER)
    locked = _lock(by, piece)
    known = locked.ovendry_mass_kg
    dry = ovendry_mass_kg or known
    guessed = dry is None and estimated
    if guessed:
        # Lighter than its species usually is: all that can be said is that it is about dry.
        dry = min(_estimated_ovendry_mass(locked), mass_kg)
    if dry is None:
        raise Refused(
            "The ovendry weight of this piece is not known yet. Type it, do an oven test first, or have it estimated.", "ovendry_mass_kg"
        )
    if mass_kg < dry:
        raise Refused("It can’t weigh less than its ovendry weight. One of the two is wrong.", "mass_kg")
    moisture = weighing.moisture_from_masses(mass_kg, dry)
    _need_possible(piece, moisture, "mass_kg")
    reading = _weighed(by, piece, Method.WEIGHT, Layer.WHOLE, mass_kg, dry, at)
    share = 2 * weighing.DENSITY_SPREAD if guessed else SECTION_SHARE_UNCERTAINTY
    reading.uncertainty = weighing.weighing_uncertainty(mass_kg, dry, scale_step_kg, share)
    if guessed:
        reading.warnings = [Warn.ESTIMATED_OVENDRY]
    reading.save()
    if dry != known and not guessed:
        locked.ovendry_mass_kg = dry
        locked.save(update_fields=["ovendry_mass_kg"])
    renew_moisture(piece)
    _log_readings(by, piece, [reading])
    return reading


@transaction.atomic
def record_fitted_weight(
    by: Membership,
    piece: Piece,
    mass_kg: float,
    dry_mass_kg: float,
    uncertainty: float,
    at: datetime | None = None,
    meter: Meter | None = None,
) -> Reading:
    """Keep a weighing whose ovendry mass was worked out from a whole log of weights, with how far the moisture may be off (95%).

    Raises:
        Refused: more water than the wood can hold.
    """
    require(by, Role.HELPER)
    _lock(by, piece)
    dry = min(dry_mass_kg, mass_kg)
    _need_possible(piece, weighing.moisture_from_masses(mass_kg, dry), "mass_kg")
    reading = _weighed(by, piece, Method.WEIGHT, Layer.WHOLE, mass_kg, dry, at)
    reading.meter, reading.uncertainty, reading.warnings = meter, uncertainty, [Warn.FITTED_OVENDRY]
    reading.save()
    renew_moisture(piece)
    _log_readings(by, piece, [reading])
    return reading


@transaction.atomic
def record_oven_test(
    by: Membership,
    piece: Piece,
    wet_mass_kg: float,
    dry_mass_kg: float,
    scale_step_kg: float,
    piece_mass_kg: float | None = None,
    at: datetime | None = None,
) -> Reading:
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
    _log_readings(by, piece, [reading])
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
    supersede(reading, taking_out, TOO_LATE)
    renew_moisture(reading.piece)
    log.write(by, "reading", "taken_out", subject=reading.piece.tag, reading=reading.pk, moisture=reading.moisture)


@transaction.atomic
def strike_readings(by: Membership, ids: Sequence[int]) -> int:
    """Take several readings out, as :func:`strike_reading`, those that stand; how many there were."""
    readings = Reading.objects.of(by.workshop).standing().filter(pk__in=ids).select_related("piece").order_by("piece_id", "id")
    for reading in readings:
        strike_reading(by, reading)
    return len(readings)


@transaction.atomic
def restore_readings(by: Membership, ids: Sequence[int]) -> int:
    """Put readings back that were taken out: new entries, as of their own day, supersede those that took them out; how many there were.

    Raises:
        Refused: somebody else was first with one of them.
    """
    require(by, Role.HELPER)
    struck = Reading.objects.of(by.workshop).filter(pk__in=ids, superseded_by__struck=True, superseded_by__superseded_by=None)
    readings = list(struck.select_related("piece", "superseded_by").order_by("piece_id", "id"))
    for reading in readings:
        _lock(by, reading.piece)
        again = _copied(by, reading)
        again.at = reading.at
        supersede(reading.superseded_by, again, TOO_LATE)
        renew_moisture(reading.piece)
        log.write(by, "reading", "put_back", subject=reading.piece.tag, reading=again.pk, moisture=reading.moisture)
    return len(readings)


@transaction.atomic
def correct_reading(
    by: Membership,
    reading: Reading,
    *,
    raw: float | None = None,
    wet_mass_kg: float | None = None,
    layer: str | None = None,
    meter: Meter | None = None,
    wood_temperature_c: float | None = None,
    piece: Piece | None = None,
) -> Reading:
    """Put right what was typed wrongly: a new entry with the day of the old one supersedes it; the old one stays to be seen. The meter is
    taken as it stood then; where the rule of the correction is another by now, the new entry says so.

    Args:
        raw: what the meter showed; wet_mass_kg: what the scale showed; layer, meter, wood_temperature_c (°C), piece: where that was wrong.
    Raises:
        Refused: it was corrected already, or the weight cannot be.
    """
    require(by, Role.HELPER)
    # Always in one order, so that two that put readings right on each other's pieces do not wait for each other.
    locked = {item.pk: _lock(by, item) for item in sorted({reading.piece, piece or reading.piece}, key=lambda item: item.pk)}
    before, now = locked[reading.piece_id], locked[(piece or reading.piece).pk]
    instrument = meter or reading.meter
    if instrument and reading.raw is not None and reading.wood_temperature_c is not None:
        taken = Taken(
            reading.raw if raw is None else raw,
            reading.layer if layer is None else layer,
            reading.along,
            reading.across,
            reading.near_end and reading.along is None,
            reading.face,
            reading.condition,
            reading.part if now == before else "",
        )
        temperature_c = reading.wood_temperature_c if wood_temperature_c is None else wood_temperature_c
        made = build_reading(
            by, now, instrument, taken, temperature_c, reading.at, reading.meter_then if instrument == reading.meter else None
        )
        made.told_by, made.stays = reading.told_by, reading.stays and now == before
        if made.rule != reading.rule:
            made.warnings.append(Warn.NEWER_RULE)
    else:
        dry_mass_kg = reading.dry_mass_kg
        if wet_mass_kg is None or dry_mass_kg is None or wet_mass_kg < dry_mass_kg:
            raise Refused("It cannot weigh less than its ovendry weight.", "mass_kg")
        _need_possible(now, weighing.moisture_from_masses(wet_mass_kg, dry_mass_kg), "mass_kg")
        made = _weighed(by, now, Method(reading.method), Layer(reading.layer), wet_mass_kg, dry_mass_kg, reading.at)
        made.uncertainty, made.warnings = reading.uncertainty, reading.warnings
    supersede(reading, made, TOO_LATE)
    for item in locked.values():
        renew_moisture(item)
    log.write(
        by,
        "reading",
        "corrected",
        subject=now.tag,
        reading=made.pk,
        instead_of=reading.pk,
        before=reading.moisture,
        moisture=made.moisture,
        moved_from=before.tag if now != before else "",
    )
    return made


def _copied(by: Membership, reading: Reading) -> Reading:
    same = {
        field.name: getattr(reading, field.name)
        for field in Reading._meta.concrete_fields
        if field.name not in ("id", "by", "at", "supersedes", "struck", "workshop")
    }
    return Reading(**same, workshop=by.workshop, by=by.person)


# -- inside


def _lock(by: Membership, piece: Piece) -> Piece:
    """One writer per piece at a time, so that the kept estimate always follows the readings; the lot it stands for goes first."""
    mine = Piece.objects.of(by.workshop).select_for_update(of=("self",))
    if piece.lot_id:
        mine.get(pk=piece.lot_id)
    return mine.get(pk=piece.pk)


def _weighed(by: Membership, piece: Piece, method: Method, layer: Layer, wet_kg: float, dry_kg: float, at: datetime | None) -> Reading:
    moisture = weighing.moisture_from_masses(wet_kg, dry_kg)
    return Reading(
        workshop=by.workshop,
        piece=piece,
        at=at or timezone.now(),
        by=by.person,
        method=method,
        layer=layer,
        wet_mass_kg=wet_kg,
        dry_mass_kg=dry_kg,
        moisture=moisture,
        rule=meters.CORRECTION_RULE,
        steps=[asdict(meters.Step(StepKind.WEIGHED, moisture))],
    )


def _estimated_ovendry_mass(piece: Piece) -> float:
    # Its size is taken as that of wet wood: there the estimate is of use.
    contents = piece.contents(piece.species.fibre_saturation)
    if contents is None:
        raise Refused(f"No specific gravity is known for {piece.species.spoken_name}, so it cannot be estimated.", "estimated")
    return contents.ovendry_kg


def _need_possible(piece: Piece, moisture: float, field: str) -> None:
    most = piece.species.greatest_moisture * 1.15
    if moisture > most:
        raise Refused(
            f"That would be {points(moisture, 0)}% moisture; {piece.species.spoken_name} can hold about {points(most, 0)}%. "
            "Check the weights and their units.",
            field,
        )


def _log_readings(by: Membership, piece: Piece, readings: Sequence[Reading]) -> None:
    log.write(by, "reading", "read", subject=piece.tag, at=readings[0].at, **entry_of(readings))


def entry_of(readings: Sequence[Reading]) -> dict[str, Any]:
    """What the log keeps of readings taken together: by which method and instrument, what each showed and what it meant."""
    first = readings[0]
    return {
        "readings": [reading.pk for reading in readings if reading.pk],
        "method": first.method,
        "meter": first.meter.name if first.meter else "",
        "shown": [[reading.layer, reading.raw] for reading in readings if reading.raw is not None],
        "moistures": [[reading.moisture, reading.bound] for reading in readings],
        "rule": first.rule,
    }
