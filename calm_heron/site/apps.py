"""Outside any workshop: nothing is mounted there."""

from django import forms

from calm_heron import plugs

# What forms say in our own voice where the framework would say it in its.
IN_OUR_WORDS = {"required": "This is still empty; fill it in."}


class Config(plugs.App):
    name = "calm_heron.site"
    mount = None

    def ready(self) -> None:
        forms.Field.default_error_messages |= IN_OUR_WORDS
        super().ready()
