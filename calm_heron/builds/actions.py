"""Beginning builds, changing and ending them, and their parts."""

from collections.abc import Sequence
from datetime import date
from typing import Any

from django.db import IntegrityError, transaction
from django.utils import timezone

from calm_heron.builds.layouts import allocation
from calm_heron.builds.models import MOST_PARTS, MOST_PIECES, Build, BuildPart
from calm_heron.logbook import actions as log
from calm_heron.workshops.models import Membership, Role
from calm_heron.workshops.refusals import Refused, require

MOST_BUILDS = 500


@transaction.atomic
def make_build(by: Membership, **figures: Any) -> Build:
    """Start a build.

    Raises:
        Refused: its name is taken, its day is past, or there are too many.
    """
    require(by, Role.MAKER)
    _in_time(figures.get("due"))
    if Build.objects.of(by.workshop).count() >= MOST_BUILDS:
        raise Refused(f"A workshop keeps {MOST_BUILDS} builds; take out one that is done.")
    build = Build(workshop=by.workshop, made_by=by.person, **figures)
    _save_named(build)
    log.write(by, "builds", "made", subject=build.name)
    return build


def _in_time(due: date | None) -> None:
    if due is not None and due < timezone.localdate():
        raise Refused("That day is past. A build is due on a day in the future, or on none.", "due")


def _save_named(build: Build) -> None:
    """Save a build whose name nobody else may have taken."""
    try:
        with transaction.atomic():
            build.save()
    except IntegrityError:
        raise Refused(f"There is a build called “{build.name}” already.", "name") from None


@transaction.atomic
def change_build(by: Membership, build: Build, version: int, **figures: Any) -> Build:
    """Change what is known of a build as it was seen.

    Raises:
        Overtaken: someone else has changed it.
        Refused: its name is taken, or its new day is past.
    """
    require(by, Role.MAKER)
    row = Build.unchanged(by, build.pk, version)
    if figures.get("due") != row.due:
        _in_time(figures.get("due"))
    for name, value in figures.items():
        setattr(row, name, value)
    row.version += 1
    _save_named(row)
    log.write(by, "builds", "changed", subject=row.name)
    return row


@transaction.atomic
def delete_build(by: Membership, build: Build, *, let_go: bool) -> None:
    """Take out a build and let its boards go.

    Raises:
        Refused: it holds boards, and nobody said that they may go.
    """
    require(by, Role.MAKER)
    row = Build.locked(by, build.pk)
    held = list(row.held.select_related("piece").order_by("piece__tag", "nth"))
    if held and not let_go:
        names = ", ".join(board.name for board in held[:8]) + (" and others" if len(held) > 8 else "")
        raise Refused(f"{row.name} holds {names}. Say that its wood may go back to the others, and delete it again.", "let_go")
    log.write(by, "builds", "deleted", subject=row.name, boards=len(held))
    row.delete()


def open_build(by: Membership, build: Build) -> Build:
    """The build, locked, if it is still being made."""
    require(by, Role.MAKER)
    row = Build.locked(by, build.pk)
    if row.done_on:
        raise Refused(f"{row.name} is done.")
    return row


@transaction.atomic
def add_parts(by: Membership, build: Build, parts: Sequence[dict[str, Any]]) -> list[BuildPart]:
    """Add parts in their order: all of them or none.

    Raises:
        Refused: more than a build takes, or a part that its chosen board cannot give.
    """
    row = open_build(by, build)
    there = list(row.parts.all())
    if len(there) + len(parts) > MOST_PARTS:
        raise Refused(
            f"A build takes {MOST_PARTS} kinds of part; with these it would have {len(there) + len(parts)}. Make two builds of it.", "text"
        )
    made, number = [], max((part.number for part in there), default=0)
    for figures in parts:
        number += 1
        part = BuildPart(workshop=row.workshop, build=row, number=number, **figures)
        _can_be_had(part, f"{part.name}: " if len(parts) > 1 else "")
        made.append(part)
    if sum(part.pieces for part in [*there, *made]) > MOST_PIECES:
        raise Refused(f"A build takes {MOST_PIECES} pieces in all. Make two builds of it.", "text")
    BuildPart.objects.bulk_create(made)
    row.change()
    log.write(by, "builds", "parts_added", subject=row.name, count=len(made))
    return made


def _can_be_had(part: BuildPart, named: str = "") -> None:
    """Raise :class:`Refused` where the board or lot that was chosen for a part cannot give it."""
    if part.stock is not None and (why := allocation.why_not(part, part.stock, part.build.workshop.system)):
        raise Refused(named + why, "stock")


@transaction.atomic
def change_part(by: Membership, part: BuildPart, version: int, **figures: Any) -> BuildPart:
    """Change a part; where its pieces are no longer what they were, they come off their boards.

    Raises:
        Overtaken: someone else has changed the build.
        Refused.
    """
    row = open_build(by, part.build)
    row.must_be(version)
    saved = row.parts.filter(pk=part.pk).first()
    if saved is None:
        raise Refused("Someone else has taken this part out meanwhile.")
    saved.build = row
    before = (saved.rough_m, saved.pieces, saved.species_key, saved.grain, saved.stock_id)
    for name, value in figures.items():
        setattr(saved, name, value)
    _can_be_had(saved)
    if sum(part.pieces for part in row.parts.exclude(pk=saved.pk)) + saved.pieces > MOST_PIECES:
        raise Refused(f"A build takes {MOST_PIECES} pieces in all.", "count")
    saved.save()
    if before != (saved.rough_m, saved.pieces, saved.species_key, saved.grain, saved.stock_id):
        saved.cuts.all().delete()
        saved.glueups.all().delete()
        let_go_of_empty(row)
    row.change()
    log.write(by, "builds", "part_changed", subject=row.name, part=saved.name)
    return saved


@transaction.atomic
def delete_part(by: Membership, part: BuildPart) -> None:
    """Take a part out; the others move up.

    Raises:
        Refused: somebody else took it out.
    """
    row = open_build(by, part.build)
    saved = row.parts.filter(pk=part.pk).first()
    if saved is None:
        raise Refused("Someone else has taken this part out meanwhile.")
    name = saved.name
    saved.delete()
    for number, each_part in enumerate(row.parts.all(), 1):
        if each_part.number != number:
            row.parts.filter(pk=each_part.pk).update(number=number)
    let_go_of_empty(row)
    row.change()
    log.write(by, "builds", "part_deleted", subject=row.name, part=name)


def let_go_of_empty(build: Build) -> None:
    """Boards that nothing is cut from any more go back to the others."""
    build.held.filter(cuts=None, sawing=None).delete()
