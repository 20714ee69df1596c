"""When a piece that must wait will be ready where it is to live, as a sentence beside its verdict."""

import numpy as np
from django.urls import reverse

from calm_heron.drying import methods, queries, questions, words
from calm_heron.drying.queries import Surroundings
from calm_heron.judging.queries import Chosen
from calm_heron.judging.words import Answer
from calm_heron.site.numbers import percent
from calm_heron.stock.models import Piece
from wood.drying.acclimation import Stay
from wood.drying.answers import Question
from wood.drying.diffusivity import of_species
from wood.errors import NotKnown
from wood.judging.readiness import Cause, State
from wood.measuring.profile import USUAL_DEPTH
from wood.units import INCH_M
from wood.uses import Against

# Enough for a sentence; the page of the drying itself runs four times as many.
RUNS = 64
MUST_WAIT = (State.WAIT, State.TOO_DRY)


def ready_by(piece: Piece, about: Chosen, given: Answer) -> dict | None:
    """What the sentence says, or None where the verdict does not ask for it or the species' pace is not known."""
    place, use = about.place, about.use
    verdict, board = given.verdict, given.estimate
    evens_out = given.state is State.TOO_UNEVEN and verdict is not None and verdict.cause is Cause.GRADIENT
    if place is None or verdict is None or board is None or not (given.state in MUST_WAIT or evens_out) or board.bound:
        return None
    try:
        figures = of_species(piece.species)
    except NotKnown:
        return None
    around = queries.surroundings([place], f"place-{place.pk}", methods.named(methods.USUAL), queries.today())
    if not isinstance(around, Surroundings):
        return None
    paced = queries.with_own_pace(figures, queries.own_log(piece, figures, [piece.place] if piece.place else []).learned)
    allowed = 0.0 if use.against is Against.LIMIT else verdict.tolerance
    shown = {
        "place": place,
        "more": reverse("piece_drying", args=[piece.workshop.slug, piece.tag]) + f"?where=place-{place.pk}&use={use.key}",
    }
    if evens_out and board.gradient is not None:
        even = _even_by(
            Stay(
                paced,
                piece.thickness_m,
                *_shell_and_core(board.mean, board.gradient),
                around.setting.series,
                tolerance=use.allowed_gradient,
            )
        )
        return even and shown | even
    target = verdict.target + (allowed if verdict.difference > 0 else -allowed)
    question = Question(
        paced, piece.thickness_m, board.mean, max(target, 0.01), around.setting, width_m=piece.width_m,
        start_uncertainty=questions.uncertainty_of_reading(board),
    )  # fmt: skip
    answer = queries.answered(question, runs=RUNS)
    if answer.already:
        return None
    if not np.isfinite(answer.days):
        return shown | {"never": True, "wanted": percent(question.target)}
    return shown | {
        "span": words.span(answer.days),
        "by": words.on(queries.today(), answer.days),
        "band": words.band_of(answer.days, answer.low, answer.high),
    }


# Taken off each face where skimming is spoken of: a sixteenth of an inch.
SKIMMED_M = INCH_M / 16
# A saving below this share is not worth the wood.
WORTH_SAYING = 0.85


def _shell_and_core(mean: float, gradient: float) -> tuple[float, float]:
    """The parabola's ends, from the mean and the difference that was read between the middle and a fifth of the thickness."""
    rise = gradient / (1 - 2 * USUAL_DEPTH) ** 2
    core = mean + rise / 3
    return max(0.01, core - rise), max(0.01, core)


def _even_by(stay: Stay) -> dict | None:
    """Until core and shell are within the tolerance, as it lies and with both faces skimmed."""
    days = queries.settled(stay).even_days
    if not np.isfinite(days):
        return None
    skimmed = queries.settled(stay, SKIMMED_M).even_days if stay.thickness_m > 8 * SKIMMED_M else days
    return {"even": words.span(days), "skimmed": words.span(skimmed) if skimmed < WORTH_SAYING * days else ""}
