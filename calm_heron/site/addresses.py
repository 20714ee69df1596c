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


def _to(question: str, otherwise: str) -> HttpResponse:
    ours = question.startswith("/") and len(question) <= LONGEST and url_has_allowed_host_and_scheme(question, allowed_hosts=None)
    return HttpResponseRedirect(question if ours else otherwise)
