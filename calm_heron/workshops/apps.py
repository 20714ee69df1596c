"""The rows, doors and fields that every app stands on: nothing of it is mounted in a workshop."""

from calm_heron import plugs


class Config(plugs.App):
    name = "calm_heron.workshops"
    mount = None
