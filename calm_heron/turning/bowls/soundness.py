"""Whether turned pieces and logs are sound: what was found cracked in them, as the page of each says it."""

from django.urls import reverse

from calm_heron.site.numbers import counted
from calm_heron.stock.dangers import Danger
from calm_heron.stock.faults import Fault
from calm_heron.stock.models import Piece, Status
from calm_heron.turning.bowls import finishing, lathe_words
from calm_heron.turning.models import LogEnd, turned
from calm_heron.turning.shelf import weighing
from calm_heron.workshops.models import Workshop
from wood.turning.lathe import May, Remedy
from wood.turning.logs import Flaw
from wood.units import System
from wood.written import said_length

AWAY = "Mark it with chalk, and keep it off the lathe. A crack that was cut away or was none is said on its page."


def _cracked(workshop: Workshop) -> list[Piece]:
    """The turned pieces in stock in which a crack was found that is still there."""
    rows = Piece.objects.of(workshop).filter(cracks__isnull=False, cracks__struck_by=None, status=Status.IN_STOCK).distinct()
    return list(rows.select_related("as_turned", "as_turned__log", "place", "workshop"))


def found(workshop: Workshop) -> dict[int, Danger]:
    """The turned pieces in stock that hold a crack that must not be turned, by id."""
    known = {piece.pk: danger_in(piece) for piece in _cracked(workshop)}
    return {pk: danger for pk, danger in known.items() if danger is not None}


def faults(workshop: Workshop) -> dict[int, Fault]:
    """What is cracked, filled or checked in a workshop's turned work and logs, and no danger, by id."""
    known = {piece.pk: fault_in(piece) for piece in _cracked(workshop)}
    ends = LogEnd.objects.of(workshop).filter(piece__status=Status.IN_STOCK).select_related("piece", "piece__workshop")
    known |= {end.piece_id: _of_log(end) for end in ends}
    return {pk: fault for pk, fault in known.items() if fault is not None}


def fault_in(piece: Piece) -> Fault | None:
    """What is not sound about a turned piece and yet no danger."""
    finish = finishing.finish(piece, turned(piece), weighing.renew(piece) if piece.traits.dries_by_weight else None)
    return fault_by(finish)


def fault_by(finish: finishing.Finish) -> Fault | None:
    """The same where what its page rests on is at hand: what is open before what was mended."""
    if not finish.cracks or danger_by(finish) is not None:
        return None
    system = finish.piece.workshop.system
    crack = max(finish.cracks, key=lambda crack: (crack.mend is None, crack.depth_m))
    address = reverse("bowl", args=[finish.piece.workshop.slug, finish.piece.tag])
    said = lathe_words.where(crack, system)
    if crack.mend is not None:
        return Fault(lathe_words.mended(crack).capitalize(), f"{said}, {lathe_words.mended(crack)}.", address)
    if finish.verdict is None:
        return Fault("Cracked", f"{said}: cut it off, or turn it away slowly before anything else.", address)
    remedy = finish.verdict.remedies[finish.cracks.index(crack)]
    return Fault("Cracked", f"{said}: {lathe_words.REMEDIES[remedy]}.", address)


def _of_log(end: LogEnd) -> Fault | None:
    """The checks that were drawn on a log's end."""
    checks = [stroke for stroke in end.strokes if stroke.get("f", Flaw.CHECK.value) == Flaw.CHECK.value]
    if not checks:
        return None
    piece = end.piece
    through = sum(stroke.get("d") is None for stroke in checks)
    deepest = max((stroke["d"] for stroke in checks if stroke.get("d") is not None), default=None)
    said = f"{counted(len(checks), 'check')} in its end"
    if through:
        said += f", {'it runs' if len(checks) == 1 else f'{through} of them' if through < len(checks) else 'all of them'} right through"
    elif deepest is not None:
        said += f", {said_length(deepest, piece.workshop.system)} deep at most"
    return Fault("Checked", f"{said}. The cuts go round them.", f"{reverse('ask_cut', args=[piece.workshop.slug])}?piece={piece.tag}")


def danger_in(piece: Piece) -> Danger | None:
    """What is dangerous about a turned piece, by the very answer of its page; None where nothing is."""
    return danger_by(finishing.finish(piece, turned(piece), weighing.renew(piece) if piece.traits.dries_by_weight else None))


def danger_by(finish: finishing.Finish) -> Danger | None:
    """The same where what its page rests on is at hand."""
    piece = finish.piece
    if not finish.cracks:
        return None
    # A blank is still to be cut: only what runs through it, or to its pith, makes it fly apart.
    if piece.traits.becomes and not any(crack.through or crack.at_pith for crack in finish.cracks):
        return None
    # Where the shape that is left is not known, no crack can be told harmless.
    if finish.verdict is not None and finish.verdict.may is not May.NEVER:
        return None
    return Danger(words(finish, piece.workshop.system), AWAY, reverse("bowl", args=[piece.workshop.slug, piece.tag]))


def words(finish: finishing.Finish, system: System) -> str:
    """The worst of its cracks, and that it must not be turned."""
    remedies = finish.verdict.remedies if finish.verdict is not None else (Remedy.NEVER,) * len(finish.cracks)
    at_once = [crack for crack in finish.cracks if crack.through or crack.at_pith] if finish.verdict is None else []
    worst = at_once or [crack for crack, remedy in zip(finish.cracks, remedies, strict=True) if remedy is Remedy.NEVER] or finish.cracks
    crack = max(worst, key=lambda crack: crack.depth_m)
    return f"{lathe_words.where(crack, system)}: it may fly apart on the lathe, dry or not."
