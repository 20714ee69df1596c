"""The phone without a network: what is shipped to it, and what it answers by itself."""

from calm_heron import plugs


class Config(plugs.App):
    name = "calm_heron.pocket"
    mount = None
    open_mount = ""
