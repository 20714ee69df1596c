"""The states of all wood at once: the rule over columns of numbers, saved for each piece's own purpose."""

from base64 import b64decode, b64encode
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, fields
from datetime import datetime, timedelta
from typing import Any

import numpy as np
from django.db.models import Aggregate, BinaryField, Case, F, FloatField, IntegerField, Q, QuerySet, Value, When
from django.db.models.expressions import Combinable, RawSQL
from django.db.models.functions import Cast, Coalesce, Extract
from django.utils import timezone

from calm_heron.answers.saved import KINDS, AnswerKind, Saved, answers_of
from calm_heron.judging.purposes import APPROACHES, LAID, NONE, OWN, PLANK_FROM_M, TURNED, USE_KEYS, Purposes, Said
from calm_heron.judging.settled import SPECIES_NUMBER, SizedWood, Woods
from calm_heron.judging.targets import Target
from calm_heron.judging.verdicts import MOVED_GOOD_DAYS, READINGS_GOOD_DAYS
from calm_heron.stock.dangers import dangers
from calm_heron.stock.kinds import NOT_JUDGED, TRAITS
from calm_heron.stock.models import Piece, Status
from calm_heron.workshops.models import Workshop
from wood.air.climate import day_of_year
from wood.drying.questions import settling_slabs
from wood.drying.settled import sizes_like
from wood.judging.readiness import CODES, NO_METER_M, VERDICT_RULE, Edges, State, around, average_near, codes, is_inside_unknown, stricter
from wood.measuring.readings import Bound
from wood.uses import PLANK_FLOOR, STRIP_FLOOR, TURNING, Against, Use


class Packed(Aggregate):
    """A column of numbers as one string of doubles: thousands of rows arrive in a millisecond, without an object for each.

    Columns packed in one query come in one order.
    """

    template = "string_agg(float8send(%(expressions)s), ''::bytea)"
    output_field = BinaryField()

    def __init__(self, expression: Combinable | str, **extra: Any) -> None:
        super().__init__(Cast(expression, FloatField()), **extra)


def unpacked(packed: memoryview | None) -> np.ndarray:
    """The numbers of a :class:`Packed` column."""
    return np.frombuffer(packed or b"", dtype=">f8").astype(float)


@dataclass
class Overview:
    """The whole workshop, each piece for what it is for: how many are in each state, and which they are (ids, best first).

    ``unread`` are the pieces in stock without any reading that tells something, newest first.
    """

    total: int
    unread: list[int] = field(default_factory=list)
    counts: dict[State, int] = field(default_factory=dict)
    ids: dict[State, list[int]] = field(default_factory=dict)


SHOWN_OF_EACH = 12
NOT_SAWN = [kind for kind, traits in TRAITS.items() if not traits.is_sawn]
NAN = Value(float("nan"))
# What the rule needs of a piece and its moisture, as columns of numbers; NaN where there is none.
COLUMNS = {
    "at": Extract("moisture__at", "epoch"),
    "mean": F("moisture__mean"),
    "own": F("moisture__instrument") * F("moisture__instrument") + F("moisture__sampling") * F("moisture__sampling"),
    "gradient": F("moisture__gradient"),
    "reach": F("moisture__reach"),
    "side": Case(When(moisture__bound=Bound.ABOVE, then=Value(1)), When(moisture__bound=Bound.BELOW, then=Value(-1)), default=Value(0)),
    "inside": Cast("moisture__inside", IntegerField()),
    "thickness": F("thickness_m"),
    "moved": Extract("moved_at", "epoch"),
}


# What its settled board hangs on: the sizes that count (m, none where it is cut from a log), and its species by a number of the database's.
SIZED = {
    "width": Case(When(kind__in=NOT_SAWN, then=NAN), default=F("width_m")),
    "length": Case(When(ends_sealed=True, then=NAN), default=F("length_m")),
    "sawn": Case(When(kind__in=NOT_SAWN, then=Value(0)), default=Value(1)),
    "species": SPECIES_NUMBER,
}
# What a piece's kind says of its purpose, and the lot whose purpose is its own, as numbers.
SAYS = {
    "usual": Case(
        When(kind__in=LAID, width_m__gte=PLANK_FROM_M, then=Value(USE_KEYS.index(PLANK_FLOOR.key))),
        When(kind__in=LAID, then=Value(USE_KEYS.index(STRIP_FLOOR.key))),
        When(kind__in=TURNED, then=Value(USE_KEYS.index(TURNING.key))),
        default=Value(NONE),
    ),
    "lies": Case(When(kind__in=LAID, then=Coalesce("place_id", Value(NONE))), default=Value(NONE)),
    "of_lot": Coalesce("lot_id", Value(NONE)),
}
NUMBERS: dict[str, Any] = COLUMNS | SIZED | SAYS


def _as_numbers() -> dict[str, Coalesce]:
    return {name: Coalesce(Cast(column, FloatField()), NAN) for name, column in NUMBERS.items()}


@dataclass(frozen=True)
class Stock:
    """All wood in stock, each piece for one purpose or its own: columns of one order. ``counts`` says which of it is counted: sample
    boards are judged through their lot, and what lies there as a subfloor is not judged. ``unread`` has no reading that tells something.
    """

    ids: np.ndarray
    code: np.ndarray
    distance: np.ndarray
    counts: np.ndarray
    unread: np.ndarray

    def packed(self) -> dict[str, str]:
        """The columns as text, a few bytes for each piece."""
        return {name: b64encode(getattr(self, name).astype(kind).tobytes()).decode() for name, kind in PACKED.items()}

    @classmethod
    def unpacked(cls, packed: Mapping[str, str]) -> "Stock":
        """The columns of :meth:`packed`."""
        return cls(**{name: np.frombuffer(b64decode(packed[name]), kind) for name, kind in PACKED.items()})


PACKED = {"ids": "<i8", "code": "<i1", "distance": "<f4", "counts": "?", "unread": "?"}


def _judged_now(workshop: Workshop, purposes: Purposes) -> Stock:
    """All wood in stock judged in one query and one pass of the rule over arrays."""
    counts = Case(When(~Q(kind__in=NOT_JUDGED), lot=None, then=Value(1)), default=Value(0))
    column = _columns_of(Piece.objects.of(workshop).in_stock(), judged=counts)
    code, distance = _coded(column, purposes)
    code = _endangered(column["ids"].astype(int), code, workshop)
    return Stock(column["ids"].astype(int), code, distance, column["judged"] == 1, np.isnan(column["mean"]))


def stock_states(workshop: Workshop, purposes: Purposes, saved: Saved | None = None) -> Stock:
    """The states of all wood in stock: those saved, where each piece is asked for its own purpose."""
    if purposes.typed_purpose != Said():
        return _judged_now(workshop, purposes)
    packed = (saved or answers_of(workshop.pk)).get(STATES, 0, lambda: _judged_now(workshop, purposes).packed())
    return Stock.unpacked(packed)


STATES = AnswerKind(
    50,
    "states",
    VERDICT_RULE,
    timedelta(hours=1),
    # What is dangerous is known by whoever found it.
    frozenset({"air", "stock", "measuring", "judging", "turning", "workshops"}),
    lambda workshop, saved: stock_states(workshop, Purposes(workshop), saved) and None,
)
KINDS.add(STATES)


def overview(workshop: Workshop, purposes: Purposes) -> Overview:
    """How much of the stock is in each state."""
    stock = stock_states(workshop, purposes)
    ids, judged, code, distance = stock.ids, stock.counts, stock.code, stock.distance
    unread = np.sort(ids[stock.unread])[::-1]
    result = Overview(int(judged.sum()), unread[:SHOWN_OF_EACH].tolist())
    for position, state in enumerate(CODES):
        members = np.flatnonzero((code == position) & judged)
        result.counts[state] = len(members)
        # The nearest to the level first: those are the next to become ready. What nobody read lately is not near anything.
        members = members[~np.isnan(distance[members])]
        members = members[np.argsort(np.abs(distance[members]), kind="stable")]
        result.ids[state] = ids[members[:SHOWN_OF_EACH]].tolist()
    return result


def _coded(column: dict[str, np.ndarray], purposes: Purposes) -> tuple[np.ndarray, np.ndarray]:
    """The rule's answer for columns as in :data:`NUMBERS`, as positions in CODES, and how far off each lies.

    Where nothing was read, or not lately, it cannot be told, and the distance is NaN.
    """
    size = len(column["mean"])
    code, distance = np.full(size, CODES.index(State.CANNOT_TELL)), np.full(size, np.nan)
    woods = purposes.woods
    now = timezone.now()
    since = (now - timedelta(days=READINGS_GOOD_DAYS + 1)).timestamp()
    settled_in = (now - timedelta(days=MOVED_GOOD_DAYS)).timestamp()
    with np.errstate(invalid="ignore"):
        fresh = column["at"] >= since
        # As :func:`decide` has it: read before it was carried to other air.
        fresh &= ~((column["moved"] > column["at"]) & (column["moved"] <= settled_in))
    said = _all_said(column, purposes)
    # Most pieces are for the same: those are told from the few others without sorting all.
    left = np.flatnonzero(fresh)
    while left.size:
        alike = (said[left] == said[left[0]]).all(axis=1)
        members, left = left[alike], left[~alike]
        purpose = purposes.purpose(*_said(said[members[0]]))
        wanted = purposes.target(purpose)
        if wanted is None or wanted.stale:
            continue
        if purpose.use.against is not Against.LIMIT:
            members = members[column["thickness"][members] >= NO_METER_M]
        read = {name: column[name][members] for name in (*COLUMNS, *SIZED)}
        code[members], distance[members] = _by(read, wanted, purpose.use, woods)
        if wanted.also:
            code[members] = stricter(code[members], _by(read, wanted.also, purpose.use, woods)[0])
    return code, distance


def _all_said(column: dict[str, np.ndarray], purposes: Purposes) -> np.ndarray:
    """A row for each piece: the usual use, where it lies that will be laid there, and of its own purpose, or its lot's, place, use,
    approach and moisture."""
    result = np.full((len(column["ids"]), 2 + OWN), float(NONE))
    result[:, 0], result[:, 1] = column["usual"], column["lies"]
    if not len(purposes.own):
        return result
    # Its own goes before its lot's.
    for key in ("of_lot", "ids"):
        at = np.minimum(np.searchsorted(purposes.own[:, 0], column[key]), len(purposes.own) - 1)
        outcome = purposes.own[at, 0] == column[key]
        result[outcome, 2:] = purposes.own[at[outcome], 1:]
    return result


def _said(numbers: np.ndarray) -> tuple[Said, str, int | None]:
    """A row of :func:`_all_said`: the own purpose, the usual use, and where it lies that will be laid there."""
    usual, lies, place, use, approach, moisture = numbers
    own = Said(
        None if place == NONE else int(place),
        "" if use == NONE else USE_KEYS[int(use)],
        "" if approach == NONE else APPROACHES[int(approach)],
        None if moisture == NONE else float(moisture),
    )
    return own, "" if usual == NONE else USE_KEYS[int(usual)], None if lies == NONE else int(lies)


def _by(read: dict[str, np.ndarray], wanted: Target, use: Use, woods: Woods) -> tuple[np.ndarray, np.ndarray]:
    """Codes of what was read, by one target, and how far each lies from its nearest average."""
    uncertainty = np.sqrt(read["own"] + wanted.tolerance**2)
    unknown = is_inside_unknown(read["thickness"], read["inside"] == 1)
    today, then = _edges(read, wanted, use, woods)
    code = codes(read["mean"], uncertainty, use, today, read["gradient"], read["reach"], read["side"], wanted.tolerance, unknown, then)
    average = today.high if use.against is Against.LIMIT else average_near(read["mean"], today, use)
    return code, read["mean"] - average


def _edges(read: dict[str, np.ndarray], wanted: Target, use: Use, woods: Woods) -> tuple[Edges, Edges | None]:
    """The edges of each piece today and on the day on which it was read, as :meth:`Target.edges` gives them for one."""
    if wanted.home is None:
        return around(wanted.moisture, use), None
    slabs = settling_slabs(read["thickness"], read["width"], read["length"], read["sawn"] == 1)
    sizes = sizes_like(slabs)
    zone, now = timezone.get_current_timezone(), timezone.localtime()
    today = day_of_year(now.date())
    columns = np.empty((2, len(slabs), len(fields(Edges))))
    alike, which = np.unique(np.stack([read["species"], sizes], axis=1), axis=0, return_inverse=True)
    # Read on few days: each is turned into a day of the year once.
    moments, moment_of = np.unique(np.floor(read["at"] / 3600.0), return_inverse=True)
    read_on = np.array([day_of_year(datetime.fromtimestamp(hour * 3600.0, zone).date()) for hour in moments])[moment_of]
    for number, (species, size) in enumerate(alike):
        members = np.flatnonzero(which.reshape(-1) == number)
        each = wanted.home.wanted(SizedWood(woods[species], float(size)), use)
        columns[0, members] = each.rows(np.array([today]))
        columns[1, members] = each.rows(read_on[members])
    return Edges(*columns[0].T), Edges(*columns[1].T)


def states_of(pieces: Sequence[Piece], purposes: Purposes) -> dict[int, State]:
    """The state of some pieces for what each is for, by id, as :func:`judged` would say it."""
    wanted = {piece.pk for piece in pieces}
    known: dict[int, State] = {}
    if purposes.typed_purpose == Said():
        stock = stock_states(purposes.workshop, purposes)
        there = np.isin(stock.ids, np.fromiter(wanted, int, len(wanted)))
        known = {int(pk): CODES[item] for pk, item in zip(stock.ids[there], stock.code[there], strict=True)}
    left = wanted - known.keys()
    if left:
        known |= {pk: CODES[item] for pk, item in zip(*_codes_of(Piece.objects.filter(pk__in=left), purposes), strict=True)}
    return known


def _codes_of(pieces: QuerySet[Piece], purposes: Purposes) -> tuple[list[int], np.ndarray]:
    columns = _columns_of(pieces)
    ids = columns["ids"].astype(int)
    return ids.tolist(), _endangered(ids, _coded(columns, purposes)[0], purposes.workshop)


def _endangered(ids: np.ndarray, code: np.ndarray, workshop: Workshop) -> np.ndarray:
    """The codes with that of what is dangerous in place of what its moisture says."""
    found = np.fromiter(dangers(workshop), int)
    return np.where(np.isin(ids, found), CODES.index(State.CRACKED), code) if found.size else code


def _columns_of(pieces: QuerySet[Piece], **more: Combinable) -> dict[str, np.ndarray]:
    """What the rule needs of some pieces, and what else is asked for, as columns of one order; one query of one row."""
    aggregates = {"ids": Packed("pk")} | {name: Packed(column) for name, column in (_as_numbers() | more).items()}
    return {name: unpacked(item) for name, item in pieces.order_by().aggregate(**aggregates).items()}


def in_states(workshop: Workshop, pieces: QuerySet[Piece], states: set[State], purposes: Purposes) -> QuerySet[Piece]:
    """Those of a workshop's pieces whose verdict is one of ``states``, by tag; a subfloor has none."""
    wanted = [CODES.index(state) for state in states]
    judged = pieces.exclude(kind__in=NOT_JUDGED)
    stock = stock_states(workshop, purposes)
    # What is not in stock is in no list of states but when it is asked for.
    gone_ids, gone_code = _codes_of(judged.exclude(status=Status.IN_STOCK), purposes)
    ids = [
        *stock.ids[np.isin(stock.code, wanted)].tolist(),
        *(pk for pk, item in zip(gone_ids, gone_code, strict=True) if item in wanted),
    ]
    return judged.filter(pk__in=RawSQL("SELECT unnest(%s::bigint[])", [ids])).order_by("tag")
