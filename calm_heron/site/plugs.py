"""What every page brings along: the keys that walk a list."""

from calm_heron.plugs import KEYS, Keys

KEYS.add(Keys(50, ((("↑", "↓"), "walk a list"), (("Enter",), "opens a row"), (("x",), "chooses it"))))
