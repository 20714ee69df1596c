"""Where builds lie in a workshop."""

from calm_heron import plugs


class Config(plugs.App):
    name = "calm_heron.builds"
    mount = "builds/"
