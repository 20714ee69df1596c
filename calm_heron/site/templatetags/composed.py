"""How composed pages show what apps registered for them (see ``calm_heron.plugs``)."""

from pathlib import Path
from typing import Any

from django import template
from django.template.context import Context
from django.templatetags.static import static
from django.urls import reverse
from django.utils.safestring import SafeString, mark_safe

from calm_heron.plugs import CAUTIONS, KEYS, PANELS, PARTS, PIECE_ACTIONS, Part, Slot
from calm_heron.site import undo
from wood.units import in_system

register = template.Library()


@register.simple_tag(takes_context=True)
def panels(context: Context, slot: str) -> SafeString:
    """Every panel registered for the slot that has something to show, in order."""
    wanted = Slot(slot)
    shown = []
    for panel in PANELS:
        data = panel.data(context) if panel.slot is wanted else None  # type: ignore[arg-type]
        if data is not None:
            with context.push(**data):
                shown.append(context.template.engine.get_template(panel.template).render(context))  # type: ignore[union-attr]
    # Each part was escaped as it was rendered.
    return mark_safe("".join(shown))


@register.simple_tag(takes_context=True)
def parts_of_the_work(context: Context) -> list[dict[str, Any]]:
    """The pages of the rail and the phone's bar, each with its address and whether it is the one shown."""
    slug, here = context["workshop"].slug, context["here"]
    first = reverse("today", args=[slug])

    def is_here(address: str) -> bool:
        return here == address if address == first else here.startswith(address)

    def shown(part: Part) -> dict[str, Any]:
        addresses = [reverse(page, args=[slug]) for page in (part.page, *part.holds)]
        return {"part": part, "address": addresses[0], "is_here": any(is_here(address) for address in addresses)}

    return [shown(part) for part in PARTS]


register.filter("way_back", undo.way_back)


@register.filter
def with_key(parts: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """Those that a key leads to."""
    return [part for part in parts if part["part"].key]


@register.simple_tag(takes_context=True)
def asked_of_it(context: Context) -> list[dict[str, Any]]:
    """What this member may ask of the page's piece."""
    piece, membership = context["piece"], context["membership"]
    allowed = [action for action in PIECE_ACTIONS if action.applies(piece) and (not action.may or getattr(membership, action.may))]
    return [{"words": item.words, "address": item.address(piece), "style": item.style} for item in allowed]


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


@register.simple_tag
def every_key() -> list[Any]:
    return list(KEYS)
