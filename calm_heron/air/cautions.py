"""Where keeping an eye on the air can hurt: salts."""

from calm_heron.plugs import CAUTIONS, CautionText

CAUTIONS.add(
    CautionText(20, "salts", "These salts are harmless to touch; keep them off steel, instruments and food, and away from children.")
)
