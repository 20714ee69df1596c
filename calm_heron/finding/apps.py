"""One field that leads to any piece, place, page or question."""

from calm_heron import plugs


class Config(plugs.App):
    name = "calm_heron.finding"
    mount = "find/"
