"""The queue: jobs done once, tried again, taken up after a death, and told to the operator alone."""

import json
import logging
import urllib.parse
from datetime import timedelta
from unittest import mock

from django.db import DatabaseError, connection, transaction
from django.test import SimpleTestCase, TestCase, override_settings
from django.utils import timezone
from procrastinate.contrib.django import app
from procrastinate.contrib.django.models import ProcrastinateJob

from calm_heron.drying.forecasts import renew_forecasts
from calm_heron.drying.models import Forecast
from calm_heron.jobs import measuring, standing, tasks
from calm_heron.jobs.logs import JsonLines
from calm_heron.jobs.models import JobFailure
from calm_heron.jobs.queue import LOOKED_AT, RETRY, TIDYING, put
from tests.cases import Committing
from tests.factories import make_owner, make_person, make_shop, read_board
from tests.queue import work_off


@override_settings(WORK_BEHIND=True)
class Putting(TestCase):
    def jobs(self):
        return list(ProcrastinateJob.objects.order_by("id"))

    def test_what_waits_already_is_not_put_there_twice(self):
        self.assertTrue(put(renew_forecasts, once="a", workshop=1, pieces=[1]))
        self.assertFalse(put(renew_forecasts, once="a", workshop=1, pieces=[1]))
        self.assertTrue(put(renew_forecasts, once="b", workshop=1, pieces=[2], priority=LOOKED_AT))
        self.assertEqual([job.args["pieces"] for job in self.jobs()], [[1], [2]])
        self.assertGreater(self.jobs()[1].priority, self.jobs()[0].priority)

    def test_what_is_rolled_back_was_never_asked_for(self):
        with self.assertRaises(ZeroDivisionError), transaction.atomic():
            put(renew_forecasts, workshop=1, pieces=[1])
            raise ZeroDivisionError
        self.assertEqual(self.jobs(), [])

    def test_nothing_is_put_where_nothing_is_worked_out_behind_pages(self):
        with override_settings(WORK_BEHIND=False):
            self.assertFalse(put(renew_forecasts, workshop=1, pieces=[1]))
        self.assertEqual(self.jobs(), [])

    def test_every_job_can_fail_four_times_and_names_itself(self):
        ours = [task for name, task in app.tasks.items() if name.startswith(("drying.", "jobs.", "demo."))]
        self.assertGreaterEqual(len(ours), 3)
        for task in ours:
            if task.name != "jobs.take_up":
                self.assertIs(task.retry_strategy, RETRY)
                self.assertTrue(task.func.__doc__)


@override_settings(WORK_BEHIND=True)
class Working(Committing):
    def setUp(self):
        self.owner, _, meter, self.board = make_shop()
        read_board(self.owner, self.board, 16, 16.1, 16, meter=meter)

    def put(self, **arguments):
        put(renew_forecasts, **({"workshop": self.owner.workshop.pk, "pieces": [self.board.pk]} | arguments))

    def test_a_job_done_twice_is_done_once(self):
        self.put()
        self.put()
        work_off()
        self.assertEqual(Forecast.objects.count(), 1)
        self.assertEqual(ProcrastinateJob.objects.filter(status="todo").count(), 0)

    def test_a_test_does_nothing_that_the_clock_asks_for(self):
        work_off()
        with connection.cursor() as cursor:
            # One of our jobs is due every minute, so there would be a row.
            cursor.execute("SELECT count(*) FROM procrastinate_periodic_defers")
            self.assertEqual(cursor.fetchone()[0], 0)

    def test_a_job_of_an_erased_workshop_does_nothing(self):
        self.put()
        # As a visitor's copy of the demo is erased after its day.
        type(self.owner.person).objects.filter(pk=self.owner.person.pk).update(is_visitor=True)
        with connection.cursor() as cursor:
            cursor.execute("SELECT calm_heron_erase_workshop(%s, 'demo')", [self.owner.workshop.pk])
        work_off()
        self.assertEqual((Forecast.objects.count(), JobFailure.objects.count()), (0, 0))

    def test_one_that_always_fails_is_tried_again_and_named_and_others_go_on(self):
        with mock.patch("calm_heron.drying.forecasts.newest", side_effect=ValueError("no such wood")):
            self.put()
            work_off()
        left = ProcrastinateJob.objects.get(task_name=renew_forecasts.name)
        self.assertEqual((left.status, left.attempts), ("todo", 1))
        self.assertGreater(left.scheduled_at, timezone.now())
        failure = JobFailure.objects.get()
        self.assertIn("no such wood", failure.error)
        self.assertEqual(failure.arguments["pieces"], [self.board.pk])
        self.put(pieces=[self.board.pk], question={})
        work_off()
        self.assertEqual(Forecast.objects.count(), 1)

    def test_what_a_dead_worker_left_is_taken_up_again(self):
        self.put()
        with connection.cursor() as cursor:
            cursor.execute("INSERT INTO procrastinate_workers (last_heartbeat) VALUES (now() - interval '5 minutes') RETURNING id")
            cursor.execute("UPDATE procrastinate_jobs SET status = 'doing', worker_id = %s", [cursor.fetchone()[0]])
        # By its own clock every minute, by hand here.
        app.configure_task("jobs.take_up").defer(timestamp=0)
        for _ in range(2):
            work_off()
        self.assertEqual(Forecast.objects.count(), 1)

    def test_a_clock_that_is_set_back_makes_nothing_wait_for_ever(self):
        self.put()
        with connection.cursor() as cursor:
            cursor.execute("UPDATE procrastinate_events SET at = at + interval '1 day'")
        work_off()
        self.assertEqual(Forecast.objects.count(), 1)


class ForTheOperator(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.owner = make_owner()
        cls.operator = make_person()
        cls.operator.is_operator = True
        cls.operator.save()

    def test_nobody_else_finds_anything_there(self):
        for person in (None, self.owner.person):
            self.client.logout()
            if person:
                self.client.force_login(person)
            for address in ("/operator/", "/metrics/"):
                self.assertEqual(self.client.get(address).status_code, 404)
            self.assertEqual(self.client.post("/operator/again/1/").status_code, 404)

    def failed(self):
        put_at = app.configure_task(renew_forecasts.name).defer(workshop=7, pieces=[3])
        ProcrastinateJob.objects.filter(pk=put_at).update(status="failed", attempts=4)
        JobFailure.objects.create(job=renew_forecasts.name, arguments={"workshop": 7, "pieces": [3]}, error="ValueError: no such wood")
        return put_at

    def test_failed_jobs_are_named_with_their_reason_and_can_be_tried_again(self):
        self.client.force_login(self.operator)
        self.assertContains(self.client.get("/operator/"), "No worker")
        with connection.cursor() as cursor:
            cursor.execute("INSERT INTO procrastinate_workers (last_heartbeat) VALUES (now())")
        self.assertContains(self.client.get("/operator/"), "Nothing waits")
        job = self.failed()
        page = self.client.get("/operator/")
        self.assertContains(page, "1 job failed for good")
        self.assertContains(page, "no such wood")
        self.assertContains(self.client.post(f"/operator/again/{job}/", follow=True), "tried once more")
        again = ProcrastinateJob.objects.get()
        self.assertEqual((again.status, again.args), ("todo", {"workshop": 7, "pieces": [3]}))
        self.assertContains(self.client.post(f"/operator/again/{job}/", follow=True), "not there any more")

    def test_metrics_count_requests_queries_and_jobs(self):
        self.failed()
        self.client.force_login(self.operator)
        self.client.get("/operator/")
        told = self.client.get("/metrics/").content.decode()
        self.assertRegex(told, r'calm_heron_requests_total\{page="operator",status="200"\} \d')
        self.assertRegex(told, r'calm_heron_queries_total\{page="operator"\} [1-9]')
        self.assertIn('calm_heron_jobs{state="failed"} 1.0', told)
        self.client.logout()
        with override_settings(METRICS_TOKEN="let-me-in"):
            self.assertEqual(self.client.get("/metrics/", headers={"Authorization": "Bearer let-me-in"}).status_code, 200)
            self.assertEqual(self.client.get("/metrics/", headers={"Authorization": "Bearer guess"}).status_code, 404)

    def test_ready_is_not_said_while_the_database_is_away(self):
        self.assertEqual(self.client.get("/ready/").status_code, 200)
        with mock.patch("calm_heron.jobs.views.connection.cursor", side_effect=DatabaseError):
            self.assertEqual(self.client.get("/ready/").status_code, 503)

    def test_old_failures_are_forgotten(self):
        for days in (1, 40):
            JobFailure.objects.create(job="x", error="y", at=timezone.now() - timedelta(days=days))
        tasks.forget.func()
        self.assertEqual(JobFailure.objects.count(), 1)

    def test_the_newest_backup_is_found_by_its_name(self):
        import tempfile
        from pathlib import Path

        with tempfile.TemporaryDirectory() as folder:
            for name in ("calm-heron-2026-05-01-030000.backup", "calm-heron-2026-05-02-030000.backup", "other.backup"):
                (Path(folder) / name).touch()
            switch = Path(folder) / "nightly"
            switch.write_text(f"{folder}\n")
            with override_settings(NIGHTLY=str(switch)):
                self.assertEqual(standing.newest_backup().day, 2)
            with override_settings(NIGHTLY=str(Path(folder) / "none")):
                self.assertIsNone(standing.newest_backup())


class Logs(SimpleTestCase):
    def test_a_record_is_one_line_of_json(self):
        try:
            raise ValueError("split\nline")
        except ValueError:
            record = logging.getLogger("calm_heron.x").makeRecord(
                "calm_heron.x", 40, "f", 1, "bad %s", ("luck",), __import__("sys").exc_info()
            )
        line = JsonLines().format(record)
        self.assertNotIn("\n", line)
        self.assertEqual((json.loads(line)["message"], json.loads(line)["level"]), ("bad luck", "error"))
        self.assertIn("ValueError", json.loads(line)["trace"])


class Slow(TestCase):
    def test_a_slow_page_is_named_with_its_queries_and_nothing_that_was_typed(self):
        self.client.force_login(make_owner().person)
        with mock.patch.object(measuring, "SLOW_S", 0.0), self.assertLogs("calm_heron.slow", "WARNING") as logged:
            self.client.get(f"/workshops/?{urllib.parse.urlencode({'q': 'secret oak'})}")
        self.assertRegex(logged.output[0], r"workshops took [\d.]+ s with \d+ queries; the slowest: .*SELECT")
        self.assertNotIn("secret oak", logged.output[0])
        self.assertEqual(TIDYING, -10)
