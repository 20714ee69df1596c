"""A database of its own for each class of tests, in a folder that goes with it."""

import fcntl
import os
import shutil
import subprocess
import tempfile
import unittest
from pathlib import Path
from unittest import mock

from django.db import connection

from command import installation
from command.application import prepare
from command.cluster import DATABASE, Cluster
from command.machine import need_postgres
from tests import databases


class OwnData(unittest.TestCase):
    """``self.state`` is an empty folder for data, which every command of this test uses."""

    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        # PostgreSQL runs as its own user where we are root, and must be able to walk the path.
        Path(folder.name).chmod(0o755)
        self.state = Path(folder.name) / "heron"
        self.state.mkdir(mode=0o755)
        # What the tests' own database told the environment stays out of these.
        own = {name: value for name, value in os.environ.items() if not name.startswith(("CALM_HERON_", "DJANGO_"))}
        # The checkout's own record stays as it is: it speaks of other data.
        (self.state / "record").mkdir()
        own |= {"CALM_HERON_DATA": str(self.state), "CALM_HERON_RECORD": str(self.state / "record")}
        patched = mock.patch.dict(os.environ, own, clear=True)
        patched.start()
        self.addCleanup(patched.stop)

    def take_pattern(self) -> None:
        """Begin with data as a start leaves them: migrated, with the demo in them. Made once, by the first test that asks, and copied."""
        subprocess.run(["cp", "-a", f"{_pattern()}/.", str(self.state)], check=True)

    def cluster(self, name: str = "work", *, durable: bool = False) -> Cluster:
        return Cluster(name, durable=durable)


# Asked before any test changes where data lie.
STATE = installation.state_folder()


def cluster_of_this_run() -> Cluster:
    """The cluster that the tests themselves run in, as far as its programs are concerned: it is left running."""
    with mock.patch.dict(os.environ, {"CALM_HERON_DATA": str(STATE), "CALM_HERON_RECORD": str(STATE)}):
        cluster = Cluster("test", durable=False)
    cluster.programs, cluster.port = need_postgres(), int(connection.settings_dict["PORT"])
    cluster._read_passwords()
    return cluster


def _bring_in_the_demo(cluster: Cluster) -> None:
    """The demo as this run has it already; where it has none, it is loaded by :func:`prepare`."""
    if not databases.is_prepared(databases.DEMO):
        return
    there, name = cluster_of_this_run(), f"testing_kept_{os.getpid()}"
    with databases.copied(databases.DEMO, name), tempfile.TemporaryDirectory() as folder:
        dump = Path(folder) / "dump"
        with dump.open("wb") as out:
            there.client("pg_dump", "--format=custom", "--compress=0", "--no-owner", "--no-privileges", name, stdout=out).check_returncode()
        brought = cluster.client("pg_restore", "--exit-on-error", "--no-owner", "--no-privileges", f"--dbname={DATABASE}", str(dump))
        brought.check_returncode()


def _pattern() -> Path:
    """The folder of data that tests begin with, by what it is made by; processes that ask at once wait for the one that makes it."""
    whole = STATE / "test" / f"kept-{databases.pattern_name(databases.DEMO)}"
    with (STATE / "test" / "kept.lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not whole.exists():
            for old in whole.parent.glob("kept-*"):
                shutil.rmtree(old, ignore_errors=True)
            made = whole.with_name("kept-unfinished")
            made.mkdir(mode=0o755)
            with (
                mock.patch.dict(os.environ, {"CALM_HERON_DATA": str(made), "CALM_HERON_RECORD": str(made)}),
                Cluster("work", durable=False) as cluster,
            ):
                cluster.create_database()
                _bring_in_the_demo(cluster)
                run = subprocess.run
                # Without the lines that tell how far it is.
                with mock.patch.object(
                    subprocess, "run", side_effect=lambda *what, **how: run(*what, **{"stderr": subprocess.DEVNULL} | how)
                ):
                    prepare(cluster, demo=True)
            made.rename(whole)
    return whole
