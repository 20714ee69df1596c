"""What every template may use."""

from typing import Any

from django.conf import settings
from django.http import HttpRequest
from django.utils import timezone

from calm_heron.site import dates

THEMES = ("auto", "light", "dark")


def every_page(request: HttpRequest) -> dict[str, Any]:
    membership = getattr(request, "membership", None)
    theme = request.COOKIES.get("theme", "auto")
    return {
        "membership": membership,
        "workshop": membership.workshop if membership else None,
        "system": membership.workshop.system if membership else None,
        "theme": theme if theme in THEMES else "auto",
        "here": request.path,
        "language": dates.language(),
        "today": timezone.localdate(),
        "has_mail": settings.HAS_MAIL,
    }
