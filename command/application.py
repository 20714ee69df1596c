"""The Django side of the commands: point the application at a cluster and bring its database up to date."""

import errno
import hashlib
import os
import subprocess
import sys
from pathlib import Path

import psycopg

from command.cluster import DATABASE, ROLE, Cluster
from command.installation import state_folder
from command.machine import ROOT
from command.trouble import Trouble

BASE_SETTINGS = "calm_heron.settings.base"
# What decides whether tables and static files are up to date.
SOURCES = (
    "calm_heron/*/migrations/*.py",
    # Which tables are only added to, and whose changes are noted, stands in the models.
    "calm_heron/*/models.py",
    "calm_heron/answers/changes.py",
    "calm_heron/*/static/**/*",
    "calm_heron/workshops/grants.py",
    "requirements.lock",
)


def point_at(cluster: Cluster, *, database: str = DATABASE, settings: str = BASE_SETTINGS, as_owner: bool = False) -> None:
    """Set the environment that the settings read; child processes inherit it."""
    os.environ.update(cluster.owner_environment() if as_owner else cluster.environment())
    os.environ.setdefault("CALM_HERON_STATIC_ROOT", str(state_folder() / "static"))
    os.environ["CALM_HERON_DATABASE_NAME"] = database
    os.environ["CALM_HERON_NIGHTLY"] = str(cluster.folder / "nightly")
    os.environ["DJANGO_SETTINGS_MODULE"] = settings


def prepare(cluster: Cluster, *, database: str = DATABASE, demo: bool) -> None:
    """Migrate as the owner, settle the rights of the application's role, gather static files, and load the demo workshop.

    It runs in a process of its own: the one that serves never holds the owner's password. Nothing is done where the last preparing of
    this database saw the same files.
    """
    point_at(cluster, database=database)
    if is_prepared(cluster, database=database, demo=demo):
        return
    environment = os.environ | cluster.owner_environment()
    if subprocess.run([sys.executable, "-m", "command.application", *(["demo"] if demo else [])], cwd=ROOT, env=environment).returncode:
        raise Trouble("The database could not be brought up to date; the lines above say why. Your data are untouched.")
    _mark(cluster, database).write_text(_what_is_there(demo))


def is_prepared(cluster: Cluster, *, database: str = DATABASE, demo: bool) -> bool:
    """Whether the last preparing of this database saw the files that are there now."""
    mark, static = _mark(cluster, database), Path(os.environ.get("CALM_HERON_STATIC_ROOT") or state_folder() / "static")
    return mark.exists() and (static / "staticfiles.json").exists() and mark.read_text() == _what_is_there(demo)


def _mark(cluster: Cluster, database: str) -> Path:
    return cluster.folder / f"prepared-{database}"


def forget_prepared(cluster: Cluster, database: str = DATABASE) -> None:
    """Have the next start prepare the database anew, after something else has been put in its place."""
    _mark(cluster, database).unlink(missing_ok=True)


def say(what: str) -> None:
    print(what, file=sys.stderr, flush=True)


def _what_is_there(demo: bool) -> str:
    files = sorted(file for pattern in SOURCES for file in ROOT.glob(pattern) if file.is_file())
    lines = [f"{file.relative_to(ROOT)} {file.stat().st_mtime_ns} {file.stat().st_size}" for file in files]
    return hashlib.sha256("\n".join([str(ROOT), str(demo), *lines]).encode()).hexdigest()


def bring_up_to_date(*, demo: bool) -> None:
    """The preparing itself; the environment names a database and its owner."""
    import django
    from django.core.management import call_command
    from django.db import connection

    django.setup()
    from calm_heron.workshops import grants
    from wood.builds import layout_kernel
    from wood.drying import field
    from wood.kiln import plans
    from wood.turning import cuts_kernel

    say("Bringing tables and pages up to date.")
    call_command("migrate", verbosity=0, interactive=False)
    with connection.cursor() as cursor:
        grants.settle(cursor, ROLE)
    call_command("collectstatic", verbosity=0, interactive=False)
    say("Making the drying model ready (some twenty seconds where it never ran).")
    field.warm()
    plans.warm()
    cuts_kernel.warm()
    layout_kernel.warm()
    if demo:
        say("Loading the demo workshop.")
        call_command("load_demo", verbosity=0)


def no_room(error: BaseException | None) -> str:
    """What the system or the database said where there is no room, or no right to write; empty for any other error."""
    while error is not None:
        if isinstance(error, OSError) and error.errno in (errno.ENOSPC, errno.EDQUOT, errno.EACCES, errno.EROFS):
            return f"{error.filename or 'a file'}: {error.strerror}"
        if isinstance(error, psycopg.errors.DiskFull | psycopg.errors.OutOfMemory):
            return str(error).splitlines()[0]
        error = error.__cause__ or error.__context__
    return ""


if __name__ == "__main__":
    try:
        bring_up_to_date(demo="demo" in sys.argv[1:])
    except Exception as error:
        if not (said := no_room(error)):
            raise
        say(f"It could not be written: {said}.")
        sys.exit(1)
