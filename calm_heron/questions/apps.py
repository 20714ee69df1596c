"""The questions lie where each of them says (``tools.py``), not at one place of their own."""

from calm_heron import plugs


class Config(plugs.App):
    name = "calm_heron.questions"
    mount = None
