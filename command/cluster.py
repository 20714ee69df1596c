"""A private PostgreSQL on loopback, its data outside the checkout, started and stopped by us alone.

Two roles use it. The owner makes databases and moves their tables to new forms; the application's role owns nothing and may do what its
rights say (``calm_heron/workshops/rights.py``).
"""

import contextlib
import fcntl
import itertools
import os
import secrets
import shutil
import socket
import subprocess
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any, TextIO

import psycopg
from psycopg import sql

from command import installation
from command.machine import is_root, need_postgres
from command.processes import any_in, runs
from command.trouble import Trouble

OWNER = "calm_heron"
ROLE = "calm_heron_app"
# What brings a backup in: it owns the new database while that is filled, and nothing else.
FILLER = "calm_heron_filler"
DATABASE = "calm_heron"


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return probe.getsockname()[1]


class Cluster:
    """One PostgreSQL cluster, by name: ``work`` keeps people's data, ``test`` may be thrown away."""

    def __init__(self, name: str, *, durable: bool = True) -> None:
        self.folder = installation.state_folder() / name
        if name == "work":
            installation.need_no_other()
        self.data = self.folder / "data"
        self.logs = self.folder / "log"
        self.durable = durable
        self.programs = Path()
        self.port = 0
        self._lock: TextIO | None = None

    def __enter__(self) -> "Cluster":
        self._make_ready()
        self._take_lock()
        return self._bring_up()

    def _bring_up(self) -> "Cluster":
        """Make what is missing, and start; the lock is ours."""
        try:
            if not self.data.exists():
                self._initialise()
            self._read_passwords()
            self._start()
            self._make_role()
        except BaseException:
            self.__exit__()
            raise
        return self

    def __exit__(self, *_: Any) -> None:
        self.stop()
        # Closing the file lets go of the lock.
        self._free_lock()

    @contextlib.contextmanager
    def running_or_started(self) -> Iterator["Cluster"]:
        """The cluster as somebody else runs it, left running; or started here, and stopped again."""
        self._make_ready()
        try:
            self._take_lock()
        except Trouble:
            self._free_lock()
            self._read_passwords()
            if not self._adopt_running():
                raise Trouble("Calm Heron is just starting or ending here. Try again in a moment.") from None
            yield self
            return
        self._bring_up()
        try:
            yield self
        finally:
            self.__exit__()

    def is_in_use(self) -> bool:
        """Whether a start, or another command, holds these data now."""
        with contextlib.suppress(OSError), (self.folder / "lock").open("r") as lock:
            try:
                fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
            except OSError:
                return True
        return False

    def made_by(self) -> int | None:
        """The major version of PostgreSQL that made the data; None where there are none yet."""
        try:
            return int((self.data / "PG_VERSION").read_text().split(".")[0])
        except (FileNotFoundError, NotADirectoryError):
            return None
        except PermissionError:
            raise Trouble(
                f"The data in {self.data} belong to another user. Start as that user, or keep data of your own elsewhere."
            ) from None
        except ValueError:
            raise Trouble(f"{self.data / 'PG_VERSION'} does not name a version of PostgreSQL; these data cannot be opened.") from None

    def environment(self) -> dict[str, str]:
        """What the application reads to find this cluster, as its own role."""
        return {
            "CALM_HERON_DATABASE_PORT": str(self.port),
            "CALM_HERON_DATABASE_USER": ROLE,
            "CALM_HERON_DATABASE_PASSWORD": self.role_password,
            "CALM_HERON_SECRET_KEY": self.secret("secret-key"),
        }

    def owner_environment(self) -> dict[str, str]:
        """The same as the owner, who alone may change the form of tables."""
        return self.environment() | {"CALM_HERON_DATABASE_USER": OWNER, "CALM_HERON_DATABASE_PASSWORD": self.password}

    def connect(self, database: str = "postgres") -> psycopg.Connection:
        return psycopg.connect(
            host="127.0.0.1", port=self.port, user=OWNER, password=self.password, dbname=database, connect_timeout=20, autocommit=True
        )

    def databases(self) -> list[str]:
        with self.connect() as connection:
            return [name for (name,) in connection.execute("SELECT datname FROM pg_database WHERE NOT datistemplate ORDER BY 1")]

    @contextlib.contextmanager
    def filler(self, database: str) -> Iterator[dict[str, str]]:
        """A new database that a role of its own fills, which can do nothing elsewhere; yields how a client program signs in as that role.
        Afterwards all of it is the owner's, and the role is gone.
        """
        password = secrets.token_urlsafe(24)
        role = sql.Identifier(FILLER)
        with self.connect() as connection:
            self._forget_filler()
            connection.execute(
                sql.SQL("CREATE ROLE {} LOGIN NOSUPERUSER NOCREATEDB NOCREATEROLE NOREPLICATION PASSWORD {}").format(
                    role, sql.Literal(password)
                )
            )
            connection.execute(sql.SQL("CREATE DATABASE {} OWNER {}").format(sql.Identifier(database), role))
        try:
            yield {"PGUSER": FILLER, "PGPASSWORD": password, "PGDATABASE": database}
            with self.connect(database) as connection:
                connection.execute(sql.SQL("REASSIGN OWNED BY {} TO {}").format(role, sql.Identifier(OWNER)))
        except BaseException:
            self.drop_database(database)
            raise
        finally:
            self._forget_filler()

    def create_database(self, name: str = DATABASE) -> None:
        if name not in self.databases():
            with self.connect() as connection:
                connection.execute(sql.SQL("CREATE DATABASE {}").format(sql.Identifier(name)))

    def drop_database(self, name: str) -> None:
        with self.connect() as connection:
            connection.execute(sql.SQL("DROP DATABASE IF EXISTS {} WITH (FORCE)").format(sql.Identifier(name)))

    def rename_database(self, name: str, to: str) -> None:
        with self.connect() as connection:
            connection.execute(sql.SQL("ALTER DATABASE {} RENAME TO {}").format(sql.Identifier(name), sql.Identifier(to)))

    def client(self, program: str, *arguments: str, **how: Any) -> subprocess.CompletedProcess[bytes]:
        """Run one of PostgreSQL's client programs as the owner; what it prints as errors is kept."""
        return subprocess.run(
            [str(self.programs / program), "--no-password", *arguments],
            env=self.client_environment(),
            stdin=subprocess.DEVNULL,
            stderr=subprocess.PIPE,
            **how,
        )

    def client_environment(self) -> dict[str, str]:
        """How client programs find this cluster and sign in as its owner."""
        return os.environ | {"PGHOST": "127.0.0.1", "PGPORT": str(self.port), "PGUSER": OWNER, "PGPASSWORD": self.password}

    def is_alive(self) -> bool:
        """Whether the server's process is there."""
        return runs(self._postmaster()[0])

    def start_again(self) -> None:
        """After the server has died: start it on the same port, or another where that is taken by now."""
        self._start(self.port)

    def stop(self) -> None:
        if (self.data / "postmaster.pid").exists():
            self._run("pg_ctl", "-D", str(self.data), "-m", "fast", "-w", "-t", "30", "stop")

    def set_aside(self) -> Path:
        """Put the data of a stopped cluster beside its place, so that the next start makes new ones; returns where they are."""
        name = f"data.{self.made_by()}"
        aside = next(
            path for number in itertools.count(1) if not (path := self.folder / (name if number == 1 else f"{name}-{number}")).exists()
        )
        self.data.rename(aside)
        return aside

    def take_back(self, aside: Path) -> None:
        """Put data that were set aside back in their place."""
        shutil.rmtree(self.data, ignore_errors=True)
        aside.rename(self.data)

    def secret(self, name: str) -> str:
        """A secret of this installation by its name, made when it is first asked for."""
        file = self.folder / name
        if not file.exists():
            self.keep_secret(name, secrets.token_urlsafe(48))
        return file.read_text().strip()

    def keep_secret(self, name: str, value: str) -> None:
        file = self.folder / name
        file.touch(mode=0o600)
        file.write_text(value)

    # -- inside

    def _forget_filler(self) -> None:
        with self.connect() as connection:
            if connection.execute("SELECT 1 FROM pg_roles WHERE rolname = %s", [FILLER]).fetchone():
                owned = "SELECT datname FROM pg_database JOIN pg_roles ON pg_roles.oid = datdba WHERE rolname = %s"
                for (left,) in connection.execute(owned, [FILLER]).fetchall():
                    self.drop_database(left)
                connection.execute(sql.SQL("DROP ROLE {}").format(sql.Identifier(FILLER)))

    def _make_ready(self) -> None:
        """What must be there before the lock: the programs that suit the data, and the folder."""
        self.programs = need_postgres(self.made_by())
        try:
            self.folder.mkdir(parents=True, exist_ok=True)
            self.logs.mkdir(exist_ok=True)
            if is_root():
                for folder in (self.folder.parent.parent, self.folder.parent, self.folder):
                    folder.chmod(folder.stat().st_mode | 0o055)
                shutil.chown(self.logs, "postgres", "postgres")
        except OSError as error:
            raise Trouble(
                f"The data folder {self.folder} cannot be made ({error.strerror}). "
                "Free some space or give this user the right to write there, then start again."
            ) from None

    def _free_lock(self) -> None:
        if self._lock is not None:
            self._lock.close()

    def _take_lock(self) -> None:
        self._lock = (self.folder / "lock").open("w")
        try:
            fcntl.flock(self._lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            raise Trouble(
                "Calm Heron already runs from this folder. Use the one that is running, "
                "or end it with Ctrl-C in its window and start again."
            ) from None

    def _read_passwords(self) -> None:
        self.password, self.role_password = self.secret("password"), self.secret("role-password")

    def _initialise(self) -> None:
        """Make the cluster beside its final place and move it there whole: a start that is cut short leaves nothing half-made."""
        unfinished = self.folder / "data.unfinished"
        shutil.rmtree(unfinished, ignore_errors=True)
        unfinished.mkdir(mode=0o700)
        password = self.secret("password")
        # initdb runs as another user when we are root, so the password goes through a file that user owns.
        handed_over = self.logs / "password"
        handed_over.touch(mode=0o600)
        handed_over.write_text(password)
        if is_root():
            shutil.chown(unfinished, "postgres", "postgres")
            shutil.chown(handed_over, "postgres", "postgres")
        done = self._run(
            "initdb",
            "-D",
            str(unfinished),
            "-U",
            OWNER,
            "-A",
            "scram-sha-256",
            f"--pwfile={handed_over}",
            "-E",
            "UTF8",
            "--locale=C.UTF-8",
            *([] if self.durable else ["--no-sync"]),
        )
        handed_over.unlink()
        if done.returncode:
            raise Trouble(f"PostgreSQL could not make its data folder: {done.stderr.strip()[-300:]}")
        unfinished.rename(self.data)

    def _start(self, port: int = 0) -> None:
        if self._adopt_running():
            return
        settings = (
            "-c listen_addresses=127.0.0.1 -c unix_socket_directories='' -c max_connections=120"
            # A log for each day of the week, each written over a week later.
            f" -c logging_collector=on -c log_directory='{self.logs}' -c log_filename=%a.log -c log_truncate_on_rotation=on"
            " -c log_rotation_age=1d -c log_rotation_size=0"
            # Our queries are many and short: compiling one takes longer than it would save.
            " -c jit=off"
        )
        if not self.durable:
            settings += (
                " -c fsync=off -c synchronous_commit=off -c full_page_writes=off -c autovacuum=off -c wal_level=minimal -c"
                " max_wal_senders=0"
            )
            settings += " -c max_parallel_workers_per_gather=0 -c track_activities=off -c track_counts=off"
        for attempt in range(8):
            self.port = port if port and attempt < 5 else free_port()
            self._forget_dead()
            self._run(
                "pg_ctl",
                "-D",
                str(self.data),
                "-l",
                str(self.logs / "starting.log"),
                "-w",
                "-t",
                "60",
                "-o",
                f"-p {self.port} {settings}",
                "start",
            )
            # pg_ctl may say "running" when it is not: only a connection counts.
            if self._answers():
                return
            # The last processes of a server that was killed may still be leaving.
            time.sleep(0.2 * attempt)
        raise Trouble(f"PostgreSQL does not start. Its log ends:\n{self._end_of_log()}\nYour data are untouched in {self.data}.")

    def _forget_dead(self) -> None:
        """Take away the lock file of a server that has died and whose last process has gone. PostgreSQL heeds it as long as its number is
        taken, and in some containers nobody takes notice of the dead."""
        pid, _port = self._postmaster()
        if pid and not runs(pid) and not any_in(self.data):
            (self.data / "postmaster.pid").unlink(missing_ok=True)

    def _end_of_log(self) -> str:
        newest = sorted(self.logs.glob("*.log"), key=lambda file: file.stat().st_mtime)[-2:]
        return "".join(file.read_text(errors="replace")[-500:] for file in newest).strip()

    def _adopt_running(self) -> bool:
        """A server left over from a start that was killed is taken over, and stopped by us in the end."""
        pid, port = self._postmaster()
        if not runs(pid):
            return False
        self.port = port
        return self._answers(seconds=1)

    def _postmaster(self) -> tuple[int, int]:
        """The server's process and port as it wrote them down; zeros where it did not."""
        try:
            lines = (self.data / "postmaster.pid").read_text().splitlines()
            return int(lines[0]), int(lines[3])
        except (OSError, IndexError, ValueError):
            return 0, 0

    def _answers(self, seconds: float = 10) -> bool:
        end = time.monotonic() + seconds
        while True:
            try:
                with self.connect():
                    return True
            except psycopg.OperationalError:
                # A server that has died leaves its file behind.
                if time.monotonic() > end or not self.is_alive():
                    return False
                time.sleep(0.1)

    def _make_role(self) -> None:
        """The application's role: it signs in and is nothing more."""
        with self.connect() as connection:
            there = connection.execute("SELECT 1 FROM pg_roles WHERE rolname = %s", [ROLE]).fetchone()
            connection.execute(
                sql.SQL("{} ROLE {} LOGIN NOSUPERUSER NOCREATEDB NOCREATEROLE NOREPLICATION PASSWORD {}").format(
                    sql.SQL("ALTER" if there else "CREATE"), sql.Identifier(ROLE), sql.Literal(self.role_password)
                )
            )

    def _run(self, program: str, *arguments: str) -> subprocess.CompletedProcess[str]:
        command = [str(self.programs / program), *arguments]
        if is_root():
            command = ["runuser", "-u", "postgres", "--", *command]
        # Output to a file handle that the server may inherit would keep us waiting for it: only errors are read, and not from start.
        errors = subprocess.DEVNULL if program == "pg_ctl" else subprocess.PIPE
        return subprocess.run(
            command, cwd="/", stdin=subprocess.DEVNULL, stdout=subprocess.DEVNULL, stderr=errors, text=True, start_new_session=True
        )
