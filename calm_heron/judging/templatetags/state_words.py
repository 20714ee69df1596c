"""The heads of the stock list."""

from django import template
from django.http import QueryDict

register = template.Library()


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
