"""Places and their air: what is kept, the level, and bad input beside its field."""

from datetime import timedelta

from django.db import DatabaseError, transaction
from django.test import TestCase
from django.utils import timezone

from calm_heron.air import queries
from calm_heron.air.actions import change_place, record_air
from calm_heron.air.drawings import NARROW, air_chart
from calm_heron.air.kinds import PlaceKind
from calm_heron.air.models import AirReading, Place
from calm_heron.workshops.refusals import Refused
from tests.counting import query_count
from tests.factories import make_aired_place, make_owner, make_place
from wood.air import sorption
from wood.units import INCH, METRIC


class AirCase(TestCase):
    units = "metric"

    @classmethod
    def setUpTestData(cls):
        cls.owner = make_owner(units=cls.units)
        cls.place = make_place(cls.owner, kind=PlaceKind.ROOM, rh_tolerance=0.03)
        cls.address = f"/w/{cls.owner.workshop.slug}/air/{cls.place.pk}/"

    def setUp(self):
        self.client.force_login(self.owner.person)

    def send(self, temperature, humidity, **more):
        return self.client.post(self.address, {"temperature": temperature, "humidity": humidity, **more})


class Reading(AirCase):
    def test_a_reading_is_kept_with_its_emc_and_what_the_hygrometer_leaves_open(self):
        self.assertEqual(self.send("21.1", "50").status_code, 302)
        reading = AirReading.objects.get()
        self.assertAlmostEqual(reading.emc, 0.092, delta=0.0005)
        self.assertAlmostEqual(reading.emc_tolerance, 0.0048, delta=0.0003)
        self.assertContains(self.client.get(self.address), "9.2")

    def test_humidity_that_cannot_be_is_refused_beside_its_field_and_nothing_typed_is_lost(self):
        for humidity, words in (
            ("0", "is out of range"),
            ("100", "end stop"),
            ("140", "is out of range"),
            ("dry", "is not a number"),
        ):
            with self.subTest(humidity):
                answer = self.send("20.5", humidity)
                self.assertContains(answer, words, status_code=422)
                self.assertContains(answer, 'value="20.5"', status_code=422)
                self.assertContains(answer, f'value="{humidity}"', status_code=422)
                self.assertIn("humidity", answer.context["form"].errors)
        self.assertEqual(AirReading.objects.count(), 0)

    def test_empty_fields_are_asked_for(self):
        self.assertEqual(set(self.send("", "").context["form"].errors), {"temperature", "humidity"})

    def test_a_temperature_in_the_other_unit_is_asked_back_unless_its_unit_is_written(self):
        answer = self.send("68", "50")
        self.assertContains(answer, "if you mean °F write “68 F”", status_code=422)
        self.assertEqual(self.send("68 F", "50").status_code, 302)
        self.assertAlmostEqual(AirReading.objects.get().temperature_c, 20)

    def test_absurd_temperatures_name_the_range(self):
        for temperature in ("900", "-90 C", "1e9", "hot"):
            self.assertEqual(set(self.send(temperature, "50").context["form"].errors), {"temperature"})

    def test_the_same_form_sent_twice_is_kept_once(self):
        for _ in range(2):
            self.assertEqual(self.send("20", "50", once="same-token").status_code, 302)
        self.assertEqual(AirReading.objects.count(), 1)

    def test_rows_are_added_never_changed(self):
        reading = record_air(self.owner, self.place, 20, 0.5)
        for change in (lambda: AirReading.objects.update(emc=0.2), lambda: AirReading.objects.filter(pk=reading.pk).delete()):
            with self.assertRaises(DatabaseError), transaction.atomic():
                change()
        self.assertEqual(AirReading.objects.count(), 1)


class Fahrenheit(AirCase):
    units = "inch"

    def test_celsius_typed_in_a_fahrenheit_workshop_is_asked_back(self):
        self.assertContains(self.send("21", "50"), "if you mean °C write “21 C”", status_code=422)
        self.assertEqual(self.send("70", "50").status_code, 302)
        self.assertAlmostEqual(AirReading.objects.get().temperature_c, 21.11, places=2)
        self.assertContains(self.client.get(self.address), "70°F")


class Levels(AirCase):
    def test_damp_hours_count_as_much_as_dry_ones_of_one_temperature(self):
        """What an instrument leaves open of an EMC grows with the humidity: that makes no reading of it worth less than another."""
        place = make_place(self.owner, rh_tolerance=0.03)
        day = timezone.now().replace(hour=1, minute=0)
        for hour, humidity in ((0, 0.35), (8, 0.95)):
            record_air(self.owner, place, 20.0, humidity, at=day - timedelta(days=3) + timedelta(hours=hour))
        self.assertAlmostEqual(queries.level(place).emc, float(sorption.emc(20.0, 0.65)), places=4)

    def test_the_level_is_the_mean_of_recent_days_each_counting_once(self):
        # Yesterday at noon: ten minutes that all lie in one day, at whatever hour this runs.
        now = timezone.localtime().replace(hour=12, minute=0) - timedelta(days=1)
        for hour in range(10):
            record_air(self.owner, self.place, 21.1, 0.65, at=now - timedelta(minutes=hour))
        record_air(self.owner, self.place, 21.1, 0.35, at=now - timedelta(days=3))
        level = queries.level(self.place)
        first, second = (AirReading.objects.order_by("-emc").first().emc, AirReading.objects.order_by("emc").first().emc)
        self.assertAlmostEqual(level.emc, (first + second) / 2, places=6)
        self.assertEqual(level.days, 2)

    def test_old_air_is_marked_stale_and_very_old_air_says_nothing(self):
        record_air(self.owner, self.place, 20, 0.5, at=timezone.now() - timedelta(days=60))
        self.assertTrue(queries.level(self.place).stale)
        other = make_place(self.owner)
        record_air(self.owner, other, 20, 0.5, at=timezone.now() - timedelta(days=200))
        self.assertIsNone(queries.level(other))

    def test_the_list_of_places_asks_the_same_number_of_queries_for_one_and_for_many(self):
        make_aired_place(self.owner)
        first = query_count(self.client, f"/w/{self.owner.workshop.slug}/air/")
        for _ in range(4):
            make_aired_place(self.owner)
        self.assertEqual(query_count(self.client, f"/w/{self.owner.workshop.slug}/air/"), first)


class Changing(AirCase):
    def test_names_differ_within_a_workshop(self):
        taken = make_place(self.owner, name="Loft")
        address = f"/w/{self.owner.workshop.slug}/air/new/"
        answer = self.client.post(address, {"name": taken.name, "kind": "room", "rh_tolerance": "3"})
        self.assertContains(answer, "called Loft already", status_code=422)
        self.assertEqual(self.client.post(address, {"name": "Attic", "kind": "cave", "rh_tolerance": "300"}).status_code, 422)

    def test_two_people_changing_one_place_do_not_overwrite_each_other_unseen(self):
        first, second = Place.objects.get(pk=self.place.pk), Place.objects.get(pk=self.place.pk)
        change_place(self.owner, first, first.version, name="North room", kind="room", rh_tolerance=0.03)
        with self.assertRaises(Refused):
            change_place(self.owner, second, second.version, name="South room", kind="room", rh_tolerance=0.03)
        answer = self.client.post(f"{self.address}change/", {"name": "South room", "kind": "room", "rh_tolerance": "3", "version": 1})
        self.assertContains(answer, "Someone else has changed ", status_code=422)
        self.assertContains(answer, "South room", status_code=422)
        # Kept again, knowingly, it goes through.
        again = self.client.post(f"{self.address}change/", {"name": "South room", "kind": "room", "rh_tolerance": "3", "version": 2})
        self.assertEqual(again.status_code, 302)


class Chart(TestCase):
    def test_points_lie_on_the_contour_of_their_emc(self):
        chart = air_chart([("A", 21.1, 0.42)], METRIC)
        self.assertEqual(chart.points[0].emc, "8.0")
        line = next(contour for contour in chart.contours if contour.label == "8%")
        heights = [float(pair.split()[1]) for pair in line.path[1:].split("L")]
        self.assertLess(min(heights) - 3, chart.points[0].y)
        self.assertGreater(max(heights) + 3, chart.points[0].y)

    def test_frost_heat_and_nothing_at_all_can_be_drawn(self):
        for places in ([], [("Kiln", 80.0, 0.2)], [("Yard", -25.0, 0.99)]):
            for system in (METRIC, INCH):
                chart = air_chart(places, system, [(5.0, 0.02)], NARROW)
                self.assertTrue(chart.temperature_ticks)
                for point in chart.points:
                    self.assertTrue(chart.left <= point.x <= chart.right)
                    self.assertTrue(chart.top <= point.y <= chart.bottom)
