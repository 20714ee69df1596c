"""Holding boards for a build, laying its parts on them, marking what is kept out, and gluing up."""

from typing import Any

from django.db import IntegrityError, transaction

from calm_heron.builds.actions import let_go_of_empty, open_build
from calm_heron.builds.kinds import LOOKS, FaceKind, MarkKind
from calm_heron.builds.layouts import allocation, suggesting
from calm_heron.builds.models import Build, BuildPart, Cut, GlueUp, Held, Mark, PhotoFrame
from calm_heron.logbook import actions as log
from calm_heron.site.numbers import counted
from calm_heron.stock.models import Piece, Status
from calm_heron.workshops.models import Membership, Role
from calm_heron.workshops.refusals import Refused, require
from wood.builds import cut_order
from wood.builds.cut_order import Fault
from wood.builds.layout import Placed, Rect
from wood.errors import OutOfRange
from wood.written import cut_length

MOST_MARKS = 50


def _hold(build: Build, piece: Piece, nth: int) -> Held:
    """Keep a board for a build.

    Raises:
        Refused: it is not in stock, there is no such board in the lot, or another build holds it.
    """
    if piece.status != Status.IN_STOCK:
        raise Refused(f"{piece.tag} is not in stock any more.", "board")
    if not 1 <= nth <= piece.count:
        raise Refused(f"{piece.tag} has {counted(piece.count, 'board')}.", "board")
    held = build.held.filter(piece=piece, nth=nth).select_related("sawing").first()
    if held is not None:
        held.piece = piece
        return held
    if not piece.is_lot:
        # A board that a finished build used up, and that was put back into stock, is free again.
        Held.objects.filter(piece=piece, nth=nth).exclude(build__done_on=None).delete()
    try:
        with transaction.atomic():
            held, _ = Held.objects.get_or_create(workshop=build.workshop, build=build, piece=piece, nth=nth)
    except IntegrityError:
        other = Held.objects.of(build.workshop).filter(piece=piece, nth=nth).select_related("build", "piece").first()
        raise Refused(
            f"{other.name if other else piece.tag} is held for {other.build.name if other else 'another build'}; no board is cut twice.",
            "board",
        ) from None
    return held


@transaction.atomic
def lay_out(by: Membership, build: Build, version: int, *, anew: bool = False) -> dict[str, int]:
    """Lay all parts on boards as well as can be found, or only those that lie on none yet; how many of each part (by id) found no room.

    Raises:
        Overtaken: someone else has changed the build.
        Refused: no parts, or a board was taken by another build at this moment.
    """
    row = open_build(by, build)
    row.must_be(version)
    known = allocation.saw(row)
    if not known.parts:
        raise Refused("There are no parts yet.")
    try:
        suggestion = suggesting.suggested(row, known, anew=anew)
    except OutOfRange as beyond:
        raise Refused(f"This is more than one layout takes: {beyond}.") from None
    if anew:
        Cut.objects.filter(part__build=row, board__sawing=None).delete()
        row.held.filter(sawing=None).delete()
    laid = {(cut.part_id, cut.nth) for cut in known.cuts if not anew or cut.board_id in known.sawn_up}
    boards = {item.key: item for item in row.held.select_related("piece")}
    parts = {str(part.pk): part for part in known.parts}
    free = {key: [nth for nth in range(part.pieces) if (part.pk, nth) not in laid] for key, part in parts.items()}
    new = []
    for laid_now in sorted(suggestion.laid, key=lambda item: (item.placed.board, item.placed.rect.x0, item.placed.rect.y0)):
        placement, r = laid_now.placed, laid_now.placed.rect
        if placement.board not in boards:
            boards[placement.board] = _hold(row, suggestion.planks[placement.board].piece, suggestion.planks[placement.board].nth)
        leaves = min(laid_now.leaves, len(free[placement.need]))
        for leaf in range(leaves):
            new.append(
                Cut(
                    workshop=row.workshop,
                    part=parts[placement.need],
                    nth=free[placement.need].pop(0),
                    board=boards[placement.board],
                    x_m=r.x0,
                    y_m=r.y0,
                    length_m=r.x1 - r.x0,
                    width_m=r.y1 - r.y0,
                    leaf=leaf,
                    leaves=laid_now.leaves,
                )
            )
    Cut.objects.bulk_create(new)
    row.change()
    log.write(by, "builds", "laid_out", subject=row.name, pieces=len(new), boards=len(boards))
    return suggestion.missing


FAULTS = {
    Fault.OUTSIDE: "There it would reach over the edge of {board}.",
    Fault.KEPT_OUT: "That overlaps a marked defect in {board}.",
    Fault.OVERLAPS: "There {board} is cut already.",
    Fault.NO_KERF: "That’s closer to the next part than the {kerf} kerf.",
}


@transaction.atomic
def place(
    by: Membership, build: Build, version: int, part_id: int, nth: int, piece: Piece, board: int, x_m: float | None, y_m: float | None
) -> tuple[Cut, Cut | None]:
    """Lay one piece of a part on a board by hand; without a place, on the first that is clear. The cut, and the one that it was before.

    Raises:
        Overtaken: someone else has changed the build.
        Refused: it cannot lie there, and why.
    """
    row = open_build(by, build)
    row.must_be(version)
    system = by.workshop.system
    part = row.parts.filter(pk=part_id).first()
    if part is None:
        raise Refused("Someone else has taken this part out meanwhile.", "piece")
    if not 0 <= nth < part.pieces:
        raise Refused(f"There is no such piece of {part.name}.", "piece")
    if why := allocation.why_not(part, piece, system):
        raise Refused(why, "board")
    held = _hold(row, piece, board)
    before = part.cuts.filter(nth=nth).select_related("board__sawing").first()
    if hasattr(held, "sawing") or (before is not None and hasattr(before.board, "sawing")):
        raise Refused(
            f"{part.piece_name(nth)} is cut from a board that is sawn, or {held.name} is sawn: say first that it was not.", "board"
        )
    part.cuts.filter(nth=nth).delete()
    plank = allocation.plank(row, piece, board, allocation.marks_of([piece.pk])[piece.pk])
    # Leaves of one blank have one place.
    there = {(cut.rect if cut.leaves > 1 else cut.pk): Placed(str(cut.pk), held.key, cut.rect) for cut in held.cuts.all()}
    placed = list(there.values())
    length, width = allocation.blank_m(part, plank)
    if x_m is None or y_m is None:
        first_place = allocation.first_place(plank, placed, length, width, row.kerf_m)
        if first_place is None:
            raise Refused(f"Nowhere on {plank.name} is {cut_length(length, system)} by {cut_length(width, system)} left clear.", "board")
        x_m, y_m = first_place
    try:
        tried = Placed("", held.key, Rect(x_m, x_m + length, y_m, y_m + width))
    except OutOfRange:
        raise Refused(FAULTS[Fault.OUTSIDE].format(board=plank.name), "x_m") from None
    fault = cut_order.faults(plank.board, [*placed, tried], row.kerf_m).get(len(placed))
    if fault is not None:
        field = "y_m" if x_m >= 0 and x_m + length <= piece.length_m and fault is Fault.OUTSIDE else "x_m"
        raise Refused(FAULTS[fault].format(board=plank.name, kerf=cut_length(row.kerf_m, system)), field)
    cut = Cut.objects.create(workshop=row.workshop, part=part, nth=nth, board=held, x_m=x_m, y_m=y_m, length_m=length, width_m=width)
    if before is not None and before.board_id != held.pk:
        let_go_of_empty(row)
    row.change()
    log.write(by, "builds", "placed", subject=row.name, piece=part.piece_name(nth), board=plank.name)
    return cut, before


@transaction.atomic
def take_off(by: Membership, build: Build, cut_id: int) -> None:
    """Take one piece off its board; a board that nothing is cut from goes back to the others.

    Raises:
        Refused: it lies on none any more.
    """
    row = open_build(by, build)
    cut = Cut.objects.filter(part__build=row, pk=cut_id).select_related("part", "board__piece").first()
    if cut is None:
        raise Refused("It isn’t on any board any more.")
    name, board = cut.part.piece_name(cut.nth), cut.board.name
    if hasattr(cut.board, "sawing"):
        raise Refused(f"{board} is sawn: say first that it was not.")
    cut.delete()
    let_go_of_empty(row)
    row.change()
    log.write(by, "builds", "taken_off", subject=row.name, piece=name, board=board)


@transaction.atomic
def mark(
    by: Membership,
    piece: Piece,
    nth: int,
    kind: str,
    x0_m: float,
    x1_m: float,
    y0_m: float,
    y1_m: float,
    build: Build | None = None,
    *,
    points: str = "",
) -> list[str]:
    """Mark what of a board is kept out, from the page of a build, or what the eye sees there. The pieces that lay on what is kept out come
    off it and are named, those of other builds with these.

    Raises:
        Refused: it lies beyond the board, there are too many marks, or something other than a cathedral points somewhere.
    """
    require(by, Role.MAKER)
    row = Piece.locked(by, piece.pk)
    if points and kind not in (MarkKind.CATHEDRAL, MarkKind.ASKEW):
        raise Refused("Only a cathedral has a tip, and only askew grain rises.", "points")
    if not (0 <= x0_m < x1_m <= row.length_m + 1e-6):
        raise Refused(f"From and to lie along {row.tag}, which is {cut_length(row.length_m, by.workshop.system)} long.", "x1_m")
    if not (0 <= y0_m < y1_m <= row.width_m + 1e-6):
        raise Refused(f"From and to lie across {row.tag}, which is {cut_length(row.width_m, by.workshop.system)} wide.", "y1_m")
    if row.sawn_round.count() >= MOST_MARKS:
        raise Refused(f"{row.tag} has {MOST_MARKS} marks already; mark larger pieces of it.")
    made = Mark.objects.create(
        workshop=by.workshop,
        piece=row,
        nth=nth,
        kind=MarkKind(kind),
        points=points,
        x0_m=x0_m,
        x1_m=min(x1_m, row.length_m),
        y0_m=y0_m,
        y1_m=min(y1_m, row.width_m),
        by=by.person,
    )
    off: list[str] = []
    if made.kind in LOOKS:
        log.write(by, "builds", "marked", subject=row.tag, flaw=made.kind, off=0)
        return off
    cuts = Cut.objects.filter(board__piece=row, board__nth=nth, board__sawing=None, part__build__done_on=None)
    for cut in cuts.select_related("part__build"):
        if cut.rect.meets(made.rect) and (cut.part.build.sapwood_out or made.kind != MarkKind.SAPWOOD):
            # Who marks the board for one build is told whose piece comes off for another.
            other = f" of {cut.part.build.name}" if build is not None and cut.part.build_id != build.pk else ""
            off.append(f"{cut.part.piece_name(cut.nth)}{other}")
            cut.delete()
    log.write(by, "builds", "marked", subject=row.tag, flaw=made.kind, off=len(off))
    return off


@transaction.atomic
def show_face(by: Membership, build: Build, version: int, board_id: int, face: str) -> Held:
    """Which face of a held board shows in what is made of it.

    Raises:
        Overtaken. Refused: the board is not held any more.
    """
    row = open_build(by, build)
    row.must_be(version)
    held = row.held.filter(pk=board_id).select_related("piece").first()
    if held is None:
        raise Refused("That board is not held for this build any more.")
    held.face = FaceKind(face)
    held.save(update_fields=["face"])
    row.change()
    log.write(by, "builds", "face", subject=row.name, board=held.name)
    return held


@transaction.atomic
def frame_photo(by: Membership, build: Build, board_id: int, photo_id: int | None, sides: tuple[float, float, float, float]) -> None:
    """Lay the drawing of a held board on a photograph of it: from which to which share of the picture it reaches, from the left and from
    the top; without a photograph, on none.

    Raises:
        Refused: the board is not held any more, or the photograph is not of it.
    """
    row = open_build(by, build)
    held = row.held.filter(pk=board_id).select_related("piece").first()
    if held is None:
        raise Refused("That board is not held for this build any more.")
    PhotoFrame.objects.filter(photo__piece=held.piece, nth=held.nth).delete()
    if photo_id is not None:
        photo = held.piece.photos.filter(pk=photo_id).first()
        if photo is None:
            raise Refused("That photograph is not of this board any more.", "photo")
        x0, x1, y0, y1 = sides
        PhotoFrame.objects.filter(photo=photo).delete()
        PhotoFrame.objects.create(workshop=row.workshop, photo=photo, nth=held.nth, x0=x0, x1=x1, y0=y0, y1=y1)
    log.write(by, "builds", "framed", subject=row.name, board=held.name)


@transaction.atomic
def unmark(by: Membership, mark_id: int) -> None:
    """Take a mark away.

    Raises:
        Refused: it is gone already.
    """
    require(by, Role.MAKER)
    mark = Mark.objects.of(by.workshop).filter(pk=mark_id).select_related("piece").first()
    if mark is None:
        raise Refused("This mark is gone already.")
    log.write(by, "builds", "unmarked", subject=mark.piece.tag, flaw=mark.kind)
    mark.delete()


@transaction.atomic
def glue(
    by: Membership, part: BuildPart, copy: int, version: int | None, order: list[list[Any]], pairs: list[list[int]], **more: Any
) -> GlueUp:
    """Keep how a panel is glued up.

    Raises:
        Overtaken: someone else has laid it otherwise.
        Refused: it is no glued panel, a board is missing or there twice, or a pair does not lie side by side.
    """
    row = open_build(by, part.build)
    if part.staves < 2 or not 0 <= copy < part.count:
        raise Refused(f"{part.name} is not glued from several boards.")
    staves = [int(step[0]) for step in order]
    if sorted(staves) != list(range(part.staves)):
        raise Refused("Every board of the panel is in it once.", "order")
    for pair, other in pairs:
        if abs(staves.index(pair) - staves.index(other)) != 1:
            raise Refused(f"Boards {pair + 1} and {other + 1} are a bookmatched pair and lie side by side.", "order")
    saved = GlueUp.objects.filter(part=part, copy=copy).first()
    if saved is None:
        saved = GlueUp.objects.create(workshop=row.workshop, part=part, copy=copy, order=order, pairs=pairs, **more)
    else:
        saved = GlueUp.unchanged(by, saved.pk, version or 0)
        saved.change(order=order, pairs=pairs, **more)
    log.write(by, "builds", "glued" if more.get("glued_on") else "arranged", subject=row.name, part=part.name)
    return saved
