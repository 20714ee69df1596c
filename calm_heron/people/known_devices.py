"""Browsers in which somebody has signed in before: a signed mark by which wrong passwords of strangers do not count against them."""

import hashlib
import secrets

from django.conf import settings
from django.core import signing
from django.http import HttpRequest, HttpResponse

COOKIE, SALT = "known_device", "calm_heron.known_device"
LASTS_S = 365 * 86_400
# So many people use one browser at most.
MOST_PEOPLE = 6


def mark_of(request: HttpRequest, email: str) -> str:
    """This browser's own mark, where that person has signed in with it before; else empty."""
    mark, people = _read(request)
    return f"{mark} {_person(email)}" if _person(email) in people else ""


def remember(request: HttpRequest, response: HttpResponse, email: str) -> None:
    """Have the browser say from now on that this person has signed in with it."""
    mark, people = _read(request)
    people = [_person(email), *(person for person in people if person != _person(email))][:MOST_PEOPLE]
    response.set_cookie(
        COOKIE,
        signing.dumps([mark or secrets.token_urlsafe(12), people], salt=SALT),
        max_age=LASTS_S,
        httponly=True,
        samesite="Lax",
        secure=settings.SESSION_COOKIE_SECURE,
    )


def _read(request: HttpRequest) -> tuple[str, list[str]]:
    try:
        mark, people = signing.loads(request.COOKIES.get(COOKIE, ""), salt=SALT, max_age=LASTS_S)
        return (mark, people) if isinstance(mark, str) and isinstance(people, list) else ("", [])
    except (signing.BadSignature, ValueError, TypeError):
        return "", []


def _person(email: str) -> str:
    return hashlib.sha256(email.lower().encode()).hexdigest()[:16]
