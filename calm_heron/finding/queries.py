"""What answers to a few letters: pieces by tag, species or place, places, the pages that apps registered, and what can be asked."""

from dataclasses import dataclass
from urllib.parse import urlencode

from django.urls import reverse

from calm_heron.air.models import Place
from calm_heron.plugs import PAGES, PARTS, Page, Question
from calm_heron.questions.tools import TOOLS
from calm_heron.stock import listing
from calm_heron.stock.models import Piece
from calm_heron.stock.search import parse_search
from calm_heron.stock.templatetags.piece_words import wood_of
from calm_heron.workshops.models import Membership

MOST_PIECES, MOST_OF_A_KIND = 8, 6


@dataclass(frozen=True)
class Found:
    """One thing that answers: what it is called, where it is, and what tells it from its like."""

    name: str
    address: str
    beside: str = ""


@dataclass(frozen=True)
class FoundKind:
    """What answers of one kind; ``more`` is where the rest of it is, if there is more."""

    name: str
    found: list[Found]
    more: str = ""


def found(membership: Membership, text: str) -> list[FoundKind]:
    """Everything that answers, pieces first; nothing where nothing was typed."""
    words = text.casefold().split()
    if not words:
        return []
    kinds = [pieces(membership, text), places(membership, words), pages(membership, words), questions(membership, words)]
    return [kind for kind in kinds if kind.found]


def only(kinds: list[FoundKind], text: str) -> Found | None:
    """What is meant for sure: the only thing that answers, or the one that is called just so."""
    answers = [one for kind in kinds for one in kind.found]
    named = [one for one in answers if one.name.casefold() == text.casefold().strip()]
    chosen = named if len(named) == 1 else answers
    return chosen[0] if len(chosen) == 1 else None


def pieces(membership: Membership, text: str) -> FoundKind:
    workshop = membership.workshop
    answers = listing.listed(Question(workshop, {}), parse_search(text)).select_related("place")
    # Who types a tag means that piece, before all others of its species.
    begins = Piece.objects.of(workshop).filter(tag__istartswith=text.strip()).select_related("place").order_by("tag")
    some = list({piece.pk: piece for piece in (*begins[:MOST_PIECES], *answers[: MOST_PIECES + 1])}.values())
    more = f"{reverse('stock', args=[workshop.slug])}?{urlencode({'q': text})}" if len(some) > MOST_PIECES else ""
    return FoundKind("Wood", [_piece(piece) for piece in some[:MOST_PIECES]], more)


def _piece(piece: Piece) -> Found:
    where = f", {piece.place}" if piece.place else ""
    return Found(piece.tag, reverse("piece", args=[piece.workshop.slug, piece.tag]), f"{wood_of(piece)}{where}")


def places(membership: Membership, words: list[str]) -> FoundKind:
    rows = Place.objects.of(membership.workshop).order_by("name")
    return FoundKind(
        "Places",
        [
            Found(row.name, reverse("place", args=[membership.workshop.slug, row.pk]), "retired" if row.retired else "")
            for row in rows
            if _answers(words, row.name)
        ][:MOST_OF_A_KIND],
    )


def pages(membership: Membership, words: list[str]) -> FoundKind:
    slug = membership.workshop.slug
    parts = [Found(part.name, reverse(part.page, args=[slug])) for part in PARTS if _answers(words, part.name)]
    others = [
        Found(page.name, f"{reverse(page.page, args=[slug])}{page.at}", page.beside)
        for page in PAGES
        if _may(membership, page) and _answers(words, f"{page.name} {page.beside} {page.words}")
    ]
    return FoundKind("Pages", _first_by_name([*parts, *others], words)[:MOST_OF_A_KIND])


def questions(membership: Membership, words: list[str]) -> FoundKind:
    slug = membership.workshop.slug
    asked = [
        Found(tool.title, reverse(tool.inside_name, args=[slug]), tool.short)
        for tool in TOOLS
        if tool.inside and _answers(words, f"{tool.title} {tool.short}")
    ]
    return FoundKind("Questions", _first_by_name(asked, words)[:MOST_OF_A_KIND])


def _may(membership: Membership, page: Page) -> bool:
    return not page.may or bool(getattr(membership, page.may))


def _answers(words: list[str], text: str) -> bool:
    """Whether each word begins one of the text's."""
    theirs = text.casefold().replace("’", "'").replace("-", " ").split()
    return all(any(one.strip("(),?'").startswith(word) for one in theirs) for word in words)


def _first_by_name(items: list[Found], words: list[str]) -> list[Found]:
    """What is called so itself before what only has to do with it."""
    return sorted(items, key=lambda item: not _answers(words, item.name))
