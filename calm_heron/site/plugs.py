"""What every page brings along: the keys that walk a list."""

from calm_heron.plugs import KEYS, Keys

KEYS.add(Keys(50, ((("j", "k"), "walk a list, the arrows too once in it"), (("Enter",), "opens a row"), (("x",), "chooses it"))))
