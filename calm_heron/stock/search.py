"""What people type to find wood: ``oak yard``, ``8/4 lots``, ``all``, and the words that other apps registered (``>12``, ``ready``)."""

import re
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

from django.db.models import QuerySet

from calm_heron.plugs import Question, Registry
from calm_heron.stock.kinds import KIND_WORDS
from calm_heron.stock.models import Status

MOST_WORDS = 12
STATUS_WORDS = {"used": (Status.USED,), "scrapped": (Status.SCRAPPED,), "all": tuple(Status)}


@dataclass(frozen=True)
class SearchWord:
    """Words that a search understands as signs of their own: some ``examples``, and what they ask for.

    ``read`` gives the meaning of a typed word, or None where it is not one of them; ``narrow`` gets all the meanings that were typed.
    """

    order: int
    examples: tuple[str, ...]
    asks_for: str
    read: Callable[[str], Any | None]
    narrow: Callable[[QuerySet[Any], list[Any], Question], QuerySet[Any]]


SEARCH_WORDS: Registry[SearchWord] = Registry()


@dataclass
class Search:
    """A search as it was understood; everything given must hold at once. ``meanings`` are the meanings of registered words."""

    words: list[str] = field(default_factory=list)
    nominal: str = ""
    kinds: tuple[str, ...] = ()
    statuses: tuple[str, ...] = (Status.IN_STOCK,)
    lots: bool = False
    meanings: dict[SearchWord, list[Any]] = field(default_factory=dict)


def parse_search(text: str) -> Search:
    """Read a search; a word that is no sign of anybody's is looked for in tags, species, places and notes.

    >>> result = parse_search("oak 8/4 yard")
    >>> result.words, result.nominal
    (['oak', 'yard'], '8/4')
    """
    result = Search()
    for word in text.casefold().replace("> ", ">").replace("< ", "<").split()[:MOST_WORDS]:
        if re.fullmatch(r"\d{1,2}/4", word):
            result.nominal = word
        elif word in ("lot", "lots"):
            result.lots = True
        elif word in STATUS_WORDS:
            result.statuses = STATUS_WORDS[word]
        elif word in KIND_WORDS:
            result.kinds += KIND_WORDS[word]
        elif not _is_registered(word, result):
            result.words.append(word)
    return result


def _is_registered(word: str, search: Search) -> bool:
    """Whether some app's signs include the word; then its meaning is noted in the search."""
    for sign in SEARCH_WORDS:
        meaning = sign.read(word)
        if meaning is not None:
            search.meanings.setdefault(sign, []).append(meaning)
            return True
    return False
