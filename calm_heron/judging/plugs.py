"""What judging brings to the pages that are composed."""

from collections import Counter
from collections.abc import Mapping

from calm_heron.air import queries as air
from calm_heron.judging import demo, queries
from calm_heron.judging.models import Aim, UseRule
from calm_heron.plugs import DEMO_PARTS, LOG_KINDS, PANELS, PARTS, DemoPart, LogKind, Panel, Part, Slot
from calm_heron.stock.models import Kind
from calm_heron.stock.search import Search

SHOWN = 12


def shop_air(page: Mapping) -> dict:
    """The newest air of the place the workshop aims for, or of its first place."""
    aim = Aim.objects.of(page["workshop"]).select_related("place").first()
    place = aim.place if aim else air.places(page["workshop"]).first()
    return {"place": place, "reading": air.latest(place) if place else None}


def lies_here(page: Mapping) -> dict | None:
    """The wood in a place: how much in each state for it, and the newest read."""
    workshop, place = page["workshop"], page["place"]
    about = queries.chosen(workshop, {"place": str(place.pk)})
    pieces = list(queries.listed(workshop, Search(), None, about.use, "-read").filter(place=place, lot=None)[:2000])
    if not pieces:
        return None
    states = queries.states_of(pieces, about.target, about.use)
    judged = [piece for piece in pieces if piece.kind != Kind.SUBFLOOR]
    tally: Counter[str] = Counter()
    for piece in judged:
        tally[states[piece.pk]] += piece.count
    return {
        "tally": tally.most_common(), "rows": [(piece, states[piece.pk]) for piece in pieces[:SHOWN]],
        "more": max(0, len(pieces) - SHOWN), "use": about.use, "volume": sum(piece.volume_m3 for piece in judged),
    }  # fmt: skip


PARTS.add(Part(30, "Stock", "stock", key="s", phone="Stock"))
LOG_KINDS.add(LogKind(40, "judgement", "Judgements"))
PANELS.add(
    Panel(10, Slot.RAIL_FOOT, "judging/shop_air.html", shop_air),
    Panel(50, Slot.PLACE, "judging/lies_here.html", lies_here),
)
DEMO_PARTS.add(DemoPart(50, (Aim, UseRule), demo.load))
