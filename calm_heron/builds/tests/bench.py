"""A workshop with a bench, for the tests of builds."""

from django.test import TestCase

from calm_heron.air import actions as air
from calm_heron.air.kinds import PlaceKind
from calm_heron.air.models import YearSource
from calm_heron.builds import actions, readiness
from calm_heron.builds.layouts import allocation, laying
from calm_heron.builds.models import BuildPart
from calm_heron.stock.models import Piece
from tests.factories import make_board, make_meter, make_owner, make_place, read_board
from wood.air.climate import pattern
from wood.air.rooms import DWELLING

OAK = "white_oak"


def part(name: str = "Rail", **more) -> dict:
    figures = {"name": name, "count": 2, "length_m": 0.6, "width_m": 0.07, "thickness_m": 0.02, "species_key": OAK}
    return figures | more


class Bench(TestCase):
    """A workshop with a heated room whose year is known, and a good meter."""

    @classmethod
    def setUpTestData(cls):
        cls.owner = make_owner()
        yard = make_place(cls.owner, name="Yard", kind=PlaceKind.YARD, rh_tolerance=0.01)
        air.keep_year(cls.owner, yard, 0, YearSource.TYPED, "", pattern("mild_coast"))
        cls.room = make_place(cls.owner, name="Parlour", kind=PlaceKind.ROOM, rh_tolerance=0.01)
        air.keep_room(cls.owner, cls.room, 0, yard, DWELLING)
        cls.meter = make_meter(cls.owner, tolerance=0.003)
        cls.build = actions.make_build(cls.owner, name="Bench", place=cls.room)
        cls.mean = readiness.Sizing(cls.build, readiness.about_of(cls.build)).mean

    def board(self, moisture: float | None = None, **more) -> Piece:
        made = make_board(self.owner, more.pop("species", OAK), place=self.room, **more)
        if moisture is not None:
            read_board(self.owner, made, *[100 * moisture] * 5, meter=self.meter)
        return made

    def add(self, *parts: dict) -> list[BuildPart]:
        return actions.add_parts(self.owner, self.build, list(parts))

    def lay(self, **more) -> dict:
        self.build.refresh_from_db()
        return laying.lay_out(self.owner, self.build, self.build.version, **more)

    def stands(self) -> readiness.BuildState:
        self.build.refresh_from_db()
        return readiness.state_of(allocation.saw(self.build), self.owner)
