"""How people get in: who may make an account, the second step at signing in, and a link for a new password made by hand."""

import segno
from allauth.account import app_settings
from allauth.account.adapter import DefaultAccountAdapter
from allauth.account.utils import user_pk_to_url_str
from allauth.mfa.adapter import DefaultMFAAdapter
from allauth.mfa.models import Authenticator
from django.conf import settings
from django.http import HttpRequest
from django.urls import Resolver404, resolve, reverse
from django.utils.safestring import mark_safe

from calm_heron.workshops.models import Invitation, Person


class Accounts(DefaultAccountAdapter):  # type: ignore[misc]
    """Accounts as this installation wants them."""

    def is_open_for_signup(self, request: HttpRequest) -> bool:
        return settings.SIGN_UP != "invited" or _invitation(request) is not None


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
