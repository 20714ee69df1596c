"""The databases that tests run in: copies of two patterns, one with empty tables and one with the demo workshop loaded.

A pattern is migrated once and kept under a digest of all that makes it. Each process of a run has a copy of either, ``…_empty`` and
``…_demo``; a class of tests says which it runs in. Tests inside a transaction leave their copy as it was. One that commits has it copied
anew from the pattern afterwards (``CREATE DATABASE … TEMPLATE``, some tenths of a second), which is far quicker than to empty every table
or to load the demo.
"""

import gc
import hashlib
import multiprocessing
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from datetime import UTC, datetime

import psycopg
from django.core.management import call_command
from django.db import connection, connections
from django.utils import timezone
from psycopg import sql

from calm_heron.workshops import grants
from command.cluster import OWNER, ROLE
from command.machine import ROOT

EMPTY, DEMO = "empty", "demo"
KINDS = (EMPTY, DEMO)
# What decides how the tables are made, and what the demo is made of.
MADE_BY = {
    EMPTY: (
        "calm_heron/*/migrations/*.py",
        "calm_heron/*/models.py",
        "calm_heron/answers/changes.py",
        "calm_heron/workshops/grants.py",
        "calm_heron/workshops/triggers.py",
        "requirements.lock",
    ),
    DEMO: ("calm_heron/**/*.py", "wood/**/*.py", "wood/data/*.csv", "simulators/*.py", "requirements.lock"),
}
# The demo ends at the moment it was made; one so old is as good as new to every test.
DEMO_LASTS_S = 1800


def pattern_name(kind: str) -> str:
    """The name of a pattern, by what it is made by; the demo's by the half-hour of its making, too."""
    digest = hashlib.sha256()
    for pattern in MADE_BY[kind]:
        for file in sorted(ROOT.glob(pattern)):
            digest.update(str(file.relative_to(ROOT)).encode() + file.read_bytes())
    if kind == DEMO:
        digest.update(f"{pattern_name(EMPTY)} {int(datetime.now(UTC).timestamp()) // DEMO_LASTS_S}".encode())
    return f"pattern_{kind}_{digest.hexdigest()[:12]}"


def own_name(kind: str, process: int) -> str:
    """The copy of a pattern that a process of the run works in; process 0 is that of a run in one process."""
    return f"testing_{process}_{kind}"


def prepare(kinds: set[str], processes: int) -> None:
    """Make the patterns that are wanted where they are missing, and a copy of each for every process; the connection is then on the
    first.
    """
    patterns = {kind: pattern_name(kind) for kind in KINDS if kind in kinds | {EMPTY}}
    with _as_owner() as owner:
        there = {name for (name,) in owner.execute("SELECT datname FROM pg_database").fetchall()}
        for old in there:
            if old.startswith("testing_") or (old.startswith("pattern_") and old not in {pattern_name(kind) for kind in KINDS}):
                _drop(owner, old)
        for kind, name in patterns.items():
            if name not in there:
                # In a process that ends: what it remembers and the threads it begins stay out of the run.
                making = multiprocessing.get_context("fork").Process(target=_make_pattern, args=(kind, name, patterns[EMPTY]))
                making.start()
                making.join()
                if making.exitcode:
                    raise RuntimeError(f"the pattern {name} could not be made")
        for process in range(1, processes + 1) if processes > 1 else (0,):
            for kind, name in patterns.items():
                _copy(owner, name, own_name(kind, process))
    _names.update(patterns)
    use(EMPTY)


def drop_copies() -> None:
    """Take out the copies of a run; the patterns stay for the next."""
    connections.close_all()
    with _as_owner() as owner:
        for (name,) in owner.execute("SELECT datname FROM pg_database WHERE datname LIKE 'testing\\_%'").fetchall():
            _drop(owner, name)


def in_process(number: int) -> None:
    """This process is one of several: it works in copies of its own."""
    # What was loaded before stays for good, and is not looked through for garbage again and again.
    gc.freeze()
    gc.set_threshold(50_000, 20, 50)
    _process[0] = number
    use(EMPTY)


def use(kind: str) -> None:
    """Every connection from now on is to this process's copy of that pattern, with the rights of the application."""
    connection.close()
    connection.settings_dict["NAME"] = own_name(kind, _process[0])
    act_as(ROLE)
    _forget_rows()


def is_prepared(kind: str) -> bool:
    """Whether this run has a pattern of that kind to copy."""
    return kind in _names


def copy_anew(kind: str) -> None:
    """Copy this process's database from its template again, ending connections that are still open."""
    connection.close()
    with _as_owner() as owner:
        _drop(owner, own_name(kind, _process[0]))
        _copy(owner, _names[kind], own_name(kind, _process[0]))
    _forget_rows()


def _forget_rows() -> None:
    """What this process remembers by ids of rows is of another database, in which the same ids are other rows."""
    # Imported here: before a run is set up there are no apps.
    from calm_heron.site.memory import forget_rows

    forget_rows()


@contextmanager
def copied(kind: str, name: str) -> Iterator[None]:
    """A copy of a pattern under a name of its own, taken out afterwards; the connection of this process stays where it is."""
    with _as_owner() as owner:
        _drop(owner, name)
        _copy(owner, _names[kind], name)
        try:
            yield
        finally:
            _drop(owner, name)


@contextmanager
def brought_in(fill: Callable[[str], None]) -> Iterator[None]:
    """A database of its own, filled by ``fill`` under its name, with the tables as they were then; this process's connection is on it, with
    the owner's rights, until it is taken out."""
    name = own_name("before", _process[0])
    with _as_owner() as owner:
        _drop(owner, name)
        owner.execute(sql.SQL("CREATE DATABASE {} TEMPLATE template0 ENCODING 'UTF8'").format(sql.Identifier(name)))
        try:
            fill(name)
            connection.close()
            connection.settings_dict["NAME"] = name
            act_as(None)
            yield
        finally:
            connection.close()
            _drop(owner, name)


def act_as(role: str | None) -> None:
    """Have every connection from now on act with a role's rights; with ``None`` as the owner."""
    options = connection.settings_dict["OPTIONS"]
    if role:
        options["options"] = f"-c role={role}"
    else:
        options.pop("options", None)
    connection.close()


_names: dict[str, str] = {}
_process = [0]


@contextmanager
def _as_owner() -> Iterator[psycopg.Connection]:
    settings = connection.settings_dict
    with psycopg.connect(
        host=settings["HOST"], port=settings["PORT"], user=OWNER, password=settings["PASSWORD"], dbname="postgres", autocommit=True
    ) as owner:
        yield owner


def _make_pattern(kind: str, name: str, empty: str) -> None:
    """Under another name until it is whole: a run that is cut off leaves none by halves."""
    with _as_owner() as owner:
        _made(owner, kind, name, empty)


def _made(owner: psycopg.Connection, kind: str, name: str, empty: str) -> None:
    unfinished = f"testing_making_{kind}"
    if kind == EMPTY:
        owner.execute(sql.SQL("CREATE DATABASE {} TEMPLATE template0 ENCODING 'UTF8'").format(sql.Identifier(unfinished)))
    else:
        _copy(owner, empty, unfinished)
    connection.close()
    connection.settings_dict["NAME"] = unfinished
    if kind == EMPTY:
        act_as(None)
        call_command("migrate", verbosity=0, interactive=False)
        with connection.cursor() as cursor:
            grants.settle(cursor, ROLE)
    else:
        from calm_heron.demo import scenario

        act_as(ROLE)
        scenario.renew(timezone.now())
    connection.close()
    owner.execute(sql.SQL("ALTER DATABASE {} RENAME TO {}").format(sql.Identifier(unfinished), sql.Identifier(name)))


def _copy(owner: psycopg.Connection, pattern: str, name: str) -> None:
    # File by file: with a cluster that never syncs this is the quicker of the two ways.
    owner.execute(sql.SQL("CREATE DATABASE {} TEMPLATE {} STRATEGY FILE_COPY").format(sql.Identifier(name), sql.Identifier(pattern)))


def _drop(owner: psycopg.Connection, name: str) -> None:
    owner.execute(sql.SQL("DROP DATABASE IF EXISTS {} WITH (FORCE)").format(sql.Identifier(name)))
