"""Hygrometers of a workshop: named, checked over salt, and set side by side in a place."""

from datetime import timedelta

from django.db import DatabaseError, transaction
from django.test import TestCase
from django.utils import timezone

from calm_heron.air import queries
from calm_heron.air.actions import record_air
from calm_heron.air.models import AirReading, Hygrometer, HygrometerCheck
from tests.factories import make_hygrometer, make_owner, make_place
from tests.pages import text_of


class HygrometerCase(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.owner = make_owner()
        cls.list = f"/w/{cls.owner.workshop.slug}/air/hygrometers/"
        cls.grey = make_hygrometer(cls.owner, name="Grey")

    def setUp(self):
        self.client.force_login(self.owner.person)

    def check(self, **fields):
        question = {"salt": "NaCl", "temperature": "20", "waited_hours": "10", "shown": "79", **fields}
        return self.client.post(f"{self.list}{self.grey.pk}/check/", question)


class Checking(HygrometerCase):
    def test_a_check_is_kept_with_its_offset_and_corrects_readings_from_then_on(self):
        self.assertEqual(self.check().status_code, 302)
        self.grey.refresh_from_db()
        self.assertAlmostEqual(self.grey.offset, 0.7547 - 0.79, places=4)
        self.assertAlmostEqual(self.grey.tolerance_now, 0.015, places=4)
        place = make_place(self.owner)
        reading = record_air(self.owner, place, 20.0, 0.60, hygrometer=self.grey)
        self.assertAlmostEqual(reading.relative_humidity, 0.60 + self.grey.offset, places=6)
        self.assertEqual(reading.shown_humidity, 0.60)
        self.assertContains(self.client.get(self.list), "± 1.5% RH")

    def test_what_the_salt_gives_is_said_while_it_is_typed(self):
        page = self.client.get(
            f"{self.list}{self.grey.pk}/check/", {"fragment": "salt", "salt": "MgCl2", "temperature": "25", "shown": "35"}
        )
        self.assertContains(page, "32.8")
        self.assertContains(page, "−2.2% RH")

    def test_too_early_too_far_off_and_impossible_are_refused_beside_their_fields(self):
        for fields, lines in (
            ({"waited_hours": "2"}, "still moving"),
            ({"shown": "40"}, "more than 12"),
            ({"shown": "140"}, "is out of range"),
            ({"temperature": "55 C"}, "is out of range"),
            ({"salt": "pepper"}, "Select a valid choice"),
        ):
            self.assertContains(self.check(**fields), lines, status_code=422)
        self.assertFalse(HygrometerCheck.objects.exists())

    def test_a_check_is_never_changed(self):
        self.check()
        with self.assertRaises(DatabaseError), transaction.atomic():
            HygrometerCheck.objects.update(offset=0.0)

    def test_names_differ_within_a_workshop(self):
        page = self.client.post(self.list, {"name": "Grey", "rh_tolerance": "3"})
        self.assertContains(page, "called Grey already", status_code=422)
        self.assertEqual(self.client.post(self.list, {"name": "Dial", "rh_tolerance": "5"}).status_code, 302)
        self.assertEqual(Hygrometer.objects.count(), 2)


class SideBySide(HygrometerCase):
    @classmethod
    def setUpTestData(cls):
        super().setUpTestData()
        cls.place = make_place(cls.owner, name="Store")
        cls.dial = make_hygrometer(cls.owner, name="Dial", rh_tolerance=0.05)
        cls.address = f"/w/{cls.owner.workshop.slug}/air/{cls.place.pk}/"

    def read(self, hygrometer, humidity, hours=0.0):
        return record_air(self.owner, self.place, 20.0, humidity, at=timezone.now() - timedelta(hours=hours), hygrometer=hygrometer)

    def test_two_that_disagree_are_named_with_what_it_is_worth_and_the_checked_one_is_believed(self):
        self.check(shown="75.5")
        self.grey.refresh_from_db()
        self.read(self.grey, 0.62)
        self.read(self.dial, 0.51, hours=1)
        page = self.client.get(self.address)
        self.assertContains(page, "Side by side")
        self.assertContains(page, "trust Grey, and check the other over salt")

    def test_the_surer_instrument_counts_for_more_in_the_level(self):
        self.check(shown="75.5")
        self.grey.refresh_from_db()
        # At one moment: an hour apart they would be two days at midnight.
        sure, unsure = self.read(self.grey, 0.62), self.read(self.dial, 0.51)
        level = queries.level(self.place).emc
        self.assertLess(abs(level - sure.emc), 0.25 * abs(level - unsure.emc))

    def test_two_alike_instruments_that_disagree_are_both_to_be_checked(self):
        other = make_hygrometer(self.owner, name="Green")
        self.read(self.grey, 0.62)
        self.read(other, 0.50)
        self.assertContains(self.client.get(self.address), "neither is better: check both over salt")

    def test_readings_of_different_days_are_not_set_side_by_side(self):
        self.read(self.grey, 0.62)
        self.read(self.dial, 0.50, hours=50)
        self.assertIsNone(queries.compared(self.place))

    def test_the_form_offers_the_one_that_read_last_and_keeps_which_one_it_was(self):
        self.read(self.dial, 0.5)
        self.assertContains(self.client.get(self.address), f'<option value="{self.dial.pk}" selected>Dial</option>', html=True)
        self.client.post(self.address, {"temperature": "20", "humidity": "55", "hygrometer": str(self.grey.pk)})
        self.assertEqual(AirReading.objects.latest("id").hygrometer, self.grey)

    def test_the_working_says_which_humidity_keeps_which_moisture_also_in_a_hot_kiln(self):
        self.read(self.grey, 0.5)
        self.assertIn("wood stays at 6% in air of 29% RH", text_of(self.client.get(self.address)))
        record_air(self.owner, self.place, 118.0, 0.2)
        self.assertEqual(self.client.get(self.address).status_code, 200)

    def test_another_workshops_hygrometer_is_not_accepted(self):
        theirs = make_hygrometer(make_owner(name="Other"))
        page = self.client.post(self.address, {"temperature": "20", "humidity": "55", "hygrometer": str(theirs.pk)})
        self.assertContains(page, "Select a valid choice", status_code=422)
