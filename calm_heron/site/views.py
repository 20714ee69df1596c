"""Pages that belong to no workshop: the door, the theme, and what is shown when something is wrong."""

import sys
from typing import Any

from django.db import InterfaceError, OperationalError
from django.http import HttpRequest, HttpResponse
from django.template.loader import render_to_string
from django.views.decorators.http import require_POST
from psycopg.errors import DiskFull

from calm_heron.site.addresses import back
from calm_heron.site.context import THEMES

NOT_SENT_AGAIN = ("/accounts/",)


def alive(request: HttpRequest) -> HttpResponse:
    """For the start command: the server answers."""
    return HttpResponse("alive", content_type="text/plain")


@require_POST
def appearance(request: HttpRequest) -> HttpResponse:
    """Light, dark, or as the device says; kept in a cookie."""
    theme = request.POST.get("theme")
    response = back(request, "/")
    response.set_cookie("theme", theme if theme in THEMES else "auto", max_age=60 * 60 * 24 * 365, samesite="Lax")
    return response


def not_found(request: HttpRequest, exception: Any = None) -> HttpResponse:
    return HttpResponse(render_to_string("site/not_found.html"), status=404)


def forbidden(request: HttpRequest, exception: Any = None) -> HttpResponse:
    return HttpResponse(render_to_string("site/forbidden.html", {"why": str(exception or "")}), status=403)


def stale_form(request: HttpRequest, reason: str = "") -> HttpResponse:
    """The form's guard did not match: signed out meanwhile, or cookies are off."""
    return HttpResponse(render_to_string("site/stale_form.html"), status=403)


def broken(request: HttpRequest) -> HttpResponse:
    """Something failed. Where it is the database that is away, say so calmly and keep what was typed ready to be sent again.

    Rendered without context processors: nothing here may need the database.
    """
    error = sys.exc_info()[1]
    if isinstance(error, OperationalError | InterfaceError):
        resend = request.method == "POST" and not request.path.startswith(NOT_SENT_AGAIN)
        typed = [(name, value) for name, values in request.POST.lists() for value in values] if resend else []
        page = render_to_string(
            "site/database_away.html",
            {"typed": typed, "resend": resend, "path": request.get_full_path(), "is_full": isinstance(error.__cause__, DiskFull)},
        )
        return HttpResponse(page, status=503, headers={"Retry-After": "3"})
    return HttpResponse(render_to_string("site/broken.html"), status=500)
