"""Whether turned pieces are sound: what was found cracked in them, as the page of each says it."""

from django.urls import reverse

from calm_heron.stock.dangers import Danger
from calm_heron.stock.models import Piece, Status
from calm_heron.turning.bowls import finishing, lathe_words
from calm_heron.turning.models import turned
from calm_heron.turning.shelf import weighing
from calm_heron.workshops.models import Workshop
from wood.turning.lathe import May, Remedy
from wood.units import System

AWAY = "Mark it with chalk, and keep it off the lathe. A crack that was cut away or was none is said on its page."


def found(workshop: Workshop) -> dict[int, Danger]:
    """The turned pieces in stock that hold a crack that must not be turned, by id."""
    rows = Piece.objects.of(workshop).filter(cracks__isnull=False, cracks__struck_by=None, status=Status.IN_STOCK).distinct()
    known: dict[int, Danger] = {}
    for piece in rows.select_related("as_turned", "as_turned__log", "place", "workshop"):
        if (danger := danger_in(piece)) is not None:
            known[piece.pk] = danger
    return known


def danger_in(piece: Piece) -> Danger | None:
    """What is dangerous about a turned piece, by the very answer of its page; None where nothing is."""
    return danger_by(finishing.finish(piece, turned(piece), weighing.renew(piece)))


def danger_by(finish: finishing.Finish) -> Danger | None:
    """The same where what its page rests on is at hand."""
    piece = finish.piece
    if not finish.cracks:
        return None
    # Where the shape that is left is not known, no crack can be told harmless.
    if finish.verdict is not None and finish.verdict.may is not May.NEVER:
        return None
    return Danger(words(finish, piece.workshop.system), AWAY, reverse("bowl", args=[piece.workshop.slug, piece.tag]))


def words(finish: finishing.Finish, system: System) -> str:
    """The worst of its cracks, and that it must not be turned."""
    remedies = finish.verdict.remedies if finish.verdict is not None else (Remedy.NEVER,) * len(finish.cracks)
    worst = [crack for crack, remedy in zip(finish.cracks, remedies, strict=True) if remedy is Remedy.NEVER] or finish.cracks
    crack = max(worst, key=lambda crack: crack.depth_m)
    return f"{lathe_words.where(crack, system)}: it may fly apart on the lathe, dry or not."
