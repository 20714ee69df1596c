"""Past weights from a notebook, looked at line by line before they are kept, and all weights taken away as a table."""

from dataclasses import replace

from django.contrib import messages
from django.http import HttpResponse, HttpResponseBase
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_POST

from calm_heron.measuring.kinds import Method
from calm_heron.measuring.models import Reading
from calm_heron.site import undo
from calm_heron.site.numbers import counted
from calm_heron.stock import downloads
from calm_heron.stock.models import Piece
from calm_heron.turning import actions
from calm_heron.turning.shelf import notebook, weighing
from calm_heron.turning.shelf.notebook import NotebookLine
from calm_heron.turning.shelf.shelf_forms import NotebookForm
from calm_heron.workshops.doors import WorkshopRequest, in_workshop, once_or_again
from calm_heron.workshops.models import Role


@in_workshop(write=Role.HELPER, only=True)
def past(request: WorkshopRequest) -> HttpResponse:
    """What does the notebook say? Lines are shown as understood; what is sound is kept, and the rest stays to be put right."""
    bowls = weighing.bowls_in_stock(request.workshop)
    alone = next((piece for piece in bowls if piece.tag == request.GET.get("bowl", "")[:40]), None)
    form = NotebookForm(request.POST or None, membership=request.membership)
    lines = notebook.read(form.cleaned_data["text"], bowls, request.workshop.system, alone) if form.is_valid() else []
    lines = [replace(line, meant=f"mean-{line.number}" in request.POST) for line in lines]
    if form.is_bound and form.is_valid() and not lines:
        form.add_error("text", "No line of it has a day, a tag and a weight: “3 November 2026, bowl-03, 812 g”.")
    if lines and "keep" in request.POST:
        chosen = [line for line in lines if line.whole is not None and (not line.doubt or line.meant)]
        left = [line for line in lines if not line.known and line not in chosen]

        def do() -> str:
            _kept(request, chosen, left)
            return reverse("turning" if alone is None else "bowl", args=[request.workshop.slug, *([alone.tag] if alone else [])])

        if not chosen:
            form.add_error("text", "None of these lines can be kept as it stands.")
        elif answer := once_or_again(request, form, do):
            if not left:
                return answer
            # What was not kept is shown again, with what is asked of it.
            form = NotebookForm(initial={"text": "\n".join(line.text for line in left)}, membership=request.membership)
            lines = left
    sound = [line for line in lines if line.whole is not None]
    page = {"form": form, "lines": lines, "sound": len(sound), "alone": alone, "part": "weigh", "system": request.workshop.system}
    return render(request, "turning/past.html", page, status=422 if form.errors else 200)


def _kept(request: WorkshopRequest, chosen: list[NotebookLine], left: list[NotebookLine]) -> None:
    readings = actions.keep_past(request.membership, [line.whole for line in chosen if line.whole is not None])
    others = f" {counted(len(left), 'line')} {'was' if len(left) == 1 else 'were'} not." if left else ""
    undo.tell(
        request,
        f"{counted(len(readings), 'weight')} kept.{others}",
        reverse("weights_back", args=[request.workshop.slug]),
        {"do": "strike", "reading": [str(reading.pk) for reading in readings]},
    )


@require_POST
@in_workshop(write=Role.HELPER)
def back(request: WorkshopRequest) -> HttpResponse:
    """Weights that were just kept are taken out."""
    ids = [int(pk) for pk in request.POST.getlist("reading") if pk[:18].isdigit()][:1000]
    count = actions.take_back_weights(request.membership, ids)
    messages.success(request, f"Struck out: {counted(count, 'weight')}. The journal has both.")
    return redirect("turning", request.workshop.slug)


@in_workshop()
def table(request: WorkshopRequest) -> HttpResponseBase:
    """All weights of the rough bowls as a table, oldest first; what was taken out left out. It reads back as a notebook."""
    rows = (
        Reading.objects.of(request.workshop)
        .standing()
        .filter(method=Method.WEIGHT, wet_mass_kg__isnull=False, piece__in=Piece.objects.filter(kind__in=weighing.BOWLS))
        .order_by("at", "pk")
        .values_list("at", "piece__tag", "wet_mass_kg")
    )
    lines = ((timezone.localdate(at).isoformat(), tag, f"{1000 * mass:.1f} g") for at, tag, mass in rows.iterator())
    return downloads.download("weights.csv", downloads.lines(("day", "bowl", "weight"), lines))
