"""Where a kiln can hurt."""

from calm_heron.plugs import CAUTIONS, CautionText

CAUTIONS.add(
    CautionText(
        52,
        "kiln",
        "A hot kiln can kill. Isolate and lock out the heat before you go in, never go in alone, and keep a door that opens from inside. "
        "Steam"
        " burns; condensate and wiring do not mix: have both done by licensed electricians and plumbers. Chock loads, stay out from under"
        " lifting gear, and "
        "follow"
        " the maker’s manual and local codes.",
    ),
    CautionText(
        53,
        "treatment",
        "Wood that is sold as heat-treated, or crosses a border, is certified by licensed facilities alone. What is said here is for your"
        " own wood.",
    ),
)
