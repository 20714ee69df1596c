"""What is entered at the bench and on the site: lines without a tag, conditions in the line, a meter's own scale, a reference of the
day.
"""

from datetime import timedelta
from unittest import mock

from django.test import TestCase
from django.urls import reverse
from django.utils import timezone

from calm_heron.measuring import actions, instruments, strip
from calm_heron.measuring.actions import Taken
from calm_heron.measuring.models import Meter, Reading
from tests.factories import make_board, make_meter, make_owner, read_board
from tests.pages import text_of


class Lines(TestCase):
    def test_a_number_that_lost_its_point_is_asked_about_before_it_is_kept(self):
        for text in ("ash-05 11.4 112 11.6", "112 11.4", "ash-05 9.1 9.0 core 96"):
            self.assertRegex(strip.read(text)[0].error, r"beside the others: [\d.]+\? If \d+ is meant, write \d+!")
        self.assertEqual([reading.raw for reading in strip.read("log-1 11.4 112! 11.6")[0].readings], [0.114, 1.12, 0.116])
        for text in ("log-1 31 76 80", "log-1 112", "ash-05 5.5 60", "log-2 95 96 12"):
            self.assertEqual(strip.read(text)[0].error, "", text)

    def test_a_tag_may_be_followed_by_a_comma_and_a_line_may_have_none(self):
        self.assertEqual((strip.read("ash-05, 11.2")[0].tag, strip.read("ash-05: 11.2")[0].tag), ("ash-05", "ash-05"))
        untagged = strip.read("11.2 11,8 core 14")[0]
        self.assertEqual((untagged.tag, [reading.raw for reading in untagged.readings]), ("", [0.112, 0.118, 0.14]))

    def test_conditions_are_said_in_the_line(self):
        def conditions(text):
            return [str(reading.condition) for reading in strip.read(text)[0].readings]

        self.assertEqual(conditions("ash-1 11 weathered 12 13 planed 14"), ["", "weathered", "weathered", ""])
        self.assertEqual(conditions("ash-1 11 12 nails"), ["metal", "metal"])
        self.assertEqual(conditions("ash-1 fresh core 14"), ["fresh"])
        self.assertTrue(strip.read("ash-1 11 frosty")[0].frosty)
        self.assertEqual(strip.read("ash-1 frosty 11")[0].wood_temperature_c, strip.FROSTY_C)


class AtTheBench(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.owner = make_owner()
        cls.meter = make_meter(cls.owner)
        cls.board = make_board(cls.owner)

    def setUp(self):
        self.client.force_login(self.owner.person)

    def at(self, name, *args):
        return reverse(name, args=[self.owner.workshop.slug, *args])


class Bench(AtTheBench):
    def test_numbers_without_a_tag_are_asked_back_with_what_they_may_be(self):
        read_board(self.owner, self.board, 11, meter=self.meter)
        page = self.client.get(self.at("read_preview"), {"strip": "11.2 11.8", "meter": self.meter.pk})
        self.assertContains(page, "Which piece is this?")
        self.assertContains(page, f"strip={self.board.tag}%2011.2%2011.8")
        self.assertContains(page, self.at("ask_wood"))
        sent = self.client.post(self.at("read"), {"strip": "11.2 11.8", "meter": self.meter.pk, "once": "a"})
        self.assertContains(sent, self.board.tag, status_code=422)
        self.assertEqual(Reading.objects.count(), 1)

    def test_frost_said_in_the_line_corrects_for_cold_wood(self):
        plain = make_meter(self.owner, species_set_on_meter=False, temperature_set_on_meter=False)
        for text, once in ((f"{self.board.tag} 12", "a"), (f"{self.board.tag} 12 frosty", "b")):
            self.client.post(self.at("read"), {"strip": text, "meter": plain.pk, "once": once})
        warm, cold = Reading.objects.order_by("id")
        self.assertGreater(cold.moisture, warm.moisture + 0.01)
        self.assertIn("frost", cold.warnings)

    def test_a_pinless_meter_is_entered_with_its_own_scale(self):
        sent = {
            "name": "Grey pad",
            "kind": "pinless",
            "own_scale": "20 = 0.35\n60 = 0.60\n40 = 0.45",
            "own_setting": "50",
            "depth_m": "20 mm",
        }
        self.client.post(self.at("new_meter"), {**sent, "once": "m"})
        made = Meter.objects.get(name="Grey pad")
        self.assertAlmostEqual(made.density_setting, 0.525)
        self.assertEqual(made.setting, 50)
        self.assertContains(self.client.get(self.at("change_meter", made.pk)), "40 = 0.45")
        for wrong, words in (
            ({"own_scale": "20 = 0.35"}, "one setting is no scale"),
            ({"own_scale": "20 = 0.5\n40 = 0.4"}, "must rise together"),
            ({"own_scale": "a lot"}, "is no setting with its specific gravity"),
            ({"own_scale": "20 = 35\n30 = 40"}, "no specific gravity"),
            ({"own_setting": "99"}, "runs from 20 to 60"),
            ({"own_scale": ""}, "Copy the meter"),
        ):
            with self.subTest(words):
                answer = self.client.post(self.at("new_meter"), {**sent, "name": "Another", **wrong, "once": words})
                self.assertEqual(answer.status_code, 422)
                self.assertIn(words.lower(), text_of(answer).lower())

    def test_readings_of_a_day_are_taken_against_what_was_read_first(self):
        instruments.check_meter(self.owner, self.meter, "the bench", 0.10, 0.12, day_only=True)
        self.meter.refresh_from_db()
        self.assertEqual((self.meter.offset, round(self.meter.day_offset, 4)), (0.0, -0.02))
        read_board(self.owner, self.board, 12, meter=self.meter)
        today = Reading.objects.get()
        self.assertAlmostEqual(today.moisture, 0.10, places=3)
        self.assertTrue(any(step["kind"] == "check_adds" for step in today.steps))
        corrected = actions.correct(self.board, self.meter, Taken(0.12), 20.0, self.meter.as_set(timezone.now() - timedelta(days=1)))
        self.assertAlmostEqual(corrected.moisture, 0.12, places=3)
        with mock.patch("django.utils.timezone.now", return_value=timezone.now() + timedelta(days=1)):
            self.assertAlmostEqual(actions.correct(self.board, self.meter, Taken(0.12), 20.0).moisture, 0.12, places=3)

    def test_the_check_page_takes_a_reference_by_its_name(self):
        sent = {"expected": "10", "shown": "11", "reference": "the oak by the door", "day_only": "on", "once": "c"}
        self.client.post(self.at("check_meter", self.meter.pk), sent)
        self.assertContains(self.client.get(self.at("check_meter", self.meter.pk)), "the oak by the door")
        self.assertContains(self.client.get(self.at("log")), "the day’s readings are compared with it")
