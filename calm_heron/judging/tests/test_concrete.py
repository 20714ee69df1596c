"""Floors on concrete: told by its own test, and then judged by their room."""

from django.test import TestCase
from django.urls import reverse

from calm_heron.judging import queries as judging
from calm_heron.judging import stock_states
from calm_heron.judging.verdicts import Judged, Missing
from calm_heron.measuring import actions
from calm_heron.measuring.actions import Taken
from calm_heron.measuring.models import Reading, SlabTest
from calm_heron.stock.kinds import PieceKind
from calm_heron.workshops.refusals import Refused
from tests.factories import make_aired_place, make_board, make_meter, make_owner, read_board
from tests.pages import text_of


class Concrete(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.owner = make_owner()
        cls.meter = make_meter(cls.owner)
        cls.board = make_board(cls.owner)
        cls.room = make_aired_place(cls.owner, temperature_c=21.1, relative_humidity=0.5)
        cls.slab = make_board(cls.owner, "concrete", kind=PieceKind.SUBFLOOR, place=cls.room, thickness_m=0.1, width_m=1.0)
        cls.floor = make_board(cls.owner, kind=PieceKind.FLOORING, place=cls.room, thickness_m=0.02, width_m=0.05)
        read_board(cls.owner, cls.floor, 9.1, 9.3, 9.2, 9.2, meter=cls.meter)

    def setUp(self):
        self.client.force_login(self.owner.person)

    def at(self, name, *args):
        return reverse(name, args=[self.owner.workshop.slug, *args])

    def verdict(self):
        about = judging.chosen(self.owner.workshop, {}, self.floor)
        judgements = judging.judged(self.floor, about.purpose, about.target)
        listed = stock_states.states_of([self.floor], about.purposes)[self.floor.pk]
        self.assertEqual(str(listed), str(judgements.state))
        return judgements

    def test_no_meter_figure_is_computed_for_it(self):
        with self.assertRaises(Refused):
            actions.record_readings(self.owner, self.slab, self.meter, [Taken(0.05)], 20.0)
        answer = self.client.post(self.at("read"), {"strip": f"{self.slab.tag} 5", "meter": self.meter.pk, "once": "a"})
        self.assertContains(answer, "A wood meter can’t read concrete", status_code=422)
        self.assertContains(self.client.get(self.at("measure", self.slab.tag)), "It has tests of its own")
        with self.assertRaises(Refused):
            actions.record_slab_test(self.owner, self.board, "hole", 70, 75)

    def test_a_floor_on_it_waits_for_its_own_test_and_is_then_judged_by_the_room(self):
        self.assertEqual(self.verdict().missing, Missing.SLAB_NOT_TESTED)
        self.client.post(self.at("slab_test", self.slab.tag), {"how": "hole", "shown": "85", "allowed": "75", "once": "a"})
        self.assertEqual(self.verdict().missing, Missing.SLAB_TOO_WET)
        self.assertIn("Too wet", text_of(self.client.get(self.at("piece", self.slab.tag))))
        self.client.post(self.at("slab_test", self.slab.tag), {"how": "hole", "shown": "74", "allowed": "75", "once": "b"})
        verdict = self.verdict()
        self.assertIsInstance(verdict, Judged)
        self.assertEqual(verdict.state, "ready")
        self.assertEqual(SlabTest.objects.count(), 2)
        self.assertContains(self.client.get(self.at("log")), "slab tested")

    def test_what_cannot_be_is_refused_beside_its_field(self):
        for wrong in ({"shown": "140"}, {"shown": "-1"}, {"shown": ""}, {"allowed": "0"}, {"how": "finger"}):
            sent = {"how": "hole", "shown": "70", "allowed": "75", "once": "x", **wrong}
            self.assertEqual(self.client.post(self.at("slab_test", self.slab.tag), sent).status_code, 422, wrong)
        self.assertEqual(SlabTest.objects.count(), 0)

    def test_panels_are_wood_for_a_meter_and_nothing_more(self):
        ply = make_board(self.owner, "plywood", kind=PieceKind.SUBFLOOR, place=self.room)
        read_board(self.owner, ply, 9, meter=make_meter(self.owner, species_set_on_meter=False))
        self.assertIn("no_species_figure", Reading.objects.filter(piece=ply).get().warnings)
        self.assertEqual(self.client.get(self.at("piece", ply.tag)).status_code, 200)
