"""Instruments and their checks, surfaces and settings, corrections, days, lots read through sample boards, profiles."""

from concurrent.futures import ThreadPoolExecutor
from datetime import timedelta
from unittest import mock

from django.db import DatabaseError, connection, transaction
from django.utils import timezone

from calm_heron.logbook.models import Entry
from calm_heron.logbook.words import describe
from calm_heron.measuring import actions, drawings, instruments, queries
from calm_heron.measuring.actions import Taken
from calm_heron.measuring.kinds import Condition, Face, MeterKind
from calm_heron.measuring.models import Meter, MeterCheck, PieceMoisture, Reading
from calm_heron.measuring.tests.test_measuring import ShopCase
from calm_heron.measuring.words import warning_sentences
from calm_heron.stock import actions as stock
from calm_heron.stock.kinds import PieceKind
from calm_heron.stock.models import LotPart
from calm_heron.workshops.refusals import Refused
from tests.cases import Committing
from tests.factories import make_board, make_lot, make_meter, make_shop, read_board
from wood.measuring.meters import correct_pin, resistor_reading
from wood.species import species_named
from wood.units import METRIC


class Instruments(ShopCase):
    def send(self, **fields):
        return self.client.post(f"{self.shop}meters/new/", {"name": "New one", "kind": "pin", **fields})

    def test_every_kind_is_kept_with_what_it_needs(self):
        for sent, saved in (
            (
                {"kind": "pin", "insulated_pins": "on", "species_set_on_meter": "on", "set_to": "douglas-fir, coast"},
                {"insulated_pins": True, "set_to": "douglas_fir_coast"},
            ),
            ({"kind": "pinless", "density_setting": "0.5", "depth_m": "20 mm"}, {"density_setting": 0.5, "depth_m": 0.02}),
            ({"kind": "scale", "step_kg": "5 g"}, {"step_kg": 0.005}),
            ({"kind": "oven"}, {"kind": "oven"}),
        ):
            self.assertEqual(self.send(name=sent["kind"] + "!", **sent).status_code, 302)
            meter = Meter.objects.latest("id")
            self.assertEqual({name: getattr(meter, name) for name in saved}, saved)
        self.assertContains(self.send(set_to="douglas-fir, coast"), "Tick above", status_code=422)
        self.assertContains(self.client.get(f"{self.shop}meters/"), "reads to 5 g")
        # Only what shows a moisture is offered for readings; a scale's step is offered for weighing.
        self.assertNotIn("scale!", [str(meter) for meter in queries.meters_of(self.owner.workshop)])
        self.assertContains(self.client.get(f"{self.shop}stock/{self.board.tag}/measure/"), 'value="5 g"')

    def test_one_that_readings_refer_to_is_not_removed_but_retired(self):
        read_board(self.owner, self.board, 9, meter=self.meter)
        address = f"{self.shop}meters/{self.meter.pk}/retire/"
        answer = self.client.post(address, {"remove": "1"}, follow=True)
        self.assertContains(answer, "1 reading came from Pin meter")
        self.assertContains(answer, "Retire it instead")
        self.client.post(address, {"retire": "1"})
        self.assertNotIn(self.meter, queries.meters_of(self.owner.workshop))
        self.assertContains(self.client.get(f"{self.shop}stock/{self.board.tag}/"), "Pin meter")
        self.client.post(address, {"back": "1"})
        self.assertIn(self.meter, queries.meters_of(self.owner.workshop))
        unused = make_meter(self.owner)
        self.client.post(f"{self.shop}meters/{unused.pk}/retire/", {"remove": "1"})
        self.assertFalse(Meter.objects.filter(pk=unused.pk).exists())


class Checks(ShopCase):
    def check(self, meter=None, **fields):
        return self.client.post(f"{self.shop}meters/{(meter or self.meter).pk}/check/", fields)

    def test_a_resistor_says_what_a_pin_meter_must_show_and_corrects_it_from_then_on(self):
        read_board(self.owner, self.board, 10, meter=self.meter)
        before = Reading.objects.get().moisture
        # 120 MΩ is 12% on coast Douglas-fir (FPL-GTR-6).
        self.assertAlmostEqual(resistor_reading(120), 0.12, places=3)
        self.assertEqual(self.check(megohm="120", shown="11").status_code, 302)
        self.meter.refresh_from_db()
        self.assertAlmostEqual(self.meter.offset, 0.01, places=3)
        read_board(self.owner, self.board, 10, meter=self.meter)
        self.assertAlmostEqual(Reading.objects.latest("id").moisture - before, 0.01, places=3)
        self.assertEqual(Reading.objects.first().moisture, before)
        self.assertContains(self.client.get(f"{self.shop}meters/{self.meter.pk}/check/"), "resistor of 120 MΩ")

    def test_one_far_off_wants_repair_and_nothing_is_kept(self):
        self.assertContains(self.check(megohm="120", shown="19"), "a repair, not an offset", status_code=422)
        for sent, field in (
            ({"shown": "12"}, "expected"),
            ({"megohm": "-5", "shown": "12"}, "megohm"),
            ({"expected": "wet", "shown": "12"}, "expected"),
            ({"megohm": "120"}, "shown"),
        ):
            with self.subTest(sent):
                self.assertEqual(list(self.check(**sent).context["form"].errors), [field])
        self.assertFalse(MeterCheck.objects.exists())

    def test_a_scale_is_checked_with_a_weight_and_a_check_is_never_changed(self):
        scale = Meter.objects.create(workshop=self.owner.workshop, name="Scale", kind=MeterKind.SCALE)
        self.assertEqual(self.check(scale, expected="1 kg", shown="1.005 kg").status_code, 302)
        self.assertContains(self.client.get(f"{self.shop}meters/{scale.pk}/check/"), "test weight")
        for change in (lambda: MeterCheck.objects.update(shown=1), lambda: MeterCheck.objects.all().delete()):
            with self.assertRaises(DatabaseError), transaction.atomic():
                change()


class Warnings(ShopCase):
    """Each warning of a reading, as it comes about at the bench, and the sentence on the page."""

    def warned(self, meter, taken, temperature=20.0, piece=None):
        piece = piece or make_board(self.owner)
        reading = actions.record_readings(self.owner, piece, meter, [taken], temperature)[0]
        return reading, self.client.get(f"{self.shop}stock/{piece.tag}/").content.decode()

    def test_each_is_given_where_it_is_due_and_not_where_it_is_not(self):
        plain = make_meter(self.owner, species_set_on_meter=False, temperature_set_on_meter=False)
        hammer = make_meter(self.owner, species_set_on_meter=False, insulated_pins=True)
        across = make_meter(self.owner, species_set_on_meter=False, temperature_set_on_meter=True, pins_across=True)
        set_wrong = make_meter(self.owner, species_set_on_meter=True, set_to="northern_red_oak")
        set_unknown = make_meter(self.owner, species_set_on_meter=True, set_to="wenge")
        pinless = make_meter(self.owner, kind=MeterKind.PINLESS, density_setting=0.68, depth_m=0.02)
        light = make_meter(self.owner, kind=MeterKind.PINLESS, density_setting=0.35, depth_m=0.02)
        thin, fine = make_board(self.owner, thickness_m=0.012), make_board(self.owner, thickness_m=0.025)
        for meter, taken, temperature, piece, code, counts, words in (
            (plain, Taken(0.10), 20, None, None, True, ""),
            (plain, Taken(0.10, along=0.02), 20, None, "near_end", True, "where wood dries first"),
            (plain, Taken(0.10, face=Face.END), 20, None, "near_end", True, "where wood dries first"),
            (plain, Taken(0.10, face=Face.END, condition=Condition.FRESH), 20, None, None, True, ""),
            (plain, Taken(0.10, condition=Condition.WET), 20, None, "wet_surface", False, "Not counted; wipe it"),
            (hammer, Taken(0.10, condition=Condition.WET), 20, None, None, True, ""),
            (pinless, Taken(0.10, condition=Condition.WET), 20, None, "wet_surface", False, "Not counted"),
            (hammer, Taken(0.10, condition=Condition.METAL), 20, None, "metal", False, "Metal was near"),
            (pinless, Taken(0.10, condition=Condition.METAL), 20, None, "metal", False, "Metal was near"),
            (across, Taken(0.18), 20, None, "pins_across", True, "across the grain"),
            (plain, Taken(0.10, condition=Condition.WEATHERED), 20, None, "weathered", True, "weathered surface"),
            (plain, Taken(0.16), -5, None, "frost", True, "Frozen wood reads low"),
            (pinless, Taken(0.10), 20, thin, "thinner_than_depth", False, "thinner than the meter senses"),
            (pinless, Taken(0.10), 20, fine, "air_gap", True, "hold the board clear"),
            (pinless, Taken(0.10, condition=Condition.BACKED), 20, fine, "hand_behind", False, "A hand or the bench behind"),
            (set_wrong, Taken(0.10), 20, None, "other_species_set", True, "set for other wood"),
            (set_unknown, Taken(0.10), 20, None, "setting_not_known", True, "could not be taken back"),
            (light, Taken(0.10), 20, None, "setting_far", True, "very different density"),
            (plain, Taken(0.45), 20, None, "beyond_range", True, "it only says wetter or drier"),
        ):
            with self.subTest(code=code, words=words):
                reading, page = self.warned(meter, taken, temperature, piece)
                self.assertEqual((code in reading.warnings) if code else set(reading.warnings) <= {"extrapolated"}, True, reading.warnings)
                self.assertEqual(reading.counts, counts)
                self.assertIn(words, page)

    def test_a_setting_for_other_wood_is_taken_back_exactly(self):
        # A meter set to red oak and one left on its softwood scale meet the same resistance, so they mean the same white oak.
        other = make_meter(self.owner, species_set_on_meter=True, temperature_set_on_meter=True, set_to="northern_red_oak")
        shown_softwood = 0.12
        shown_oak = correct_pin(shown_softwood, species_named("northern_red_oak"), 20, temperature_set_on_meter=True).moisture
        reading, _ = self.warned(other, Taken(shown_oak))
        expected = correct_pin(shown_softwood, self.board.species, 20, temperature_set_on_meter=True)
        self.assertAlmostEqual(reading.moisture, expected.moisture, places=4)


class Correcting(ShopCase):
    def test_a_new_entry_takes_the_old_ones_place_and_both_are_shown(self):
        read_board(self.owner, self.board, 9.1, 9.3, 19.2, meter=self.meter)
        wrong = Reading.objects.get(raw=0.192)
        address = f"{self.shop}stock/{self.board.tag}/correct/{wrong.pk}/"
        self.assertContains(self.client.get(address), 'value="19.2"')
        self.assertEqual(self.client.post(address, {"raw": "9.2", "layer": ""}).status_code, 302)
        made = Reading.objects.latest("id")
        self.assertEqual((made.supersedes, made.at, made.meter), (wrong, wrong.at, wrong.meter))
        self.assertAlmostEqual(PieceMoisture.objects.get().mean, 0.092)
        self.assertContains(self.client.get(f"{self.shop}stock/{self.board.tag}/"), 'class="n struck"', 2)
        how = f"{self.shop}stock/{self.board.tag}/reading/"
        self.assertContains(self.client.get(f"{how}{wrong.pk}/"), "Corrected to 9.2% by")
        self.assertContains(self.client.get(f"{how}{made.pk}/"), "replaces an earlier entry")
        self.assertNotContains(self.client.get(f"{how}{made.pk}/?fragment=how"), "<html")
        self.assertContains(self.client.post(address, {"raw": "9.4"}), "already been struck out or corrected", status_code=422)
        self.assertIn("corrected to 9.2%", describe(Entry.objects.latest("id"), METRIC))

    def test_the_piece_the_meter_and_the_woods_temperature_can_be_put_right(self):
        other, cold = make_board(self.owner), make_meter(self.owner, species_set_on_meter=False, temperature_set_on_meter=False)
        read_board(self.owner, self.board, 9.1, meter=self.meter)
        address = f"{self.shop}stock/{self.board.tag}/correct/{Reading.objects.get().pk}/"
        for sent, field in (({"tag": "nope-9"}, "tag"), ({"meter": "0"}, "meter"), ({"wood_temperature": "500"}, "wood_temperature")):
            answer = self.client.post(address, {"raw": "9.1", "layer": "", **sent})
            self.assertEqual((answer.status_code, list(answer.context["form"].errors)), (422, [field]))
        sent = {"raw": "9.1", "layer": "", "tag": other.tag.upper(), "meter": cold.pk, "wood_temperature": "5"}
        self.assertEqual(self.client.post(address, sent).headers["Location"], f"{self.shop}stock/{other.tag}/")
        made = Reading.objects.latest("id")
        self.assertEqual((made.piece, made.meter, made.wood_temperature_c), (other, cold, 5.0))
        self.assertEqual([moisture.piece for moisture in PieceMoisture.objects.all()], [other])
        self.assertIn(f"entered for {self.board.tag}", describe(Entry.objects.latest("id"), METRIC))

    def checked(self, at, shown: float, *, day_only: bool = False) -> None:
        """A check of some days ago, against something of 10%."""
        with mock.patch.object(MeterCheck._meta.get_field("at"), "_get_default", return_value=at):
            instruments.check_meter(self.owner, self.meter, "the block", 0.10, shown, day_only=day_only)
        self.meter.refresh_from_db()

    def test_the_meter_is_taken_as_it_stood_then_and_not_as_it_stands_today(self):
        then = timezone.now() - timedelta(days=9)
        self.checked(then, 0.12)
        actions.record_readings(self.owner, self.board, self.meter, [Taken(0.14)], 20.0, then + timedelta(days=1))
        # Since then it was checked anew, and set otherwise.
        instruments.check_meter(self.owner, self.meter, "the block", 0.12, 0.10)
        self.meter.refresh_from_db()
        instruments.keep_meter(self.owner, self.meter, self.meter.version, species_set_on_meter=False, temperature_set_on_meter=False)
        old = Reading.objects.get()
        self.assertAlmostEqual(old.moisture, 0.12)
        made = actions.correct_reading(self.owner, old, raw=0.13)
        self.assertAlmostEqual(made.moisture, 0.11)
        self.assertEqual(made.as_set, old.as_set)
        self.meter.refresh_from_db()
        # A reading of last week that is typed today, and one from before its first check.
        for days, adds in ((2, -0.02), (20, 0.0), (0, 0.02)):
            self.assertAlmostEqual(self.meter.offset_on(timezone.now() - timedelta(days=days)), adds, msg=days)

    def test_of_a_reading_from_before_settings_were_kept_what_its_check_added_stays(self):
        instruments.check_meter(self.owner, self.meter, "the block", 0.10, 0.12)
        self.meter.refresh_from_db()
        old = actions.build_reading(self.owner, self.board, self.meter, Taken(0.14), 20.0, timezone.now())
        old.as_set, old.rule = {}, "2025-01a"
        old.save()
        instruments.check_meter(self.owner, self.meter, "the block", 0.12, 0.10)
        made = actions.correct_reading(self.owner, Reading.objects.get(), raw=0.13)
        self.assertAlmostEqual(made.moisture, 0.11)
        self.assertIn("older rule", " ".join(warning_sentences(made.warnings)))

    def test_what_was_read_on_a_day_of_its_own_offset_keeps_it(self):
        first, second = (timezone.now() - timedelta(days=days) for days in (5, 3))
        for moment, shown in ((first, 0.12), (second, 0.07)):
            self.checked(moment, shown, day_only=True)
        for days, adds in ((6, 0.0), (5, -0.02), (4, 0.0), (3, 0.03), (1, 0.0)):
            self.assertAlmostEqual(self.meter.offset_on(timezone.now() - timedelta(days=days)), adds, msg=days)

    def test_weights_too_and_nonsense_is_refused_with_what_was_typed(self):
        actions.record_weight(self.owner, self.board, 12.0, 10.0, 0.01)
        wrong = Reading.objects.get()
        address = f"{self.shop}stock/{self.board.tag}/correct/{wrong.pk}/"
        for typed in ("9 kg", "heavy", "900 kg"):
            answer = self.client.post(address, {"mass_kg": typed})
            self.assertContains(answer, f'value="{typed}"', status_code=422)
        self.client.post(address, {"mass_kg": "11.1 kg"})
        self.assertAlmostEqual(PieceMoisture.objects.get().mean, 0.11)


class Estimated(ShopCase):
    def test_two_weighings_sent_from_one_form_after_back_are_both_kept(self):
        address = f"{self.shop}stock/{self.board.tag}/weigh/"
        for mass in ("12 kg", "11.5 kg", "11.5 kg"):
            self.client.post(address, {"mass_kg": mass, "ovendry_mass_kg": "10 kg", "once": "t"})
        self.assertEqual(Reading.objects.count(), 2)

    def test_an_unknown_ovendry_weight_is_estimated_roughly_and_gives_way_to_a_meter(self):
        address = f"{self.shop}stock/{self.board.tag}/weigh/"
        # 0.03 × 0.2 × 2.4 m of white oak at 0.60 is 8.64 kg of wood; 15.55 kg hold 80% of water, give or take a fifth of the whole.
        self.assertContains(self.client.post(address, {"mass_kg": "15.55 kg"}), "have it estimated", status_code=422)
        self.client.post(address, {"mass_kg": "15.55 kg", "estimated": "on"})
        moisture = PieceMoisture.objects.get()
        self.assertAlmostEqual(moisture.mean, 0.80, places=2)
        self.assertAlmostEqual(moisture.estimate().uncertainty, 0.36, places=2)
        self.board.refresh_from_db()
        self.assertIsNone(self.board.ovendry_mass_kg)
        self.assertContains(self.client.get(f"{self.shop}stock/{self.board.tag}/"), "only estimated from size and species")
        read_board(self.owner, self.board, 45, meter=self.meter)
        self.assertTrue(PieceMoisture.objects.get().by_weight)
        read_board(self.owner, self.board, 12, 12.2, 12.1, meter=self.meter)
        self.assertFalse(PieceMoisture.objects.get().by_weight)


class Days(ShopCase):
    def test_a_reading_of_last_week_is_kept_on_its_day_and_one_of_tomorrow_is_not(self):
        today = timezone.localdate()
        address = f"{self.shop}stock/{self.board.tag}/measure/"
        self.client.post(address, {"meter": self.meter.pk, "raw": "9.5", "at": (today - timedelta(days=7)).isoformat()})
        self.assertEqual(Reading.objects.get().at.date(), today - timedelta(days=7))
        for day, words in (
            ((today + timedelta(days=1)).isoformat(), "in the future"),
            ("2026-02-30", "That isn’t a date"),
            ("0026-01-01", "mistyped"),
        ):
            answer = self.client.post(address, {"meter": self.meter.pk, "raw": "9.5", "at": day})
            self.assertContains(answer, words, status_code=422)
            self.assertContains(answer, 'value="9.5"', status_code=422)
        tomorrow = (today + timedelta(days=1)).isoformat()
        self.assertContains(self.send_strip(f"{self.board.tag} 9.1", at=tomorrow), "in the future", status_code=422)
        self.assertContains(
            self.client.post(f"{self.shop}stock/{self.board.tag}/weigh/", {"mass_kg": "11 kg", "ovendry_mass_kg": "10 kg", "at": tomorrow}),
            "in the future",
            status_code=422,
        )
        self.assertEqual(Reading.objects.count(), 1)


class LotsRead(ShopCase):
    @classmethod
    def setUpTestData(cls):
        super().setUpTestData()
        cls.lot = make_lot(cls.owner, 40)

    def known(self):
        return PieceMoisture.objects.filter(piece=self.lot).first()

    def test_sample_boards_stand_for_their_lot_until_they_leave_it(self):
        samples = [stock.add_sample(self.owner, self.lot, part) for part in (LotPart.OUTER, LotPart.MIDDLE, LotPart.DEEP)]
        for sample, value in zip(samples, (10, 11, 15), strict=True):
            read_board(self.owner, sample, value, value, meter=self.meter)
        self.assertAlmostEqual(self.known().mean, 0.12)
        self.assertEqual(self.known().count, 3)
        self.lot.refresh_from_db()
        stock.take_out(self.owner, self.lot, self.lot.version, samples[2])
        self.assertAlmostEqual(self.known().mean, 0.105)
        stock.set_status(self.owner, [(samples[1].pk, samples[1].version)], "used")
        self.assertAlmostEqual(self.known().mean, 0.10)

    def test_boards_without_a_name_count_one_by_one_and_by_their_part(self):
        self.send_strip(f"{self.lot.tag} outer 10 outer 10.2 middle 11 deep 13")
        self.assertEqual(sorted(Reading.objects.values_list("part", flat=True)), ["deep", "middle", "outer", "outer"])
        # Each part of the stack has the same weight: (10.1 + 11 + 13) / 3.
        self.assertAlmostEqual(self.known().mean, (0.101 + 0.11 + 0.13) / 3, places=4)
        self.client.post(f"{self.shop}stock/{self.lot.tag}/measure/", {"meter": self.meter.pk, "raw": "13.2", "part": "deep"})
        self.assertEqual(self.known().count, 5)
        actions.strike_reading(self.owner, Reading.objects.get(raw=0.13))
        self.assertEqual(self.known().count, 4)
        self.assertContains(self.send_strip(f"{self.lot.tag} deep"), "“deep” needs a number", status_code=422)

    def test_a_split_gives_each_lot_what_its_own_boards_say(self):
        first, two = stock.add_sample(self.owner, self.lot), stock.add_sample(self.owner, self.lot)
        read_board(self.owner, first, 10, meter=self.meter)
        read_board(self.owner, two, 14, meter=self.meter)
        self.lot.refresh_from_db()
        made = stock.split_lot(self.owner, self.lot, self.lot.version, 10, [two.pk])
        self.assertAlmostEqual(PieceMoisture.objects.get(piece=made).mean, 0.14)
        self.assertAlmostEqual(self.known().mean, 0.10)


class LotsReadAtOnce(Committing):
    def test_sample_boards_read_at_the_same_moment_all_stand_for_the_lot(self):
        owner, _, meter, _ = make_shop()
        lot = make_lot(owner, 12)
        samples = [stock.add_sample(owner, lot) for _ in range(4)]

        def record(sample):
            try:
                actions.record_readings(owner, sample, meter, [Taken(0.12)], 20)
            finally:
                connection.close()

        with ThreadPoolExecutor(4) as pool:
            list(pool.map(record, samples))
        self.assertEqual(PieceMoisture.objects.get(piece=lot).count, 4)


class Profiles(ShopCase):
    def test_the_inferred_profile_is_drawn_and_named(self):
        for outer, core, word in ((10, 14, "Drying"), (10, 10.3, "Equalised"), (14, 10, "Rewetted")):
            board = make_board(self.owner)
            read_board(self.owner, board, outer, outer, core=core, meter=self.meter)
            readings = queries.sitting(board)
            chart = drawings.profile_chart(board, queries.inferred_profile(board, readings), readings)
            self.assertTrue(chart.word.startswith(word))
            self.assertEqual(len(chart.marks), 3)
            for x, y, _ in chart.marks:
                self.assertTrue(0 <= x <= chart.width and 0 <= y <= chart.height)
            self.assertContains(self.client.get(f"{self.shop}stock/{board.tag}/"), chart.word)

    def test_a_logs_mean_lies_nearer_its_outside_than_a_boards(self):
        log, board = make_board(self.owner, kind=PieceKind.LOG, thickness_m=0.4, width_m=0.4), make_board(self.owner)
        for piece in (log, board):
            read_board(self.owner, piece, 12, 12, core=20, meter=self.meter)
        means = [PieceMoisture.objects.get(piece=piece).mean for piece in (log, board)]
        self.assertLess(means[0], means[1])
        self.assertContains(self.client.get(f"{self.shop}stock/{log.tag}/measure/"), "Heart")

    def test_the_map_of_a_bowl_is_round_and_its_spots_stay_on_it(self):
        bowl = make_board(self.owner, kind=PieceKind.BOWL, thickness_m=0.03, width_m=0.3, length_m=0.12)
        answer = self.client.post(
            f"{self.shop}stock/{bowl.tag}/measure/", {"meter": self.meter.pk, "raw": "12", "from_end": "150", "from_edge": "290"}
        )
        self.assertEqual(answer.status_code, 302)
        for width in (drawings.WIDE, drawings.NARROW):
            drawn = drawings.board_map(bowl, queries.sitting(bowl), width)
            self.assertEqual((drawn.shape, drawn.board_width, drawn.board_height), ("disc", drawings.DISC, drawings.DISC))
            self.assertAlmostEqual(drawn.marks[0].x, drawn.left + drawings.DISC / 2)
        with self.assertRaises(Refused):
            actions.strike_reading(self.owner, Reading.objects.get()) or actions.strike_reading(
                self.owner, Reading.objects.get(struck=False)
            )
