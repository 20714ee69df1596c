"""What people do about cracks: they find them, mend them, turn them away, and take that back."""

from typing import Any

from django.db import transaction

from calm_heron.logbook import actions as log
from calm_heron.stock.models import Piece
from calm_heron.turning.actions import turned_of
from calm_heron.turning.models import CrackFound, CrackMended, CrackStruck
from calm_heron.workshops.corrections import again
from calm_heron.workshops.models import Membership, Role
from calm_heron.workshops.refusals import Refused, require

MOST_CRACKS = 30


@transaction.atomic
def find_crack(by: Membership, piece: Piece, **figures: Any) -> CrackFound:
    """Keep a crack that was found.

    Raises:
        Refused: too many.
    """
    require(by, Role.HELPER)
    row = turned_of(by, piece)
    if row.cracks.count() >= MOST_CRACKS:
        raise Refused(f"{MOST_CRACKS} cracks in one bowl: it is firewood.")
    crack = CrackFound.objects.create(workshop=by.workshop, piece=row, by=by.person, **figures)
    log.write(by, "turning", "cracked", subject=row.tag, where=crack.where, depth_m=crack.depth_m)
    return crack


@transaction.atomic
def forget_crack(by: Membership, crack: CrackFound) -> None:
    """A crack that was turned away, or was none.

    Raises:
        Refused: somebody else was first.
    """
    require(by, Role.HELPER)
    tag = turned_of(by, crack.piece).tag
    if not CrackFound.objects.of(by.workshop).filter(pk=crack.pk).exists():
        raise Refused("Someone else has taken it out meanwhile.")
    CrackStruck.objects.create(workshop=by.workshop, crack=crack, by=by.person)
    log.write(by, "turning", "crack_gone", subject=tag)


@transaction.atomic
def restore_crack(by: Membership, crack: CrackFound) -> CrackFound:
    """A crack that was said to be gone is there after all: a new row of its own day, mended as it was.

    Raises:
        Refused: it was not taken out, or is back already.
    """
    require(by, Role.HELPER)
    tag = turned_of(by, crack.piece).tag
    struck = CrackStruck.objects.of(by.workshop).filter(crack=crack)
    if not struck.exists() or CrackFound.objects.of(by.workshop).filter(piece=crack.piece, at=crack.at).exists():
        raise Refused("It stands already.")
    back: CrackFound = again(crack, by)
    back.save()
    if crack.mend is not None:
        CrackMended.objects.create(workshop=by.workshop, crack=back, by=by.person, how=crack.mend.how, what=crack.mend.what)
    log.write(by, "turning", "crack_back", subject=tag)
    return back


@transaction.atomic
def mend_crack(by: Membership, crack: CrackFound, how: str, what: str = "") -> CrackMended:
    """A crack was filled or glued, or is open again.

    Raises:
        Refused: it is gone.
    """
    require(by, Role.HELPER)
    tag = turned_of(by, crack.piece).tag
    if not CrackFound.objects.of(by.workshop).filter(pk=crack.pk).exists():
        raise Refused("Someone else has taken it out meanwhile.")
    row = CrackMended.objects.create(workshop=by.workshop, crack=crack, by=by.person, how=how, what=what)
    log.write(by, "turning", "mended", subject=tag, how=how, using=what)
    return row
