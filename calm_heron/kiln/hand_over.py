"""Somebody else dries it: what to ask an operator, a slip that goes with the load, and what to check when it comes back."""

from django.http import HttpRequest, HttpResponse

from calm_heron.drying import queries as drying
from calm_heron.kiln import slips, words
from calm_heron.kiln.forms import SlipForm
from calm_heron.kiln.views import answered
from calm_heron.site.dates import full_day
from calm_heron.site.numbers import percent
from calm_heron.stock import woods
from calm_heron.workshops.askers import said
from wood.sizes import BOARD_FOOT_M3
from wood.units import System, in_system
from wood.written import said_length, written_temperature


def questions(request: HttpRequest) -> HttpResponse:
    """What do I ask, and what do I hand over? The slip is a page that prints on one sheet."""
    asker = request.asker
    inch = asker.system.is_inch
    form = SlipForm(
        said(request, {"species_key": "white oak", "thickness_m": "4/4" if inch else "27", "count": "60", "wanted": "8"}),
        membership=asker.membership,
    )
    page: dict = {
        "form": form,
        "questions": [(question, in_system(good, asker.system)) for question, good in words.QUESTIONS], "checks": words.CHECKS,
    }  # fmt: skip
    if form.is_valid() and form.cleaned_data["species_key"]:
        rows = _slip(form, asker.system)
        if request.GET.get("pdf"):
            return HttpResponse(
                slips.pdf(rows, asker.system),
                content_type="application/pdf",
                headers={"Content-Disposition": 'inline; filename="slip.pdf"'},
            )
        page |= {"rows": rows, "as_pdf": f"?{request.GET.urlencode()}&pdf=1" if request.GET else "?pdf=1"}
    return answered(request, "dried_by", page)


def _slip(form: SlipForm, system: System) -> list[tuple[str, str]]:
    """What stands on the slip: a name and what is said, for each line that has something to say."""
    typed = form.cleaned_data
    species = woods.species_of(form.workshop.pk, typed["species_key"])
    amount = [f"{typed['count']} boards"] if typed["count"] else []
    if typed["volume_m3"] is not None:
        amount.append(f"{typed['volume_m3'] / BOARD_FOOT_M3:,.0f} bd ft" if system.is_inch else f"{typed['volume_m3']:.2f} m³")
    size = f", {said_length(typed['thickness_m'], system)}" if typed["thickness_m"] else ""
    marks = "; none of oak or walnut: this wood is pale and keeps their mark" if words.marks_easily(species) else ""
    core = written_temperature(56, system)
    rows = [
        ("Wood", species.spoken_name + size), ("How much", ", ".join(amount)), ("Moisture now, by sample", f"{typed['samples']} %" if typed["samples"] else ""),
        ("Wanted", f"{percent(typed['wanted'])}, shell and core within a point, prongs straight" if typed["wanted"] is not None else ""),
        ("Insects", f"clear it: its core at {core} for 30 minutes at least" if typed["insects"] else "no treatment asked for"),
        ("Stickers", ("its own" if typed["own_stickers"] else "yours, dry and alike") + marks), ("Whose, and whom to ring", typed["whose"]), ("Besides", typed["note"]),
        ("Date", full_day(drying.today())),
    ]  # fmt: skip
    return [(name, said) for name, said in rows if said]
