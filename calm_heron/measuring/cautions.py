"""Where measuring can hurt: ovens."""

from calm_heron.plugs import CAUTIONS, CautionText

CAUTIONS.add(
    CautionText(
        40,
        "oven_test",
        "Cut the section {25 mm|an inch} along the grain, {300 mm|a foot} or more from the end, and weigh it at once. Dry it at {101 to 105"
        "°C|about 215°F} until its weight stands still. Not in the kitchen oven, never unattended; ventilate, mind the fumes, follow the"
        " oven’s manual.",
    ),
    CautionText(
        41,
        "oven",
        "An oven for tests stands in the shop, never in the kitchen, holds {101 to 105°C|about 215°F} and is not left alone; follow its"
        " manual and your fire rules.",
    ),
)
