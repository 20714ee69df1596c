"""The demo workshop: whole, repeatable, renewed without touching anybody else's."""

from django.db import connection, transaction
from django.test import TestCase, override_settings
from django.utils import timezone

from calm_heron.air import queries as air
from calm_heron.demo import scenario
from calm_heron.logbook.models import Entry
from calm_heron.stock.models import Piece
from calm_heron.workshops.models import Workshop
from tests.factories import make_shop, read_board
from wood.judging.readiness import State


class Demo(TestCase):
    def load(self):
        with transaction.atomic():
            scenario.erase(connection)
            scenario.load(timezone.now())

    def test_the_demo_holds_every_kind_of_answer_and_is_the_same_each_time(self):
        self.load()
        with override_settings(DEMO=True):
            page = self.client.post("/demo/", follow=True)
        counts = page.context["overview"].counts
        for state in (State.READY, State.CLOSE, State.WAIT, State.TOO_UNEVEN, State.CANNOT_TELL):
            self.assertGreater(counts[state], 0, state)
        first = list(Piece.objects.order_by("tag").values_list("tag", "moisture__mean"))
        self.load()
        second = list(Piece.objects.order_by("tag").values_list("tag", "moisture__mean"))
        self.assertEqual([tag for tag, _ in first], [tag for tag, _ in second])
        self.assertGreater(len(first), 25)

    def test_renewing_the_demo_leaves_other_workshops_alone(self):
        owner, _, meter, board = make_shop()
        read_board(owner, board, 9, meter=meter)
        before = Entry.objects.filter(workshop=owner.workshop).count()
        self.load()
        self.load()
        self.assertEqual(Entry.objects.filter(workshop=owner.workshop).count(), before)
        self.assertEqual(Workshop.objects.count(), 2)

    def test_a_demo_somebody_worked_in_is_kept(self):
        self.load()
        self.assertTrue(scenario.untouched_since_loading())
        self.client.post("/demo/")
        self.client.post(f"/w/{scenario.DEMO_SLUG}/air/{Workshop.objects.get().pk}/", {})
        place = air.places(Workshop.objects.get()).first()
        self.client.post(f"/w/{scenario.DEMO_SLUG}/air/{place.pk}/", {"temperature": "66", "humidity": "50"})
        self.assertFalse(scenario.untouched_since_loading())

    @override_settings(DEMO=False)
    def test_without_the_demo_its_door_is_closed(self):
        self.assertEqual(self.client.post("/demo/").status_code, 404)
        self.assertNotContains(self.client.get("/"), "demo workshop")
