"""How roads, and the places that wood lies in on them, are called.

Who adds a road to the core (:data:`wood.drying.roads.ROADS`) names it here.
"""

from dataclasses import dataclass

from calm_heron.plugs import Registry


@dataclass(frozen=True)
class RoadName:
    """A road's name, and the short one that stands at its thread in the drawing."""

    order: int
    key: str
    name: str
    short: str


@dataclass(frozen=True)
class StayName:
    """What a place on a road is called within a sentence, and the field that says at which moisture wood is moved into it, if any does."""

    order: int
    key: str
    words: str
    set_by: str = ""


ROAD_NAMES: Registry[RoadName] = Registry()
STAY_NAMES: Registry[StayName] = Registry()
ROAD_NAMES.add(
    RoadName(10, "yard", "Yard alone", "yard"),
    RoadName(20, "yard_room", "Yard, then a heated room", "yard, room"),
    RoadName(30, "shed_room", "Shed, then a heated room", "shed, room"),
    RoadName(40, "room", "Heated room from the saw", "room"),
    RoadName(50, "yard_kiln", "Yard, then a kiln", "yard, kiln"),
    RoadName(60, "kiln", "Kiln from the saw", "kiln"),
    RoadName(70, "solar", "Solar kiln", "solar kiln"),
    RoadName(80, "shelf", "A shelf indoors", "shelf"),
    RoadName(90, "yard_box", "Yard, then a warm box", "yard, box"),
)
STAY_NAMES.add(
    StayName(10, "yard", "the yard"),
    StayName(20, "shed", "the shed"),
    StayName(30, "room", "the room", "carry"),
    StayName(40, "kiln", "the kiln", "to_kiln"),
    StayName(50, "box", "the box", "to_kiln"),
    StayName(60, "shelf", "the shelf"),
    StayName(70, "solar", "the solar kiln"),
)


def road_name(key: str) -> RoadName:
    """A road by its code; one that nobody named goes by that."""
    return next(
        (road for road in ROAD_NAMES if road.key == key), RoadName(0, key, key.replace("_", " ").capitalize(), key.replace("_", " "))
    )


def stay_name(key: str) -> StayName:
    """The same for a place on a road."""
    return next((stay for stay in STAY_NAMES if stay.key == key), StayName(0, key, f"the {key.replace('_', ' ')}"))
