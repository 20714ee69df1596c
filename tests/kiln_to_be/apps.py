"""Where the kiln lies in a workshop."""

from calm_heron import plugs


class Config(plugs.App):
    name = "tests.kiln_to_be"
    mount = "kiln/"
