"""One click into the demo workshop."""

from django.conf import settings
from django.contrib.auth import login
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.views.decorators.http import require_POST

from calm_heron.demo.scenario import DEMO_EMAIL, DEMO_SLUG
from calm_heron.workshops.models import Person


@require_POST
def enter(request: HttpRequest) -> HttpResponse:
    """Sign in as the demo's owner; only where the demo was started."""
    person = Person.objects.filter(email=DEMO_EMAIL).first() if settings.DEMO else None
    if person is None:
        raise Http404
    login(request, person, backend=settings.AUTHENTICATION_BACKENDS[0])
    return redirect("today", DEMO_SLUG)
