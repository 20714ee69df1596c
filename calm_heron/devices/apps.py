"""The door for devices in a workshop."""

from calm_heron import plugs


class Config(plugs.App):
    name = "calm_heron.devices"
    mount = "devices/"
