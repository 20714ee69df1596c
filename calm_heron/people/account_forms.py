"""The forms of the account pages, in our words."""

from allauth.account.forms import ChangePasswordForm, ResetPasswordKeyForm
from allauth.mfa.base.forms import AuthenticateForm, ReauthenticateForm
from allauth.mfa.totp.forms import ActivateTOTPForm

CODE = "The code"


def _call(form, **labels: str) -> None:
    """Give fields a label, and no placeholder that says the same again."""
    for name, label in labels.items():
        form.fields[name].label = label
        form.fields[name].widget.attrs.pop("placeholder", None)


class NewPassword(ResetPasswordKeyForm):
    def __init__(self, *args, **kwargs) -> None:
        super().__init__(*args, **kwargs)
        _call(self, password1="New password", password2="New password, once more")


class AnotherPassword(ChangePasswordForm):
    def __init__(self, *args, **kwargs) -> None:
        super().__init__(*args, **kwargs)
        _call(self, oldpassword="The password you have", password1="New password", password2="New password, once more")


class SecondStepCode(AuthenticateForm):
    def __init__(self, *args, **kwargs) -> None:
        super().__init__(*args, **kwargs)
        _call(self, code=CODE)


class CodeOnceMore(ReauthenticateForm):
    def __init__(self, *args, **kwargs) -> None:
        super().__init__(*args, **kwargs)
        _call(self, code=CODE)


class AddSecondStep(ActivateTOTPForm):
    def __init__(self, *args, **kwargs) -> None:
        super().__init__(*args, **kwargs)
        _call(self, code=CODE)
