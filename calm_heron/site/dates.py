"""How days and moments are written: as in the reader's English, at the reader's clock. No other module formats one.

A page speaks the language and keeps the time of its workshop (:func:`as_in`); pages that belong to none say British dates in UTC.
"""

from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from datetime import date, datetime
from functools import cache
from zoneinfo import ZoneInfo, available_timezones

from django.utils import timezone

BRITISH, AMERICAN = "en-GB", "en-US"
LANGUAGES = ((BRITISH, "British: 26 November 2026, 14:05"), (AMERICAN, "American: November 26, 2026, 2:05 PM"))
UTC = "UTC"

_language: ContextVar[str] = ContextVar("language", default=BRITISH)


def language() -> str:
    """The language that is spoken now."""
    return _language.get()


@contextmanager
def as_in(spoken: str, zone: str) -> Iterator[None]:
    """Speak a language and keep a zone's time, for one page or one piece of work."""
    token = _language.set(spoken)
    try:
        with timezone.override(ZoneInfo(zone)):
            yield
    finally:
        _language.reset(token)


@cache
def zones() -> list[str]:
    """The time zones there are, UTC first; read from the machine once."""
    named = {zone for zone in available_timezones() if "/" in zone and not zone.startswith(("Etc/", "SystemV/", "posix/", "right/", "US/"))}
    return [UTC, *sorted(named)]


def _written(day: date, british: str, american: str) -> str:
    if isinstance(day, datetime):
        day = timezone.localtime(day)
    return format(day, american if language() == AMERICAN else british)


def day(day: date) -> str:
    """26 November.

    >>> day(date(2026, 11, 6))
    '6 November'
    """
    return _written(day, "%-d %B", "%B %-d")


def full_day(day: date) -> str:
    """26 November 2026."""
    return _written(day, "%-d %B %Y", "%B %-d, %Y")


def short_day(day: date) -> str:
    """26 Nov."""
    return _written(day, "%-d %b", "%b %-d")


def short_full_day(day: date) -> str:
    """26 Nov 2026."""
    return _written(day, "%-d %b %Y", "%b %-d, %Y")


def clock(moment: datetime) -> str:
    """14:05."""
    return _written(moment, "%H:%M", "%-I:%M %p")


def moment(moment: datetime) -> str:
    """26 Nov, 14:05."""
    return f"{short_day(moment)}, {clock(moment)}"


def full_moment(moment: datetime) -> str:
    """26 Nov 2026, 14:05."""
    return f"{short_full_day(moment)}, {clock(moment)}"


def _this_year(day: date) -> bool:
    return (timezone.localtime(day) if isinstance(day, datetime) else day).year == timezone.localdate().year


def near_day(day_: date) -> str:
    """A day, with its year where that is not this one."""
    return day(day_) if _this_year(day_) else full_day(day_)


def near_moment(moment_: datetime) -> str:
    """A moment, with its year where that is not this one."""
    return moment(moment_) if _this_year(moment_) else full_moment(moment_)
