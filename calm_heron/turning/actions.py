"""Weighing bowls, saying what they are, tracing them, drawing logs and keeping what is cut from them."""

from collections.abc import Sequence
from datetime import date, datetime, timedelta
from typing import Any, TypeVar

from django.db import transaction
from django.utils import timezone

from calm_heron.logbook import actions as log
from calm_heron.measuring import actions as measuring
from calm_heron.measuring.models import Reading
from calm_heron.site.dates import full_day
from calm_heron.stock import actions as stock
from calm_heron.stock.kinds import Seasoning
from calm_heron.stock.models import Piece, Status
from calm_heron.turning.models import LayElsewhere, LogEnd, Tracing, Turned, turned
from calm_heron.turning.shelf import weighing
from calm_heron.workshops.models import Membership, Role
from calm_heron.workshops.refusals import Refused, require
from wood.errors import NotKnown
from wood.turning import tracing
from wood.turning.blanks import Blank
from wood.turning.weight_logs import Slip, rises, slip, turned_about
from wood.turning.weights import Weighed
from wood.units import System
from wood.written import weighed_mass

# Of a band that holds four times in five, so many times its half width holds nineteen times in twenty.
TO_95 = 1.53
MOST_TRACINGS = 200
Said = TypeVar("Said", Turned, LogEnd)
SLIPS = {
    Slip.DECIMAL: "Has the point slipped?",
    Slip.UNIT: "Is it in another unit?",
    Slip.TARE: "Is something else on the scale, or the tare forgotten?",
    Slip.OTHER: "Is it another bowl, or is a piece of it gone?",
}


class LooksWrong(Refused):
    """A weight that looks like a slip; it is kept when it is said to be meant."""


def bowl_of(by: Membership, piece: Piece) -> Piece:
    row = Piece.locked(by, piece.pk)
    if not row.traits.dries_by_weight:
        raise Refused(f"{row.tag} is no rough-turned bowl.", "tag")
    return _in_stock(row)


def _in_stock(row: Piece) -> Piece:
    if row.status != Status.IN_STOCK:
        raise Refused(f"{row.tag} is not in stock any more. Put it back into stock first if that is wrong.", "tag")
    return row


def turned_of(by: Membership, piece: Piece) -> Piece:
    """A bowl or a blank, locked: what cracks are looked for in.

    Raises:
        Refused.
    """
    return _in_stock(Piece.locked(by, piece.pk)) if piece.traits.becomes else bowl_of(by, piece)


@transaction.atomic
def weigh(by: Membership, piece: Piece, mass_kg: float, at: datetime | None = None, *, meant: bool = False) -> Reading:
    """Keep what a bowl weighs; its moisture is that of the whole log with this weight in it.

    Raises:
        LooksWrong: beside what it is expected to weigh this looks like a slip, and nobody said that it is ``meant``.
        Refused: it is no bowl, or not in stock any more.
    """
    require(by, Role.HELPER)
    row = bowl_of(by, piece)
    moment = at or timezone.now()
    entries, known = weighing.entries_of(row), turned(row)
    if not meant:
        _ask_back(row, entries, mass_kg, moment)
    fitted = weighing.fitted(row, known, entries, [(moment, mass_kg)])
    reading = _recorded(by, row, mass_kg, moment, fitted)
    weighing.renew(row)
    return reading


@transaction.atomic
def keep_past(by: Membership, rows: Sequence[tuple[Piece, datetime, float]]) -> list[Reading]:
    """Keep weights of the past, many at once: of each bowl all together, so that what they say is worked out once.

    Args:
        rows: bowl, moment and mass (kg), in any order.
    Raises:
        Refused: a bowl that is none or not in stock any more, or more water than its wood can hold; then none is kept.
    """
    require(by, Role.HELPER)
    readings = []
    for pk in sorted({piece.pk for piece, _, _ in rows}):
        own = sorted(((at, mass) for piece, at, mass in rows if piece.pk == pk), key=lambda row: row[0])
        bowl = bowl_of(by, next(piece for piece, _, _ in rows if piece.pk == pk))
        fitted = weighing.fitted(bowl, turned(bowl), weighing.entries_of(bowl), own)
        readings += [_recorded(by, bowl, mass_kg, at, fitted) for at, mass_kg in own]
        weighing.renew(bowl)
    return readings


@transaction.atomic
def take_back_weights(by: Membership, ids: Sequence[int]) -> int:
    """Take weights out that were kept; how many of them still stood."""
    pieces = list(Piece.objects.of(by.workshop).filter(readings__in=ids).distinct())
    count = measuring.strike_readings(by, ids)
    for piece in pieces:
        weighing.renew(piece)
    return count


def _recorded(by: Membership, bowl: Piece, mass_kg: float, at: datetime, fitted: Weighed | None) -> Reading:
    """Keep one weight with the moisture that a whole log gives it; without one, by the bowl's size alone."""
    if fitted is None:
        dry, moisture = _by_size(bowl, mass_kg)
        spread = 0.3 * (1 + moisture)
    else:
        dry = min(fitted.dry_mass_kg.best, mass_kg)
        spread = max(TO_95 * (fitted.moisture.high - fitted.moisture.low) / 2, 0.003)
    return measuring.record_fitted_weight(by, bowl, mass_kg, dry, spread, at)


def _by_size(piece: Piece, mass_kg: float) -> tuple[float, float]:
    """Ovendry mass and moisture of a bowl of which only the size tells; of a species without a figure nothing but its weight."""
    contents = piece.contents(0.3)
    dry = mass_kg / 1.6 if contents is None else min(contents.ovendry_kg, mass_kg)
    return dry, mass_kg / dry - 1


def _ask_back(piece: Piece, entries: Sequence[weighing.WeighedEntry], mass_kg: float, at: datetime) -> None:
    """Ask about a weight that cannot well be.

    Raises:
        LooksWrong.
    """
    _ask_about_its_day(piece, entries, at)
    weighed = weighing.renew(piece) if entries else None
    if weighed is not None:
        expected, low, high = weighed.expected_kg(at)
        # Early on much may still come true.
        kind = slip(mass_kg, min(max(mass_kg, low), high)) and slip(mass_kg, expected)
        why = "it is expected to weigh about"
    elif entries:
        expected = entries[-1].mass_kg
        kind, why = slip(mass_kg, expected), "last it weighed"
    else:
        try:
            contents = piece.contents(0.7)
        except NotKnown:
            contents = None
        if contents is None:
            return
        expected = contents.mass_kg
        kind, why = slip(mass_kg, expected), "for its size and wood it should weigh about"
        # By its size alone only a gross slip can be told.
        if kind in (Slip.TARE, Slip.OTHER):
            return
    system = piece.workshop.system
    before = [entry for entry in entries if entry.at <= at]
    if kind in (None, Slip.OTHER, Slip.TARE) and before:
        _ask_about_its_digits(piece, before[-1].mass_kg, expected, mass_kg, system, rose=kind is None)
    if kind is not None:
        raise LooksWrong(
            f"{weighed_mass(mass_kg, system)} for {piece.tag}: {why} {weighed_mass(expected, system)}. {SLIPS[kind]} If it is right, say so"
            " and keep it.",
            "mass_kg",
        )


# A weighing that lies so long before the first one is asked about, and one that is older than this.
LONG_BEFORE, LONG_AGO = timedelta(days=120), timedelta(days=5 * 365)


def _ask_about_its_day(piece: Piece, entries: Sequence[weighing.WeighedEntry], at: datetime) -> None:
    """Ask about a day that a weight can hardly be of.

    Raises:
        LooksWrong.
    """
    if doubt := doubt_of_its_day(piece, entries, at):
        raise LooksWrong(f"{doubt} If it is right, say so and keep it.", "mass_kg")


def doubt_of_its_day(piece: Piece, entries: Sequence[weighing.WeighedEntry], at: datetime) -> str:
    """Why a weight can hardly be of a day, as a question: a year mistyped, or before its tree was felled; empty where it well may be."""
    day = timezone.localdate(at)
    why = ""
    if piece.felled_on is not None and day < piece.felled_on:
        why = f"its tree was felled on {full_day(piece.felled_on)}"
    elif entries and entries[0].at - at > LONG_BEFORE:
        why = f"it was first weighed on {full_day(timezone.localdate(entries[0].at))}"
    elif timezone.now() - at > LONG_AGO:
        why = f"that is {(timezone.localdate() - day).days // 365} years ago"
    return f"On {full_day(day)}: {why}. Is the year mistyped?" if why else ""


def _ask_about_its_digits(piece: Piece, last_kg: float, expected_kg: float, mass_kg: float, system: System, *, rose: bool) -> None:
    """Ask about two digits that were turned about, and, where nothing else is wrong with it, about a weight that ``rose`` above the last.

    Raises:
        LooksWrong.
    """
    unit_kg = system.scale.unit_kg
    # What is expected may be off; a little under the last one it must be.
    meant = turned_about(mass_kg / unit_kg, expected_kg / unit_kg) or turned_about(mass_kg / unit_kg, last_kg / unit_kg)
    # Early on a forecast is off by more than digits turned about: what fell is believed.
    if not rises(mass_kg, last_kg) if rose else meant is None:
        return
    guess = f" {weighed_mass(meant * unit_kg, system)}?" if meant is not None else " Is something else on the scale, or was it in the damp?"
    raise LooksWrong(
        f"{weighed_mass(mass_kg, system)} for {piece.tag}? Last it weighed {weighed_mass(last_kg, system)}.{guess} If it is right, say so"
        " and keep it.",
        "mass_kg",
    )


@transaction.atomic
def strike_weight(by: Membership, reading: Reading) -> None:
    """Take a weighing out; it stays to be seen and counts no more.

    Raises:
        Refused: somebody else was first.
    """
    require(by, Role.HELPER)
    measuring.strike_reading(by, reading)
    weighing.renew(reading.piece)


@transaction.atomic
def put_back_weight(by: Membership, reading: Reading) -> None:
    """Put a weighing back that was taken out, as of its own day.

    Raises:
        Refused: it was not taken out, or somebody else was first.
    """
    require(by, Role.HELPER)
    if not measuring.restore_readings(by, [reading.pk]):
        raise Refused("That weight was put back already.")
    weighing.renew(reading.piece)


def _said_of(model: type[Said], by: Membership, piece: Piece, version: int | None, figures: dict[str, Any]) -> Said:
    """What is said of a locked piece for the first time (``version`` 0: nothing was seen), or anew over what was seen.

    Raises:
        Overtaken: someone else has changed it meanwhile.
    """
    saved = model.objects.filter(piece=piece).first()
    if saved is None:
        return model.objects.create(workshop=by.workshop, piece=piece, **figures)
    saved = model.unchanged(by, saved.pk, version or 0)
    saved.change(**figures)
    return saved


@transaction.atomic
def say_turned(by: Membership, piece: Piece, version: int | None, **figures: Any) -> Turned:
    """Say how a turned piece is formed, how it lay in its log and in what it dries.

    Raises:
        Overtaken: someone else has changed it meanwhile. Refused.
    """
    require(by, Role.MAKER)
    row = Piece.locked(by, piece.pk)
    result = _said_of(Turned, by, row, version, figures)
    log.write(by, "turning", "said", subject=row.tag)
    return result


@transaction.atomic
def rough_out(by: Membership, piece: Piece, version: int, diameter_m: float, height_m: float, wall_m: float) -> None:
    """A blank was turned rough: from now on it is a bowl of these sizes.

    Raises:
        Refused: it is no blank. Overtaken.
    """
    require(by, Role.MAKER)
    if not piece.traits.becomes:
        raise Refused(f"{piece.tag} is no blank.")
    stock.change_piece(by, piece, version, kind=piece.traits.becomes, width_m=diameter_m, length_m=height_m, thickness_m=wall_m)
    log.write(by, "turning", "roughed", subject=piece.tag, wall_m=wall_m)


@transaction.atomic
def trace(
    by: Membership, piece: Piece, traced: tracing.Traced, predicted_m: float | None, *, stage: str = "", points: Sequence[Any] = ()
) -> Tracing:
    """Keep a rim as it was traced.

    Raises:
        Refused: too many.
    """
    require(by, Role.HELPER)
    row = bowl_of(by, piece)
    if row.tracings.count() >= MOST_TRACINGS:
        raise Refused(f"A bowl has at most {MOST_TRACINGS} tracings.")
    saved = Tracing.objects.create(
        workshop=by.workshop,
        piece=row,
        by=by.person,
        stage=stage,
        along_m=traced.along_m,
        across_m=traced.across_m,
        off_m=traced.off_m,
        predicted_m=predicted_m,
        points=list(points),
    )
    log.write(by, "turning", "traced", subject=row.tag, along_m=traced.along_m, across_m=traced.across_m)
    return saved


@transaction.atomic
def put_elsewhere(by: Membership, piece: Piece, kind: str, begins: date, ends: date | None, **air: float | None) -> LayElsewhere:
    """A bowl lay elsewhere for a while: its forecast is told so.

    Raises:
        Refused: it ended before it began, begins in the future, or overlaps another.
    """
    require(by, Role.HELPER)
    row = bowl_of(by, piece)
    if ends is not None and ends < begins:
        raise Refused("It came out before it went in.", "ends")
    if begins > timezone.localdate():
        raise Refused("That day is in the future.", "begins")
    for other in row.spells.filter(struck_at=None):
        if begins <= (other.ends or date.max) and other.begins <= (ends or date.max):
            raise Refused(f"It lay {other.get_kind_display()} then: take that out first.", "begins")
    made = LayElsewhere.objects.create(workshop=by.workshop, piece=row, by=by.person, kind=kind, begins=begins, ends=ends, **air)
    weighing.renew(row)
    log.write(by, "turning", "elsewhere", subject=row.tag, where=kind)
    return made


@transaction.atomic
def strike_elsewhere(by: Membership, spell: LayElsewhere, *, restore: bool = False) -> None:
    """What was said of where a bowl lay is taken out, or put back.

    Raises:
        Refused: somebody else was first.
    """
    require(by, Role.HELPER)
    row = bowl_of(by, spell.piece)
    changed = LayElsewhere.objects.of(by.workshop).filter(pk=spell.pk, struck_at__isnull=not restore)
    if not changed.update(struck_at=None if restore else timezone.now()):
        raise Refused("Somebody else was first.")
    weighing.renew(row)
    log.write(by, "turning", "elsewhere_struck", subject=row.tag, restored=restore)


@transaction.atomic
def draw_log(by: Membership, piece: Piece, version: int | None, **figures: Any) -> LogEnd:
    """Keep a log's end as it was drawn.

    Raises:
        Refused: it is no log. Overtaken: someone else has drawn it meanwhile.
    """
    require(by, Role.MAKER)
    row = Piece.locked(by, piece.pk)
    if not row.traits.gives:
        raise Refused(f"{row.tag} is no log.")
    return _said_of(LogEnd, by, row, version, figures)


@transaction.atomic
def keep_blanks(by: Membership, log_piece: Piece, blanks: Sequence[Blank], *, log_used: bool = True) -> list[Piece]:
    """Take the blanks of a plan into stock, each knowing where it lay in its log, and mark the log as used.

    Raises:
        Refused: no blanks, no log, or one that is used up already.
    """
    require(by, Role.MAKER)
    row = Piece.locked(by, log_piece.pk)
    if not row.traits.gives:
        raise Refused(f"{row.tag} is no log.")
    if row.status != Status.IN_STOCK:
        raise Refused(f"{row.tag} is not in stock any more: somebody has cut it up already.")
    if not blanks:
        raise Refused("This plan gives no blank.")
    made = []
    for blank in blanks:
        for _ in range(blank.count):
            piece = stock.add_piece(
                by,
                row.species_key,
                kind=row.traits.gives,
                thickness_m=round(blank.height_m, 4),
                width_m=round(blank.diameter_m, 4),
                length_m=round(blank.diameter_m, 4),
                seasoning=Seasoning.GREEN,
                place=row.place,
                felled_on=row.felled_on,
                sawn_on=timezone.localdate(),
                source=f"from {row.tag}",
            )
            Turned.objects.create(
                workshop=by.workshop,
                piece=piece,
                rim=blank.rim.value,
                pith_m=max(blank.pith_m, 0.0),
                aside_m=blank.aside_m,
                log=row,
                upper=blank.upper,
            )
            made.append(piece)
    if log_used:
        stock.set_status(by, [(row.pk, row.version)], Status.USED)
    log.write(by, "turning", "cut", subject=row.tag, blanks=[piece.tag for piece in made])
    return made
