"""Keeping chambers, beginning loads, weighing their samples, noting what happened, and ending them."""

from collections.abc import Iterable, Mapping, Sequence
from datetime import date, datetime
from typing import Any

from django.db import transaction
from django.db.models import F
from django.dispatch import receiver
from django.utils import timezone

from calm_heron.air.models import Place
from calm_heron.kiln.models import (
    Chamber,
    ChamberHour,
    ChamberReading,
    DegradeFound,
    Load,
    LoadEvent,
    LoadLot,
    Promise,
    Sample,
    SampleSection,
    SampleWeight,
)
from calm_heron.logbook import actions as log
from calm_heron.stacks import actions as stacks
from calm_heron.stock import actions as stock
from calm_heron.stock.models import Piece, Status
from calm_heron.workshops import spells
from calm_heron.workshops.corrections import supersede
from calm_heron.workshops.models import Membership, Role
from calm_heron.workshops.refusals import Refused, require
from wood.errors import OutOfRange
from wood.kiln import samples

MOST_LOTS, MOST_SAMPLES = 20, 40


@receiver(stacks.being_stacked)
def _not_out_of_a_kiln(pieces: Sequence[Piece], **_: Any) -> None:
    """What is in a load that runs lies in no stack."""
    inside = LoadLot.objects.filter(piece__in=pieces, runs=True).select_related("load", "piece").first()
    if inside is not None:
        raise Refused(f"{inside.piece.tag} is in {inside.load.tag}: take that out first.", "lots")


@transaction.atomic
def keep_chamber(by: Membership, chamber: Chamber | None, version: int, **figures: Any) -> Chamber:
    """Add a kiln, or change one.

    Raises:
        Refused: a name that is taken. Overtaken.
    """
    require(by, Role.MAKER)
    stock.lock_tags(by.workshop)
    taken = Chamber.objects.of(by.workshop).filter(name__iexact=figures["name"])
    if (taken if chamber is None else taken.exclude(pk=chamber.pk)).exists():
        raise Refused(f"There is a kiln called {figures['name']} already.", "name")
    if chamber is None:
        row = Chamber.objects.create(workshop=by.workshop, **figures)
        log.write(by, "kiln", "chamber_kept", subject=row.name)
        return row
    row = Chamber.unchanged(by, chamber.pk, version)
    row.change(**figures)
    log.write(by, "kiln", "chamber_changed", subject=row.name)
    return row


@transaction.atomic
def begin_load(
    by: Membership, lots: Sequence[tuple[Piece, float]], chamber: Chamber, began_at: datetime, *, tag: str = "", **settings: Any
) -> Load:
    """Begin a load of these lots, each with its moisture then (fraction), and move them to the chamber's place.

    Raises:
        Refused: no lots, one that is used up or in another load, a chamber that runs already, a tag that is taken.
    """
    require(by, Role.MAKER)
    stock.lock_tags(by.workshop)
    if not 1 <= len(lots) <= MOST_LOTS:
        raise Refused(f"A load is of one lot to {MOST_LOTS}.", "lots")
    if tag and Load.objects.of(by.workshop).filter(tag__iexact=tag).exists():
        raise Refused(f"There is a load with the tag {tag} already.", "tag")
    chamber = Chamber.locked(by, chamber.pk)
    running = Load.objects.filter(chamber=chamber, ended_at=None).first()
    if running is not None:
        raise Refused(f"{running.tag} runs in {chamber.name}: end that first.", "chamber")
    moistures = {piece.pk: moisture for piece, moisture in lots}
    pieces = [Piece.locked(by, pk) for pk in sorted(moistures)]
    for piece in pieces:
        if piece.status != Status.IN_STOCK:
            raise Refused(f"{piece.tag} is not in stock any more.", "lots")
        other = LoadLot.objects.filter(piece=piece, runs=True).select_related("load").first()
        if other is not None:
            raise Refused(f"{piece.tag} is in {other.load.tag} already.", "lots")
    load = Load.objects.create(
        workshop=by.workshop, tag=tag or _next_tag(by), chamber=chamber, began_at=began_at, added_by=by.person, **settings
    )
    for piece in pieces:
        LoadLot.objects.create(workshop=by.workshop, load=load, piece=piece, start=moistures[piece.pk])
    # Where a lot lies is one fact: what is in a kiln is in no stack.
    stacks.take_out(by, moistures)
    if chamber.place is not None:
        stock.move(by, [(piece.pk, piece.version) for piece in pieces], chamber.place)
    log.write(by, "kiln", "begun", subject=load.tag, lots=[piece.tag for piece in pieces], chamber=chamber.name)
    return load


def _next_tag(by: Membership) -> str:
    """The next free one of load-01, load-02 …"""
    taken = {tag.lower() for tag in Load.objects.of(by.workshop).values_list("tag", flat=True)}
    return next(tag for number in range(1, 100_000) if (tag := f"load-{number:02d}") not in taken)


def _running(by: Membership, load: Load) -> Load:
    row = Load.locked(by, load.pk)
    if not row.runs:
        raise Refused(f"{row.tag} is over.")
    return row


@transaction.atomic
def add_sample(
    by: Membership,
    load: Load,
    tag: str,
    piece: Piece,
    mass_kg: float,
    moisture: float | None,
    at: datetime | None = None,
    *,
    sections: Sequence[tuple[float, float | None]] = (),
) -> Sample:
    """Cut a sample: its mass then, and its moisture, or its sections as (wet, ovendry kg), which are in the oven while their ovendry mass
    is None.

    Raises:
        Refused: the load is over, the tag is taken, the lot is not in it, too many; sections that differ too much.
    """
    require(by, Role.HELPER)
    row = _running(by, load)
    if not row.lots.filter(piece=piece).exists():
        raise Refused(f"{piece.tag} is not in {row.tag}.", "piece")
    if row.samples.count() >= MOST_SAMPLES:
        raise Refused(f"A load has at most {MOST_SAMPLES} samples.", "tag")
    if row.samples.filter(tag__iexact=tag).exists():
        raise Refused(f"There is a sample {tag} in it already.", "tag")
    if moisture is None:
        moisture = _by_sections(sections)
    dry = None if moisture is None else mass_kg / (1 + moisture)
    sample = Sample.objects.create(workshop=by.workshop, load=row, tag=tag, piece=piece, dry_mass_kg=dry)
    SampleSection.objects.bulk_create(
        SampleSection(workshop=by.workshop, sample=sample, wet_kg=wet, dry_kg=ovendry) for wet, ovendry in sections
    )
    SampleWeight.objects.create(workshop=by.workshop, sample=sample, mass_kg=mass_kg, by=by.person, at=at or timezone.now())
    log.write(by, "kiln", "sample_cut", subject=row.tag, sample=tag, moisture=moisture)
    return sample


def _by_sections(sections: Sequence[tuple[float, float | None]]) -> float | None:
    """The moisture that sections say; None while any of them is in the oven.

    Raises:
        Refused: none, or they are no pair.
    """
    if not sections:
        raise Refused("Type its moisture, or what its sections weigh.", "moisture")
    weighed = [(wet, dry) for wet, dry in sections if dry is not None]
    if len(weighed) < len(sections):
        return None
    try:
        return samples.from_sections(weighed)
    except OutOfRange as beyond:
        if beyond.field == "sections_differ":
            raise Refused("Its sections differ too much to be a pair: weigh them again, or dry them longer.", "dry_1") from None
        raise Refused("A section never weighs more dry than wet: are the two changed about?", "dry_1") from None


@transaction.atomic
def dry_sections(by: Membership, sample: Sample, dry_kg: Sequence[float]) -> Sample:
    """The sections of a sample are out of the oven: their ovendry masses in their order.

    Raises:
        Refused: the load is over, they were weighed already, or are no pair.
    """
    require(by, Role.HELPER)
    _running(by, sample.load)
    row: Sample = Sample.objects.select_for_update().get(pk=sample.pk)
    if row.dry_mass_kg is not None:
        raise Refused("Its sections were weighed already.")
    sections = list(row.sections.order_by("pk"))
    moisture = _by_sections([(section.wet_kg, dry) for section, dry in zip(sections, dry_kg, strict=True)])
    assert moisture is not None
    for section, dry in zip(sections, dry_kg, strict=True):
        section.dry_kg = dry
        section.save(update_fields=["dry_kg"])
    row.dry_mass_kg = row.weights_in_order[0].mass_kg / (1 + moisture)
    row.save(update_fields=["dry_mass_kg"])
    log.write(by, "kiln", "sections_dried", subject=sample.load.tag, sample=row.tag, moisture=moisture)
    return row


@transaction.atomic
def weigh(by: Membership, load: Load, masses: Iterable[tuple[Sample, float]], at: datetime | None = None) -> int:
    """Keep what samples weigh, all at one moment; how many.

    Raises:
        Refused: the load is over, nothing to keep, a moment before it began.
    """
    require(by, Role.HELPER)
    row = _running(by, load)
    moment = at or timezone.now()
    if moment < row.began_at:
        raise Refused("That was before the load began.", "at")
    weights = [SampleWeight(workshop=by.workshop, sample=sample, mass_kg=mass, by=by.person, at=moment) for sample, mass in masses]
    if not weights:
        raise Refused("Type what at least one sample weighs.")
    SampleWeight.objects.bulk_create(weights)
    log.write(by, "kiln", "weighed", subject=row.tag, count=len(weights))
    return len(weights)


@transaction.atomic
def strike_weight(by: Membership, weight: SampleWeight) -> None:
    """Take a weighing out: it stays to be seen and counts no more.

    Raises:
        Refused: somebody else was first; it is the first of its sample, which all others stand on.
    """
    require(by, Role.HELPER)
    first = weight.sample.weights.standing().order_by("at", "pk").first()
    if first is not None and first.pk == weight.pk:
        raise Refused("That is the weight it was cut with; all others stand on it.")
    supersede(
        weight,
        SampleWeight(workshop=by.workshop, sample=weight.sample, at=timezone.now(), mass_kg=weight.mass_kg, by=by.person, struck=True),
        "Someone else has taken it out meanwhile.",
    )
    log.write(by, "kiln", "weight_struck", subject=weight.sample.load.tag, sample=weight.sample.tag)


@transaction.atomic
def read_chamber(by: Membership, load: Load, dry_bulb_c: float, humidity: float, at: datetime | None = None) -> ChamberReading:
    """Keep the chamber's air as it was read.

    Raises:
        Refused: the load is over.
    """
    require(by, Role.HELPER)
    row = _running(by, load)
    reading = ChamberReading(workshop=by.workshop, load=row, at=at or timezone.now(), dry_bulb_c=dry_bulb_c, humidity=humidity)
    keep_readings([reading])
    return reading


def keep_readings(rows: Sequence[ChamberReading]) -> None:
    """Keep readings of one load, and sum up the hours they lie in."""
    ChamberReading.objects.bulk_create(rows)
    by_hour: dict[datetime, list[ChamberReading]] = {}
    for row in rows:
        by_hour.setdefault(row.at.replace(minute=0, second=0, microsecond=0), []).append(row)
    for hour, these in sorted(by_hour.items()):
        ChamberHour.objects.bulk_create([ChamberHour(workshop=these[0].workshop, load=these[0].load, hour=hour)], ignore_conflicts=True)
        ChamberHour.objects.filter(load=these[0].load, hour=hour).update(
            count=F("count") + len(these),
            dry_bulb_sum=F("dry_bulb_sum") + sum(row.dry_bulb_c for row in these),
            humidity_sum=F("humidity_sum") + sum(row.humidity for row in these),
            power_kwh=F("power_kwh") + sum(row.power_kwh or 0.0 for row in these),
            water_kg=F("water_kg") + sum(row.water_kg or 0.0 for row in these),
        )


@transaction.atomic
def note(by: Membership, load: Load, kind: str, words: str, at: datetime, until: datetime | None = None, *, goes_on: bool = False) -> None:
    """Note what happened to a load, from when to when, or that it goes on.

    Raises:
        Refused: the load is over; a span that is none, or from before the load.
    """
    require(by, Role.HELPER)
    row = _running(by, load)
    spells.check_span(at, until, row.began_at, "the load")
    LoadEvent.objects.create(workshop=by.workshop, load=row, kind=kind, words=words, by=by.person, at=at, until=until, goes_on=goes_on)
    log.write(by, "kiln", "happened", subject=row.tag, how=kind, words=words)


@transaction.atomic
def change_event(by: Membership, load: Load, event: LoadEvent, do: str) -> tuple[LoadEvent, str]:
    """Something that was noted is over, goes on, was not so or was (:data:`calm_heron.workshops.spells.CHANGES`); the row that stands for
    it now, and what takes that back.

    Raises:
        Refused: the load is over, or it cannot be done.
    """
    require(by, Role.HELPER)
    row = _running(by, load)
    stands: LoadEvent
    stands, back = spells.change(by, event, do)
    log.write(by, "kiln", f"event_{do}", subject=row.tag, how=event.kind)
    return stands, back


@transaction.atomic
def end_load(
    by: Membership,
    load: Load,
    version: int,
    weighed_out_kg: float | None = None,
    *,
    came: Mapping[int, stacks.CameOut] | None = None,
    place: Place | None = None,
    out_m3: float | None = None,
    learnt: str = "",
) -> None:
    """The load is out; its lots stay in stock, in ``place`` where one is said. ``came`` is what each is at (by piece id), ``out_m3`` the
    good wood that came out of it.

    Raises:
        Overtaken. Refused: it is over already.
    """
    require(by, Role.HELPER)
    row = Load.unchanged(by, load.pk, version)
    if not row.runs:
        raise Refused(f"{row.tag} is over already.")
    row.ended_at, row.weighed_out_kg, row.out_m3, row.learnt = timezone.now(), weighed_out_kg, out_m3, learnt
    row.save_changed("ended_at", "weighed_out_kg", "out_m3", "learnt")
    lots = list(row.lots.select_related("piece"))
    for lot in lots:
        known = (came or {}).get(lot.piece_id)
        lot.runs = False
        lot.came, lot.driest, lot.wettest = (known.mean, known.driest, known.wettest) if known else (None, None, None)
        lot.save(update_fields=["runs", "came", "driest", "wettest"])
    if place is not None:
        stock.move(by, [(lot.piece_id, lot.piece.version) for lot in lots if lot.piece.status == Status.IN_STOCK], place)
    log.write(by, "kiln", "ended", subject=row.tag)


@transaction.atomic
def tell_outcome(by: Membership, load: Load, out_m3: float | None, learnt: str) -> None:
    """What came of a load that is over: its good wood (m³), and what was learnt.

    Raises:
        Refused: it runs.
    """
    require(by, Role.HELPER)
    row = Load.locked(by, load.pk)
    if row.runs:
        raise Refused(f"{row.tag} runs: it is told once it is out.")
    row.out_m3, row.learnt = out_m3, learnt
    row.save_changed("out_m3", "learnt")
    log.write(by, "kiln", "outcome", subject=row.tag, words=learnt)


@transaction.atomic
def foretell(by: Membership, load: Load, days: float, low: float, high: float) -> None:
    """Keep in how many days a load that begins is foretold done, and between which eight in ten such loads are."""
    require(by, Role.MAKER)
    # No change of anybody's, so that its version stays.
    Load.objects.of(by.workshop).filter(pk=load.pk).update(foretold_days=days, foretold_low=low, foretold_high=high)


@transaction.atomic
def run_again(by: Membership, load: Load) -> None:
    """It was not out after all: it runs with the lots that were in it, in its chamber's place.

    Raises:
        Refused: it runs, its chamber has another load by now, or one of its lots is used up, in another load or in a stack.
    """
    require(by, Role.HELPER)
    stock.lock_tags(by.workshop)
    row = Load.locked(by, load.pk)
    if row.runs:
        raise Refused(f"{row.tag} runs.")
    other = Load.objects.filter(chamber=row.chamber_id, ended_at=None).first()
    if other is not None:
        raise Refused(f"{other.tag} runs in {row.chamber} by now, so {row.tag} stays out.")
    lots = list(row.lots.select_related("piece"))
    for lot in lots:
        if (
            lot.piece.status != Status.IN_STOCK
            or LoadLot.objects.filter(piece=lot.piece, runs=True).exists()
            or lot.piece.stacked.filter(standing=True).exists()
        ):
            raise Refused(f"{lot.piece.tag} is used up, in another load or in a stack by now, so {row.tag} stays out.")
    row.ended_at = None
    row.save_changed("ended_at")
    for lot in lots:
        lot.runs, lot.came, lot.driest, lot.wettest = True, None, None, None
        lot.save(update_fields=["runs", "came", "driest", "wettest"])
    if row.chamber.place is not None:
        stock.move(by, [(lot.piece_id, lot.piece.version) for lot in lots], row.chamber.place)
    log.write(by, "kiln", "runs_again", subject=row.tag)


@transaction.atomic
def find_degrade(by: Membership, load: Load, kind: str, boards: int, of_boards: int, where: str) -> DegradeFound:
    """Note what was found on the boards of a load.

    Raises:
        Refused: more boards than there are.
    """
    require(by, Role.HELPER)
    if boards > of_boards:
        raise Refused("That is more boards than were looked at.", "boards")
    degrade_found = DegradeFound.objects.create(
        workshop=by.workshop, load=load, kind=kind, boards=boards, of_boards=of_boards, where=where, by=by.person
    )
    log.write(by, "kiln", "found", subject=load.tag, how=kind, boards=boards, of_boards=of_boards)
    return degrade_found


@transaction.atomic
def promise(by: Membership, pieces: Sequence[Piece], day: date | None, whom: str = "") -> None:
    """Promise lots dry by a day, instead of what was promised of them before; without a day the promise is taken back.

    Raises:
        Refused: no lots, or one that is used up.
    """
    require(by, Role.MAKER)
    if not 1 <= len(pieces) <= MOST_LOTS:
        raise Refused(f"One lot to {MOST_LOTS} are promised at a time.", "lots")
    for piece in pieces:
        if piece.status != Status.IN_STOCK:
            raise Refused(f"{piece.tag} is not in stock any more.", "lots")
        if day is None:
            if Promise.objects.of(by.workshop).filter(piece=piece).delete()[0]:
                log.write(by, "kiln", "promise_taken_back", subject=piece.tag)
            continue
        Promise.objects.update_or_create(workshop=by.workshop, piece=piece, defaults={"day": day, "whom": whom, "by": by.person})
        log.write(by, "kiln", "promised", subject=piece.tag, day=day.isoformat(), whom=whom)
