"""How routes, and the places that wood lies in on them, are called.

Who adds a route to the core (:data:`wood.drying.routes.ROUTES`) names it here.
"""

from dataclasses import dataclass

from calm_heron.plugs import Registry


@dataclass(frozen=True)
class RouteName:
    """A route's name, and the short one that stands at its thread in the drawing."""

    order: int
    key: str
    name: str
    short: str
    # Whether it begins with the name of a chamber, which keeps its letters within a sentence.
    is_named: bool = False

    @property
    def within(self) -> str:
        """The name within a sentence."""
        return self.name if self.is_named else self.name[0].lower() + self.name[1:]


@dataclass(frozen=True)
class RouteMethodName:
    """What a place on a route is called within a sentence, and the field that says at which moisture wood is moved into it, if any does."""

    order: int
    key: str
    words: str
    set_by: str = ""


ROUTE_NAMES: Registry[RouteName] = Registry()
ROUTE_METHOD_NAMES: Registry[RouteMethodName] = Registry()
ROUTE_NAMES.add(
    RouteName(10, "yard", "Yard alone", "yard"),
    RouteName(20, "yard_room", "Yard, then a heated room", "yard, room"),
    RouteName(30, "shed_room", "Shed, then a heated room", "shed, room"),
    RouteName(40, "room", "Heated room from the saw", "room"),
    RouteName(50, "yard_kiln", "Yard, then a kiln", "yard, kiln"),
    RouteName(60, "kiln", "Kiln from the saw", "kiln"),
    RouteName(70, "solar", "Solar kiln", "solar kiln"),
    RouteName(80, "shelf", "A shelf indoors", "shelf"),
    RouteName(90, "yard_box", "Yard, then a warm box", "yard, box"),
)
ROUTE_METHOD_NAMES.add(
    RouteMethodName(10, "yard", "the yard"),
    RouteMethodName(20, "shed", "the shed"),
    RouteMethodName(30, "room", "the room", "carry"),
    RouteMethodName(40, "kiln", "the kiln", "to_kiln"),
    RouteMethodName(50, "box", "the box", "to_kiln"),
    RouteMethodName(60, "shelf", "the shelf"),
    RouteMethodName(70, "solar", "the solar kiln"),
)


def route_name(key: str) -> RouteName:
    """A route by its code; one that nobody named goes by that."""
    return next(
        (route for route in ROUTE_NAMES if route.key == key), RouteName(0, key, key.replace("_", " ").capitalize(), key.replace("_", " "))
    )


def route_method_name(key: str) -> RouteMethodName:
    """The same for a place on a route."""
    return next((method for method in ROUTE_METHOD_NAMES if method.key == key), RouteMethodName(0, key, f"the {key.replace('_', ' ')}"))
