"""Reads for verdicts: one board, or the whole workshop at once."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, fields, replace
from datetime import datetime, timedelta
from typing import Any
from urllib.parse import urlencode

import numpy as np
from django.db.models import Aggregate, BinaryField, Case, F, FloatField, IntegerField, Q, QuerySet, Value, When
from django.db.models.expressions import Combinable, RawSQL
from django.db.models.functions import Cast, Coalesce, Extract
from django.utils import timezone

from calm_heron.air import queries as air
from calm_heron.air.models import Place
from calm_heron.judging.models import PiecePurpose, StoredPurpose, UseRule
from calm_heron.judging.purposes import APPROACHES, LAID, NONE, OWN, PLANK_FROM_M, TURNED, USE_KEYS, Purposes, Said, purpose_of
from calm_heron.judging.settled import SPECIES_NUMBER, SizedWood, Woods, sized
from calm_heron.judging.targets import Purpose, Target
from calm_heron.judging.verdicts import MOVED_GOOD_DAYS, READINGS_GOOD_DAYS, Judged, NotJudged, VerdictQuestion, decide
from calm_heron.measuring.estimates import lot_boards
from calm_heron.measuring.models import PieceMoisture, Reading
from calm_heron.site.numbers import typed
from calm_heron.stock import queries as stock
from calm_heron.stock.kinds import NOT_JUDGED, TRAITS
from calm_heron.stock.models import Piece, Status
from calm_heron.workshops.models import Workshop
from calm_heron.workshops.versions import as_seen
from wood.air.climate import day_of_year
from wood.drying.questions import settling_slabs
from wood.drying.settled import sizes_like
from wood.errors import NotKnown
from wood.judging.readiness import CODES, NO_METER_M, Edges, State, around, average_near, codes, is_inside_unknown, stricter
from wood.measuring import lots
from wood.measuring.lots import LotMean
from wood.measuring.readings import Bound
from wood.movement import shrinkage
from wood.uses import PLANK_FLOOR, STRIP_FLOOR, TURNING, Against, Approach, Use

APPROACH_WORDS = (
    (Approach.SETTLED, "a board that has settled there"),
    (Approach.YEAR, "its year’s mean alone"),
    (Approach.WEEKS, "its last four weeks alone"),
    (Approach.TYPED, "a moisture I name"),
)


@dataclass(frozen=True)
class Chosen:
    """What a page is about: the purpose it judges for, and what that could be. ``own_purpose`` is the one that the piece has of its own."""

    purposes: Purposes
    purpose: Purpose
    own_purpose: PiecePurpose | None = None

    @property
    def places(self) -> list[Place]:
        return self.purposes.places

    @property
    def place(self) -> Place | None:
        return self.purpose.place

    @property
    def uses(self) -> dict[str, Use]:
        return self.purposes.uses

    @property
    def use(self) -> Use:
        return self.purpose.use

    @property
    def target(self) -> Target | None:
        return self.purposes.target(self.purpose)

    approaches = APPROACH_WORDS

    @property
    def is_asked(self) -> bool:
        """Whether the page was asked for something else than what is kept."""
        return self.purposes.typed_purpose != Said()

    @property
    def is_usual(self) -> bool:
        """Whether this is the workshop's usual one."""
        usual = self.purposes.usual
        return usual is not None and usual.settings == self.settings

    @property
    def settings(self) -> tuple[int | None, str, str, float | None]:
        """The purpose as it is stored."""
        return getattr(self.place, "pk", None), self.use.key, self.purpose.approach, self.purpose.moisture

    @property
    def named(self) -> str:
        """The moisture that was named, as it was typed, whether it can be taken or not."""
        question = self.purposes.typed
        return question or (typed(self.purpose.moisture) if self.purpose.moisture else "")

    @property
    def asked_words(self) -> dict[str, str]:
        """The purpose as an address has it."""
        place, use, approach, moisture = self.settings
        question = {"place": place, "use": use, "approach": approach, "moisture": typed(moisture) if moisture else ""}
        return {name: str(value) for name, value in question.items() if value}

    @property
    def question(self) -> str:
        """What a link carries on, so that the next page is about the same."""
        return urlencode(self.asked_words)

    @property
    def seen(self) -> str:
        """What a form brings back that changes the workshop's usual purpose."""
        return as_seen(*purpose_settings(self.purposes.usual))

    @property
    def seen_of_piece(self) -> str:
        """What a form brings back that changes the piece's own purpose."""
        return as_seen(*purpose_settings(self.own_purpose))


def purpose_settings(stored: StoredPurpose | None) -> tuple[Any, ...]:
    return stored.settings if stored else ()


def rule_settings(workshop: Workshop) -> list[tuple[str, float | None, float | None, float | None]]:
    """A workshop's own rules for uses, as a form brings them back that changes them."""
    return list(UseRule.objects.of(workshop).order_by("use_key").values_list("use_key", "tolerance", "evenness", "limit"))


def chosen(workshop: Workshop, question: Mapping[str, Any], piece: Piece | None = None) -> Chosen:
    """What a page is about, as it is asked for, else as the ``piece`` is for.

    Raises:
        Http404: see :class:`Purposes`.
    """
    purposes, saved = Purposes(workshop, question), purpose_of(piece)
    return Chosen(purposes, purposes.of(piece, saved), saved)


def judged(piece: Piece, purpose: Purpose, wanted: Target | None) -> Judged | NotJudged:
    """The verdict of one piece or lot for a purpose and its target."""
    return judged_by(piece, PieceMoisture.objects.filter(piece=piece).first(), purpose, wanted)


def judged_by(piece: Piece, moisture: PieceMoisture | None, purpose: Purpose, wanted: Target | None) -> Judged | NotJudged:
    """The same where what was read is at hand."""
    question = VerdictQuestion(
        purpose,
        piece.is_lot,
        piece.traits.is_turned,
        piece.thickness_m,
        sized(piece),
        piece.width_m if piece.traits.moves_in_width else None,
        _movement(piece),
        piece.moved_at,
    )
    if question.is_thin and purpose.place is not None:
        question = replace(question, last_days=air.last_days(purpose.place))
    if moisture is None:
        return decide(question, None, None, wanted, in_vain=Reading.objects.standing().filter(piece=piece).exists())
    return decide(question, moisture.estimate(), moisture.at, wanted)


def _movement(piece: Piece) -> float | None:
    """The part of its width that a piece shrinks by from green to dry, None where that is not known."""
    try:
        return shrinkage.of_species(piece.species).at_ring_angle(piece.ring_angle_deg)
    except NotKnown:
        return None


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


def overview(workshop: Workshop, purposes: Purposes) -> Overview:
    """Judge all wood in stock in one query and one pass of the rule over arrays.

    Sample boards are judged through their lot, and what lies there as a subfloor is not judged.
    """
    counts = Case(When(~Q(kind__in=NOT_JUDGED), lot=None, then=Value(1)), default=Value(0))
    column = _columns_of(Piece.objects.of(workshop).in_stock(), judged=counts)
    ids, judged = column["ids"].astype(int), column["judged"] == 1
    unread = np.sort(ids[np.isnan(column["mean"])])[::-1]
    result = Overview(int(judged.sum()), unread[:SHOWN_OF_EACH].tolist())
    code, distance = _coded(column, purposes)
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
    result = Piece.objects.filter(pk__in=[piece.pk for piece in pieces])
    return {pk: CODES[item] for pk, item in zip(*_codes_of(result, purposes), strict=True)}


def _codes_of(pieces: QuerySet[Piece], purposes: Purposes) -> tuple[list[int], np.ndarray]:
    columns = _columns_of(pieces)
    return columns["ids"].astype(int).tolist(), _coded(columns, purposes)[0]


def _columns_of(pieces: QuerySet[Piece], **more: Combinable) -> dict[str, np.ndarray]:
    """What the rule needs of some pieces, and what else is asked for, as columns of one order; one query of one row."""
    aggregates = {"ids": Packed("pk")} | {name: Packed(column) for name, column in (_as_numbers() | more).items()}
    return {name: unpacked(item) for name, item in pieces.order_by().aggregate(**aggregates).items()}


def in_states(workshop: Workshop, pieces: QuerySet[Piece], states: set[State], purposes: Purposes) -> QuerySet[Piece]:
    """Those of a workshop's pieces whose verdict is one of ``states``, by tag; a subfloor has none."""
    pks, code = _codes_of(pieces.exclude(kind__in=NOT_JUDGED), purposes)
    question = {CODES.index(state) for state in states}
    ids = [pk for pk, item in zip(pks, code, strict=True) if item in question]
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


def read_next(workshop: Workshop, overview: Overview, limit: int = 6) -> list[ReadNext]:
    """What to read next: pieces never read, then those whose verdict is open, then those read longest ago."""
    pieces = Piece.objects.of(workshop).select_related("place").in_bulk(overview.unread[:limit])
    wanted = [ReadNext(pieces[pk], "never read", None) for pk in overview.unread[:limit] if pk in pieces]
    open_ids = [*overview.ids.get(State.CLOSE, []), *overview.ids.get(State.CANNOT_TELL, []), *overview.ids.get(State.TOO_UNEVEN, [])]
    rows = list(PieceMoisture.objects.of(workshop).filter(piece_id__in=open_ids[:limit]).select_related("piece__place"))
    rows.sort(key=lambda row: open_ids.index(row.piece_id))
    wanted += [ReadNext(row.piece, "its verdict is open", row.at) for row in rows]
    seen = {entry.piece.pk for entry in wanted}
    oldest = PieceMoisture.objects.of(workshop).select_related("piece__place").order_by("at")[: limit * 4]
    old = [row for row in oldest if row.piece.status == Status.IN_STOCK]
    wanted += [ReadNext(row.piece, "read longest ago", row.at) for row in old if row.piece_id not in seen]
    return wanted[:limit]
