"""The settled board of a place, worked out once for all boards alike and remembered."""

from collections.abc import Hashable
from dataclasses import dataclass, field
from functools import cached_property

from django.db.models import F, Func, IntegerField

from calm_heron.air import queries as air
from calm_heron.air.models import Place
from calm_heron.air.queries import KnownYear
from calm_heron.site.memory import Memory
from calm_heron.stock.models import Piece
from calm_heron.stock.woods import species_of
from calm_heron.workshops.models import Workshop
from wood.air.climate import AirSeries
from wood.drying import methods, settled
from wood.drying.arrival import Wanted
from wood.drying.diffusivity import of_species
from wood.drying.field import Wood
from wood.drying.methods import SMALL_STACK, WINDS
from wood.drying.questions import settling_slabs
from wood.drying.settled import FeltYear, SettledBoard, size_like
from wood.errors import NotKnown
from wood.species import Species
from wood.stacks.air import Stack
from wood.uses import Use

# A wood of which no figure is known is taken for one in the middle.
MIDDLE = Wood(0.5)
YARD = Stack(WINDS["usual"], width_m=methods.YARD_WIDTH_M)
_years: Memory[FeltYear] = Memory(64)
# Each is a year of four columns, some 12 kB.
_boards: Memory[SettledBoard] = Memory(2000)
_wanted: Memory[Wanted] = Memory(2000)


@dataclass(frozen=True)
class SizedWood:
    """A piece as far as its settled board goes: its wood, and the slab that dries as fast as it does (m)."""

    wood: Wood
    slab_m: float


@dataclass(frozen=True)
class HomeAir:
    """The air that wood lives in, through a year or held, and how it lies there; two of one ``key`` are the same."""

    key: Hashable
    year: AirSeries = field(compare=False, repr=False)
    exposure: Stack = field(compare=False, repr=False)
    basis: str = ""

    @property
    def felt(self) -> FeltYear:
        return _years.get(self.key, lambda: settled.felt_year(self.year, self.exposure))

    def board(self, sized: SizedWood) -> SettledBoard:
        """The settled board there of what is as large and of the same wood, from 1 January on."""
        size = size_like(sized.slab_m)
        return _boards.get((self.key, sized.wood, size), lambda: settled.settled_board(sized.wood, size, self.felt))

    def wanted(self, sized: SizedWood, use: Use) -> Wanted:
        """What a use asks of such a piece there, from 1 January on."""
        key = (self.key, sized.wood, size_like(sized.slab_m), use)
        return _wanted.get(key, lambda: self.board(sized).wanted(use))

    def wanted_from(self, day: float, sized: SizedWood, use: Use) -> Wanted:
        """The same from another day of the year on."""
        return self.board(sized).starting(day).wanted(use)


def home_of(place: Place, year: KnownYear | None) -> HomeAir | None:
    """A place as a home: by its year where that is known, else by its air of the last weeks, held; None where neither is known."""
    known = air.series_of(place, year)
    if known is None:
        return None
    outdoors = place.traits.is_outdoors
    return HomeAir((known.key, outdoors), known.series, YARD if outdoors else SMALL_STACK, known.basis)


def for_instruments() -> HomeAir:
    """The air that instruments are built for, wherever they are built."""
    held = settled.instrument_air()
    return HomeAir("instruments", held, SMALL_STACK, "what instruments are built for: 45% at the warmth of a room")


def wood_of(species: Species) -> Wood:
    """A species as the field knows it, or one in the middle."""
    try:
        return of_species(species).wood
    except NotKnown:
        return MIDDLE


# A species as a number, so that it travels in a column of numbers.
SPECIES_NUMBER = Func(F("species_key"), function="hashtext", output_field=IntegerField())


class Woods:
    """The woods of a workshop by :data:`SPECIES_NUMBER`, asked for once they are needed."""

    def __init__(self, workshop: Workshop) -> None:
        self._workshop = workshop

    @cached_property
    def _by_number(self) -> dict[int, Wood]:
        rows = Piece.objects.of(self._workshop).order_by().values_list("species_key", SPECIES_NUMBER).distinct()
        return {number: wood_of(species_of(self._workshop.pk, key)) for key, number in rows}

    def __getitem__(self, number: float) -> Wood:
        return self._by_number.get(int(number), MIDDLE)


def sized(piece: Piece) -> SizedWood:
    """A piece by its wood and sizes."""
    length = float("nan") if piece.ends_sealed else piece.length_m
    slab = float(settling_slabs(piece.thickness_m, piece.width_m, length, piece.traits.is_sawn))
    return SizedWood(wood_of(piece.species), slab)
