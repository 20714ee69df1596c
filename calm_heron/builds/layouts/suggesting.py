"""Parts laid on boards for a build: where the eye wants them first, then on boards of their thickness, then on thicker ones that are
resawn."""

from collections.abc import Callable, Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from calm_heron.builds.kinds import FigureKind, MarkKind
from calm_heron.builds.layouts import allocation
from calm_heron.builds.layouts.allocation import Plank, Saw, offered
from calm_heron.builds.models import Build, BuildPart
from calm_heron.stock.models import Piece
from wood.builds import layout, thickness, wishes
from wood.builds.layout import Board, Need, Placed, Rect

# Where on a board the wish of a part is met.
REGIONS = {FigureKind.UP: MarkKind.CATHEDRAL, FigureKind.STRAIGHT: MarkKind.STRAIGHT, FigureKind.FIGURED: MarkKind.FIGURE}
# Of a board that parts were cut from by their wishes, what is smaller than this is no board of its own any more, metres.
LEAST_LONG_M, LEAST_WIDE_M = 0.1, 0.02


@dataclass(frozen=True)
class Laid:
    """Where a blank lies, and into how many leaves it is resawn."""

    placed: Placed
    leaves: int = 1


@dataclass(frozen=True)
class Suggested:
    """What is laid anew, what of each part found no room, and the planks it takes, by key."""

    laid: tuple[Laid, ...]
    missing: dict[str, int]
    planks: Mapping[str, Plank]


@dataclass(frozen=True)
class _Free:
    """A board that nothing lies on, or what is left of one on one side of a block: its plank, and where on it."""

    plank: str
    rect: Rect

    @property
    def key(self) -> str:
        return f"{self.plank} {self.rect.x0:.6f} {self.rect.y0:.6f}"


class _Stages:
    """Parts laid in stages: where they wish, on boards of their thickness, on thicker ones that are resawn, and what is left on any that
    give it."""

    def __init__(self, build: Build, known: Saw, planks: dict[str, Plank], begun: list[Placed]) -> None:
        self.build, self.known, self.planks = build, known, planks
        self.laid: list[Laid] = []
        laid, taken = [item.need for item in begun], {item.board for item in begun}
        self.missing = {str(part.pk): part.pieces - laid.count(str(part.pk)) for part in known.parts}
        # What lies already keeps its board to itself.
        self.free = [_Free(key, plank.board.whole) for key, plank in planks.items() if key not in taken]
        self._fits: dict[tuple[int, int], bool] = {}

    def _may(self, part: BuildPart, piece: Piece) -> bool:
        if part.stock_id and part.stock_id != piece.pk:
            return False
        if (part.pk, piece.pk) not in self._fits:
            self._fits[part.pk, piece.pk] = not allocation.why_not(part, piece, self.build.workshop.system)
        return self._fits[part.pk, piece.pk]

    def wish(self, wanted: Callable[[BuildPart, Piece], bool], given_up: Collection[str]) -> None:
        """Lay the parts that wish something of their board where they wish it, the longest rows first; what finds no such place is laid as
        any other, and what is of a species (its key) whose wishes are ``given_up``."""
        wishing = [part for part in self.known.parts if part.species_key not in given_up and (part.figure in REGIONS or part.is_matched)]
        for part in sorted(wishing, key=lambda part: -part.rough_m[0] * (self.missing[str(part.pk)] if part.is_matched else 1)):
            many = self.missing[str(part.pk)] if part.is_matched else 1
            while self.missing[str(part.pk)] > 0 and self._lay_block(part, many, wanted):
                pass

    def _lay_block(self, part: BuildPart, count: int, wanted: Callable[[BuildPart, Piece], bool]) -> bool:
        length, width, _ = part.rough_m
        long = wishes.row_length_m(length, count, self.build.kerf_m)
        if long > layout.LENGTH_M[1]:
            return False
        best: tuple[float, _Free, Rect] | None = None
        for free in self.free:
            plank = self.planks[free.plank]
            if allocation.is_askew(part, plank) or not (wanted(part, plank.piece) and self._may(part, plank.piece)):
                continue
            for region, kept_out in self._regions(part, free):
                block = wishes.first_clear(region, kept_out, long, width)
                # Of the places that will do, the one on the smallest piece of the least dear wood.
                cost = free.rect.area_m2 * plank.dear
                if block is not None and (best is None or cost < best[0] - 1e-9):
                    best = cost, free, block
        if best is None:
            return False
        _, free, block = best
        for rect in wishes.in_a_row(block, count, self.build.kerf_m):
            self.laid.append(Laid(Placed(str(part.pk), free.plank, rect)))
        self.missing[str(part.pk)] -= count
        rest = [_Free(free.plank, rect) for rect in wishes.rest_of(free.rect, block, self.build.kerf_m)]
        kept = [one for one in rest if one.rect.x1 - one.rect.x0 >= LEAST_LONG_M and one.rect.y1 - one.rect.y0 >= LEAST_WIDE_M]
        at = self.free.index(free)
        self.free[at : at + 1] = kept
        return True

    def _regions(self, part: BuildPart, free: _Free) -> Iterator[tuple[Rect, Sequence[Rect]]]:
        """Where on a free board a part may lie by its wish, and what it stays off: what runs level off the cathedrals, too."""
        plank = self.planks[free.plank]
        kept_out = plank.board.kept_out
        kind = REGIONS.get(FigureKind(part.figure))
        if kind is None:
            is_level = part.figure == FigureKind.ALONG
            cathedrals = [look.rect for look in plank.looks if is_level and look.kind == MarkKind.CATHEDRAL]
            yield free.rect, [*kept_out, *cathedrals]
            return
        for look in plank.looks:
            if look.kind == kind and (there := wishes.common(look.rect, free.rect)) is not None:
                yield there, kept_out

    def lay(self, leaves: int, wanted: Callable[[BuildPart, Piece], bool], *, askew: bool = False) -> None:
        """Lay what is still missing on boards that are still free, a blank giving so many leaves; legs on boards whose grain runs along
        them, or ``askew`` on the others, in blanks that are wide enough for it."""
        free = {one.key: one for one in self.free[: layout.MOST_BOARDS]}
        pieces = {key: self.planks[one.plank].piece for key, one in free.items()}
        suiting: dict[tuple[Any, ...], bool] = {}

        def suits(part: BuildPart, piece: Piece) -> bool:
            # Boards of a lot are alike, and so are many parts: asked once for all of them.
            key = (part.rough_m[2], part.stock_id, piece.thickness_m)
            if key not in suiting:
                suiting[key] = wanted(part, piece)
            return suiting[key] and self._may(part, piece)

        needs = []
        for part in self.known.parts:
            count = -(-self.missing[str(part.pk)] // leaves)
            boards = frozenset(
                key
                for key, piece in (pieces.items() if count > 0 else ())
                if suits(part, piece) and allocation.is_askew(part, self.planks[free[key].plank]) == askew
            )
            if boards:
                length, width = max(allocation.blank_m(part, self.planks[free[key].plank]) for key in boards)
                needs.append(Need(str(part.pk), length, width, count, boards))
        if not needs:
            return
        plan = layout.suggest([self._board(one) for one in free.values()], needs, self.build.kerf_m)
        for placed in plan.placed:
            one, r = free[placed.board], placed.rect
            moved = Rect(r.x0 + one.rect.x0, r.x1 + one.rect.x0, r.y0 + one.rect.y0, r.y1 + one.rect.y0)
            self.laid.append(Laid(Placed(placed.need, one.plank, moved), leaves))
            self.missing[placed.need] = max(self.missing[placed.need] - leaves, 0)
        taken = {placed.board for placed in plan.placed}
        self.free = [one for one in self.free if one.key not in taken]

    def _board(self, one: _Free) -> Board:
        """A free board, or a part of one, as the core lays parts on it."""
        board = self.planks[one.plank].board
        r = one.rect
        kept_out = (wishes.common(bad, r) for bad in board.kept_out)
        moved = tuple(Rect(bad.x0 - r.x0, bad.x1 - r.x0, bad.y0 - r.y0, bad.y1 - r.y0) for bad in kept_out if bad is not None)
        return Board(one.key, r.x1 - r.x0, r.y1 - r.y0, moved, board.dear)


def suggested(build: Build, known: Saw, *, anew: bool) -> Suggested:
    """What is laid where for everything, or only for what is not laid yet. Parts come out of boards of their thickness; from thicker ones
    only where nothing else gives them, resawn where that yields two and more.

    Raises:
        OutOfRange: more parts or boards than a plan takes.
    """
    planks = {item.key: item for item in offered(build, known.parts)}
    keys = {board.pk: board.key for board in known.held}
    # What is sawn stays as it was sawn, whatever else is laid anew.
    stays = [cut for cut in known.cuts if not anew or cut.board_id in known.sawn_up]
    if not anew:
        planks |= {board.key: known.planks[board.pk] for board in known.held}
    begun = [Placed(str(cut.part_id), keys[cut.board_id], cut.rect) for cut in stays]

    def leaves_of(part: BuildPart, piece: Piece) -> int:
        return thickness.leaves(piece.thickness_m, part.rough_m[2], build.kerf_m)

    def near(part: BuildPart, piece: Piece) -> bool:
        return part.stock_id is not None or thickness.is_near(piece.thickness_m, part.rough_m[2])

    def laid(given_up: Collection[str]) -> _Stages:
        stages = _Stages(build, known, planks, begun)
        stages.wish(near, given_up)
        stages.lay(1, near)
        for count in range(2, thickness.MOST_LEAVES + 1):
            stages.lay(count, lambda part, piece, count=count: leaves_of(part, piece) == count)  # type: ignore[misc]
        stages.lay(1, lambda part, piece: True)
        stages.lay(1, near, askew=True)
        return stages

    stages = laid(())
    lacking = {part.species_key for part in known.parts if stages.missing[str(part.pk)] > 0}
    if lacking & {part.species_key for part in known.parts if part.figure in REGIONS or part.is_matched}:
        # A wish is no reason for a part to find no wood.
        without = laid(lacking)
        if sum(without.missing.values()) < sum(stages.missing.values()):
            stages = without
    return Suggested(tuple(stages.laid), {key: count for key, count in stages.missing.items() if count > 0}, planks)
