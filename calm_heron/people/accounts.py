"""How people get in: who may make an account, the second step at signing in, and a link for a new password made by hand."""

from typing import Any

import segno
from allauth.account import app_settings
from allauth.account.adapter import DefaultAccountAdapter
from allauth.account.utils import user_pk_to_url_str
from allauth.core.internal import ratelimit
from allauth.mfa.adapter import DefaultMFAAdapter
from allauth.mfa.models import Authenticator
from django.conf import settings
from django.http import HttpRequest, HttpResponse
from django.urls import Resolver404, resolve, reverse
from django.utils.safestring import mark_safe

from calm_heron.people import known_devices
from calm_heron.workshops.models import Invitation, Person

# Wrong passwords from one place: few in a minute from any address, fewer for one account; from a browser that is known to that account;
# and in a day for one account from all places that are not known.
ANY_PLACE, KNOWN_DEVICE, EVERYBODY = "10/m/ip,5/300s/key", "10/300s/key", "1000/d/key"


class Accounts(DefaultAccountAdapter):  # type: ignore[misc]
    """Accounts as this installation wants them."""

    def is_open_for_signup(self, request: HttpRequest) -> bool:
        return settings.SIGN_UP != "invited" or _invitation(request) is not None

    def pre_authenticate(self, request: HttpRequest, **credentials: Any) -> None:
        """Stop guessing, and keep nobody out for what strangers try.

        A browser in which this person has signed in before is counted by itself alone. Any other is counted by where it comes from, each
        address of a person's by itself; and all of those together, unless a second step stands behind the password.
        """
        email = str(credentials.get("email", "")).lower()
        mark = known_devices.mark_of(request, email)
        limits = KNOWN_DEVICE if mark else ANY_PLACE
        usages = [self._count(request, "from", limits, mark or f"{ratelimit.get_ip(request)} {email}")]
        if not mark and not Authenticator.objects.filter(user__email=email).exists():
            usages.append(self._count(request, "for", EVERYBODY, email))
        self._login_failed_rl_usage = ratelimit.RateLimitUsage([one for usage in usages for one in usage.usage])

    def _count(self, request: HttpRequest, action: str, limits: str, key: str) -> ratelimit.RateLimitUsage:
        rates = {} if app_settings.RATE_LIMITS == {} else {action: limits}
        usage = ratelimit.consume(request, app="calm_heron.signing_in", action=action, config=rates, key=key)
        if not usage:
            raise self.validation_error("too_many_login_attempts")
        return usage

    def post_login(self, request: HttpRequest, user: Any, **how: Any) -> HttpResponse:
        response: HttpResponse = super().post_login(request, user, **how)
        known_devices.remember(request, response, user.email)
        return response


class SecondStep(DefaultMFAAdapter):  # type: ignore[misc]
    """A second step by an app that shows a code; its secret is shown as a drawing to photograph."""

    def build_totp_svg(self, url: str) -> str:
        # Drawn by us, from nothing but its modules.
        return mark_safe(segno.make(url, error="m", micro=False).svg_inline(scale=4, border=2))


def new_password_path(person: Person) -> str:
    """The address of a page that sets a new password for ``person``; it works once, for a day."""
    token = app_settings.PASSWORD_RESET_TOKEN_GENERATOR().make_token(person)
    return reverse("account_reset_password_from_key", kwargs={"uidb36": user_pk_to_url_str(person), "key": token})


def _invitation(request: HttpRequest) -> Invitation | None:
    """The open invitation that somebody came from, who wants to sign up."""
    try:
        led_from = resolve((request.POST.get("next") or request.GET.get("next") or "").partition("?")[0])
    except (Resolver404, ValueError):
        return None
    if led_from.url_name != "join":
        return None
    invitation = Invitation.objects.filter(token=led_from.kwargs["token"]).first()
    return invitation if invitation and invitation.is_open else None


def take_second_step_away(person: Person) -> None:
    """For somebody who has lost both the phone and the spare codes."""
    Authenticator.objects.filter(user=person).delete()
