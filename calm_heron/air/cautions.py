"""Where keeping an eye on the air can hurt: salts."""

from calm_heron.plugs import CAUTIONS, Caution

CAUTIONS.add(Caution(20, "salts", "These salts are harmless to touch; keep them off steel, instruments and food, and away from children."))
