"""Reads for verdicts: one board, or the whole workshop at once."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime, timedelta

import numpy as np
from django.db.models import Aggregate, BinaryField, Case, Exists, F, FloatField, OuterRef, QuerySet, Value, When
from django.db.models.functions import Cast, Coalesce
from django.utils import timezone

from calm_heron.air import queries as air
from calm_heron.air.models import Place
from calm_heron.judging.models import Aim, UseRule
from calm_heron.judging.targets import Target, target
from calm_heron.judging.words import READINGS_GOOD_DAYS, Answer, answer
from calm_heron.measuring.estimates import lot_boards
from calm_heron.measuring.models import PieceMoisture, Reading
from calm_heron.stock import queries as stock
from calm_heron.stock.models import Kind, Piece, Status
from calm_heron.stock.search import Search
from calm_heron.workshops.models import Workshop
from wood import lots
from wood.lots import LotMean
from wood.readiness import CODES, FINE, PLANK_FLOOR, SIDE, STRIP_FLOOR, TURNING, USES, State, Use, codes


def uses(workshop: Workshop) -> dict[str, Use]:
    """Every use as this workshop judges it."""
    rules = {rule.use_key: rule for rule in UseRule.objects.of(workshop)}
    return {key: _as_wanted(use, rules[key]) if key in rules else use for key, use in USES.items()}


def _as_wanted(use: Use, rule: UseRule) -> Use:
    wanted = {name: getattr(rule, name) for name in ("tolerance", "evenness", "limit") if getattr(rule, name) is not None}
    return replace(use, **wanted)


@dataclass(frozen=True)
class Chosen:
    """What a page is about: the place the wood will live in, the use, and what both could be."""

    places: list[Place]
    place: Place | None
    uses: dict[str, Use]
    use: Use
    aim: Aim | None

    @property
    def is_aim(self) -> bool:
        return self.aim is not None and self.aim.place_id == getattr(self.place, "pk", None) and self.aim.use_key == self.use.key

    @property
    def target(self) -> Target | None:
        return target(self.place, self.use)


# Flooring from this width on is plank, below it strip.
PLANK_FROM_M = 0.076
TURNED = (Kind.BOWL, Kind.BLANK, Kind.SPINDLE)


def usual_use(piece: Piece | None) -> str:
    """The use that a kind of piece is made for, where it says one."""
    if piece is None:
        return ""
    if piece.kind == Kind.FLOORING:
        return PLANK_FLOOR.key if piece.width_m >= PLANK_FROM_M else STRIP_FLOOR.key
    return TURNING.key if piece.kind in TURNED else ""


def chosen(workshop: Workshop, question: Mapping, piece: Piece | None = None) -> Chosen:
    """As asked for (``place``, ``use``), else what the ``piece`` is made for, else the workshop's aim, else its first place and fine work.

    Flooring is laid where it lies to acclimate.
    """
    places = list(air.places(workshop))
    aim = Aim.objects.of(workshop).first()
    by_id = {str(place.pk): place for place in places}
    lies = str(piece.place_id) if piece and piece.kind == Kind.FLOORING else ""
    place = (
        by_id.get(question.get("place", ""))
        or by_id.get(lies)
        or (by_id.get(str(aim.place_id)) if aim else None)
        or (places[0] if places else None)
    )
    by_key = uses(workshop)
    use = by_key.get(question.get("use", "")) or by_key.get(usual_use(piece)) or by_key[aim.use_key if aim else FINE.key]
    return Chosen(places, place, by_key, use, aim)


def judged(piece: Piece, place: Place | None, use: Use) -> Answer:
    """The verdict of one piece or lot for a place and a use."""
    moisture = PieceMoisture.objects.filter(piece=piece).first()
    wanted = target(place, use)
    if moisture is None:
        in_vain = Reading.objects.standing().filter(piece=piece).exists()
        return answer(None, None, wanted, place, use, in_vain, piece.is_lot)
    return answer(moisture.estimate(), moisture.at, wanted, place, use, lot=piece.is_lot, turned=piece.kind in TURNED)


class Packed(Aggregate):
    """A column of numbers as one string of doubles: thousands of rows arrive in a millisecond, without an object for each.

    Columns packed in one query come in one order.
    """

    template = "string_agg(float8send(%(expressions)s), ''::bytea)"
    output_field = BinaryField()

    def __init__(self, expression, **extra) -> None:
        super().__init__(Cast(expression, FloatField()), **extra)


def unpacked(packed: memoryview | None) -> np.ndarray:
    """The numbers of a :class:`Packed` column."""
    return np.frombuffer(packed or b"", dtype=">f8").astype(float)


@dataclass
class Overview:
    """The whole workshop against one target: how many pieces are in each state, and which pieces they are (ids, best first)."""

    target: Target | None
    total: int
    counts: dict[State, int] = field(default_factory=dict)
    ids: dict[State, list[int]] = field(default_factory=dict)


SHOWN_OF_EACH = 12


def overview(workshop: Workshop, wanted: Target | None, use: Use, every: bool = False) -> Overview:
    """Judge all wood in stock in one query and one pass of the rule over arrays; ``every`` names all ids, not the first of each state.

    Sample boards are judged through their lot, and what lies there as a subfloor is not judged.
    """
    counted = Piece.objects.of(workshop).in_stock().filter(lot=None).exclude(kind=Kind.SUBFLOOR)
    found = Overview(wanted, counted.count())
    fresh_since = timezone.now() - timedelta(days=READINGS_GOOD_DAYS + 1)
    # Boards read too long ago cannot be told and need not come here; like those never read they make up the rest of the total.
    rows = (
        PieceMoisture.objects.of(workshop)
        .filter(at__gte=fresh_since, piece__status=Status.IN_STOCK, piece__lot=None)
        .exclude(piece__kind=Kind.SUBFLOOR)
        .aggregate(
            ids=Packed("piece_id"),
            mean=Packed("mean"),
            own=Packed(F("instrument") * F("instrument") + F("sampling") * F("sampling")),
            gradient=Packed(Coalesce("gradient", Value(float("nan")), output_field=FloatField())),
            reach=Packed("reach"),
            side=Packed(Case(When(bound="above", then=Value(1)), When(bound="below", then=Value(-1)), default=Value(0))),
        )
    )
    column = {name: unpacked(packed) for name, packed in rows.items()}
    ids = column["ids"].astype(int)
    open_besides = found.total - len(ids)
    if not len(ids) or wanted is None or wanted.stale:
        found.counts = {State.CANNOT_TELL: found.total}
        return found
    difference, code = _coded(column, wanted, use)
    for position, state in enumerate(CODES):
        members = np.flatnonzero(code == position)
        # The nearest to the level first: those are the next to become ready.
        members = members[np.argsort(np.abs(difference[members]), kind="stable")]
        found.counts[state] = len(members)
        found.ids[state] = [int(one) for one in ids[members[: None if every else SHOWN_OF_EACH]]]
    found.counts[State.CANNOT_TELL] += open_besides
    return found


def _coded(column: dict[str, np.ndarray], wanted: Target, use: Use) -> tuple[np.ndarray, np.ndarray]:
    """How far off each is, and the rule's answer."""
    difference = column["mean"] - wanted.moisture
    uncertainty = np.sqrt(column["own"] + wanted.tolerance**2)
    return difference, codes(difference, uncertainty, use, column["gradient"], column["reach"], column["side"], wanted.tolerance)


def states_of(pieces: Sequence[Piece], wanted: Target | None, use: Use) -> dict[int, State]:
    """The state of pieces that come with their ``moisture``, by id, as :func:`judged` would say it; no query."""
    found = {piece.pk: State.CANNOT_TELL for piece in pieces}
    since = timezone.now() - timedelta(days=READINGS_GOOD_DAYS + 1)
    rows = [piece.moisture for piece in pieces if getattr(piece, "moisture", None) and piece.moisture.at >= since]
    if rows and wanted is not None and not wanted.stale:
        column = {
            "mean": np.array([row.mean for row in rows]), "own": np.array([row.instrument**2 + row.sampling**2 for row in rows]),
            "gradient": np.array([np.nan if row.gradient is None else row.gradient for row in rows]),
            "reach": np.array([row.reach for row in rows]), "side": np.array([SIDE[row.bound] for row in rows]),
        }  # fmt: skip
        found |= {row.piece_id: CODES[one] for row, one in zip(rows, _coded(column, wanted, use)[1], strict=True)}
    return found


SORTS = {
    "tag": ("tag",), "species": ("species_key", "tag"), "place": ("place__name", "tag"), "moisture": ("moisture__mean", "tag"),
    "read": ("moisture__at", "tag"), "count": ("count", "tag"),
}  # fmt: skip


def listed(workshop: Workshop, search: Search, wanted: Target | None, use: Use, sort: str = "") -> QuerySet[Piece]:
    """Pieces that answer a search, its verdict words included, in an order from :data:`SORTS` (a minus before it turns it round)."""
    found = stock.pieces(workshop, search)
    if search.states:
        every = overview(workshop, wanted, use, every=True)
        inside = [one for state in search.states for one in every.ids.get(state, [])]
        if State.CANNOT_TELL in search.states:
            others = [one for state, ids in every.ids.items() if state not in search.states for one in ids]
            found = found.exclude(pk__in=others)
        else:
            found = found.filter(pk__in=inside)
    down = sort.startswith("-")
    names = SORTS.get(sort.removeprefix("-"))
    if names is None:
        return found
    first = F(names[0])
    return found.order_by(first.desc(nulls_last=True) if down else first.asc(nulls_last=True), *names[1:])


@dataclass(frozen=True)
class LotProgress:
    """How far the reading of a lot has come: the boards read by part of the stack, the odd ones, and whether it is enough."""

    samples: list[Piece]
    mean: LotMean | None
    odd: list[str]
    next_part: str

    @property
    def enough(self) -> bool:
        return self.mean is not None and self.mean.more == 0 and not self.mean.unread


def lot_progress(lot: Piece, use: Use) -> LotProgress:
    """Sample boards and spot readings of a lot brought together against what ``use`` needs: an interval of half its tolerance."""
    samples = stock.samples(lot)
    boards = lot_boards(lot)
    values = [board.mean for board in boards]
    parts = [board.part for board in boards]
    found = lots.lot_mean(values, parts, use.tolerance / 2, lot.count) if boards else None
    return LotProgress(samples, found, [boards[i].name for i in lots.odd_ones(values)], lots.read_next_in(parts))


@dataclass(frozen=True)
class ReadNext:
    """A piece that wants a reading, and why."""

    piece: Piece
    why: str
    read_at: datetime | None


def read_next(workshop: Workshop, found: Overview, limit: int = 6) -> list[ReadNext]:
    """What to read next: pieces never read, then those whose verdict is open, then those read longest ago."""
    # The newest first, which the primary key finds without looking through all that was ever read.
    never = ~Exists(PieceMoisture.objects.filter(piece=OuterRef("pk")))
    newest = Piece.objects.of(workshop).filter(never).select_related("place").order_by("-id")[: limit * 5]
    unread = [piece for piece in newest if piece.status == Status.IN_STOCK][:limit]
    wanted = [ReadNext(piece, "never read", None) for piece in unread]
    open_ids = [*found.ids.get(State.CLOSE, []), *found.ids.get(State.CANNOT_TELL, []), *found.ids.get(State.TOO_UNEVEN, [])]
    rows = list(PieceMoisture.objects.of(workshop).filter(piece_id__in=open_ids[:40]).select_related("piece__place"))
    rows.sort(key=lambda row: open_ids.index(row.piece_id))
    wanted += [ReadNext(row.piece, "its verdict is open", row.at) for row in rows]
    seen = {one.piece.pk for one in wanted}
    oldest = PieceMoisture.objects.of(workshop).select_related("piece__place").order_by("at")[: limit * 10]
    old = [row for row in oldest if row.piece.status == Status.IN_STOCK]
    wanted += [ReadNext(row.piece, "read longest ago", row.at) for row in old if row.piece_id not in seen]
    return wanted[:limit]
