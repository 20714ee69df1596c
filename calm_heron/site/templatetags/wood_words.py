"""How numbers are written in templates; the one place where units go out."""

import functools
from collections.abc import Callable
from datetime import datetime
from typing import Any

from django import template
from django.template.loader import render_to_string
from django.utils import timezone
from django.utils.html import format_html
from django.utils.safestring import SafeString

from calm_heron.site import codes, dates, numbers, ramp
from wood import units, written
from wood.measuring import weighing
from wood.units import System

register = template.Library()


def _if_known(write: Callable[[Any], str], day: Any) -> str:
    """A day as it is written, nothing where there is none."""
    return write(day) if day else ""


register.filter("points", numbers.points)
register.filter("signed_points", numbers.signed)
register.filter("figure", numbers.figure)
register.filter("percent", numbers.percent)
register.filter("grouped", numbers.grouped)
_DAYS = (dates.near_day, dates.day, dates.full_day, dates.short_day, dates.short_full_day)
for _write in (*_DAYS, dates.clock, dates.near_moment, dates.moment, dates.full_moment):
    register.filter(_write.__name__, functools.partial(_if_known, _write))


@register.filter
def moisture(measured: Any, digits: int = 1) -> str:
    """The moisture of a reading or an estimate, with its sign where only a bound of it is known: 11.2, >28.0."""
    return numbers.bounded(getattr(measured, "mean", None) or measured.moisture, measured.bound, digits)


@register.filter
def of(form: Any, name: str) -> Any:
    """A form's field by its name, where a page does not know beforehand which there are."""
    return form[name]


@register.filter
def of_hundred(share: float) -> str:
    """What is left of a hundred, for columns that stand on their ground."""
    return f"{100 - share:.0f}"


@register.filter
def drawn(value: float | None, digits: int = 1) -> SafeString:
    """A length in a drawing, in its own units; drawings have hundreds, and Django's own filter goes by way of decimals in words."""
    return SafeString("" if value is None else f"{value:.{digits}f}")


@register.filter
def how_many(things: Any) -> int:
    """How many there are; the template language's own word for it means a length of wood here."""
    return len(things)


@register.filter
def cut_length(metres: float, system: units.System) -> str:
    """A length to cut by, or that wood moves."""
    return written.cut_length(metres, system)


@register.filter
def handled_length(metres: float, system: units.System) -> str:
    """A length as it is laid out in a yard."""
    return written.handled_length(metres, system)


@register.filter
def rough_mass(kilograms: float, system: units.System) -> str:
    """A mass that is only known to about a tenth, with two figures."""
    return written.rough_mass(kilograms, system)


@register.filter
def length(metres: float, system: units.System) -> str:
    """A length that is only named."""
    return written.said_length(metres, system)


@register.filter
def temperature(celsius: float, system: units.System) -> str:
    return written.written_temperature(celsius, system)


@register.filter
def mass(kilograms: float, system: units.System) -> str:
    return written.weighed_mass(kilograms, system)


@register.filter
def ago(moment: datetime | None) -> str:
    """How long ago, in the largest unit that fits."""
    if moment is None:
        return "never"
    seconds = (timezone.now() - moment).total_seconds()
    if seconds < 90:
        return "just now"
    for size, name in ((31_557_600, "year"), (2_629_800, "month"), (604_800, "week"), (86_400, "day"), (3600, "hour"), (60, "minute")):
        count = int(seconds // size)
        if count:
            return f"{numbers.counted(count, name)} ago"
    return "just now"


@register.filter
def ago_short(moment: datetime | None) -> str:
    """How long ago, for narrow columns: 4 h, 3 d, 2 w."""
    words = ago(moment).removesuffix(" ago").split()
    return " ".join((words[0], "mo" if words[1].startswith("month") else words[1][0])) if words[0].isdigit() else words[-1]


@register.filter
def ramp_colour(moisture: float) -> str:
    return ramp.colour(moisture)


@register.inclusion_tag("site/field.html")
def field(bound: Any, size: str = "") -> dict[str, Any]:
    """A form field with its label, hint and error."""
    return {"field": bound, "size": size}


# A drop stands in every row of a list: it is written here, not by a template each time.
SWATCH = (
    '<svg class="swatch" viewBox="0 0 8 11" aria-hidden="true"><path d="M4 .5C6 3.5 7.5 5 7.5 7.2A3.5 3.5 0 0 1 .5 7.2C.5 5 2 3.5 4 .5Z"'
    ' fill="{}" stroke="currentColor" stroke-width=".6"/></svg>'
)


@register.simple_tag
def swatch(moisture: float | None) -> str:
    """A drop of the moisture ramp; nothing where there is no moisture."""
    return format_html(SWATCH, ramp.colour(moisture)) if moisture is not None else ""


@register.simple_tag
@functools.cache
def moisture_ramp() -> SafeString:
    """The legend of the ramp, with the break at fibre saturation."""
    steps = [*range(4, 31, 2), 45, 60, 90]
    legend = {
        "steps": [{"x": i * 14, "label": step, "colour": ramp.colour(step / 100)} for i, step in enumerate(steps)],
        "break_at": 14 * 14,
        "width": 14 * len(steps),
    }
    return render_to_string("site/ramp.html", legend)


@register.inclusion_tag("site/paper_code.html", takes_context=True)
def paper_code(context: dict[str, Any], *words: str) -> dict[str, Any]:
    """The code that leads from paper back to this page, and beside it what the page is of, the name first."""
    address = codes.address_on_paper(context["request"])
    coarse = "m" if context["request"].GET else "q"
    return {"words": words, "code": codes.code_drawing(address, coarse) if len(address) <= codes.LONGEST_ADDRESS else None}


@register.inclusion_tag("site/ruled.html")
def ruled(heads: str, lines: int) -> dict[str, Any]:
    """Lines to write on, on paper only: ``heads`` are the columns, parted by commas."""
    return {"heads": [head.strip() for head in heads.split(",")], "lines": range(lines)}


@register.filter
def in_system(text: str, system: units.System) -> str:
    """A text that has both systems in it, in one of them."""
    return units.in_system(text, system)


@register.filter
def wet_basis(moisture: float) -> float:
    """Moisture on the dry basis as a share of the whole mass."""
    return weighing.wet_basis(moisture)


@register.filter
def sawn_volume(volume_m3: float, system: System) -> str:
    """How much sawn wood."""
    return written.sawn_volume(volume_m3, system)
