"""Outside any workshop: nothing is mounted there."""

from calm_heron import plugs


class Config(plugs.App):
    name = "calm_heron.demo"
    mount = None
