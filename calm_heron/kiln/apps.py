"""Where the kiln lies in a workshop."""

from calm_heron import plugs


class Config(plugs.App):
    name = "calm_heron.kiln"
    mount = "kiln/"
