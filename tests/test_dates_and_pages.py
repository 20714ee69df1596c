"""Whose clock and whose English a page speaks, numbers that stay with their units, and how pages travel."""

import gzip
import re
import tempfile
from datetime import UTC, date, datetime, timedelta
from pathlib import Path

from django.core.management import call_command
from django.http import HttpResponse
from django.test import RequestFactory, SimpleTestCase, TestCase, override_settings
from django.urls import reverse
from django.utils import timezone

from calm_heron.air.actions import record_air
from calm_heron.people.actions import settings_of
from calm_heron.site import dates
from calm_heron.site.middleware import unbroken, unbroken_text
from calm_heron.workshops.versions import as_seen
from tests.factories import make_owner, make_place

LATE = datetime(2026, 11, 26, 23, 30, tzinfo=UTC)


class Dates(SimpleTestCase):
    def test_british_and_american(self):
        first = date(2026, 3, 7)
        with dates.as_in(dates.BRITISH, "UTC"):
            self.assertEqual((dates.day(first), dates.short_full_day(first), dates.clock(LATE)), ("7 March", "7 Mar 2026", "23:30"))
        with dates.as_in(dates.AMERICAN, "UTC"):
            self.assertEqual((dates.day(first), dates.full_day(first), dates.clock(LATE)), ("March 7", "March 7, 2026", "11:30 PM"))
        self.assertEqual(dates.language(), dates.BRITISH)

    def test_the_day_is_that_of_the_clock(self):
        for zone, written in (("Asia/Tokyo", "27 Nov, 08:30"), ("America/Denver", "26 Nov, 16:30"), ("UTC", "26 Nov, 23:30")):
            with dates.as_in(dates.BRITISH, zone):
                self.assertEqual(dates.moment(LATE), written)

    def test_every_zone_offered_is_one(self):
        for zone in dates.zones():
            with dates.as_in(dates.BRITISH, zone):
                self.assertTrue(dates.moment(LATE))
        self.assertEqual(dates.zones()[0], "UTC")


class Unbroken(SimpleTestCase):
    def test_numbers_stay_with_their_units_and_what_is_typed_stays_as_it_is(self):
        page = '<title>8 mm</title><p title="8 mm">At 8.1 ± 0.4\n %, 27 mm thick, 3 weeks.</p><textarea>8 mm</textarea><b>70 °F</b>'
        self.assertEqual(
            unbroken_text(page).replace("\u00a0", "~"),
            '<title>8 mm</title><p title="8 mm">At 8.1 ±~0.4%, 27~mm thick, 3~weeks.</p><textarea>8 mm</textarea><b>70°F</b>',
        )

    def test_only_pages_are_touched(self):
        for kind, same in (("text/html; charset=utf-8", False), ("text/csv", True), ("application/pdf", True)):
            answer = unbroken(lambda request, kind=kind: HttpResponse("8 mm", content_type=kind))(RequestFactory().get("/"))
            self.assertEqual(answer.content.decode() == "8 mm", same)


class Travels(TestCase):
    def test_pages_are_compressed_padded_by_chance_and_kept_by_nobody(self):
        owner = make_owner()
        self.client.force_login(owner.person)
        address = reverse("people", args=[owner.workshop.slug])
        answers = [self.client.get(address, headers={"accept-encoding": "gzip"}) for _ in range(6)]
        self.assertEqual({answer["Content-Encoding"] for answer in answers}, {"gzip"})
        self.assertIn(b"<html", gzip.decompress(answers[0].content))
        self.assertGreater(len({len(answer.content) for answer in answers}), 1)
        self.assertEqual(answers[0]["Cache-Control"], "private, no-cache")

    def test_what_a_module_imports_is_named_by_its_contents_too(self):
        storages = {name: {"BACKEND": backend} for name, backend in BACKENDS.items()}
        with tempfile.TemporaryDirectory() as folder, override_settings(STORAGES=storages, STATIC_ROOT=folder):
            call_command("collectstatic", interactive=False, verbosity=0)
            modules = list(Path(folder, "site", "js").glob("live.*.js"))
            self.assertEqual(len(modules), 1)
            imported = re.search(r'from "./(fetching[^"]*)"', modules[0].read_text())[1]
            self.assertRegex(imported, r"^fetching\.[0-9a-f]+\.js$")
            self.assertTrue(Path(folder, "site", "js", imported).exists())


BACKENDS = {"default": "django.core.files.storage.FileSystemStorage", "staticfiles": "calm_heron.site.storage.Hashed"}


class Clock(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.owner = make_owner()

    def setUp(self):
        self.client.force_login(self.owner.person)

    def set_to(self, zone, language):
        seen = as_seen(*settings_of(self.owner.workshop))
        sent = {"name": self.owner.workshop.name, "units": "metric", "time_zone": zone, "language": language, "seen": seen}
        answer = self.client.post(reverse("set_units", args=[self.owner.workshop.slug]), sent)
        self.owner.workshop.refresh_from_db()
        return answer

    def test_a_workshop_speaks_as_its_owner_chose(self):
        place = make_place(self.owner)
        at = (timezone.now() - timedelta(days=2)).replace(hour=23, minute=30)
        record_air(self.owner, place, 20, 0.5, at=at)
        page = reverse("place", args=[self.owner.workshop.slug, place.pk])
        self.assertContains(self.client.get(page), f"{at:%-d %b}")
        self.set_to("Asia/Tokyo", "en-US")
        self.assertContains(self.client.get(page), f"{at + timedelta(hours=9):%b %-d}")
        self.assertContains(self.client.get(page), '<html lang="en-US"')
        self.assertContains(self.client.get(reverse("log", args=[self.owner.workshop.slug])), "The clock is now that of Asia/Tokyo")

    def test_a_zone_that_there_is_not_is_refused(self):
        self.assertEqual(self.set_to("Middle/Nowhere", "en-GB").status_code, 422)
        self.assertEqual(self.owner.workshop.time_zone, "UTC")

    def test_a_new_workshop_keeps_the_clock_of_its_device(self):
        for sent, saved in (("Europe/Vienna", "Europe/Vienna"), ("../../etc", "UTC"), ("", "UTC")):
            name = f"Shed {saved}{sent[:2]}"
            self.client.post(reverse("found_workshop"), {"name": name, "units": "inch", "time_zone": sent})
            result = type(self.owner.workshop).objects.get(name=name)
            self.assertEqual((result.time_zone, result.language), (saved, "en-US"))
