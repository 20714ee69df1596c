"""How something that happened is noted: what, from when to when, or that it goes on."""

from collections.abc import Container
from datetime import datetime
from typing import Any

from django import forms
from django.utils import timezone

from calm_heron.workshops.fields import CalmForm, MomentField


class SpellForm(CalmForm):
    """Something that happened. What lasts (``lasting``, kinds) is asked for its end, or whether it goes on."""

    ids = "n-%s"
    kinds: Any = ()
    lasting: Container[str] = ()
    kind = forms.ChoiceField(label="What happened")
    at = MomentField(label="From")
    until = MomentField(label="Until")
    goes_on = forms.BooleanField(label="it goes on", required=False)
    words = forms.CharField(label="In words", max_length=200, required=False)

    def build(self) -> None:
        kind = self.fields["kind"]
        assert isinstance(kind, forms.ChoiceField)
        kind.choices = self.kinds

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean()
        until, goes_on = cleaned.get("until"), cleaned.get("goes_on")
        if until is not None and goes_on:
            self.add_error("goes_on", "It has an end and goes on: which of the two?")
        elif until is None and not goes_on and cleaned.get("kind") in self.lasting and "until" not in self.errors:
            self.add_error("until", "Until when? Or tick that it goes on.")
        return cleaned

    @property
    def span(self) -> dict[str, Any]:
        """From when, until when, and whether it goes on, as :class:`calm_heron.workshops.spells.Spell` keeps them."""
        typed = self.cleaned_data
        at: datetime = typed["at"] or timezone.now()
        return {"at": at, "until": typed["until"], "goes_on": typed["goes_on"]}
