"""Reads for verdicts: one board, or the whole workshop at once."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any
from urllib.parse import urlencode

from calm_heron.air import queries as air
from calm_heron.air.models import Place
from calm_heron.judging.models import PiecePurpose, StoredPurpose, UseRule
from calm_heron.judging.purposes import Purposes, Said, purpose_of
from calm_heron.judging.settled import sized
from calm_heron.judging.stock_states import Overview
from calm_heron.judging.targets import Purpose, Target
from calm_heron.judging.verdicts import Judged, NotJudged, VerdictQuestion, decide
from calm_heron.measuring.estimates import lot_boards
from calm_heron.measuring.models import PieceMoisture, Reading
from calm_heron.site.numbers import typed
from calm_heron.stock import queries as stock
from calm_heron.stock.dangers import danger_of
from calm_heron.stock.models import Piece, Status
from calm_heron.workshops.models import Membership, Workshop
from calm_heron.workshops.versions import as_seen
from wood.errors import NotKnown
from wood.judging.readiness import State
from wood.measuring import lots
from wood.measuring.lots import LotMean
from wood.movement import shrinkage
from wood.uses import Approach, Use

APPROACH_WORDS = (
    (Approach.SETTLED, "a board that has settled there"),
    (Approach.YEAR, "its year’s mean alone"),
    (Approach.WEEKS, "its last four weeks alone"),
    (Approach.TYPED, "a moisture I set"),
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
        danger=danger_of(piece),
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


def member_who_asks(workshop: Workshop) -> Membership | None:
    """In whose name answers are worked out behind the pages: the first member's; None where there is none."""
    return Membership.objects.of(workshop).select_related("workshop", "person").order_by("id").first()


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
    wanted += [ReadNext(row.piece, "undecided", row.at) for row in rows]
    if len(wanted) >= limit:
        return wanted[:limit]
    seen = {entry.piece.pk for entry in wanted}
    oldest = PieceMoisture.objects.of(workshop).select_related("piece__place").order_by("at")[: limit * 4]
    old = [row for row in oldest if row.piece.status == Status.IN_STOCK]
    wanted += [ReadNext(row.piece, "read longest ago", row.at) for row in old if row.piece_id not in seen]
    return wanted[:limit]
