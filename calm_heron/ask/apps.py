"""Where the questions lie that are asked before anything is kept: inside a workshop under ``ask/``, and for everybody at ``/ask/``."""

from calm_heron import plugs


class Config(plugs.App):
    name = "calm_heron.ask"
    mount = "ask/"
    open_mount = "ask/"
