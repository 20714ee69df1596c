"""The heads and the cells of the stock list."""

from typing import Any

from django import template
from django.http import QueryDict
from django.utils.html import format_html
from django.utils.safestring import SafeString, mark_safe

from calm_heron.stock.listing import Column

register = template.Library()


@register.inclusion_tag("pieces/sorted_by.html", takes_context=True)
def sorted_by(context: Any, column: Column) -> dict[str, Any]:
    """A column's head, which orders by it where it can be; pressed again, the other way round."""
    sort, name = context["sort"], column.key
    question = QueryDict(mutable=True)
    if context["text"]:
        question["q"] = context["text"]
    question["sort"] = f"-{name}" if sort == name else name
    direction = {name: "ascending", f"-{name}": "descending"}.get(sort, "")
    return {"column": column, "question": question.urlencode(), "direction": direction}


@register.simple_tag(takes_context=True)
def cells(context: Any, row: list[tuple[Column, object]]) -> SafeString:
    """The cells of a row, each by its column's template."""
    # Hundreds are drawn on a page: what does not change from row to row is made once, and they share one context.
    made = context.render_context.setdefault(cells, {})
    drawn: list[Any] = []
    with context.push():
        for column, value in row:
            if column not in made:
                template = context.template.engine.get_template(column.cell)
                made[column] = (format_html('<td class="{}">', column.cell_classes), template.nodelist)
            begin, nodes = made[column]
            context["value"] = value
            drawn += (begin, nodes.render(context), "</td>")
    return mark_safe("".join(drawn))
