"""What measuring brings to the pages that are composed: quick entry on every page, and the instruments."""

import re
import uuid
from collections.abc import Mapping, Sequence
from typing import Any

from django.db.models import QuerySet
from django.urls import reverse

from calm_heron.answers.saved import remembered
from calm_heron.measuring import demo, drawings, queries, receiver, wood_now, words
from calm_heron.measuring.estimates import board_numbers
from calm_heron.measuring.kinds import MeterKind
from calm_heron.measuring.models import Meter, MeterCheck, PieceMoisture, Reading, SlabTest
from calm_heron.measuring.words import warning_sentences
from calm_heron.plugs import (
    DEMO_PARTS,
    KEYS,
    LOG_KINDS,
    PAGES,
    PANELS,
    PARTS,
    PIECE_ACTIONS,
    RECEIVERS,
    DemoPart,
    FixedIn,
    Keys,
    LogKind,
    Page,
    Panel,
    Part,
    PieceAction,
    Question,
    Receiver,
    Slot,
)
from calm_heron.site.memory import RowMemory
from calm_heron.site.numbers import bounded, points
from calm_heron.stock.listing import COLUMNS, TABLE_COLUMNS, Column, TableColumn
from calm_heron.stock.models import Piece
from calm_heron.stock.search import SEARCH_WORDS, SearchWord
from calm_heron.workshops.models import Membership
from wood.measuring.readings import Bound


def reading_strip(page: Mapping[str, Any]) -> dict[str, Any] | None:
    """The workshop's meters, the one this person used last, and a token so that a line is kept once."""
    membership = page["membership"]
    if not membership.may_record:
        return None
    choices, usual = _meters_for(membership)
    return {"choices": choices, "usual": usual, "once": uuid.uuid4().hex} if choices else None


def _meters_for(membership: Membership) -> tuple[list[Meter], Meter | None]:
    """The moisture meters in use, and the one this person used last."""

    def read() -> tuple[list[Meter], Meter | None]:
        choices = list(queries.meters_of(membership.workshop))
        return choices, queries.usual_meter(membership, choices) if len(choices) > 1 else next(iter(choices), None)

    return remembered(_strips, membership.workshop_id, membership.person_id, read, frozenset({"measuring"}))


_strips: RowMemory[tuple[list[Meter], Meter | None]] = RowMemory(512)


def today(page: Mapping[str, Any]) -> dict[str, Any] | None:
    """What a piece holds today where more is known of it than its last reading."""
    now = wood_now.of_piece(page["piece"])
    return {"wood_now": now} if now else None


def as_read(page: Mapping[str, Any]) -> dict[str, Any] | None:
    """The newest sitting on the drawing of the piece, what was odd about it, and the moisture through the thickness."""
    piece = page["piece"]
    if piece.is_lot:
        return None
    sitting = queries.sitting(piece)
    profile = queries.inferred_profile(piece, sitting)
    return {
        "maps": drawings.board_maps(piece, sitting),
        "profile": drawings.profile_chart(piece, profile, sitting) if profile else None,
        "warnings": warning_sentences(code for reading in sitting for code in reading.warnings),
    }


def moisture_of(question: Question) -> PieceMoisture | None:
    """What the newest sitting says of the piece that a page is about, or None; read once for all its panels."""
    return question.once("measuring.moisture", lambda: PieceMoisture.objects.filter(piece=question.piece).first())


def contents(page: Mapping[str, Any]) -> dict[str, Any] | None:
    """What the piece weighs at its moisture; where it is wetter than the meter can measure, the least that it weighs."""
    piece = page["piece"]
    row = moisture_of(page["question"])
    if row is None or row.bound == Bound.BELOW:
        return None
    board = row.estimate()
    weighs = piece.contents(board.least if board.bound and board.least is not None else board.mean)
    return weighs and {"contents": weighs, "estimate": board}


_NUMBER = r"(\d{1,3}(?:[.,]\d{1,3})?)%?"


def moisture_asked(word: str) -> tuple[float | None, float | None] | None:
    """The lowest and highest moisture that a word of a search asks for, as fractions.

    >>> moisture_asked(">12"), moisture_asked("10-12")
    ((0.12, None), (0.1, 0.12))
    """
    if limit := re.fullmatch(rf"([<>])=?{_NUMBER}", word):
        value = _fraction(limit[2])
        return (value, None) if limit[1] == ">" else (None, value)
    if between := re.fullmatch(rf"{_NUMBER}(?:-|–|\.\.){_NUMBER}", word):
        low, high = sorted((_fraction(between[1]), _fraction(between[2])))
        return low, high
    return None


def _fraction(text: str) -> float:
    return float(text.replace(",", ".")) / 100


def of_moisture(pieces: QuerySet[Piece], query: list[Any], question: Question) -> QuerySet[Piece]:
    for low, high in query:
        pieces = pieces if low is None else pieces.filter(moisture__mean__gt=low)
        pieces = pieces if high is None else pieces.filter(moisture__mean__lt=high)
    return pieces


def moisture_cells(piece: Piece) -> Sequence[str]:
    """Cells of the table; a moisture beyond the meter's range goes out as what it is: wetter, or drier, than that."""
    known = getattr(piece, "moisture", None)
    if known is None:
        return "", "", ""
    return bounded(known.mean, known.bound), points(known.estimate().uncertainty), known.at.date().isoformat()


# So many of the newest readings stand on a piece's page, and so many where they are asked for.
NEWEST, MOST = 10, 500


def history(page: Mapping[str, Any]) -> dict[str, Any]:
    """The newest readings, all where they are asked for; in a lot each is of a board with a number."""
    piece, wants_all = page["piece"], page["question"].address.get("readings") == "all"
    most = MOST if wants_all else NEWEST
    readings, numbers = queries.history(piece, most + 1), board_numbers(piece) if piece.is_lot else {}
    return {
        "history": [(reading, numbers.get(reading.pk)) for reading in readings[:most]],
        "older_readings": len(readings) > most,
        "all_readings": wants_all,
    }


PARTS.add(
    Part(40, "Readings", "read", key="r", phone="Read", holds=("meters",), group="Wood"),
    Part(41, "Instruments", "meters", in_rail=False, group="Wood"),
)
KEYS.add(
    Keys(5, ((("/",), "quick entry"), (("Enter",), "keeps it"), (("Esc",), "leaves it"))),
    Keys(90, ((("←", "↑", "→", "↓"), "move"), (("Enter",), "goes to the number")), where="On the board or the log’s end"),
)
LOG_KINDS.add(LogKind(10, "reading", "Readings", words.LOG_OF_READINGS), LogKind(60, "meter", "Meters", words.LOG_OF_METERS))
PANELS.add(
    Panel(10, Slot.ABOVE_PAGE, "measuring/strip.html", reading_strip),
    Panel(38, Slot.PIECE, "measuring/wood_now.html", today),
    Panel(40, Slot.PIECE, "measuring/as_read.html", as_read),
    Panel(42, Slot.PIECE, "measuring/history.html", history),
    Panel(40, Slot.AMOUNT, "measuring/contents.html", contents),
)
PIECE_ACTIONS.add(
    PieceAction(
        10,
        "Read it",
        lambda piece: reverse("measure", args=[piece.workshop.slug, piece.tag]),
        may="may_record",
        style="button",
        door="Read",
    )
)
COLUMNS.add(
    Column(
        30,
        "moisture",
        "Moisture",
        "measuring/moisture_cell.html",
        "n",
        "n",
        order_by="moisture__mean",
        joins=("moisture",),
        # Where more is known of it than its last reading.
        values=lambda pieces, question: wood_now.wood_now(question.workshop),
    ),
    Column(
        80,
        "read",
        "Read",
        "measuring/read_cell.html",
        "wide-only",
        "quiet whitespace-nowrap wide-only",
        order_by="moisture__at",
        joins=("moisture",),
    ),
)
TABLE_COLUMNS.add(TableColumn(40, ("moisture %", "uncertainty %", "read at"), moisture_cells, joins=("moisture",)))
SEARCH_WORDS.add(
    SearchWord(10, (">12", "<9", "10-12"), "for a moisture", moisture_asked, of_moisture),
    SearchWord(
        45,
        ("unread",),
        "for what was never read",
        lambda word: True if word == "unread" else None,
        lambda pieces, query, question: pieces.filter(moisture=None),
    ),
)
DEMO_PARTS.add(DemoPart(40, (PieceMoisture, Reading, SlabTest, MeterCheck, Meter), demo.load))
PAGES.add(
    Page(42, "Put a wrong reading right", "read", words="correct strike out mistake undo", at="#right", beside="Readings"),
    Page(43, "Check a meter", "meters", words="instrument test block resistor", beside="Readings"),
)
RECEIVERS.add(
    *(
        Receiver(
            order,
            kind,
            MeterKind(kind).label,
            receiver.of_kind(kind),
            receiver.take,
            receiver.says,
            receiver.FIELDS,
            does="is held to boards by hand, and reports the tag and what it shows",
            told=receiver.told,
            stand_in=receiver.stand_in,
        )
        for order, kind in ((30, MeterKind.PIN), (40, MeterKind.PINLESS))
    ),
    Receiver(
        50,
        "probe",
        "Probe",
        lambda workshop: [],
        receiver.take_fixed,
        receiver.says_fixed,
        receiver.FIELDS,
        does="stays in one board, and reports what it shows there",
        fixed=FixedIn(receiver.find, receiver.tag_of),
        instruments=receiver.of_kind(MeterKind.PIN),
        told=receiver.told,
        stand_in=receiver.stand_in_fixed,
        watched=receiver.WATCHED,
    ),
)
