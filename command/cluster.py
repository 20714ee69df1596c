"""A private PostgreSQL on loopback, its data outside the checkout, started and stopped by us alone."""

import fcntl
import hashlib
import os
import secrets
import shutil
import socket
import subprocess
import time
from pathlib import Path

import psycopg

from command.machine import ROOT, is_root, need_postgres
from command.trouble import Trouble

USER = "calm_heron"
DATABASE = "calm_heron"


def state_folder() -> Path:
    """Where this checkout keeps its data: one folder per checkout, so that two do not share."""
    identity = f"{ROOT.name}-{hashlib.sha256(str(ROOT).encode()).hexdigest()[:8]}"
    if is_root():
        # Not below a home folder: PostgreSQL runs as its own user and must be able to walk the path.
        base = Path("/var/lib")
    else:
        base = Path(os.environ.get("XDG_STATE_HOME") or Path.home() / ".local" / "state")
    return base / "calm-heron" / identity


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return probe.getsockname()[1]


class Cluster:
    """One PostgreSQL cluster, by name: ``work`` keeps people's data, ``test`` may be thrown away."""

    def __init__(self, name: str, *, durable: bool = True) -> None:
        self.folder = state_folder() / name
        self.data = self.folder / "data"
        self.log = self.folder / "log" / "postgresql.log"
        self.durable = durable
        self.programs = need_postgres()
        self.port = 0
        self._lock = None

    def __enter__(self) -> "Cluster":
        self._make_folder()
        self._take_lock()
        if not self.data.exists():
            self._initialise()
        self.password = (self.folder / "password").read_text().strip()
        try:
            self._start()
        except BaseException:
            self.__exit__()
            raise
        return self

    def __exit__(self, *_) -> None:
        self.stop()
        # Closing the file lets go of the lock.
        self._lock.close()

    def environment(self) -> dict[str, str]:
        """What the application reads to find this cluster."""
        return {
            "CALM_HERON_DATABASE_PORT": str(self.port),
            "CALM_HERON_DATABASE_PASSWORD": self.password,
            "CALM_HERON_SECRET_KEY": self._secret("secret-key"),
        }

    def connect(self, database: str = "postgres") -> psycopg.Connection:
        return psycopg.connect(
            host="127.0.0.1", port=self.port, user=USER, password=self.password, dbname=database,
            connect_timeout=20, autocommit=True,
        )  # fmt: skip

    def create_database(self, name: str = DATABASE) -> None:
        with self.connect() as connection:
            if not connection.execute("SELECT 1 FROM pg_database WHERE datname = %s", [name]).fetchone():
                connection.execute(f'CREATE DATABASE "{name}"')

    def drop_database(self, name: str) -> None:
        with self.connect() as connection:
            connection.execute(f'DROP DATABASE IF EXISTS "{name}" WITH (FORCE)')

    def stop(self) -> None:
        if (self.data / "postmaster.pid").exists():
            self._run("pg_ctl", "-D", str(self.data), "-m", "fast", "-w", "-t", "30", "stop")

    # -- inside

    def _make_folder(self) -> None:
        try:
            self.folder.mkdir(parents=True, exist_ok=True)
            self.log.parent.mkdir(exist_ok=True)
        except OSError as error:
            raise Trouble(
                f"The data folder {self.folder} cannot be made ({error.strerror}). "
                "Free some space or give this user the right to write there, then start again."
            ) from None
        if is_root():
            for folder in (state_folder().parent, state_folder(), self.folder):
                folder.chmod(0o755)
            shutil.chown(self.log.parent, "postgres", "postgres")

    def _take_lock(self) -> None:
        self._lock = (self.folder / "lock").open("w")
        try:
            fcntl.flock(self._lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            raise Trouble(
                "Calm Heron already runs from this folder. Use the one that is running, "
                "or end it with Ctrl-C in its window and start again."
            ) from None

    def _secret(self, name: str) -> str:
        file = self.folder / name
        if not file.exists():
            file.touch(mode=0o600)
            file.write_text(secrets.token_urlsafe(48))
        return file.read_text().strip()

    def _initialise(self) -> None:
        """Make the cluster beside its final place and move it there whole: a start that is cut short leaves nothing half-made."""
        unfinished = self.folder / "data.unfinished"
        shutil.rmtree(unfinished, ignore_errors=True)
        unfinished.mkdir(mode=0o700)
        password = self._secret("password")
        # initdb runs as another user when we are root, so the password goes through a file that user owns.
        handed_over = self.log.parent / "password"
        handed_over.touch(mode=0o600)
        handed_over.write_text(password)
        if is_root():
            shutil.chown(unfinished, "postgres", "postgres")
            shutil.chown(handed_over, "postgres", "postgres")
        done = self._run(
            "initdb", "-D", str(unfinished), "-U", USER, "-A", "scram-sha-256", f"--pwfile={handed_over}",
            "-E", "UTF8", "--locale=C.UTF-8",
        )  # fmt: skip
        handed_over.unlink()
        if done.returncode:
            raise Trouble(f"PostgreSQL could not make its data folder: {done.stderr.strip()[-300:]}")
        unfinished.rename(self.data)

    def _start(self) -> None:
        if self._adopt_running():
            return
        settings = "-c listen_addresses=127.0.0.1 -c unix_socket_directories='' -c max_connections=60"
        if not self.durable:
            settings += " -c fsync=off -c synchronous_commit=off -c full_page_writes=off"
        for _ in range(5):
            self.port = free_port()
            self._run(
                "pg_ctl", "-D", str(self.data), "-l", str(self.log), "-w", "-t", "60",
                "-o", f"-p {self.port} {settings}", "start",
            )  # fmt: skip
            # pg_ctl may say "running" when it is not: only a connection counts.
            if self._answers():
                return
        tail = self.log.read_text(errors="replace")[-400:] if self.log.exists() else ""
        raise Trouble(f"PostgreSQL does not start; its log {self.log} ends:\n{tail}\nYour data are untouched in {self.data}.")

    def _adopt_running(self) -> bool:
        """A server left over from a start that was killed is taken over, and stopped by us in the end."""
        try:
            lines = (self.data / "postmaster.pid").read_text().splitlines()
            self.port = int(lines[3])
        except (OSError, IndexError, ValueError):
            return False
        return self._answers(seconds=1)

    def _answers(self, seconds: float = 10) -> bool:
        end = time.monotonic() + seconds
        while True:
            try:
                with self.connect():
                    return True
            except psycopg.OperationalError:
                if time.monotonic() > end or not (self.data / "postmaster.pid").exists():
                    return False
                time.sleep(0.1)

    def _run(self, program: str, *arguments: str) -> subprocess.CompletedProcess:
        command = [str(self.programs / program), *arguments]
        if is_root():
            command = ["runuser", "-u", "postgres", "--", *command]
        # Output to a file handle that the server may inherit would keep us waiting for it: only errors are read, and not from start.
        errors = subprocess.DEVNULL if program == "pg_ctl" else subprocess.PIPE
        return subprocess.run(
            command, cwd="/", stdin=subprocess.DEVNULL, stdout=subprocess.DEVNULL, stderr=errors, text=True,
            start_new_session=True,
        )  # fmt: skip
