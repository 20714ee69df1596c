"""The private database: it survives ends of every kind, listens on loopback only, and belongs to one installation."""

import os
import shutil
import signal
import socket
import time
from pathlib import Path
from unittest import mock

import psycopg

from command import installation, machine
from command.cluster import Cluster
from command.trouble import Trouble
from tests.keeping.case import OwnData


class Database(OwnData):
    def test_data_stay_through_stop_half_made_folders_and_a_killed_server(self):
        half = self.state / "trial" / "data.unfinished"
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
            os.kill(int((first.data / "postmaster.pid").read_text().splitlines()[0]), signal.SIGKILL)
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

    def test_it_listens_on_loopback_only_asks_for_a_password_and_begins_its_logs_anew_each_week(self):
        with self.cluster() as made:
            with made.connect() as connection:
                self.assertEqual(connection.execute("SHOW listen_addresses").fetchone(), ("127.0.0.1",))
                self.assertEqual(connection.execute("SHOW log_truncate_on_rotation").fetchone(), ("on",))
            self.assertEqual(len(list(made.logs.glob("???.log"))), 1)
            made.password = "wrong"
            with self.assertRaises(psycopg.OperationalError):
                made.connect()
        for secret in ("password", "role-password"):
            self.assertEqual((self.state / "work" / secret).stat().st_mode & 0o077, 0)

    def test_the_programs_are_those_that_made_the_data(self):
        homes = {15: Path("/pg/15"), 17: Path("/pg/17")}
        with mock.patch.object(machine, "postgres_homes", return_value=homes):
            self.assertEqual(machine.need_postgres(), Path("/pg/17"))
            self.assertEqual(machine.need_postgres(made_by=15), Path("/pg/15"))
            with self.assertRaisesRegex(
                Trouble, "made by PostgreSQL 14, and this machine has only 17(.|\n)*postgresql-14(.|\n)*upgrade-data"
            ):
                machine.need_postgres(made_by=14)
            with self.assertRaisesRegex(Trouble, "Install PostgreSQL 18"):
                machine.need_postgres(made_by=18)

    def test_a_folder_that_cannot_be_made_is_named_with_the_systems_reason(self):
        (self.state / "work").write_text("a file stands in the way")
        with self.assertRaisesRegex(Trouble, f"{self.state}/work.* cannot be made .*(exists|directory)"):
            self.cluster().__enter__()


class Installation(OwnData):
    """Names and folders; nothing is started."""

    def setUp(self):
        super().setUp()
        del os.environ["CALM_HERON_DATA"], os.environ["CALM_HERON_RECORD"]
        patched = mock.patch.object(installation, "base_folder", return_value=self.state)
        patched.start()
        self.addCleanup(patched.stop)

    def checkout(self, name: str) -> Path:
        path = self.state.parent / name
        path.mkdir(exist_ok=True)
        return path

    def at(self, checkout: Path):
        return mock.patch.object(installation, "ROOT", checkout)

    def used(self, checkout: Path) -> Path:
        """Data as a start from this checkout leaves them."""
        with self.at(checkout):
            folder = installation.state_folder()
            (folder / "work" / "data").mkdir(parents=True, exist_ok=True)
            (folder / "work" / "data" / "PG_VERSION").write_text("15\n")
            installation.settle(checkout)
        return folder

    def test_two_checkouts_have_data_of_their_own_and_a_moved_one_finds_its_data(self):
        first, two = self.used(self.checkout("one")), self.used(self.checkout("two"))
        self.assertNotEqual(first, two)
        moved = (self.state.parent / "one").rename(self.state.parent / "elsewhere")
        self.assertEqual(self.used(moved), first)

    def test_an_installation_that_was_known_by_its_path_keeps_its_data(self):
        old = self.checkout("calm-heron")
        import hashlib

        folder = self.state / f"calm-heron-{hashlib.sha256(str(old).encode()).hexdigest()[:8]}"
        folder.mkdir()
        self.assertEqual(self.used(old), folder)

    def test_a_copy_of_a_checkout_does_not_share_its_data_unasked(self):
        first, copy = self.checkout("first"), self.checkout("copy")
        self.used(first)
        (copy / ".heron").mkdir()
        (copy / installation.NAME_FILE).write_text((first / installation.NAME_FILE).read_text())
        with self.assertRaisesRegex(Trouble, "is a copy of .*first, and both name the same data"):
            self.used(copy)

    def test_data_beside_ours_are_named_and_can_be_taken_over_once_their_checkout_is_gone(self):
        old = self.used(self.checkout("old"))
        new = self.checkout("new")
        with self.at(new):
            self.assertIn(f"./heron take-over {old.name}", installation.word_about_others())
            with self.assertRaisesRegex(Trouble, "still uses these data"):
                installation.take_over(old.name)
            with self.assertRaisesRegex(Trouble, f"no data by the name “nobody's”(.|\n)*{old.name}"):
                installation.take_over("nobody's")
            (self.state.parent / "old").rename(self.state.parent / "old-removed")
            installation.take_over(old.name)
            self.assertEqual(installation.state_folder(), old)
            self.assertEqual(installation.word_about_others(), "")

    def test_where_the_data_lie_is_said_once_and_every_command_finds_them(self):
        shop, place = self.checkout("shop"), self.state.parent / "place"
        with self.at(shop):
            os.environ["CALM_HERON_DATA"] = str(place)
            (place / "work").mkdir(parents=True)
            installation.settle(shop)
            with self.assertRaisesRegex(Trouble, "keeps its data in .*place, and CALM_HERON_DATA says /elsewhere(.|\n)*remove the file"):
                os.environ["CALM_HERON_DATA"] = "/elsewhere"
                installation.state_folder()
            del os.environ["CALM_HERON_DATA"]
            self.assertEqual(installation.state_folder(), place)
            self.assertEqual(installation.word_about_others(), "")
            with self.assertRaisesRegex(Trouble, "The data of this folder lie in"):
                installation.take_over("another")
        # A copy of it is told apart; moved, it takes its data with it.
        copy = self.checkout("copy")
        shutil.copytree(shop / ".heron", copy / ".heron")
        with self.at(copy), self.assertRaisesRegex(Trouble, "is a copy of .*shop(.|\n)*heron/data"):
            installation.settle(copy)
        shutil.rmtree(copy)
        moved = shop.rename(self.state.parent / "moved")
        with self.at(moved):
            installation.settle(moved)
            self.assertEqual((place / "checkout").read_text().strip(), str(moved))
            (moved / installation.PLACE_FILE).write_text("here")
            with self.assertRaisesRegex(Trouble, "does not hold a whole path"):
                installation.state_folder()

    def test_a_command_that_would_use_other_data_than_what_runs_refuses(self):
        with self.at(self.checkout("shop")):
            installation.note_running("http://127.0.0.1:8123")
            self.assertEqual(installation.running().address, "http://127.0.0.1:8123")
            Cluster("work")
            file = installation.ROOT / installation.RUNNING_FILE
            file.write_text(file.read_text().replace(str(installation.state_folder()), "/srv/calm-heron/data"))
            with self.assertRaisesRegex(
                Trouble, "keeps its data in /srv/calm-heron/data, and this command would use(.|\n)*Nothing was done"
            ):
                Cluster("work")
            # One that ended without saying so runs no more.
            file.write_text(file.read_text().replace(str(os.getpid()), "1"))
            Cluster("work")
            self.assertIsNone(installation.running())

    def test_a_name_that_leads_elsewhere_is_refused(self):
        for name in ("../../etc", "..", "", "a b"):
            with self.subTest(name), self.at(self.checkout("odd")):
                (self.checkout("odd") / ".heron").mkdir(exist_ok=True)
                (self.checkout("odd") / installation.NAME_FILE).write_text(name)
                with self.assertRaisesRegex(Trouble, "does not hold the name of an installation"):
                    installation.state_folder()

    def test_a_checkout_that_cannot_be_written_says_so(self):
        locked = self.checkout("locked")
        (locked / ".heron").write_text("in the way")
        with self.at(locked), self.assertRaisesRegex(Trouble, "cannot be written(.|\n)*CALM_HERON_DATA=/"):
            installation.state_folder()
        os.environ["CALM_HERON_DATA"] = "not/whole"
        with self.assertRaisesRegex(Trouble, "must be a whole path"):
            installation.state_folder()
