"""``./heron restore FILE``: replace the data here by a backup's, after backing up the data here."""

import argparse
import os
import time
from datetime import datetime
from pathlib import Path

from command import archive, backup
from command.application import forget_prepared, say
from command.cluster import DATABASE, Cluster
from command.installation import settle
from command.machine import ROOT, postgres_homes
from command.trouble import Trouble

# Where the copy is made and checked before it takes the old one's place.
BESIDE = "calm_heron_restored"


def run(options: argparse.Namespace) -> int:
    begun = time.monotonic()
    cluster = Cluster("work")
    homes = postgres_homes()
    if homes and cluster.data.exists() and cluster.made_by() not in homes:
        # Their PostgreSQL is gone from this machine; the backup comes into a newer one.
        say(f"The old data are set aside in {cluster.set_aside()}.")
    with cluster:
        settle()
        before = keep_what_is_there(cluster)
        about = into(cluster, options.file.absolute())
    print(
        f"Restored what was there on {datetime.fromisoformat(about.made_at).astimezone():%d %B %Y, %H:%M}: "
        f"{sum(about.rows.values()):,} rows, each table counted, in {time.monotonic() - begun:.0f} s."
    )
    if before:
        print(f"What was here until now is in {before}")
    print("Start Calm Heron:  ./heron start")
    return 0


def keep_what_is_there(cluster: Cluster) -> Path | None:
    """A backup of the present database, with its secrets, before another takes its place; None where there is none."""
    if DATABASE not in cluster.databases():
        return None
    folder = cluster.folder.parent / "backups"
    folder.mkdir(exist_ok=True, mode=0o700)
    file = folder / f"before-{datetime.now():%Y-%m-%d-%H%M%S}.backup"
    backup.write(cluster, file, with_secrets=True)
    return file


def into(cluster: Cluster, file: Path, database: str = DATABASE) -> archive.About:
    """Make a database from a backup, check it, and put it in the place of the present one.

    Raises:
        Trouble: the file is not a whole backup, or one of a newer Calm Heron, or what came out of it is not what it should hold. The
            present database is as it was.
    """
    dump = cluster.folder / "restoring.dump"
    try:
        about, secret_key = archive.take_apart(file, dump)
        if unknown := newer_steps(about):
            raise Trouble(f"{file} was made by a newer Calm Heron ({unknown[0]} is not known here). Update this one first.")
        cluster.drop_database(BESIDE)
        cluster.create_database(BESIDE)
        done = cluster.client("pg_restore", "--exit-on-error", "--no-owner", "--no-privileges", f"--dbname={BESIDE}", str(dump))
        if done.returncode:
            raise Trouble(
                f"The backup could not be brought in: {done.stderr.decode(errors='replace').strip()[-400:]}\nNothing was changed."
            )
        with cluster.connect(BESIDE) as connection:
            rows = backup.rows_of(connection)
            wrong = [name for name, number in about.rows.items() if rows.get(name) != number]
            if wrong:
                raise Trouble(f"What came out of the backup is not what it should hold ({wrong[0]}). Nothing was changed.")
            connection.execute("ANALYZE")
        cluster.drop_database(database)
        cluster.rename_database(BESIDE, database)
    except BaseException:
        cluster.drop_database(BESIDE)
        raise
    finally:
        dump.unlink(missing_ok=True)
    forget_prepared(cluster, database)
    if secret_key:
        cluster.keep_secret("secret-key", secret_key)
    return about


def newer_steps(about: archive.About) -> list[str]:
    """Steps of our own tables that the backup has been through and this version does not know."""
    ours = {f"{file.parent.parent.name}.{file.stem}" for file in ROOT.glob("calm_heron/*/migrations/[0-9]*.py")}
    apps = {os.path.basename(folder.parent) for folder in ROOT.glob("calm_heron/*/migrations")}
    return [step for step in about.migrations if step.split(".")[0] in apps and step not in ours]
