"""Places that are no more: what keeps them, where they are offered no more, and what was to live there."""

from calm_heron.air import actions
from calm_heron.air.models import Place
from calm_heron.air.tests.test_put_right import AirCase
from calm_heron.judging import actions as judging
from calm_heron.judging.queries import chosen
from calm_heron.judging.targets import Purpose
from calm_heron.stock import actions as stock
from calm_heron.workshops.refusals import Refused
from calm_heron.workshops.versions import Overtaken
from tests.factories import make_aired_place, make_board, read_board
from wood.uses import FINE, GENERAL


class Retiring(AirCase):
    def retire(self, place, **form):
        return self.client.post(f"{self.shop}air/{place.pk}/retire/", {"version": place.version, **form}, follow=True)

    def test_one_that_is_needed_stays(self):
        self.assertContains(self.retire(self.place), "Bench room is the usual place for verdicts")
        store = make_aired_place(self.owner, name="Store")
        make_board(self.owner, place=store)
        self.assertContains(self.retire(store), "1 piece lies in Store: move what is there first.")
        self.assertFalse(Place.objects.filter(retired=True).exists())

    def test_a_retired_one_is_offered_nowhere_and_can_come_back(self):
        hall = make_aired_place(self.owner, name="Hall")
        self.retire(hall)
        for page in ("", "air/", f"stock/{self.board.tag}/", "drying/"):
            self.assertNotContains(self.client.get(self.shop + page), ">Hall</option>")
        self.assertContains(self.client.get(f"{self.shop}air/"), "Retired:")
        hall.refresh_from_db()
        self.retire(hall, again="1")
        self.assertContains(self.client.get(f"{self.shop}stock/{self.board.tag}/"), ">Hall</option>")

    def test_what_was_to_live_there_is_told_and_not_judged_for_another(self):
        hall = make_aired_place(self.owner, name="Hall")
        read_board(self.owner, self.board, 9.2, 9.3, 9.1, 9.2, meter=self.meter)
        judging.set_piece_purpose(self.owner, self.board, Purpose(hall, GENERAL))
        self.retire(hall)
        page = self.client.get(f"{self.shop}stock/{self.board.tag}/")
        self.assertContains(page, "It was meant for Hall, now retired.")
        self.assertEqual(self.client.get(self.shop).context["overview"].counts["ready"], 0)
        self.assertEqual(self.client.get(f"{self.shop}stock/{self.board.tag}/drying/").status_code, 200)
        with self.assertRaises(Refused):
            judging.set_piece_purpose(self.owner, self.board, chosen(self.owner.workshop, {}, self.board).purpose)
        judging.set_piece_purpose(self.owner, self.board, Purpose(self.place, FINE))
        self.assertNotContains(self.client.get(f"{self.shop}stock/{self.board.tag}/"), "which is retired")

    def test_nobody_retires_what_somebody_else_has_just_changed(self):
        hall = make_aired_place(self.owner, name="Hall")
        actions.change_place(self.owner, hall, hall.version, name="Great hall")
        with self.assertRaises(Overtaken):
            actions.retire_place(self.owner, hall, hall.version)

    def test_wood_that_is_used_up_keeps_no_place(self):
        store = make_aired_place(self.owner, name="Store")
        board = make_board(self.owner, place=store)
        stock.set_status(self.owner, [(board.pk, board.version)], "used")
        self.retire(store)
        self.assertTrue(Place.objects.get(pk=store.pk).retired)
