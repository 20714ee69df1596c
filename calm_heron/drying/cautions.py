"""Where drying can hurt: hot chambers, and stacks."""

from calm_heron.plugs import CAUTIONS, CautionText

CAUTIONS.add(
    CautionText(
        50,
        "hot_chamber",
        "Hot chambers burn, and their air can hold no one: never go in while it runs, follow its maker’s manual and local codes, and "
        "have its wiring done by a licensed hand.",
    ),
    CautionText(
        51,
        "stack",
        "Stacks fall. Level bearers, no more height than three times the width, and nobody under a pack that is being lifted.",
    ),
)
