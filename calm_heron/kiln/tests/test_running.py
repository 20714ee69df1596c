"""Loads at work: begun, sampled, weighed, read, noted, ended; what is to be set, and what wants somebody."""

import random
from datetime import timedelta
from threading import Thread

from django.core.exceptions import PermissionDenied
from django.db import connection, transaction
from django.utils import timezone

from calm_heron.judging.models import WorkshopPurpose
from calm_heron.kiln import actions
from calm_heron.kiln.models import Chamber, ChamberReading, Load, Promise, SampleWeight
from calm_heron.kiln.runs import running
from calm_heron.kiln.tests.bench import LIMITS, MAPLE, KilnBench
from calm_heron.stacks.actions import build_stack
from calm_heron.workshops.models import Role
from calm_heron.workshops.refusals import Refused
from calm_heron.workshops.versions import Overtaken
from tests.cases import Committing
from tests.factories import make_aired_place, make_board, make_lot, make_member, make_owner, make_place, read_board
from tests.pages import text_of
from wood.kiln.following import Weighed


class AtWork(KilnBench):
    def sampled(self, load: Load, *rows: tuple[float, ...], dry: float = 2.0):
        """Samples A, B … each with its moistures day by day from the beginning."""
        made = []
        for number, row in enumerate(rows):
            sample = actions.add_sample(self.owner, load, "ABCDEFGH"[number], self.lot, dry * (1 + row[0]), row[0], load.began_at)
            for day, moisture in enumerate(row[1:], 1):
                SampleWeight.objects.create(
                    workshop=self.owner.workshop,
                    sample=sample,
                    at=load.began_at + timedelta(days=day),
                    mass_kg=dry * (1 + moisture),
                    by=self.owner.person,
                )
            made.append(sample)
        return made

    def falling(self, start: float, by: float, days: int) -> tuple[float, ...]:
        return tuple(start - by * day for day in range(days + 1))

    def test_a_load_of_two_lots_is_followed_whichever_its_samples_came_from(self):
        other = make_lot(self.owner, 40, "white_ash")
        load = actions.begin_load(
            self.owner, [(self.lot, 0.64), (other, 0.45)], self.chamber, timezone.now() - timedelta(days=6), wanted=0.08
        )
        for step in (lambda: None, lambda: self.sampled(load, self.falling(0.66, 0.03, 5))):
            step()
            current = running.now(load)
            boards = current.forecast.ran.boards
            self.assertEqual({board.lot for board in boards}, {self.lot.tag, other.tag})
            self.assertAlmostEqual(sum(board.share for board in boards), 1.0)
            for address in (self.at("load", load.tag), self.at("kiln"), f"/w/{self.owner.workshop.slug}/"):
                self.assertEqual(self.client.get(address).status_code, 200)
        # The lot without samples stands for as much of the load as its wood is.
        shares = {tag: sum(board.share for board in boards if board.lot == tag) for tag in (self.lot.tag, other.tag)}
        volumes = {lot.name: lot.volume_m3 for lot in current.question.lots}
        self.assertAlmostEqual(shares[other.tag], volumes[other.tag] / sum(volumes.values()))

    def test_the_wettest_half_says_what_to_set(self):
        load = self.begin(days=8)
        self.sampled(
            load, self.falling(0.66, 0.03, 8), self.falling(0.60, 0.03, 8), self.falling(0.70, 0.03, 8), self.falling(0.62, 0.03, 8)
        )
        current = running.now(load)
        self.assertAlmostEqual(current.half, (0.46 + 0.42) / 2)
        self.assertEqual(current.position, 0)
        self.assertEqual(current.alarms, [])
        page = self.client.get(self.at("load", load.tag))
        self.assertIn(f"{current.setting.dry_bulb_c:.1f}".removesuffix(".0") + "°C", text_of(page))
        self.assertEqual(len(page.context["drawings"][0][1].dots), 36)

    def test_the_forecast_moves_with_what_is_weighed(self):
        slow, quick = self.begin(days=8), None
        self.sampled(slow, self.falling(0.64, 0.028, 8), self.falling(0.62, 0.027, 8))
        first = running.now(slow)
        self.assertLess(first.forecast.pace, 0.8)
        actions.end_load(self.owner, slow, slow.version)
        quick = self.begin(days=8)
        self.sampled(quick, self.falling(0.64, 0.045, 8), self.falling(0.62, 0.044, 8))
        second = running.now(quick)
        self.assertGreater(second.forecast.pace, first.forecast.pace + 0.3)
        self.assertLess(second.ends_in_days, first.ends_in_days)
        expected = [first.forecast.expected(Weighed(number, *item.rows[-1])) - item.now for number, item in enumerate(first.samples)]
        self.assertLess(abs(sum(expected) / len(expected)), 0.01)

    def test_what_wants_somebody_is_said_on_its_page_and_on_today(self):
        # Today asks first for a place, its air, a meter and a board that was read.
        WorkshopPurpose.objects.create(workshop=self.owner.workshop, place=make_aired_place(self.owner))
        read_board(self.owner, make_board(self.owner), 9.0, 9.2, 9.1)
        load = self.begin(days=8)
        self.assertEqual([code for code, _ in running.now(load).alarms], ["no_samples"])
        rows = [self.falling(0.66, 0.03, 8), self.falling(0.60, 0.03, 8), self.falling(0.70, 0.03, 8), (*self.falling(0.62, 0.03, 7), 0.20)]
        self.sampled(load, *rows)
        ChamberReading.objects.create(
            workshop=self.owner.workshop, load=load, at=timezone.now(), dry_bulb_c=20.0, humidity=0.5, fault="no heat"
        )
        codes = [code for code, _ in running.now(load).alarms]
        self.assertEqual(codes[:2], ["fault", "off"])
        self.assertIn("doubt", codes)
        for address in (self.at("load", load.tag), self.at("today"), self.at("kiln")):
            words = text_of(self.client.get(address))
            self.assertIn("The controller reports: no heat", words)
            self.assertIn("Sample D", words)

    def test_a_missed_day_and_too_quick_a_loss_are_said(self):
        load = self.begin(days=8)
        self.sampled(load, self.falling(0.66, 0.08, 4), self.falling(0.64, 0.08, 4))
        codes = [code for code, _ in running.now(load).alarms]
        self.assertIn("missed", codes)
        self.assertIn("too_fast", codes)

    def test_air_that_goes_round_the_load_is_seen_in_how_much_it_cools(self):
        load = self.begin(days=3)
        drop = running.now(load).forecast.ran.drop_k(70)
        for leaving, seen in ((drop, False), (4 * drop + 2, True)):
            # Each alone: what was read is never taken out again.
            with transaction.atomic():
                ChamberReading.objects.create(
                    workshop=self.owner.workshop, load=load, at=timezone.now(), dry_bulb_c=43.0, humidity=0.6, leaving_c=43.0 - leaving
                )
                self.assertEqual("round" in [code for code, _ in running.now(load).alarms], seen, leaving)
                transaction.set_rollback(True)

    def told(self, load: Load, *rows: tuple[float, float, float]) -> list[str]:
        """The alarms of the chamber after it was read so: minutes ago, °C, humidity."""
        self.keep(load, rows)
        return [code for code, _ in running.now(load).alarms if code not in ("no_samples", "missed")]

    def keep(self, load: Load, rows, **more) -> None:
        now, shop = timezone.now(), self.owner.workshop
        actions.keep_readings(
            [
                ChamberReading(workshop=shop, load=load, at=now - timedelta(minutes=ago), dry_bulb_c=dry, humidity=humidity, **more)
                for ago, dry, humidity in rows
            ]
        )

    def as_set(self, load: Load, hours: int = 8, until: int = 0, humidity_off: float = 0.0) -> list[tuple[float, float, float]]:
        """Readings every ten minutes at what is set, with a sensor's own unrest."""
        setting, chance = running.now(load).setting, random.Random(3)
        return [
            (ago, setting.dry_bulb_c + chance.uniform(-0.3, 0.3), setting.humidity + humidity_off + chance.uniform(-0.01, 0.01))
            for ago in range(until, until + 60 * hours, 10)
        ]

    def test_air_too_dry_for_the_step_is_said_with_since_when_and_stays_however_old_it_grows(self):
        load = self.begin(days=8)
        self.assertEqual(self.told(load, *self.as_set(load, until=120, hours=20)), ["silent"])
        load = self.fresh()
        wet = running.now(load).setting.humidity
        self.assertGreater(wet, 0.6)
        self.keep(load, self.as_set(load, hours=5, until=300, humidity_off=0.35 - wet))
        alarms = dict(running.now(load).alarms)
        self.assertIn("too_dry", alarms)
        since = alarms["too_dry"]["since"]
        self.assertLess(abs((timezone.now() - since) - timedelta(hours=10)), timedelta(hours=1))
        # Three hours without a reading took it away once.
        self.assertIn("silent", alarms)
        self.assertIn("Air so dry checks wet boards: stop its compressor", text_of(self.client.get(self.at("load", load.tag))))

    def fresh(self) -> Load:
        """The running load taken out, and another begun."""
        old = Load.objects.get(ended_at=None)
        actions.end_load(self.owner, old, old.version)
        self.lot.refresh_from_db()
        return self.begin(days=8)

    def test_a_controller_that_reads_as_set_raises_nothing(self):
        load = self.begin(days=8)
        self.assertEqual(self.told(load, *self.as_set(load)), [])

    def test_readings_by_hand_twice_a_day_are_no_silence(self):
        load = self.begin(days=8)
        setting = running.now(load).setting
        self.assertEqual(self.told(load, *((60 * 12 * k + 60 * 9, setting.dry_bulb_c, setting.humidity) for k in range(8))), [])

    def test_a_sensor_that_sticks_and_one_that_jumps_are_said(self):
        load = self.begin(days=8)
        setting = running.now(load).setting
        stuck = [(ago, setting.dry_bulb_c, setting.humidity) for ago in range(0, 60 * 8, 10)]
        self.assertEqual(self.told(load, *stuck), ["stuck"])
        load = self.fresh()
        steady = self.as_set(load, until=10)
        self.assertIn("jump", self.told(load, (0, setting.dry_bulb_c + 25.0, setting.humidity), *steady))

    def test_fans_that_stopped_are_seen_in_the_drop_across_the_load(self):
        load = self.begin(days=8)
        rows = self.as_set(load)
        self.keep(load, rows[1:])
        self.keep(load, rows[:1], leaving_c=rows[0][1] - 15.0)
        self.assertEqual([code for code, _ in running.now(load).alarms if code != "no_samples"], ["fans"])

    def test_a_fault_stands_until_an_hour_of_readings_knows_nothing_of_it(self):
        load = self.begin(days=8)
        self.keep(load, self.as_set(load, until=30, hours=4))
        self.keep(load, [(25, *self.as_set(load)[0][1:])], fault="fans do not turn")
        self.assertIn("fault", self.told(load))
        self.assertIn("fault", self.told(load, self.as_set(load)[0]))
        load = self.fresh()
        self.keep(load, [(200, *self.as_set(load)[0][1:])], fault="fans do not turn")
        self.assertNotIn("fault", self.told(load, *self.as_set(load, hours=2)))

    def test_evening_out_and_conditioning_follow_the_samples(self):
        actions.keep_chamber(
            self.owner, self.chamber, self.chamber.version, **(LIMITS | {"kind": "vented", "hottest_c": 82.0, "sprays": True})
        )
        self.chamber.refresh_from_db()
        load = self.begin(days=3)
        self.sampled(load, (0.20, 0.12, 0.059, 0.0585), (0.22, 0.14, 0.10, 0.09))
        self.assertEqual(running.now(load).setting.kind, "equalising")
        a, b = load.samples.order_by("tag")
        actions.weigh(self.owner, load, [(a, 2.0 * 1.062), (b, 2.0 * 1.079)])
        self.assertEqual(running.now(load).setting.kind, "conditioning")

    def test_through_its_pages_from_the_chamber_to_what_was_found(self):
        self.assertContains(self.client.get(self.at("kiln")), "Nothing runs")
        sent = {
            "lots": self.lot.tag,
            "chamber": self.chamber.pk,
            "wanted": "8",
            "care": "usual",
            "even": "on",
            "condition": "on",
            "whose": "a neighbour",
            "once": "a",
        }
        for _ in range(2):
            self.assertRedirects(self.client.post(self.at("begin_load"), sent), self.at("load", "load-01"))
        self.assertEqual(Load.objects.count(), 1)
        cut = {"tag": "A", "piece": self.lot.pk, "mass_kg": "3.3 kg", "moisture": "65", "once": "b"}
        self.assertRedirects(self.client.post(self.at("cut_sample", "load-01"), cut), self.at("load", "load-01"))
        sample = Load.objects.get().samples.get()
        self.assertAlmostEqual(sample.dry_mass_kg, 2.0)
        light = self.client.post(self.at("weigh_samples", "load-01"), {f"m{sample.pk}": "1.5 kg", "once": "c"})
        self.assertContains(light, "cannot weigh less", status_code=422)
        self.assertContains(light, "1.5 kg", status_code=422)
        self.client.post(self.at("weigh_samples", "load-01"), {f"m{sample.pk}": "3.29 kg", "once": "d"})
        self.assertEqual(sample.weights.count(), 2)
        self.assertContains(self.client.post(self.at("weigh_samples", "load-01"), {"once": "e"}), "at least one sample", status_code=422)
        wrong = self.client.post(self.at("read_chamber", "load-01"), {"dry_bulb_c": "43", "wet_bulb_c": "46", "once": "f"})
        self.assertContains(wrong, "changed about", status_code=422)
        self.client.post(self.at("read_chamber", "load-01"), {"dry_bulb_c": "43", "wet_bulb_c": "41", "once": "g"})
        self.assertEqual(ChamberReading.objects.count(), 1)
        self.client.post(self.at("note_load", "load-01"), {"kind": "power", "words": "two hours", "goes_on": "on", "once": "h"})
        noted = self.client.get(self.at("load", "load-01"))
        self.assertContains(noted, "The power is cut: two hours")
        self.assertEqual(len(noted.context["drawings"][0][1].happened), 1)
        self.client.post(self.at("end_load", "load-01"), {"version": "1", "weighed_out_kg": "500", "once": "i"})
        self.assertFalse(Load.objects.get().runs)
        self.assertAlmostEqual(Load.objects.get().weighed_out_kg, 500.0)
        self.client.post(
            self.at("found_on_load", "load-01"),
            {"kind": "face_checks", "boards": "3", "of_boards": "60", "where": "heart side", "once": "j"},
        )
        page = text_of(self.client.get(self.at("load", "load-01")))
        for said in ("Checks in the faces on 3 of 60 boards", "Forecast:", "a neighbour’s wood"):
            self.assertIn(said, page)
        many = self.client.post(self.at("found_on_load", "load-01"), {"kind": "warp", "boards": "70", "of_boards": "60", "once": "k"})
        self.assertContains(many, "more boards than were looked at", status_code=422)
        log = text_of(self.client.get(self.at("log")))
        for said in ("load-01 begun in Lean-to", "sample A cut at 65%", "load-01 is out of the kiln"):
            self.assertIn(said, log)

    def test_what_cannot_be_is_refused_and_nothing_is_lost(self):
        load = self.begin()
        other = make_lot(self.owner, 10, MAPLE)
        with self.assertRaisesMessage(Refused, "runs in Lean-to"):
            actions.begin_load(self.owner, [(other, 0.5)], self.chamber, timezone.now(), wanted=0.08)
        second = actions.keep_chamber(self.owner, None, 0, **(LIMITS | {"name": "Other"}))
        with self.assertRaisesMessage(Refused, "is in load-01 already"):
            actions.begin_load(self.owner, [(self.lot, 0.5)], second, timezone.now(), wanted=0.08)
        with self.assertRaisesMessage(Refused, "called other already"):
            actions.keep_chamber(self.owner, None, 0, **(LIMITS | {"name": "other"}))
        with self.assertRaisesMessage(Refused, "before the load began"):
            actions.weigh(self.owner, load, [(self.sampled(load, (0.6,))[0], 3.0)], load.began_at - timedelta(days=1))
        sent = {"lots": "nothing-01", "chamber": second.pk, "wanted": "8", "care": "usual", "whose": "kept words", "once": "z"}
        page = self.client.post(self.at("begin_load"), sent)
        self.assertContains(page, "has the tag nothing-01", status_code=422)
        self.assertContains(page, "kept words", status_code=422)
        actions.end_load(self.owner, load, load.version)
        with self.assertRaises((Refused, Overtaken)):
            actions.end_load(self.owner, load, load.version)
        self.assertEqual(self.client.get(self.at("load", "load-99")).status_code, 404)

    def test_other_peoples_wood_is_charged_by_volume_or_by_water(self):
        load = self.begin(whose="a neighbour", price=100.0)
        self.assertContains(self.client.get(self.at("load", load.tag)), f"A neighbour pays {100 * self.lot.volume_m3:,.2f}, by volume")
        actions.end_load(self.owner, load, load.version)
        second = self.begin(price=20.0, charged_by="water", weighed_in_kg=900.0)
        actions.end_load(self.owner, second, second.version, weighed_out_kg=600.0)
        self.assertContains(self.client.get(self.at("load", second.tag)), "60.00 for its water, weighed in and out")

    def test_a_stacks_tag_stands_for_its_lots(self):
        build_stack(
            self.owner,
            [self.lot],
            make_place(self.owner),
            timezone.localdate(),
            0.6,
            width_m=1.2,
            sticker_m=0.019,
            spacing_m=0.4,
            clear_m=0.3,
        )
        page = self.client.get(self.at("ask_kiln"), {"lots": "stack-01"})
        self.assertEqual(page.context["worked"].planned.lots[0].name, self.lot.tag)

    def test_a_weight_that_is_taken_out_stays_and_counts_no_more(self):
        load = self.begin(days=3)
        (sample,) = self.sampled(load, (0.60, 0.55, 0.90))
        wrong = sample.weights.order_by("-at").first()
        self.client.post(self.at("strike_weight", load.tag, wrong.pk), {"once": "a"})
        self.assertEqual(len(running.now(load).samples[0].rows), 2)
        self.assertEqual(sample.weights.count(), 4)
        with self.assertRaisesMessage(Refused, "it was cut with"):
            actions.strike_weight(self.owner, sample.weights.order_by("at").first())

    def test_a_viewer_looks_and_sets_nothing_down(self):
        load = self.begin()
        viewer = make_member(self.owner, Role.VIEWER)
        self.client.force_login(viewer.person)
        self.assertNotContains(self.client.get(self.at("load", load.tag)), "Take the load out")
        self.assertEqual(self.client.get(self.at("begin_load")).status_code, 403)
        with self.assertRaises(PermissionDenied):
            actions.end_load(viewer, load, load.version)

    def test_what_goes_in_next_waits_for_what_runs(self):
        self.begin()
        oak, cherry, sycamore = (
            make_lot(self.owner, 30, "white_oak"),
            make_lot(self.owner, 20, "black_cherry"),
            make_lot(self.owner, 20, "red_maple"),
        )
        page = self.client.get(self.at("kiln_season"))
        rows = page.context["rows"]
        together = [row["tags"] for row in rows]
        self.assertNotIn(f"{oak.tag},{cherry.tag}", together)
        self.assertEqual({tag for tags in together for tag in tags.split(",")}, {oak.tag, cherry.tag, sycamore.tag})
        self.assertNotIn(self.lot.tag, ",".join(together))
        self.assertContains(page, "once")

    def test_what_is_promised_goes_first_and_lateness_is_told(self):
        dry, wet = make_lot(self.owner, 30, "white_oak"), make_lot(self.owner, 20, "black_cherry")
        self.assertEqual(self.client.get(self.at("kiln_season")).context["any_promised"], False)
        rows = self.client.get(self.at("kiln_season")).context["rows"]
        last = rows[-1]["tags"]
        soon = (timezone.localdate() + timedelta(days=2)).isoformat()
        answer = self.client.post(self.at("promise_lots"), {"once": "p", "lots": last, "day": soon, "whom": "the joinery"}, follow=True)
        self.assertContains(answer, f"Promised: {last}.")
        rows = answer.context["rows"]
        self.assertEqual(rows[0]["tags"], last)
        self.assertAlmostEqual(rows[0]["late"], float(rows[0]["days"]) - 2, delta=1)
        self.assertContains(answer, "days late")
        self.assertContains(answer, "It is promised for")
        # Far enough away it is in time; sent twice it is promised once; without a day it is promised no more.
        far = (timezone.localdate() + timedelta(days=300)).isoformat()
        for _ in range(2):
            answer = self.client.post(self.at("promise_lots"), {"once": "q", "lots": last, "day": far, "whom": ""}, follow=True)
        self.assertEqual(Promise.objects.of(self.owner.workshop).count(), 1)
        self.assertNotContains(answer, "late</strong>")
        answer = self.client.post(self.at("promise_lots"), {"once": "r", "lots": last, "day": "", "whom": ""}, follow=True)
        self.assertFalse(answer.context["any_promised"])
        self.assertContains(answer, "Promised no more")
        self.assertEqual({dry.tag, wet.tag} & {last}, {last})

    def test_a_promise_of_a_load_that_runs_is_told_and_a_wrong_one_is_not_kept(self):
        load = self.begin()
        soon = (timezone.localdate() + timedelta(days=1)).isoformat()
        answer = self.client.post(
            self.at("promise_lots"), {"once": "p", "lots": self.lot.tag, "day": soon, "whom": "the joinery"}, follow=True
        )
        self.assertContains(answer, "Promised besides")
        self.assertEqual(answer.context["others"][0]["load"], load)
        self.assertGreater(answer.context["others"][0]["late"], 0)
        past = (timezone.localdate() - timedelta(days=1)).isoformat()
        for wrong in (
            {"lots": self.lot.tag, "day": past},
            {"lots": "nothing-99", "day": soon},
            {"lots": "", "day": soon},
            {"lots": self.lot.tag, "day": "9999-99-99"},
        ):
            again = self.client.post(self.at("promise_lots"), {"once": "w", "whom": "kept in the field", **wrong})
            self.assertEqual(again.status_code, 422)
            self.assertContains(again, "kept in the field", status_code=422)
        self.assertEqual(Promise.objects.of(self.owner.workshop).get().day.isoformat(), soon)
        viewer = make_member(self.owner, Role.VIEWER)
        self.client.force_login(viewer.person)
        self.assertEqual(self.client.post(self.at("promise_lots"), {"once": "v", "lots": self.lot.tag, "day": soon}).status_code, 403)


class AtOnce(Committing):
    def test_a_load_is_ended_once_and_a_chamber_takes_one(self):
        owner = make_owner()
        lots = [make_lot(owner, 30, MAPLE) for _ in range(2)]
        chamber = Chamber.objects.create(workshop=owner.workshop, **LIMITS)
        lines: list[str] = []

        def begin(lot) -> None:
            try:
                actions.begin_load(owner, [(lot, 0.6)], chamber, timezone.now(), wanted=0.08)
            except Refused as refused:
                lines.append(str(refused))
            finally:
                connection.close()

        both = [Thread(target=begin, args=[lot]) for lot in lots]
        for side in both:
            side.start()
        for item in both:
            item.join()
        self.assertEqual((Load.objects.count(), len(lines)), (1, 1))
