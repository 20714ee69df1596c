"""Requests that only read, read a workshop's answers once; after one that changed something they are renewed behind the pages."""

from collections.abc import Callable
from typing import Any

from django.http import HttpRequest, HttpResponse

from calm_heron.answers.saved import read_once
from calm_heron.answers.tasks import renew_soon


def answers_saved(get_response: Callable[..., Any]) -> Callable[..., Any]:
    """See above."""

    def middleware(request: HttpRequest) -> HttpResponse:
        if request.method in ("GET", "HEAD"):
            with read_once():
                return get_response(request)
        response: HttpResponse = get_response(request)
        workshop = getattr(request, "workshop", None)
        if workshop is not None and response.status_code < 400:
            renew_soon(workshop.pk)
        return response

    return middleware
