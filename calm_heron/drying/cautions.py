"""Where drying can hurt: hot chambers, and stacks."""

from calm_heron.plugs import CAUTIONS, CautionText

CAUTIONS.add(
    CautionText(
        50,
        "hot_chamber",
        "Hot kilns burn, and their air can kill: never go in while one is running, follow its maker’s manual and local codes, and "
        "have its wiring done by a licensed electrician.",
    ),
    CautionText(
        51,
        "stack",
        "Stacks fall. Level bearers, no more height than three times the width, and nobody under a pack that is being lifted.",
    ),
)
