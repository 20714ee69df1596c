"""Building a stack, changing it, taking it down."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime, time
from typing import Any

from django.db import transaction
from django.dispatch import Signal, receiver
from django.utils import timezone

from calm_heron.air.actions import place_retired
from calm_heron.air.models import Place
from calm_heron.logbook import actions as log
from calm_heron.stacks.models import Stack, StackEvent, StackLot
from calm_heron.stock import actions as stock
from calm_heron.stock.models import Piece, Status
from calm_heron.workshops import spells
from calm_heron.workshops.models import Membership, Role
from calm_heron.workshops.refusals import Refused, require

MOST_LOTS = 20


@dataclass(frozen=True)
class CameOut:
    """What a lot is at when it leaves a stack or a chamber: in the mean, and its driest and wettest board (fractions)."""

    mean: float
    driest: float | None = None
    wettest: float | None = None


# Sent with the pieces that are about to lie in a stack; who holds one of them elsewhere refuses.
being_stacked = Signal()


@receiver(place_retired)
def _no_stack_stands_there(place: Place, **_: Any) -> None:
    """A place is not retired while a stack stands in it."""
    left = Stack.objects.filter(place=place, standing=True).count()
    if left:
        raise Refused(f"{left} stack{'s stand' if left != 1 else ' stands'} in {place.name}: take down what is there first.")


@transaction.atomic
def build_stack(
    by: Membership, lots: Sequence[Piece], place: Place, built_on: date, start_moisture: float, *, tag: str = "", **built: Any
) -> Stack:
    """Add a stack of these lots, and move them to its place.

    Raises:
        Refused: no lots, too many, one that is used up or lies in another stack already, or a tag that is taken.
    """
    require(by, Role.MAKER)
    stock.lock_tags(by.workshop)
    if not 1 <= len(lots) <= MOST_LOTS:
        raise Refused(f"A stack is built of one lot to {MOST_LOTS}.", "lots")
    tag = tag or _next_tag(by)
    if Stack.objects.of(by.workshop).filter(tag__iexact=tag).exists():
        raise Refused(f"There is a stack with the tag {tag} already.", "tag")
    pieces = [Piece.locked(by, piece.pk) for piece in sorted(lots, key=lambda piece: piece.pk)]
    for piece in pieces:
        if piece.status != Status.IN_STOCK:
            raise Refused(f"{piece.tag} is not in stock any more.", "lots")
        other = StackLot.objects.filter(piece=piece, standing=True).select_related("stack").first()
        if other is not None:
            raise Refused(f"{piece.tag} is in {other.stack.tag} already: take that down first.", "lots")
    being_stacked.send(Stack, pieces=pieces)
    stack = Stack.objects.create(
        workshop=by.workshop, tag=tag, place=place, built_on=built_on, start_moisture=start_moisture, added_by=by.person, **built
    )
    for piece in pieces:
        StackLot.objects.create(workshop=by.workshop, stack=stack, piece=piece)
    stock.move(by, [(piece.pk, piece.version) for piece in pieces], place)
    log.write(by, "stack", "built", subject=tag, lots=[piece.tag for piece in pieces], place=place.name, built_on=built_on.isoformat())
    return stack


def _next_tag(by: Membership) -> str:
    """The next free one of stack-01, stack-02 …"""
    taken = {tag.lower() for tag in Stack.objects.of(by.workshop).values_list("tag", flat=True)}
    return next(tag for number in range(1, 100_000) if (tag := f"stack-{number:02d}") not in taken)


@transaction.atomic
def change_stack(by: Membership, stack: Stack, version: int, **changes: Any) -> None:
    """Turn it, cover it, set it on other stickers, move it: each is an event in the log.

    Raises:
        Overtaken: someone else has changed it since ``version``. Refused: it was taken down.
    """
    require(by, Role.HELPER)
    row = Stack.unchanged(by, stack.pk, version)
    if not row.standing:
        raise Refused(f"{row.tag} was taken down.")
    changed = {name: value for name, value in changes.items() if getattr(row, name) != value}
    if not changed:
        return
    row.change(**changed)
    if "place" in changed:
        pieces = [lot.piece for lot in row.lots.filter(standing=True).select_related("piece")]
        stock.move(by, [(piece.pk, piece.version) for piece in pieces], row.place)
        log.write(by, "stack", "moved", subject=row.tag, place=row.place.name)
    if "turned" in changed:
        log.write(by, "stack", "turned", subject=row.tag, turned=row.turned)
    if {"sticker_m", "spacing_m", "width_m"} & set(changed):
        log.write(by, "stack", "restacked", subject=row.tag)
    if "cover" in changed:
        log.write(by, "stack", "covered", subject=row.tag, cover=row.cover)


@transaction.atomic
def note(
    by: Membership, stack: Stack, kind: str, words: str, at: datetime, until: datetime | None = None, *, goes_on: bool = False
) -> None:
    """Note what happened to a stack, from when to when, or that it goes on.

    Raises:
        Refused: it was taken down; a span that is none, or from before it was built.
    """
    require(by, Role.HELPER)
    row = _standing(by, stack)
    spells.check_span(at, until, timezone.make_aware(datetime.combine(row.built_on, time.min)), "the stack")
    StackEvent.objects.create(workshop=by.workshop, stack=row, kind=kind, words=words, by=by.person, at=at, until=until, goes_on=goes_on)
    log.write(by, "stack", "happened", subject=row.tag, how=kind, words=words)


@transaction.atomic
def change_event(by: Membership, stack: Stack, event: StackEvent, do: str) -> tuple[StackEvent, str]:
    """Something that was noted is over, goes on, was not so or was (:data:`calm_heron.workshops.spells.CHANGES`); the row that stands for
    it now, and what takes that back.

    Raises:
        Refused: it was taken down, or it cannot be done.
    """
    require(by, Role.HELPER)
    row = _standing(by, stack)
    stands: StackEvent
    stands, back = spells.change(by, event, do)
    log.write(by, "stack", f"event_{do}", subject=row.tag, how=event.kind)
    return stands, back


def _standing(by: Membership, stack: Stack) -> Stack:
    row = Stack.locked(by, stack.pk)
    if not row.standing:
        raise Refused(f"{row.tag} was taken down.")
    return row


@transaction.atomic
def take_down(
    by: Membership,
    stack: Stack,
    version: int,
    came: Mapping[int, CameOut] | None = None,
    *,
    out_m3: float | None = None,
    learnt: str = "",
) -> None:
    """The stack stands no more; its lots stay in stock where they are. ``came`` is what each is at (by piece id), ``out_m3`` the good wood
    that came out of it.

    Raises:
        Overtaken. Refused: it was taken down already.
    """
    require(by, Role.HELPER)
    row = Stack.unchanged(by, stack.pk, version)
    if not row.standing:
        raise Refused(f"{row.tag} was taken down already.")
    row.out_m3, row.learnt = out_m3, learnt
    row.save_changed("out_m3", "learnt")
    _down(by, row, came or {})


@transaction.atomic
def tell_outcome(by: Membership, stack: Stack, out_m3: float | None, learnt: str) -> None:
    """What came of a stack that is down: its good wood (m³), and what was learnt.

    Raises:
        Refused: it stands.
    """
    require(by, Role.HELPER)
    row = Stack.locked(by, stack.pk)
    if row.standing:
        raise Refused(f"{row.tag} stands: it is told once it is down.")
    row.out_m3, row.learnt = out_m3, learnt
    row.save_changed("out_m3", "learnt")
    log.write(by, "stack", "outcome", subject=row.tag, words=learnt)


@transaction.atomic
def foretell(by: Membership, stack: Stack, days: float) -> None:
    """Keep in how many days a stack that was built is foretold air-dry."""
    require(by, Role.MAKER)
    # No change of anybody's, so that its version stays.
    Stack.objects.of(by.workshop).filter(pk=stack.pk).update(foretold_days=days)


def _down(by: Membership, row: Stack, came: Mapping[int, CameOut]) -> None:
    row.standing = False
    row.save_changed("standing")
    # All of them in one moment: so it is known afterwards which lay in it to the end.
    now = timezone.now()
    for lot in row.lots.filter(standing=True):
        _out(lot, came.get(lot.piece_id), now)
    log.write(by, "stack", "taken_down", subject=row.tag)


def _out(lot: StackLot, came: CameOut | None, at: datetime) -> None:
    lot.standing, lot.out_at = False, at
    lot.came, lot.driest, lot.wettest = (came.mean, came.driest, came.wettest) if came else (None, None, None)
    lot.save(update_fields=["standing", "came", "driest", "wettest", "out_at"])


def take_out(by: Membership, lots: Mapping[int, float]) -> None:
    """Lots leave the stacks that they lie in, each with its moisture (a fraction, by piece id); a stack that is left empty is down. Inside
    the transaction of what they leave it for.
    """
    now = timezone.now()
    for lot in StackLot.objects.of(by.workshop).filter(piece__in=lots, standing=True).select_related("stack"):
        stack = Stack.locked(by, lot.stack_id)
        _out(lot, CameOut(lots[lot.piece_id]), now)
        if not stack.lots.filter(standing=True).exists():
            _down(by, stack, {})


@transaction.atomic
def stand_again(by: Membership, stack: Stack) -> None:
    """It was not taken down after all: it stands with the lots that lay in it to the end.

    Raises:
        Refused: it stands, or one of its lots is used up or lies elsewhere by now.
    """
    require(by, Role.HELPER)
    stock.lock_tags(by.workshop)
    row = Stack.locked(by, stack.pk)
    if row.standing:
        raise Refused(f"{row.tag} stands.")
    last = row.lots.order_by("-out_at").values_list("out_at", flat=True).first()
    # From before moments were kept there is none, and all lots left together.
    lots = list(row.lots.filter(out_at=last).select_related("piece"))
    for lot in lots:
        if lot.piece.status != Status.IN_STOCK or StackLot.objects.filter(piece=lot.piece, standing=True).exists():
            raise Refused(f"{lot.piece.tag} is used up or in another stack by now, so {row.tag} stays down.")
        if lot.piece.place_id != row.place_id:
            raise Refused(f"{lot.piece.tag} was moved by now, so {row.tag} stays down.")
    being_stacked.send(Stack, pieces=[lot.piece for lot in lots])
    row.standing = True
    row.save_changed("standing")
    for lot in lots:
        lot.standing, lot.came, lot.driest, lot.wettest, lot.out_at = True, None, None, None, None
        lot.save(update_fields=["standing", "came", "driest", "wettest", "out_at"])
    log.write(by, "stack", "stands_again", subject=row.tag)
