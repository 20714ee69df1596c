"""Where building can hurt: saws and planers on wood that still moves, and wood outdoors that bears people."""

from calm_heron.plugs import CAUTIONS, CautionText

CAUTIONS.add(
    CautionText(
        75,
        "saw",
        "Wood under stress closes on the blade and is thrown back: a riving knife, nobody behind the saw, and stop and wedge the cut"
        " when it pinches. Never feed short or thin pieces to a jointer, planer or thicknesser. Guards, push sticks and the maker’s "
        "manual come before any"
        " layout.",
    ),
    CautionText(
        76,
        "bears_people",
        "What bears people outdoors (decks, stairs, railings, play structures) follows local codes and needs a licensed builder: grade, "
        "fasteners"
        " and footings count as much as the wood.",
    ),
)
