"""How do I run this load? Is the load done? Asked in the address, answered at once."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from calm_heron.drying import questions
from calm_heron.kiln import drawings, end_words, queries, words
from calm_heron.kiln.forms import EndedForm, LoadForm
from calm_heron.kiln.kinds import SOLAR
from calm_heron.kiln.queries import NoWoodYet
from calm_heron.stock.asked import asked_about
from calm_heron.workshops.askers import said
from wood.errors import NotKnown, OutOfRange
from wood.kiln import finish
from wood.kiln.stress import Prongs
from wood.species import trade_name
from wood.units import System

# Fields that the core calls otherwise.
FIELD_OF = {"thickness_m": "thickness_m", "load_m3": "volume_m3", "start": "start", "hottest_c": "hottest_c", "width_m": "thickness_m"}


def answered(request: HttpRequest, name: str, page: dict) -> HttpResponse:
    """One of the kiln's questions as a page, or its answer alone (``fragment=kiln``)."""
    asker = request.asker
    alone = request.GET.get("fragment") == "kiln"
    addresses = {one: asker.address(one) for one in ("kiln", "heat", "prongs", "dried_by")}
    about = {"asker": asker, "system": asker.system, "layout": asker.layout, "fragment": alone, "addresses": addresses, "part": name}
    return render(request, f"kiln/{name}_answer.html" if alone else f"kiln/{name}.html", about | page)


def load(request: HttpRequest) -> HttpResponse:
    """How do I run this load? ``fragment=kiln`` gives the answer alone."""
    asker = request.asker
    piece = asked_about(asker, request.GET.get("piece", ""))
    kept = queries.chambers_of(asker.workshop)
    blank = LoadForm(membership=asker.membership, chambers=kept)
    usual = {**blank.usual, "where": questions.usual_anywhere(asker.workshop, blank.places)["where"]}
    if piece is not None and piece.traits.is_sawn:
        usual["lots"] = piece.tag
    typed = said(request, usual, ("where",))
    form = LoadForm(typed, membership=asker.membership, chambers=kept)
    of_lots = "lots" in form.fields and bool("lots" in request.GET or "lots" in usual)
    page: dict = {
        "form": form,
        "piece": piece,
        "of_lots": of_lots,
        "taken_as": "" if of_lots else trade_name(typed.get("species_key", "")[:60]),
    }
    if form.is_valid():
        try:
            found = queries.asked(form)
            page |= {"no_air": found} if isinstance(found, str) else _shown(form, found, asker.system)
        except NoWoodYet:
            page["missing"] = "Name the lots of the load, by their tags." if of_lots else "Say which wood is to be dried."
        except NotKnown as unknown:
            page["no_figure"] = unknown
        except OutOfRange as beyond:
            form.complain(beyond, called=FIELD_OF)
    return answered(request, "load", page)


def _shown(form: LoadForm, found: queries.Asked, system: System) -> dict:
    planned, together = queries.planned(found), queries.shared(found)
    figure, beside, reason = words.answer(found, planned)
    most, all_water = words.water(planned.ran, system)
    rate = words.loss(planned)
    return {
        "found": found, "planned": planned, "figure": figure, "beside": beside, "reason": reason, "remarks": words.remarks(found, planned, system),
        "rows": [] if found.solar else words.rows(planned, system), "water_most": most, "water_all": all_water,
        "energy": words.energy(planned.ran, form.cleaned_data["price"], system),
        "loss": rate, "slowest": words.slowest(planned), "risks": words.risks(planned, system), "prongs": words.prongs(planned) if planned.ran.finished else None,
        "sharing": words.sharing(together) if together else None, "solar": form.chosen("chamber") == SOLAR,
        "drawings": [("wide-only", drawings.drawing(found, planned, system)), ("narrow-only", drawings.drawing(found, planned, system, drawings.NARROW))],
        "further": words.further(found, planned),
    }  # fmt: skip


def is_done(request: HttpRequest) -> HttpResponse:
    """Is the load done? By shell and core, and by the prongs from drawn choices: at once, and after a day in a room."""
    asker = request.asker
    now, later = (_lean(request.GET.get(name, "")) for name in ("now", "later"))
    choices = [(one.value, words.PRONGS[one][0], drawings.prongs(one)) for one in Prongs]
    form = EndedForm(said(request, {"wanted": "8"}, ("wanted",)), membership=asker.membership)
    page: dict = {"form": form, "choices": choices, "now": now, "later": later}
    if form.is_valid():
        typed = form.cleaned_data
        asked = [typed[name] is None for name in ("shell", "core")]
        if any(asked) and not (all(asked) and typed["mean"] is None):
            page["missing"] = "Read both, the shell and the core: a mean alone hides a wet core."
        elif not any(asked) and typed["wanted"] is None:
            page["missing"] = "Say which moisture was wanted."
        else:
            found = None if all(asked) else finish.ended(typed["shell"], typed["core"], typed["wanted"], typed["mean"])
            page["figure"], page["reasons"] = end_words.done(found, typed["wanted"], now, later)
    return answered(request, "prongs", page)


def _lean(text: str) -> Prongs | None:
    return Prongs(text) if text in {one.value for one in Prongs} else None
