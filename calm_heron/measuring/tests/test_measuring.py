"""Recording: raw and corrected kept apart, warnings, the strip, weighing, mistakes taken out, nothing half-kept."""

from concurrent.futures import ThreadPoolExecutor
from datetime import timedelta

from django.db import DatabaseError, connection, transaction
from django.test import Client, TestCase
from django.utils import timezone

from calm_heron.logbook.models import Entry
from calm_heron.logbook.words import describe
from calm_heron.measuring import actions, instruments, queries, strip
from calm_heron.measuring.actions import Taken
from calm_heron.measuring.drawings import NARROW, board_map
from calm_heron.measuring.kinds import MeterKind
from calm_heron.measuring.models import Meter, PieceMoisture, Reading
from calm_heron.workshops.refusals import Refused
from tests.cases import Committing
from tests.factories import make_aired_place, make_board, make_meter, make_shop, read_board
from wood.measuring.meters import correct_pin
from wood.units import METRIC


class ShopCase(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.owner, cls.place, cls.meter, cls.board = make_shop()
        cls.shop = f"/w/{cls.owner.workshop.slug}/"

    def setUp(self):
        self.client.force_login(self.owner.person)

    def send_strip(self, text, **more):
        return self.client.post(f"{self.shop}read/", {"strip": text, "meter": self.meter.pk, **more})


class Recording(ShopCase):
    def test_raw_corrected_doubt_working_and_version_are_kept_together(self):
        meter = make_meter(self.owner, species_set_on_meter=False, temperature_set_on_meter=False, tolerance=0.01)
        actions.record_readings(self.owner, self.board, meter, [Taken(0.12, "", 0.5, 0.5)], 10.0)
        saved, expected = Reading.objects.get(), correct_pin(0.12, self.board.species, 10.0, 0.01)
        self.assertEqual((saved.raw, saved.moisture, saved.uncertainty), (0.12, expected.moisture, expected.uncertainty))
        self.assertEqual(len(saved.steps), 3)
        self.assertEqual(saved.rule, expected.rule)
        self.assertIn("12 read", describe(Entry.objects.latest("id"), METRIC))

    def test_wood_is_taken_to_be_as_warm_as_the_air_where_it_lies(self):
        cold = make_aired_place(self.owner, temperature_c=4, relative_humidity=0.7)
        lying = make_board(self.owner, place=cold)
        temperatures = queries.wood_temperatures(self.owner.workshop)
        self.assertEqual(queries.wood_temperature(lying, temperatures), (4.0, f"air in {cold.name}"))
        self.assertEqual(queries.wood_temperature(self.board, temperatures)[0], queries.USUAL_WOOD_TEMPERATURE_C)

    def test_the_newest_sitting_speaks_for_the_board(self):
        read_board(self.owner, self.board, 20, 21, at=timezone.now() - timedelta(days=30))
        read_board(self.owner, self.board, 10, 10.4)
        moisture = PieceMoisture.objects.get(piece=self.board)
        self.assertAlmostEqual(moisture.mean, 0.102)
        self.assertEqual(moisture.count, 2)

    def test_readings_near_an_end_are_marked_and_left_out(self):
        actions.record_readings(self.owner, self.board, self.meter, [Taken(0.07, "", 0.05, 0.5), Taken(0.10, "", 0.5, 0.5)], 20)
        self.assertEqual([reading.near_end for reading in Reading.objects.order_by("id")], [True, False])
        self.assertAlmostEqual(PieceMoisture.objects.get().mean, 0.10)
        self.assertContains(self.client.get(f"{self.shop}stock/{self.board.tag}/"), "where wood dries first")

    def test_a_pinless_meter_on_a_board_thinner_than_its_depth_warns_and_does_not_count(self):
        thin = make_board(self.owner, thickness_m=0.012)
        pinless = make_meter(self.owner, kind=MeterKind.PINLESS, density_setting=0.5, depth_m=0.02)
        read_board(self.owner, thin, 9, meter=pinless)
        self.assertFalse(Reading.objects.get().counts)
        self.assertFalse(PieceMoisture.objects.filter(piece=thin).exists())
        page = self.client.get(f"{self.shop}stock/{thin.tag}/")
        self.assertContains(page, "thinner than the meter senses")
        self.assertContains(page, "none of the readings counts")

    def test_beyond_the_meters_range_only_a_bound_is_kept(self):
        read_board(self.owner, self.board, 45)
        self.assertEqual(Reading.objects.get().bound, "above")
        self.assertContains(self.client.get(f"{self.shop}stock/{self.board.tag}/"), "wetter than the meter can measure")

    def test_a_reading_is_never_changed_or_deleted(self):
        read_board(self.owner, self.board, 9)
        for change in (
            lambda: Reading.objects.update(moisture=0.5),
            lambda: Reading.objects.all().delete(),
            lambda: Entry.objects.all().delete(),
        ):
            with self.assertRaises(DatabaseError), transaction.atomic():
                change()

    def test_a_mistake_is_taken_out_and_stays_visible(self):
        read_board(self.owner, self.board, 9, 9.2, 29)
        wrong = Reading.objects.get(raw=0.29)
        address = f"{self.shop}stock/{self.board.tag}/strike/{wrong.pk}/"
        self.assertContains(self.client.post(address, follow=True), "It stays in the journal")
        self.assertAlmostEqual(PieceMoisture.objects.get().mean, 0.091)
        self.assertContains(self.client.get(f"{self.shop}stock/{self.board.tag}/"), "struck")
        self.assertContains(self.client.get(f"{self.shop}stock/{self.board.tag}/reading/{wrong.pk}/"), "Struck out by")
        with self.assertRaises(Refused):
            actions.strike_reading(self.owner, wrong)
        self.assertContains(self.client.post(address, follow=True), "already been struck out or corrected")

    def test_taking_out_the_only_reading_leaves_the_board_unread(self):
        read_board(self.owner, self.board, 9)
        actions.strike_reading(self.owner, Reading.objects.get())
        self.assertFalse(PieceMoisture.objects.exists())


class Strip(ShopCase):
    def test_a_line_is_read_as_people_write_it(self):
        line = strip.read("ash-07 11.2 11,8 12.1% core 14 shell 9.5 end 8; 10")[0]
        self.assertEqual(
            [(reading.raw, reading.layer, reading.at_end) for reading in line.readings],
            [
                (0.112, "", False),
                (0.118, "", False),
                (0.121, "", False),
                (0.14, "core", False),
                (0.095, "shell", False),
                (0.08, "", True),
                (0.10, "", False),
            ],
        )

    def test_a_line_is_kept_and_leads_to_the_verdict(self):
        answer = self.send_strip("OAK-01 9.2 9.4 core 9.9")
        self.assertTrue(answer.headers["Location"].endswith("/stock/oak-01/"))
        self.assertEqual([reading.layer for reading in Reading.objects.order_by("id")], ["", "", "core"])

    def test_a_tag_is_read_whatever_its_letters_and_whatever_signs_it_holds(self):
        for tag in ("Oak-77", "oak(2", "ÖAK-ä", "a%b_c"):
            make_board(self.owner, tag=tag)
            for typed in (tag, tag.upper(), tag.lower()):
                with self.subTest(typed):
                    self.assertEqual(self.send_strip(f"{typed} 9.2").status_code, 302)
        self.assertEqual(Reading.objects.count(), 12)

    def test_an_unknown_tag_is_named_and_nothing_of_the_paste_is_kept(self):
        answer = self.send_strip("oak-01 9.2\nelm-77 10")
        self.assertContains(answer, "No piece here has the tag “elm-77”", status_code=422)
        self.assertContains(answer, "Nothing has been saved yet. 1 of 2 lines", status_code=422)
        self.assertContains(answer, "elm-77 10</textarea>", status_code=422)
        self.assertEqual(Reading.objects.count(), 0)

    def test_moistures_no_meter_shows_are_refused_in_words(self):
        for value, words in (
            ("-3", "below 0%"),
            ("0.4", "less than any meter shows"),
            ("250", "more than any meter shows"),
            ("soaking", "is not a number"),
        ):
            with self.subTest(value):
                self.assertContains(self.send_strip(f"oak-01 9 {value}"), words, status_code=422)
        for text, words in (("oak-01", "No numbers follow"), ("oak-01 9 core", "“core” needs a number after it"), ("   ", "Write a tag")):
            self.assertContains(self.send_strip(text), words, status_code=422)
        self.assertEqual(Reading.objects.count(), 0)

    def test_two_hundred_readings_pasted_are_kept_in_one_go(self):
        boards = [make_board(self.owner) for _ in range(39)] + [self.board]
        text = "\n".join(f"{board.tag} 9.1 9.2 9.3 9.4 core 9.9" for board in boards)
        self.assertContains(self.client.get(f"{self.shop}read/preview/", {"strip": text[:2500], "meter": self.meter.pk}), "oak-05")
        self.assertEqual(self.send_strip(text).status_code, 302)
        self.assertEqual((Reading.objects.count(), PieceMoisture.objects.count()), (200, 40))

    def test_more_than_a_thousand_readings_are_asked_for_in_parts(self):
        self.assertContains(self.send_strip("\n".join(["oak-01 " + "9 " * 50] * 30)), "Send them in parts", status_code=422)
        self.assertContains(self.send_strip("oak-01 " + "9 " * 100), "is a line break missing", status_code=422)
        self.assertEqual(self.send_strip("x" * 50_000).status_code, 422)

    def test_the_preview_shows_raw_and_corrected_and_keeps_nothing(self):
        answer = self.client.get(f"{self.shop}read/preview/", {"strip": "oak-01 9.2 nope-1", "meter": self.meter.pk})
        self.assertContains(answer, "is not a number")
        answer = self.client.get(f"{self.shop}read/preview/", {"strip": "oak-01 9.2 core 41", "meter": self.meter.pk})
        self.assertContains(answer, "9.2")
        self.assertContains(answer, "it only says wetter or drier")
        self.assertEqual(Reading.objects.count(), 0)

    def test_a_line_sent_twice_is_kept_once(self):
        self.send_strip("oak-01 9.2", once="t")
        self.send_strip("oak-01 9.2", once="t")
        self.assertEqual(Reading.objects.count(), 1)

    def test_another_line_in_the_form_that_back_brought_is_kept_too(self):
        self.send_strip("oak-01 9.2", once="t")
        answer = self.send_strip("oak-01 10.4 10.6", once="t")
        self.assertEqual(answer.status_code, 302)
        self.assertEqual(sorted(Reading.objects.values_list("raw", flat=True)), [0.092, 0.104, 0.106])
        self.send_strip("oak-01 10.4 10.6", once="t")
        self.assertEqual(Reading.objects.count(), 3)


class Spots(ShopCase):
    def send(self, **fields):
        return self.client.post(
            f"{self.shop}stock/{self.board.tag}/measure/", {"meter": self.meter.pk, "raw": "9.5", "layer": "", **fields}
        )

    def test_a_tapped_spot_is_kept_as_shares_of_the_board(self):
        self.assertEqual(self.send(from_end="1200 mm", from_edge="50 mm", wood_temperature="18").status_code, 302)
        reading = Reading.objects.get()
        self.assertAlmostEqual(reading.along, 0.5)
        self.assertAlmostEqual(reading.across, 0.25)

    def test_bad_spots_are_refused_beside_their_field(self):
        for name, typed in (
            ("raw", "-3"),
            ("raw", "0.4"),
            ("raw", "250"),
            ("from_end", "9 m"),
            ("from_edge", "-1"),
            ("wood_temperature", "90 C"),
            ("layer", "bark"),
            ("meter", "0"),
        ):
            with self.subTest(typed):
                answer = self.send(**{name: typed})
                self.assertEqual(answer.status_code, 422)
                self.assertEqual(list(answer.context["form"].errors), [name])
        self.assertEqual(Reading.objects.count(), 0)

    def test_marks_stand_where_the_board_was_read_and_core_joins_its_outer_reading(self):
        actions.record_readings(
            self.owner, self.board, self.meter, [Taken(0.10, "", 0.5, 0.5), Taken(0.13, "core", 0.5, 0.5), Taken(0.11)], 20
        )
        for width in (720, NARROW):
            drawn = board_map(self.board, queries.sitting(self.board), width)
            self.assertEqual((len(drawn.marks), len(drawn.unplaced)), (1, 1))
            self.assertAlmostEqual(drawn.marks[0].x, width / 2)
            self.assertEqual((drawn.marks[0].outer_label, drawn.marks[0].core_label), ("10", "13"))


class ByScale(ShopCase):
    def test_an_oven_test_gives_moisture_and_the_boards_ovendry_weight(self):
        address = f"{self.shop}stock/{self.board.tag}/"
        self.client.post(f"{address}oven/", {"wet_mass_kg": "130 g", "dry_mass_kg": "100 g", "piece_mass_kg": "13 kg"})
        self.assertAlmostEqual(Reading.objects.get().moisture, 0.30)
        self.client.post(f"{address}weigh/", {"mass_kg": "11.2 kg", "scale_step_kg": "10 g"})
        weighed = Reading.objects.latest("id")
        self.assertAlmostEqual(weighed.moisture, 0.12)
        self.assertAlmostEqual(PieceMoisture.objects.get().mean, 0.12)
        # Both bases are shown, and apart: 12% dry is 10.7% wet.
        self.assertContains(self.client.get(address), "10.7% on the wet basis")

    def test_weights_that_cannot_be_are_refused_beside_their_field(self):
        address = f"{self.shop}stock/{self.board.tag}/"
        for path, sent, field in (
            ("weigh", {"mass_kg": "5 kg"}, "ovendry_mass_kg"),
            ("weigh", {"mass_kg": "5 kg", "ovendry_mass_kg": "6 kg"}, "mass_kg"),
            ("weigh", {"mass_kg": "500 kg", "ovendry_mass_kg": "6 kg"}, "mass_kg"),
            ("weigh", {"mass_kg": "-5", "ovendry_mass_kg": "6 kg"}, "mass_kg"),
            ("weigh", {"mass_kg": "heavy", "ovendry_mass_kg": "6 kg"}, "mass_kg"),
            ("oven", {"wet_mass_kg": "100 g", "dry_mass_kg": "130 g"}, "dry_mass_kg"),
            ("oven", {"wet_mass_kg": "900 g", "dry_mass_kg": "100 g"}, "dry_mass_kg"),
            ("oven", {"wet_mass_kg": "", "dry_mass_kg": "100 g"}, "wet_mass_kg"),
        ):
            with self.subTest(sent):
                answer = self.client.post(f"{address}{path}/", sent)
                form = answer.context["weight_form" if path == "weigh" else "oven_form"]
                self.assertEqual((answer.status_code, list(form.errors)), (422, [field]))
        self.assertEqual(Reading.objects.count(), 0)


class Meters(ShopCase):
    def test_meters_are_added_changed_and_never_overwritten_unseen(self):
        sent = {"name": "Old pin", "kind": "pin", "tolerance": "1", "depth_m": "20"}
        self.assertEqual(self.client.post(f"{self.shop}meters/new/", sent).status_code, 302)
        self.assertContains(self.client.post(f"{self.shop}meters/new/", sent), "called Old pin already", status_code=422)
        meter = Meter.objects.get(name="Old pin")
        address = f"{self.shop}meters/{meter.pk}/"
        self.assertEqual(self.client.post(address, {**sent, "version": 1, "tolerance": "2"}).status_code, 302)
        self.assertContains(self.client.post(address, {**sent, "version": 1}), "Someone else has changed ", status_code=422)
        bad = self.client.post(address, {**sent, "tolerance": "90", "density_setting": "5", "depth_m": "1 m", "version": 2})
        self.assertEqual(set(bad.context["form"].errors), {"tolerance", "density_setting", "depth_m"})

    def test_a_change_of_settings_leaves_earlier_readings_alone(self):
        read_board(self.owner, self.board, 9.5, meter=self.meter)
        instruments.keep_meter(self.owner, self.meter, 1, name="Pin meter", tolerance=0.05)
        self.assertLess(Reading.objects.get().uncertainty, 0.01)

    def test_the_meter_used_last_is_offered(self):
        second = make_meter(self.owner, name="Zebra")
        read_board(self.owner, self.board, 9, meter=second)
        self.assertEqual(queries.usual_meter(self.owner), second)


class AtOnce(Committing):
    def test_the_same_form_sent_five_times_at_once_is_kept_once(self):
        owner, _, meter, board = make_shop()

        def send(_):
            client = Client()
            client.force_login(owner.person)
            try:
                return client.post(
                    f"/w/{owner.workshop.slug}/read/", {"strip": f"{board.tag} 9.1 9.3", "meter": meter.pk, "once": "same"}
                ).status_code
            finally:
                connection.close()

        with ThreadPoolExecutor(5) as pool:
            self.assertEqual(set(pool.map(send, range(5))), {302})
        self.assertEqual(Reading.objects.count(), 2)

    def test_readings_recorded_at_the_same_moment_all_count(self):
        owner, _, meter, board = make_shop()

        def record(value):
            try:
                actions.record_readings(owner, board, meter, [Taken(value / 1000)], 20)
            finally:
                connection.close()

        with ThreadPoolExecutor(5) as pool:
            list(pool.map(record, range(90, 100)))
        self.assertEqual(PieceMoisture.objects.get().count, 10)
