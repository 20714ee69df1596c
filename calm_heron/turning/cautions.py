"""Where turning can hurt: chainsaws, blanks that fly apart, and a microwave."""

from calm_heron.plugs import CAUTIONS, CautionText

CAUTIONS.add(
    CautionText(
        60,
        "chainsaw",
        "A round log rolls: hold it in a cradle, pith line level, and never with a foot. The tip of a bar kicks back. Helmet, visor, ear"
        " defenders, saw trousers, gloves and boots; both hands on the saw, nobody near, and its maker’s manual before anything. If you "
        "are not trained, have someone who is make the cut.",
    ),
    CautionText(
        61,
        "lathe",
        "Blanks fly apart. A face shield always, out of the line of fire, the lowest speed first, the tailstock up as long as it can be,"
        " and never mount wood with a crack you cannot account for. The lathe’s own manual and its limits come first.",
    ),
    CautionText(
        62,
        "microwave",
        "An old oven in the workshop, never the kitchen’s again: steam, resin and smoke fill it. Never leave it. Wood chars inside before"
        " it shows; at a smell of toast stop; if it smokes leave the door shut and pull the plug. No metal, no epoxy, no glue or finish, no"
        " pith. Gloves: steam burns.",
    ),
)
