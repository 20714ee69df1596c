"""What can be said of a reading: how deep it was taken, on what surface, what is wrong with it, and how it was corrected.

Each is an enumeration of codes; the application has the words for them.
"""

from enum import StrEnum


class Layer(StrEnum):
    """How deep a reading was taken. ``WHOLE`` is a weighing: the mean of the piece."""

    USUAL = ""
    SHELL = "shell"
    CORE = "core"
    WHOLE = "whole"


class Bound(StrEnum):
    """Whether a moisture was measured, or is only known to lie above or below it."""

    NONE = ""
    ABOVE = "above"
    BELOW = "below"

    @property
    def side(self) -> int:
        """+1 where the wood is wetter than the figure, −1 where it is drier, 0 where it was measured."""
        return {Bound.NONE: 0, Bound.ABOVE: 1, Bound.BELOW: -1}[self]


class Condition(StrEnum):
    """What the surface was like where the instrument was laid on.

    A weathered surface is drier or wetter than the wood under it by a point or so; a freshly cut end shows what was inside.
    """

    PLAIN = ""
    FRESH = "fresh"
    WEATHERED = "weathered"
    WET = "wet"
    BACKED = "backed"
    METAL = "metal"


class Warn(StrEnum):
    """What must be said beside a corrected reading."""

    BEYOND_RANGE = "beyond_range"
    FROST = "frost"
    NO_SPECIES_FIGURE = "no_species_figure"
    RELATIVE_FIGURE = "relative_figure"
    EXTRAPOLATED = "extrapolated"
    THINNER_THAN_DEPTH = "thinner_than_depth"
    AIR_GAP = "air_gap"
    OTHER_SPECIES_SET = "other_species_set"
    SETTING_NOT_KNOWN = "setting_not_known"
    SETTING_FAR = "setting_far"
    WET_SURFACE = "wet_surface"
    WEATHERED = "weathered"
    HAND_BEHIND = "hand_behind"
    PINS_ACROSS = "pins_across"
    METAL = "metal"
    ESTIMATED_OVENDRY = "estimated_ovendry"
    FITTED_OVENDRY = "fitted_ovendry"
    NEAR_END = "near_end"
    NEWER_RULE = "newer_rule"


class StepKind(StrEnum):
    """A step of the way from what an instrument shows to what it means; in brackets the figures that go with it."""

    SHOWN = "shown"
    CHECK_ADDS = "check_adds"  # adds (fraction)
    SETTING_TAKEN_BACK = "setting_taken_back"
    WOOD_TEMPERATURE = "wood_temperature"  # temperature_c
    SPECIES_SCALE = "species_scale"  # species (spoken name)
    DENSITY = "density"  # species, setting, specific_gravity
    ONLY_A_BOUND = "only_a_bound"
    WEIGHED = "weighed"
    AS_WRITTEN = "as_written"  # name, source: kept before there were codes
