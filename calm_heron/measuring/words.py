"""The warnings of a reading in plain sentences."""

WARNINGS = {
    "beyond_range": "Beyond what this meter can measure: it only says wetter or drier.",
    "frost": "Frozen wood reads low and unsteadily; warm it and read again.",
    "no_species_figure": "No figure is known for this species on this kind of meter, so the doubt is larger.",
    "relative_figure": "Read on the scale of a close relative; the doubt is a little larger.",
    "extrapolated": "Outside the published table for this species; carried on along its slope.",
    "thinner_than_depth": "The board is thinner than the meter senses: it has read what lies behind. Not counted.",
    "air_gap": "Barely thicker than the sensing depth: hold the board clear of bench and hand.",
    "other_species_set": "The meter was set for other wood: that setting is taken back first.",
    "setting_not_known": "What the meter’s own setting did to the number is not known here, so it could not be taken back.",
    "setting_far": "The meter is set for wood of a very different density; the step from one to the other is large.",
    "wet_surface": "The surface was wet: pins and fields read that water. Not counted; wipe it, wait, or use insulated pins.",
    "weathered": "Read on a weathered skin, which runs ahead of the wood under it; the doubt is larger. Plane or cut a fresh spot.",
    "hand_behind": "A hand or the bench was behind a thin board and was read along. Not counted; hold it clear.",
    "pins_across": "The pins stood across the grain, where wood resists more: it may be wetter than it reads; the doubt is larger.",
    "metal": "Metal was near: it carries current and bends the field. Not counted; read a hand’s width away.",
    "estimated_ovendry": "Its ovendry weight was only estimated from size and species: good for wet wood, of little use near dry.",
    "near_end": "Near an end, where wood dries first: left out when others were taken.",
}


def warning_sentences(codes: list[str]) -> list[str]:
    return [WARNINGS[code] for code in codes if code in WARNINGS]
