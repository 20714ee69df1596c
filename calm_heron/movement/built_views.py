"""What will it do once it is built? The things to choose from, each thing, the season dial, and a piece that moves elsewhere."""

from collections.abc import Callable

from django.core.exceptions import ValidationError
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render

from calm_heron.measuring import queries as measuring
from calm_heron.movement import season
from calm_heron.movement.things import homes, queries
from calm_heron.movement.things.forms import STOPS, DialForm, ElsewhereForm, ThingForm
from calm_heron.movement.things.queries import NoShrinkage, StillToSay
from calm_heron.movement.things.registry import THINGS
from calm_heron.movement.things.scene import NARROW, WIDE, draw
from calm_heron.movement.things.thing import Asked, Thing, Worked, slowed, too_wet, when
from calm_heron.site.numbers import typed
from calm_heron.stock.asked import asked_about
from calm_heron.stock.models import Piece
from calm_heron.workshops.askers import said
from calm_heron.workshops.fields import CalmForm
from wood.errors import OutOfRange
from wood.movement.course import COURSE_DAYS
from wood.species import trade_name
from wood.written import typed_length

# Where a piece goes in the example: winters that dry it.
FAR_AWAY = "cold_winter"


# Which of the movement pages a template is of.
HERE = {"things": "things", "thing": "things", "season": "season", "elsewhere": "elsewhere"}


def _page(request: HttpRequest, name: str, page: dict) -> HttpResponse:
    """A whole page, or its answer alone (``fragment=built``)."""
    asker = request.asker
    alone = request.GET.get("fragment") == "built"
    about = {
        "asker": asker, "system": asker.system, "layout": asker.layout, "fragment": alone, "part": HERE[name], "addresses": {
            "things": asker.address("made"), "season": asker.address("season"), "elsewhere": asker.address("elsewhere"), "board": asker.address("movement"),
        },
    }  # fmt: skip
    return render(request, f"movement/{name}_answer.html" if alone else f"movement/{name}.html", about | page)


def choose(request: HttpRequest) -> HttpResponse:
    """The things to choose from, by their drawn shapes."""
    piece = _piece(request)
    after = f"?piece={piece.tag}" if piece else ""
    return _page(
        request,
        "things",
        {"things": [(one, request.asker.address("made_thing", one.key) + after) for one in THINGS.values()], "piece": piece},
    )


def _piece(request: HttpRequest) -> Piece | None:
    """A piece or a lot of the workshop that a thing is to be made of."""
    piece = asked_about(request.asker, request.GET.get("piece", ""))
    return piece if piece is not None and piece.traits.moves_in_width else None


def _of_piece(piece: Piece, asked: dict[str, str], system) -> dict[str, str]:
    """The example's fields with the piece's own in them."""
    moisture = measuring.moisture_to_begin_from(piece)
    own = {
        "species_key": piece.species.common_name, "thickness_m": typed_length(piece.thickness_m, system), "grain": f"{piece.ring_angle_deg:g}",
    }  # fmt: skip
    if moisture is not None and moisture <= 0.35:
        own["built"] = typed(moisture)
    if "width_m" in asked and asked.get("species_key") and "boards" not in asked:
        own["width_m"] = typed_length(piece.width_m, system)
    elif "boards" in asked and piece.is_lot:
        # As wide a top as its boards make, up to eight of them.
        count = min(8, piece.count)
        own |= {"boards": str(count), "width_m": typed_length(count * piece.width_m, system)}
    if "board_m" in asked:
        own["board_m"] = typed_length(piece.width_m, system)
    return asked | own


def _begun(request: HttpRequest, thing: Thing, piece: Piece | None) -> dict[str, str]:
    """The thing's example, or the piece's own sizes in it."""
    begun = thing.defaults(request.asker.system)
    return begun if piece is None else _of_piece(piece, begun, request.asker.system)


def one_thing(request: HttpRequest, thing: str) -> HttpResponse:
    """What one thing will do."""
    chosen = THINGS.get(thing)
    if chosen is None:
        raise Http404
    piece = _piece(request)
    typed_in = said(request, _begun(request, chosen, piece))
    form = ThingForm(typed_in, thing=chosen, membership=request.asker.membership)
    page = {"form": form, "thing": chosen, "piece": piece, "stops": STOPS, "taken_as": trade_name(typed_in.get("species_key", "")[:60])}
    form.is_valid()

    def answer() -> dict:
        asked = queries.asked(form)
        return _shown(asked, chosen.work(asked), _stop(request), form.cleaned_data.get("drawn"))

    page |= _answered(form, answer)
    return _page(request, "thing", page)


def _answered(form: CalmForm, work: Callable[[], dict]) -> dict:
    """What is worked out, or why it cannot be."""
    try:
        return work()
    except StillToSay as missing:
        return {"missing": str(missing)}
    except NoShrinkage as unknown:
        return {"no_figure": unknown.species}
    except ValidationError:
        # Its errors stand beside their fields.
        return {}
    except OutOfRange as beyond:
        form.complain(beyond)
        return {}


def _stop(request: HttpRequest) -> int:
    """The month that is looked at: the one a button names, else the slider's; the day it is built where neither is one."""
    for name in ("go", "stop"):
        text = request.GET.get(name, "")
        if text.isdecimal() and len(text) < 4 and int(text) <= STOPS:
            return int(text)
    return 0


def _shown(asked: Asked, worked: Worked, stop: int, drawn: float | None) -> dict:
    """Everything that is shown of a thing, all of it from one course."""
    course, thing = asked.course, asked.thing
    day = round(stop * COURSE_DAYS / STOPS)
    moisture = course.at(day)
    built, low, high, now = (thing.scene(asked, worked, at) for at in (course.built, course.low, course.high, moisture))
    drawings = [
        (shown, draw(now, built, (low, high), moisture, drawn, width)) for shown, width in (("wide-only", WIDE), ("narrow-only", NARROW))
    ]
    schools = [(words, draw(then, was, (then,), at, drawn, NARROW)) for words, then, was, at in thing.schools(asked, worked)]
    stops = {name: round(at * STOPS / COURSE_DAYS) for name, at in (("driest", course.low_day), ("dampest", course.high_day))}
    return {
        "asked": asked, "worked": worked, "told": thing.told(asked, worked), "drawings": drawings, "schools": schools, "moisture": moisture, "stop": stop,
        "when": when(asked, day), "marks": stops, "slowed": slowed(asked), "too_wet": too_wet(asked), "low_when": when(asked, course.low_day),
        "high_when": when(asked, course.high_day),
    }  # fmt: skip


def dial(request: HttpRequest) -> HttpResponse:
    """What a width of every species does through a season."""
    data = request.GET.copy()
    data.setdefault("width_m", "12" if request.asker.system.is_inch else "300")
    form = DialForm(data, membership=request.asker.membership)
    page: dict = {"form": form}
    if form.is_valid() and (home := form.home_fields.read()) is not None:
        page |= season.shown(form, home, request.asker.workshop)
    return _page(request, "season", page)


def elsewhere(request: HttpRequest) -> HttpResponse:
    """What becomes of a finished piece that goes from one place to another."""
    inch = request.asker.system.is_inch
    typed_in = said(
        request,
        {"species_key": "white oak", "width_m": "36" if inch else "900", "thickness_m": "7/8" if inch else "22", "to_home": homes.HEATED, "to_climate": FAR_AWAY},
    )  # fmt: skip
    form = ElsewhereForm(typed_in, membership=request.asker.membership)
    page: dict = {"form": form, "taken_as": trade_name(typed_in.get("species_key", "")[:60])}
    if form.is_valid():
        page |= _answered(form, lambda: season.moved_elsewhere(form))
    return _page(request, "elsewhere", page)
