"""Pages about what a thermo-hygrometer's logger recorded: its file is looked at, saved, struck out and put back."""

from typing import Any

import numpy as np
from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse

from calm_heron.air import logger_actions as actions
from calm_heron.air.logger_forms import LoggerForm, ReadAsForm
from calm_heron.air.logger_words import columns, said_faults
from calm_heron.air.models import LoggerFile, Place
from calm_heron.site import undo
from calm_heron.site.numbers import counted
from calm_heron.workshops.doors import WorkshopRequest, in_workshop, once, once_or_told
from calm_heron.workshops.fields import sentence
from calm_heron.workshops.models import Role
from calm_heron.workshops.refusals import Refused
from wood.air import logger_files
from wood.errors import CannotRead

ROWS_SHOWN, WRONG_SHOWN = 3, 5


@in_workshop(write=Role.HELPER, only=True)
def logger(request: WorkshopRequest, place_id: int) -> HttpResponse:
    """A logger's file for a place, and the files that were saved here."""
    place = get_object_or_404(Place.objects.of(request.workshop), pk=place_id)
    form = LoggerForm(request.POST or None, request.FILES or None, membership=request.membership, place=place)
    if form.is_valid():
        cleaned = form.cleaned_data

        def do() -> str:
            file = actions.look_at(request.membership, place, cleaned["name"], cleaned["text"], cleaned["hygrometer"], cleaned["clock"])
            return reverse("logger_file", args=[request.workshop.slug, place.pk, file.pk])

        try:
            return once(request, do)
        except Refused as refused:
            form.refuse(refused)
        except CannotRead as unread:
            form.add_error("pasted" if cleaned["name"] == "pasted rows" else "file", sentence(unread.why))
    saved = LoggerFile.objects.of(request.workshop).filter(place=place, is_saved=True).select_related("by").order_by("-at")[:20]
    return render(request, "air/logger.html", {"place": place, "form": form, "saved": saved}, status=422 if form.errors else 200)


@in_workshop(write=Role.HELPER, only=True)
def logger_file(request: WorkshopRequest, place_id: int, file_id: int) -> HttpResponse:
    """One file: how it was understood, before it is saved; what it brought, after that."""
    files = LoggerFile.objects.of(request.workshop).filter(place=place_id).select_related("place", "hygrometer", "workshop", "by")
    file = get_object_or_404(files, pk=file_id)
    here = reverse("logger_file", args=[request.workshop.slug, place_id, file.pk])
    if request.method == "POST":
        return _do(request, file, here)
    if file.is_saved:
        return render(request, "air/logger_saved.html", {"place": file.place, "file": file, "faults": said_faults(actions.faults_of(file))})
    form = ReadAsForm(request.GET or None, membership=request.membership)
    page = {"place": file.place, "file": file, "form": form, **_read(file, form)}
    return render(request, "air/logger_file.html", page, status=422 if form.errors else 200)


def _do(request: WorkshopRequest, file: LoggerFile, here: str) -> HttpResponse:
    typed = request.POST.get("version", "")
    version = int(typed) if typed[:9].isdigit() else 0
    to_place = reverse("place", args=[request.workshop.slug, file.place_id])
    if "forget" in request.POST:
        actions.forget_file(request.membership, file)
        return redirect("place_logger", request.workshop.slug, file.place_id)
    if "strike" in request.POST or "put_back" in request.POST:
        struck = "put_back" not in request.POST

        def change() -> str:
            actions.strike_file(request.membership, file, version, struck=struck)
            back = {"version": str(version + 1), "put_back" if struck else "strike": "1"}
            done = "struck out" if struck else "put back"
            undo.tell(request, f"{counted(file.count, 'reading')} {done}.", here, back)
            return here

        return once_or_told(request, change, here)
    form = ReadAsForm(request.POST, membership=request.membership)
    read_as = form.read_as if form.is_valid() else {}

    def save() -> str:
        count = actions.save_readings(request.membership, file, version, **read_as)
        messages.success(request, f"{counted(count, 'reading')} saved.")
        return to_place

    query = request.POST.get("asked", "")
    return once_or_told(request, save, f"{here}?{query}" if query and len(query) < 200 else here)


def _read(file: LoggerFile, form: ReadAsForm) -> dict[str, Any]:
    """What a file that is not saved yet says, in the shape that its page shows."""
    air = actions.understood(file, **(form.read_as if form.is_valid() else {}))
    at = actions.moments(file, air)
    new = actions.new_ones(file, at)
    shown = [
        (actions.moment_of(at[k]), float(air.temperature_c[k]), float(air.relative_humidity[k])) for k in range(min(ROWS_SHOWN, at.size))
    ]
    return {
        "columns": columns(air.layout),
        "guessed": air.layout.guessed,
        "rows": shown,
        "begins": actions.moment_of(at[0]),
        "ends": actions.moment_of(at[-1]),
        "count": int(at.size),
        "new": int(np.count_nonzero(new)),
        "known": int(at.size - np.count_nonzero(new)),
        "wrong": air.wrong[:WRONG_SHOWN],
        "wrong_count": air.wrong_count,
        "twice": air.twice,
        "faults": said_faults(logger_files.faults(at, air.temperature_c, air.relative_humidity)),
    }
