"""One click into a demo workshop of one's own."""

from allauth.account.adapter import get_adapter
from django.conf import settings
from django.contrib import messages
from django.contrib.auth import login
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.utils import timezone
from django.views.decorators.http import require_POST

from calm_heron.answers.tasks import renew_soon
from calm_heron.demo import copies
from calm_heron.workshops.refusals import Refused


@require_POST
def enter(request: HttpRequest) -> HttpResponse:
    """Sign in as a visitor with a copy of the demo workshop; only where the demo was started. Who has one goes back to it."""
    if not settings.DEMO:
        raise Http404
    now = timezone.now()
    membership = copies.still_open(request.user, now)  # type: ignore[arg-type]
    if membership is None:
        try:
            membership = copies.for_visitor(now, get_adapter().get_client_ip(request))
        except Refused as refused:
            messages.error(request, str(refused))
            return redirect("front")
        renew_soon(membership.workshop.pk)
        login(request, membership.person, backend=settings.AUTHENTICATION_BACKENDS[0])
    return redirect("today", membership.workshop.slug)
