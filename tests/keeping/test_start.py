"""The start command: it serves, watches, takes over what was left running, and ends all of it."""

import contextlib
import os
import re
import signal
import socket
import subprocess
import sys
import tempfile
import time
import unittest
import urllib.request
from pathlib import Path
from unittest import mock

from command import deaths, processes, start
from command.cluster import free_port
from command.machine import ROOT
from command.trouble import Trouble
from command.watch import MOST, Watch
from tests.keeping.case import OwnData
from tests.walks import far


class RealStart(OwnData):
    """The real command, with data of its own, so that a workshop running from this folder is left alone."""

    def begin(self, port: int, *, demo: bool = False) -> subprocess.Popen:
        # Its errors into a file: what it leaves running when it is killed would keep a pipe open.
        with self.said.open("a") as said:
            running = subprocess.Popen(
                [sys.executable, "-m", "command", "start", "--port", str(port), *([] if demo else ["--no-demo"])],
                cwd=ROOT,
                stdout=subprocess.PIPE,
                stderr=said,
                text=True,
            )
        self.addCleanup(self.end, running)
        self.assertIn(f"http://127.0.0.1:{port}/", running.stdout.readline())
        return running

    def end(self, running: subprocess.Popen) -> int:
        if running.poll() is None:
            running.send_signal(signal.SIGINT)
        code = running.wait(40)
        running.stdout.close()
        return code

    @property
    def said(self) -> Path:
        return self.state.parent / "said"

    def alive(self, port: int) -> bool:
        try:
            return urllib.request.urlopen(f"http://127.0.0.1:{port}/", timeout=5).status == 200
        except OSError:
            return False

    def until(self, what, seconds: float = 40) -> None:
        end = time.monotonic() + seconds
        while not what():
            self.assertLess(time.monotonic(), end, "it did not come to be in time")
            time.sleep(0.1)

    def told_by_postmaster(self, line: int) -> int:
        # While it starts again the file is not there, or not whole.
        with contextlib.suppress(FileNotFoundError, IndexError, ValueError):
            return int((self.state / "work" / "data" / "postmaster.pid").read_text().splitlines()[line])
        return 0

    def postmaster(self) -> int:
        return self.told_by_postmaster(0)

    def database_port(self) -> int:
        return self.told_by_postmaster(3)

    def server(self) -> int:
        return int((self.state / "work" / "server").read_text().split()[0])


class Started(RealStart):
    takes_s = 45

    def test_it_serves_survives_the_death_of_each_part_is_taken_over_and_ends_whole(self):
        port = free_port()
        self.take_pattern()
        running = self.begin(port, demo=True)
        database_port = self.database_port()
        for kill in (self.postmaster, self.server):
            dead = kill()
            os.kill(dead, signal.SIGKILL)
            self.until(
                lambda kill=kill, dead=dead: (self.state / "work" / "server").exists() and kill() not in (dead, 0) and self.alive(port)
            )
        # The launcher is killed and leaves both behind; the next start makes them its own.
        running.kill()
        running.wait(10)
        text = self.said.read_text()
        for part in ("database", "web server"):
            self.assertIn(f"The {part} ended unexpectedly", text)
        # What is left serves on, and soon: the first page after the other's death may wait for a database connection.
        self.until(lambda: self.alive(port))
        again = self.begin(port, demo=True)
        self.until(lambda: self.alive(port))
        again.send_signal(signal.SIGINT)
        self.assertEqual(again.wait(40), 0)
        self.assertIn("A web server of ours was still running", self.said.read_text())
        for item in (port, database_port):
            with self.assertRaises(OSError):
                socket.create_connection(("127.0.0.1", item), timeout=1)
        self.assertFalse((self.state / "work" / "server").exists())


class ThroughKills(OwnData):
    """What is reported kept was kept, and once, whatever dies meanwhile; ``./heron deaths`` goes the whole way."""

    takes_s = 45

    def test_no_reading_is_lost_or_doubled(self):
        # Only whole data are copied: the installation that dies has a folder of its own.
        self.take_pattern()
        with deaths.installed(self.state) as own:
            # The database, the server and the watch die in the test before this.
            kinds = far(["a session of the database", "a process that serves", "the worker of the queue"], list(own.victims()))
            kills = far(len(kinds), 100)
            told, sent, lost, doubled = deaths.killed(own, kills, kinds)
        self.assertEqual((lost, doubled), (0, 0))
        self.assertGreater(sent, kills)
        self.assertEqual(sum(item.kills for item in told.values()), kills)
        self.assertEqual(set(told), set(kinds))
        lines = deaths.table(told, sent, lost, doubled)
        guide = self.state.parent / "guide.md"
        guide.write_text(f"Before\n{deaths.BEGIN}\nold\n{deaths.END}\nAfter\n")
        deaths.write(lines, guide)
        self.assertEqual(guide.read_text().split("\n")[0], "Before")
        self.assertIn("| a process that serves | ", guide.read_text())
        self.assertNotIn("old", guide.read_text())


class Watching(unittest.TestCase):
    def test_what_dies_again_and_again_ends_in_one_loud_sentence(self):
        cluster, server = mock.Mock(port=5000), mock.Mock()
        cluster.is_alive.return_value, server.has_ended.return_value = True, True
        watch = Watch(cluster, server, mock.Mock(**{"has_ended.return_value": False}), mock.Mock())
        with mock.patch("command.watch.say"):
            for _ in range(MOST):
                watch.look()
            with self.assertRaisesRegex(Trouble, "CALM HERON HAS STOPPED. The web server ended 6 times"):
                watch.look()
        self.assertEqual(server.start_again.call_count, MOST)

    def test_a_database_that_had_to_take_another_port_is_told_to_the_web_server(self):
        cluster, server = mock.Mock(port=5000), mock.Mock()
        cluster.is_alive.return_value, server.has_ended.return_value = False, False
        cluster.start_again.side_effect = lambda: setattr(cluster, "port", 5001)
        with mock.patch("command.watch.say"), mock.patch("command.watch.point_at") as pointed:
            worker = mock.Mock(**{"has_ended.return_value": False})
            Watch(cluster, server, worker, mock.Mock()).look()
        pointed.assert_called_once_with(cluster)
        server.start_again.assert_called_once_with()
        worker.start_again.assert_called_once_with()


class Processes(unittest.TestCase):
    def test_a_process_is_known_by_when_it_began_and_one_that_died_does_not_run(self):
        with subprocess.Popen(["sleep", "60"], start_new_session=True) as sleeping:
            self.assertTrue(processes.runs(sleeping.pid))
            self.assertRegex(processes.mark(sleeping.pid), rf"^{sleeping.pid} \['\d+'\]$")
            os.kill(sleeping.pid, signal.SIGKILL)
            time.sleep(0.2)
            # Dead and not yet buried: the system still has its number.
            self.assertFalse(processes.runs(sleeping.pid))
        self.assertFalse(processes.runs(0))

    def test_a_process_in_a_folder_is_seen_until_it_has_ended(self):
        with tempfile.TemporaryDirectory() as name:
            folder = Path(name)
            self.assertFalse(processes.any_in(folder))
            with subprocess.Popen(["sleep", "60"], cwd=folder) as sleeping:
                self.assertTrue(processes.any_in(folder))
                os.kill(sleeping.pid, signal.SIGKILL)
                time.sleep(0.2)
                # Dead and not yet buried.
                self.assertFalse(processes.any_in(folder))

    def test_only_the_process_that_was_marked_is_ended(self):
        with tempfile.TemporaryDirectory() as folder, subprocess.Popen(["sleep", "60"], start_new_session=True) as sleeping:
            record = Path(folder) / "server"
            record.write_text(f"{sleeping.pid} ['1']")
            self.assertFalse(processes.end_marked(record))
            self.assertIsNone(sleeping.poll())
            record.write_text(processes.mark(sleeping.pid))
            self.assertTrue(processes.end_marked(record))
            self.assertIsNotNone(sleeping.wait(5))
            self.assertFalse(record.exists())
            self.assertFalse(processes.end_marked(record))


class Reachable(unittest.TestCase):
    def test_this_machine_only_unless_it_is_asked_for_and_then_the_risk_is_said(self):
        here = "\n".join(start.greeting("127.0.0.1", 8000, demo=False))
        self.assertNotIn("unencrypted", here)
        shop = "\n".join(start.greeting("0.0.0.0", 8000, demo=False))
        self.assertIn("travels unencrypted", shop)
        self.assertEqual(len(re.findall(r"http://", shop)), 2)

    def test_the_application_answers_to_the_names_it_is_reached_by(self):
        with mock.patch.dict(os.environ, {"CALM_HERON_HOSTS": "shop.example"}):
            start.allow("127.0.0.1")
            self.assertEqual(os.environ["CALM_HERON_HOSTS"], "shop.example")
            start.allow("0.0.0.0")
            self.assertIn(socket.gethostname(), os.environ["CALM_HERON_HOSTS"].split(","))

    def test_an_address_that_is_not_ours_is_refused(self):
        for host in ("203.0.113.7", "no such host"):
            with self.subTest(host), self.assertRaisesRegex(Trouble, "address of this machine"):
                start.need_free(host, free_port())
