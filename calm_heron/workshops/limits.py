"""How often strangers may ask: as fast as anybody types, and not so fast that members wait. Counted in each process by itself."""

import threading
import time
from collections import OrderedDict
from collections.abc import Iterator
from contextlib import contextmanager

from allauth.account.adapter import get_adapter
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

# A slider that moves asks about eight times a second for a moment; nobody goes on like that.
A_SECOND, AT_ONCE = 6.0, 40.0
MOST_REMEMBERED = 5000
# How long a stranger waits for another's answer to be worked out.
WAITS_S = 3.0

_left: OrderedDict[str, tuple[float, float]] = OrderedDict()
_guard = threading.Lock()
_one_at_a_time = threading.BoundedSemaphore(1)
# Of the few threads of a process strangers hold no more than this many, working or waiting: the others are the members'.
THREADS_FOR_STRANGERS = 2
_inside = threading.BoundedSemaphore(THREADS_FOR_STRANGERS)


def lets_in(request: HttpRequest) -> bool:
    """Whether this address may ask once more now."""
    who, now = get_adapter().get_client_ip(request), time.monotonic()
    with _guard:
        left, since = _left.pop(who, (AT_ONCE, now))
        left = min(AT_ONCE, left + (now - since) * A_SECOND)
        allowed = left >= 1
        _left[who] = (left - 1 if allowed else left, now)
        while len(_left) > MOST_REMEMBERED:
            _left.popitem(last=False)
    return allowed


def forget() -> None:
    """Everybody may ask anew (tests do)."""
    with _guard:
        _left.clear()


@contextmanager
def turn(*, heavy: bool) -> Iterator[bool]:
    """One stranger at a time where much is worked out; false where the wait was too long, or others wait already."""
    if not heavy:
        yield True
        return
    inside = _inside.acquire(blocking=False)
    mine = inside and _one_at_a_time.acquire(timeout=WAITS_S)
    try:
        yield mine
    finally:
        if mine:
            _one_at_a_time.release()
        if inside:
            _inside.release()


def too_many(request: HttpRequest) -> HttpResponse:
    return _later(request, 429, "That was very many questions at once.")


def busy(request: HttpRequest) -> HttpResponse:
    return _later(request, 503, "Others are asking just now.")


def _later(request: HttpRequest, status: int, why: str) -> HttpResponse:
    answer = render(request, "workshops/later.html", {"why": why}, status=status)
    answer["Retry-After"] = "2"
    return answer
