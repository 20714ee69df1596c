"""How composed pages show what apps registered for them (see ``calm_heron.plugs``)."""

import functools
from pathlib import Path
from typing import Any

from django import template
from django.template.context import Context
from django.template.loader import render_to_string
from django.templatetags.static import static
from django.urls import reverse
from django.utils.safestring import SafeString, mark_safe

from calm_heron.plugs import CAUTIONS, KEYS, PANELS, PARTS, PIECE_ACTIONS, Keys, Part, Slot
from calm_heron.site import undo
from wood.units import in_system

register = template.Library()


@register.simple_tag(takes_context=True)
def panels(context: Context, slot: str) -> SafeString:
    """Every panel registered for the slot that has something to show, in order."""
    wanted = Slot(slot)
    # Two panels of one slot may show parts of the same data: it is worked out once.
    known: dict[Any, dict[str, Any] | None] = {}
    shown = []
    for panel in PANELS:
        if panel.slot is not wanted:
            continue
        if panel.data not in known:
            known[panel.data] = panel.data(context)  # type: ignore[arg-type]
        data = known[panel.data]
        if data is not None:
            with context.push(**data):
                shown.append(context.template.engine.get_template(panel.template).render(context))  # type: ignore[union-attr]
    # Each part was escaped as it was rendered.
    return mark_safe("".join(shown))


@register.simple_tag(takes_context=True)
def parts_of_the_work(context: Context, template: str) -> SafeString:
    """The pages of the rail, or of the phone's bar, each with its address and whether it is the one shown."""
    slug, here = context["workshop"].slug, context["here"]
    addresses = _addresses(slug, tuple(PARTS))
    first = reverse("today", args=[slug])
    is_here = tuple(any(here == own if own == first else here.startswith(own) for own in of_part) for of_part in addresses)
    return _navigation(template, slug, is_here, tuple(PARTS))


# The same links stand on every page: they are written once for each workshop and part of the work.
@functools.lru_cache(512)
def _addresses(slug: str, parts: tuple[Part, ...]) -> list[list[str]]:
    """The addresses of each part, its own before those it holds."""
    return [[reverse(page, args=[slug]) for page in (part.page, *part.holds)] for part in parts]


@functools.lru_cache(1024)
def _navigation(template: str, slug: str, is_here: tuple[bool, ...], parts: tuple[Part, ...]) -> SafeString:
    links = zip(parts, _addresses(slug, parts), is_here, strict=True)
    return render_to_string(template, {"parts": [{"part": part, "address": own[0], "is_here": shown} for part, own, shown in links]})


register.filter("way_back", undo.way_back)


@register.simple_tag
def keys_dialog() -> SafeString:
    """What every key does."""
    return _keys_dialog(tuple(PARTS), tuple(KEYS))


@functools.lru_cache(4)
def _keys_dialog(parts: tuple[Part, ...], keys: tuple[Keys, ...]) -> SafeString:
    return render_to_string("site/keys.html", {"parts": [part for part in parts if part.key], "keys": keys})


# What may be asked of a piece, in the order of the work.
DOORS = ("Read", "Plan", "Use")


@register.simple_tag(takes_context=True)
def asked_of_it(context: Context) -> list[dict[str, Any]]:
    """What this member may ask of the page's piece."""
    piece, membership = context["piece"], context["membership"]
    allowed = [action for action in PIECE_ACTIONS if action.applies(piece) and (not action.may or getattr(membership, action.may))]
    return [
        {"door": door, "asked": [{"words": item.words, "address": item.address(piece), "style": item.style} for item in behind]}
        for door in DOORS
        if (behind := [item for item in allowed if item.door == door])
    ]


@register.inclusion_tag("site/caution.html", takes_context=True)
def caution(context: Any, key: str, kind: str = "") -> dict[str, Any]:
    """A caution by its key; with a ``kind`` it is shown while that kind is chosen in the form."""
    words = next(caution.words for caution in CAUTIONS if caution.key == key)
    return {"words": in_system(words, context["system"]), "kind": kind}


# The modules that every page is wired up by: all are fetched at once, not one after another as each is read.
# What one kind of page alone needs lies in js/pages, and that page asks for it.
MODULES = sorted(path.name for path in (Path(__file__).parent.parent / "static" / "site" / "js").glob("*.js"))


# Those of them that pages for strangers need.
ASKING = ("asking.js", "fetching.js", "live.js", "slide.js", "species.js")


@register.simple_tag
def modules() -> list[str]:
    """The addresses of the modules of every page inside a workshop."""
    return [static(f"site/js/{name}") for name in MODULES]


@register.simple_tag
def asking_modules() -> list[str]:
    """The addresses of the modules of pages for strangers."""
    return [static(f"site/js/{name}") for name in ASKING]
