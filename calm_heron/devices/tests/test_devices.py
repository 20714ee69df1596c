"""Letting devices in and shutting them out: who may, what they get, and that a token opens one door only."""

import json
from datetime import UTC, datetime, timedelta

from django.core.exceptions import PermissionDenied
from django.test import TestCase, override_settings
from django.urls import reverse
from django.utils import timezone
from procrastinate.contrib.django.models import ProcrastinateJob

from calm_heron.answers.changes import counts_of
from calm_heron.devices import actions, door
from calm_heron.devices.models import Device
from calm_heron.plugs import RECEIVERS
from calm_heron.workshops.models import Role
from calm_heron.workshops.refusals import Refused
from calm_heron.workshops.versions import Overtaken
from tests.factories import make_bowl, make_member, make_owner
from tests.pages import text_of


class DeviceCase(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.owner = make_owner()
        cls.bowl = make_bowl(cls.owner)

    def setUp(self):
        self.client.force_login(self.owner.person)

    def at(self, name: str, *args):
        return reverse(name, args=[self.owner.workshop.slug, *args])

    def scale(self, name: str = "kitchen scale") -> tuple[Device, str]:
        return actions.let_in(self.owner, name, "scale", 0)

    def weight(self, key: str = "a") -> dict:
        return {"key": key, "at": (datetime.now(UTC) - timedelta(minutes=2)).isoformat(), "tag": self.bowl.tag, "mass_kg": 1.4}

    def tell(self, token: str, readings, sent_at: datetime | None = None):
        body = {"sent_at": (sent_at or datetime.now(UTC)).isoformat(), "readings": readings}
        return self.client.post(
            "/devices/v1/readings",
            json.dumps(body),
            content_type="application/json",
            headers={"authorization": f"Bearer {token}"},
        )


class LettingIn(DeviceCase):
    def test_a_token_is_shown_once_and_only_its_digest_is_kept(self):
        device, token = self.scale()
        self.assertGreater(len(token), 30)
        self.assertEqual(device.token_digest, actions.digest(token))
        self.assertNotIn(token, str(vars(device)))

    def test_no_two_tokens_are_alike(self):
        tokens = {self.scale(f"scale {n}")[1] for n in range(8)}
        self.assertEqual(len(tokens), 8)

    def test_a_name_stands_for_one_device_however_it_is_written(self):
        self.scale("Kitchen scale")
        with self.assertRaisesMessage(Refused, "There is a device called kitchen SCALE already."):
            self.scale("kitchen SCALE")

    def test_a_name_is_free_again_once_it_is_shut_out(self):
        device, _ = self.scale()
        actions.shut_out(self.owner, device, device.version)
        self.assertNotEqual(self.scale()[0].pk, device.pk)

    def test_there_is_an_end_to_them(self):
        for number in range(actions.MOST):
            self.scale(f"scale {number}")
        with self.assertRaisesMessage(Refused, "shut one out first"):
            self.scale("one more")

    def test_helpers_and_viewers_let_nobody_in(self):
        for role in (Role.HELPER, Role.VIEWER):
            member = make_member(self.owner, role)
            with self.assertRaises(PermissionDenied):
                actions.let_in(member, f"of a {role}", "scale", 0)

    def test_both_deeds_stand_in_the_log(self):
        device, _ = self.scale()
        actions.shut_out(self.owner, device, device.version)
        page = text_of(self.client.get(self.at("log")))
        self.assertIn("Device kitchen scale let in", page)
        self.assertIn("Device kitchen scale shut out", page)


class Behind(DeviceCase):
    @override_settings(WORK_BEHIND=True)
    def test_what_is_taken_has_answers_renewed_and_what_is_known_changes_none(self):
        _, token = self.scale()
        weight = self.weight()
        self.assertEqual(self.tell(token, [weight]).status_code, 200)
        self.assertEqual(ProcrastinateJob.objects.filter(task_name="answers.renew").count(), 1)
        before = counts_of(self.owner.workshop.pk)
        self.tell(token, [weight])
        self.assertEqual(counts_of(self.owner.workshop.pk), before)


class ShuttingOut(DeviceCase):
    def test_its_token_opens_nothing_any_more_and_what_it_sent_stays(self):
        device, token = self.scale()
        self.assertEqual(self.tell(token, [self.weight()]).status_code, 200)
        actions.shut_out(self.owner, device, device.version)
        self.assertEqual(self.tell(token, [self.weight("b")]).status_code, 401)
        self.assertEqual(device.received.count(), 1)

    def test_the_second_of_two_is_told(self):
        device, _ = self.scale()
        actions.shut_out(self.owner, device, device.version)
        with self.assertRaises((Refused, Overtaken)):
            actions.shut_out(self.owner, device, device.version)
        device.refresh_from_db()
        with self.assertRaisesMessage(Refused, "is shut out already"):
            actions.shut_out(self.owner, device, device.version)

    def test_by_its_button(self):
        device, _ = self.scale()
        self.client.post(self.at("shut_out_device", device.pk), {"version": device.version})
        device.refresh_from_db()
        self.assertIsNotNone(device.revoked_at)
        self.assertNotIn("kitchen scale", text_of(self.client.get(self.at("devices"))).replace("kitchen scale is shut out", ""))

    def test_a_form_that_says_nothing_changes_nothing(self):
        device, _ = self.scale()
        for version in ("", "x", "-3"):
            self.client.post(self.at("shut_out_device", device.pk), {"version": version})
        device.refresh_from_db()
        self.assertIsNone(device.revoked_at)

    def test_another_workshops_device_is_not_there(self):
        other = make_owner()
        device, _ = actions.let_in(other, "theirs", "scale", 0)
        answer = self.client.post(self.at("shut_out_device", device.pk), {"version": device.version})
        self.assertEqual(answer.status_code, 404)


class ThePage(DeviceCase):
    def test_a_device_is_let_in_and_its_token_shown_once(self):
        answer = self.client.post(self.at("new_device", "scale"), {"name": "  Bench scale ", "about": "0"})
        token = answer.context["token"]
        self.assertContains(answer, token)
        self.assertContains(answer, "/devices/v1/")
        self.assertEqual(Device.objects.of(self.owner.workshop).get().name, "Bench scale")
        self.assertNotContains(self.client.get(self.at("devices")), token)

    def test_a_form_that_is_sent_twice_lets_in_one(self):
        form = {"name": "Bench scale", "about": "0", "once": "a"}
        self.client.post(self.at("new_device", "scale"), form)
        again = self.client.post(self.at("new_device", "scale"), form, follow=True)
        self.assertIn("carried out before", text_of(again))
        self.assertEqual(Device.objects.of(self.owner.workshop).count(), 1)

    def test_what_is_wrong_is_told_beside_its_field_and_stays(self):
        self.scale("Bench scale")
        answer = self.client.post(self.at("new_device", "scale"), {"name": "bench scale", "about": "0"})
        self.assertContains(answer, "There is a device called bench scale already.", status_code=422)
        self.assertContains(answer, 'value="bench scale"', status_code=422)
        for name, about in (("", "0"), ("x" * 61, "0"), ("y", "999999"), ("y", "nonsense"), ("y", "")):
            self.assertEqual(self.client.post(self.at("new_device", "scale"), {"name": name, "about": about}).status_code, 422)
        self.assertEqual(Device.objects.of(self.owner.workshop).count(), 1)

    def test_every_kind_is_named_and_one_that_can_speak_for_something_is_offered(self):
        page = self.client.get(self.at("devices"))
        for receiver in RECEIVERS:
            self.assertContains(page, receiver.name)
            address = self.at("new_device", receiver.kind)
            can = receiver.instruments(self.owner.workshop) if receiver.fixed else receiver.offers(self.owner.workshop)
            self.assertEqual(f'href="{address}"' in page.content.decode(), bool(can), receiver.kind)
            self.assertEqual(self.client.get(address).status_code, 200)
        self.assertEqual(self.client.get(self.at("new_device", "saw")).status_code, 404)

    def test_what_each_said_last_its_clock_and_its_command_stand_there(self):
        _, token = self.scale()
        self.assertIn("never spoke", text_of(self.client.get(self.at("devices"))))
        self.tell(token, [self.weight("a")])
        page = text_of(self.client.get(self.at("devices")))
        self.assertIn(f"{self.bowl.tag}: 1400 g, 2 minutes ago", page)
        self.assertIn("Its clock is right", page)
        self.assertIn("./heron simulate scale --bowl", page)
        self.tell(token, [self.weight("b") | {"mass_kg": 14.0}])
        self.assertIn("Its last reading was refused", text_of(self.client.get(self.at("devices"))))

    def test_helpers_may_not_even_look(self):
        self.client.force_login(make_member(self.owner, Role.HELPER).person)
        self.assertEqual(self.client.get(self.at("devices")).status_code, 403)


class TheDoor(DeviceCase):
    def test_without_a_token_of_ours_nothing_is_said(self):
        for token in ("", "nonsense", "x" * 5000):
            self.assertEqual(self.tell(token, [{"key": "a", "at": datetime.now(UTC).isoformat()}]).status_code, 401)
        self.assertEqual(self.client.get("/devices/v1/setting").status_code, 401)

    def test_a_signed_in_person_is_no_device(self):
        answer = self.client.post("/devices/v1/readings", "{}", content_type="application/json")
        self.assertEqual(answer.status_code, 401)

    def test_a_batch_that_is_none_is_refused_whole(self):
        _, token = self.scale()
        reading = {"key": "a", "at": datetime.now(UTC).isoformat(), "tag": self.bowl.tag, "mass_kg": 1.4}
        for readings in ([], "x", [reading] * 501):
            with self.subTest(str(readings)[:40]):
                self.assertEqual(self.tell(token, readings).status_code, 422)

    def test_one_that_cannot_be_kept_is_refused_with_its_reason_and_the_rest_is_kept(self):
        """Nulls, half characters, true for a number, the years 1 and 9999, what no scale weighs: never an error of ours."""
        _, token = self.scale()
        good = self.weight("good")
        for nasty in (
            good | {"key": ""},
            good | {"key": "k" * 65},
            good | {"key": "a\x00b"},
            good | {"key": "\ud800"},
            good | {"key": "f", "fault": "\x00"},
            good | {"key": "t", "tag": "a\x00"},
            good | {"key": "y", "at": "yesterday"},
            good | {"key": "1", "at": "0001-01-01T00:00:00+14:00"},
            good | {"key": "9", "at": "9999-12-31T23:59:59-14:00"},
            good | {"key": "b", "mass_kg": True},
            good | {"key": "h", "mass_kg": 1e308},
            good | {"key": "x", "surprise\x00": 1},
            "text",
            None,
            7,
            [good],
        ):
            with self.subTest(str(nasty)[:60]):
                answer = self.tell(token, [nasty, good])
                self.assertEqual(answer.status_code, 200, answer.content[:200])
                said = answer.json()
                self.assertEqual(said["kept"] + said["known"], 1)
                self.assertEqual(len(said["refused"]), 1)
                self.assertTrue(said["refused"][0]["why"])

    def test_a_batch_from_the_years_1_and_9999_is_answered(self):
        _, token = self.scale()
        for number, year in enumerate(("0001-01-01T00:00:00+14:00", "0002-06-01T00:00:00Z", "9999-12-31T23:59:59-14:00")):
            body = json.dumps({"sent_at": year, "readings": [self.weight(str(number))]})
            sent = {"content_type": "application/json", "headers": {"authorization": f"Bearer {token}"}}
            self.assertEqual(self.client.post("/devices/v1/readings", body, **sent).status_code, 200)

    def test_a_steady_offset_is_put_right_once_three_batches_agree_whatever_its_size(self):
        device, token = self.scale()
        for number, hours in enumerate((-26_000, -26_000, -26_000)):
            said = self.tell(token, [self.told_off(str(number), hours)], sent_at=self.off(hours)).json()
            self.assertEqual(said["kept"], 1 if number == 2 else 0, said)
        device.refresh_from_db()
        self.assertAlmostEqual(device.steady_offset_s, -26_000 * 3600, delta=10)

    def test_what_merely_arrives_late_keeps_its_moments(self):
        """A batch that is sent again hours later, as it was: its age is no wrong clock."""
        device, token = self.scale()
        sent_at = datetime.now(UTC) - timedelta(hours=4)
        weight = self.weight("late") | {"at": (sent_at - timedelta(minutes=2)).isoformat()}
        for _ in range(3):
            self.tell(token, [weight], sent_at=sent_at)
        device.refresh_from_db()
        self.assertEqual(device.steady_offset_s, 0.0)
        kept = self.bowl.readings.get()
        self.assertLess(abs((kept.at - datetime.fromisoformat(weight["at"])).total_seconds()), 1)
        for number in range(3):
            later = self.weight(f"later {number}") | {"mass_kg": 1.39}
            self.tell(token, [later], sent_at=datetime.now(UTC) - timedelta(hours=number * 2))
        device.refresh_from_db()
        self.assertEqual(device.steady_offset_s, 0.0)

    def off(self, hours: float) -> datetime:
        return datetime.now(UTC) + timedelta(hours=hours)

    def told_off(self, key: str, hours: float) -> dict:
        """A weight of two minutes ago by a clock that is so far ahead."""
        return self.weight(key) | {"at": (self.off(hours) - timedelta(minutes=2)).isoformat()}

    def test_when_it_last_spoke_and_how_far_off_its_clock_is_are_kept(self):
        device, token = self.scale()
        self.tell(token, [{"key": "a", "at": datetime.now(UTC).isoformat(), "tag": self.bowl.tag, "mass_kg": 1.4}])
        device.refresh_from_db()
        self.assertLess((timezone.now() - device.seen_at).total_seconds(), 60)
        self.assertFalse(device.clock_is_off)
        ahead = datetime.now(UTC) + timedelta(hours=3)
        self.tell(token, [{"key": "b", "at": ahead.isoformat(), "tag": self.bowl.tag, "mass_kg": 1.39}], sent_at=ahead)
        device.refresh_from_db()
        self.assertTrue(device.clock_is_off)
        self.assertIn("clock is", text_of(self.client.get(self.at("devices"))))

    def test_it_describes_itself(self):
        told = self.client.get("/devices/v1/openapi.json").json()
        self.assertIn("/devices/v1/readings", told["paths"])
        fields = told["components"]["schemas"]["Batch"]["properties"]["readings"]["items"]["properties"]
        for receiver in RECEIVERS:
            self.assertLessEqual(set(receiver.fields), set(fields))
        self.assertEqual(door.MOST_READINGS, told["components"]["schemas"]["Batch"]["properties"]["readings"]["maxItems"])
