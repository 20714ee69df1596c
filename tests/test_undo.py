"""Every notice that kept, struck, used or scrapped something takes it back, and the log has both."""

import html
import re

from django.test import TestCase
from django.urls import reverse

from calm_heron.air.models import AirReading
from calm_heron.judging.models import PiecePurpose
from calm_heron.logbook.models import Entry
from calm_heron.measuring.models import PieceMoisture, Reading
from calm_heron.stock.models import Piece, Status
from calm_heron.workshops.models import Role
from tests.factories import make_board, make_member, make_meter, make_owner, make_place, read_board


class Undo(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.owner = make_owner()
        cls.meter = make_meter(cls.owner)
        cls.board = make_board(cls.owner)

    def setUp(self):
        self.client.force_login(self.owner.person)

    def at(self, name, *args):
        return reverse(name, args=[self.owner.workshop.slug, *args])

    def undo(self, page, status=200):
        """Press Undo in the notice of a page."""
        notice = re.search(r'class="notice.*?</form>', page.content.decode(), re.DOTALL)
        self.assertIsNotNone(notice, "no notice with a way back")
        fields: dict[str, list[str]] = {}
        for name, value in re.findall(r'name="(\w+)" value="([^"]*)"', notice[0]):
            fields.setdefault(name, []).append(html.unescape(value))
        answer = self.client.post(html.unescape(re.search(r'action="([^"]*)"', notice[0])[1]), fields, follow=True)
        self.assertEqual(answer.status_code, status)
        return answer

    def standing(self):
        return Reading.objects.standing().filter(piece=self.board).count()

    def test_readings_that_were_kept_are_taken_out(self):
        page = self.client.post(self.at("read"), {"strip": f"{self.board.tag} 11 12 13", "meter": self.meter.pk, "once": "a"}, follow=True)
        self.assertEqual(self.standing(), 3)
        self.undo(page)
        self.assertEqual((self.standing(), PieceMoisture.objects.count()), (0, 0))
        self.assertEqual(Entry.objects.filter(what="taken_out").count(), 3)
        # Pressed again it finds nothing that stands.
        self.assertContains(self.undo(page), "Struck out: 0 readings")

    def test_a_reading_taken_out_is_put_back_as_of_its_day(self):
        read_board(self.owner, self.board, 11.0, meter=self.meter)
        reading = Reading.objects.get()
        page = self.client.post(self.at("strike", self.board.tag, reading.pk), follow=True)
        self.assertEqual(self.standing(), 0)
        self.undo(page)
        again = Reading.objects.standing().get()
        self.assertEqual((again.raw, again.at, self.standing()), (reading.raw, reading.at, 1))
        self.assertAlmostEqual(PieceMoisture.objects.get(piece=self.board).mean, reading.moisture)
        self.assertTrue(Entry.objects.filter(what="put_back").exists())

    def test_a_tapped_reading_and_a_weighing_can_be_had_back(self):
        page = self.client.post(self.at("measure", self.board.tag), {"raw": "11", "meter": self.meter.pk, "once": "b"}, follow=True)
        self.undo(page)
        sent = {"mass_kg": "9", "ovendry_mass_kg": "8", "scale_step_kg": "1 g", "once": "c"}
        page = self.client.post(self.at("weigh", self.board.tag), sent, follow=True)
        self.assertEqual(self.standing(), 1)
        self.undo(page)
        self.assertEqual(self.standing(), 0)

    def test_air_that_was_kept_and_air_that_was_taken_out(self):
        place = make_place(self.owner)
        page = self.client.post(self.at("place", place.pk), {"temperature": "20", "humidity": "50", "once": "d"}, follow=True)
        taken_out = self.undo(page)
        self.assertEqual(AirReading.objects.standing().count(), 0)
        self.undo(taken_out)
        self.assertEqual(AirReading.objects.standing().get().relative_humidity, 0.5)

    def test_what_was_used_or_scrapped_comes_back_and_what_was_changed_meanwhile_does_not(self):
        other = make_board(self.owner)
        for status in (Status.USED, Status.SCRAPPED):
            chosen = [f"{piece.pk}:{piece.version}" for piece in Piece.objects.filter(pk__in=[self.board.pk, other.pk])]
            page = self.client.post(self.at("bulk"), {"do": status.value, "piece": chosen, "once": status.value}, follow=True)
            self.assertEqual(Piece.objects.in_stock().count(), 0)
            self.undo(page)
            self.assertEqual(Piece.objects.in_stock().count(), 2)
        self.board.refresh_from_db()
        sent = {"do": "used", "piece": [f"{self.board.pk}:{self.board.version}"], "once": "x"}
        page = self.client.post(self.at("bulk"), sent, follow=True)
        self.board.refresh_from_db()
        self.board.save_changed("note")
        self.assertContains(self.undo(page), "notice error")
        self.assertEqual(Piece.objects.in_stock().count(), 1)

    def test_what_a_piece_is_for_goes_back_to_what_it_was_for(self):
        place = make_place(self.owner)
        question = {"place": place.pk, "use": "general", "approach": "typed", "moisture": "9.5"}
        page = self.client.post(self.at("piece_aim", self.board.tag), {**question, "seen": ""}, follow=True)
        self.assertEqual(PiecePurpose.objects.get().moisture, 0.095)
        self.undo(page)
        self.assertFalse(PiecePurpose.objects.exists())

    def test_who_may_not_record_undoes_nothing(self):
        read_board(self.owner, self.board, 11.0, meter=self.meter)
        self.client.force_login(make_member(self.owner, Role.VIEWER).person)
        answer = self.client.post(self.at("undo_readings"), {"do": "strike", "reading": [Reading.objects.get().pk]})
        self.assertEqual((answer.status_code, self.standing()), (403, 1))

    def test_readings_of_another_workshop_are_out_of_reach(self):
        read_board(self.owner, self.board, 11.0, meter=self.meter)
        stranger = make_owner()
        self.client.force_login(stranger.person)
        self.client.post(
            reverse("undo_readings", args=[stranger.workshop.slug]), {"reading": [Reading.objects.get().pk, "nonsense", "9" * 40]}
        )
        self.assertEqual(self.standing(), 1)
