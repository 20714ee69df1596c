"""The one command: what it says when something is in the way, and that its database survives ends of every kind."""

import os
import shutil
import signal
import socket
import subprocess
import sys
import tempfile
import time
import unittest
from pathlib import Path
from unittest import mock

from command import __main__ as command
from command import cluster
from command.cluster import Cluster, free_port
from command.machine import ROOT
from command.start import need_free
from command.trouble import Trouble


class Words(unittest.TestCase):
    def run_heron(self, *arguments, **environment):
        return subprocess.run(
            [sys.executable, "-m", "command", *arguments],
            cwd=ROOT,
            capture_output=True,
            text=True,
            env=os.environ | environment,
            timeout=60,
        )

    def test_an_unknown_command_lists_those_there_are(self):
        done = self.run_heron("fly")
        self.assertEqual(done.returncode, 2)
        for name in command.COMMANDS:
            self.assertIn(name, done.stderr)

    def test_help_explains_and_does_nothing(self):
        for name in ("demo-reset", "shots", "bench", "style"):
            with self.subTest(name), mock.patch("importlib.import_module", side_effect=AssertionError("it was run")):
                self.assertEqual(command.main([name, "--help"]), 0)

    def test_an_argument_nobody_reads_is_refused(self):
        with mock.patch("importlib.import_module", side_effect=AssertionError("it was run")):
            self.assertEqual(command.main(["demo-reset", "--everything"]), 2)

    def test_hosts_are_read_without_blanks_and_this_machine_is_always_among_them(self):
        ask = "from calm_heron.settings import base; print(*base.ALLOWED_HOSTS)"
        done = subprocess.run(
            [sys.executable, "-c", ask],
            cwd=ROOT,
            capture_output=True,
            text=True,
            env=os.environ | {"CALM_HERON_HOSTS": " shop.example , ,a.example"},
        )
        self.assertEqual(done.stdout.split(), ["127.0.0.1", "localhost", "[::1]", "shop.example", "a.example"])

    def test_a_taken_port_is_named_with_a_way_out(self):
        with socket.create_server(("127.0.0.1", 0)) as taken:
            port = taken.getsockname()[1]
            done = self.run_heron("start", "--port", str(port))
        self.assertEqual(done.returncode, 1)
        self.assertEqual(
            done.stderr.strip(),
            f"Port {port} is taken by another program. End that one, or choose another:  ./heron start --port {port + 1}",
        )

    def test_a_port_that_is_none_is_refused(self):
        for port in (0, -5, 70_000):
            with self.assertRaises(Trouble):
                need_free(port)

    def test_without_a_package_manager_it_says_what_to_install(self):
        with tempfile.TemporaryDirectory() as empty:
            for tool in ("bash", "id"):
                os.symlink(shutil.which(tool), Path(empty) / tool)
            done = self.packages(PATH=empty)
        self.assertEqual(done.returncode, 1)
        self.assertIn("There is no apt-get here; install the same with its own package manager", done.stderr)

    def test_without_the_right_it_says_whom_to_ask(self):
        with tempfile.TemporaryDirectory() as folder:
            for name, body in (("apt-get", "exit 1"), ("id", "echo 1000"), ("sudo", "exit 1")):
                tool = Path(folder) / name
                tool.write_text(f"#!/bin/sh\n{body}\n")
                tool.chmod(0o755)
            done = self.packages(PATH=f"{folder}:{os.environ['PATH']}")
        self.assertEqual(done.returncode, 1)
        self.assertIn("sudo apt-get install --no-install-recommends postgresql", done.stderr)

    def packages(self, **environment):
        return subprocess.run(
            [shutil.which("bash"), str(ROOT / "command" / "packages.sh"), "postgresql"],
            capture_output=True,
            text=True,
            env=os.environ | environment,
        )


class Database(unittest.TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name) / "heron"
        self.folder.mkdir()
        for path in (self.folder, self.folder.parent):
            path.chmod(0o755)
        patched = mock.patch.object(cluster, "state_folder", return_value=self.folder)
        patched.start()
        self.addCleanup(patched.stop)

    def test_data_stay_through_stop_half_made_folders_and_a_killed_server(self):
        half = self.folder / "trial" / "data.unfinished"
        half.mkdir(parents=True)
        (half / "rubbish").write_text("from a start that was cut short")
        # Durable, as people's data are: what was committed outlives a killed server.
        with Cluster("trial") as first:
            first.create_database("kept")
            first.create_database("kept")
            with first.connect("kept") as connection:
                connection.execute("CREATE TABLE oak (stack int)")
            with self.assertRaisesRegex(Trouble, "already runs from this folder"):
                Cluster("trial").__enter__()
            postmaster = int((first.data / "postmaster.pid").read_text().splitlines()[0])
            os.kill(postmaster, signal.SIGKILL)
            time.sleep(0.5)
        self.assertFalse(half.exists())
        with Cluster("trial") as second:
            with second.connect("kept") as connection:
                self.assertEqual(connection.execute("SELECT count(*) FROM oak").fetchone(), (0,))
            port = second.port
            # The launcher dies without stopping the server; the next start takes it over.
            second._lock.close()
            with Cluster("trial") as third:
                self.assertEqual(third.port, port)
        with self.assertRaises(OSError):
            socket.create_connection(("127.0.0.1", port), timeout=1)

    def test_it_listens_on_loopback_only_and_asks_for_a_password(self):
        with Cluster("trial", durable=False) as made:
            with made.connect() as connection:
                self.assertEqual(connection.execute("SHOW listen_addresses").fetchone(), ("127.0.0.1",))
            made.password = "wrong"
            import psycopg

            with self.assertRaises(psycopg.OperationalError):
                made.connect()
        self.assertEqual((self.folder / "trial" / "password").stat().st_mode & 0o077, 0)

    def test_each_checkout_has_a_folder_of_its_own(self):
        mock.patch.stopall()
        with mock.patch.object(cluster, "ROOT", Path("/one/calm-heron")):
            one = cluster.state_folder()
        with mock.patch.object(cluster, "ROOT", Path("/two/calm-heron")):
            self.assertNotEqual(cluster.state_folder(), one)
        self.assertFalse(str(one).startswith(str(ROOT)))


class Start(unittest.TestCase):
    def test_a_start_serves_and_ctrl_c_ends_all_of_it(self):
        # With data of its own, so that a workshop running from this folder is left alone.
        with tempfile.TemporaryDirectory() as folder:
            state = Path(folder) / "state"
            state.mkdir()
            Path(folder).chmod(0o755)
            port = free_port()
            environment = {name: value for name, value in os.environ.items() if not name.startswith(("CALM_HERON_", "DJANGO_"))}
            code = (
                "import pathlib, sys, command.cluster as cluster, command.application as application, command.start as start;"
                f"cluster.state_folder = application.state_folder = lambda: pathlib.Path({str(state)!r});"
                f"sys.exit(start.run(['--port', '{port}', '--no-demo']))"
            )
            running = subprocess.Popen([sys.executable, "-c", code], cwd=ROOT, env=environment, stdout=subprocess.PIPE, text=True)
            self.assertIn(f"http://127.0.0.1:{port}/", running.stdout.readline())
            database_port = int((state / "work" / "data" / "postmaster.pid").read_text().splitlines()[3])
            for one in (port, database_port):
                socket.create_connection(("127.0.0.1", one), timeout=5).close()
            running.send_signal(signal.SIGINT)
            self.assertEqual(running.wait(30), 0)
            running.stdout.close()
            for one in (port, database_port):
                with self.assertRaises(OSError):
                    socket.create_connection(("127.0.0.1", one), timeout=1)
