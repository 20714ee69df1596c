"""Building a stack, changing it, taking it down."""

from collections.abc import Mapping, Sequence
from datetime import date, datetime
from typing import Any

from django.db import transaction
from django.dispatch import Signal, receiver
from django.utils import timezone

from calm_heron.air.actions import place_retired
from calm_heron.air.models import Place
from calm_heron.logbook import actions as log
from calm_heron.stacks.models import Stack, StackLot
from calm_heron.stock import actions as stock
from calm_heron.stock.models import Piece, Status
from calm_heron.workshops.models import Membership, Role
from calm_heron.workshops.refusals import Refused, require

MOST_LOTS = 20
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
    """Keep a stack of these lots, and move them to its place.

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
            raise Refused(f"{piece.tag} lies in {other.stack.tag} already: take that down first.", "lots")
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
        Overtaken: somebody else has changed it since ``version``. Refused: it was taken down.
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
def take_down(by: Membership, stack: Stack, version: int, came: Mapping[int, float] | None = None) -> None:
    """The stack stands no more; its lots stay in stock where they are. ``came`` is what each is at (fractions, by piece id).

    Raises:
        Overtaken. Refused: it was taken down already.
    """
    require(by, Role.HELPER)
    row = Stack.unchanged(by, stack.pk, version)
    if not row.standing:
        raise Refused(f"{row.tag} was taken down already.")
    _down(by, row, came or {})


def _down(by: Membership, row: Stack, came: Mapping[int, float]) -> None:
    row.standing = False
    row.save_changed("standing")
    # All of them in one moment: so it is known afterwards which lay in it to the end.
    now = timezone.now()
    for lot in row.lots.filter(standing=True):
        _out(lot, came.get(lot.piece_id), now)
    log.write(by, "stack", "taken_down", subject=row.tag)


def _out(lot: StackLot, came: float | None, at: datetime) -> None:
    lot.standing, lot.came, lot.out_at = False, came, at
    lot.save(update_fields=["standing", "came", "out_at"])


def take_out(by: Membership, lots: Mapping[int, float]) -> None:
    """Lots leave the stacks that they lie in, each with its moisture (a fraction, by piece id); a stack that is left empty is down. Inside
    the transaction of what they leave it for.
    """
    now = timezone.now()
    for lot in StackLot.objects.of(by.workshop).filter(piece__in=lots, standing=True).select_related("stack"):
        stack = Stack.locked(by, lot.stack_id)
        _out(lot, lots[lot.piece_id], now)
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
            raise Refused(f"{lot.piece.tag} is used up or lies in another stack by now, so {row.tag} stays down.")
        if lot.piece.place_id != row.place_id:
            raise Refused(f"{lot.piece.tag} was moved by now, so {row.tag} stays down.")
    being_stacked.send(Stack, pieces=[lot.piece for lot in lots])
    row.standing = True
    row.save_changed("standing")
    for lot in lots:
        lot.standing, lot.came, lot.out_at = True, None, None
        lot.save(update_fields=["standing", "came", "out_at"])
    log.write(by, "stack", "stands_again", subject=row.tag)
