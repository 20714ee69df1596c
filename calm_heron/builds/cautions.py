"""Where building can hurt: saws and planers on wood that still moves, and wood outdoors that bears people."""

from calm_heron.plugs import CAUTIONS, CautionText

CAUTIONS.add(
    CautionText(
        75,
        "saw",
        "Wood that is not at rest closes on the blade and is thrown back: a riving knife, nobody behind the saw, and stop and wedge the cut"
        " when it pinches. Short and thin pieces are not for the planer. Guards, push sticks and the maker’s manual come before any"
        " layout.",
    ),
    CautionText(
        76,
        "bears_people",
        "What bears people outdoors (decks, stairs, railings, play structures) follows local codes and a licensed hand: grade, fasteners"
        " and footings count as much as the wood.",
    ),
)
