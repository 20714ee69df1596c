"""The one command: what it says when something is in the way."""

import os
import shutil
import socket
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path
from unittest import mock

from command import __main__ as command
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
