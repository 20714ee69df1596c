"""Asking without keeping: the answers, what is refused, who may ask how often, and what is kept when it is wanted."""

import re
from threading import Event, Thread
from time import monotonic, sleep
from unittest import mock

from django.test import TestCase
from django.urls import reverse

from calm_heron.air.models import AirReading
from calm_heron.measuring.models import Reading
from calm_heron.questions.tools import TOOLS
from calm_heron.stock.models import Piece
from calm_heron.workshops import limits
from tests import factories
from wood.air import sorption


class Asking(TestCase):
    def setUp(self):
        limits.forget()

    def ask(self, name, status=200, **question):
        answer = self.client.get(reverse(f"anybody_{name}"), {"units": "metric", **question})
        self.assertEqual(answer.status_code, status)
        return answer

    def text(self, answer):
        return re.sub(r"\s+", " ", re.sub(r"<[^>]+>", " ", answer.content.decode())).replace("\u00a0", " ")


class Strangers(Asking):
    def test_the_front_page_leads_to_every_question(self):
        page = self.client.get("/")
        for name in ("air", "wood", "movement", "drying"):
            self.assertContains(page, reverse(f"anybody_{name}"))
            self.assertEqual(self.client.get(reverse(f"anybody_{name}")).status_code, 200)

    def test_the_air_has_its_emc_as_the_core_has_it(self):
        said = self.text(self.ask("air", temperature="20", humidity="55", wish="9"))
        self.assertIn(f"{float(sorption.emc(20, 0.55)) * 100:.1f} ±", said)
        held = float(sorption.relative_humidity_for(20, 0.09)) * 100
        self.assertRegex(said, rf"hold wood at 9%, keep this air at {held:.0f}%")

    def test_a_wish_that_no_air_holds_is_told(self):
        self.assertIn("No air at this temperature", self.text(self.ask("air", temperature="105 C", humidity="30", wish="25")))

    def test_wood_at_the_rack_is_advised_and_the_odd_board_named(self):
        said = self.text(self.ask("wood", readings="11.2 11.8 12.1 16.4 11.5", thickness_m="27", species_key="walnut"))
        self.assertIn("Take it:", said)
        self.assertIn("The 4th reading, 16.4%,", said)
        self.assertIn("American black walnut", said)
        self.assertIn("For framing it is dry enough", said)

    def test_not_knowing_the_species_is_answered_with_both_ends(self):
        said = self.text(self.ask("wood", readings="13 13.5 12.8", thickness_m="27", species_key="don't know"))
        self.assertIn("white oak", said)

    def test_thicker_wood_takes_longer_and_home_air_counts(self):
        def days(**more):
            result = self.ask("wood", readings="14 14.2 13.8", species_key="red oak", **{"thickness_m": "25", **more}).context["worked"]
            return result.advised.days[1]

        self.assertLess(days(), days(thickness_m="35"))
        self.assertLess(days(home="cool"), days())
        typed = self.ask("wood", readings="14 14.2", home="typed", temperature="20", humidity="45")
        self.assertIn(f"the {float(sorption.emc(20, 0.45)) * 100:.1f}% of that air", self.text(typed))

    def test_air_of_a_home_that_is_not_typed_yet_is_asked_for(self):
        self.assertIn("Type the temperature and humidity", self.text(self.ask("wood", readings="12", home="typed")))

    def test_movement_is_that_of_the_geometry(self):
        page = self.ask("movement", species_key="red oak", width_m="200", from_moisture="12", to_moisture="8", grain="90")
        flat = self.ask("movement", species_key="red oak", width_m="200", from_moisture="12", to_moisture="8", grain="0")
        quarter, flat = page.context["worked"].width_change_m, flat.context["worked"].width_change_m
        # Red oak: 4.0% radially and 8.6% tangentially from 30% to 0.
        self.assertAlmostEqual(quarter, -0.2 * 0.04 * 4 / 30, delta=1.5e-4)
        self.assertAlmostEqual(flat, -0.2 * 0.086 * 4 / 30, delta=3e-4)

    def test_nothing_that_shows_is_never_plus_or_minus_nothing(self):
        said = self.text(self.ask("movement", species_key="red oak", width_m="20", from_moisture="8", to_moisture="8"))
        self.assertIn("No change", said)
        said = self.text(self.ask("movement", species_key="red oak", width_m="30", from_moisture="9", to_moisture="8"))
        self.assertNotRegex(said, r"± 0 mm")

    def test_drying_is_answered_where_wood_and_thickness_are_said(self):
        self.assertIn("Say which wood", self.text(self.ask("drying")))
        page = self.ask("drying", species_key="hard maple", thickness_m="27")
        self.assertGreater(page.context["worked"].days, 20)
        self.assertContains(page, "What may go wrong")

    def test_what_cannot_be_read_is_said_beside_its_field_and_stays_typed(self):
        for name, question, words in (
            ("air", {"temperature": "65", "humidity": "20"}, "wrong way round"),
            ("air", {"temperature": "warm", "humidity": "20"}, "is not a temperature"),
            ("air", {"temperature": "20", "humidity": "140"}, "is out of range"),
            ("wood", {"readings": "11 soaking"}, "is not a number"),
            ("wood", {"readings": "ash-07 11"}, "is not a number"),
            ("wood", {"readings": "900"}, "more than any meter shows"),
            ("wood", {"readings": " ".join(["11"] * 100)}, "ore than 60 readings"),
            ("wood", {"readings": "11", "species_key": "unobtainium"}, "No species is called"),
            ("wood", {"readings": "11", "thickness_m": "thick"}, "is not a size"),
            ("movement", {"species_key": "oak", "width_m": "1"}, "is out of range"),
            ("drying", {"species_key": "ash", "thickness_m": "-4"}, "is out of range"),
        ):
            with self.subTest(words):
                page = self.ask(name, **question)
                self.assertContains(page, words, msg_prefix=str(question))
                for value in question.values():
                    self.assertContains(page, value.replace("'", "&#x27;"))
                alone = self.ask(name, fragment="answer", **question)
                self.assertContains(alone, words)

    def test_decimal_commas_and_meters_that_nobody_knows(self):
        said = self.text(self.ask("wood", readings="11,2 11,8; 12,1"))
        for number in ("11.2 →", "11.8 →", "12.1 →"):
            self.assertIn(number, said)
        self.assertContains(self.ask("wood", readings="11", meter="laser"), "laser is not one of the available choices")

    def test_hostile_addresses_are_answered_calmly(self):
        for name in ("air", "wood", "movement", "drying", "species"):
            for value in ("<script>", "9" * 3000, "\u202e", "'; drop table", "nan", "inf", "-0"):
                with self.subTest(name=name, value=value[:8]):
                    fields = ("temperature", "humidity", "readings", "species_key", "thickness_m", "width_m", "from_moisture")
                    limits.forget()
                    page = self.ask(name, **dict.fromkeys(fields, value))
                    self.assertNotContains(page, "<script>")

    def test_units_go_by_the_browser_until_somebody_chooses(self):
        there = self.client.get(reverse("anybody_air"), headers={"Accept-Language": "en-US,en;q=0.9"})
        self.assertContains(there, "Temperature, °F")
        self.assertContains(self.client.get(reverse("anybody_air"), headers={"Accept-Language": "en-GB"}), "Temperature, °C")
        self.ask("air", units="inch")
        self.assertContains(self.client.get(reverse("anybody_air")), "Temperature, °F")

    def test_a_flood_of_questions_is_held_back_and_members_are_not(self):
        with mock.patch.object(limits, "A_SECOND", 0.0):
            for _ in range(int(limits.AT_ONCE)):
                self.ask("air")
            answer = self.ask("air", status=429)
        self.assertEqual(answer["Retry-After"], "2")
        membership = factories.make_owner()
        self.client.force_login(membership.person)
        for _ in range(5):
            self.assertEqual(self.client.get(reverse("ask_air", args=[membership.workshop.slug])).status_code, 200)

    def test_one_stranger_at_a_time_has_much_worked_out(self):
        with mock.patch.object(limits, "WAITS_S", 0.05), limits.turn(heavy=True):
            self.ask("wood", status=503, readings="11")
            self.ask("air", status=200)

    def test_strangers_who_wait_leave_threads_to_members(self):
        begun, go_on, answers = Event(), Event(), []

        def waits():
            with limits.turn(heavy=True) as mine:
                answers.append(mine)
                begun.set()
                go_on.wait(10)

        with mock.patch.object(limits, "WAITS_S", 5.0):
            first = Thread(target=waits)
            first.start()
            begun.wait(10)
            second = Thread(target=waits)
            second.start()
            while limits._inside.acquire(blocking=False):
                limits._inside.release()
                sleep(0.01)
            # A third is sent away at once, and does not hold a thread for seconds.
            before = monotonic()
            self.ask("wood", status=503, readings="11")
            self.assertLess(monotonic() - before, 1.0)
            go_on.set()
            first.join()
            second.join()
        self.assertEqual(answers, [True, True])
        self.ask("wood", status=200, readings="11")

    def test_nearly_all_questions_are_worked_out_for_one_stranger_at_a_time(self):
        light = {tool.key for tool in TOOLS if tool.outside and not tool.heavy}
        self.assertEqual(light, {"air"})

    def test_what_was_asked_comes_along_to_a_workshop_of_ones_own(self):
        first = self.client.get(reverse("carry_on", args=["wood"]), {"readings": "11 12", "fragment": "ask"})
        self.assertIn(reverse("account_signup"), first["Location"])
        membership = factories.make_owner()
        self.client.force_login(membership.person)
        there = self.client.get(reverse("carry_on", args=["wood"]), {"readings": "11 12"})
        self.assertEqual(there["Location"], reverse("ask_wood", args=[membership.workshop.slug]) + "?readings=11+12")
        self.client.force_login(factories.make_person())
        founding = self.client.get(reverse("carry_on", args=["wood"]), {"readings": "11 12"})["Location"]
        self.assertTrue(founding.startswith(reverse("found_workshop") + "?next="))
        led = self.client.post(founding, {"name": "Mine", "units": "metric"})
        self.assertTrue(led["Location"].startswith(reverse("carry_on", args=["wood"])))

    def test_founding_leads_nowhere_else(self):
        self.client.force_login(factories.make_person())
        led = self.client.post(reverse("found_workshop") + "?next=//elsewhere.example/", {"name": "Mine", "units": "metric"})
        self.assertRegex(led["Location"], r"^/w/")


class Members(Asking):
    @classmethod
    def setUpTestData(cls):
        super().setUpTestData()
        cls.membership = factories.make_owner()
        cls.slug = cls.membership.workshop.slug

    def setUp(self):
        super().setUp()
        self.client.force_login(self.membership.person)

    def test_the_screens_know_the_places_and_meters_and_keep_the_air(self):
        place = factories.make_place(self.membership, name="Loft")
        page = self.client.get(reverse("ask_air", args=[self.slug]), {"temperature": "20", "humidity": "50"})
        self.assertContains(page, "Loft")
        form = dict(re.findall(r'name="(once|temperature|humidity)" value="([^"]*)"', page.content.decode()))
        self.client.post(reverse("place", args=[self.slug, place.pk]), form)
        reading = AirReading.objects.get()
        self.assertEqual((reading.temperature_c, reading.relative_humidity), (20, 0.5))

    def test_wood_is_kept_as_a_piece_with_its_readings_once(self):
        meter = factories.make_meter(self.membership)
        question = {"readings": "11.2 core 13", "species_key": "red oak", "thickness_m": "27", "meter": f"meter-{meter.pk}", "once": "abc"}
        for _ in range(2):
            answer = self.client.post(reverse("ask_keep_wood", args=[self.slug]), question)
        piece = Piece.objects.get()
        self.assertEqual(answer["Location"], reverse("change_piece", args=[self.slug, piece.tag]))
        self.assertEqual((piece.species_key, round(piece.thickness_m, 4)), ("northern_red_oak", 0.027))
        self.assertEqual([(reading.raw, reading.layer) for reading in Reading.objects.order_by("id")], [(0.112, ""), (0.13, "core")])

    def test_what_cannot_be_kept_says_so_and_keeps_what_was_typed(self):
        for question in ({"readings": "11"}, {"readings": "11", "species_key": "ash", "meter": "any"}, {"species_key": "ash"}):
            answer = self.client.post(reverse("ask_keep_wood", args=[self.slug]), question, follow=True)
            self.assertContains(answer, "Nothing was saved")
            for value in question.values():
                self.assertContains(answer, value)
        self.assertEqual(Piece.objects.count(), 0)

    def test_a_home_of_the_workshop_whose_air_is_not_known_says_so(self):
        place = factories.make_place(self.membership)
        page = self.client.get(reverse("ask_wood", args=[self.slug]), {"readings": "11", "home": f"place-{place.pk}"})
        self.assertContains(page, "been read lately")

    def test_what_was_asked_fills_the_form_of_a_piece(self):
        page = self.client.get(reverse("new_piece", args=[self.slug]), {"species_key": "red oak", "thickness_m": "2x4", "width_m": "150"})
        self.assertContains(page, 'value="red oak"')
