"""The record of loads: what happened to them from when to when, sections in the oven, slips that are asked about, every weight, a load that
is begun in its middle, and the season."""

import csv
import io
from datetime import timedelta

from django.utils import timezone

from calm_heron.kiln import actions, outcomes
from calm_heron.kiln.models import Load, LoadEvent, LoadLot
from calm_heron.kiln.runs import running
from calm_heron.kiln.tests.bench import KilnBench
from calm_heron.site.numbers import percent
from calm_heron.stacks import actions as stacks
from calm_heron.workshops.refusals import Refused
from tests.factories import make_aired_place, make_lot
from tests.pages import text_of


class Recorded(KilnBench):
    def local(self, moment) -> str:
        return timezone.localtime(moment).strftime("%Y-%m-%dT%H:%M")


class WhatHappened(Recorded):
    def note(self, load: Load, once: str, **fields):
        return self.client.post(self.at("note_load", load.tag), {"kind": "power", "words": "", "once": once} | fields)

    def test_the_forecast_runs_through_what_lasted(self):
        load = self.begin()
        before = running.now(load).forecast.ran
        ago = timezone.now() - timedelta(days=4)
        self.note(load, "a", at=self.local(ago), until=self.local(ago + timedelta(days=2)))
        after = running.now(load).forecast.ran
        self.assertLess(after.temperature_c[6 * 24], before.temperature_c[6 * 24] - 5)
        self.assertGreater(after.days, before.days + 0.5)
        self.assertEqual(running.now(load).alarms, [("no_samples", {})])

    def test_what_goes_on_stands_at_the_top_until_it_is_over_and_can_be_taken_back(self):
        load = self.begin()
        self.note(load, "a", at=self.local(timezone.now() - timedelta(hours=5)), goes_on="on", words="the whole lane")
        page = text_of(self.client.get(self.at("load", load.tag)))
        self.assertIn("The power is cut: the whole lane, since", page)
        self.assertIn("told", [code for code, _ in running.now(load).alarms])
        event = LoadEvent.objects.get()
        answer = self.client.post(self.at("load_event", load.tag, event.pk), {"do": "over"}, follow=True)
        self.assertContains(answer, 'value="on"')
        self.assertNotIn("told", [code for code, _ in running.now(load).alarms])
        stands = LoadEvent.objects.standing().get()
        self.assertIsNotNone(stands.until)
        self.client.post(self.at("load_event", load.tag, stands.pk), {"do": "strike"})
        self.assertFalse(LoadEvent.objects.standing().exists())
        self.client.post(self.at("load_event", load.tag, stands.pk), {"do": "back"})
        self.assertEqual(LoadEvent.objects.standing().get().until, stands.until)

    def test_two_at_one_event_are_not_both_heard(self):
        load = self.begin()
        self.note(load, "a", goes_on="on")
        event = LoadEvent.objects.get()
        actions.change_event(self.owner, load, event, "over")
        with self.assertRaisesMessage(Refused, "Someone else"):
            actions.change_event(self.owner, load, event, "strike")
        with self.assertRaisesMessage(Refused, "Nothing is known"):
            actions.change_event(self.owner, load, event, "drop")

    def test_what_cannot_be_is_said_beside_its_field_and_stays_typed(self):
        load, now = self.begin(), timezone.now()
        for fields, said in (
            ({"at": self.local(now + timedelta(hours=3)), "goes_on": "on"}, "in the future"),
            ({"at": self.local(now - timedelta(hours=1)), "until": self.local(now - timedelta(hours=3))}, "changed about"),
            ({"at": self.local(now - timedelta(days=20)), "goes_on": "on"}, "before the load began"),
            ({"at": self.local(now - timedelta(hours=1))}, "Until when?"),
            ({"until": self.local(now - timedelta(hours=1)), "goes_on": "on"}, "which of the two"),
            ({"at": "tomorrow", "goes_on": "on"}, "no moment of the calendar"),
        ):
            with self.subTest(said):
                answer = self.note(load, said, words="dark", **fields)
                self.assertContains(answer, said, status_code=422)
                self.assertContains(answer, 'value="dark"', status_code=422)
        self.assertFalse(LoadEvent.objects.exists())


class Samples(Recorded):
    def cut(self, load: Load, once: str = "a", **fields):
        sent = {"tag": "A", "piece": self.lot.pk, "mass_kg": "3.3 kg", "once": once}
        return self.client.post(self.at("cut_sample", load.tag), sent | fields)

    def test_sections_say_its_moisture(self):
        load = self.begin()
        self.cut(load, wet_1="180 g", dry_1="108 g", wet_2="170 g", dry_2="104 g")
        sample = load.samples.get()
        moisture = (180 / 108 + 170 / 104) / 2 - 1
        self.assertAlmostEqual(sample.dry_mass_kg, 3.3 / (1 + moisture))
        self.assertEqual(sample.sections.count(), 2)

    def test_while_they_are_in_the_oven_it_does_not_count_and_then_it_does(self):
        load = self.begin()
        answer = self.client.get(self.cut(load, wet_1="180 g").url)
        sample = load.samples.get()
        self.assertContains(answer, "counts once its sections are out of the oven")
        self.assertEqual(running.now(load).samples, [])
        # It is weighed meanwhile all the same.
        self.client.post(self.at("weigh_samples", load.tag), {f"m{sample.pk}": "3.29 kg", "once": "b"})
        section = sample.sections.get()
        heavy = self.client.post(self.at("out_of_the_oven", load.tag, sample.pk), {f"dry_{section.pk}": "190 g", "once": "c"})
        self.assertContains(heavy, "never weighs more dry than wet", status_code=422)
        self.client.post(self.at("out_of_the_oven", load.tag, sample.pk), {f"dry_{section.pk}": "108 g", "once": "d"})
        current = running.now(load)
        self.assertEqual([len(item.rows) for item in current.samples], [2])
        self.assertAlmostEqual(current.samples[0].rows[0][1], 180 / 108 - 1, places=3)

    def test_what_cannot_be_is_refused_in_words(self):
        load = self.begin()
        for fields, said in (
            ({}, "Type what its sections weigh"),
            ({"wet_1": "100 g", "dry_1": "120 g"}, "never weighs more dry than wet"),
            ({"dry_1": "100 g"}, "What did it weigh when it was cut?"),
            ({"wet_1": "180 g", "dry_1": "100 g", "moisture": "70"}, "say that already"),
            ({"wet_1": "180 g", "dry_1": "100 g", "wet_2": "180 g", "dry_2": "140 g"}, "differ too much"),
        ):
            with self.subTest(said):
                self.assertContains(self.cut(load, said, **fields), said, status_code=422)
        self.assertFalse(load.samples.exists())

    def test_a_slip_is_asked_about_with_what_was_meant_and_kept_where_it_is_so(self):
        load = self.begin()
        began = load.began_at
        sample = actions.add_sample(self.owner, load, "A", self.lot, 0.0950, 0.60, began)
        actions.weigh(self.owner, load, [(sample, 0.0910)], began + timedelta(days=8))
        sent = {f"m{sample.pk}": "98.2 g", "once": "a"}
        asked = self.client.post(self.at("weigh_samples", load.tag), sent | {f"m{sample.pk}": "98.2"})
        self.assertContains(asked, "98.2 g after 91 g: 90.2?", status_code=422)
        self.assertContains(asked, "does weigh that", status_code=422)
        self.assertEqual(sample.weights.count(), 2)
        self.client.post(self.at("weigh_samples", load.tag), sent | {f"so{sample.pk}": "on"})
        self.assertEqual(sample.weights.count(), 3)

    def test_every_weight_stands_in_the_record_with_its_day(self):
        load = self.begin()
        sample = actions.add_sample(self.owner, load, "=A", self.lot, 3.3, 0.65, load.began_at)
        for day in (1, 2, 5):
            actions.weigh(self.owner, load, [(sample, 3.3 - 0.05 * day)], load.began_at + timedelta(days=day))
        page = text_of(self.client.get(self.at("load_record", load.tag)))
        for said in ("3300 g", "3050 g", percent(0.525).replace("\xa0", " "), "5.0"):
            self.assertIn(said, page)
        self.assertContains(self.client.get(self.at("load_record", load.tag)), "paper-only ruled")
        out = b"".join(self.client.get(self.at("load_weights_out", load.tag)).streaming_content).decode("utf-8-sig")
        rows = list(csv.reader(io.StringIO(out)))
        # A tag that looks like a formula is carried out by no spreadsheet.
        self.assertEqual(rows[0], ["at", "day", "'=A g", "'=A %"])
        self.assertEqual([float(row[1]) for row in rows[1:]], [0.0, 1.0, 2.0, 5.0])


class InItsMiddle(Recorded):
    def test_a_load_that_runs_already_is_followed_from_what_it_is_at_now(self):
        sent = {"lots": self.lot.tag, "chamber": self.chamber.pk, "wanted": "8", "care": "usual", "even": "on", "condition": "on"}
        day = (timezone.localdate() - timedelta(days=12)).isoformat()
        both = self.client.post(self.at("begin_load"), sent | {"start": "60", "now": "22", "once": "a"})
        self.assertContains(both, "leave the other empty", status_code=422)
        self.client.post(self.at("begin_load"), sent | {"began_on": day, "now": "22", "once": "b"})
        load = Load.objects.get()
        current = running.now(load)
        self.assertAlmostEqual(running.moistures(current)[self.lot.tag], 0.22, delta=0.005)
        self.assertGreater(current.days_run, 11)
        self.assertNotIn("warming", [setting.kind.value for setting in current.program.settings])
        # Foretold from the day it began on.
        self.assertAlmostEqual(load.foretold_days, current.forecast.ran.days + current.days_run - current.day, delta=0.2)


class BeforeItBegins(Recorded):
    def test_more_than_the_chamber_holds_and_woods_that_do_not_go_together_are_said(self):
        pine = make_lot(self.owner, 900, "eastern_white_pine", thickness_m=0.027)
        oak = make_lot(self.owner, 20, "white_oak", thickness_m=0.054)
        sent = {
            "lots": f"{pine.tag} {oak.tag}",
            "chamber": self.chamber.pk,
            "wanted": "8",
            "care": "usual",
            "even": "on",
            "condition": "on",
        }
        asked = self.client.post(self.at("begin_load"), sent | {"once": "a"})
        self.assertContains(asked, "and Lean-to holds 1.00 m³", status_code=422)
        self.assertContains(asked, "better dried apart", status_code=422)
        self.assertFalse(Load.objects.exists())
        self.assertEqual(self.client.post(self.at("begin_load"), sent | {"once": "a", "anyway": "on"}).status_code, 302)


class Season(Recorded):
    def end(self, load: Load, **more):
        self.client.post(self.at("end_load", load.tag), {"version": load.version, "once": load.tag} | more)
        load.refresh_from_db()

    def test_a_load_says_how_it_went_and_the_season_says_the_same(self):
        load = self.begin(days=30)
        actions.foretell(self.owner, load, 25.0, 20.0, 32.0)
        actions.find_degrade(self.owner, load, "warp", 3, 60, "")
        self.end(load, out_m3="0.30", learnt="weigh oftener at first", weighed_out_kg="500")
        row = LoadLot.objects.get(load=load)
        self.assertTrue(row.driest <= row.came <= row.wettest)
        outcome = outcomes.of_load(load)
        self.assertAlmostEqual(outcome.times_as_long, 30 / 25, delta=0.01)
        for address in (self.at("load", load.tag), self.at("kiln_record")):
            page = text_of(self.client.get(address))
            for said in ("25", "30", percent(row.came).replace("\xa0", " "), "weigh oftener at first", "arp on 3 of 60"):
                self.assertIn(said, page)
        self.assertIn("1.2 times as long as forecast", text_of(self.client.get(self.at("kiln_record"))))

    def test_its_water_is_what_its_lots_lost_where_nothing_else_tells(self):
        load = self.begin(days=30)
        self.end(load)
        outcome, row = outcomes.of_load(load), LoadLot.objects.get(load=load)
        dry_kg = running.now(load).forecast.ran.dry_mass_kg
        self.assertAlmostEqual(outcome.water_kg, dry_kg * (row.start - row.came), delta=0.02 * outcome.water_kg)

    def test_stacks_stand_beside_loads_and_all_goes_out_as_a_table(self):
        yard = make_aired_place(self.owner, name="Yard", kind="yard", temperature_c=14.0, relative_humidity=0.72)
        ash = make_lot(self.owner, 30, "white_ash")
        built = timezone.localdate() - timedelta(days=200)
        stack = stacks.build_stack(self.owner, [ash], yard, built, 0.45, width_m=1.2, sticker_m=0.019, spacing_m=0.4, clear_m=0.3)
        self.client.post(self.at("take_down", stack.tag), {"version": stack.version, "learnt": "north side slow", "once": "z"})
        self.begin(days=3)
        page = text_of(self.client.get(self.at("kiln_record")))
        self.assertIn("north side slow", page)
        self.assertIn("3 so far", page)
        out = b"".join(self.client.get(self.at("kiln_record_out")).streaming_content).decode("utf-8-sig")
        rows = list(csv.DictReader(io.StringIO(out)))
        self.assertEqual([row["tag"] for row in rows], ["load-01", "stack-01"])
        self.assertEqual((rows[0]["ended"], rows[1]["days taken"], rows[1]["learnt"]), ("", "200.0", "north side slow"))
        self.assertTrue(float(rows[1]["driest %"]) <= float(rows[1]["came %"]) <= float(rows[1]["wettest %"]))
        self.assertIn("learnt", self.client.get(self.at("stack", stack.tag)).content.decode())

    def test_what_came_of_it_can_be_told_later(self):
        load = self.begin(days=30)
        with self.assertRaisesMessage(Refused, "once it is out"):
            actions.tell_outcome(self.owner, load, None, "too soon")
        self.end(load)
        self.client.post(self.at("outcome_of_load", load.tag), {"out_m3": "0.25 m3", "learnt": "good", "once": "q"})
        load.refresh_from_db()
        self.assertEqual((load.out_m3, load.learnt), (0.25, "good"))
