"""Reads for verdicts: one board, or the whole workshop at once."""

from dataclasses import dataclass, field
from datetime import datetime, timedelta

import numpy as np
from django.db.models import Aggregate, BinaryField, Case, Exists, F, FloatField, OuterRef, Value, When
from django.db.models.functions import Cast, Coalesce
from django.utils import timezone

from calm_heron.air import queries as air
from calm_heron.air.models import Place
from calm_heron.air.queries import Level
from calm_heron.judging.models import Aim
from calm_heron.judging.words import READINGS_GOOD_DAYS, Answer, answer
from calm_heron.measuring.models import PieceMoisture, Reading
from calm_heron.stock.models import Piece
from calm_heron.workshops.models import Workshop
from wood.readiness import CODES, FINE, USES, State, Use, codes


def chosen(workshop: Workshop, place_id: str = "", use_key: str = "") -> tuple[list[Place], Place | None, Use, Aim | None]:
    """All places, and the place and use a page is about: as asked for, else the workshop's aim, else its first place and fine work."""
    places = list(air.places(workshop))
    aim = Aim.objects.of(workshop).first()
    by_id = {str(place.pk): place for place in places}
    place = by_id.get(place_id) or (by_id.get(str(aim.place_id)) if aim else None) or (places[0] if places else None)
    use = USES.get(use_key) or (aim.use if aim else FINE)
    return places, place, use, aim


def judged(piece: Piece, place: Place | None, use: Use) -> Answer:
    """The verdict of one piece for a place and a use."""
    moisture = PieceMoisture.objects.filter(piece=piece).first()
    level = air.level(place) if place else None
    if moisture is None:
        in_vain = Reading.objects.standing().filter(piece=piece).exists()
        return answer(None, None, level, place, use, in_vain)
    return answer(moisture.estimate(), moisture.at, level, place, use)


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
    """The whole workshop against one level: how many pieces are in each state, and which pieces they are (ids, best first)."""

    level: Level | None
    total: int
    counts: dict[State, int] = field(default_factory=dict)
    ids: dict[State, list[int]] = field(default_factory=dict)


def overview(workshop: Workshop, level: Level | None, use: Use) -> Overview:
    """Judge every piece in one query and one pass of the rule over arrays."""
    total = Piece.objects.of(workshop).count()
    fresh_since = timezone.now() - timedelta(days=READINGS_GOOD_DAYS + 1)
    # Boards read too long ago cannot be told and need not come here; like those never read they make up the rest of the total.
    rows = (
        PieceMoisture.objects.of(workshop)
        .filter(at__gte=fresh_since)
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
    found = Overview(level, total)
    open_besides = total - len(ids)
    if not len(ids) or level is None or level.stale:
        found.counts = {State.CANNOT_TELL: total}
        return found
    difference = column["mean"] - level.emc
    uncertainty = np.sqrt(column["own"] + level.tolerance**2)
    code = codes(difference, uncertainty, use.tolerance, column["gradient"], column["reach"], column["side"], level.tolerance)
    for position, state in enumerate(CODES):
        members = np.flatnonzero(code == position)
        # The nearest to the level first: those are the next to become ready.
        members = members[np.argsort(np.abs(difference[members]), kind="stable")]
        found.counts[state] = len(members)
        found.ids[state] = [int(one) for one in ids[members[:12]]]
    found.counts[State.CANNOT_TELL] += open_besides
    return found


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
    unread = list(Piece.objects.of(workshop).filter(never).select_related("place").order_by("-id")[:limit])
    wanted = [ReadNext(piece, "never read", None) for piece in unread]
    open_ids = [*found.ids.get(State.CLOSE, []), *found.ids.get(State.CANNOT_TELL, []), *found.ids.get(State.TOO_UNEVEN, [])]
    rows = list(PieceMoisture.objects.of(workshop).filter(piece_id__in=open_ids[:40]).select_related("piece__place"))
    rows.sort(key=lambda row: open_ids.index(row.piece_id))
    wanted += [ReadNext(row.piece, "its verdict is open", row.at) for row in rows]
    seen = {one.piece.pk for one in wanted}
    old = PieceMoisture.objects.of(workshop).select_related("piece__place").order_by("at")[: limit * 2]
    wanted += [ReadNext(row.piece, "read longest ago", row.at) for row in old if row.piece_id not in seen]
    return wanted[:limit]
