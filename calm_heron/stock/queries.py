"""Reads of the stock."""

from django.db.models import Q, QuerySet

from calm_heron.stock.models import Piece
from calm_heron.workshops.models import Workshop
from wood import species


def pieces(workshop: Workshop, text: str = "") -> QuerySet[Piece]:
    """Pieces in stock whose tag, species, place or note contain every word of ``text``."""
    found = Piece.objects.of(workshop).select_related("place").order_by("tag")
    for word in text.split()[:8]:
        keys = [one.key for one in species.search(word)]
        found = found.filter(Q(tag__icontains=word) | Q(species_key__in=keys) | Q(place__name__icontains=word) | Q(note__icontains=word))
    return found


def by_tag(workshop: Workshop, tag: str) -> Piece | None:
    """The piece with this tag, however its letters are typed."""
    return Piece.objects.of(workshop).select_related("place").filter(tag__iexact=tag).first()


def species_in_use(workshop: Workshop, limit: int = 6) -> list[str]:
    """The species most recently added, for offering them first."""
    keys = Piece.objects.of(workshop).order_by("-id").values_list("species_key", flat=True)[:200]
    return list(dict.fromkeys(keys))[:limit]
