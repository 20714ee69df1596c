"""What people do with their stock."""

import re

from django.db import transaction
from django.db.models.functions import Length

from calm_heron.logbook import actions as log
from calm_heron.stock.models import Piece
from calm_heron.workshops.actions import Refused, require
from calm_heron.workshops.models import Membership, Role, Workshop
from wood.species import species

CHANGED_MEANWHILE = "{name} has changed this board since you opened it. What you typed is still here; keep it again to put it over theirs."


@transaction.atomic
def add_board(by: Membership, species_key: str, **sizes) -> Piece:
    """A board with the next free tag of its kind, as in ``oak-07``.

    Raises:
        wood.errors.NotKnown: no such species.
    """
    require(by, Role.MAKER)
    wood = species(species_key)
    # One at a time per workshop: the next tag is free until this is done.
    Workshop.objects.select_for_update().get(pk=by.workshop.pk)
    piece = Piece.objects.create(
        workshop=by.workshop, tag=next_tag(by.workshop, tag_word(wood.common_name)), species_key=species_key, added_by=by.person, **sizes
    )
    log.write(by, "stock", f"New board {piece.tag}: {wood.common_name}", subject=piece.tag)
    return piece


def tag_word(common_name: str) -> str:
    """The short word for a species' tags: the last word of its name, without brackets; at most 12 letters.

    >>> tag_word("Northern red oak"), tag_word("Yellow-poplar"), tag_word("Mahogany (true)")
    ('oak', 'poplar', 'mahogany')
    """
    words = re.findall(r"[a-z]+", re.sub(r"\(.*?\)|,.*", "", common_name.lower()))
    return (words[-1] if words else "board")[:12]


def next_tag(workshop: Workshop, word: str) -> str:
    last = (
        Piece.objects.of(workshop)
        .filter(tag__regex=rf"^{word}-\d+$")
        .order_by(Length("tag").desc(), "-tag")
        .values_list("tag", flat=True)
        .first()
    )
    return f"{word}-{int(last.rsplit('-', 1)[1]) + 1 if last else 1:02d}"


@transaction.atomic
def change_board(by: Membership, piece: Piece, version: int, **changes) -> None:
    """Change a board's sizes, grain, seasoning or place, if nobody else has since ``version``.

    Raises:
        Refused: somebody else was first.
    """
    require(by, Role.MAKER)
    locked = Piece.objects.of(by.workshop).select_for_update(of=("self",)).get(pk=piece.pk)
    if locked.version != version:
        raise Refused(CHANGED_MEANWHILE.format(name="Somebody else"))
    changed = [name for name, value in changes.items() if getattr(locked, name) != value]
    for name in changed:
        setattr(locked, name, changes[name])
    locked.version += 1
    locked.save()
    if changed:
        words = ", ".join(name.removesuffix("_m").removesuffix("_deg").removesuffix("_key").replace("_", " ") for name in changed)
        log.write(by, "stock", f"{locked.tag} changed: {words}", subject=locked.tag)
