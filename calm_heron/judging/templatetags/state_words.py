"""The heads of the stock list, and what lies in a place with its verdicts."""

from collections import Counter

from django import template
from django.http import QueryDict

from calm_heron.air.models import Place
from calm_heron.judging import queries
from calm_heron.stock.models import Kind
from calm_heron.stock.search import Search

register = template.Library()
SHOWN = 12


@register.inclusion_tag("judging/sorted_by.html", takes_context=True)
def sorted_by(context, name: str, words: str, classes: str = "") -> dict:
    """A column head that orders by its column; pressed again, the other way round."""
    sort = context["sort"]
    question = QueryDict(mutable=True)
    if context["text"]:
        question["q"] = context["text"]
    question["sort"] = f"-{name}" if sort == name else name
    direction = {name: "ascending", f"-{name}": "descending"}.get(sort, "")
    return {"words": words, "classes": classes, "question": question.urlencode(), "direction": direction}


@register.inclusion_tag("judging/lies_here.html", takes_context=True)
def lies_here(context, place: Place) -> dict:
    """The wood in a place: how much in each state for it, and the newest read."""
    workshop = context["workshop"]
    about = queries.chosen(workshop, {"place": str(place.pk)})
    pieces = list(queries.listed(workshop, Search(), None, about.use, "-read").filter(place=place, lot=None)[:2000])
    wanted = about.target
    states = queries.states_of(pieces, wanted, about.use)
    judged = [piece for piece in pieces if piece.kind != Kind.SUBFLOOR]
    tally: Counter[str] = Counter()
    for piece in judged:
        tally[states[piece.pk]] += piece.count
    return {
        "tally": tally.most_common(), "rows": [(piece, states[piece.pk]) for piece in pieces[:SHOWN]],
        "more": max(0, len(pieces) - SHOWN), "place": place, "use": about.use, "workshop": workshop, "volume": sum(piece.volume_m3 for piece in judged),
    }  # fmt: skip
