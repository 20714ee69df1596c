"""What every answer carries."""

import re
from collections.abc import Callable
from typing import Any

from django.http import HttpRequest, HttpResponse, HttpResponseNotAllowed

POLICY = "; ".join(
    (
        "default-src 'none'",
        "script-src 'self'",
        "style-src 'self'",
        "font-src 'self'",
        "img-src 'self'",
        "connect-src 'self'",
        "manifest-src 'self'",
        "worker-src 'self'",
        "form-action 'self'",
        "base-uri 'none'",
        "frame-ancestors 'none'",
    )
)


# Names of the one encoding that browsers send our forms in.
UTF8 = ("", "utf-8", "utf8")
# What anything here is asked by.
METHODS = ("GET", "HEAD", "POST", "OPTIONS")


def readable_requests(get_response: Callable[..., Any]) -> Callable[..., Any]:
    """What cannot be read is answered before anything asks: an address with a NUL in it, which PostgreSQL keeps no text with, a body that
    claims another encoding than ours, some of which only raise where they are used, and a method that nothing here knows."""

    def middleware(request: HttpRequest) -> HttpResponse:
        if request.method not in METHODS:
            return HttpResponseNotAllowed(METHODS)
        if "\x00" in request.path or "%00" in request.META.get("QUERY_STRING", ""):
            return HttpResponse("This address cannot be read.", status=400, content_type="text/plain")
        if (request.content_params or {}).get("charset", "").strip().lower() not in UTF8:
            return HttpResponse("Forms are read in UTF-8 here.", status=400, content_type="text/plain")
        return get_response(request)

    return middleware


# Only our own scripts, styles, fonts and pictures, nothing inline. And a page is its reader's: nobody in between stores it, and it is asked
# for anew; what was typed is still there after Back.
CARRIED = {"Content-Security-Policy": POLICY, "Cache-Control": "private, no-cache"}


def carried_by_every_answer(get_response: Callable[..., Any]) -> Callable[..., Any]:
    """Give each answer the headers of ours that its view has not set itself."""

    def middleware(request: HttpRequest) -> HttpResponse:
        response = get_response(request)
        for name, value in CARRIED.items():
            response.headers.setdefault(name, value)
        return response

    return middleware


# A number and its unit, or ± and its number, parted by a plain space.
PARTED = re.compile(
    r"(?<=\d)\s+(?=(?:mm\b|m\b|in\b|ft\b|kg\b|g\b|lb\b|oz\b|points?\b|days?\b|weeks?\b|months?\b|years?\b))|(?<=±)\s+(?=\d)"
    r"|(?<=\d) (?=\d+/\d)"
)
# Percent and degrees stand close to their number.
APART = re.compile(r"(?<=\d)\s+(?=[%°])")
# Text between tags; what is typed into fields and titles of the window stays as it is.
BETWEEN = re.compile(r"(<(?:textarea|title|script|style)\b.*?</(?:textarea|title|script|style)>|<[^>]*>)", re.DOTALL)


def unbroken_text(html: str) -> str:
    """A page in which no line ends between a number and its unit.

    >>> unbroken_text('<p title="8 mm">8 mm ± 1%, 1 3/8 in</p>')
    '<p title="8 mm">8\\xa0mm ±\\xa01%, 1\\xa03/8\\xa0in</p>'
    """
    parts = BETWEEN.split(html)
    parts[::2] = [part if not part or part.isspace() else PARTED.sub("\u00a0", APART.sub("", part)) for part in parts[::2]]
    return "".join(parts)


def unbroken(get_response: Callable[..., Any]) -> Callable[..., Any]:
    """Keep every number with its unit, wherever a page writes one."""

    def middleware(request: HttpRequest) -> HttpResponse:
        response = get_response(request)
        if not response.streaming and response.get("Content-Type", "").startswith("text/html"):
            response.content = unbroken_text(response.content.decode()).encode()
            if response.has_header("Content-Length"):
                response["Content-Length"] = str(len(response.content))
        return response

    return middleware
