"""When a piece that must wait will be ready where it is to live, as a sentence beside its verdict."""

import numpy as np
from django import template
from django.urls import reverse

from calm_heron.air.models import Place
from calm_heron.drying import queries, words
from calm_heron.drying.queries import Surroundings
from calm_heron.judging.words import Answer
from calm_heron.stock.models import Piece
from wood import drying
from wood.diffusivity import of_species
from wood.drying import YARD, Question
from wood.errors import NotKnown
from wood.readiness import LIMIT, State, Use

register = template.Library()

# Enough for a sentence; the page of the drying itself runs four times as many.
RUNS = 64
MUST_WAIT = (State.WAIT, State.TOO_DRY)


@register.inclusion_tag("drying/ready_by.html")
def ready_by(piece: Piece, place: Place | None, use: Use, given: Answer) -> dict:
    """The sentence, or nothing where the verdict does not ask for it or the species' pace is not known."""
    verdict, board = given.verdict, given.estimate
    if place is None or verdict is None or given.state not in MUST_WAIT or board.bound:
        return {}
    try:
        figures = of_species(piece.species)
    except NotKnown:
        return {}
    around = queries.surroundings([place], f"place-{place.pk}", YARD, queries.today(), "usual", {})
    if not isinstance(around, Surroundings):
        return {}
    paced = queries.with_own_pace(figures, queries.own_log(piece, figures, [piece.place] if piece.place else []).learned)
    allowed = 0.0 if use.against == LIMIT else verdict.tolerance
    target = verdict.target + (allowed if verdict.difference > 0 else -allowed)
    question = Question(
        paced, piece.thickness_m, board.mean, max(target, 0.01), around.setting, width_m=piece.width_m,
        start_doubt=min(board.uncertainty / 2 / max(board.mean, 0.05), 0.5),
    )  # fmt: skip
    answer = drying.answer(question, runs=RUNS)
    shown = {"place": place, "more": reverse("piece_drying", args=[piece.workshop.slug, piece.tag]) + f"?where=place-{place.pk}"}
    if answer.already:
        return {}
    if not np.isfinite(answer.days):
        return shown | {"never": True, "wanted": words.percent(question.target)}
    return shown | {
        "span": words.span(answer.days),
        "by": words.on(queries.today(), answer.days),
        "band": words.band_of(answer.days, answer.low, answer.high),
    }
