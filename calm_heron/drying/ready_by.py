"""When a piece that must wait may be worked, as a sentence beside its verdict: the very answer of the page of its drying."""

from typing import Any

import numpy as np
from django.urls import reverse

from calm_heron.answers.saved import remembered
from calm_heron.drying import forecasts, ready_words
from calm_heron.judging.queries import Chosen
from calm_heron.judging.words import VerdictWords
from calm_heron.site.memory import RowMemory
from calm_heron.stock.models import Piece
from calm_heron.workshops.models import Membership


def ready_by(piece: Piece, about: Chosen, given: VerdictWords, membership: Membership) -> dict[str, Any] | None:
    """What the sentence says, or None where the verdict does not ask for it or the species' pace is not known."""
    if given.verdict is None or given.state not in forecasts.MUST_WAIT or piece.traits.dries_by_weight:
        return None
    # Purpose, units and clock are the workshop's: all a revision knows of.
    key = (piece.pk, about.question, about.is_asked)
    return remembered(_known, piece.workshop_id, key, lambda: _worked_out(piece, about, membership))


_known: RowMemory[dict[str, Any] | None] = RowMemory(512)


def _worked_out(piece: Piece, about: Chosen, membership: Membership) -> dict[str, Any] | None:
    result = forecasts.of_piece(piece, about, membership)
    if result is None or result[1].already:
        return None
    query, answer = result
    question = f"?{about.question}" if about.is_asked else ""
    shown = {"more": reverse("piece_drying", args=[piece.workshop.slug, piece.tag]) + question, "where": ready_words.where(query)}
    if not np.isfinite(answer.days):
        return shown | {"never": ready_words.describe(query, answer, [])}
    return shown | {
        "by": ready_words.by_when(query, answer),
        "average": ready_words.average(query, answer),
        "chances": ready_words.chances(query, answer),
        "course": ready_words.course(query, answer),
    }
