"""Addresses that a form asks to be led back to."""

from django.http import HttpRequest, HttpResponse, HttpResponseRedirect
from django.utils.http import url_has_allowed_host_and_scheme

LONGEST = 2000


def back(request: HttpRequest, otherwise: str) -> HttpResponse:
    """To the address the form carries as ``back``, if it is one of ours, else to ``otherwise``."""
    return _to(request.POST.get("back", ""), otherwise)


def onward(request: HttpRequest, otherwise: str) -> HttpResponse:
    """To the address that somebody was on the way to (``next``), if it is one of ours, else to ``otherwise``."""
    return _to(request.GET.get("next", ""), otherwise)


def _to(asked: str, otherwise: str) -> HttpResponse:
    ours = asked.startswith("/") and len(asked) <= LONGEST and url_has_allowed_host_and_scheme(asked, allowed_hosts=None)
    return HttpResponseRedirect(asked if ours else otherwise)
