"""The one command: what it says when something is in the way."""

import contextlib
import io
import os
import shutil
import socket
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path
from unittest import mock

import psycopg

from command import __main__ as command
from command import line
from command.application import no_room
from command.machine import ROOT
from command.start import need_free
from command.trouble import Trouble

# The line read with only what Python itself brings: no package of ours is on its path.
BARE = "import runpy, sys; sys.path.insert(0, '.'); runpy.run_module('command.line', run_name='__main__', alter_sys=True)"


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
        for name in line.COMMANDS:
            self.assertIn(name, done.stderr)

    def ended(self, *arguments: str) -> tuple[int, str]:
        """What the line says and how it ends where the command itself is never run."""
        said = io.StringIO()
        with (
            mock.patch("importlib.import_module", side_effect=AssertionError("it was run")),
            contextlib.redirect_stdout(said),
            contextlib.redirect_stderr(said),
            self.assertRaises(SystemExit) as ended,
        ):
            command.main(list(arguments))
        return ended.exception.code or 0, said.getvalue()

    def test_help_explains_and_does_nothing(self):
        for name in line.COMMANDS:
            with self.subTest(name):
                code, said = self.ended(name, "--help")
                self.assertEqual(code, 0)
                self.assertIn(f"./heron {name}", said)
        for device in line.SIMULATORS:
            with self.subTest(device):
                self.assertEqual(self.ended("simulate", device, "--help")[0], 0)

    def test_what_is_read_only_in_part_ends_calmly(self):
        with subprocess.Popen(
            [sys.executable, "-m", "command.line", "help"], cwd=ROOT, stdout=subprocess.PIPE, stderr=subprocess.PIPE
        ) as asked:
            asked.stdout.close()
            self.assertEqual((asked.wait(20), asked.stderr.read()), (0, b""))

    def test_a_door_that_is_shut_is_told_in_a_sentence(self):
        with socket.create_server(("127.0.0.1", 0)) as taken:
            port = taken.getsockname()[1]
        done = self.run_heron("simulate", "kiln", "--door", f"http://127.0.0.1:{port}/devices/v1/", "--token", "x", "--hours", "1")
        self.assertEqual(done.returncode, 1)
        self.assertRegex(done.stderr, r"^Nothing that is a door for devices answers at http://127.0.0.1")
        self.assertNotIn("Traceback", done.stderr)

    def test_where_there_is_no_room_that_is_the_reason(self):
        full = RuntimeError("while loading the demo")
        full.__cause__ = psycopg.errors.DiskFull("could not extend file: No space left on device\nHINT: Check free disk space.")
        self.assertEqual(no_room(full), "could not extend file: No space left on device")
        self.assertEqual(no_room(OSError(28, "No space left on device", "/srv/x")), "/srv/x: No space left on device")
        self.assertEqual(no_room(ValueError("another")), "")

    def test_an_argument_nobody_reads_is_refused(self):
        for arguments in (
            ("demo-reset", "--everything"),
            ("start", "--prot", "80"),
            ("start", "--port", "many"),
            ("bench", "speed"),
            ("science", "tables"),
            ("restore",),
            ("simulate", "saw"),
            ("simulate", "kiln"),
            ("simulate", "scale", "--door", "a", "--token", "b", "--bowl", "round"),
            ("test", "--fast"),
        ):
            with self.subTest(arguments):
                self.assertEqual(self.ended(*arguments)[0], 2)

    def test_parts_tables_and_commands_are_those_there_are(self):
        from command import bench
        from wood import checks

        self.assertEqual(line.BENCH_PARTS, tuple(bench.PARTS))
        self.assertEqual(line.SCIENCE_TABLES, tuple(checks.TABLES))
        for name in line.COMMANDS:
            self.assertTrue((ROOT / "command" / f"{name.replace('-', '_')}.py").exists(), name)

    def test_help_and_mistakes_install_nothing_and_a_command_says_what_it_needs(self):
        """The line as ``./heron`` reads it first, by a Python with nothing of ours in it."""
        for arguments, code, needs in (
            (("--help",), 0, "Usage"),
            (("fly",), 2, ""),
            (("test", "--help"), 0, "usage"),
            (("bench", "nothing"), 2, ""),
            (("cases",), line.GOES_ON, "requirements-dev.lock postgresql"),
            (("science",), line.GOES_ON, "requirements.lock"),
        ):
            with self.subTest(arguments):
                done = subprocess.run([sys.executable, "-I", "-S", "-c", BARE, *arguments], cwd=ROOT, capture_output=True, text=True)
                self.assertEqual(done.returncode, code, done.stderr)
                self.assertIn(needs, done.stdout)
                self.assertNotIn("Traceback", done.stderr)

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
                need_free("127.0.0.1", port)

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
