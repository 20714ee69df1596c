"""What people do with their stock."""

import re
import secrets
from collections.abc import Sequence
from typing import Any

from django.db import IntegrityError, transaction
from django.dispatch import Signal, receiver
from django.utils import timezone

from calm_heron.air.actions import place_retired
from calm_heron.air.models import Place
from calm_heron.logbook import actions as log
from calm_heron.stock import photographs, woods
from calm_heron.stock.kinds import TRAITS, PieceKind
from calm_heron.stock.models import LotPart, OwnSpecies, Photo, Piece, Status
from calm_heron.workshops.models import Membership, Role, Workshop
from calm_heron.workshops.refusals import Refused, require
from wood.errors import NotKnown
from wood.species import Species

# Sent with ``lot`` when other boards stand for it than before.
lot_changed = Signal()


@receiver(place_retired)
def _nothing_lies_there(place: Place, **_: Any) -> None:
    """A place is not retired while wood lies in it."""
    left = Piece.objects.filter(place=place).in_stock().count()
    if left:
        raise Refused(f"{left} piece{'s lie' if left != 1 else ' lies'} in {place.name}: move what is there first.")


PHOTOS_EACH = 6


@transaction.atomic
def add_piece(by: Membership, species_key: str, *, tag: str = "", **fields: Any) -> Piece:
    """A piece or lot; without a ``tag`` of its own it gets the next free one of its kind, as in ``oak-07`` or ``oak-lot-02``.

    Raises:
        Refused: there is no such species (any more), or the tag is taken.
    """
    require(by, Role.MAKER)
    lock_tags(by.workshop)
    wood = _still_there(by, species_key)
    kind, count = fields.get("kind", PieceKind.BOARD), fields.get("count", 1)
    tag = tag or next_tag(by.workshop, tag_word(wood.common_name, kind, count))
    if Piece.objects.of(by.workshop).filter(tag__iexact=tag).exists():
        raise Refused(f"There is a piece with the tag {tag} already.", "tag")
    piece = Piece.objects.create(workshop=by.workshop, tag=tag, species_key=species_key, added_by=by.person, **fields)
    log.write(by, "stock", "added", subject=piece.tag, kind_of_piece=kind, count=count, species=wood.common_name)
    return piece


def lock_tags(workshop: Workshop) -> None:
    """One at a time per workshop: the next tag is free, and no species of its own is dropped, until the transaction is done."""
    Workshop.objects.select_for_update().get(pk=workshop.pk)


def _still_there(by: Membership, species_key: str) -> Species:
    """A species, read anew once the workshop is locked: a species of its own is not dropped between the choice of it and the keeping."""
    woods.forget()
    try:
        return woods.species_of(by.workshop.pk, species_key)
    except NotKnown:
        raise Refused("This species is not here any more; choose another.", "species_key") from None


def tag_word(common_name: str, kind: str = PieceKind.BOARD, count: int = 1) -> str:
    """The short word for tags: the last word of the species' name (at most 12 letters), and the kind where it is no board.

    >>> tag_word("Northern red oak"), tag_word("Mahogany (true)"), tag_word("White ash", "bowl"), tag_word("White ash", count=40)
    ('oak', 'mahogany', 'ash-bowl', 'ash-lot')
    """
    words = re.findall(r"[a-z]+", re.sub(r"\(.*?\)|,.*", "", common_name.lower()))
    word = (words[-1] if words else "board")[:12]
    besides = TRAITS[PieceKind(kind)].tag_word or ("lot" if count > 1 else "")
    return f"{word}-{besides}" if besides else word


def next_tag(workshop: Workshop, word: str) -> str:
    """The next free one of ``word-01``, ``word-02`` … The word may hold what somebody typed: it is a text here and no pattern."""
    taken = Piece.objects.of(workshop).filter(tag__istartswith=f"{word}-").values_list("tag", flat=True)
    numbers = [rest for tag in taken if (rest := tag[len(word) + 1 :]).isascii() and rest.isdigit()]
    return f"{word}-{max((int(number) for number in numbers), default=0) + 1:02d}"


@transaction.atomic
def change_piece(by: Membership, piece: Piece, version: int, **changes: Any) -> None:
    """Change a piece, if nobody else has since ``version``.

    Raises:
        Refused: somebody else was first, the species is not there any more, or a lot would hold fewer pieces than it has sample boards.
    """
    require(by, Role.MAKER)
    lock_tags(by.workshop)
    locked = Piece.unchanged(by, piece.pk, version)
    _still_there(by, changes.get("species_key", locked.species_key))
    changed = [name for name, value in changes.items() if getattr(locked, name) != value]
    if changes.get("count", locked.count) < max(1, 2 * locked.samples.exists(), locked.samples.count()):
        raise Refused(f"It has {locked.samples.count()} sample boards; a lot holds at least those, and two.", "count")
    for name in changed:
        setattr(locked, name, changes[name])
    if "place" in changed:
        locked.moved_at = timezone.now()
    locked.save_changed()
    if "count" in changed:
        lot_changed.send(Piece, lot=locked)
    if changed:
        log.write(by, "stock", "changed", subject=locked.tag, fields=changed)


@transaction.atomic
def move(by: Membership, pieces: Sequence[tuple[int, int]], place: Place) -> int:
    """Move pieces, given as (id, version), with the sample boards of their lots. All go, or none.

    Raises:
        Refused: somebody else was first with one of them.
    """
    require(by, Role.HELPER)
    moved = 0
    for pk, version in sorted(pieces):
        piece = Piece.unchanged(by, pk, version)
        if piece.place_id == place.pk:
            continue
        came_from = piece.place.name if piece.place else None
        for sample in (piece, *piece.samples.all()):
            sample.place, sample.moved_at = place, timezone.now()
            sample.save_changed("place", "moved_at")
        moved += 1
        log.write(by, "stock", "moved", subject=piece.tag, to=place.name, came_from=came_from)
    return moved


@transaction.atomic
def set_status(by: Membership, pieces: Sequence[tuple[int, int]], status: Status) -> int:
    """Mark pieces as used, scrapped, or back in stock; sample boards go with their lot.

    Raises:
        Refused: somebody else was first with one of them.
    """
    require(by, Role.MAKER)
    marked = 0
    for pk, version in sorted(pieces):
        piece = Piece.unchanged(by, pk, version)
        if piece.status == status:
            continue
        for sample in (piece, *piece.samples.all()):
            sample.status = status
            sample.save_changed("status")
        marked += 1
        log.write(by, "stock", "status", subject=piece.tag, status=status)
        if piece.lot:
            lot_changed.send(Piece, lot=piece.lot)
    return marked


@transaction.atomic
def seal_ends(by: Membership, pieces: Sequence[tuple[int, int]]) -> int:
    """Note that the ends of pieces were sealed."""
    require(by, Role.MAKER)
    sealed = 0
    for pk, version in sorted(pieces):
        piece = Piece.unchanged(by, pk, version)
        if not piece.ends_sealed:
            piece.ends_sealed = True
            piece.save_changed("ends_sealed")
            log.write(by, "stock", "ends_sealed", subject=piece.tag)
            sealed += 1
    return sealed


# What a lot hands on to what is taken from it.
HANDED_ON = (
    "kind",
    "species_key",
    "thickness_m",
    "width_m",
    "length_m",
    "nominal",
    "dressed",
    "ring_angle_deg",
    "pith_distance_m",
    "seasoning",
    "ends_sealed",
    "has_pith",
    "has_sapwood",
    "felled_on",
    "sawn_on",
    "source",
    "defects",
    "place",
)


def _like(by: Membership, lot: Piece, tag: str, /, **more: Any) -> Piece:
    same = {name: getattr(lot, name) for name in HANDED_ON}
    return Piece.objects.create(workshop=by.workshop, tag=tag, added_by=by.person, **{**same, **more})


def left_over(by: Membership, board: Piece, length_m: float, width_m: float) -> Piece:
    """What is left of a board that was sawn, as a piece of its own: of the same wood and thickness, where it lay, by its own tag. Inside
    the transaction that saws it."""
    require(by, Role.MAKER)
    lock_tags(by.workshop)
    tag = next_tag(by.workshop, tag_word(board.species.common_name, board.kind))
    source = f"left of {board.tag}" + (f", {board.source}" if board.source else "")
    limit: int = Piece._meta.get_field("source").max_length or 100
    made = _like(by, board, tag, length_m=length_m, width_m=width_m, source=source[:limit], nominal="", ends_sealed=False)
    log.write(by, "stock", "left_over", subject=made.tag, board=board.tag)
    return made


def _of_a_lot(by: Membership, lot: Piece, version: int) -> Piece:
    require(by, Role.MAKER)
    lock_tags(by.workshop)
    locked = Piece.unchanged(by, lot.pk, version)
    if not locked.is_lot:
        raise Refused(f"{locked.tag} is a single piece; there is nothing to take from it.")
    return locked


@transaction.atomic
def split_lot(by: Membership, lot: Piece, version: int, count: int, sample_ids: Sequence[int] = ()) -> Piece:
    """Make a lot of ``count`` pieces out of another one; the chosen sample boards go with them.

    Raises:
        Refused: the lot does not hold as many, or fewer pieces than sample boards would be left on one side.
    """
    locked = _of_a_lot(by, lot, version)
    samples = list(locked.samples.filter(pk__in=sample_ids))
    staying = locked.samples.count() - len(samples)
    if not 1 <= count < locked.count:
        raise Refused(f"The lot holds {locked.count}; between 1 and {locked.count - 1} can be split off.", "count")
    if count < len(samples) or locked.count - count < staying:
        raise Refused(f"{len(samples)} sample boards would go and {staying} stay; neither side may hold fewer pieces than that.", "count")
    if count == 1 and samples:
        raise Refused(f"One piece is no lot; take {samples[0].tag} out by itself instead.", "count")
    made = _like(by, locked, next_tag(by.workshop, tag_word(locked.species.common_name, locked.kind, count)), count=count)
    for sample in samples:
        sample.lot = made
        sample.save_changed("lot")
    _leave_in(locked, locked.count - count)
    lot_changed.send(Piece, lot=made)
    log.write(by, "stock", "split_off", subject=made.tag, count=count, lot=locked.tag, left=locked.count)
    log.write(by, "stock", "split", subject=locked.tag, count=count, made=made.tag, left=locked.count)
    return made


@transaction.atomic
def take_out(by: Membership, lot: Piece, version: int, sample: Piece | None = None) -> Piece:
    """Take one piece out of a lot: a sample board by name, or any other, which gets a tag of its own."""
    locked = _of_a_lot(by, lot, version)
    if sample is None:
        if locked.count - 1 < locked.samples.count():
            raise Refused(f"All {locked.count} that are left are sample boards; choose one of them.")
        sample = _like(by, locked, next_tag(by.workshop, tag_word(locked.species.common_name, locked.kind)))
    else:
        sample.lot, sample.part = None, ""
        sample.save_changed("lot", "part")
    _leave_in(locked, locked.count - 1)
    log.write(by, "stock", "taken_out", subject=sample.tag, lot=locked.tag, left=locked.count)
    return sample


def _leave_in(lot: Piece, count: int) -> None:
    lot.count = count
    if count == 1:
        # The last one is a piece again, and no sample board stands for it any more.
        lot.samples.update(lot=None, part="")
    lot.save_changed("count")
    lot_changed.send(Piece, lot=lot)


@transaction.atomic
def add_sample(by: Membership, lot: Piece, part: str = "") -> Piece:
    """Name one board of a lot as a sample board, by the lot's tag and a number.

    Raises:
        Refused: every board of the lot is one already.
    """
    require(by, Role.HELPER)
    lock_tags(by.workshop)
    locked = Piece.locked(by, lot.pk)
    if not locked.is_lot or locked.samples.count() >= locked.count:
        raise Refused(f"{locked.tag} holds {locked.count}, and each is a sample board already.", "part")
    sample = _like(by, locked, next_tag(by.workshop, f"{locked.tag[:25]}-s"), lot=locked, part=LotPart(part))
    log.write(by, "stock", "sample_named", subject=sample.tag, lot=locked.tag)
    return sample


@transaction.atomic
def keep_species(by: Membership, row: OwnSpecies | None, version: int, **values: Any) -> OwnSpecies:
    """Add or change figures of the workshop's own; ``key`` is given for a published species and made up for a new one.

    Raises:
        Refused: somebody else was first, or there are figures of one's own for this species already.
    """
    require(by, Role.MAKER)
    if row is None:
        species = OwnSpecies(workshop=by.workshop, key=values.pop("key", "") or f"own-{secrets.token_hex(6)}")
    else:
        species = OwnSpecies.unchanged(by, row.pk, version)
        values.pop("key", None)
    for name, value in values.items():
        setattr(species, name, value)
    try:
        with transaction.atomic():
            species.save() if row is None else species.save_changed()
    except IntegrityError:
        raise Refused("There are figures of your own for this species already; change those.", "common_name") from None
    woods.forget()
    log.write(by, "stock", "own_figures", subject=species.common_name, figures=woods.figures(species))
    return species


@transaction.atomic
def drop_species(by: Membership, row: OwnSpecies) -> None:
    """Go back to the published figures, or drop a species of one's own that no piece is of.

    Raises:
        Refused: pieces are of it.
    """
    require(by, Role.MAKER)
    # Nobody adds a piece of it meanwhile.
    lock_tags(by.workshop)
    row = OwnSpecies.locked(by, row.pk)
    pieces = Piece.objects.of(by.workshop).filter(species_key=row.key).order_by("tag")
    if not row.is_published and pieces.exists():
        raise Refused(f"{pieces[0].tag} and perhaps others are {row.common_name}; give them another species first.")
    row.delete()
    woods.forget()
    log.write(by, "stock", "own_figures_dropped", subject=row.common_name)


@transaction.atomic
def add_photo(by: Membership, piece: Piece, content: bytes) -> Photo:
    """Keep a photograph of a piece.

    Raises:
        Refused: no picture, or the piece has as many as it may.
    """
    require(by, Role.HELPER)
    # Read before anything is locked: it may take a second.
    jpeg, width, height = photographs.small(content)
    Piece.objects.select_for_update().get(pk=piece.pk)
    if piece.photos.count() >= PHOTOS_EACH:
        raise Refused(f"A piece has at most {PHOTOS_EACH} photographs; take one away first.", "photo")
    photo = Photo.objects.create(workshop=by.workshop, piece=piece, jpeg=jpeg, width=width, height=height, by=by.person)
    log.write(by, "stock", "photographed", subject=piece.tag)
    return photo


@transaction.atomic
def remove_photo(by: Membership, photo: Photo) -> None:
    require(by, Role.MAKER)
    log.write(by, "stock", "photograph_removed", subject=photo.piece.tag)
    photo.delete()
