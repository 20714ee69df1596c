"""Where a thing will live: a year of air, or two moistures where no year is at hand."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from calm_heron.air import queries as air
from calm_heron.air.models import Place
from calm_heron.site.memory import Memory
from calm_heron.site.numbers import percent
from wood.air import climate
from wood.air.climate import AirSeries
from wood.air.rooms import DWELLING, UNHEATED, room

USUAL_PATTERN = "mild_inland"
HEATED, FLOOR, SHED, OUTDOORS, TYPED = "heated", "floor", "shed", "outdoors", "typed"
KINDS = (
    (HEATED, "a heated room"),
    (FLOOR, "a heated floor"),
    (SHED, "an unheated building"),
    (OUTDOORS, "outdoors, under cover"),
    (TYPED, "moistures I name"),
)


@dataclass(frozen=True)
class Home:
    """A year of air from 1 January on (``series``), or the lowest and highest moisture that somebody named. ``uncertainty`` is what it
    leaves open (a fraction of moisture), ``name`` stands in sentences, ``basis`` says what it stands on; ``instead`` names a place whose
    year is not known.
    """

    key: str
    name: str
    basis: str
    series: AirSeries | None
    low: float = 0.0
    high: float = 0.0
    uncertainty: float = air.IMAGINED
    instead: str = ""
    outdoors: bool = False


# How rooms are kept; boards on a heated floor live in drier air than the room's (K warmer).
WARMER_FLOOR_C = 6.0
KEPT = {HEATED: DWELLING, FLOOR: replace(DWELLING, floor_warmer_c=WARMER_FLOOR_C), SHED: UNHEATED}
_series: Memory[AirSeries] = Memory(64)


def of_kind(kind: str, pattern_key: str, instead: str = "") -> Home:
    """A heated room, a heated floor, an unheated building or a roof in one of the climate patterns."""
    pattern = climate.patterns().get(pattern_key) or climate.pattern(USUAL_PATTERN)

    def make() -> AirSeries:
        return pattern.year if kind == OUTDOORS else room(pattern.year, KEPT[kind])

    named = dict(KINDS)[kind]
    return Home(
        f"{kind}-{pattern_key}",
        f"{named} (pattern “{pattern.name.lower()}”)",
        f"the climate pattern “{pattern.name.lower()}”, a kind of place and none in particular"
        + (", as a room makes it" if kind != OUTDOORS else ""),
        _series.get((kind, pattern_key), make),
        instead=instead,
        outdoors=kind == OUTDOORS,
    )


def named_moistures(low: float, high: float) -> Home:
    """Two moistures that somebody names, taken for what the wood itself comes to."""
    return Home(TYPED, f"{percent(low)} to {percent(high)}", "the two moistures that were named", None, low, high, uncertainty=0.01)


def of_place(place: Place, pattern_key: str) -> Home:
    """A place of the workshop by its year; where that is not known, the pattern of its kind, and says so."""
    known = air.known_year(place)
    if known is not None:
        return Home(
            f"place-{place.pk}-{place.version}",
            place.name,
            known.basis,
            known.climate.year,
            uncertainty=known.tolerance,
            outdoors=place.traits.is_outdoors,
        )
    kind = OUTDOORS if place.traits.is_outdoors else HEATED if place.traits.is_heated else SHED
    return of_kind(kind, pattern_key, instead=place.name)


def liveable(places: Sequence[Place]) -> list[Place]:
    """Places a finished thing can live in: kilns are none."""
    return [place for place in places if not place.traits.is_held]
