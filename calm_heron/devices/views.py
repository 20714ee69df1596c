"""Which devices may speak for the workshop?"""

from typing import Any

from django.contrib import messages
from django.http import Http404, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from calm_heron.devices import actions
from calm_heron.devices.forms import DeviceForm, ShutForm
from calm_heron.devices.models import Device
from calm_heron.workshops.doors import WorkshopRequest, in_workshop, once_or_told
from calm_heron.workshops.models import Role
from calm_heron.workshops.refusals import Refused


@in_workshop(write=Role.MAKER, only=True)
def devices(request: WorkshopRequest) -> HttpResponse:
    """Those that are let in, and a new one; its token is shown once, on the page that answers."""
    form = DeviceForm(request.POST or None, membership=request.membership)
    page: dict[str, Any] = {"token": "", "door": request.build_absolute_uri("/devices/v1/")}
    if form.is_valid():
        kind, _, about = form.cleaned_data["about"].partition(":")
        try:
            device, page["token"] = actions.let_in(request.membership, form.cleaned_data["name"].strip(), kind, int(about))
        except Refused as refused:
            form.refuse(refused)
        else:
            page["device"] = device
            form = DeviceForm(membership=request.membership)
    rows = Device.objects.of(request.workshop).filter(revoked_at=None).order_by("name")
    page |= {"form": form, "rows": [(row, ShutForm(membership=request.membership, initial={"version": row.version})) for row in rows]}
    return render(request, "devices/devices.html", page, status=422 if form.errors else 200)


@require_POST
@in_workshop(write=Role.MAKER)
def shut_out(request: WorkshopRequest, device_id: int) -> HttpResponse:
    """A device is shut out."""
    device = Device.objects.of(request.workshop).filter(pk=device_id).first()
    if device is None:
        raise Http404
    back, form = reverse("devices", args=[request.workshop.slug]), ShutForm(request.POST, membership=request.membership)
    if not form.is_valid():
        messages.error(request, "That was not kept: open the page again, and say it once more.")
        return redirect(back)

    def do() -> str:
        actions.shut_out(request.membership, device, form.cleaned_data["version"])
        messages.success(request, f"{device.name} is shut out. What it sent stays.")
        return back

    return once_or_told(request, do, back)
