"""What judging brings to the pages that are composed."""

from collections import Counter
from collections.abc import Mapping, Sequence
from typing import Any
from urllib.parse import urlencode

from django.db.models import QuerySet
from django.urls import reverse

from calm_heron.air import queries as air
from calm_heron.answers.saved import remembered
from calm_heron.judging import demo, drawings, log_words, queries, stock_states, today, words
from calm_heron.judging.models import PiecePurpose, UseRule, WorkshopPurpose
from calm_heron.judging.queries import Chosen
from calm_heron.judging.verdicts import Judged
from calm_heron.measuring import plugs as measuring
from calm_heron.plugs import (
    DEMO_PARTS,
    LOG_KINDS,
    PAGES,
    PANELS,
    PIECE_ACTIONS,
    DemoPart,
    LogKind,
    Page,
    Panel,
    PieceAction,
    Question,
    Slot,
)
from calm_heron.site.memory import RowMemory
from calm_heron.stock import listing
from calm_heron.stock.forms import SampleForm
from calm_heron.stock.listing import COLUMNS, Column
from calm_heron.stock.models import Piece
from calm_heron.stock.search import SEARCH_WORDS, Search, SearchWord
from calm_heron.workshops.models import Workshop
from wood.judging.readiness import State

SHOWN = 12
# The words for verdicts in a search: those that are offered, and all that are understood.
SAID = {
    "ready": State.READY,
    "works-now": State.WORKS_NOW,
    "close": State.CLOSE,
    "workable": State.DRY,
    "wait": State.WAIT,
    "too-dry": State.TOO_DRY,
    "uneven": State.TOO_UNEVEN,
    "cannot-tell": State.CANNOT_TELL,
    "cracked": State.CRACKED,
}
STATE_WORDS = {**SAID, "too-uneven": State.TOO_UNEVEN}
SEARCHED_BY = {state: word for word, state in SAID.items()}


def about_of(question: Question) -> Chosen:
    """The place and the use that a composed page is about."""
    return question.once("judging.about", lambda: queries.chosen(question.workshop, question.address, question.piece))


def states_of(pieces: Sequence[Piece], question: Question) -> dict[int, State]:
    """The verdict of each of the pieces that a page shows, worked out once for it."""
    key = "judging.states:" + ",".join(str(piece.pk) for piece in pieces)
    return question.once(key, lambda: stock_states.states_of(pieces, about_of(question).purposes))


def in_states(pieces: QuerySet[Piece], states: list[State], question: Question) -> QuerySet[Piece]:
    return stock_states.in_states(question.workshop, pieces, set(states), about_of(question).purposes)


def judged(page: Mapping[str, Any]) -> dict[str, Any] | None:
    """The verdict of a piece for the place and the use asked about."""
    piece = page["piece"]
    if not piece.traits.is_judged:
        return None
    about = about_of(page["question"])
    result = queries.judged_by(piece, measuring.moisture_of(page["question"]), about.purpose, about.target)
    given = words.answer(result)
    what = "lot" if piece.is_lot else piece.traits.name
    return {
        "about": about,
        "place": about.place,
        "use": about.use,
        "answer": given,
        "approaches": words.approaches(about.purpose, about.target),
        "gauge": drawings.gauge(result.verdict, result.estimate, what) if isinstance(result, Judged) else None,
    }


def subfloor(page: Mapping[str, Any]) -> dict[str, Any] | None:
    """What a subfloor is at: it is judged by, not judged."""
    piece, about = page["piece"], about_of(page["question"])
    if piece.species.holds_no_moisture_content:
        return {"slab": True, "test": piece.slab_tests.order_by("-at").first()}
    if piece.traits.is_judged:
        return None
    return {"answer": words.answer(queries.judged_by(piece, measuring.moisture_of(page["question"]), about.purpose, about.target))}


def lot(page: Mapping[str, Any]) -> dict[str, Any] | None:
    """How far the reading of a lot has come."""
    piece, use = page["piece"], about_of(page["question"]).use
    if not piece.is_lot:
        return None
    progress = queries.lot_progress(piece, use)
    described = words.describe_lot(progress.mean, progress.next_part, progress.odd, use)
    return {"progress": progress, "described": described, "sample_form": SampleForm(membership=page["membership"])}


def shop_air(page: Mapping[str, Any]) -> dict[str, Any]:
    """The newest air of the place the workshop aims for, or of its first place."""
    workshop = page["workshop"]
    return remembered(_shop_airs, workshop.pk, "", lambda: _shop_air(workshop), frozenset({"air", "judging"}), ())


def _shop_air(workshop: Workshop) -> dict[str, Any]:
    usual = WorkshopPurpose.objects.of(workshop).select_related("place").first()
    place = usual.place if usual else air.places(workshop).first()
    return {"place": place, "reading": air.latest(place) if place else None}


_shop_airs: RowMemory[dict[str, Any]] = RowMemory(512)


def lies_here(page: Mapping[str, Any]) -> dict[str, Any] | None:
    """The wood in a place: how much in each state for what it is for, and the newest read."""
    question = Question(page["workshop"], {})
    pieces = list(listing.listed(question, Search(), "-read").filter(place=page["place"], lot=None)[:2000])
    if not pieces:
        return None
    states = states_of(pieces, question)
    judged = [piece for piece in pieces if piece.traits.is_judged]
    tally: Counter[str] = Counter()
    for piece in judged:
        tally[states[piece.pk]] += piece.count
    return {
        "tally": tally.most_common(),
        "rows": [(piece, states[piece.pk]) for piece in pieces[:SHOWN]],
        "more": max(0, len(pieces) - SHOWN),
        "volume": sum(piece.volume_m3 for piece in judged),
    }


LOG_KINDS.add(LogKind(40, "judgement", "Judgements", log_words.LOG))
PANELS.add(
    Panel(10, Slot.RAIL_FOOT, "judging/shop_air.html", shop_air),
    Panel(50, Slot.PLACE, "judging/lies_here.html", lies_here),
    Panel(60, Slot.PLACE, "judging/site_link.html", lambda page: {} if page["place"].traits.is_a_room else None),
    Panel(10, Slot.PIECE, "judging/judged.html", judged, key="answer", alone="judging/answer.html"),
    Panel(10, Slot.PIECE, "judging/subfloor.html", subfloor),
    Panel(30, Slot.PIECE, "judging/lot.html", lot),
    Panel(10, Slot.STOCK_HEAD, "judging/judged_for.html", lambda page: {"about": about_of(page["question"])}),
    Panel(50, Slot.STOCK_LINKS, "judging/stock_link.html"),
    Panel(10, Slot.TODAY, "judging/ready.html", today.ready),
    Panel(40, Slot.TODAY_TASKS, "judging/read_next.html", today.to_read),
)
PIECE_ACTIONS.add(
    PieceAction(
        90,
        "Join it with another?",
        lambda piece: f"{reverse('compare', args=[piece.workshop.slug])}?{urlencode({'one': piece.tag})}",
        applies=lambda piece: piece.traits.is_judged,
        style="",
        door="Use",
    )
)
COLUMNS.add(Column(50, "verdict", "Verdict", "judging/state_cell.html", cell_classes="state", joins=("moisture",), values=states_of))
SEARCH_WORDS.add(SearchWord(40, tuple(SAID), "for a verdict", STATE_WORDS.get, in_states))
DEMO_PARTS.add(DemoPart(50, (WorkshopPurpose, PiecePurpose, UseRule), demo.load))
PAGES.add(
    Page(51, "Tolerances", "uses", words="how close fine work allowed purpose", beside="Workshop"),
    Page(52, "Can two be joined?", "compare", words="compare boards panel glue", beside="Stock"),
)
