"""Each part of ``./heron bench`` runs in small, so that the suite finds a broken part first."""

import contextlib
import io
import os
from unittest import mock

from command import bench, line
from command.application import point_at
from tests import databases
from tests.cases import Committing
from tests.keeping.case import OwnData, cluster_of_this_run

# Those that need a database of their own, and those that start a whole server.
WITH_DATABASE, WITH_SERVER = ("builds", "logger", "door", "pages", "backup"), ("start", "load")


@contextlib.contextmanager
def copy_of_the_demo(name: str):
    """In place of an empty database, in the cluster of this very run: the demo, which the part then finds loaded."""
    cluster = cluster_of_this_run()
    with databases.copied(databases.DEMO, name):
        point_at(cluster, database=name, settings="calm_heron.settings.testing", as_owner=True)
        yield cluster


class InSmall:
    def ran(self, part: str) -> str:
        with contextlib.redirect_stdout(io.StringIO()) as said, contextlib.redirect_stderr(io.StringIO()) as wrong:
            ended = bench.run(line.read("bench", [part, "--small"]))
        self.assertEqual(ended, 0, wrong.getvalue()[-3000:])
        return said.getvalue()

    def setUp(self):
        super().setUp()
        patched = mock.patch.dict(os.environ)
        patched.start()
        self.addCleanup(patched.stop)


class Parts(InSmall, Committing):
    takes_s = 80

    database = databases.DEMO

    def test_those_that_only_compute(self):
        for part in line.BENCH_PARTS:
            if part not in (*WITH_DATABASE, *WITH_SERVER):
                with self.subTest(part):
                    self.assertTrue(self.ran(part).strip())

    def test_those_with_a_database(self):
        with mock.patch.object(bench, "new_database", copy_of_the_demo):
            for part in WITH_DATABASE:
                with self.subTest(part):
                    self.assertTrue(self.ran(part).strip())

    def test_a_broken_part_is_named_and_keeps_no_other_from_running(self):
        def broken() -> None:
            raise ZeroDivisionError

        with (
            mock.patch.dict(bench.PARTS, core=broken),
            contextlib.redirect_stdout(io.StringIO()) as said,
            contextlib.redirect_stderr(io.StringIO()) as wrong,
        ):
            self.assertEqual(bench.run(line.read("bench", ["core", "weight", "--small"])), 1)
        self.assertIn("own style", said.getvalue())
        self.assertIn("Broken: core.", wrong.getvalue())


class WithServer(InSmall, OwnData):
    takes_s = 25

    def test_those_that_start_it(self):
        self.take_pattern()
        (self.state / "work").rename(self.state / "bench")
        for part in WITH_SERVER:
            with self.subTest(part):
                self.assertTrue(self.ran(part).strip())
