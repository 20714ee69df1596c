"""What stands under an answer that could be kept: the way to a workshop of one's own, or to a piece."""

from django.urls import reverse

from calm_heron.questions.presentation import Manner, Says
from calm_heron.questions.tools import Reader


def into_a_workshop(reader: Reader, key: str) -> tuple[Says, ...]:
    """For strangers: the same question in a workshop of their own."""
    if reader.asker.is_member or not reader.typed:
        return ()
    address = f"{reverse('carry_on', args=[key])}?{reader.typed}"
    return (Says("Worth keeping?", Manner.HINT, link=address, link_words="Start a workshop, and take this with you"),)


def as_a_piece(reader: Reader, key: str) -> tuple[Says, ...]:
    """For members who may make pieces: a new one with what was typed, where anything was. For strangers, see :func:`into_a_workshop`."""
    asker = reader.asker
    if not reader.typed:
        return ()
    if asker.is_member and asker.membership.may_make:
        address = f"{reverse('new_piece', args=[asker.workshop.slug])}?{reader.typed}"
        return (Says("", Manner.HINT, link=address, link_words="Add to stock"),)
    return into_a_workshop(reader, key)
