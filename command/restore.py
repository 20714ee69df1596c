"""``./heron restore FILE``: replace the data here by a backup's. The file is looked at first, brought in beside the present data, and only
what is whole takes their place; they are then kept as a backup of their own."""

import argparse
import re
import shutil
import subprocess
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from datetime import datetime
from pathlib import Path
from threading import Thread
from typing import IO

from command import archive, backup
from command.application import forget_prepared, say
from command.cluster import DATABASE, Cluster
from command.installation import settle
from command.kept import Kept
from command.machine import ROOT, called_from, need_postgres, postgres_homes
from command.trouble import Trouble

# Where the copy is made and checked before it takes the old one's place.
BESIDE = "calm_heron_restored"
# What a backup of ours is made of, as PostgreSQL names it; nothing else is brought in.
OURS = (
    "CHECK CONSTRAINT",
    "COMMENT",
    "CONSTRAINT",
    "DATABASE",
    "DEFAULT",
    "DEFAULT ACL",
    "ENCODING",
    "FK CONSTRAINT",
    "FUNCTION",
    "INDEX",
    "SEQUENCE",
    "SEQUENCE OWNED BY",
    "SEQUENCE SET",
    "STDSTRINGS",
    "SEARCHPATH",
    "TABLE",
    "TABLE DATA",
    "TRIGGER",
    "TYPE",
)
# A database of which the backup does not tell the room it takes: so many times its compressed size, seen with few photographs in it.
USUAL_GROWTH = 12
# What stays free beside it.
SPARE_BYTES = 200 << 20


def run(options: argparse.Namespace) -> int:
    begun = time.monotonic()
    looked = look(called_from(options.file))
    cluster = Cluster("work")
    need_room(cluster, looked)
    with set_aside_for_newer(cluster), cluster:
        settle()
        about, before = into(cluster, looked)
    print(
        f"Restored what was there on {datetime.fromisoformat(about.made_at).astimezone():%d %B %Y, %H:%M}: "
        f"{sum(about.rows.values()):,} rows, each table counted, in {time.monotonic() - begun:.0f} s."
    )
    if before:
        print(f"What was here until now is in {before}")
        for gone in Kept(cluster).thin_out():
            print(f"Removed, since newer ones are kept: {gone}")
        print("All that restores have set aside:  ./heron kept")
    print("Start Calm Heron:  ./heron start")
    return 0


def look(file: Path) -> archive.Looked:
    """A backup that may be brought in here, as far as it can be told without touching anything.

    Raises:
        Trouble: it is no whole backup, one of a newer Calm Heron or PostgreSQL, or holds what ours never do.
    """
    looked = archive.look(file)
    if unknown := newer_steps(looked.about):
        raise Trouble(f"{file} was made by a newer Calm Heron ({unknown[0]} is not known here). Update this one first.")
    newest = max(postgres_homes(), default=0)
    if newest and looked.about.postgres > newest:
        raise Trouble(
            f"{file} was made by PostgreSQL {looked.about.postgres}, and this machine has only {newest}. Nothing was changed. Install "
            f"PostgreSQL {looked.about.postgres}, then restore again."
        )
    told = _fed([str(need_postgres(newest or None) / "pg_restore"), "--list"], looked)
    if told.returncode:
        raise Trouble(f"{file} holds no database that PostgreSQL {newest} can read. Nothing was changed.")
    for line in told.stdout.decode(errors="replace").splitlines():
        named = re.match(r"\d+; \d+ \d+ ([A-Z][A-Z ]*) (?:public|-) ", line)
        if line.strip() and not line.startswith(";") and not (named and named[1] in OURS):
            raise Trouble(f"{file} holds what no backup of Calm Heron does ({line.partition('; ')[2][:60]}). Nothing was changed.")
    return looked


def need_room(cluster: Cluster, looked: archive.Looked) -> None:
    """See that the disk has room for the copy beside the present data.

    Raises:
        Trouble: it has not.
    """
    there = next(folder for folder in (cluster.folder, *cluster.folder.parents) if folder.exists())
    wanted = (looked.about.database_bytes or USUAL_GROWTH * looked.size) + SPARE_BYTES
    free = shutil.disk_usage(there).free
    if free < wanted:
        raise Trouble(
            f"It takes {wanted / 1e6:,.0f} MB beside the present data, and {there} has {free / 1e6:,.0f} MB free. Nothing was changed."
        )


@contextmanager
def set_aside_for_newer(cluster: Cluster) -> Iterator[None]:
    """Where the PostgreSQL that made the data is gone from this machine, they are set aside for new ones, and taken back if that fails."""
    homes = postgres_homes()
    if not homes or not cluster.data.exists() or cluster.made_by() in homes:
        yield
        return
    if cluster.is_in_use():
        raise Trouble("Calm Heron runs from this folder. End it first; nothing was changed.")
    aside = cluster.set_aside()
    try:
        yield
    except BaseException:
        cluster.take_back(aside)
        raise
    say(f"The old data are set aside in {aside}.")


def keep_what_is_there(cluster: Cluster, database: str = DATABASE) -> Path | None:
    """A backup of the present database, with its secrets, before another takes its place; None where there is none."""
    if database not in cluster.databases():
        return None
    folder = Kept(cluster).folder
    folder.mkdir(exist_ok=True, mode=0o700)
    file = folder / f"before-{datetime.now():%Y-%m-%d-%H%M%S}.backup"
    backup.write(cluster, file, database=database, with_secrets=True)
    return file


def into(cluster: Cluster, looked: archive.Looked, database: str = DATABASE, *, keep: bool = True) -> tuple[archive.About, Path | None]:
    """Make a database from a backup, check it, and put it in the place of the present one; returns what the backup says of itself, and
    where the present one is kept (``keep``).

    Raises:
        Trouble: what came out of the backup is not what it should hold. The present database is as it was.
    """
    about, before = looked.about, None
    with cluster.filler(BESIDE) as signed_in:
        command = [str(cluster.programs / "pg_restore"), "--no-password", "--exit-on-error", "--no-owner", "--no-privileges"]
        done = _fed([*command, f"--dbname={BESIDE}"], looked, cluster.client_environment() | signed_in)
        if done.returncode:
            raise Trouble(
                f"The backup could not be brought in: {done.stderr.decode(errors='replace').strip()[-400:]}\nNothing was changed."
            )
    try:
        with cluster.connect(BESIDE) as connection:
            rows = backup.rows_of(connection)
            if backup.migrations_of(connection) != about.migrations:
                raise Trouble("What came out of the backup are no tables of Calm Heron, or other ones than it says. Nothing was changed.")
            wrong = [name for name in {*about.rows, *rows} if rows.get(name) != about.rows.get(name)]
            if wrong:
                raise Trouble(f"What came out of the backup is not what it should hold ({min(wrong)}). Nothing was changed.")
            connection.execute("ANALYZE")
        before = keep_what_is_there(cluster, database) if keep else None
        cluster.drop_database(database)
        cluster.rename_database(BESIDE, database)
    except BaseException:
        cluster.drop_database(BESIDE)
        raise
    forget_prepared(cluster, database)
    if looked.secret_key:
        cluster.keep_secret("secret-key", looked.secret_key)
    return about, before


def newer_steps(about: archive.About) -> list[str]:
    """Steps of our own tables that the backup has been through and this version does not know."""
    ours = {f"{file.parent.parent.name}.{file.stem}" for file in ROOT.glob("calm_heron/*/migrations/[0-9]*.py")}
    apps = {folder.parent.name for folder in ROOT.glob("calm_heron/*/migrations")}
    return [step for step in about.migrations if step.split(".")[0] in apps and step not in ours]


def _fed(command: list[str], looked: archive.Looked, environment: dict[str, str] | None = None) -> subprocess.CompletedProcess[bytes]:
    """A program that reads the database of a backup from its standard input; what it prints is kept."""
    with subprocess.Popen(command, env=environment, stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.PIPE) as program:
        assert program.stdin is not None
        feeding = Thread(target=_feed, args=(program.stdin, looked))
        feeding.start()
        program.stdin = None
        told, trouble = program.communicate()
        feeding.join()
    return subprocess.CompletedProcess(command, program.returncode, told, trouble)


def _feed(into: IO[bytes], looked: archive.Looked) -> None:
    # A program that has what it wants, or refuses it, reads no further.
    with suppress(BrokenPipeError), into:
        for piece in looked.pieces():
            into.write(piece)
