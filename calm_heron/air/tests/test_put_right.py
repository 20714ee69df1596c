"""Air that was mistyped, backdated, or read with an instrument that turned out wrong; what a room usually is."""

from concurrent.futures import ThreadPoolExecutor
from datetime import timedelta

from django.db import connection
from django.test import TestCase
from django.utils import timezone

from calm_heron.air import actions, queries
from calm_heron.air.models import AirReading
from calm_heron.logbook.models import Entry
from calm_heron.logbook.words import describe
from calm_heron.workshops.refusals import Refused
from tests.cases import Committing
from tests.factories import make_aired_place, make_hygrometer, make_owner, make_place, make_shop
from tests.pages import text_of


class AirCase(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.owner, cls.place, cls.meter, cls.board = make_shop()
        cls.shop = f"/w/{cls.owner.workshop.slug}/"
        cls.here = f"{cls.shop}air/{cls.place.pk}/"

    def setUp(self):
        self.client.force_login(self.owner.person)

    def newest(self):
        return queries.latest(self.place)

    def correct(self, reading=None, **form):
        reading = reading or self.newest()
        usual = {
            "temperature": "21",
            "humidity": "50",
            "hygrometer": "",
            "place": reading.place_id,
            "at": timezone.localdate(reading.at).isoformat(),
        }
        return self.client.post(f"{self.shop}air/{reading.place_id}/readings/{reading.pk}/", usual | form, follow=True)


class Correcting(AirCase):
    def test_a_mistyped_humidity_is_put_right_and_the_old_one_stays_to_be_seen(self):
        before = queries.level(self.place).emc
        actions.record_air(self.owner, self.place, 21.1, 0.95)
        wrong = self.newest()
        self.assertGreater(queries.level(self.place).emc, before + 5e-4)
        page = self.correct(humidity="50")
        self.assertContains(page, 'class="struck"')
        self.assertAlmostEqual(queries.level(self.place).emc, before, delta=1e-4)
        now = self.newest()
        self.assertEqual((now.supersedes, now.at), (wrong, wrong.at))
        self.assertIn("95% RH corrected to", describe(Entry.objects.latest("id"), self.owner.workshop.system))

    def test_a_mistake_is_taken_out_once(self):
        actions.record_air(self.owner, self.place, 21.1, 0.95)
        wrong = self.newest()
        address = f"{self.here}readings/{wrong.pk}/"
        self.assertContains(self.client.post(address, {"take_out": "1"}, follow=True), "Struck out.")
        self.assertNotEqual(self.newest(), wrong)
        self.assertContains(
            self.client.post(address, {"take_out": "1"}, follow=True), "Someone else has corrected this reading or taken it out"
        )
        self.assertContains(self.correct(wrong), "Someone else has corrected this reading", status_code=422)

    def test_the_day_and_the_place_can_be_put_right(self):
        hall = make_place(self.owner, name="Hall")
        reading = self.newest()
        long_ago = timezone.localdate() - timedelta(days=40)
        self.correct(reading, place=hall.pk, at=long_ago.isoformat())
        moved = queries.latest(hall)
        self.assertEqual((timezone.localdate(moved.at), moved.supersedes), (long_ago, reading))
        self.assertNotEqual(self.newest(), reading)

    def test_what_a_year_was_learnt_from_is_learnt_anew(self):
        for month in range(1, 12):
            actions.record_air(self.owner, self.place, 20, 0.50, at=timezone.now() - timedelta(days=30 * month))
        before = queries.known_year(self.place).mean
        self.correct(AirReading.objects.filter(place=self.place).order_by("at").first(), humidity="90")
        self.assertNotAlmostEqual(queries.known_year(self.place).mean, before, places=3)

    def test_nonsense_is_refused_beside_its_field_and_nothing_is_lost(self):
        reading = self.newest()
        for sent, field in (
            ({"humidity": "0"}, "humidity"),
            ({"temperature": "400"}, "temperature"),
            ({"place": "0"}, "place"),
            ({"at": "2199-01-01"}, "at"),
        ):
            answer = self.correct(reading, **sent)
            self.assertEqual((answer.status_code, list(answer.context["form"].errors)), (422, [field]))
        self.assertEqual(self.newest(), reading)

    def test_air_is_backdated_when_it_is_kept(self):
        day = timezone.localdate() - timedelta(days=9)
        self.client.post(self.here, {"temperature": "20", "humidity": "61", "at": day.isoformat()})
        reading = AirReading.objects.latest("id")
        self.assertEqual((timezone.localdate(reading.at), reading.relative_humidity), (day, 0.61))
        later = self.client.post(self.here, {"temperature": "20", "humidity": "61", "at": "2199-01-01"})
        self.assertContains(later, "in the future", status_code=422)


class Checked(AirCase):
    @classmethod
    def setUpTestData(cls):
        super().setUpTestData()
        cls.dial = make_hygrometer(cls.owner, name="Brass dial", rh_tolerance=0.05)
        for days in (40, 10, 1):
            actions.record_air(cls.owner, cls.place, 21.0, 0.60, at=timezone.now() - timedelta(days=days), hygrometer=cls.dial)

    def check(self, since=""):
        form = {"salt": "NaCl", "temperature": "21 C", "waited_hours": "10", "shown": "83", "since": since}
        return self.client.post(f"{self.shop}air/hygrometers/{self.dial.pk}/check/", form)

    def shown(self) -> list[float]:
        rows = AirReading.objects.standing().filter(hygrometer=self.dial).order_by("at")
        return [round(row.relative_humidity, 2) for row in rows]

    def test_its_offset_counts_for_what_it_showed_since_it_was_off(self):
        self.assertEqual(self.check((timezone.localdate() - timedelta(days=20)).isoformat()).status_code, 302)
        self.assertEqual(self.shown(), [0.6, 0.52, 0.52])
        self.assertIn("2 of its readings entered anew", describe(Entry.objects.latest("id"), self.owner.workshop.system))
        self.assertAlmostEqual(queries.latest(self.place).shown_humidity or 0.6, 0.6)

    def test_where_nobody_says_since_when_it_counts_from_now_on(self):
        self.check()
        self.assertEqual(self.shown(), [0.6, 0.6, 0.6])
        self.dial.refresh_from_db()
        actions.record_air(self.owner, self.place, 21.0, 0.60, hygrometer=self.dial)
        self.assertEqual(self.shown()[-1], 0.52)

    def test_a_check_does_not_reach_back_further_than_was_told(self):
        def days_ago(days):
            return timezone.now() - timedelta(days=days)

        self.check((timezone.localdate() - timedelta(days=20)).isoformat())
        self.dial.refresh_from_db()
        for days, adds in ((40, 0.0), (19, -0.08), (0, -0.08)):
            self.assertAlmostEqual(self.dial.at(days_ago(days))[0], adds, delta=0.005, msg=days)
        # Good to what its leaflet says before, and to what a salt is good to just now.
        self.assertEqual(self.dial.at(days_ago(40))[1], 0.05)
        self.assertAlmostEqual(self.dial.at()[1], 0.015, places=4)
        # Typed in today of a day before that, and a mistyped temperature of it put right: both as it showed them.
        made = actions.record_air(self.owner, self.place, 21.0, 0.58, at=days_ago(30), hygrometer=self.dial)
        self.assertEqual(made.relative_humidity, 0.58)
        self.correct(made, temperature="19", humidity="58", hygrometer=self.dial.pk)
        self.assertEqual(self.shown(), [0.6, 0.58, 0.52, 0.52])

    def test_a_reading_put_right_keeps_the_check_of_its_own_day(self):
        self.check()
        self.dial.refresh_from_db()
        actions.record_air(self.owner, self.place, 21.0, 0.60, hygrometer=self.dial)
        kept = self.newest()
        actions.check_hygrometer(self.owner, self.dial, "NaCl", 21.0, 10.0, 0.70)
        self.correct(kept, temperature="20", humidity="61", hygrometer=self.dial.pk)
        self.assertEqual(self.shown()[-1], 0.53)

    def test_two_alike_that_disagree_are_told_apart_by_what_the_room_usually_is(self):
        grey = make_hygrometer(self.owner, name="Grey", rh_tolerance=0.05)
        actions.record_air(self.owner, self.place, 21.0, 0.36, hygrometer=grey)
        actions.record_air(self.owner, self.place, 21.0, 0.50, hygrometer=self.dial)
        self.assertIn("neither is better", text_of(self.client.get(self.here)))
        form = {"name": "Bench room", "kind": "room", "rh_tolerance": "3", "usual_humidity": "35", "version": self.place.version}
        self.client.post(f"{self.here}change/", form)
        page = text_of(self.client.get(self.here))
        self.assertIn("trust Grey, which is nearer to what this room usually is", page)


class TwoAtOnce(Committing):
    def test_a_reading_is_corrected_or_taken_out_and_never_both(self):
        owner = make_owner()
        place = make_aired_place(owner, days=1)
        reading = queries.latest(place)

        def act(how):
            try:
                how()
                return "done"
            except Refused:
                return "refused"
            finally:
                connection.close()

        ways = [
            lambda: actions.strike_air(owner, reading),
            lambda: actions.correct_air(owner, reading, place, 20.0, 0.4, None, reading.at),
        ] * 3
        with ThreadPoolExecutor(6) as pool:
            results = list(pool.map(act, ways))
        self.assertEqual(results.count("done"), 1)
        self.assertEqual(AirReading.objects.filter(supersedes=reading).count(), 1)
