"""A device that is let in."""

from django import forms

from calm_heron.plugs import RECEIVERS
from calm_heron.workshops.fields import CalmForm


class DeviceForm(CalmForm):
    """Its name, and what it speaks for."""

    name = forms.CharField(label="Its name", max_length=60)

    def build(self) -> None:
        offered = [
            (f"{receiver.kind}:{pk}", f"{receiver.name}: {name}") for receiver in RECEIVERS for pk, name in receiver.offers(self.workshop)
        ]
        self.fields["about"] = forms.ChoiceField(label="It speaks for", choices=offered)


class ShutForm(CalmForm):
    version = forms.IntegerField(widget=forms.HiddenInput)
