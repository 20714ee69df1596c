"""What turning says on pages that are composed."""

from collections.abc import Mapping
from typing import Any

from django.urls import reverse

from calm_heron.turning.bowls import finishing
from calm_heron.turning.models import turned
from calm_heron.turning.shelf import shelf_words, weighing
from wood.turning.lathe import May
from wood.turning.weights import State


def today(page: Mapping[str, Any]) -> dict[str, Any] | None:
    """Bowls that are at rest, that want looking at, and that are to be weighed; nothing where there are none."""
    workshop = page["workshop"]
    bowls = [bowl for bowl in weighing.shelf(workshop) if bowl.weighed is not None]
    flat = [bowl for bowl in bowls if bowl.weighed is not None and bowl.weighed.state is State.FLAT]
    odd = [
        (bowl, shelf_words.in_list(bowl.weighed, workshop.system))
        for bowl in bowls
        if bowl.weighed is not None and bowl.weighed.state in (State.RISING, State.STALLED)
    ]
    due = [bowl for bowl in bowls if bowl.weighed is not None and bowl.weighed.is_due]
    ahead = next((bowl for bowl in bowls if bowl.weighed is not None and bowl.weighed.state is State.FALLING), None)
    if not (flat or odd or due or ahead):
        return None
    return {
        "bowls_at_rest": flat,
        "bowls_odd": odd,
        "bowls_due": due,
        "bowl_next": ahead,
        "bowl_next_said": shelf_words.in_list(ahead.weighed, workshop.system) if ahead else "",
    }


def by_weight(page: Mapping[str, Any]) -> dict[str, Any] | None:
    """Under the verdict of a bowl: what its weights foretell, as on the shelf."""
    piece = page["piece"]
    if not piece.traits.dries_by_weight:
        return None
    lines, address = weighing.renew(piece), reverse("bowl", args=[piece.workshop.slug, piece.tag])
    if lines is None:
        return {"bowl_address": address}
    word, rest, reason = shelf_words.answer(lines, piece.place.name if piece.place else "", piece.workshop.system)
    finish = finishing.finish(piece, turned(piece), lines) if piece.cracks.exists() else None
    cracked = finish is not None and finish.verdict is not None and finish.verdict.may is May.NEVER
    return {
        "weight_word": word,
        "weight_rest": rest,
        "weight_reason": reason,
        "cracked": cracked,
        "bowl_address": reverse("bowl", args=[piece.workshop.slug, piece.tag]),
    }
