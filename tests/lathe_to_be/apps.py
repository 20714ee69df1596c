"""Where the lathe lies in a workshop."""

from calm_heron import plugs


class Config(plugs.App):
    name = "tests.lathe_to_be"
    mount = "lathe/"
