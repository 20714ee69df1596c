"""When a piece that must wait may be worked, as a sentence beside its verdict: the very answer of the page of its drying."""

import numpy as np
from django.http import QueryDict
from django.urls import reverse

from calm_heron.drying import questions, ready_words, words
from calm_heron.drying.forms import DryingForm
from calm_heron.drying.queries import answered
from calm_heron.drying.questions import Asked
from calm_heron.judging.queries import Chosen
from calm_heron.judging.words import Answer
from calm_heron.measuring.models import PieceMoisture
from calm_heron.stock.models import Piece
from calm_heron.workshops.models import Membership
from wood.errors import OutOfRange
from wood.judging.readiness import State

MUST_WAIT = (State.WAIT, State.TOO_DRY, State.TOO_UNEVEN, State.CLOSE)


def usual_question(piece: Piece, known: PieceMoisture | None, about: Chosen, membership: Membership) -> Asked | None:
    """The question that the page of a piece's drying begins with, or None where it cannot be put."""
    fields = QueryDict(mutable=True)
    fields.update(questions.usual(piece.workshop, piece, known, about))
    form = DryingForm(fields, membership=membership, places=about.places)
    if not form.is_valid():
        return None
    try:
        asked = questions.asked(piece.workshop, form.cleaned_data, piece, known, about)
    except OutOfRange:
        return None
    return asked if isinstance(asked, Asked) and asked.aim is not None else None


def ready_by(piece: Piece, about: Chosen, given: Answer, membership: Membership) -> dict | None:
    """What the sentence says, or None where the verdict does not ask for it or the species' pace is not known."""
    if given.verdict is None or given.state not in MUST_WAIT:
        return None
    known = PieceMoisture.objects.filter(piece=piece).first()
    asked = usual_question(piece, known, about, membership)
    if asked is None:
        return None
    answer = answered(asked.question)
    question = f"?{about.question}" if about.is_asked else ""
    shown = {"more": reverse("piece_drying", args=[piece.workshop.slug, piece.tag]) + question, "where": ready_words.where(asked)}
    if answer.already:
        return None
    if not np.isfinite(answer.days):
        return shown | {"never": ready_words.describe(asked, answer, [])}
    return shown | {
        "by": ready_words.by_when(asked, answer),
        "span": words.span(answer.days),
        "chances": ready_words.chances(asked, answer),
        "course": ready_words.course(asked, answer),
    }
