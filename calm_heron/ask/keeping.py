"""Keeping what was asked: for members as a piece with its readings, for strangers on the way to a workshop of their own."""

from urllib.parse import urlencode

from django.contrib import messages
from django.db import transaction
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.urls import reverse
from django.views.decorators.http import require_POST

from calm_heron.ask.rack import USUAL_THICKNESS_M, chosen_meter
from calm_heron.ask.rack_form import RackForm
from calm_heron.measuring import actions as measuring
from calm_heron.measuring import queries as measuring_queries
from calm_heron.measuring.models import Meter
from calm_heron.questions.tools import TOOLS
from calm_heron.stock import actions as stock
from calm_heron.stock import queries as stock_queries
from calm_heron.workshops.askers import Asker
from calm_heron.workshops.doors import WorkshopRequest, in_workshop, once_or_told
from calm_heron.workshops.models import Membership, Role
from calm_heron.workshops.refusals import Refused

USUAL_WIDTH_M, USUAL_LENGTH_M = 0.15, 2.4


@require_POST
@in_workshop(write=Role.MAKER)
def keep_wood(request: WorkshopRequest) -> HttpResponse:
    """The wood that was asked about as a piece, with its readings where the meter is one of the workshop's."""
    form = RackForm(request.POST, asker=Asker(request.membership))
    typed = urlencode({name: value for name, value in request.POST.items() if name in form.fields})
    back = f"{reverse('ask_wood', args=[request.workshop.slug])}?{typed}"
    if not form.is_valid() or not form.cleaned_data["readings"] or not form.cleaned_data["species_key"]:
        messages.error(request, "Nothing was saved: its species and one reading at least are needed.")
        return redirect(back)
    return once_or_told(request, lambda: _keep(request.membership, form), back)


@transaction.atomic
def _keep(by: Membership, form: RackForm) -> str:
    """Add the piece and its readings; the sizes that were not asked are usual ones, to be put right on its page."""
    cleaned = form.cleaned_data
    meter = chosen_meter(form)
    if not isinstance(meter, Meter):
        raise Refused("Nothing was saved: choose one of your own meters under “Read with”; what a reading means depends on it.", "meter")
    piece = stock.add_piece(
        by,
        cleaned["species_key"],
        thickness_m=cleaned["thickness_m"] or USUAL_THICKNESS_M,
        width_m=USUAL_WIDTH_M,
        length_m=USUAL_LENGTH_M,
        place=stock_queries.usual_place(by.workshop),
    )
    line = cleaned["readings"]
    warm = line.wood_temperature_c
    if warm is None:
        warm = measuring_queries.wood_temperature(piece, measuring_queries.wood_temperatures(by.workshop))[0]
    measuring.record_readings(by, piece, meter, [measuring.as_taken(reading) for reading in line.readings], warm)
    return reverse("change_piece", args=[by.workshop.slug, piece.tag])


def carry_on(request: HttpRequest, name: str) -> HttpResponse:
    """On to the same question in a workshop of one's own, with all that was typed: by way of an account and a workshop, where there is
    none.
    """
    typed = urlencode({key: value for key, value in request.GET.items() if key != "fragment"})
    keys = [tool.key for tool in TOOLS if tool.place]
    name = name if name in keys else keys[0]
    here = f"{reverse('carry_on', args=[name])}?{typed}"
    if not request.user.is_authenticated:
        return redirect(f"{reverse('account_signup')}?{urlencode({'next': here})}")
    first = Membership.objects.filter(person=request.user).select_related("workshop").order_by("id").first()
    if first is None:
        return redirect(f"{reverse('found_workshop')}?{urlencode({'next': here})}")
    return redirect(f"{reverse(f'ask_{name}', args=[first.workshop.slug])}?{typed}")
