"""What wood is for, and how close to its place each use asks it to be."""

import math
from dataclasses import dataclass
from enum import StrEnum


class Against(StrEnum):
    """What a use is judged against: the level of its place, the subfloor that lies there, or a moisture it may not exceed."""

    LEVEL = "level"
    SUBFLOOR = "subfloor"
    LIMIT = "limit"


class Approach(StrEnum):
    """What the level of a place is taken to be: the mean of its year, the air of the last four weeks, or a moisture that somebody names."""

    YEAR = "year"
    WEEKS = "weeks"
    TYPED = "typed"


@dataclass(frozen=True)
class Use:
    """What the wood is for, and how close it must be; fractions.

    ``tolerance`` is how far it may be from what it is judged ``against``; for a limit it is how much doubt still tells
    something. ``evenness`` is how far core and shell may differ, infinite where it does not matter. ``rule`` says whose rule it is, in both
    systems (:func:`wood.units.in_system`).
    """

    key: str
    name: str
    tolerance: float
    against: Against = Against.LEVEL
    limit: float = 0.0
    evenness: float | None = None
    rule: str = ""

    @property
    def allowed_gradient(self) -> float:
        return self.tolerance if self.evenness is None else self.evenness


FINE = Use("fine", "Fine work", 0.01, rule="Furniture practice: within one point of where it will live.")
GENERAL = Use("general", "General work", 0.02, rule="General joinery: within two points.")
STRIP_FLOOR = Use(
    "strip",
    "Strip floor",
    0.04,
    Against.SUBFLOOR,
    rule="Flooring practice: boards under {76 mm|3 in} wide within four points of a wooden subfloor.",
)
PLANK_FLOOR = Use(
    "plank",
    "Plank floor",
    0.02,
    Against.SUBFLOOR,
    rule="Flooring practice: boards of {76 mm|3 in} and wider within two points of a wooden subfloor.",
)
FRAMING = Use(
    "framing", "Framing", 0.03, Against.LIMIT, 0.19, math.inf, "Dry framing lumber: at most 19 % when it is surfaced or built in."
)
OUTDOORS = Use("outdoors", "Outdoor work", 0.03, evenness=0.05, rule="Outdoor joinery: within three points of the air it will stand in.")
TURNING = Use("turning", "Finish turning", 0.02, rule="A rough-turned blank within two points of the room it is turned and kept in.")
INSTRUMENT = Use(
    "instrument",
    "Instruments",
    0.01,
    evenness=0.005,
    rule="Instrument practice: within one point of the built piece's room, and even to half a point.",
)
USES = {use.key: use for use in (FINE, GENERAL, STRIP_FLOOR, PLANK_FLOOR, FRAMING, OUTDOORS, TURNING, INSTRUMENT)}
