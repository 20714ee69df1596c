"""What is worked out behind the pages, and the operator's page about it."""

from calm_heron import plugs


class Config(plugs.App):
    name = "calm_heron.jobs"
    mount = None
