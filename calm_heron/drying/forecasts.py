"""Forecasts kept: the newest of each piece for lists, renewed behind the scenes, and what was forecast against what was then read."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Any

import numpy as np
from django.http import QueryDict
from django.utils import timezone

from calm_heron.answers.tasks import renew_soon as renew_soon_answers
from calm_heron.drying import questions
from calm_heron.drying.forms import DryingForm
from calm_heron.drying.models import FORECAST_RULE, Forecast
from calm_heron.drying.queries import answered
from calm_heron.drying.questions import AS_READ, DryingQuestion
from calm_heron.jobs.queue import LOOKED_AT, job, put
from calm_heron.judging.models import PiecePurpose
from calm_heron.judging.purposes import Purposes
from calm_heron.judging.queries import Chosen, member_who_asks
from calm_heron.judging.stock_states import states_of
from calm_heron.judging.targets import Purpose
from calm_heron.measuring.models import PieceMoisture
from calm_heron.measuring.wood_now import WoodNow, wood_now
from calm_heron.site import dates
from calm_heron.site.memory import digest_of
from calm_heron.stock.models import Piece
from calm_heron.workshops.models import Membership, Workshop
from wood.drying.answers import Answer
from wood.errors import OutOfRange
from wood.judging.readiness import State

# Older ones are shown with their day, and renewed.
GOOD_FOR = timedelta(days=1)
CURVE_POINTS = 40
# Wood that is followed begins a forecast at what it holds that hour: within so much it still does (a fraction).
FOLLOWED_WITHIN = 0.01


def keep(piece: Piece, question: DryingQuestion, answer: Answer) -> Forecast:
    """Keep what is shown, once a day where it stays the same."""
    history, aim = answer.history, aim_words(question.purpose)
    at = np.unique(np.linspace(0, history.days.size - 1, CURVE_POINTS).astype(int))
    forecast = Forecast(
        workshop_id=piece.workshop_id,
        piece=piece,
        aim=aim,
        asked=_asked_words(question),
        state=question.state or "",
        days=_finite(answer.days),
        low=_finite(answer.low),
        high=_finite(answer.high),
        chances=[[chance.share, chance.day] for chance in answer.chances],
        curve_days=history.days[at].tolist(),
        curve_mean=history.mean[at].tolist(),
        curve_low=answer.means_low[at].tolist(),
        curve_high=answer.means_high[at].tolist(),
        member_days=list(answer.member_days),
        digest=digest_of((question.question, aim)).hex(),
    )
    # Two that look at once keep it once.
    Forecast.objects.bulk_create([forecast], ignore_conflicts=True)
    return forecast


def _finite(days: float) -> float | None:
    return float(days) if np.isfinite(days) else None


def aim_words(purpose: Purpose | None) -> str:
    """For what a forecast is, to tell whether it still is for that."""
    if purpose is None:
        return ""
    return f"{purpose.place.name if purpose.place else ''}|{purpose.use.key}|{purpose.approach}|{purpose.moisture or ''}"


def _asked_words(question: DryingQuestion) -> dict[str, Any]:
    return {
        "start": question.start,
        "where": question.around.name,
        "then": question.then.name if question.then else "",
        "carried_on": question.carried_on.isoformat() if question.carried_on else "",
        "carried_at": question.carried_at,
    }


def usual_question(
    piece: Piece, known: PieceMoisture | None, about: Chosen, membership: Membership, start_date: str = ""
) -> DryingQuestion | None:
    """The question that the page of a piece's drying begins with, from another day where one is given; None where it cannot be put or is
    not about its being ready."""
    fields = QueryDict(mutable=True)
    fields.update(questions.usual(piece.workshop, piece, known, about) | ({"start_date": start_date[:10]} if start_date else {}))
    form = DryingForm(fields, membership=membership, places=about.places)
    if not form.is_valid():
        return None
    try:
        question = questions.question_from(piece.workshop, form.cleaned_data, piece, known, about)
    except OutOfRange:
        return None
    return question if isinstance(question, DryingQuestion) and question.place_target is not None else None


def of_piece(piece: Piece, about: Chosen, membership: Membership, *, for_good: bool = False) -> tuple[DryingQuestion, Answer] | None:
    """The forecast of a piece for what a page is about, worked out now; kept where that is what the piece is for, or what it was asked for
    ``for_good``.
    """
    known = PieceMoisture.objects.filter(piece=piece).first()
    if known is None:
        return None
    question = usual_question(piece, known, about, membership)
    if question is None:
        return None
    answer = answered(question.question)
    if for_good or not about.is_asked:
        keep(piece, question, answer)
    return question, answer


@dataclass(frozen=True)
class Known:
    """The newest forecast of a piece as a list shows it; ``stale`` says that it rests on an older reading, or is more than a day old."""

    forecast: Forecast
    stale: bool

    @property
    def ready_on(self) -> date | None:
        days = self.forecast.days
        return None if days is None else self.forecast.day + timedelta(days=round(days))


# What comes with a piece that its forecast is asked for.
JOINS = ("moisture", "purpose", "lot__purpose")


def newest(pieces: Iterable[Piece], purposes: Purposes) -> dict[int, Known]:
    """The newest forecast for what each of some pieces is for, by id; they come with what :data:`JOINS` names. One query."""
    by_id = {piece.pk: piece for piece in pieces}
    followed = wood_now(purposes.workshop)
    # A piece may be forecast for a build, too, and for a month beside what it is for.
    rows = Forecast.objects.filter(piece__in=by_id).order_by("piece", "aim", "-at").distinct("piece", "aim")
    return {
        row.piece_id: Known(row, _is_stale(row, by_id[row.piece_id], followed.get(row.piece_id)))
        for row in rows
        if row.aim == aim_words(purposes.of(by_id[row.piece_id], _own_purpose(by_id[row.piece_id])))
    }


def for_purpose(pieces: Sequence[Piece], about: Chosen, membership: Membership, at_once: int) -> dict[int, Known]:
    """The forecasts of some pieces, all for one purpose (a build's), by id; they come with what :data:`JOINS` names. What is missing or
    stale is worked out now for as many as may be ``at_once``, and behind the scenes for the others. Two queries, and those of what is
    worked out.
    """

    def newest_rows(ids: Iterable[int]) -> dict[int, Known]:
        rows = Forecast.objects.filter(piece__in=list(ids), aim=aim_words(about.purpose)).order_by("piece", "-at").distinct("piece")
        return {row.piece_id: Known(row, _is_stale(row, by_id[row.piece_id], followed.get(row.piece_id))) for row in rows}

    by_id, followed = {piece.pk: piece for piece in pieces}, wood_now(about.purposes.workshop)
    known = newest_rows(by_id)
    # Forecasts from before the days of all members were kept are worked out anew.
    due = [piece for piece in pieces if piece.pk not in known or known[piece.pk].stale or not known[piece.pk].forecast.member_days]
    # What is not known at all comes before what is only a day old.
    due.sort(key=lambda piece: piece.pk in known)
    made = [piece.pk for piece in due[:at_once] if of_piece(piece, about, membership, for_good=True) is not None]
    if made:
        known |= newest_rows(made)
    _put(about.purposes.workshop.pk, [piece.pk for piece in due[at_once:]], about.asked_words)
    return known


def _own_purpose(piece: Piece) -> PiecePurpose | None:
    return getattr(piece, "purpose", None) or (getattr(piece.lot, "purpose", None) if piece.lot_id else None)


def _is_stale(row: Forecast, piece: Piece, followed: WoodNow | None) -> bool:
    if followed is not None:
        # It goes on by the hour; a point more or less makes no other day.
        return (
            timezone.now() - row.at > GOOD_FOR or row.rule != FORECAST_RULE or abs(followed.moisture - row.asked["start"]) > FOLLOWED_WITHIN
        )
    moisture = getattr(piece, "moisture", None)
    if timezone.now() - row.at > GOOD_FOR or moisture is None or row.rule != FORECAST_RULE:
        return True
    return moisture.at > row.at if moisture.bound else abs(moisture.mean - row.asked["start"]) > AS_READ


# Verdicts that ask when.
MUST_WAIT = (State.WAIT, State.TOO_DRY, State.TOO_UNEVEN, State.CLOSE)


def renew_all(workshop: Workshop) -> int:
    """Work out and keep the forecasts of everything in stock that must wait; how many there were."""
    pieces = [piece for piece in Piece.objects.of(workshop).in_stock() if not piece.traits.dries_by_weight]
    return renew(workshop, [pk for pk, state in states_of(pieces, Purposes(workshop)).items() if state in MUST_WAIT])


def renew(workshop: Workshop, ids: Iterable[int], question: Mapping[str, str] | None = None) -> int:
    """Work out and keep the forecasts of some pieces, for what each is for or for the ``question``; how many there were."""
    membership = member_who_asks(workshop)
    if membership is None:
        return 0
    purposes, count = Purposes(workshop, question), 0
    for piece in Piece.objects.of(workshop).filter(pk__in=list(ids)).select_related("place", "workshop", *JOINS):
        own = _own_purpose(piece)
        count += of_piece(piece, Chosen(purposes, purposes.of(piece, own), own), membership, for_good=question is not None) is not None
    return count


def in_list(workshop: Workshop, pieces: Sequence[Piece], states: Mapping[int, State], purposes: Purposes) -> dict[int, Known]:
    """What a list shows: the newest forecasts; those of pieces that must wait are renewed behind the scenes where that is due."""
    # What is weighed is foretold by its weights (the shelf of bowls), and by nothing else.
    pieces = [piece for piece in pieces if not piece.traits.dries_by_weight]
    known = newest(pieces, purposes)
    renew_soon(workshop, known, [piece.pk for piece in pieces if states.get(piece.pk) in MUST_WAIT])
    return known


def renew_soon(workshop: Workshop, known: dict[int, Known], wanted: Iterable[int]) -> None:
    """Have the forecasts that are missing or stale among the ``wanted`` renewed behind the scenes; what is shown now stays as it is."""
    _put(workshop.pk, [pk for pk in wanted if pk not in known or known[pk].stale])


@job("drying.renew_forecasts")
def renew_forecasts(workshop: int, pieces: list[int], question: dict[str, str] | None = None) -> None:
    """Renew the forecasts of pieces for their own purposes, or for the ``question``: those that are still missing or stale. Of a workshop
    or a piece that is gone there is none."""
    there = Workshop.objects.filter(pk=workshop).first()
    if there is None:
        return
    with dates.as_in(there.language, there.time_zone):
        if question is None:
            rows = Piece.objects.of(there).filter(pk__in=pieces).select_related(*JOINS)
            known = newest(rows, Purposes(there))
            pieces = [pk for pk in pieces if pk not in known or known[pk].stale]
        for piece in pieces:
            renew(there, [piece], question)
    renew_soon_answers(workshop)


def _put(workshop: int, ids: Sequence[int], question: Mapping[str, str] | None = None) -> None:
    """Have the forecasts of pieces renewed behind the scenes, once however often that is asked for."""
    if ids:
        asked = dict(question or {})
        put(
            renew_forecasts,
            once=f"forecasts {digest_of((workshop, sorted(ids), sorted(asked.items()))).hex()}",
            one_at_a_time=f"forecasts of {workshop}",
            priority=LOOKED_AT,
            workshop=workshop,
            pieces=list(ids),
            question=asked or None,
        )


@dataclass(frozen=True)
class Came:
    """A forecast of before, and what came: the moisture that was forecast for the newest reading, with its band, and what was read."""

    forecast: Forecast
    days: int
    expected: float
    low: float
    high: float
    read: float

    @property
    def inside(self) -> bool:
        return self.low - READ_UNCERTAINTY <= self.read <= self.high + READ_UNCERTAINTY


# What a reading leaves open when a forecast is held against it.
READ_UNCERTAINTY = 0.005
# Forecasts so shortly before a reading say little.
WORTH_SCORING = timedelta(days=10)


def what_came(piece: Piece, known: PieceMoisture | None, limit: int = 4) -> list[Came]:
    """Earlier forecasts of a piece against its newest reading, the newest first, a few weeks apart."""
    if known is None or known.bound:
        return []
    rows = Forecast.objects.filter(piece=piece, at__lt=known.at - WORTH_SCORING).order_by("-at")[:200]
    result: list[Came] = []
    for row in rows:
        days = (known.at - row.at).total_seconds() / 86_400
        if days > row.curve_days[-1] or (result and (result[-1].forecast.at - row.at) < WORTH_SCORING):
            continue
        mean, low, high = (float(np.interp(days, row.curve_days, column)) for column in (row.curve_mean, row.curve_low, row.curve_high))
        result.append(Came(row, round(days), mean, low, high, known.mean))
    return result[:limit]
