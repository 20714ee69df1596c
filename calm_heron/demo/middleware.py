"""What is closed to a visitor of the demo."""

from collections.abc import Callable
from typing import Any

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect

ACCOUNTS, SIGN_OUT = "/accounts/", "/accounts/logout/"


def no_account_for_visitors(get_response: Callable[..., Any]) -> Callable[..., Any]:
    """A visitor has no account to see or change; what they may do there is leave."""

    def middleware(request: HttpRequest) -> HttpResponse:
        if request.path.startswith(ACCOUNTS) and request.path != SIGN_OUT and getattr(request.user, "is_visitor", False):
            messages.error(request, "The demo has no account. Sign out of it first; then you can sign in or start a workshop of your own.")
            return redirect("workshops")
        return get_response(request)

    return middleware
