"""Boards that are sawn: as they were laid out or otherwise, what is left of them kept in stock, and all of it taken back."""

from collections.abc import Collection
from dataclasses import dataclass
from typing import Any

from django.db import transaction
from django.dispatch import receiver
from django.utils import timezone

from calm_heron.builds import readiness
from calm_heron.builds.actions import let_go_of_empty, open_build
from calm_heron.builds.layouts import allocation
from calm_heron.builds.made import following
from calm_heron.builds.models import Build, Cut, Held, Mark, Offcut, Sawing
from calm_heron.logbook import actions as log
from calm_heron.measuring import queries as measuring
from calm_heron.stock import actions as stock
from calm_heron.stock.models import Piece, Status
from calm_heron.workshops.models import Membership, Role
from calm_heron.workshops.refusals import Refused, require
from wood.builds.layout import Rect

# The number of a board while it is being taken out of its lot: no lot has so many.
OUT_OF_ITS_LOT = 1_000_000


@receiver(stock.lot_changed)
def _minds_what_is_held(lot: Piece, **_: Any) -> None:
    """Boards of a lot that are held keep being held when it is split: they get other numbers, and no fewer than are held are left."""
    held = list(Held.objects.filter(piece=lot, sawing=None).order_by("nth"))
    if len(held) > lot.count:
        names = ", ".join(dict.fromkeys(row.build.name for row in held))
        raise Refused(f"{len(held)} boards of {lot.tag} are held for {names}; no more can go than are left over.", "count")
    beyond = [row for row in held if row.nth > lot.count]
    free = [nth for nth in range(1, lot.count + 1) if nth not in {row.nth for row in held}]
    for row, nth in zip(beyond, free, strict=False):
        _renumber(row, lot, nth)


def _renumber(row: Held, piece: Piece, nth: int) -> None:
    """A held board by another name, and its marks with it."""
    Mark.objects.filter(piece=row.piece, nth=row.nth).update(piece=piece, nth=nth)
    row.piece, row.nth = piece, nth
    row.save(update_fields=["piece", "nth"])


@dataclass(frozen=True)
class Left:
    """What is left of a board that is worth keeping: its place on it."""

    number: int
    rect: Rect


def left_of(known: allocation.Saw, held: Held) -> list[Left]:
    """What is worth keeping of a board sawn as it is laid out, the largest first."""
    sawn = known.sawn(held)
    return [Left(number, rect) for number, rect in enumerate(sawn.offcuts)] if sawn is not None else []


@transaction.atomic
def saw_board(
    by: Membership,
    build: Build,
    board_id: int,
    version: int,
    *,
    not_cut: Collection[int] = (),
    scrapped: Collection[int] = (),
    note: str = "",
) -> Sawing:
    """A board is sawn up: its pieces are cut, but for those that came to nothing (ids of cuts), and what is left is kept in stock, but for
    what was no good (numbers of :func:`left_of`).

    Raises:
        Overtaken. Refused: it is sawn already, nothing lies on it, or no cuts that run through free what does.
    """
    row = open_build(by, build)
    row.must_be(version)
    known = allocation.saw(row)
    held = next((board for board in known.held if board.pk == board_id), None)
    if held is None:
        raise Refused("That board is not held for this build any more.")
    sawing = _saw(by, row, known, held, set(not_cut), set(scrapped), note)
    row.change()
    return sawing


def _saw(
    by: Membership,
    build: Build,
    known: allocation.Saw,
    held: Held,
    not_cut: set[int],
    scrapped: set[int],
    note: str = "",
    *,
    at_the_end: bool = False,
) -> Sawing:
    if Sawing.objects.filter(board=held).exists():
        raise Refused(f"{held.name} is sawn already.")
    cuts = known.by_board.get(held.pk, [])
    if not cuts:
        raise Refused(f"Nothing is laid on {held.name}.")
    kept = [left for left in left_of(known, held) if left.number not in scrapped]
    name, piece = held.name, Piece.locked(by, held.piece_id)
    if piece.status != Status.IN_STOCK:
        raise Refused(f"{piece.tag} is not in stock any more.")
    sawing = Sawing.objects.create(
        workshop=build.workshop,
        board=held,
        by=by.person,
        as_planned=not not_cut and not scrapped and not note,
        at_the_end=at_the_end,
        moisture=measuring.moisture_to_begin_from(piece),
        note=note,
    )
    if piece.is_lot:
        # It leaves its lot by itself; what is held besides keeps its numbers where it can.
        aside = OUT_OF_ITS_LOT + held.pk
        for rows in (Mark.objects.filter(piece=piece, nth=held.nth), Held.objects.filter(pk=held.pk)):
            rows.update(nth=aside)
        single = stock.take_out(by, piece, piece.version)
        for moved in (Mark.objects.filter(piece=piece, nth=aside), Held.objects.filter(pk=held.pk)):
            moved.update(piece=single, nth=1)
        piece = single
    stock.set_status(by, [(piece.pk, piece.version)], Status.USED)
    piece.refresh_from_db()
    offcuts = []
    for left in kept:
        r = left.rect
        # The longer side is along the grain or across it: the grain stays where it was, and so do its sizes.
        made = stock.left_over(by, piece, r.x1 - r.x0, r.y1 - r.y0)
        Offcut.objects.create(workshop=build.workshop, sawing=sawing, piece=made)
        offcuts.append(made.tag)
    gone = [cut for cut in cuts if cut.pk in not_cut]
    Cut.objects.filter(pk__in=[cut.pk for cut in gone]).delete()
    log.write(by, "builds", "sawn", subject=build.name, board=name, pieces=len(cuts) - len(gone), offcuts=offcuts, note=note)
    return sawing


@transaction.atomic
def take_back(by: Membership, build: Build, board_id: int) -> None:
    """It was not sawn after all: the board is in stock again, and what was left of it is not.

    Raises:
        Refused: it is not sawn, or something left of it was read, moved on or used meanwhile.
    """
    row = open_build(by, build)
    sawing = Sawing.objects.filter(board__build=row, board_id=board_id).select_related("board__piece").first()
    if sawing is None:
        raise Refused("It is not sawn.")
    _take_back(by, sawing)
    row.change()
    log.write(by, "builds", "not_sawn", subject=row.name, board=sawing.board.name)


def _take_back(by: Membership, sawing: Sawing) -> None:
    stock.lock_tags(by.workshop)
    for offcut in sawing.offcuts.select_related("piece"):
        piece = offcut.piece
        if piece.status != Status.IN_STOCK or piece.readings.exists() or piece.held_for.exists():
            raise Refused(f"{piece.tag}, which was left of it, was read, laid out or used meanwhile: it stays sawn.")
        piece.delete()
    board = Piece.locked(by, sawing.board.piece_id)
    stock.set_status(by, [(board.pk, board.version)], Status.IN_STOCK)
    sawing.delete()


@transaction.atomic
def finish(by: Membership, build: Build, version: int, *, keep_offcuts: bool = True) -> tuple[Build, list[str]]:
    """The build is made: what was not sawn yet is, as it is laid out, and what is held besides is let go; the names of what was, as
    ``piece.nth``.

    Raises:
        Overtaken. Refused: a board that cannot be sawn as it is laid out.
    """
    require(by, Role.MAKER)
    row = Build.unchanged(by, build.pk, version)
    known = allocation.saw(row)
    # While its boards are still in stock: what they are at, and what they are cut to today.
    following.keep_as_made(readiness.state_of(known, by, at_once=0))
    used = 0
    for held in known.held:
        if held.pk in known.sawn_up or not known.by_board.get(held.pk) or held.piece.status != Status.IN_STOCK:
            continue
        scrapped = set() if keep_offcuts else {left.number for left in left_of(known, held)}
        _saw(by, row, known, held, set(), scrapped, at_the_end=True)
        used += 1
    let_go = [held.key for held in row.held.filter(cuts=None, sawing=None)]
    let_go_of_empty(row)
    row.change(done_on=timezone.localdate())
    log.write(by, "builds", "done", subject=row.name, boards=used)
    return row, let_go


@transaction.atomic
def reopen(by: Membership, build: Build, held: Collection[str]) -> None:
    """It is not made after all: boards that its end counted as sawn are in stock again, and what it let go is held again where nobody else
    holds it.

    Raises:
        Refused: it is being made, or something that was left of its boards was used meanwhile.
    """
    require(by, Role.MAKER)
    row = Build.locked(by, build.pk)
    if row.done_on is None:
        raise Refused(f"{row.name} is still being made.")
    row.change(done_on=None)
    following.forget_as_made(row)
    for sawing in Sawing.objects.filter(board__build=row, at_the_end=True).select_related("board__piece"):
        _take_back(by, sawing)
    for key in held:
        pk, _, nth = key.partition(".")
        if not (pk.isdecimal() and nth.isdecimal()):
            continue
        piece = Piece.objects.of(by.workshop).in_stock().filter(pk=int(pk)).first()
        if piece is not None and int(nth) <= piece.count and not Held.objects.filter(piece=piece, nth=int(nth)).exists():
            Held.objects.create(workshop=row.workshop, build=row, piece=piece, nth=int(nth))
    log.write(by, "builds", "not_done", subject=row.name)
