"""Who asks a question: a member, with the places, meters and species of the workshop, or a stranger, with units alone."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import wraps
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.urls import reverse

from calm_heron.workshops import limits
from calm_heron.workshops.doors import WorkshopRequest, in_workshop
from calm_heron.workshops.models import Membership
from wood.units import INCH, METRIC, SYSTEMS, System

UNITS_COOKIE = "units"
# Where people measure in inches, by the region of the language their browser asks for.
INCH_REGIONS = ("en-us", "en-lr", "my")


@dataclass(frozen=True)
class NoWorkshop:
    """What stands for a workshop where there is none."""

    system: System
    pk: None = None
    slug: str = ""


@dataclass(frozen=True)
class Stranger:
    """What stands for a membership where there is none."""

    workshop: Any
    may_record: bool = False
    may_make: bool = False


@dataclass(frozen=True)
class Asker:
    """Who asks, by their membership or as a stranger."""

    membership: Membership | Stranger

    @property
    def workshop(self) -> Any:
        return self.membership.workshop

    @property
    def system(self) -> System:
        return self.workshop.system

    @property
    def is_member(self) -> bool:
        return isinstance(self.membership, Membership)

    @property
    def species_address(self) -> str:
        """Where the species search is asked."""
        return reverse("species_found", args=[self.workshop.slug]) if self.is_member else reverse("anybody_species")

    @property
    def layout(self) -> str:
        """The frame its pages stand in: the workshop's, or none."""
        return "site/base.html" if self.is_member else "site/alone.html"

    def address(self, name: str, *about: str) -> str:
        """The address of a question, as this member or stranger reaches it."""
        return reverse(f"ask_{name}", args=[self.workshop.slug, *about]) if self.is_member else reverse(f"anybody_{name}", args=about)


def _units(request: HttpRequest) -> System:
    """The units a stranger chose, or those of the region of their browser's language."""
    chosen = request.GET.get("units") or request.COOKIES.get(UNITS_COOKIE, "")
    if chosen in SYSTEMS:
        return SYSTEMS[chosen]
    first = request.headers.get("Accept-Language", "").split(",")[0].strip().lower()
    return INCH if first in INCH_REGIONS else METRIC


View = Callable[..., HttpResponse]


class AskerRequest(HttpRequest):
    """A request of which it is known who asks."""

    asker: Asker


def asked_by_members(view: View) -> View:
    """A question inside a workshop; the view gets ``request.asker``."""

    @in_workshop()
    @wraps(view)
    def wrapped(request: WorkshopRequest, *args: Any, **kwargs: Any) -> HttpResponse:
        request.asker = Asker(request.membership)  # type: ignore[attr-defined]
        return view(request, *args, **kwargs)

    return wrapped


def asked_by_anybody(view: View, *, heavy: bool = False) -> View:
    """A question that anybody may ask, within limits; ``heavy`` ones one at a time, so that members are not kept waiting."""

    @wraps(view)
    def wrapped(request: AskerRequest, *args: Any, **kwargs: Any) -> HttpResponse:
        if not limits.lets_in(request):
            return limits.too_many(request)
        system = _units(request)
        request.asker = Asker(Stranger(NoWorkshop(system)))
        with limits.turn(heavy=heavy) as mine:
            answer = view(request, *args, **kwargs) if mine else limits.busy(request)
        if request.GET.get("units") in SYSTEMS:
            answer.set_cookie(UNITS_COOKIE, system.key, max_age=60 * 60 * 24 * 365, samesite="Lax")
        return answer

    return wrapped
