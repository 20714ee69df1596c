"""The heads of the stock list."""

from django import template
from django.http import QueryDict

from calm_heron.stock.listing import Column

register = template.Library()


@register.inclusion_tag("pieces/sorted_by.html", takes_context=True)
def sorted_by(context, column: Column) -> dict:
    """A column's head, which orders by it where it can be; pressed again, the other way round."""
    sort, name = context["sort"], column.key
    question = QueryDict(mutable=True)
    if context["text"]:
        question["q"] = context["text"]
    question["sort"] = f"-{name}" if sort == name else name
    direction = {name: "ascending", f"-{name}": "descending"}.get(sort, "")
    return {"column": column, "question": question.urlencode(), "direction": direction}
