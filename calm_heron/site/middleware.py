"""What every answer carries."""

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse

POLICY = "; ".join(
    (
        "default-src 'none'",
        "script-src 'self'",
        "style-src 'self'",
        "font-src 'self'",
        "img-src 'self'",
        "connect-src 'self'",
        "form-action 'self'",
        "base-uri 'none'",
        "frame-ancestors 'none'",
    )
)


# Names of the one encoding that browsers send our forms in.
UTF8 = ("", "utf-8", "utf8")


def readable_requests(get_response: Callable) -> Callable:
    """What cannot be read is answered before anything asks: an address with a NUL in it, which PostgreSQL keeps no text with, and a body
    that claims another encoding than ours, some of which only raise where they are used."""

    def middleware(request: HttpRequest) -> HttpResponse:
        if "\x00" in request.path or "%00" in request.META.get("QUERY_STRING", ""):
            return HttpResponse("This address cannot be read.", status=400, content_type="text/plain")
        if (request.content_params or {}).get("charset", "").strip().lower() not in UTF8:
            return HttpResponse("Forms are read in UTF-8 here.", status=400, content_type="text/plain")
        return get_response(request)

    return middleware


# Only our own scripts, styles, fonts and pictures, nothing inline. And a page is its reader's: nobody in between stores it, and it is asked
# for anew; what was typed is still there after Back.
CARRIED = {"Content-Security-Policy": POLICY, "Cache-Control": "private, no-cache"}


def carried_by_every_answer(get_response: Callable) -> Callable:
    """Give each answer the headers of ours that its view has not set itself."""

    def middleware(request: HttpRequest) -> HttpResponse:
        response = get_response(request)
        for name, value in CARRIED.items():
            response.headers.setdefault(name, value)
        return response

    return middleware
