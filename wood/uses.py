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
    """What wood is held against in a place: the settled board there (:mod:`wood.drying.settled`), the mean of its year alone, the air
    of the last four weeks alone, or a moisture that somebody names."""

    SETTLED = "board"
    YEAR = "year"
    WEEKS = "weeks"
    TYPED = "typed"


@dataclass(frozen=True)
class Use:
    """What the wood is for, and how close it must be; fractions.

    ``tolerance`` is how far it may be from what it is judged ``against``; for a limit it is how much doubt still tells
    something. ``evenness`` is how far core and shell may differ, infinite where it does not matter. ``rule`` says whose rule it is, in both
    systems (:func:`wood.units.in_system`).

    ``must_be_sure`` asks for the whole uncertainty inside; ``dry_may_be_worked`` says that wood drier than its place does no harm where it
    has room to swell; ``even_in_itself`` that core and shell are compared with each other and not with the settled board's (wood that is
    resawn bends by all of it); ``by_driest_weeks`` that the damp season never raises what is wanted; ``is_held`` that what is built
    is meant for air of its own, and not for the year of its place.
    """

    key: str
    name: str
    tolerance: float
    against: Against = Against.LEVEL
    limit: float = 0.0
    evenness: float | None = None
    rule: str = ""
    must_be_sure: bool = False
    dry_may_be_worked: bool = True
    even_in_itself: bool = False
    by_driest_weeks: bool = False
    is_held: bool = False

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
    must_be_sure=True,
    dry_may_be_worked=False,
)
PLANK_FLOOR = Use(
    "plank",
    "Plank floor",
    0.02,
    Against.SUBFLOOR,
    rule="Flooring practice: boards of {76 mm|3 in} and wider within two points of a wooden subfloor.",
    must_be_sure=True,
    dry_may_be_worked=False,
)
FRAMING = Use("framing", "Framing", 0.03, Against.LIMIT, 0.19, math.inf, "Dry framing lumber: at most 19% when it is surfaced or built in.")
OUTDOORS = Use(
    "outdoors",
    "Outdoor work",
    0.03,
    evenness=0.05,
    rule="Outdoor joinery: within three points of the driest weeks of the air it will stand in.",
    by_driest_weeks=True,
)
RESAWN = Use(
    "resawn",
    "Stock to be resawn",
    0.02,
    evenness=0.01,
    rule="Within two points, and core and shell within one of each other: a saw through the middle releases the difference.",
    even_in_itself=True,
)
TURNING = Use("turning", "Finish turning", 0.02, rule="A rough-turned blank within two points of the room it is turned and kept in.")
INSTRUMENT = Use(
    "instrument",
    "Instruments",
    0.01,
    evenness=0.005,
    rule=(
        "Instrument practice: within one point of what {20°C|68°F} and 45% hold, which is what instruments are built for, and even to "
        "half a point."
    ),
    must_be_sure=True,
    dry_may_be_worked=False,
    is_held=True,
)
USES = {use.key: use for use in (FINE, GENERAL, STRIP_FLOOR, PLANK_FLOOR, FRAMING, OUTDOORS, TURNING, INSTRUMENT, RESAWN)}
