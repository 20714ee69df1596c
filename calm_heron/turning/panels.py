"""What turning says on pages that are composed."""

from collections.abc import Mapping
from datetime import timedelta
from typing import Any

from django.urls import reverse

from calm_heron.answers.saved import KINDS, AnswerKind, Saved, answers_of
from calm_heron.turning.shelf import shelf_words, weighing
from calm_heron.workshops.models import Workshop
from wood.turning.weights import State

BOWLS_RULE = "2"


def today(page: Mapping[str, Any]) -> dict[str, Any] | None:
    """Bowls that are at rest, that want looking at, and that are to be weighed; nothing where there are none."""
    return _bowls(page["workshop"], answers_of(page["workshop"].pk))


def _bowls(workshop: Workshop, saved: Saved) -> dict[str, Any] | None:
    bowls: dict[str, Any] | None = saved.get(ON_TODAY, 0, lambda: _bowls_now(workshop))
    return bowls


def _bowls_now(workshop: Workshop) -> dict[str, Any] | None:
    """Tags, with what is said of some, and how many are due."""
    shelf = weighing.shelf(workshop)
    # A crack outweighs all that weights say: such a bowl is in no other list.
    cracked = [(bowl.piece.tag, bowl.danger.reason) for bowl in shelf if bowl.danger is not None]
    bowls = [(bowl.piece.tag, bowl.weighed) for bowl in shelf if bowl.weighed is not None and bowl.danger is None]
    flat = [tag for tag, weighed in bowls if weighed.state is State.FLAT]
    odd = [(tag, shelf_words.in_list(weighed, workshop.system)) for tag, weighed in bowls if weighed.state in (State.RISING, State.STALLED)]
    due = sum(bowl.is_due for bowl in shelf)
    ahead = next(((tag, shelf_words.in_list(weighed, workshop.system)) for tag, weighed in bowls if weighed.state is State.FALLING), None)
    if not (cracked or flat or odd or due or ahead):
        return None
    return {"bowls_cracked": cracked, "bowls_at_rest": flat, "bowls_odd": odd, "bowls_due": due, "bowl_next": ahead}


# What is due comes with the day; what a bowl's place does to it is worked out again within the hour.
ON_TODAY = AnswerKind(
    65,
    "bowls on Today",
    BOWLS_RULE,
    timedelta(hours=1),
    frozenset({"air", "stock", "measuring", "turning", "workshops"}),
    lambda workshop, saved: _bowls(workshop, saved),
)
KINDS.add(ON_TODAY)


def by_weight(page: Mapping[str, Any]) -> dict[str, Any] | None:
    """Under the verdict of a bowl: what its weights foretell, as on the shelf."""
    piece = page["piece"]
    if not piece.traits.dries_by_weight:
        return None
    lines, address = weighing.renew(piece), reverse("bowl", args=[piece.workshop.slug, piece.tag])
    if lines is None:
        return {"bowl_address": address}
    word, rest, reason = shelf_words.answer(lines, piece.place.name if piece.place else "", piece.workshop.system)
    return {
        "weight_word": word,
        "weight_rest": rest,
        "weight_reason": reason,
        "bowl_address": reverse("bowl", args=[piece.workshop.slug, piece.tag]),
    }
