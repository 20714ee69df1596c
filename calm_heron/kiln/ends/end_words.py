"""What is said at the end of a load: of its moistures, and of the prongs."""

from calm_heron.kiln import words
from calm_heron.site.numbers import distance, percent
from wood.kiln.finish import Ended, Ending
from wood.kiln.stress import Prongs

# What a tenth of a point would round to nothing.
SHOWN = 0.0005
NOT_YET = {
    Ending.WET: "Not yet: too wet",
    Ending.DRY: "Not yet: too dry",
    Ending.CORE_WET: "Not yet: its core is wet",
    Ending.SHELL_WET: "Not yet: its shell is wet",
}


def done(ending: Ended | None, wanted: float, now: Prongs | None, later: Prongs | None) -> tuple[str, list[str]]:
    """The answer large, and its reasons: of the moistures where they were read, and of the prongs."""
    name, what = words.prong_reading(now, later)
    if ending is None:
        return name, [what]
    moistures = _moistures(ending, wanted)
    if ending.ending is not Ending.DONE:
        prongs = [f"Its prongs: {name[0].lower()}{name[1:]}; cut new ones once its moisture is right."] if later else []
        return NOT_YET[ending.ending], [moistures, *prongs]
    if later is Prongs.STRAIGHT:
        return "It is done", [moistures, f"{name}. {what}"]
    if later is not None:
        return name, [what, moistures]
    return "Its moisture is right; now the prongs", [moistures, f"{name}: {what}" if now else what]


def _moistures(ending: Ended, wanted: float) -> str:
    """Where the moistures stand, and what to do about it."""
    if abs(ending.over) < SHOWN:
        beside = f"right on the {percent(wanted)} target"
    else:
        beside = f"{distance(ending.over)} points {'over' if ending.over > 0 else 'under'} the {percent(wanted)} target"
    if abs(ending.gap) < SHOWN:
        within = "its core and its shell alike"
    else:
        within = f"its core {distance(ending.gap)} points {'wetter' if ending.gap > 0 else 'drier'} than its shell"
    what = {
        Ending.WET: "Keep drying, then equalise.",
        Ending.DRY: (
            f"Hold it in warm air with an EMC of {percent(wanted)}, and read it each day; or leave it in a damper room for some weeks."
        ),
        Ending.CORE_WET: (
            f"Hold it in air with an EMC of {percent(wanted)} until the two are within a point, then condition it: in a thin "
            "board that takes a day or two, in a thick one a week."
        ),
        Ending.SHELL_WET: (
            "Its shell has taken up water, as it does in conditioning or in damp air. Leave it closed up until it has cooled, and read it"
            " again "
            "the day after."
        ),
        Ending.DONE: "Both are near enough for furniture.",
    }[ending.ending]
    return f"It’s at {percent(ending.mean)} on average, {beside}, {within}. {what}"
