"""Addresses that a form asks to be led back to."""

from django.http import HttpRequest, HttpResponse, HttpResponseRedirect
from django.utils.http import url_has_allowed_host_and_scheme

LONGEST = 2000


def back(request: HttpRequest, otherwise: str) -> HttpResponse:
    """To the address the form carries as ``back``, if it is one of ours, else to ``otherwise``."""
    asked = request.POST.get("back", "")
    ours = asked.startswith("/") and len(asked) <= LONGEST and url_has_allowed_host_and_scheme(asked, allowed_hosts=None)
    return HttpResponseRedirect(asked if ours else otherwise)
