"""Where wood may live: a place of the workshop, air that is typed, or a rule of thumb for those who never measured."""

from dataclasses import dataclass, field
from functools import lru_cache

from calm_heron.air import queries as air
from calm_heron.air.models import Place
from calm_heron.drying import methods, queries
from calm_heron.drying.queries import Surroundings
from calm_heron.judging.settled import HomeAir, SizedWood, for_instruments
from calm_heron.judging.targets import in_room
from calm_heron.site.numbers import percent
from wood.air import sorption
from wood.air.climate import Climate, day_of_year
from wood.drying.arrival import Wanted
from wood.drying.methods import SMALL_STACK, Setting
from wood.uses import Use

TYPED = "typed"
# Houses in one street differ by so much (95%) from the rule of thumb of their kind.
RULE_OF_THUMB = 0.015
# Rooms are cooler by night, and there are draughts.
SWING_C, AIR_SPEED_M_S = 2.0, 0.05


@dataclass(frozen=True)
class KindOfRoom:
    """A rule of thumb: a kind of room, how warm it usually is (°C), and what its air brings wood to (fraction).

    Sources: Wood Handbook ch. 13 for heated rooms, the classes of joinery practice for the others (docs/science.md).
    """

    name: str
    temperature_c: float
    moisture: float


HOMES = {
    "heated": KindOfRoom("a heated room, about 8%", 20.0, 0.08),
    "cool": KindOfRoom("a cool room or workshop, about 10%", 17.0, 0.10),
    "unheated": KindOfRoom("an unheated shop or shed, about 14%", 12.0, 0.14),
}


@dataclass(frozen=True)
class RackHome:
    """What a home brings wood to (fractions), the air that wood lies in there, and in words: ``named`` as in “the 8% of …”, ``basis``."""

    moisture: float
    uncertainty: float
    setting: Setting
    named: str
    basis: str
    home: HomeAir = field(compare=False, repr=False)

    def wanted(self, use: Use, sized: SizedWood) -> Wanted:
        """What a use asks of wood there, from today on."""
        home = for_instruments() if use.is_held else self.home
        return home.wanted_from(day_of_year(queries.today()), sized, use)


def of_kind(key: str) -> RackHome:
    """The rule of thumb for a kind of room."""
    kind = HOMES[key]
    humidity = float(sorption.relative_humidity_for(kind.temperature_c, kind.moisture))
    name = kind.name.partition(",")[0]
    return RackHome(
        kind.moisture,
        RULE_OF_THUMB,
        _held(kind.temperature_c, humidity),
        f"the {percent(kind.moisture)} or so of {name}",
        f"a rule of thumb for {name}: measured air beats it",
        _home(kind.temperature_c, humidity),
    )


def of_air(temperature_c: float, relative_humidity: float, rh_tolerance: float) -> RackHome:
    """Air that was read."""
    measured_emc = sorption.measured_emc(temperature_c, relative_humidity, rh_tolerance)
    return RackHome(
        measured_emc.emc,
        measured_emc.tolerance,
        _held(temperature_c, relative_humidity),
        f"the {percent(measured_emc.emc)} of that air",
        "the air that was typed, held",
        _home(temperature_c, relative_humidity),
    )


def of_place(place: Place, places: list[Place]) -> RackHome | None:
    """A place of the workshop, None where its air is not known."""
    target = in_room(place)
    around = queries.surroundings(places, f"place-{place.pk}", methods.named(methods.USUAL), queries.today())
    if target is None or target.stale or target.home is None or not isinstance(around, Surroundings):
        return None
    return RackHome(target.moisture, target.tolerance, around.setting, target.at, target.basis, target.home)


def _home(temperature_c: float, relative_humidity: float) -> HomeAir:
    held = _held(temperature_c, relative_humidity)
    return HomeAir(("held", temperature_c, relative_humidity), held.series, SMALL_STACK)


@lru_cache(maxsize=64)
def _held(temperature_c: float, relative_humidity: float) -> Setting:
    """A room whose air goes on like this, with its nights."""
    held = Climate((temperature_c,) * 12, (relative_humidity,) * 12, (AIR_SPEED_M_S,) * 12, (SWING_C,) * 12)
    return Setting(air.same_climate(held).year, SMALL_STACK)
