"""Backup and restore: what was written comes back row for row, anything else is refused, and nights are kept as they age."""

import contextlib
import io
import os
import subprocess
import tarfile
import time
from dataclasses import replace
from datetime import datetime, timedelta
from pathlib import Path
from unittest import mock

from command import archive, backup, kept, line, machine, restore, status, upgrade_data
from command.cluster import DATABASE
from command.nightly import Nightly, to_keep
from command.trouble import Trouble
from tests.keeping.case import OwnData
from tests.test_least_right import NEVER_CHANGED

# Whoever brings this in makes a role that may do anything, if it may itself.
REACHING_OUT = """
CREATE FUNCTION reach() RETURNS bool LANGUAGE plpgsql AS $$ BEGIN
    IF current_database() <> 'other' THEN CREATE ROLE calm_heron_friend SUPERUSER; END IF; RETURN true; END $$;
CREATE TABLE t (n int CHECK (reach()));
INSERT INTO t VALUES (1);
"""


class Saved(OwnData):
    """On a real, migrated database with the demo in it."""

    takes_s = 35

    def setUp(self):
        super().setUp()
        self.take_pattern()

    def ran(self, command, *arguments: str, ends: int = 0) -> str:
        name = command.__name__.rpartition(".")[2].replace("_", "-")
        with contextlib.redirect_stdout(io.StringIO()) as said, contextlib.redirect_stderr(io.StringIO()):
            self.assertEqual(command.run(line.read(name, list(arguments))), ends)
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
            "one of a newer PostgreSQL": self.altered(good, postgres=99),
            "a day that is none": self.altered(good, made_at="yesterday"),
            "numbers for words": self.altered(good, rows={"stock_piece": "many"}),
            "a list of lists": tarred({archive.ABOUT: b"[" * 200_000, archive.DUMP: b"PGDMP"}),
            "no database": self.altered(good, dump=b"SELECT 1;"),
            "a link instead of a database": tarred({archive.ABOUT: b"{}"}, link=archive.DUMP),
            "another file with it": tarred({archive.ABOUT: b"{}", archive.DUMP: b"PGDMP", "../../root/.profile": b"x"}),
            "a database of another size": self.altered(good, database_bytes=1 << 60),
            "somebody else's database": self.altered(good, dump=self.dumped("CREATE TABLE t (n int)"), rows={"t": 0}),
            "one that reaches out": self.altered(good, dump=self.dumped(REACHING_OUT), rows={"t": 1}),
            "one in a schema of its own": self.altered(good, dump=self.dumped("CREATE SCHEMA s; CREATE TABLE s.t (n int)"), rows={}),
        }
        file = self.state.parent / "odd.backup"
        for what, content in odd.items():
            file.write_bytes(content)
            with self.subTest(what), self.assertRaises(Trouble) as trouble:
                restore.run(line.read("restore", [str(file)]))
            self.assertRegex(
                str(trouble.exception),
                "no backup|damaged|newer Calm Heron|by PostgreSQL 99|not what it should hold|no tables of|does not know|MB free|brought in",
                what,
            )
        with self.assertRaisesRegex(Trouble, "There is no file"):
            restore.run(line.read("restore", ["/nowhere/at/all"]))
        self.assertFalse((self.state / "backups").exists())
        with self.cluster() as cluster, cluster.connect() as connection:
            self.assertEqual(cluster.databases(), [DATABASE, "postgres"])
            roles = "SELECT rolname FROM pg_roles WHERE rolsuper OR rolname LIKE 'calm_heron_f%'"
            self.assertEqual(connection.execute(roles).fetchall(), [("calm_heron",)])

    def altered(self, file: Path, dump: bytes | None = None, **changes) -> bytes:
        """A backup that says something else of itself, or holds something else."""
        looked = archive.look(file)
        held, out = self.state.parent / "dump", self.state.parent / "altered"
        held.write_bytes(b"".join(looked.pieces()) if dump is None else dump)
        archive.write(out, replace(looked.about, **{"digest": archive.digest(held)} | changes), held)
        content = out.read_bytes()
        out.unlink()
        held.unlink()
        return content

    def dumped(self, statements: str) -> bytes:
        """A database of somebody else's, made by these statements, as PostgreSQL writes it out."""
        with self.cluster() as cluster:
            cluster.create_database("other")
            with cluster.connect("other") as connection:
                connection.execute(statements)
            done = cluster.client("pg_dump", "--format=custom", "--no-owner", "other", stdout=subprocess.PIPE)
            cluster.drop_database("other")
        return done.stdout

    def test_where_the_old_postgresql_is_gone_a_bad_file_leaves_all_as_it_was_and_a_good_one_sets_it_aside(self):
        good, bad = self.state.parent / "good.backup", self.state.parent / "bad.backup"
        self.ran(backup, str(good))
        bad.write_bytes(self.altered(good, rows={"workshops_workshop": 77}))
        mine = self.pretend_newer(only=True)
        with self.assertRaisesRegex(Trouble, "not what it should hold"):
            restore.run(line.read("restore", [str(bad)]))
        work = self.state / "work"
        self.assertEqual(([*work.glob("data.*")], (work / "data" / "PG_VERSION").read_text().strip()), ([], str(mine)))
        self.assertIn("rows, each table counted", self.ran(restore, str(good)))
        self.assertIn(f"data.{mine}", self.ran(kept))
        self.assertIn("Say so with --yes", self.ran(kept, "--remove", f"data.{mine}", ends=1))
        self.assertTrue((work / f"data.{mine}").exists())
        self.assertIn("Removed", self.ran(kept, "--remove", f"data.{mine}", "--yes"))
        self.assertIn("Nothing was set aside", self.ran(kept))
        with self.assertRaisesRegex(Trouble, "Nothing by the name"):
            kept.run(line.read("kept", ["--remove", "../work", "--yes"]))

    def pretend_newer(self, *, only: bool = False) -> int:
        """Have the programs of this machine pass for those of a newer PostgreSQL, beside its own or instead of them; returns its own."""
        homes = machine.postgres_homes()
        mine = max(homes)
        newer = {mine + 1: homes[mine]} | ({} if only else {mine: homes[mine]})
        for module in (machine, upgrade_data, restore):
            patched = mock.patch.object(module, "postgres_homes", return_value=newer)
            patched.start()
            self.addCleanup(patched.stop)
        return mine

    def test_a_file_is_named_from_where_the_command_is_given_and_lies_in_the_checkout_only_if_that_was_said(self):
        with mock.patch.dict(os.environ, {"CALM_HERON_CALLED_FROM": "/home/ann"}):
            self.assertEqual(backup.wanted_file(Path("shop.backup")), Path("/home/ann/shop.backup"))
            self.assertEqual(backup.wanted_file(Path("../shop.backup")), Path("/home/shop.backup"))
        with mock.patch.dict(os.environ, {"CALM_HERON_CALLED_FROM": str(machine.ROOT)}):
            with self.assertRaisesRegex(Trouble, "into the program's own folder"):
                backup.wanted_file(Path("shop.backup"))
            self.assertEqual(backup.wanted_file(Path("../shop.backup")), machine.ROOT.parent / "shop.backup")
            self.assertEqual(backup.wanted_file(machine.ROOT / "shop.backup"), machine.ROOT / "shop.backup")

    def test_a_disk_without_room_leaves_nothing_half_written_and_says_why(self):
        file = self.state.parent / "full.backup"
        full = mock.patch.object(archive, "write", side_effect=OSError(28, "No space left on device"))
        with self.cluster() as cluster, full, self.assertRaisesRegex(Trouble, "No space left on device. Nothing was left half-written"):
            backup.write(cluster, file)
        self.assertEqual([path.name for path in self.state.parent.iterdir()], [self.state.name])

    def wait_for(self, nightly: Nightly) -> None:
        for _ in range(300):
            if nightly._running is None:
                return
            time.sleep(0.1)
            nightly.look()

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
        self.wait_for(nightly)
        self.assertFalse(nightly.is_due(datetime.now()))
        files = sorted(file.name for file in folder.iterdir())
        self.assertIn("calm-heron-notes.backup", files)
        self.assertLessEqual(len(files), 1 + 7 + 4 + 3)
        newest = max(folder.glob("calm-heron-2*"))
        self.assertIn("rows, each table counted", self.ran(restore, str(newest)))
        # A night that fails is said until one is made.
        folder.rename(folder.with_name("unplugged"))
        folder.write_text("no folder")
        nightly._next_look = 0.0
        with contextlib.redirect_stderr(io.StringIO()):
            nightly.look()
            self.wait_for(nightly)
        self.assertRegex(nightly.word(), "THE LAST ONE FAILED, .*Not a directory")
        self.assertIn("THE LAST ONE FAILED", self.ran(status))
        folder.unlink()
        folder.with_name("unplugged").rename(folder)
        nightly._next_look = 0.0
        self.assertIn("No nightly", self.ran(backup, "--nightly", "off"))
        with self.assertRaisesRegex(Trouble, "not switched on"):
            backup.run(line.read("backup", ["--nightly", "now"]))

    def test_a_newer_postgresql_gets_the_data_on_consent_and_the_old_stay(self):
        mine = self.pretend_newer()
        said = self.ran(upgrade_data)
        self.assertIn(f"made by PostgreSQL {mine + 1}", said)
        self.assertTrue((self.state / "work" / f"data.{mine}").exists())
        with self.cluster() as cluster, cluster.connect(DATABASE) as connection:
            self.assertEqual(connection.execute("SELECT count(*) FROM workshops_workshop").fetchone(), (1,))


def tarred(parts: dict[str, bytes], link: str = "") -> bytes:
    """A tar of these parts, and of a link by that name."""
    out = io.BytesIO()
    with tarfile.open(fileobj=out, mode="w") as tar:
        for name, content in parts.items():
            entry = tarfile.TarInfo(name)
            entry.size = len(content)
            tar.addfile(entry, io.BytesIO(content))
        if link:
            entry = tarfile.TarInfo(link)
            entry.type, entry.linkname = tarfile.SYMTYPE, "/etc/passwd"
            tar.addfile(entry)
    return out.getvalue()


class Thinning(OwnData):
    def test_of_what_restores_kept_the_newest_three_stay(self):
        folder = self.state / "backups"
        folder.mkdir()
        for name in (*(f"before-2026-11-0{day}-120000.backup" for day in range(1, 6)), "before-my-own.backup", "calm-heron-2026.backup"):
            (folder / name).write_text("x")
        gone = kept.Kept(self.cluster()).thin_out()
        self.assertEqual([file.name[:17] for file in gone], ["before-2026-11-02", "before-2026-11-01"])
        self.assertEqual(len(list(folder.iterdir())), 5)

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
