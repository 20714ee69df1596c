"""Routes side by side: what they are worked from, and what was worked out."""

from dataclasses import dataclass, replace

from calm_heron.air import queries as air
from calm_heron.drying import methods, own_kilns, queries
from calm_heron.drying.route_forms import HEATED, RoutesForm
from calm_heron.drying.route_names import RouteName, route_name
from calm_heron.questions.tools import Bound, CannotPut, Gist, Put, StillToSay, Why
from calm_heron.site.memory import Memory, digest_of
from calm_heron.stock import woods
from calm_heron.stock.models import Piece
from calm_heron.workshops.askers import Asker
from wood.air import rooms
from wood.air.climate import AirSeries
from wood.drying import routes
from wood.drying.diffusivity import of_species
from wood.drying.insects import Origin
from wood.drying.questions import Question
from wood.drying.routes import AIR_DRY, KILN_AT, Moving, Travelled
from wood.drying.solar import USUAL_CLEARNESS, SolarKiln
from wood.drying.stages import Route
from wood.errors import NotKnown
from wood.kiln.by_route import OwnRoute, travel
from wood.species import Species

USUAL_THICKNESS_M = 0.027
# Near enough to its room to be worked: what is wanted where nobody says.
WITHIN = 0.01
USUAL_LATITUDE = 45.0
SMALL_LENGTH_M = 0.6


@dataclass(frozen=True)
class WoodByRoute:
    """A wood and the routes before it; ``question`` is what each of them answers (its setting is the route's own)."""

    species: Species
    question: Question
    routes: tuple[Route, ...]
    sealed: bool
    origin: Origin
    own: tuple[tuple[OwnRoute, RouteName], ...] = ()

    def name_of(self, key: str) -> RouteName:
        """How a route is called, those through a chamber of one's own by that."""
        return next((name for own, name in self.own if own.key == key), route_name(key))

    def turns(self, key: str) -> int:
        """How often a chamber of one's own is filled on a route."""
        return next((own.turns for own, _ in self.own if own.key == key), 1)


@dataclass(frozen=True)
class Compared:
    """Every route gone, and the one to take."""

    question: WoodByRoute
    routes: tuple[Travelled, ...]
    best: Travelled | None

    def chosen(self, key: str) -> Travelled:
        """The route that is looked at: the one that is named, else the one to take."""
        return next((route for route in self.routes if route.route.key == key), self.best or self.routes[0])


_travelled: Memory[Travelled] = Memory(256)
_own: Memory[Travelled | None] = Memory(128)
_months: Memory[tuple[float, ...]] = Memory(128)


def put(form: RoutesForm, asker: Asker, piece: Piece | None) -> Put[WoodByRoute] | CannotPut:
    """A valid form as a question. Names of places, the day, the price and the route that is looked at only tell.

    Raises:
        StillToSay. NotKnown: the species' pace. OutOfRange.
    """
    typed = form.cleaned_data
    if not typed["species_key"]:
        raise StillToSay("Say which wood it is.")
    species = woods.species_of(form.workshop.pk, typed["species_key"])
    figures = of_species(species)
    thickness = typed["thickness_m"] or USUAL_THICKNESS_M
    start = figures.green_moisture if typed["start"] is None else typed["start"]
    begun = typed["start_date"] or queries.today()
    around = queries.surroundings(form.places, form.chosen("where"), methods.named(methods.USUAL), begun, {"wind": form.chosen("wind")})
    if not isinstance(around, queries.Surroundings):
        return no_air(around.name)
    home, home_name = _home(form, around.setting.series)
    if home is None:
        return no_air(home_name)
    middle = float(home.settling.mean())
    target = min(middle + WITHIN, 0.25) if typed["target"] is None else typed["target"]
    small = thickness <= routes.SMALL_M and typed["length_m"] is not None and typed["length_m"] <= SMALL_LENGTH_M
    clearness, latitude = queries.sky(form.places, form.chosen("where"))
    if typed["latitude"] is not None:
        latitude = typed["latitude"]
    sun = SolarKiln(USUAL_LATITUDE if latitude is None else latitude, clearness or (USUAL_CLEARNESS,))
    sealed = form.chosen("ends") == "sealed"
    question = Question(
        figures,
        thickness,
        min(start, figures.wood.greatest_moisture),
        target,
        around.setting,
        width_m=typed["width_m"],
        length_m=typed["length_m"],
        ends_open=not sealed,
    )
    moving = Moving(
        AIR_DRY if typed["carry"] is None else typed["carry"],
        KILN_AT if typed["to_kiln"] is None else typed["to_kiln"],
        float((typed["moved_on"] - begun).days) if typed["moved_on"] else None,
    )
    there = routes.routes(species, thickness, question.start, target, around.setting, home, small=small, solar=sun, moving=moving)
    return Put(
        WoodByRoute(
            species, question, tuple(there), sealed, Origin(form.chosen("origin")), _own_routes(form, around.setting.series, moving.kiln_at)
        ),
        {"outdoors": around.name, "home": home_name, "begun": begun, "price": typed["price"], "road": typed["road"]},
    )


def no_air(name: str) -> CannotPut:
    """A place whose air is not known."""
    return CannotPut(Why.NO_AIR, f"The air of {name} is not known yet: read it, or give it a year, or choose a climate.")


def work(question: WoodByRoute) -> Compared:
    """Every route, and the one to take.

    Raises:
        OutOfRange.
    """
    own = [_travel_own(route, question) for route, _ in question.own]
    travelled = (*(_travel(route, question) for route in question.routes), *(route for route in own if route is not None))
    return Compared(question, travelled, routes.best(list(travelled)))


def gist(comparison: Compared) -> Gist:
    """The route to take, and its days with their ends."""
    best = comparison.best
    if best is None:
        return Gist("none gets there")
    return Gist(best.route.key, {"days": Bound(best.answer.days, best.answer.low, best.answer.high)})


def _home(form: RoutesForm, outdoors: AirSeries) -> tuple[AirSeries | None, str]:
    """The air of the room it will live in, from the day on, and its name."""
    chosen = form.chosen("home")
    if chosen == HEATED:
        return rooms.room(outdoors, rooms.DWELLING), "a heated room there"
    place = next(place for place in form.places if chosen == f"place-{place.pk}")
    known = air.series_of(place, air.known_year(place))
    return (known.series.starting(outdoors.start_day) if known else None), place.name


def _travel(route: Route, query: WoodByRoute) -> Travelled:
    """One route, remembered by all it depends on: a stage that is moved leaves the others as they were."""
    species, question = query.species, query.question
    return _travelled.get(
        (_key(route, question), species.key, query.sealed, query.origin),
        lambda: routes.travel(route, species, question, ends_sealed=query.sealed, origin=query.origin),
    )


def _own_routes(form: RoutesForm, outdoors: AirSeries, kiln_at: float) -> tuple[tuple[OwnRoute, RouteName], ...]:
    """The ways through each chamber of the workshop: from the saw where it is a kiln, and from the yard."""
    ways = []
    for kiln in own_kilns.of(form.workshop):
        volume = form.cleaned_data["volume_m3"] or kiln.chamber.load_m3
        through = OwnRoute(f"{kiln.key}-yard", kiln.chamber, outdoors, volume, kiln_at)
        ways.append((through, RouteName(0, through.key, f"Yard, then {kiln.name}", f"yard, {kiln.name}")))
        if kiln.chamber.is_kiln:
            alone = OwnRoute(kiln.key, kiln.chamber, outdoors, volume)
            ways.append((alone, RouteName(0, alone.key, f"{kiln.name} from the saw", kiln.name, is_named=True)))
    return tuple(ways)


def _travel_own(route: OwnRoute, query: WoodByRoute) -> Travelled | None:
    """One route through a chamber of the workshop; None where its chamber cannot do it, or nobody knows whether it can."""

    def make() -> Travelled | None:
        try:
            return travel(route, query.species, query.question, ends_sealed=query.sealed, origin=query.origin)
        except NotKnown:
            return None

    key = (digest_of((route, query.question)), query.species.key, query.sealed, query.origin)
    return _own.get(key, make)


def month_days(comparison: Compared, chosen: Travelled) -> tuple[float, ...]:
    """A route begun in each month: days of the middle piece, January first; empty where every month is the same to it. A chamber of one's
    own takes as long in every month as it does in this one."""
    route, question, more = chosen.route, chosen.question, 0.0
    if any(own.key == route.key for own, _ in comparison.question.own):
        if not chosen.moved:
            return ()
        enters, more = chosen.moved[0], chosen.answer.days - chosen.moved[0].day
        route, question = Route(route.key, route.stages[:1]), replace(question, target=enters.moisture)
    if all(stage.setting.series.days < 1.0 for stage in route.stages):
        return ()
    days = _months.get(_key(route, question), lambda: routes.days_by_month(route, question))
    return tuple(day + more for day in days)


def _key(route: Route, question: Question) -> bytes:
    """All that a route's days depend on; its settings are those of its stages."""
    return digest_of((route, replace(question, setting=route.stages[0].setting)))
