"""Reads for verdicts: one board, or the whole workshop at once."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime, timedelta

import numpy as np
from django.db.models import Aggregate, BinaryField, Case, F, FloatField, Q, QuerySet, Value, When
from django.db.models.expressions import Combinable, RawSQL
from django.db.models.functions import Cast, Coalesce, Extract
from django.http import Http404
from django.utils import timezone

from calm_heron.air import queries as air
from calm_heron.air.models import Place
from calm_heron.judging.models import Aim, UseRule
from calm_heron.judging.targets import Target, target
from calm_heron.judging.verdicts import READINGS_GOOD_DAYS, Asked, Judged, NotJudged, decide
from calm_heron.measuring.estimates import lot_boards
from calm_heron.measuring.models import PieceMoisture, Reading
from calm_heron.stock import queries as stock
from calm_heron.stock.kinds import NOT_JUDGED
from calm_heron.stock.models import Piece, Status
from calm_heron.workshops.models import Workshop
from calm_heron.workshops.versions import as_seen
from wood.judging.readiness import CODES, State, codes
from wood.measuring import lots
from wood.measuring.lots import LotMean
from wood.measuring.readings import Bound
from wood.uses import FINE, PLANK_FLOOR, STRIP_FLOOR, TURNING, USES, Use


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

    @property
    def seen(self) -> str:
        """What a form brings back that changes the aim."""
        return as_seen(*aim_settings(self.aim))


def aim_settings(aim: Aim | None) -> tuple[int, str] | tuple[()]:
    return (aim.place_id, aim.use_key) if aim else ()


def rule_settings(workshop: Workshop) -> list[tuple[str, float | None, float | None, float | None]]:
    """A workshop's own rules for uses, as a form brings them back that changes them."""
    return list(UseRule.objects.of(workshop).order_by("use_key").values_list("use_key", "tolerance", "evenness", "limit"))


# Flooring from this width on is plank, below it strip.
PLANK_FROM_M = 0.076


def usual_use(piece: Piece | None) -> str:
    """The use that a kind of piece is made for, where it says one."""
    if piece is None:
        return ""
    if piece.traits.is_laid_where_it_lies:
        return PLANK_FLOOR.key if piece.width_m >= PLANK_FROM_M else STRIP_FLOOR.key
    return TURNING.key if piece.traits.is_turned else ""


def chosen(workshop: Workshop, question: Mapping, piece: Piece | None = None) -> Chosen:
    """As asked for (``place``, ``use``), else what the ``piece`` is made for, else the workshop's aim, else its first place and fine work.

    Flooring is laid where it lies to acclimate.

    Raises:
        Http404: a place or a use is asked for that this workshop does not have; no other is taken for it.
    """
    places = list(air.places(workshop))
    aim = Aim.objects.of(workshop).first()
    by_id = {str(place.pk): place for place in places}
    by_key = uses(workshop)
    if question.get("place", "") not in ("", *by_id) or question.get("use", "") not in ("", *by_key):
        raise Http404
    lies = str(piece.place_id) if piece and piece.traits.is_laid_where_it_lies else ""
    place = (
        by_id.get(question.get("place", ""))
        or by_id.get(lies)
        or (by_id.get(str(aim.place_id)) if aim else None)
        or (places[0] if places else None)
    )
    use = by_key.get(question.get("use", "")) or by_key.get(usual_use(piece)) or by_key[aim.use_key if aim else FINE.key]
    return Chosen(places, place, by_key, use, aim)


def judged(piece: Piece, place: Place | None, use: Use) -> Judged | NotJudged:
    """The verdict of one piece or lot for a place and a use."""
    moisture = PieceMoisture.objects.filter(piece=piece).first()
    asked, wanted = Asked(place, use, piece.is_lot, piece.traits.is_turned), target(place, use)
    if moisture is None:
        return decide(asked, None, None, wanted, in_vain=Reading.objects.standing().filter(piece=piece).exists())
    return decide(asked, moisture.estimate(), moisture.at, wanted)


class Packed(Aggregate):
    """A column of numbers as one string of doubles: thousands of rows arrive in a millisecond, without an object for each.

    Columns packed in one query come in one order.
    """

    template = "string_agg(float8send(%(expressions)s), ''::bytea)"
    output_field = BinaryField()

    def __init__(self, expression: Combinable | str, **extra) -> None:
        super().__init__(Cast(expression, FloatField()), **extra)


def unpacked(packed: memoryview | None) -> np.ndarray:
    """The numbers of a :class:`Packed` column."""
    return np.frombuffer(packed or b"", dtype=">f8").astype(float)


@dataclass
class Overview:
    """The whole workshop against one target: how many pieces are in each state, and which pieces they are (ids, best first).

    ``unread`` are the pieces in stock without any reading that tells something, newest first.
    """

    target: Target | None
    total: int
    unread: list[int] = field(default_factory=list)
    counts: dict[State, int] = field(default_factory=dict)
    ids: dict[State, list[int]] = field(default_factory=dict)


SHOWN_OF_EACH = 12
NAN = Value(float("nan"))
# What the rule needs of a moisture, as columns of numbers; NaN where there is none.
COLUMNS = {
    "at": Extract("moisture__at", "epoch"),
    "mean": F("moisture__mean"),
    "own": F("moisture__instrument") * F("moisture__instrument") + F("moisture__sampling") * F("moisture__sampling"),
    "gradient": F("moisture__gradient"),
    "reach": F("moisture__reach"),
    "side": Case(When(moisture__bound=Bound.ABOVE, then=Value(1)), When(moisture__bound=Bound.BELOW, then=Value(-1)), default=Value(0)),
}


def overview(workshop: Workshop, wanted: Target | None, use: Use) -> Overview:
    """Judge all wood in stock in one query and one pass of the rule over arrays.

    Sample boards are judged through their lot, and what lies there as a subfloor is not judged.
    """
    packed = Piece.objects.of(workshop).in_stock().aggregate(
        ids=Packed("pk"),
        judged=Packed(Case(When(~Q(kind__in=NOT_JUDGED), lot=None, then=Value(1)), default=Value(0))),
        **{name: Packed(Coalesce(Cast(column, FloatField()), NAN)) for name, column in COLUMNS.items()},  # type: ignore[arg-type]  # the stubs
    )  # fmt: skip
    column = {name: unpacked(one) for name, one in packed.items()}
    ids, judged = column["ids"].astype(int), column["judged"] == 1
    unread = np.sort(ids[np.isnan(column["mean"])])[::-1]
    result = Overview(wanted, int(judged.sum()), unread[:SHOWN_OF_EACH].tolist())
    code, distance = _coded(column, wanted, use)
    for position, state in enumerate(CODES):
        members = np.flatnonzero((code == position) & judged)
        result.counts[state] = len(members)
        # The nearest to the level first: those are the next to become ready. What nobody read lately is not near anything.
        members = members[~np.isnan(distance[members])]
        members = members[np.argsort(np.abs(distance[members]), kind="stable")]
        result.ids[state] = ids[members[:SHOWN_OF_EACH]].tolist()
    return result


def _coded(column: dict[str, np.ndarray], wanted: Target | None, use: Use) -> tuple[np.ndarray, np.ndarray]:
    """The rule's answer for columns as in :data:`COLUMNS`, as positions in CODES, and how far off each lies.

    Where nothing was read, or not lately, it cannot be told, and the distance is NaN.
    """
    size = len(column["mean"])
    code, distance = np.full(size, CODES.index(State.CANNOT_TELL)), np.full(size, np.nan)
    if wanted is None or wanted.stale:
        return code, distance
    since = (timezone.now() - timedelta(days=READINGS_GOOD_DAYS + 1)).timestamp()
    with np.errstate(invalid="ignore"):
        fresh = column["at"] >= since
    read = {name: one[fresh] for name, one in column.items()}
    distance[fresh] = read["mean"] - wanted.moisture
    uncertainty = np.sqrt(read["own"] + wanted.tolerance**2)
    code[fresh] = codes(distance[fresh], uncertainty, use, read["gradient"], read["reach"], read["side"], wanted.tolerance)
    return code, distance


def states_of(pieces: Sequence[Piece], wanted: Target | None, use: Use) -> dict[int, State]:
    """The state of pieces that come with their ``moisture``, by id, as :func:`judged` would say it; no query."""
    rows = [getattr(piece, "moisture", None) for piece in pieces]

    def column(value) -> np.ndarray:
        return np.array([np.nan if row is None else value(row) for row in rows], dtype=float)

    code, _ = _coded(
        {
            "at": column(lambda row: row.at.timestamp()),
            "mean": column(lambda row: row.mean),
            "own": column(lambda row: row.instrument**2 + row.sampling**2),
            "gradient": column(lambda row: np.nan if row.gradient is None else row.gradient),
            "reach": column(lambda row: row.reach),
            "side": column(lambda row: Bound(row.bound).side),
        },
        wanted,
        use,
    )
    return {piece.pk: CODES[one] for piece, one in zip(pieces, code, strict=True)}


def in_states(workshop: Workshop, pieces: QuerySet[Piece], states: set[State], wanted: Target | None, use: Use) -> QuerySet[Piece]:
    """Those of a workshop's pieces whose verdict is one of ``states``, by tag; a subfloor has none."""
    rows = list(pieces.exclude(kind__in=NOT_JUDGED).order_by().annotate(**{f"the_{name}": column for name, column in COLUMNS.items()}).values_list(
        "pk", *(f"the_{name}" for name in COLUMNS)
    ))  # fmt: skip
    table = np.array([row[1:] for row in rows], dtype=float).reshape(-1, len(COLUMNS))
    code, _ = _coded(dict(zip(COLUMNS, table.T, strict=True)), wanted, use)
    asked = {CODES.index(state) for state in states}
    ids = [row[0] for row, one in zip(rows, code, strict=True) if one in asked]
    # Found once: what follows asks for these alone, as one array, not for everything again.
    return Piece.objects.of(workshop).filter(pk__in=RawSQL("SELECT unnest(%s::bigint[])", [ids])).order_by("tag")


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
    samples = list(stock.samples(lot).select_related("moisture"))
    boards = lot_boards(lot)
    # Boards beyond the meter's range decide by themselves; a mean is only of what was measured.
    measured = [board for board in boards if not board.estimate.bound]
    values = [board.mean for board in measured]
    result = lots.lot_mean(values, [board.part for board in measured], use.tolerance / 2, lot.count) if measured else None
    odd = [measured[i].name for i in lots.odd_ones(values)]
    return LotProgress(samples, result, odd, lots.read_next_in([board.part for board in boards]))


@dataclass(frozen=True)
class ReadNext:
    """A piece that wants a reading, and why."""

    piece: Piece
    why: str
    read_at: datetime | None


def read_next(workshop: Workshop, found: Overview, limit: int = 6) -> list[ReadNext]:
    """What to read next: pieces never read, then those whose verdict is open, then those read longest ago."""
    pieces = Piece.objects.of(workshop).select_related("place").in_bulk(found.unread[:limit])
    wanted = [ReadNext(pieces[pk], "never read", None) for pk in found.unread[:limit] if pk in pieces]
    open_ids = [*found.ids.get(State.CLOSE, []), *found.ids.get(State.CANNOT_TELL, []), *found.ids.get(State.TOO_UNEVEN, [])]
    rows = list(PieceMoisture.objects.of(workshop).filter(piece_id__in=open_ids[:limit]).select_related("piece__place"))
    rows.sort(key=lambda row: open_ids.index(row.piece_id))
    wanted += [ReadNext(row.piece, "its verdict is open", row.at) for row in rows]
    seen = {entry.piece.pk for entry in wanted}
    oldest = PieceMoisture.objects.of(workshop).select_related("piece__place").order_by("at")[: limit * 4]
    old = [row for row in oldest if row.piece.status == Status.IN_STOCK]
    wanted += [ReadNext(row.piece, "read longest ago", row.at) for row in old if row.piece_id not in seen]
    return wanted[:limit]
