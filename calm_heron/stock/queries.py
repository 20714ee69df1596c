"""Reads of the stock."""

from collections.abc import Iterable

from django.db.models import Q, QuerySet
from django.db.models.functions import Lower

from calm_heron.air import queries as air
from calm_heron.air.models import Place
from calm_heron.stock import woods
from calm_heron.stock.models import OwnSpecies, Piece
from calm_heron.stock.search import Search
from calm_heron.workshops.models import Workshop


def pieces(workshop: Workshop, search: Search) -> QuerySet[Piece]:
    """Pieces that answer stock's own words of a search, by tag; ``listing.listed`` adds those of other apps."""
    result = Piece.objects.of(workshop).filter(status__in=search.statuses).select_related("place").order_by("tag")
    for word in search.words:
        keys = [wood.key for wood in woods.search(workshop, word)]
        result = result.filter(
            Q(tag__icontains=word)
            | Q(species_key__in=keys)
            | Q(place__name__icontains=word)
            | Q(note__icontains=word)
            | Q(source__icontains=word)
            | Q(lot__tag__iexact=word)
        )
    if search.nominal:
        result = result.filter(nominal=search.nominal)
    if search.kinds:
        result = result.filter(kind__in=search.kinds)
    if search.lots:
        result = result.filter(count__gt=1)
    return result


def species_in_stock(workshop: Workshop) -> frozenset[str]:
    """The keys of the woods that are in stock."""
    return frozenset(Piece.objects.of(workshop).in_stock().order_by().values_list("species_key", flat=True).distinct())


def by_tag(workshop: Workshop, tag: str) -> Piece | None:
    """The piece with this tag, however its letters are typed; none has one with a null character, which the database would not take."""
    if "\x00" in tag:
        return None
    return Piece.objects.of(workshop).select_related("place", "lot").filter(tag__iexact=tag).first()


def by_tags(workshop: Workshop, tags: Iterable[str]) -> dict[str, Piece]:
    """The pieces with these tags, however their letters are typed, by their tags in small letters."""
    wanted = {tag.casefold() for tag in tags if "\x00" not in tag}
    pieces = Piece.objects.of(workshop).select_related("place", "lot").annotate(small=Lower("tag")).filter(small__in=wanted)
    return {piece.tag.casefold(): piece for piece in pieces}


def usual_place(workshop: Workshop) -> Place | None:
    """Where wood that is added probably lies: where the newest piece was put, or the only place there is."""
    newest = Piece.objects.of(workshop).select_related("place").order_by("-id").first()
    places = air.places(workshop)[:2]
    return newest.place if newest else places[0] if len(places) == 1 else None


def species_in_use(workshop: Workshop, limit: int = 6) -> list[str]:
    """The species most recently added, for offering them first."""
    keys = Piece.objects.of(workshop).order_by("-id").values_list("species_key", flat=True)[:200]
    return list(dict.fromkeys(keys))[:limit]


def own_species(workshop: Workshop) -> QuerySet[OwnSpecies]:
    return OwnSpecies.objects.of(workshop).order_by("common_name")


def samples(lot: Piece) -> QuerySet[Piece]:
    """The sample boards of a lot in stock."""
    return lot.samples.in_stock().select_related("place").order_by("tag")
