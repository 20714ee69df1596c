"""``./heron backup FILE``: everything that people recorded, in one file, while it runs or not; ``--nightly on`` makes one every night."""

import argparse
import time
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import psycopg

from command import archive
from command.cluster import DATABASE, Cluster
from command.machine import ROOT, called_from
from command.nightly import Nightly
from command.trouble import Trouble


def run(options: argparse.Namespace) -> int:
    cluster = Cluster("work")
    nightly = Nightly(cluster)
    if options.nightly in {"on", "off"}:
        print(nightly.switch(options.nightly == "on", options.into))
        return 0
    if not options.file and not options.nightly:
        print("Name the file to write, as in  ./heron backup FILE, or see  ./heron backup --help.")
        print(nightly.word())
        return 2
    if not cluster.data.exists():
        raise Trouble("There are no data here yet, so there is nothing to back up.")
    begun = time.monotonic()
    with cluster.running_or_started():
        file = nightly.next_file() if options.nightly else wanted_file(options.file)
        about = write(cluster, file, with_secrets=options.with_secrets)
        if options.nightly:
            nightly.thin_out()
    print(
        f"{file}: {sum(about.rows.values()):,} rows, {file.stat().st_size / 1e6:.1f} MB, in {time.monotonic() - begun:.0f} s. It holds all "
        "that people recorded, their photographs and addresses"
        + (", and the key of the installation" if about.has_secrets else "")
        + "; keep it where only you can read it."
    )
    return 0


def wanted_file(typed: Path) -> Path:
    """The file that was named, from where the command was given.

    Raises:
        Trouble: it would come to lie in the checkout without anybody having said so.
    """
    file = called_from(typed)
    if not typed.is_absolute() and file.is_relative_to(ROOT):
        raise Trouble(f"That would put it into the program's own folder, {ROOT}. Name a place for it, as in  ./heron backup ~/{typed.name}")
    return file


def write(cluster: Cluster, file: Path, *, database: str = DATABASE, with_secrets: bool = False) -> archive.About:
    """Write a backup of a running cluster's database as it stands at one moment.

    Raises:
        Trouble: there is no such database, or the file could not be written.
    """
    if database not in cluster.databases():
        raise Trouble("There are no data here yet, so there is nothing to back up.")
    dump = file.with_name(f".{file.name}.database")
    with archive.whole(file) as unfinished, cluster.connect(database) as connection:
        try:
            # One snapshot for the tool and for our own counting: what is recorded meanwhile is in neither.
            connection.execute("BEGIN ISOLATION LEVEL REPEATABLE READ READ ONLY")
            snapshot = _value(connection, "SELECT pg_export_snapshot()")
            dump.touch(mode=0o600)
            with dump.open("wb") as out:
                done = cluster.client(
                    "pg_dump",
                    "--format=custom",
                    "--compress=1",
                    "--no-owner",
                    "--no-privileges",
                    f"--snapshot={snapshot}",
                    database,
                    stdout=out,
                )
            if done.returncode:
                raise Trouble(f"The database could not be written out: {done.stderr.decode(errors='replace').strip()[-400:]}")
            about = archive.About(
                format=archive.FORMAT,
                made_at=datetime.now(UTC).isoformat(timespec="seconds"),
                postgres=cluster.made_by() or 0,
                migrations=migrations_of(connection),
                rows=rows_of(connection),
                digest=archive.digest(dump),
                has_secrets=with_secrets,
                database_bytes=_value(connection, "SELECT pg_database_size(current_database())"),
            )
            archive.write(unfinished, about, dump, cluster.secret("secret-key") if with_secrets else "")
        finally:
            dump.unlink(missing_ok=True)
    return about


def _value(connection: psycopg.Connection, question: str) -> Any:
    """The one value that a query gives."""
    row = connection.execute(question).fetchone()
    assert row is not None
    return row[0]


def rows_of(connection: psycopg.Connection) -> dict[str, int]:
    """How many rows each table has."""
    tables = [name for (name,) in connection.execute("SELECT tablename FROM pg_tables WHERE schemaname = 'public' ORDER BY 1")]
    return {name: _value(connection, f'SELECT count(*) FROM "{name}"') for name in tables}


def migrations_of(connection: psycopg.Connection) -> list[str]:
    """How far the tables were moved on: app and name of each step."""
    if not _value(connection, "SELECT to_regclass('public.django_migrations')"):
        return []
    return [f"{app}.{name}" for app, name in connection.execute("SELECT app, name FROM django_migrations ORDER BY 1, 2")]
