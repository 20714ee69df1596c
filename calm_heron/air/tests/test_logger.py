"""Files of loggers, from looking at one to its readings in a place, and back."""

from datetime import UTC, datetime, timedelta

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from django.urls import reverse
from django.utils import timezone

from calm_heron.air import logger_actions, queries
from calm_heron.air.models import AirReading, HygrometerCheck, LoggerFile
from calm_heron.logbook.models import Entry
from calm_heron.workshops.models import Role
from calm_heron.workshops.refusals import Refused
from tests.factories import make_board, make_hygrometer, make_member, make_owner, make_place
from tests.pages import text_of
from wood.air.sorption import measured_emc


def rows(count=300, begins=None, minutes=60, line="{at:%Y-%m-%d %H:%M};{t:.1f};{h:.1f}"):
    begins = begins or datetime(2026, 3, 1)
    made = []
    for k in range(count):
        made.append(line.format(at=begins + timedelta(minutes=minutes * k), t=18 + k % 24 / 10, h=45 + k % 36 / 4))
    return "Time;Temp (°C);RH (%)\n" + "\n".join(made)


class Logger(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.owner = make_owner()
        cls.owner.workshop.time_zone = "Europe/Berlin"
        cls.owner.workshop.save()
        cls.place = make_place(cls.owner)

    def setUp(self):
        self.client.force_login(self.owner.person)
        self.page = reverse("place_logger", args=[self.owner.workshop.slug, self.place.pk])

    def send(self, text, **fields):
        upload = SimpleUploadedFile("march.csv", text.encode() if isinstance(text, str) else text)
        return self.client.post(self.page, {"file": upload, "clock": "local", **fields})

    def sent(self, text, **fields):
        answer = self.send(text, **fields)
        self.assertEqual(answer.status_code, 302, answer.content.decode()[:3000])
        return LoggerFile.objects.latest("pk"), answer.url

    def test_a_file_is_shown_as_it_was_understood_and_saved_when_it_is_meant(self):
        file, address = self.sent(rows())
        self.assertEqual(AirReading.objects.count(), 0)
        page = self.client.get(address)
        self.assertContains(page, "300")
        self.assertContains(page, "“Temp (°C)”, in Celsius")
        answer = self.client.post(address, {"version": file.version}, follow=True)
        self.assertContains(answer, "300 readings saved.")
        readings = AirReading.objects.filter(place=self.place).order_by("at")
        self.assertEqual(readings.count(), 300)
        # Winter time in Berlin is an hour ahead; at the end of March summer time is not there yet.
        self.assertEqual(readings[0].at, datetime(2026, 2, 28, 23, 0, tzinfo=UTC))
        for reading in readings[:300:71]:
            meant = measured_emc(reading.temperature_c, reading.relative_humidity, self.place.rh_tolerance)
            self.assertAlmostEqual(reading.emc, meant.emc, places=12)
            self.assertAlmostEqual(reading.emc_tolerance, meant.tolerance, places=12)
        file.refresh_from_db()
        self.assertEqual((file.is_saved, file.count, bytes(file.content)), (True, 300, b""))
        self.assertEqual(Entry.objects.filter(what="logger_saved").count(), 1)

    def test_the_same_file_is_saved_once_and_of_one_that_goes_on_only_what_is_new(self):
        file, address = self.sent(rows())
        self.client.post(address, {"version": file.version})
        again = self.send(rows())
        self.assertContains(again, "nothing of it is new", status_code=422)
        longer, address = self.sent(rows(340))
        self.assertContains(self.client.get(address), "300 of its 340 readings are here already")
        self.client.post(address, {"version": longer.version})
        self.assertEqual(AirReading.objects.count(), 340)
        self.assertEqual(AirReading.objects.values("at").distinct().count(), 340)

    def test_pressed_twice_or_by_two_it_is_saved_once(self):
        file, address = self.sent(rows())
        other = LoggerFile.objects.get(pk=file.pk)
        logger_actions.save_readings(self.owner, file, file.version)
        with self.assertRaises(Refused):
            logger_actions.save_readings(self.owner, other, other.version)
        self.client.post(address, {"version": other.version})
        self.assertEqual(AirReading.objects.count(), 300)

    def test_struck_out_nothing_of_it_counts_and_put_back_all_of_it(self):
        begins = timezone.now().replace(tzinfo=None) - timedelta(days=10)
        file, address = self.sent(rows(200, begins))
        self.client.post(address, {"version": file.version})
        self.assertEqual(queries.levels(self.owner.workshop.pk)[self.place.pk].days, 9)
        file.refresh_from_db()
        answer = self.client.post(address, {"version": file.version, "strike": "1"}, follow=True)
        self.assertContains(answer, "200 readings struck out.")
        self.assertEqual(queries.levels(self.owner.workshop.pk), {})
        self.assertIsNone(queries.latest(self.place))
        refused = self.send(rows(200, begins))
        self.assertContains(refused, "can be put back below", status_code=422)
        file.refresh_from_db()
        self.client.post(address, {"version": file.version, "put_back": "1"})
        self.assertEqual(queries.levels(self.owner.workshop.pk)[self.place.pk].days, 9)

    def test_a_checked_hygrometer_corrects_each_reading_by_the_check_that_reaches_it(self):
        hygrometer = make_hygrometer(self.owner)
        checked = datetime(2026, 3, 6, tzinfo=UTC)
        HygrometerCheck.objects.create(
            workshop=self.owner.workshop,
            hygrometer=hygrometer,
            at=checked,
            by=self.owner.person,
            salt="nacl",
            temperature_c=20,
            waited_hours=24,
            shown=0.72,
            expected=0.755,
            offset=0.035,
        )
        hygrometer.offset, hygrometer.checked_at = 0.035, checked
        hygrometer.save()
        file, address = self.sent(rows(), hygrometer=hygrometer.pk, clock="utc")
        self.client.post(address, {"version": file.version})
        before, after = (AirReading.objects.get(at=datetime(2026, 3, day, 3, tzinfo=UTC)) for day in (2, 9))
        self.assertAlmostEqual(before.relative_humidity, before.shown_humidity)
        self.assertAlmostEqual(after.relative_humidity, after.shown_humidity + 0.035)
        self.assertLess(after.emc_tolerance, before.emc_tolerance)

    def test_what_the_file_leaves_open_can_be_said(self):
        text = "t;T;RH\n" + "\n".join(f"03.04.2026 {hour:02}:00;50,0;45,0" for hour in range(8))
        file, address = self.sent(text)
        page = self.client.get(address)
        self.assertContains(page, "could be read either way")
        self.assertContains(page, "whether its degrees are Celsius or Fahrenheit")
        self.client.post(address, {"version": file.version, "order": "mdy", "degrees": "F"})
        reading = AirReading.objects.earliest("at")
        self.assertEqual((timezone.localdate(reading.at).month, round(reading.temperature_c)), (3, 10))

    def test_readings_that_are_still_to_come_are_refused(self):
        file, address = self.sent(rows(10, timezone.now().replace(tzinfo=None) + timedelta(days=30)))
        answer = self.client.post(address, {"version": file.version}, follow=True)
        self.assertContains(answer, "which is still to come")
        self.assertEqual(AirReading.objects.count(), 0)

    def test_what_cannot_be_read_is_refused_beside_its_field_and_nothing_is_left(self):
        for text, why in (
            ("hello", "o line of it has a time"),
            (b"PK\x03\x04\x14\x00", "save it as CSV first"),
            (b"\x1f\x8b\x08\x00", "save it as CSV first"),
            (b"\x00\x01\x02", "not a text file"),
            ("Time;T;RH\n2026-01-01 10:00;900;45", "o line of it is a reading that air can have"),
        ):
            with self.subTest(why):
                self.assertContains(self.send(text), why, status_code=422)
        self.assertContains(self.client.post(self.page, {"clock": "local"}), "or paste its rows", status_code=422)
        self.assertContains(self.client.post(self.page, {"clock": "local", "pasted": "x"}), "o line of it", status_code=422)
        self.assertEqual(LoggerFile.objects.count(), 0)

    def test_save_nothing_forgets_it_and_old_ones_are_forgotten(self):
        file, address = self.sent(rows())
        self.client.post(address, {"forget": "1"})
        self.assertFalse(LoggerFile.objects.filter(pk=file.pk).exists())
        old, _ = self.sent(rows(50))
        LoggerFile.objects.filter(pk=old.pk).update(at=timezone.now() - timedelta(days=3))
        self.sent(rows(60))
        self.assertFalse(LoggerFile.objects.filter(pk=old.pk).exists())

    def test_its_faults_are_named_before_and_after(self):
        text = rows(400).split("\n")
        file, address = self.sent("\n".join([*text[:100], *text[150:], "2026-03-30 10:00;nothing;45"]))
        page = self.client.get(address)
        self.assertContains(page, "It recorded nothing for 2 days")
        self.assertContains(page, "1 line left out")
        self.client.post(address, {"version": file.version})
        self.assertContains(self.client.get(address), "It recorded nothing for 2 days")
        make_board(self.owner)
        today = reverse("today", args=[self.owner.workshop.slug])
        said = "From the logger’s file: It recorded nothing for 2 days"
        self.assertIn(said, text_of(self.client.get(today)))
        file.refresh_from_db()
        self.client.post(address, {"version": file.version, "strike": "1"})
        self.assertNotIn(said, text_of(self.client.get(today)))
        file.refresh_from_db()
        self.client.post(address, {"version": file.version, "put_back": "1"})
        LoggerFile.objects.update(at=timezone.now() - timedelta(days=4))
        self.assertNotIn(said, text_of(self.client.get(today)))

    def test_a_file_without_a_fault_stands_nowhere_on_today(self):
        file, address = self.sent(rows())
        self.client.post(address, {"version": file.version})
        make_board(self.owner)
        self.assertNotIn("logger’s file", text_of(self.client.get(reverse("today", args=[self.owner.workshop.slug]))))

    def test_what_is_not_saved_yet_is_not_struck_out(self):
        file, address = self.sent(rows())
        answer = self.client.post(address, {"version": file.version, "strike": "1"}, follow=True)
        self.assertContains(answer, "not saved yet")
        file.refresh_from_db()
        self.assertFalse(file.struck)

    def test_a_viewer_sends_none(self):
        self.client.force_login(make_member(self.owner, Role.VIEWER).person)
        self.assertEqual(self.send(rows()).status_code, 403)
