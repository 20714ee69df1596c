"""Backup and restore: what was written comes back row for row, anything else is refused, and nights are kept as they age."""

import contextlib
import io
import json
import tarfile
import time
from datetime import datetime, timedelta
from pathlib import Path
from unittest import mock

from command import archive, backup, line, restore, upgrade_data
from command.cluster import DATABASE
from command.nightly import Nightly, to_keep
from command.trouble import Trouble
from tests.keeping.case import OwnData
from tests.test_least_right import NEVER_CHANGED


class Saved(OwnData):
    """On a real, migrated database with the demo in it."""

    takes_s = 35

    def setUp(self):
        super().setUp()
        self.take_pattern()

    def ran(self, command, *arguments: str) -> str:
        name = command.__name__.rpartition(".")[2].replace("_", "-")
        with contextlib.redirect_stdout(io.StringIO()) as said, contextlib.redirect_stderr(io.StringIO()):
            self.assertEqual(command.run(line.read(name, list(arguments))), 0)
        return said.getvalue()

    def test_a_backup_while_it_runs_comes_back_row_for_row_and_what_was_here_is_kept(self):
        file = self.state.parent / "shop.backup"
        with self.cluster() as running:
            with running.connect(DATABASE) as connection:
                connection.execute("UPDATE workshops_workshop SET name = 'Before'")
                rows = backup.rows_of(connection)
            key = running.secret("secret-key")
            self.assertIn(f"{sum(rows.values()):,} rows", self.ran(backup, str(file), "--with-secrets"))
            self.assertEqual(file.stat().st_mode & 0o077, 0)
            self.assertTrue(running.is_alive())
            with self.assertRaisesRegex(Trouble, "is there already, and is left alone"):
                backup.run(line.read("backup", [str(file)]))
            with self.assertRaisesRegex(Trouble, "already runs"):
                restore.run(line.read("restore", [str(file)]))
            with running.connect(DATABASE) as connection:
                connection.execute("UPDATE workshops_workshop SET name = 'After'")
            running.keep_secret("secret-key", "another")
        said = self.ran(restore, str(file))
        before = Path(said.split("until now is in ")[1].splitlines()[0])
        with self.cluster() as restored:
            with restored.connect(DATABASE) as connection:
                self.assertEqual(connection.execute("SELECT DISTINCT name FROM workshops_workshop").fetchall(), [("Before",)])
                self.assertEqual(backup.rows_of(connection), rows)
                # Still never changed.
                self.assertEqual(
                    connection.execute("SELECT count(*) FROM pg_trigger WHERE tgname = 'never_changed'").fetchone(),
                    (len(NEVER_CHANGED),),
                )
            self.assertEqual(restored.secret("secret-key"), key)
            self.assertFalse((restored.folder / f"prepared-{DATABASE}").exists())
        self.ran(restore, str(before))
        with self.cluster() as back, back.connect(DATABASE) as connection:
            self.assertEqual(connection.execute("SELECT DISTINCT name FROM workshops_workshop").fetchall(), [("After",)])
        self.assertEqual(list(self.state.parent.glob(".*")), [])

    def test_what_is_no_whole_backup_is_refused_and_nothing_is_changed(self):
        good = self.state.parent / "good.backup"
        self.ran(backup, str(good))
        content = good.read_bytes()
        odd = {
            "nothing": b"",
            "a photograph": b"\xff\xd8\xff" * 1000,
            "half of one": content[: len(content) // 2],
            "one flipped bit": content[:-60_000] + bytes([content[-60_000] ^ 1]) + content[-59_999:],
            "one of a newer version": self.altered(good, migrations=["stock.9999_from_the_future"]),
            "one with a row too few": self.altered(good, rows={"workshops_workshop": 77}),
            "another form": self.altered(good, format="calm-heron-backup-9"),
        }
        file = self.state.parent / "odd.backup"
        with self.cluster() as cluster:
            for what, content in odd.items():
                file.write_bytes(content)
                with self.subTest(what):
                    with self.assertRaises(Trouble) as trouble:
                        restore.into(cluster, file)
                    self.assertRegex(str(trouble.exception), "no backup|damaged|newer Calm Heron|not what it should hold|does not know")
                    self.assertEqual(cluster.databases(), [DATABASE, "postgres"])
        with self.assertRaisesRegex(Trouble, "There is no file"):
            restore.run(line.read("restore", ["/nowhere/at/all"]))

    def altered(self, file: Path, **changes) -> bytes:
        """A backup that says something else of itself."""
        with tarfile.open(file) as tar:
            about = json.loads(tar.extractfile(archive.ABOUT).read()) | changes
            dump = self.state.parent / "dump"
            dump.write_bytes(tar.extractfile(archive.DUMP).read())
        out = self.state.parent / "altered"
        archive.write(out, archive.About(**about), dump)
        content = out.read_bytes()
        out.unlink()
        dump.unlink()
        return content

    def test_a_disk_without_room_leaves_nothing_half_written_and_says_why(self):
        file = self.state.parent / "full.backup"
        full = mock.patch.object(archive, "write", side_effect=OSError(28, "No space left on device"))
        with self.cluster() as cluster, full, self.assertRaisesRegex(Trouble, "No space left on device. Nothing was left half-written"):
            backup.write(cluster, file)
        self.assertEqual([path.name for path in self.state.parent.iterdir()], [self.state.name])

    def test_nights(self):
        folder = self.state.parent / "nights"
        cluster = self.cluster()
        nightly = Nightly(cluster)
        self.assertIn("No nightly backups are made", nightly.word())
        self.assertFalse(nightly.is_due(datetime.now()))
        self.assertIn("There is none yet", self.ran(backup, "--nightly", "on", "--into", str(folder)))
        self.assertTrue(nightly.is_due(datetime.now()))
        old = [datetime.now() - timedelta(days=age, hours=1) for age in range(1, 30)]
        for moment in old:
            nightly.next_file(moment).write_text("an older one")
        (folder / "calm-heron-notes.backup").write_text("somebody's own")
        nightly.look()
        for _ in range(300):
            if nightly._running is None:
                break
            time.sleep(0.1)
            nightly.look()
        self.assertFalse(nightly.is_due(datetime.now()))
        files = sorted(file.name for file in folder.iterdir())
        self.assertIn("calm-heron-notes.backup", files)
        self.assertLessEqual(len(files), 1 + 7 + 4 + 3)
        newest = max(folder.glob("calm-heron-2*"))
        self.assertIn("rows, each table counted", self.ran(restore, str(newest)))
        self.assertIn("No nightly", self.ran(backup, "--nightly", "off"))
        with self.assertRaisesRegex(Trouble, "not switched on"):
            backup.run(line.read("backup", ["--nightly", "now"]))

    def test_a_newer_postgresql_gets_the_data_on_consent_and_the_old_stay(self):
        from command import machine

        homes = machine.postgres_homes()
        mine = max(homes)
        # The same programs under a newer number: the way is walked, the versions are pretended.
        newer = {mine: homes[mine], mine + 1: homes[mine]}
        for module in (machine, upgrade_data):
            patched = mock.patch.object(module, "postgres_homes", return_value=newer)
            patched.start()
            self.addCleanup(patched.stop)
        said = self.ran(upgrade_data)
        self.assertIn(f"made by PostgreSQL {mine + 1}", said)
        self.assertTrue((self.state / "work" / f"data.{mine}").exists())
        with self.cluster() as cluster, cluster.connect(DATABASE) as connection:
            self.assertEqual(connection.execute("SELECT count(*) FROM workshops_workshop").fetchone(), (1,))


class Thinning(OwnData):
    def test_seven_days_four_weeks_twelve_months_of_three_years(self):
        nights = [datetime(2026, 11, 26, 3) - timedelta(days=age) for age in range(1000)]
        left = sorted(to_keep(nights), reverse=True)
        self.assertEqual(left[:7], nights[:7])
        self.assertLessEqual(len(left), 7 + 4 + 12)
        self.assertEqual(len({(night.year, night.month) for night in left}), 12)
        # Thinned out every night it comes to the same as thinned out once.
        nightly: set = set()
        for night in reversed(nights):
            nightly = to_keep([*nightly, night])
        self.assertEqual(sorted(nightly, reverse=True), left)
