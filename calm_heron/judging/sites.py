"""A site before a floor is laid in it: its air, what lies below, each with its limit and its date, kept as it was tested."""

from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum
from typing import Any

from django.utils import timezone

from calm_heron.air import queries as air
from calm_heron.air.models import Place
from calm_heron.air.queries import KnownYear, Level
from calm_heron.judging import queries
from calm_heron.judging.targets import SUBFLOOR_GOOD_FOR
from calm_heron.measuring.models import SlabTest
from calm_heron.stock.kinds import NOT_JUDGED, PieceKind
from calm_heron.stock.models import Piece
from wood.judging.readiness import State
from wood.measuring.readings import Bound

# Rows of paper that long.
MOST = 60


class Standing(StrEnum):
    """How a site stands: fit to lay on, not fit, or not known yet."""

    FIT = "fit"
    NOT_FIT = "not_fit"
    UNKNOWN = "unknown"


STANDS = {State.READY: Standing.FIT, State.WORKS_NOW: Standing.FIT, State.CANNOT_TELL: Standing.UNKNOWN}


@dataclass(frozen=True)
class Below:
    """A subfloor: its newest moisture if it is wood, its tests if it is concrete, newest first.

    ``old`` says that the newest is too old to go by.
    """

    piece: Piece
    tests: tuple[SlabTest, ...]
    at: datetime | None

    @property
    def is_slab(self) -> bool:
        return self.piece.species.holds_no_moisture_content

    @property
    def old(self) -> bool:
        return self.at is None or self.at < timezone.now() - SUBFLOOR_GOOD_FOR

    @property
    def moisture(self) -> Any:
        return getattr(self.piece, "moisture", None)

    @property
    def standing(self) -> Standing:
        """Of a slab whether its newest test passed; wood below stands by how near the boards are to it."""
        if self.old:
            return Standing.UNKNOWN
        if self.is_slab:
            return Standing.FIT if self.tests[0].passed else Standing.NOT_FIT
        return Standing.UNKNOWN if self.moisture is None or self.moisture.bound == Bound.ABOVE else Standing.FIT


@dataclass(frozen=True)
class Boards:
    """Boards of a floor that lie here with their verdict for this place, and how far they are from the wooden subfloor (fractions);
    ``may_differ`` by their width."""

    piece: Piece
    state: State
    differs: float | None
    may_differ: float

    @property
    def standing(self) -> Standing:
        return STANDS.get(self.state, Standing.NOT_FIT)


@dataclass(frozen=True)
class SiteRecord:
    """Everything that was found of a site."""

    place: Place
    level: Level | None
    year: KnownYear | None
    below: list[Below]
    boards: list[Boards]

    @property
    def standing(self) -> Standing:
        """As its worst part stands."""
        all_of_them = [*(board.standing for board in self.below), *(board.standing for board in self.boards)]
        if not self.below:
            return Standing.UNKNOWN
        return next((item for item in (Standing.NOT_FIT, Standing.UNKNOWN) if item in all_of_them), Standing.FIT)


def record_of(place: Place) -> SiteRecord:
    """What is known of a site: its air, subfloors and slabs, and the floor boards that lie here."""
    lying = Piece.objects.of(place.workshop).in_stock().filter(place=place, lot=None).select_related("moisture").order_by("tag")
    below = [_below(piece) for piece in lying.filter(kind__in=NOT_JUDGED)[:MOST]]
    wooden = [item.moisture.mean for item in below if not item.is_slab and item.standing is Standing.FIT]
    subfloor = sum(wooden) / len(wooden) if wooden else None
    boards = [_boards(piece, subfloor) for piece in lying.filter(kind=PieceKind.FLOORING)[:MOST]]
    return SiteRecord(place, air.level(place), air.known_year(place), below, boards)


def _below(piece: Piece) -> Below:
    if piece.species.holds_no_moisture_content:
        tests = tuple(piece.slab_tests.select_related("by").order_by("-at")[:MOST])
        return Below(piece, tests, tests[0].at if tests else None)
    moisture = getattr(piece, "moisture", None)
    return Below(piece, (), moisture.at if moisture else None)


def _boards(piece: Piece, subfloor: float | None) -> Boards:
    """The verdict is the one of the piece's own page, asked for this place."""
    about = queries.chosen(piece.workshop, {"place": str(piece.place_id)}, piece)
    moisture = getattr(piece, "moisture", None)
    state = queries.judged_by(piece, moisture, about.purpose, about.target).state
    differs = moisture.mean - subfloor if moisture is not None and subfloor is not None and not moisture.bound else None
    return Boards(piece, state, differs, about.use.tolerance)
