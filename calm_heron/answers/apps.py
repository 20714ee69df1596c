"""Answers saved with what they stand on; after every migration each table of a workshop notes its changes."""

from typing import Any

from django.db.models.signals import post_migrate

from calm_heron import plugs


class Config(plugs.App):
    name = "calm_heron.answers"
    mount = None

    def ready(self) -> None:
        super().ready()
        post_migrate.connect(_note_changes, sender=self)


def _note_changes(**_: Any) -> None:
    from calm_heron.answers import changes

    changes.note_everywhere()
