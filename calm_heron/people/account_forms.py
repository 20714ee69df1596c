"""The forms of the account pages, in our words."""

from typing import Any

from allauth.account.forms import ChangePasswordForm, ResetPasswordKeyForm
from allauth.mfa.base.forms import AuthenticateForm, ReauthenticateForm
from allauth.mfa.totp.forms import ActivateTOTPForm
from django import forms


class Called:
    """Gives fields of a form the ``labels`` that its class names, and no placeholder that says the same again."""

    labels: dict[str, str] = {}
    fields: dict[str, forms.Field]

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        for name, label in self.labels.items():
            self.fields[name].label = label
            self.fields[name].widget.attrs.pop("placeholder", None)


TWICE = {"password1": "New password", "password2": "New password, once more"}
CODE = {"code": "The code"}


class NewPassword(Called, ResetPasswordKeyForm):  # type: ignore[misc]
    labels = TWICE


class AnotherPassword(Called, ChangePasswordForm):  # type: ignore[misc]
    labels = {"oldpassword": "The password you have", **TWICE}


class SecondStepCode(Called, AuthenticateForm):  # type: ignore[misc]
    labels = CODE


class CodeOnceMore(Called, ReauthenticateForm):  # type: ignore[misc]
    labels = CODE


class AddSecondStep(Called, ActivateTOTPForm):  # type: ignore[misc]
    labels = CODE
