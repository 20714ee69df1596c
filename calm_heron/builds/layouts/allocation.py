"""Which boards a part may be cut from, what of each is kept out, and what is laid where."""

from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property

from django.db.models import F, QuerySet

from calm_heron.builds.kinds import LOOKS, FigureKind, GrainWanted, MarkKind, PointsKind
from calm_heron.builds.models import Build, BuildPart, Cut, Held, Mark, Sawing, board_name
from calm_heron.judging import queries as judging
from calm_heron.judging import stock_states
from calm_heron.site.memory import Memory
from calm_heron.stock.kinds import TRAITS
from calm_heron.stock.models import Piece, Status, grain_of
from wood.arrays import Array
from wood.builds import cut_order, figure, layout, wishes
from wood.builds.cut_order import Sawn
from wood.builds.layout import Board, Placed, Rect
from wood.judging.readiness import State
from wood.units import System
from wood.written import cut_length

# Of a board that holds the pith, so wide a band about its middle is kept out where nobody marked it; of one with sapwood, so much of each
# edge.
PITH_BAND_M, SAPWOOD_EDGE_M = 0.05, 0.03
# No more boards are looked at than the plan can take, and of a lot no more than its parts could need.
MOST_OFFERED, MOST_OF_A_LOT = 120, 40
END = "end"
# Wood that must wait is dearer than wood that is ready: so much more of the ready is sawn up before any of it.
DEAR, WAITS = {State.READY: 1.0, State.WORKS_NOW: 1.1, State.CLOSE: 1.5, State.DRY: 1.5}, 4.0
CUTTABLE = [kind for kind, traits in TRAITS.items() if traits.has_grain and traits.is_sawn and traits.is_judged and not traits.is_turned]


@dataclass(frozen=True)
class KeptOut:
    """A rectangle that no part may touch: why, whether it was only assumed, and the mark it is."""

    rect: Rect
    kind: str
    assumed: bool = False
    mark: int | None = None


@dataclass(frozen=True)
class Plank:
    """A board as it lies on the saw: which one, what of it is kept out, and what the eye sees on it."""

    piece: Piece
    nth: int
    kept_out: tuple[KeptOut, ...]
    dear: float = 1.0
    looks: tuple[Mark, ...] = ()

    @property
    def key(self) -> str:
        return f"{self.piece.pk}.{self.nth}"

    @property
    def name(self) -> str:
        return board_name(self.piece, self.nth)

    @cached_property
    def rings(self) -> list[Array]:
        """What its rings draw on its face, metres from its lower left corner."""
        piece = self.piece
        pith = 0.0 if piece.has_pith else piece.pith_distance_m
        return figure.lines(piece.length_m, piece.width_m, piece.thickness_m, piece.ring_angle_deg, pith)

    @cached_property
    def slope(self) -> float:
        """How far its grain runs across for a metre along, as it was marked; above nothing where it rises to the right."""
        marks = [look for look in self.looks if look.kind == MarkKind.ASKEW and look.x1_m > look.x0_m]
        slopes = [(look.y1_m - look.y0_m) / (look.x1_m - look.x0_m) * (-1 if look.points == PointsKind.LEFT else 1) for look in marks]
        return min(max(max(slopes, key=abs, default=0.0), -1.0), 1.0)

    @property
    def board(self) -> Board:
        """As the core lays parts on it."""
        return Board(
            self.key,
            self.piece.length_m,
            self.piece.width_m,
            tuple(keep_out.rect for keep_out in self.kept_out)[: layout.MOST_KEPT_OUT],
            self.dear,
        )


def plank(build: Build, piece: Piece, nth: int, marks: Iterable[Mark], dear: float = 1.0) -> Plank:
    """A board with its ends cut off, its marks, and what must be assumed where nothing was marked."""
    length, width = piece.length_m, piece.width_m
    own = [mark for mark in marks if mark.nth == nth]
    looks = tuple(mark for mark in own if mark.kind in LOOKS)
    flaws = [mark for mark in own if mark.kind not in LOOKS and (build.sapwood_out or mark.kind != MarkKind.SAPWOOD)]
    results = [KeptOut(mark.rect, mark.kind, mark=mark.pk) for mark in flaws]
    end = min(build.end_m, length / 2)
    if end > 0:
        results += [KeptOut(Rect(0.0, end, 0.0, width), END), KeptOut(Rect(length - end, length, 0.0, width), END)]
    marked = {mark.kind for mark in own}
    if piece.has_pith and MarkKind.PITH not in marked:
        half = min(PITH_BAND_M, width) / 2
        results.append(KeptOut(Rect(0.0, length, width / 2 - half, width / 2 + half), MarkKind.PITH, assumed=True))
    if piece.has_sapwood and build.sapwood_out and MarkKind.SAPWOOD not in marked:
        edge = min(SAPWOOD_EDGE_M, width / 4)
        for low, high in ((0.0, edge), (width - edge, width)):
            results.append(KeptOut(Rect(0.0, length, low, high), MarkKind.SAPWOOD, assumed=True))
    return Plank(piece, nth, tuple(results), dear, looks)


# Grain that runs less askew than this a leg may have, metres across for a metre along.
LEAST_ASKEW = 0.02


def is_askew(part: BuildPart, plank: Plank) -> bool:
    """Whether a part is a leg whose squares are sawn askew out of this board, along its grain."""
    return part.figure == FigureKind.LEG and abs(plank.slope) > LEAST_ASKEW


def blank_m(part: BuildPart, plank: Plank) -> tuple[float, float]:
    """Length and width of the blank that a part is sawn from on a board: wider where a leg follows grain that runs askew."""
    length, width, _ = part.rough_m
    return length, wishes.askew_width_m(length, width, plank.slope) if is_askew(part, plank) else width


def why_not(part: BuildPart, piece: Piece, system: System) -> str:
    """Why a part cannot come from a piece at all, in a sentence; empty where it can."""
    length, width, thickness = part.rough_m

    def written(metres: float) -> str:
        return cut_length(metres, system)

    if piece.status != Status.IN_STOCK:
        return f"{piece.tag} is not in stock any more."
    if piece.kind not in CUTTABLE:
        return f"{piece.tag} is no board."
    if piece.species_key != part.species_key:
        return f"{piece.tag} is {piece.species.spoken_name}, and this part is to be {part.species.spoken_name}."
    if piece.thickness_m < thickness - 1e-6:
        return f"{piece.tag} is {written(piece.thickness_m)} thick; with what is left for planing this part needs {written(thickness)}."
    if piece.width_m < width - 1e-6:
        more = "" if part.staves > 1 else " Glue it from several boards, or choose a wider one."
        return f"{piece.tag} is {written(piece.width_m)} wide; this part needs {written(width)}.{more}"
    if piece.length_m < length - 1e-6:
        return f"{piece.tag} is {written(piece.length_m)} long; this part needs {written(length)}."
    if part.grain and grain_of(piece.ring_angle_deg).value != part.grain:
        return f"{piece.tag} is {piece.grain.lower()}, and this part is to be {GrainWanted(part.grain).label}."
    return ""


@dataclass
class Saw:
    """A build on the saw: its parts, the planks held for it, and what is cut from each.

    Read in a handful of queries, however many parts there are.
    """

    build: Build
    parts: list[BuildPart]
    held: list[Held]
    cuts: list[Cut]
    planks: dict[int, Plank] = field(default_factory=dict)

    @cached_property
    def sawn_up(self) -> dict[int, Sawing]:
        """The boards that were sawn already, by their ids."""
        rows = Sawing.objects.filter(board__build=self.build).select_related("by").prefetch_related("offcuts__piece")
        return {row.board_id: row for row in rows}

    @cached_property
    def sawn_pieces(self) -> set[int]:
        """The pieces of the stock that were sawn for it."""
        return {held.piece_id for held in self.held if held.pk in self.sawn_up}

    @cached_property
    def by_board(self) -> dict[int, list[Cut]]:
        results: dict[int, list[Cut]] = defaultdict(list)
        for cut in self.cuts:
            results[cut.board_id].append(cut)
        return results

    def only(self, part: BuildPart) -> "Saw":
        """The same with one of its parts alone."""
        return replace(self, parts=[part], cuts=[cut for cut in self.cuts if cut.part_id == part.pk])

    @cached_property
    def _parts(self) -> dict[int, BuildPart]:
        return {part.pk: part for part in self.parts}

    def part_of(self, cut: Cut) -> BuildPart:
        return self._parts[cut.part_id]

    @property
    def unlaid(self) -> list[tuple[BuildPart, int]]:
        """The pieces that still to place."""
        laid = {(cut.part_id, cut.nth) for cut in self.cuts}
        return [(part, nth) for part in self.parts for nth in range(part.pieces) if (part.pk, nth) not in laid]

    def blanks_on(self, board: Held) -> list[list[Cut]]:
        """What is cut from a board: each blank with the leaves it is resawn into, mostly one."""
        blanks: dict[tuple[float, ...], list[Cut]] = {}
        for cut in self.by_board.get(board.pk, []):
            r = cut.rect
            key = (round(r.x0, 6), round(r.y0, 6), round(r.x1, 6), round(r.y1, 6)) if cut.leaves > 1 else (cut.pk,)
            blanks.setdefault(key, []).append(cut)
        return [sorted(blank, key=lambda cut: cut.leaf) for blank in blanks.values()]

    def name_of(self, blank: Sequence[Cut]) -> str:
        """A blank by the names of the pieces that its leaves become."""
        part = self.part_of(blank[0])
        return "/".join(part.piece_name(leaf.nth) for leaf in blank)

    def placed_on(self, board: Held) -> list[Placed]:
        """What is cut from a board, as the core has it: leaves of one blank once."""
        return [Placed(str(blank[0].pk), board.key, blank[0].rect) for blank in self.blanks_on(board)]

    def sawn(self, board: Held) -> Sawn | None:
        """How a board is sawn up; None where no cuts right through free what lies on it."""
        plank, placed, kerf_m = self.planks[board.pk].board, self.placed_on(board), self.build.kerf_m
        # After one piece moved every other board is sawn as before.
        return _sawn.get((plank, tuple(one.rect for one in placed), kerf_m), lambda: cut_order.sawn(plank, placed, kerf_m))


_sawn: Memory[Sawn | None] = Memory(512)


def saw(build: Build, *, only_cuts: bool = False) -> Saw:
    """All that is known of a build's wood; ``only_cuts``: not for what its wood is at and where it lies."""
    of_a_piece = () if only_cuts else ("lot", "moisture", "place")
    parts = build.parts.all() if only_cuts else build.parts.select_related(*(f"stock__{name}" for name in of_a_piece))
    held = list(build.held.select_related("piece", *(f"piece__{name}" for name in of_a_piece)).order_by("piece__tag", "nth"))
    cuts = list(Cut.objects.filter(part__build=build).order_by("board", "x_m", "y_m"))
    marks = marks_of([board.piece_id for board in held])
    return Saw(build, list(parts), held, cuts, {board.pk: plank(build, board.piece, board.nth, marks[board.piece_id]) for board in held})


def marks_of(pieces: Iterable[int]) -> dict[int, list[Mark]]:
    """The marks of some pieces, by piece."""
    results: dict[int, list[Mark]] = defaultdict(list)
    for mark in Mark.objects.filter(piece__in=set(pieces)).order_by("pk"):
        results[mark.piece_id].append(mark)
    return results


def _stock(build: Build, parts: Sequence[BuildPart]) -> QuerySet[Piece]:
    """What is in stock of the species of some parts, the driest first."""
    species = {part.species_key for part in parts}
    pieces = Piece.objects.of(build.workshop).in_stock().filter(species_key__in=species, kind__in=CUTTABLE, lot=None)
    return pieces.order_by(F("moisture__mean").asc(nulls_last=True), "tag")


def _held(build: Build, pieces: Sequence[Piece]) -> tuple[dict[int, set[int]], dict[int, set[int]]]:
    """Which boards of some pieces the build holds itself, and which other builds hold: numbers by piece. What a finished build used up and
    somebody put back into stock is free."""
    own: dict[int, set[int]] = defaultdict(set)
    taken: dict[int, set[int]] = defaultdict(set)
    for held in Held.objects.of(build.workshop).filter(piece__in=[piece.pk for piece in pieces]).select_related("build", "piece"):
        if held.build_id == build.pk:
            own[held.piece_id].add(held.nth)
        elif held.piece.is_lot or not held.build.done_on:
            taken[held.piece_id].add(held.nth)
    return own, taken


def names_of_free(build: Build, parts: Sequence[BuildPart], most: int) -> list[tuple[str, str]]:
    """Boards to choose from by hand, by key and name: those that nobody holds, of a lot its next one."""
    pieces = list(_stock(build, parts)[:most])
    own, taken = _held(build, pieces)
    results = []
    for piece in sorted(pieces, key=lambda piece: piece.tag):
        in_use = own[piece.pk] | taken[piece.pk]
        nth = next((number for number in range(1, piece.count + 1) if number not in in_use), None)
        if nth is not None:
            results.append((f"{piece.pk}.{nth}", board_name(piece, nth)))
    return results


def offered(build: Build, parts: Sequence[BuildPart]) -> list[Plank]:
    """The boards that parts may be cut from: in stock, of their species, held by no other build; those held already and those chosen for a
    part first, then the driest. What must wait is dearer."""
    pieces = list(_stock(build, parts)[: 3 * MOST_OFFERED])
    own, taken = _held(build, pieces)
    chosen = {part.stock_id for part in parts if part.stock_id}
    marks = marks_of(piece.pk for piece in pieces)
    states = stock_states.states_of(pieces, judging.chosen(build.workshop, build.purpose_in_address).purposes) if pieces else {}
    results: list[tuple[tuple[bool, bool, int], Plank]] = []
    for order, piece in enumerate(pieces):
        most = sum(part.pieces for part in parts if part.species_key == piece.species_key)
        numbers = (
            [nth for nth in range(1, piece.count + 1) if nth not in taken[piece.pk]]
            if piece.count <= 10 * MOST_OF_A_LOT
            else ([nth for nth in range(1, 10 * MOST_OF_A_LOT + 1) if nth not in taken[piece.pk]])
        )
        for nth in numbers[: min(most, MOST_OF_A_LOT)]:
            rank = (nth not in own[piece.pk], piece.pk not in chosen, order)
            results.append((rank, plank(build, piece, nth, marks[piece.pk], DEAR.get(states.get(piece.pk, State.CANNOT_TELL), WAITS))))
    results.sort(key=lambda item: item[0])
    return [item for _, item in results][:MOST_OFFERED]


def first_place(plank: Plank, placed: Sequence[Placed], length_m: float, width_m: float, kerf_m: float) -> tuple[float, float] | None:
    """The first clear place on a board for a piece, from its left end and lower edge; None where there is none."""
    board, k = plank.board, kerf_m
    cut = [Rect(r.x0 - k, r.x1 + k, r.y0 - k, r.y1 + k) for r in (placement.rect for placement in placed)]
    clear = wishes.first_clear(board.whole, [*board.kept_out, *cut], length_m, width_m)
    return None if clear is None else (clear.x0, clear.y0)
