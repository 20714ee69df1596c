"""The pages that stand together, and the questions to choose from."""

from typing import Any

from django import template
from django.template.context import Context
from django.urls import reverse

from calm_heron.questions.tools import NEIGHBOURS, PART_NAMES, TOOLS

register = template.Library()


@register.inclusion_tag("questions/neighbours.html", takes_context=True)
def neighbours(context: Context, part: str) -> dict[str, Any]:
    """The pages of one part of the work: those of the workshop and the questions, in order."""
    request = context["request"]
    member, here = getattr(request, "membership", None), request.resolver_match and request.resolver_match.url_name
    results = []
    if member is not None:
        results += [
            (page.order, page.words, reverse(page.page, args=[member.workshop.slug]), page.page)
            for page in NEIGHBOURS
            if page.part == part and (not page.may or getattr(member, page.may))
        ]
    for tool in TOOLS:
        if part in (tool.part, *tool.also) and not tool.family and (member is not None or tool.outside):
            address = reverse(tool.inside_name, args=[member.workshop.slug]) if member is not None else reverse(tool.outside_name)
            results.append((tool.order, tool.short, address, tool.inside_name if member is not None else tool.outside_name))
    chooser = next((tool.family for tool in TOOLS if tool.family and here in (tool.inside_name, tool.outside_name)), "")
    here = f"{'ask' if member is not None else 'anybody'}_{chooser}" if chooser else here
    results.sort(key=lambda item: item[0])
    pages = [{"words": words, "address": address, "is_here": name == here} for _, words, address, name in results]
    return {"pages": pages, "name": PART_NAMES[part]}


@register.inclusion_tag("questions/choice.html", takes_context=True)
def questions_to_ask(context: Context) -> dict[str, Any]:
    """Every question that stands on Ask, with its small drawing."""
    member = getattr(context["request"], "membership", None)
    placed = sorted((tool for tool in TOOLS if tool.place and (tool.outside or member is not None)), key=lambda tool: tool.place)
    return {
        "questions": [
            {
                "tool": tool,
                "address": reverse(tool.inside_name, args=[member.workshop.slug]) if member is not None else reverse(tool.outside_name),
            }
            for tool in placed
        ]
    }
