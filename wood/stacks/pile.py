"""The pile that a load makes: courses and boards in them, stickers and bearers, packs and bolsters, sizes, and what it all weighs.

Boards of one thickness lie together in a course; mixed lengths are box-piled, long ones outside, short ones flush with either end in turn,
so that no end hangs over. Every sticker lies in line with those below it, down to a bearer.

Sources: Air Drying of Lumber (AH-402, FPL-GTR-117) for clear height, bearers, packs, bolsters and roofs; FPL-GTR-118 for the weight on
top (low). Mass of wood and water: :mod:`wood.measuring.weighing` (Wood Handbook ch. 4).
"""

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass, field

from wood.errors import OutOfRange, check_range
from wood.measuring import weighing
from wood.sizes import BOARD_FOOT_M3
from wood.species import Species
from wood.stacks.stickers import LENGTH_M, Stickers, lines

# Between the edges of boards in a course.
EDGE_GAP_M = 0.010
# Air under the lowest course: the least for packs and for piles built by hand.
CLEAR_PACK_M, CLEAR_PILE_M = 0.30, 0.46
PACK_HEIGHT_M, BOLSTER_M, BEARER_WIDTH_M = 1.2, 0.095, 0.095
ROOF_FRONT_M, ROOF_REAR_M, ROOF_SIDE_M = 0.30, 0.75, 0.10
# Weight on top that keeps the upper courses flat, kg on a square metre (50 lb on a square foot, low).
TOP_KG_M2 = 240.0
# A pile higher than this many times its width falls over too easily (our judgement).
STEADY = 3.0
WIDTH_M, HEIGHT_M = (0.2, 4.0), (0.2, 6.0)
MOST_BOARDS = 20_000
# An end that reaches farther beyond its last sticker bends (our judgement).
HANGS_M = 0.10
# A chimney is left in wide piles built by hand (AH-402, low).
CHIMNEY_FROM_M, CHIMNEY_M = 2.4, 0.15


@dataclass(frozen=True)
class Load:
    """Boards of one lot: their wood, sizes (metres), how many, how wet (fraction), and its name."""

    name: str
    species: Species
    thickness_m: float
    width_m: float
    length_m: float
    count: int
    moisture: float

    def __post_init__(self) -> None:
        check_range("thickness_m", self.thickness_m, 0.003, 0.3, " m")
        check_range("width_m", self.width_m, 0.02, 1.5, " m")
        check_range("length_m", self.length_m, *LENGTH_M, " m")
        check_range("count", self.count, 1, MOST_BOARDS)
        check_range("moisture", self.moisture, 0.0, 3.0)

    @property
    def volume_m3(self) -> float:
        return self.thickness_m * self.width_m * self.length_m * self.count

    @property
    def board_feet(self) -> float:
        return self.volume_m3 / BOARD_FOOT_M3


@dataclass(frozen=True)
class Course:
    """One course: whose boards, how many, its thickness, and how high its underside lies above the lowest sticker's underside."""

    load: Load
    boards: int
    thickness_m: float
    bottom_m: float
    pack: int


@dataclass(frozen=True)
class Mass:
    """Ovendry wood and the water in it, kilograms; ``None`` where a species' weight is not known."""

    wood_kg: float
    water_kg: float

    @property
    def total_kg(self) -> float:
        return self.wood_kg + self.water_kg


@dataclass(frozen=True)
class Pile:
    """A stack as it is to be built. Metres and kilograms.

    ``lines_m`` are the stickers' middles along it, each over a bearer; ``tallest_m`` is its height without foundation and roof.
    ``bearer_kg`` is the load of the most burdened bearer, ``ground_kpa`` the pressure under it. ``packs`` are how many it is parted into,
    with bolsters between.
    """

    loads: tuple[Load, ...]
    stickers: Stickers
    width_m: float
    length_m: float
    courses: tuple[Course, ...]
    lines_m: tuple[float, ...]
    packs: int
    clear_m: float
    mass: Mass | None
    per_line_kg: tuple[float, ...] = field(default=())

    @property
    def height_m(self) -> float:
        """From the bearers' top to the last course's."""
        return self.courses[-1].bottom_m + self.courses[-1].thickness_m

    @property
    def boards(self) -> int:
        return sum(course.boards for course in self.courses)

    @property
    def sticker_count(self) -> int:
        """One line of stickers under every course; the lowest of a pack lie on its bearers or bolsters."""
        return len(self.courses) * len(self.lines_m)

    @property
    def inner_ends_m(self) -> tuple[float, ...]:
        """How far from the stack's end short boards end between two lines of stickers: a short sticker belongs under each."""
        ends = []
        for length in sorted({load.length_m for load in self.loads}):
            if length > self.length_m - HANGS_M or 2 * length <= self.length_m + 1e-9:
                continue
            under = max((place for place in self.lines_m if place <= length + 1e-9), default=0.0)
            if length - under > HANGS_M:
                ends.append(length)
        return tuple(ends)

    @property
    def bolster_count(self) -> int:
        return (self.packs - 1) * len(self.lines_m)

    @property
    def volume_m3(self) -> float:
        return sum(load.volume_m3 for load in self.loads)

    @property
    def board_feet(self) -> float:
        return sum(load.board_feet for load in self.loads)

    @property
    def bearer_kg(self) -> float | None:
        return max(self.per_line_kg) if self.per_line_kg else None

    @property
    def ground_kpa(self) -> float | None:
        """Pressure of the most burdened bearer on the ground along its whole length."""
        most = self.bearer_kg
        return None if most is None else most * 9.81 / (BEARER_WIDTH_M * self.width_m) / 1000

    @property
    def top_kg(self) -> float:
        """What to put on top, to keep the upper courses flat."""
        return TOP_KG_M2 * self.width_m * self.length_m

    @property
    def roof_m(self) -> tuple[float, float]:
        """Width and length of a roof that covers it with its overhang."""
        return self.width_m + 2 * ROOF_SIDE_M, self.length_m + ROOF_FRONT_M + ROOF_REAR_M

    @property
    def needs_chimney(self) -> bool:
        return self.width_m > CHIMNEY_FROM_M

    @property
    def is_steady(self) -> bool:
        return self.height_m + self.clear_m <= STEADY * self.width_m


def mass_of(loads: Sequence[Load]) -> Mass | None:
    """What loads weigh; ``None`` where one's specific gravity is not known.

    >>> from wood.species import species_named
    >>> oak = Load("a", species_named("northern_red_oak"), 0.0254, 0.3048, 0.3048, 1000, 0.80)
    >>> mass = mass_of([oak])
    >>> round(mass.wood_kg), round(mass.water_kg)
    (1321, 1057)
    """
    wood = water = 0.0
    for load in loads:
        basic = load.species.basic_specific_gravity
        if basic is None:
            return None
        held = weighing.contents(load.volume_m3, basic, load.moisture)
        wood, water = wood + held.ovendry_kg, water + held.water_kg
    return Mass(wood, water)


def pile(
    loads: Sequence[Load], width_m: float, stickers: Stickers, *, pack_height_m: float = PACK_HEIGHT_M, clear_m: float = CLEAR_PACK_M
) -> Pile:
    """The pile of loads in a width, thickest boards below.

    Args:
        width_m: of the stack, 0.2…4 m; pack_height_m: 0.2…6 m; clear_m: air under it, 0…2 m.
    Raises:
        OutOfRange: no boards, too many, a board wider than the stack, or stickers thicker than the thinnest boards and an inch.

    >>> from wood.species import species_named
    >>> from wood.stacks.stickers import usual
    >>> oak = Load("a", species_named("white_oak"), 0.0286, 0.19, 2.44, 100, 0.8)
    >>> stack = pile([oak], 1.2, usual(oak.species, oak.thickness_m, oak.moisture))
    >>> len(stack.courses), stack.courses[0].boards, stack.sticker_count
    (17, 6, 119)
    """
    check_range("loads", len(loads), 1, 200)
    check_range("boards", sum(load.count for load in loads), 1, MOST_BOARDS)
    check_range("width_m", width_m, *WIDTH_M, " m")
    check_range("pack_height_m", pack_height_m, *HEIGHT_M, " m")
    check_range("clear_m", clear_m, 0.0, 2.0, " m")
    length = max(load.length_m for load in loads)
    courses: list[Course] = []
    bottom, pack, pack_bottom = 0.0, 0, 0.0
    for load in sorted(loads, key=lambda load: (-load.thickness_m, -load.length_m)):
        if load.width_m > width_m:
            raise OutOfRange("width_m", width_m, load.width_m, WIDTH_M[1], " m")
        left = load.count
        each = abreast(load, width_m, length)
        while left > 0:
            if courses and bottom + load.thickness_m - pack_bottom > pack_height_m:
                pack, bottom = pack + 1, bottom - stickers.thickness_m + BOLSTER_M
                pack_bottom = bottom
            boards = min(each, left)
            courses.append(Course(load, boards, load.thickness_m, bottom, pack))
            bottom += load.thickness_m + stickers.thickness_m
            left -= boards
    places = lines(length, stickers.width_m, stickers.spacing_m)
    mass = mass_of(loads)
    return Pile(
        tuple(loads),
        stickers,
        width_m,
        length,
        tuple(courses),
        tuple(places),
        pack + 1,
        clear_m,
        mass,
        () if mass is None else tuple(mass.total_kg * share for share in shares(places, length)),
    )


def abreast(load: Load, width_m: float, length_m: float) -> int:
    """How many boards of a load lie in one course: side by side, and end to end where two and more of them fit into the length.

    Args:
        width_m: 0.2…4 m; length_m: 0.1…15 m.
    Raises:
        OutOfRange.
    """
    check_range("width_m", width_m, *WIDTH_M, " m")
    check_range("length_m", length_m, *LENGTH_M, " m")
    beside = max(1, math.floor((width_m + EDGE_GAP_M + 1e-9) / (load.width_m + EDGE_GAP_M)))
    return beside * max(1, math.floor(length_m / load.length_m + 1e-9))


def shares(places_m: Sequence[float], length_m: float) -> list[float]:
    """The share of a pile's weight on each of its lines: half of the way to either neighbour, and what hangs over at the ends.

    Args:
        places_m: in order, at least one; length_m: 0.1…15 m.
    Raises:
        OutOfRange: no line.

    >>> [round(share, 2) for share in shares([0.0, 1.0, 2.0], 2.0)]
    [0.25, 0.5, 0.25]
    """
    check_range("lines", len(places_m), 1, 1000)
    check_range("length_m", length_m, *LENGTH_M, " m")
    check_range("places_m", places_m, 0.0, length_m, " m")
    edges = [0.0, *((a + b) / 2 for a, b in itertools.pairwise(places_m)), length_m]
    return [(b - a) / length_m for a, b in itertools.pairwise(edges)]
