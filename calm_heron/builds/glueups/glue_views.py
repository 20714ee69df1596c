"""Glue-ups: the boards of a panel in order, and what the panel does."""

import json
from typing import Any

from django import forms
from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.utils import timezone

from calm_heron.builds import drawings, readiness
from calm_heron.builds.forms import GlueForm, read_order
from calm_heron.builds.glueups import gluing
from calm_heron.builds.kinds import ApproachKind, ChalkKind
from calm_heron.builds.layouts import allocation, laying
from calm_heron.builds.views import build_or_404
from calm_heron.drying.words import span
from calm_heron.stock.models import Photo
from calm_heron.workshops.doors import WorkshopRequest, in_workshop, once_or_again
from calm_heron.workshops.models import Role
from wood.builds.glueups import RingApproach


@in_workshop(write=Role.MAKER)
def glue(request: WorkshopRequest, build_id: int, part_id: int) -> HttpResponse:
    """One panel. ``fragment=panel`` with an ``order`` draws it as it would be; ``copy`` tells alike panels apart."""
    build = build_or_404(request, build_id)
    saw = allocation.saw(build)
    part = next((part for part in saw.parts if part.pk == part_id), None)
    if part is None or part.staves < 2:
        raise Http404
    copy = _copy(request, part.count)
    staves = gluing.staves_of(part, copy, saw)
    saved, order = gluing.arranged(part, copy, staves)
    state = readiness.state_of(saw.only(part), request.membership)
    fragment = request.GET.get("fragment") == "panel"
    query = request.GET.get("order") or (request.POST.get("order") if request.method == "POST" else None)
    if query:
        try:
            order = read_order(query[:2000], part.staves)
        except forms.ValidationError:
            if fragment:
                return HttpResponse(status=422)
    initial = {
        "order": json.dumps(order),
        "version": saved.version if saved else None,
        "note": saved.note if saved else "",
        "glued": bool(saved and saved.glued_on),
        "chalk": saved.chalk if saved else "",
        "sapwood": saved.sapwood if saved else "",
        "pairs": ", ".join(f"{a + 1} {b + 1}" for a, b in saved.pairs) if saved else "",
    }
    pieces = [stave.piece for stave in staves if stave.piece]
    photos = list(Photo.objects.of(request.workshop).filter(piece__in=pieces).select_related("piece").order_by("-at")[:6])
    if saved and saved.photo_id:
        initial["photo"] = str(saved.photo_id)
    form = GlueForm(request.POST or None, initial=initial, membership=request.membership, staves=part.staves, photos=photos)
    if form.is_valid():
        typed = form.cleaned_data

        def do() -> str:
            glued_on = (saved.glued_on if saved and saved.glued_on else timezone.localdate()) if typed["glued"] else None
            photo = next((photo for photo in photos if str(photo.pk) == typed["photo"]), None)
            laying.glue(
                request.membership,
                part,
                copy,
                typed["version"],
                typed["order"],
                typed["pairs"],
                note=typed["note"],
                glued_on=glued_on,
                photo=photo,
                chalk=form.chosen("chalk"),
                sapwood=form.chosen("sapwood"),
            )
            messages.success(request, f"The boards of {part.name} are kept as they lie.")
            return request.get_full_path()

        answer = once_or_again(request, form, do, changing=saved)
        if answer is not None:
            return answer
    text = gluing.describe(part, staves, order, state, request.workshop.system, saved)
    laid = [(staves[int(n)], up, turned) for n, up, turned in order]
    names, turned = [placement.name for placement, _, _ in laid], [turned for _, _, turned in laid]
    places = {int(n): at for at, (n, _, _) in enumerate(order)}
    pairs = [[places[a], places[b]] for a, b in (saved.pairs if saved else []) if a in places and b in places]
    triangle = saved is not None and saved.chalk == ChalkKind.TRIANGLE
    shown = [("wide-only", drawings.WIDE), ("narrow-only", drawings.NARROW)]
    page = {
        "build": build,
        "build_part": part,
        "copy": copy,
        "copies": range(part.count),
        "form": form,
        "words": text,
        "laid": laid,
        "saved": saved,
        "fragment": fragment,
        "system": request.workshop.system,
        "part": "glue",
        "panels": [other for other in saw.parts if other.staves > 1],
        "faces": [(css, drawings.face(names, turned, pairs, width, triangle=triangle)) for css, width in shown],
        "drawings": [(css, drawings.panel(text.section, names, width, chalk=False)) for css, width in shown] if text.section else [],
        "approaches": [
            (name, words, here, drawings.panel(section, [""] * len(names), 420.0, chalk=False), json.dumps(_turned(order, name)))
            for name, section, words, here in text.approaches
        ],
        "moistures": gluing.moisture_words(text, build.place.name),
        "rest": span(text.glue_days) if text.glue_days else "",
        "photos": photos,
        "boards": sorted({piece.tag for piece in pieces}),
    }
    return render(request, "builds/panel.html" if fragment else "builds/glue.html", page, status=422 if form.errors else 200)


def _turned(order: list[list[Any]], name: str) -> list[list[Any]]:
    kind = next(kind for kind in ApproachKind if kind.label.capitalize() == name)
    return gluing.turned_over(order, RingApproach(kind.value))


def _copy(request: HttpRequest, count: int) -> int:
    text = request.GET.get("copy", "0")
    copy = int(text) if text.isascii() and text.isdigit() and len(text) < 5 else 0
    if copy >= count:
        raise Http404
    return copy
