"""Forms about people and workshops."""

from typing import Any

from django import forms

from calm_heron.site import dates
from calm_heron.workshops.fields import CalmForm
from calm_heron.workshops.models import Role
from wood.units import CUT_STEPS, INCH, SCALES, SYSTEMS


class NameAtSignUp(forms.Form):
    """The one thing sign-up asks besides e-mail and password."""

    name = forms.CharField(label="Your name", max_length=80, help_text="Shown beside what you record.")

    field_order = ["name", "email", "password1"]

    def signup(self, request: Any, person: Any) -> None:
        person.name = self.cleaned_data["name"]
        person.save(update_fields=["name"])


class WorkshopForm(forms.Form):
    """A workshop's name and its units."""

    name = forms.CharField(label="Name of the workshop", max_length=80)
    units = forms.ChoiceField(
        label="Units",
        choices=[(key, system.name) for key, system in SYSTEMS.items()],
        widget=forms.RadioSelect,
        initial=INCH.key,
        help_text="A bare number means this unit. You can always write another beside it: 20 C, 27 mm, 2.4 kg.",
    )

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, auto_id="f-%s", label_suffix="", **kwargs)  # type: ignore[misc]


class SettingsForm(WorkshopForm):
    """A workshop's name, its units, its clock, its English, its scale and how finely it cuts."""

    time_zone = forms.ChoiceField(
        label="Time zone", required=False, choices=lambda: [(zone, zone.replace("_", " ")) for zone in dates.zones()]
    )
    language = forms.ChoiceField(label="Dates are written", required=False, choices=dates.LANGUAGES, widget=forms.RadioSelect)
    scale = forms.ChoiceField(
        label="The scale shows",
        required=False,
        choices=[("", "as usual with these units"), *((key, scale.name) for key, scale in SCALES.items())],
        help_text="Weights are read and written in this unit, on every page.",
    )
    cut_to = forms.TypedChoiceField(
        label="Inches are cut to",
        required=False,
        coerce=int,
        empty_value=0,  # type: ignore[arg-type]
        choices=[(step, f"1/{step} in") for step in CUT_STEPS],
    )


class InviteForm(CalmForm):
    role = forms.TypedChoiceField(
        label="As",
        coerce=lambda value: Role(int(value)),
        choices=[(role.value, role.label) for role in reversed(Role)],
        initial=Role.HELPER.value,
    )


class OneForm(CalmForm):
    """One member or invitation of the list, by its number."""

    which = forms.IntegerField(widget=forms.HiddenInput, min_value=1, max_value=2**63 - 1)


class MemberForm(CalmForm):
    """Another role for a member; an empty one ends the membership."""

    member = forms.IntegerField(widget=forms.HiddenInput)
    role = forms.TypedChoiceField(
        label="Role",
        required=False,
        empty_value=None,
        coerce=lambda value: Role(int(value)),
        choices=[(role.value, role.label) for role in reversed(Role)] + [("", "No longer a member")],
    )
