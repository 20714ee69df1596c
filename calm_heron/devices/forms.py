"""A device that is let in."""

from typing import Any

from django import forms

from calm_heron.plugs import Receiver
from calm_heron.workshops.fields import CalmForm
from calm_heron.workshops.refusals import Refused


class DeviceForm(CalmForm):
    """Its name, and what it speaks for: one of what its receiver offers, or the piece that it stays in, by its tag."""

    name = forms.CharField(label="Its name", max_length=60)

    def __init__(self, *args: Any, receiver: Receiver, **kwargs: Any) -> None:
        self.receiver = receiver
        super().__init__(*args, **kwargs)

    def build(self) -> None:
        receiver = self.receiver
        if receiver.fixed:
            self.fields["tag"] = forms.CharField(
                label="Tag of its board", max_length=32, widget=forms.TextInput(attrs={"autocomplete": "off"})
            )
        else:
            self.fields["about"] = forms.TypedChoiceField(label="It speaks for", coerce=int, choices=receiver.offers(self.workshop))
        if receiver.instruments:
            offered = receiver.instruments(self.workshop)
            is_needed = receiver.fixed is not None
            self.fields["instrument"] = forms.TypedChoiceField(
                label="Which of your instruments is it?",
                coerce=int,
                empty_value=None,
                required=is_needed,
                choices=offered if is_needed else [("", "None of them"), *offered],
                help_text="Its settings and checks correct what is read." if offered else "",
            )

    def clean_tag(self) -> str:
        assert self.receiver.fixed is not None
        try:
            self.cleaned_data["about"] = self.receiver.fixed.find(self.workshop, self.cleaned_data["tag"].strip())
        except Refused as refused:
            raise forms.ValidationError(str(refused)) from None
        return self.cleaned_data["tag"].strip()


class ShutForm(CalmForm):
    version = forms.IntegerField(widget=forms.HiddenInput)
