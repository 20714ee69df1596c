"""The door for devices: let in, told, asked, shut out; twice, late, nonsense; and a simulated controller that speaks to it."""

import json
from datetime import UTC, datetime, timedelta

from django.core.signals import request_finished, request_started
from django.db import close_old_connections, transaction
from django.test import TestCase
from django.urls import reverse
from django.utils import timezone

from calm_heron.devices import actions
from calm_heron.devices.models import Device, Received
from calm_heron.kiln import actions as kiln
from calm_heron.kiln.models import Chamber, ChamberHour, ChamberReading, Load
from calm_heron.kiln.runs import running
from calm_heron.workshops.models import Role
from calm_heron.workshops.refusals import Refused
from simulators.kiln_controller import Chamber as Simulated
from simulators.kiln_controller import run
from simulators.scale import HiddenSample
from simulators.scale import run as weigh_all
from tests.at_the_door import DoorHere
from tests.factories import make_lot, make_member, make_owner
from tests.pages import text_of
from tests.walks import far
from wood.air import climate
from wood.kiln import chambers
from wood.kiln.chambers import Kind
from wood.kiln.sharing import Lot
from wood.species import species_named


class AtTheDoor(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.owner = make_owner()
        cls.chamber = Chamber.objects.create(
            workshop=cls.owner.workshop, name="Lean-to", kind="dehumidifier", load_m3=1.0, hottest_c=50.0, heat_kw=2.0, litres_a_day=24.0
        )
        cls.device, cls.token = actions.let_in(cls.owner, "controller", "kiln", cls.chamber.pk)

    def begin(self, hours: float = 48) -> Load:
        lot = make_lot(self.owner, 60, "sugar_maple")
        return kiln.begin_load(self.owner, [(lot, 0.64)], self.chamber, timezone.now() - timedelta(hours=hours), wanted=0.08)

    def tell(self, readings, token: str = "", sent_at=None):
        body = {"sent_at": (sent_at or datetime.now(UTC)).isoformat(), "readings": readings}
        return self.client.post(
            "/devices/v1/readings",
            json.dumps(body),
            content_type="application/json",
            headers={"authorization": f"Bearer {token or self.token}"},
        )

    def reading(self, key: str = "a", ago: timedelta = timedelta(minutes=1), **more) -> dict:
        return {"key": key, "at": (datetime.now(UTC) - ago).isoformat(), "dry_bulb_c": 43.0, "wet_bulb_c": 41.0} | more


class Door(AtTheDoor):
    def test_a_reading_is_kept_once_however_often_it_is_sent(self):
        load = self.begin()
        self.assertEqual(self.tell([self.reading("a"), self.reading("b", power_kwh=0.5)]).json(), {"kept": 2, "known": 0, "refused": []})
        self.assertEqual(
            self.tell([self.reading("b"), self.reading("c"), self.reading("c")]).json(), {"kept": 1, "known": 2, "refused": []}
        )
        self.assertEqual(load.air.count(), 3)
        self.assertEqual(sum(hour.count for hour in ChamberHour.objects.filter(load=load)), 3)
        self.assertAlmostEqual(running.counted(load)[0], 0.5)

    def test_a_season_of_hours_is_drawn_in_few_points_and_its_one_hot_hour_among_them(self):
        load = self.begin(hours=3_000)
        ChamberHour.objects.bulk_create(
            ChamberHour(
                workshop=load.workshop,
                load=load,
                hour=load.followed_from + timedelta(hours=hour),
                count=4,
                dry_bulb_sum=4 * (71.0 if hour == 1_234 else 43.0),
                humidity_sum=4 * 0.8,
            )
            for hour in range(-24, 3_000)
        )
        air = running.air_of(load)
        self.assertLess(len(air), 2 * running.MOST_STRETCHES)
        days = [day for day, _, _ in air]
        self.assertEqual(days, sorted(days))
        self.assertGreater(days[0], -0.1)
        self.assertAlmostEqual(days[-1], 125, delta=0.5)
        (hot,) = [day for day, dry, _ in air if dry > 43.001]
        self.assertAlmostEqual(hot, 1_234 / 24, delta=0.5)
        self.assertEqual(max(dry for _, dry, _ in air), 71.0)
        # The wet bulb of 43°C and 80% RH by the psychrometric chart is 39.2°C.
        self.assertAlmostEqual(air[0][2], 39.2, delta=0.3)

    def test_what_cannot_be_kept_says_why_and_the_rest_is_kept(self):
        self.assertEqual(self.tell([self.reading()]).json()["refused"], [{"key": "a", "why": "no load runs in this kiln"}])
        self.begin(hours=2)
        said = {
            item["key"]: item["why"]
            for item in self.tell(
                [
                    self.reading("good"),
                    self.reading("early", timedelta(hours=5)),
                    self.reading("ahead", timedelta(hours=-1)),
                    self.reading("old", timedelta(days=60)),
                    self.reading("odd", wet_bulb_c=60.0),
                    {"key": "bare", "at": datetime.now(UTC).isoformat()},
                ]
            ).json()["refused"]
        }
        self.assertEqual(set(said), {"early", "ahead", "old", "odd", "bare"})
        self.assertEqual(ChamberReading.objects.count(), 1)
        # What is nonsense by itself is refused by itself.
        nonsense = [
            {"key": "", "at": "now"},
            self.reading("n1", dry_bulb_c=9e9),
            self.reading("n2", surprise=1),
            self.reading("n3", humidity=1.4),
        ]
        said = self.tell([*nonsense, self.reading("good again")]).json()
        self.assertEqual((said["kept"], len(said["refused"])), (1, 4))
        # A batch that is none is refused whole.
        for nothing in ([], [self.reading(str(k)) for k in range(501)]):
            self.assertEqual(self.tell(nothing).status_code, 422)
        self.assertEqual(
            self.client.post(
                "/devices/v1/readings", "{", content_type="application/json", headers={"authorization": f"Bearer {self.token}"}
            ).status_code,
            400,
        )

    def test_a_clock_that_is_off_is_recorded_and_put_right_once_three_batches_agree(self):
        load = self.begin()
        for key in "abc":
            ahead = datetime.now(UTC) + timedelta(hours=3)
            kept = self.tell([{"key": key, "at": ahead.isoformat(), "dry_bulb_c": 43.0, "humidity": 0.8}], sent_at=ahead).json()["kept"]
            self.assertEqual(kept, 1 if key == "c" else 0)
        self.device.refresh_from_db()
        self.assertAlmostEqual(self.device.skew_s, 3 * 3600, delta=5)
        self.assertLess(abs((load.air.get().at - timezone.now()).total_seconds()), 5)

    def test_what_is_hotter_than_its_chamber_gets_is_kept_and_marked(self):
        load = self.begin()
        hot = load.chamber.hottest_c + 30.0
        self.assertEqual(self.tell([self.reading(dry_bulb_c=hot, wet_bulb_c=None, humidity=0.3)]).json()["kept"], 1)
        self.assertIn("hotter than this kiln gets", load.air.get().fault)

    def test_a_token_that_is_wrong_or_shut_out_opens_nothing(self):
        self.assertEqual(self.tell([self.reading()], token="wrong").status_code, 401)
        actions.shut_out(self.owner, self.device, self.device.version)
        self.assertEqual(self.tell([self.reading()]).status_code, 401)
        self.assertEqual(Device.objects.get().token_digest, actions.digest(self.token))
        self.assertNotIn(self.token, str(Device.objects.values()))

    def test_it_is_told_what_the_program_says_and_nothing_where_nothing_runs(self):
        ask = lambda: self.client.get("/devices/v1/setting", headers={"authorization": f"Bearer {self.token}"}).json()  # noqa: E731
        self.assertEqual(ask(), {"load": None})
        load = self.begin()
        said, result = ask(), running.now(load)
        self.assertEqual((said["load"], said["step"]), (load.tag, result.position))
        self.assertAlmostEqual(said["dry_bulb_c"], result.setting.dry_bulb_c, places=2)
        self.assertContains(self.client.get("/devices/v1/openapi.json"), "Tell what was read")

    def test_the_page_shows_a_token_once_and_shuts_out(self):
        self.client.force_login(self.owner.person)
        address = reverse("devices", args=[self.owner.workshop.slug])
        new = reverse("new_device", args=[self.owner.workshop.slug, "kiln"])
        page = self.client.post(new, {"name": "second", "about": self.chamber.pk, "once": "a"})
        self.assertTrue(page.context["token"])
        self.assertNotContains(self.client.get(address), page.context["token"])
        again = self.client.post(new, {"name": "Second", "about": self.chamber.pk, "once": "b"})
        self.assertContains(again, "called Second already", status_code=422)
        second = Device.objects.get(name="second")
        self.client.post(reverse("shut_out_device", args=[self.owner.workshop.slug, second.pk]), {"version": "1", "once": "c"})
        self.assertNotContains(self.client.get(address), ">second<")
        viewer = make_member(self.owner, Role.VIEWER)
        self.client.force_login(viewer.person)
        self.assertEqual(self.client.get(address).status_code, 403)
        with self.assertRaises(Refused):
            actions.shut_out(self.owner, second, 2)

    def test_a_simulated_controller_follows_the_program_and_its_failure_is_seen(self):
        load = self.begin(hours=30)
        maple = species_named("sugar_maple")
        chamber = Simulated(
            Lot("load", maple, 0.0286, 0.64, 0.5), chambers.usual(Kind.DEHUMIDIFIER, 0.5), climate.pattern("mild_inland").year, 0.85
        )
        answer = run(
            DoorHere(self.client, self.token), chamber, hours=30, begins=load.began_at, fails=lambda hour: "heat" if hour >= 28 else ""
        )
        self.assertEqual(len(answer), 30)
        self.assertEqual(Received.objects.count(), 30)
        self.assertGreater(answer[20]["dry_bulb_c"], answer[0]["dry_bulb_c"] + 15)
        self.assertTrue(all(item["wet_bulb_c"] <= item["dry_bulb_c"] for item in answer))
        self.client.force_login(self.owner.person)
        words = text_of(self.client.get(reverse("load", args=[self.owner.workshop.slug, load.tag])))
        self.assertIn("The controller reports: no heat", words)
        self.assertTrue(load.hours.exists())

    def test_each_alarm_is_raised_by_the_simulators_own_failure(self):
        maple = species_named("sugar_maple")
        failures = {
            "": set(),
            "fans": {"fans"},
            "heat": {"off"},
            "door": {"off"},
            "power": {"silent"},
            "stuck": {"stuck"},
        }
        # Each begins at an hour of its own, so that no key comes twice.
        for hours, (failure, alarms) in enumerate(failures.items(), 36):
            with self.subTest(failure):
                load = self.begin(hours=hours)
                chamber = Simulated(
                    Lot("load", maple, 0.0286, 0.64, 0.5), chambers.usual(Kind.DEHUMIDIFIER, 0.5), climate.pattern("mild_inland").year, 1.0
                )
                run(
                    DoorHere(self.client, self.token),
                    chamber,
                    hours=hours,
                    begins=load.began_at,
                    fails=lambda hour, failure=failure, last=hours - 16: failure if hour >= last else "",
                    notices=False,
                    each_hour=3,
                )
                codes = {code for code, _ in running.now(load).alarms} - {"no_samples"}
                self.assertTrue(alarms <= codes if alarms else not codes, codes)
                self.client.force_login(self.owner.person)
                page = self.client.get(reverse("load", args=[self.owner.workshop.slug, load.tag]))
                self.assertEqual(len(page.context["alarms"]), len(codes) + 1)
                kiln.end_load(self.owner, load, load.version)


class ScaleAtTheDoor(AtTheDoor):
    """The scale for sample boards, and the simulated one."""

    def test_a_simulated_scale_weighs_its_samples_and_a_slip_is_refused(self):
        load = self.begin(hours=24 * 8)
        lot = load.lots.get().piece
        hidden = HiddenSample("A", "sugar_maple", 0.0286, 0.66, 1.9)
        sample = kiln.add_sample(self.owner, load, "A", lot, 1.9 * 1.66, 0.66, load.began_at)
        _, token = actions.let_in(self.owner, "scale", "samples", self.chamber.pk)
        scale = DoorHere(self.client, token)
        self.assertEqual(scale.ask(), {"load": "load-01", "weigh": ["A"]})
        weigh_all(scale, [hidden], days=[1, 2, 4, 6, 7], begins=load.began_at, slip="A")
        # The last was told ten times as heavy.
        self.assertEqual(sample.weights.count(), 5)
        current = running.now(load)
        self.assertAlmostEqual(current.samples[0].now, float(hidden.masses_kg([6.0], climate.constant(18.0, 0.5))[0]) / 1.9 - 1, delta=0.02)
        why = self.tell([{"key": "x", "at": datetime.now(UTC).isoformat(), "tag": "Z", "mass_kg": 2.0}], token=token).json()["refused"]
        self.assertEqual(why[0]["why"], "load-01 has no sample with this tag")


class TheSchema(AtTheDoor):
    """Whatever the door's own description allows, and what it does not: answered as it is described, never with an error of ours."""

    def test_what_it_describes_is_what_it_does(self):
        self.begin()
        # Read only here: it brings much with it that no other test wants.
        import schemathesis
        from hypothesis import HealthCheck, given, settings
        from schemathesis.specs.openapi.checks import content_type_conformance, response_schema_conformance

        from calm_heron.wsgi import application

        # A request of its own kind: it must not close the connection that this test's transaction is in.
        for signal in (request_started, request_finished):
            signal.disconnect(close_old_connections)
            self.addCleanup(signal.connect, close_old_connections)
        schema = schemathesis.openapi.from_wsgi("/devices/v1/openapi.json", application, headers={"host": "testserver"})
        walked = []
        for found in schema.get_all_operations():
            operation = found.ok()
            walked.append(operation.label)
            for mode in schemathesis.GenerationMode:

                @settings(max_examples=far(20, 1000), deadline=None, database=None, suppress_health_check=list(HealthCheck))
                @given(case=operation.as_strategy(generation_mode=mode))
                def answered(case):
                    with transaction.atomic():
                        known = {"Authorization": f"Bearer {self.token}", "Host": "testserver", "Accept-Encoding": "identity"}
                        answer = case.call(headers=known)
                        # Without a token in the wrong cases that leave it out.
                        self.assertIn(answer.status_code, (200, 400, 401, 405, 415, 422))
                        if answer.status_code == 200:
                            case.validate_response(answer, checks=[response_schema_conformance, content_type_conformance])
                        transaction.set_rollback(True)

                with self.subTest(operation.label, mode=mode):
                    answered()
        self.assertEqual(walked, ["POST /devices/v1/readings", "GET /devices/v1/setting"])
