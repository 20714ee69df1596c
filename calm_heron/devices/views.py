"""Which devices may speak for the workshop?"""

from typing import Any

from django.contrib import messages
from django.http import Http404, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from calm_heron.devices import actions, rows
from calm_heron.devices.forms import DeviceForm, ShutForm
from calm_heron.devices.models import Device
from calm_heron.plugs import RECEIVERS
from calm_heron.workshops.doors import WorkshopRequest, in_workshop, once_or_again, once_or_told
from calm_heron.workshops.models import Role


@in_workshop(write=Role.MAKER, only=True)
def devices(request: WorkshopRequest) -> HttpResponse:
    """Those that are let in, what each said last, and the kinds that can be let in."""
    return render(request, "devices/devices.html", _page(request))


@in_workshop(write=Role.MAKER, only=True)
def new_device(request: WorkshopRequest, kind: str) -> HttpResponse:
    """One more of a kind; its token is shown once, on the page that answers."""
    receiver = next((receiver for receiver in RECEIVERS if receiver.kind == kind), None)
    if receiver is None:
        raise Http404
    form = DeviceForm(request.POST or None, membership=request.membership, receiver=receiver)
    if form.is_valid():
        said = form.cleaned_data
        shown: dict[str, Any] = {}

        def do() -> str:
            device, token = actions.let_in(request.membership, said["name"].strip(), kind, said["about"], said.get("instrument"))
            shown.update(device=device, token=token, stand_in=receiver.stand_in(device))
            return reverse("devices", args=[request.workshop.slug])

        answer = once_or_again(request, form, do)
        if shown:
            # Not by way of another address: its token is kept nowhere.
            return render(request, "devices/devices.html", _page(request) | shown)
        if answer:
            messages.info(request, "This form was carried out before, and the token shown then. If it is lost, connect the device anew.")
            return answer
    return render(request, "devices/new.html", {"form": form, "receiver": receiver}, status=422 if form.errors else 200)


def _page(request: WorkshopRequest) -> dict[str, Any]:
    def out(version: int) -> ShutForm:
        return ShutForm(membership=request.membership, initial={"version": version})

    return {
        "rows": [(row, out(row.device.version)) for row in rows.rows(request.workshop)],
        "kinds": rows.kinds(request.workshop),
        "door": request.build_absolute_uri("/devices/v1/"),
    }


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
